package store

import (
	"archive/zip"
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"gorm.io/gorm"

	"hexachord/core/project"
	"hexachord/core/shelf"
)

// day is a moment on a day of November.
func day(n int) time.Time { return time.Date(2026, 11, n, 12, 0, 0, 0, time.UTC) }

func aProject(t *testing.T, s *Store, name string) {
	t.Helper()
	if _, err := s.CreateProject(name, world{}, func(d *project.Draft) error { return d.PutSettings(project.NewSettings()) }); err != nil {
		t.Fatal(err)
	}
}

func keepCopy(t *testing.T, s *Store, at time.Time, daily bool) bool {
	t.Helper()
	made, err := s.KeepCopy(at, daily)
	if err != nil {
		t.Fatal(err)
	}
	return made
}

// A copy is made once a day, when something changed; seven are kept, and a clock that goes backwards does not make the newest the oldest.
func TestDailyCopies(t *testing.T) {
	dir := t.TempDir()
	s := openAt(t, dir)
	aProject(t, s, "one")
	if !keepCopy(t, s, day(1), true) || keepCopy(t, s, day(1), true) {
		t.Error("the first day has one copy")
	}
	if keepCopy(t, s, day(2), true) {
		t.Error("a copy of a day on which nothing changed")
	}
	for n := 3; n < 12; n++ {
		aProject(t, s, "more")
		if !keepCopy(t, s, day(n), true) {
			t.Errorf("no copy on day %d", n)
		}
	}
	aProject(t, s, "backwards")
	if !keepCopy(t, s, day(2), true) {
		t.Error("no copy once the clock went backwards")
	}
	copies, err := Copies(dir)
	if err != nil || len(copies) != MostCopies || copies[0].Day != "2026-11-02" || copies[1].Day != "2026-11-11" {
		t.Errorf("%d copies, %+v, %v", len(copies), copies, err)
	}
	for _, c := range copies {
		if err := whole(c.Path); err != nil {
			t.Errorf("%s: %v", c.Path, err)
		}
		if facts, err := os.Stat(c.Path); err != nil || facts.Mode().Perm() != 0o600 {
			t.Errorf("%s is open to others", c.Path)
		}
	}
}

// A copy is made while somebody writes: neither waits for the other.
func TestACopyKeepsNobodyWaiting(t *testing.T) {
	s := openAt(t, t.TempDir())
	aProject(t, s, "one")
	made := make(chan error, 1)
	if err := s.change(func(*gorm.DB) error { // as long as this lasts, nobody else can write
		go func() {
			_, err := s.KeepCopy(day(1), true)
			made <- err
		}()
		select {
		case err := <-made:
			made <- err
			return err
		case <-time.After(10 * time.Second):
			return errors.New("the copy waits for a writer")
		}
	}); err != nil {
		t.Fatal(err)
	}
	if err := <-made; err != nil {
		t.Error(err)
	}
}

