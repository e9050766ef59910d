package store

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/core/project"
	"hexachord/core/shelf"
)

// world is a world without samples.
type world struct{}

func (world) NewID() string                     { return NewID() }
func (world) Sample(string) (shelf.Item, error) { return shelf.Item{}, ErrNotFound }
func (world) HasAudio(string) bool              { return true }
func (world) Loudness(string) float64           { return -20 }
func (world) PeakDB(string) float64             { return -6 }

func openAt(t testing.TB, dir string) *Store {
	t.Helper()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// oldFolder makes a data folder as a past version left it.
func oldFolder(t *testing.T, dir, version string) {
	t.Helper()
	text, err := os.ReadFile(filepath.Join("testdata", "schema"+version+".sql"))
	if err != nil {
		t.Fatal(err)
	}
	db, err := gorm.Open(sqlite.Dialector{DriverName: "sqlite", DSN: filepath.Join(dir, databaseName)})
	if err != nil {
		t.Fatal(err)
	}
	pool, _ := db.DB()
	if _, err := pool.Exec(string(text)); err != nil {
		t.Fatal(err)
	}
	if err := pool.Close(); err != nil {
		t.Fatal(err)
	}
}

// A data folder of each past version opens, its projects as they were, and its history is taken back and done again.
func TestFoldersOfPastVersionsOpenAndUndo(t *testing.T) {
	for _, version := range []string{"1", "2", "3", "4", "5", "6", "7"} {
		t.Run("schema "+version, func(t *testing.T) {
			dir := t.TempDir()
			oldFolder(t, dir, version)
			s := openAt(t, dir)
			all, err := s.Projects()
			if err != nil || len(all) != 1 || all[0].Name != "Lock Seven" {
				t.Fatalf("%+v %v", all, err)
			}
			load := func() project.Project {
				p, err := s.Load(all[0].ID)
				if err != nil {
					t.Fatal(err)
				}
				return p
			}
			p := load()
			if err := errors.Join(p.Kit.Check(), p.Map.Check(), p.Settings.Check(), p.Patterns[0].Value.Check()); err != nil {
				t.Fatalf("what was carried forward cannot be used: %v", err)
			}
			pad, _ := p.Kit.Pad(38)
			if p.Settings.BPM != 101 || len(p.Patterns) != 3 || p.Undo != "New pattern third" || p.Redo != "Make an empty kit" || len(p.Kit.Pads) != 12 ||
				len(pad.Layers) != 4 || pad.Layers[0].Sounds[0].Takes[0].Sample == "" {
				t.Fatalf("%g BPM, %d patterns, undo %q, redo %q, %d pads, snare %+v", p.Settings.BPM, len(p.Patterns), p.Undo, p.Redo, len(p.Kit.Pads), pad)
			}
			kicks := len(p.Patterns[0].Value.Hits)
			for range 3 {
				if _, err := s.Undo(p.ID, load().Revision); err != nil {
					t.Fatal(err)
				}
			}
			if p = load(); p.Settings.BPM != 92 || len(p.Patterns) != 2 || len(p.Patterns[0].Value.Hits) != kicks-1 || p.Undo != "" {
				t.Errorf("all taken back: %g BPM, %d patterns, %d hits", p.Settings.BPM, len(p.Patterns), len(p.Patterns[0].Value.Hits))
			}
			if _, err := s.JumpTo(p.ID, p.Revision, 4); err != nil {
				t.Fatal(err)
			}
			if p = load(); len(p.Kit.Pads) != 0 || p.Settings.BPM != 101 || len(p.Patterns) != 3 {
				t.Errorf("all done again: %d pads, %g BPM, %d patterns", len(p.Kit.Pads), p.Settings.BPM, len(p.Patterns))
			}
			if _, err := s.Undo(p.ID, p.Revision); err != nil {
				t.Fatal(err)
			}
			if again, _ := load().Kit.Pad(38); len(again.Layers) != 4 || again.Layers[0].Sounds[0].Takes[0].Shape.SustainPct != 100 {
				t.Errorf("the kit that the history kept: %+v", again)
			}
		})
	}
}

// A second bench on the folder is refused with what can be done, and the first goes on; closed, the folder is free again.
func TestASecondBenchOnTheFolderIsRefused(t *testing.T) {
	dir := t.TempDir()
	s := openAt(t, dir)
	if _, err := Open(dir); !errors.Is(err, ErrInUse) || !strings.Contains(err.Error(), "--data") {
		t.Errorf("a second one: %v", err)
	}
	if _, err := s.Projects(); err != nil {
		t.Error(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	openAt(t, dir)
}

// A damaged database is said at the start, with what can be done; nothing of the folder is touched.
func TestADamagedDatabaseIsSaidAtTheStart(t *testing.T) {
	dir := t.TempDir()
	s := openAt(t, dir)
	if _, err := s.CreateProject("p", world{}, func(d *project.Draft) error { return d.PutSettings(project.NewSettings()) }); err != nil {
		t.Fatal(err)
	}
	hash, err := s.PutAudio([]byte("sound"), AudioInfo{Name: "a.wav"})
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(dir, databaseName)
	whole, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	for name, spoil := range map[string]func([]byte){
		"its head":   func(b []byte) { copy(b, "not a database at all") },
		"its middle": func(b []byte) { copy(b[len(b)/2:], strings.Repeat("?", 4096)) },
	} {
		spoilt := append([]byte(nil), whole...)
		spoil(spoilt)
		if err := os.WriteFile(path, spoilt, 0o600); err != nil {
			t.Fatal(err)
		}
		if _, err := Open(dir); !errors.Is(err, ErrDamaged) || !strings.Contains(err.Error(), "put it aside") {
			t.Errorf("%s: %v", name, err)
		}
		if _, err := os.Stat(filepath.Join(dir, "audio", hash[:2], hash)); err != nil {
			t.Error(err)
		}
	}
}

// The folder is its owner's alone, one of an older version too; what interrupted writes left is gone at the next start.
func TestTheFolderIsItsOwnersAndSwept(t *testing.T) {
	dir := t.TempDir()
	left := filepath.Join(dir, "audio", "ab", "new-123")
	for _, err := range []error{os.MkdirAll(filepath.Dir(left), 0o755), os.WriteFile(left, []byte("half"), 0o644), os.Chmod(dir, 0o755),
		os.WriteFile(filepath.Join(dir, databaseName), nil, 0o644)} {
		if err != nil {
			t.Fatal(err)
		}
	}
	s := openAt(t, dir)
	hash, err := s.PutAudio([]byte("sound"), AudioInfo{Name: "a.wav"})
	if err != nil {
		t.Fatal(err)
	}
	for path, want := range map[string]os.FileMode{"": 0o700, "audio": 0o700, databaseName: 0o600, databaseName + "-wal": 0o600, filepath.Join("audio", hash[:2], hash): 0o600} {
		info, err := os.Stat(filepath.Join(dir, path))
		if err != nil || info.Mode().Perm() != want {
			t.Errorf("%q: %v, %v; want %v", path, info.Mode().Perm(), err, want)
		}
	}
	if _, err := os.Stat(left); !errors.Is(err, os.ErrNotExist) {
		t.Error("what an interrupted write left is still there")
	}
}

// A map saved again under its name stays the default; the older one stays as an earlier state.
func TestASavedMapStaysTheDefault(t *testing.T) {
	s := openAt(t, t.TempDir())
	m := drummap.FullSet()
	first, err := s.KeepMap(m, "")
	if err != nil || first == "" {
		t.Fatal(first, err)
	}
	if err := s.SetMap(first, true, false); err != nil {
		t.Fatal(err)
	}
	m.Lanes = m.Lanes[1:]
	second, err := s.KeepMap(m, "shorter")
	if err != nil || second == first {
		t.Fatal(second, err)
	}
	maps, err := s.Maps()
	if err != nil || len(maps) != 2 || maps[0].ID != second || !maps[0].Default || maps[0].Earlier || maps[1].Default || !maps[1].Earlier {
		t.Errorf("%+v %v", maps, err)
	}
}

func TestKeptKitsLoseNothing(t *testing.T) {
	s := openAt(t, t.TempDir())
	k := kit.Kit{Name: "Lock", Pads: []kit.Pad{kit.NewPad(36)}}
	first, _ := s.KeepKit(drummap.FullSet(), k, false)
	k.Pads = append(k.Pads, kit.NewPad(38))
	if _, err := s.KeepKit(drummap.FullSet(), k, false); err != nil {
		t.Fatal(err)
	}
	if again, _ := s.KeepKit(drummap.FullSet(), k, true); again == "" {
		t.Error("a kit put aside that is kept already is not kept twice")
	}
	kits, err := s.Kits()
	if err != nil || len(kits) != 2 || kits[0].Earlier || len(kits[0].Kit.Pads) != 2 || !kits[1].Earlier || kits[1].ID != first {
		t.Errorf("%+v %v", kits, err)
	}
}

// A voice's recipe outlives a restart, and their number is bounded: those named longest ago go first.
func TestRecipesOutliveARestart(t *testing.T) {
	dir := t.TempDir()
	s := openAt(t, dir)
	if err := s.KeepRecipes(map[string][]byte{"a": []byte("recipe")}); err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	s = openAt(t, dir)
	if r, err := s.Recipe("a"); err != nil || string(r) != "recipe" {
		t.Errorf("%q %v", r, err)
	}
	if _, err := s.Recipe("b"); !errors.Is(err, ErrNotFound) {
		t.Errorf("a voice that was never named: %v", err)
	}
}
