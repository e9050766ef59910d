package e2e

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// The Debian package holds the program, its licences and its place in menus, installs into a folder and runs from there; made twice it is
// the same to the byte.
func TestTheDebianPackage(t *testing.T) {
	if os.Getuid() != 0 {
		t.Log("dpkg installs as root alone: only its contents are looked at")
	}
	var made [2]string
	for i := range made {
		out := t.TempDir()
		cmd := exec.Command("sh", "../packaging/deb.sh", bin(t), "v1.2.3", "amd64", out)
		cmd.Env = append(os.Environ(), "SOURCE_DATE_EPOCH=1796000000")
		if text, err := cmd.CombinedOutput(); err != nil {
			t.Fatalf("%v %s", err, text)
		}
		made[i] = filepath.Join(out, "hexachord_1.2.3_amd64.deb")
	}
	var bytes [2]string
	for i, path := range made {
		data, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		bytes[i] = string(data)
	}
	if bytes[0] != bytes[1] {
		t.Error("made twice it is not the same")
	}
	list, err := exec.Command("dpkg-deb", "--contents", made[0]).CombinedOutput()
	if err != nil {
		t.Fatalf("%v %s", err, list)
	}
	for _, want := range []string{"./usr/bin/hexachord", "./usr/share/doc/hexachord/copyright", "./usr/share/applications/hexachord.desktop", "./usr/share/icons/hicolor/scalable/apps/hexachord.svg"} {
		if !strings.Contains(string(list), want) {
			t.Errorf("it lacks %s", want)
		}
	}
	root := t.TempDir()
	if os.Getuid() == 0 {
		if err := os.MkdirAll(filepath.Join(root, "var/lib/dpkg/info"), 0o755); err != nil {
			t.Fatal(err)
		}
		for _, f := range []string{"var/lib/dpkg/status", "var/lib/dpkg/available"} {
			if err := os.WriteFile(filepath.Join(root, f), nil, 0o644); err != nil {
				t.Fatal(err)
			}
		}
		if text, err := exec.Command("dpkg", "--root="+root, "--force-architecture", "--install", made[0]).CombinedOutput(); err != nil {
			t.Fatalf("dpkg: %v %s", err, text)
		}
	} else if text, err := exec.Command("dpkg-deb", "--extract", made[0], root).CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, text)
	}
	if said, err := exec.Command(filepath.Join(root, "usr/bin/hexachord"), "version").CombinedOutput(); err != nil || len(said) < 2 {
		t.Errorf("installed it says %s %v", said, err)
	}
}