// A damaged database is told with what brings it back; the newest copy that can be read takes its place, what was there is put aside, and
// a folder in use is left alone.
func TestADamagedDatabaseIsBroughtBack(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	aProject(t, s, "kept")
	keepCopy(t, s, day(1), true)
	aProject(t, s, "in a copy that is damaged too")
	keepCopy(t, s, day(2), true)
	if _, _, err := BringBack(dir, day(3)); !errors.Is(err, ErrInUse) {
		t.Errorf("while it is open: %v", err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	copies, err := Copies(dir)
	if err != nil || len(copies) != 2 {
		t.Fatal(copies, err)
	}
	spoil := func(path string) []byte {
		data, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		for i := 4096; i < len(data); i++ {
			data[i] = 0x5a
		}
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
		return data
	}
	spoil(copies[0].Path)
	spoilt := spoil(filepath.Join(dir, databaseName))
	_, err = Open(dir)
	if !errors.Is(err, ErrDamaged) || !strings.Contains(err.Error(), "restore --newest") || !strings.Contains(err.Error(), "2026-11-01") {
		t.Fatalf("damaged: %v", err)
	}
	from, aside, err := BringBack(dir, day(3))
	if err != nil || from.Day != "2026-11-01" {
		t.Fatal(from, err)
	}
	if data, err := os.ReadFile(filepath.Join(dir, aside)); err != nil || !bytes.Equal(data, spoilt) {
		t.Errorf("what was there is not put aside: %v", err)
	}
	if s, err = Open(dir); err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if all, err := s.Projects(); err != nil || len(all) != 1 || all[0].Name != "kept" {
		t.Errorf("%+v %v", all, err)
	}
}

// Before an older folder is brought up to date its database is copied as it was.
func TestAMigrationIsCopiedBefore(t *testing.T) {
	dir := t.TempDir()
	oldFolder(t, dir, "6")
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	copies, err := Copies(dir)
	if err != nil || len(copies) != 1 {
		t.Fatalf("%d copies, %v", len(copies), err)
	}
	db, err := connect("file:"+copies[0].Path+"?mode=ro", 1)
	if err != nil {
		t.Fatal(err)
	}
	var version int
	if err := db.Raw("SELECT version FROM schema").Scan(&version).Error; err != nil || version != 6 {
		t.Errorf("the copy is of schema %d: %v", version, err)
	}
}

// A backup is made while the folder is in use and makes the same folder again: projects, history, audio. A backup that is damaged, cut off
// or holds a path of its own makes none.
func TestBackup(t *testing.T) {
	dir := t.TempDir()
	s := openAt(t, dir)
	aProject(t, s, "one")
	hash, err := s.PutAudio([]byte("a sound"), AudioInfo{Name: "a.wav", Rate: 44100})
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	b, err := Backup(dir, &out)
	if err != nil || b.Audio != 1 || b.Bytes != 7 || len(b.Missing) != 0 {
		t.Fatal(b, err)
	}
	aProject(t, s, "after it")
	file := filepath.Join(t.TempDir(), "b.zip")
	restore := func(data []byte) (string, error) {
		if err := os.WriteFile(file, data, 0o600); err != nil {
			t.Fatal(err)
		}
		to := filepath.Join(t.TempDir(), "restored")
		_, err := RestoreBackup(file, to)
		return to, err
	}
	to, err := restore(out.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	again, err := Open(to)
	if err != nil {
		t.Fatal(err)
	}
	if all, err := again.Projects(); err != nil || len(all) != 1 || all[0].Name != "one" {
		t.Errorf("%+v %v", all, err)
	}
	if data, info, err := again.Audio(hash); err != nil || string(data) != "a sound" || info.Name != "a.wav" {
		t.Errorf("%s %+v %v", data, info, err)
	}
	if err := again.Close(); err != nil {
		t.Fatal(err)
	}
	if _, err := RestoreBackup(file, to); err == nil || !strings.Contains(err.Error(), "not empty") {
		t.Errorf("over a folder that is there: %v", err)
	}
	other := func(change func(name string, data []byte) (string, []byte)) []byte {
		z, err := zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
		if err != nil {
			t.Fatal(err)
		}
		var b bytes.Buffer
		w := zip.NewWriter(&b)
		for _, f := range z.File {
			r, err := f.Open()
			if err != nil {
				t.Fatal(err)
			}
			var data bytes.Buffer
			if _, err := data.ReadFrom(r); err != nil {
				t.Fatal(err)
			}
			name, text := change(f.Name, data.Bytes())
			if name == "" {
				continue
			}
			p, err := w.Create(name)
			if err != nil {
				t.Fatal(err)
			}
			if _, err := p.Write(text); err != nil {
				t.Fatal(err)
			}
		}
		if err := w.Close(); err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	for what, data := range map[string][]byte{
		"no zip":  []byte("words"),
		"cut off": out.Bytes()[:out.Len()/2],
		"other audio": other(func(name string, data []byte) (string, []byte) {
			if strings.HasPrefix(name, "audio/") {
				data = []byte("another")
			}
			return name, data
		}),
		"a damaged database": other(func(name string, data []byte) (string, []byte) {
			if name == databaseName {
				data = append(append([]byte(nil), data[:5000]...), bytes.Repeat([]byte{0x5a}, len(data)-5000)...)
			}
			return name, data
		}),
		"no database": other(func(name string, data []byte) (string, []byte) {
			if name == databaseName {
				name = ""
			}
			return name, data
		}),
		"a path of its own": other(func(name string, data []byte) (string, []byte) {
			if name != databaseName {
				name = "../../elsewhere"
			}
			return name, data
		}),
	} {
		to, err := restore(data)
		if !errors.Is(err, ErrBackup) {
			t.Errorf("%s: %v", what, err)
		}
		if _, err := os.Stat(filepath.Join(to, databaseName)); err == nil {
			t.Errorf("%s leaves a folder that looks whole", what)
		}
	}
}

// Audio that goes with the trash lies beside the copies as long as one of them names it, so that a copy that is brought back sounds; what no copy
// names is gone at once.
func TestEmptiedAudioComesBackWithItsCopy(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	put := func(text string) string {
		hash, err := s.PutAudio([]byte(text), AudioInfo{Name: text, Rate: 44100})
		if err == nil {
			err = s.PutSamples([]shelf.Item{{Hash: hash, Name: text}})
		}
		if err != nil {
			t.Fatal(err)
		}
		return hash
	}
	before := put("before the copy")
	keepCopy(t, s, day(1), true)
	after := put("after the copy")
	if err := s.Trash(TrashSample, before, after); err != nil {
		t.Fatal(err)
	}
	if gone, err := s.EmptyTrash(); err != nil || len(gone) != 2 || s.HasAudio(before) || s.HasAudio(after) {
		t.Fatal(gone, err)
	}
	if hashes, err := beside(dir); err != nil || len(hashes) != 1 || hashes[0] != before {
		t.Errorf("beside the copies lie %v, %v", hashes, err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	if _, _, err := BringBack(dir, day(2)); err != nil {
		t.Fatal(err)
	}
	if s, err = Open(dir); err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if data, _, err := s.Audio(before); err != nil || string(data) != "before the copy" {
		t.Errorf("%q, %v", data, err)
	}
	if err := s.Trash(TrashSample, before); err != nil {
		t.Fatal(err)
	}
	if _, err := s.EmptyTrash(); err != nil {
		t.Fatal(err)
	}
	for n := range MostCopies + 1 { // until no copy names it
		if hashes, err := beside(dir); err != nil || (len(hashes) == 1) != (n < MostCopies) {
			t.Errorf("after %d more copies there lie %v, %v", n, hashes, err)
		}
		aProject(t, s, "more")
		keepCopy(t, s, day(3+n), true)
	}
}
