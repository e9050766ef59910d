package store

import (
	"errors"
	"os"
	"path/filepath"
	"testing"
)

// drive stands in for a disk that forgets, when the power is cut, whatever was not brought to it: contents that were not synchronised, and names
// in folders that were not. Steps are counted; at the cut and after it every step fails.
type drive struct {
	cut     int // the step at which the power goes; none when negative
	steps   int
	content map[string]bool // paths whose content is there for good
	names   map[string]bool // paths, of files and folders, whose names are
	during  func()          // called at every step
}

var errPower = errors.New("the power is cut")

func (d *drive) step() error {
	d.during()
	d.steps++
	if d.cut >= 0 && d.steps > d.cut {
		return errPower
	}
	return nil
}

// on lets the store write to the drive until the test ends.
func (d *drive) on(t *testing.T) {
	was := onDisk
	t.Cleanup(func() { onDisk = was })
	onDisk.sync = func(f *os.File) error {
		if err := d.step(); err != nil {
			return err
		}
		d.content[f.Name()] = true
		return f.Sync()
	}
	onDisk.rename = func(from, to string) error {
		if err := d.step(); err != nil {
			return err
		}
		d.content[to] = d.content[from]
		return os.Rename(from, to)
	}
	onDisk.syncFolder = func(dir string) error {
		if err := d.step(); err != nil {
			return err
		}
		entries, err := os.ReadDir(dir)
		for _, e := range entries {
			d.names[filepath.Join(dir, e.Name())] = true
		}
		return err
	}
}

// forget does to the audio of a data folder what the cut does.
func (d *drive) forget(t *testing.T, dir string) {
	folders, err := filepath.Glob(filepath.Join(dir, "audio", "*"))
	if err != nil {
		t.Fatal(err)
	}
	for _, folder := range folders {
		files, err := filepath.Glob(filepath.Join(folder, "*"))
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range files {
			switch {
			case !d.names[folder] || !d.names[f]:
				err = os.Remove(f)
			case !d.content[f]:
				err = os.Truncate(f, 0)
			}
			if err != nil {
				t.Fatal(err)
			}
		}
		if !d.names[folder] {
			if err := os.Remove(folder); err != nil {
				t.Fatal(err)
			}
		}
	}
}

// The power is cut at each step of an import in turn: what was acknowledged is there whole, no row names audio that is not, and the same
// import goes through afterwards.
func TestThePowerIsCutWhileImporting(t *testing.T) {
	sound := []byte("a sound of some length")
	hash := HashOf(sound)
	for cut := 0; ; cut++ {
		dir := t.TempDir()
		s, err := Open(dir)
		if err != nil {
			t.Fatal(err)
		}
		hasRow := func() bool {
			names, err := s.AudioNames()
			if err != nil {
				t.Fatal(err)
			}
			return names[hash] != ""
		}
		d := &drive{cut: cut, content: map[string]bool{}, names: map[string]bool{}, during: func() {
			if hasRow() {
				t.Errorf("cut at step %d: the row is there before its audio is on the disk", cut)
			}
		}}
		d.on(t)
		_, err = s.PutAudio(sound, AudioInfo{Name: "a.wav", Rate: 44100})
		acknowledged := err == nil
		if err != nil && !errors.Is(err, errPower) {
			t.Fatal(err)
		}
		if err := s.Close(); err != nil {
			t.Fatal(err)
		}
		d.forget(t, dir)
		d.cut, d.during = -1, func() {}
		if s, err = Open(dir); err != nil {
			t.Fatalf("cut at step %d: %v", cut, err)
		}
		data, _, err := s.Audio(hash)
		if acknowledged && string(data) != string(sound) {
			t.Errorf("cut at step %d, after it was acknowledged: %q, %v", cut, data, err)
		}
		if hasRow() != acknowledged {
			t.Errorf("cut at step %d: acknowledged is %v, the row is there is %v", cut, acknowledged, hasRow())
		}
		if _, err := s.PutAudio(sound, AudioInfo{Name: "a.wav", Rate: 44100}); err != nil {
			t.Errorf("cut at step %d, imported again: %v", cut, err)
		}
		if data, _, err := s.Audio(hash); err != nil || string(data) != string(sound) {
			t.Errorf("cut at step %d, imported again: %q, %v", cut, data, err)
		}
		if err := s.Close(); err != nil {
			t.Fatal(err)
		}
		if acknowledged {
			if d.steps < 4 {
				t.Errorf("an import brings itself to the disk in %d steps", d.steps)
			}
			return
		}
	}
}
