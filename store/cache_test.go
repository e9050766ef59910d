package store

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

func text(t *testing.T, p Project) string {
	t.Helper()
	b, err := json.Marshal(p)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

// What is held in memory is what is on disk: after any run of edits, undos, redos and jumps, a store that holds the project
// and one that has just opened the same folder read the same.
func TestWhatIsHeldIsWhatIsOnDisk(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	id, err := s.CreateProject(Project{Name: "p", Settings: NewSettings(), Map: drummap.GeneralMIDI()})
	if err != nil {
		t.Fatal(err)
	}
	rng := rand.New(rand.NewPCG(3, 4))
	for n := range 150 {
		p, err := s.Load(id)
		if err != nil {
			t.Fatal(err)
		}
		before := text(t, p)
		pick := func() string { return p.Patterns[rng.IntN(len(p.Patterns))].ID }
		switch what := rng.IntN(9); {
		case what == 0 || len(p.Patterns) == 0:
			_, err = s.Edit(id, p.Revision, func(tx *Tx) string {
				tx.AddPattern(pattern.Pattern{Name: fmt.Sprint(n), Bars: 1, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}})
				return "add"
			})
		case what == 1 && len(p.Patterns) > 2:
			_, err = s.Edit(id, p.Revision, func(tx *Tx) string { tx.DeletePattern(pick()); return "delete" })
		case what == 2:
			_, err = s.Undo(id, p.Revision)
		case what == 3:
			_, err = s.Redo(id, p.Revision)
		case what == 4:
			err = s.JumpTo(id, p.Revision, int64(rng.IntN(3)))
		case what == 5:
			_, err = s.Edit(id, p.Revision, func(tx *Tx) string {
				tx.AddGroove(feel.Groove{Name: "g", Meter: music.CommonTime, Grid: music.Sixteenths, Cells: make([]feel.GrooveCell, 16)})
				set := p.Settings
				set.BPM = 60 + float64(n)
				tx.PutSettings(set)
				return "groove and tempo"
			})
		case what == 6: // refused: nothing of it may be held
			_, err = s.Edit(id, p.Revision, func(tx *Tx) string {
				tx.EditPattern(pick(), pattern.Edit{Op: pattern.OpHits, Put: []pattern.Hit{{Note: 40, Tick: 0, Velocity: 90}}})
				tx.Fail(errors.New("no"))
				return "never"
			})
			if err == nil {
				t.Fatal("an edit that failed was taken")
			}
			if after, err := s.Load(id); err != nil || text(t, after) != before {
				t.Fatal("an edit that failed has changed what is held")
			}
		default:
			_, err = s.Edit(id, p.Revision, func(tx *Tx) string {
				tx.EditPattern(pick(), pattern.Edit{Op: pattern.OpHits, Put: []pattern.Hit{{Note: rng.IntN(128), Tick: rng.IntN(3840), Velocity: 1 + rng.IntN(127)}}})
				return "hit"
			})
		}
		if err != nil && !errors.Is(err, ErrNoUndo) && !errors.Is(err, ErrNoRedo) && !errors.Is(err, ErrNotFound) && err.Error() != "no" {
			t.Fatal(err)
		}
		if text(t, p) != before {
			t.Fatal("what was read before has changed in the reader's hands")
		}
		held, err := s.Load(id)
		if err != nil {
			t.Fatal(err)
		}
		if n%5 != 0 {
			continue
		}
		fresh, err := Open(dir)
		if err != nil {
			t.Fatal(err)
		}
		onDisk, err := fresh.Load(id)
		if err != nil {
			t.Fatal(err)
		}
		if err := fresh.Close(); err != nil {
			t.Fatal(err)
		}
		if text(t, held) != text(t, onDisk) {
			t.Fatalf("after %d steps what is held differs from what is on disk:\n%s\n%s", n+1, text(t, held), text(t, onDisk))
		}
	}
}

// Two that write at once: each edit goes by the revision its writer saw, none is lost, and readers meanwhile see whole
// projects only.
func TestWritersAtOnceLoseNothing(t *testing.T) {
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	id, err := s.CreateProject(Project{Name: "p", Settings: NewSettings(), Map: drummap.GeneralMIDI(),
		Patterns: []Stored[pattern.Pattern]{{Value: pattern.Pattern{Name: "a", Bars: 1, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}}}}})
	if err != nil {
		t.Fatal(err)
	}
	const each = 25
	var wg sync.WaitGroup
	for w := range 3 {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for n := 0; n < each; {
				p, err := s.Load(id)
				if err != nil {
					t.Error(err)
					return
				}
				if len(p.Patterns) != 1 || p.Settings.BPM == 0 {
					t.Errorf("half a project: %d patterns", len(p.Patterns))
					return
				}
				_, err = s.Edit(id, p.Revision, func(tx *Tx) string {
					tx.EditPattern(p.Patterns[0].ID, pattern.Edit{Op: pattern.OpHits, Put: []pattern.Hit{{Note: 36 + w, Tick: n * 10, Velocity: 90}}})
					return "hit"
				})
				switch {
				case err == nil:
					n++
				case !errors.Is(err, ErrStale):
					t.Error(err)
					return
				}
			}
		}()
	}
	wg.Wait()
	p, err := s.Load(id)
	if err != nil || len(p.Patterns[0].Value.Hits) != 3*each || p.Revision != 1+3*each {
		t.Errorf("%d hits at revision %d, %v", len(p.Patterns[0].Value.Hits), p.Revision, err)
	}
}
