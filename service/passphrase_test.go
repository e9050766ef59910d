package service

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// A passphrase is kept as a hash that only its owner reads, is changed and taken away, and short ones are refused with what is there
// before untouched.
func TestPassphrase(t *testing.T) {
	dir := t.TempDir()
	is := func(words string) bool {
		t.Helper()
		ok, err := IsPassphrase(dir, words)
		if err != nil {
			t.Fatal(err)
		}
		return ok
	}
	if is("") || is("anything") {
		t.Error("without a passphrase something is it")
	}
	if err := SetPassphrase(dir, "first words here"); err != nil {
		t.Fatal(err)
	}
	for _, bad := range []string{"seven77", strings.Repeat("x", 201), "two\nlines here"} {
		if err := SetPassphrase(dir, bad); !errors.Is(err, ErrPassphrase) {
			t.Errorf("%q: %v", bad, err)
		}
	}
	if !is("first words here") || is("first words her") || is("") {
		t.Error("it is not told from others")
	}
	path := filepath.Join(dir, passphraseFile)
	data, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	if facts, err := os.Stat(path); err != nil || facts.Mode().Perm() != 0o600 || !strings.HasPrefix(string(data), "$argon2id$v=19$m=65536,t=3,p=4$") || strings.Contains(string(data), "words") {
		t.Errorf("kept as %s %v", data, err)
	}
	if err := SetPassphrase(dir, "sécond wörds"); err != nil || is("first words here") || !is("sécond wörds") {
		t.Errorf("changed: %v", err)
	}
	if err := os.WriteFile(path, []byte("damaged"), 0o600); err != nil {
		t.Fatal(err)
	}
	if ok, err := IsPassphrase(dir, "sécond wörds"); ok || err == nil || !strings.Contains(err.Error(), "hexachord passphrase") {
		t.Errorf("damaged: %v %v", ok, err)
	}
	if err := SetPassphrase(dir, ""); err != nil || is("sécond wörds") {
		t.Errorf("taken away: %v", err)
	}
}
