package e2e

import (
	"context"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"hexachord/core/sound"
	"hexachord/format/wav"
)

// On a disk that takes no more (files may not grow: what a limit of the system refuses is refused like what a full disk does) every
// edit that was acknowledged is kept, the others are refused with what to do, in the window too, nothing half-written stays, and with
// room again everything goes on where it was.
func TestAFullDiskLosesNothing(t *testing.T) {
	dir := t.TempDir()
	b := start(t, dir)
	id := b.firstProject()
	b.stop()

	b = start(t, dir, "sh", "-c", `ulimit -f 1400; exec "$@"`, "sh") // in 512 bytes
	var p struct {
		Revision float64
		Patterns []struct{ ID string }
	}
	b.getJSON("api/v1/projects/"+id, &p)
	had := len(b.patterns(id)[0].Hits)
	edit := func(tick int) (int, error) {
		body, err := json.Marshal(map[string]any{"revision": p.Revision, "edits": []any{map[string]any{"pattern": map[string]any{"id": p.Patterns[0].ID, "edit": map[string]any{
			"hits": map[string]any{"put": []any{map[string]any{"note": 36, "tick": tick, "velocity": 100, "length": 0, "split": 0, "slope": 0}}}}}}}})
		if err != nil {
			t.Fatal(err)
		}
		return send(context.Background(), "POST", b.address+"api/v1/projects/"+id+"/edits", "application/json", body, &p)
	}
	made, status := 0, 200
	var err error
	for ; made < 2000; made++ {
		if status, err = edit(1 + made); status != 200 {
			break
		}
	}
	if status != 507 || !strings.Contains(err.Error(), "The disk is full") || !strings.Contains(err.Error(), "make room") || strings.Contains(err.Error(), dir) {
		t.Fatalf("after %d edits: %v", made, err)
	}
	if got := len(b.patterns(id)[0].Hits); got != had+made {
		t.Errorf("%d hits are heard of after %d and %d edits", got, had, made)
	}
	long := sound.New(48000, 1, 48000*10)
	for i := range long.Channels[0] {
		long.Channels[0][i] = float32(i%97)/97 - 0.5
	}
	data, err := wav.Encode(long, wav.PCM24)
	if err != nil {
		t.Fatal(err)
	}
	body, kind := asFile(t, "long.wav", data)
	var said struct {
		Reports []struct{ Status, Detail string }
	}
	if _, err := send(context.Background(), "POST", b.address+"api/v1/samples", kind, body, &said); err != nil || said.Reports[0].Status != "refused" ||
		!strings.Contains(said.Reports[0].Detail, "the disk is full") || strings.Contains(said.Reports[0].Detail, dir) {
		t.Errorf("a sample: %+v %v", said, err)
	}
	w := browse(t, b.address)

	w.key("]")
	w.key("m")
	w.until("the window says so", `document.body.textContent.includes('The disk is full')`)
	_ = b.cmd.Process.Signal(syscall.SIGTERM)
	_ = b.cmd.Wait() // it may say at the end that it could not make the day's copy
	if left, _ := filepath.Glob(filepath.Join(dir, "audio", "*", "new-*")); len(left) > 0 {
		t.Errorf("left half-written: %v", left)
	}

	b = start(t, dir)
	soundDatabase(t, dir)
	if got := len(b.patterns(id)[0].Hits); got != had+made {
		t.Errorf("with room again there are %d hits of %d", got, had+made)
	}
	b.getJSON("api/v1/projects/"+id, &p)
	if status, err := edit(1900); status != 200 {
		t.Errorf("with room again: %v", err)
	}
}

// A folder that cannot be written is said at the start, with what to do, and is not called damaged.
func TestAFolderThatCannotBeWritten(t *testing.T) {
	full := filepath.Join(t.TempDir(), "b")
	if err := os.MkdirAll(full, 0o700); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		dir, want string
		by        []string
	}{
		"nowhere": {"/proc/hexachord", "choose another with --data", nil},
		"no room": {full, "the data folder cannot be written", []string{"sh", "-c", `ulimit -f 8; exec "$@"`, "sh"}},
	} {
		by := append(c.by, bin(t), "serve", "--addr", "127.0.0.1:0", "--data", c.dir)
		out, err := exec.Command(by[0], by[1:]...).CombinedOutput()
		if err == nil || !strings.Contains(string(out), c.want) || strings.Contains(string(out), "damaged") {
			t.Errorf("%s: %v %s", name, err, out)
		}
	}
}
