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
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/project"
)

func text(t *testing.T, p project.Project) string {
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
	s := openAt(t, dir)
	id := begin(t, s)
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
			_, err = s.Edit(id, p.Revision, world{}, "", everything, func(d *project.Draft) (string, error) {
				_, err := d.AddPattern(pattern.Pattern{Name: fmt.Sprint(n), Bars: 1, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}})
				return "add", err
			})
		case what == 1 && len(p.Patterns) > 2:
			_, err = s.Edit(id, p.Revision, world{}, "", everything, func(d *project.Draft) (string, error) {
				return "remove", d.Remove(project.KindPattern, pick())
			})
		case what == 2:
			_, err = s.Undo(id, p.Revision)
		case what == 3:
			_, err = s.Redo(id, p.Revision)
		case what == 4:
			_, err = s.JumpTo(id, p.Revision, int64(rng.IntN(3)))
		case what == 5:
			_, err = s.Edit(id, p.Revision, world{}, "", everything, func(d *project.Draft) (string, error) {
				_, err := d.AddGroove(feel.Groove{Name: "g", Meter: music.CommonTime, Grid: music.Sixteenths, Cells: make([]feel.GrooveCell, 16)})
				set := p.Settings
				set.BPM = 60 + float64(n)
				return "groove and tempo", errors.Join(err, d.PutSettings(set))
			})
		case what == 6: // refused: nothing of it may be held
			_, err = s.Edit(id, p.Revision, world{}, "", everything, func(d *project.Draft) (string, error) {
				_, _, err := d.EditPattern(pick(), pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{{Note: 40, Tick: 0, Velocity: 90}}}})
				return "never", errors.Join(err, errors.New("no"))
			})
			if err == nil {
				t.Fatal("an edit that failed was taken")
			}
			if after, err := s.Load(id); err != nil || text(t, after) != before {
				t.Fatal("an edit that failed has changed what is held")
			}
			continue
		default:
			_, err = s.Edit(id, p.Revision, world{}, "", everything, func(d *project.Draft) (string, error) {
				_, _, err := d.EditPattern(pick(), pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{{Note: rng.IntN(128), Tick: rng.IntN(3840), Velocity: 1 + rng.IntN(127)}}}})
				return "hit", err
			})
		}
		if err != nil && !errors.Is(err, ErrNoUndo) && !errors.Is(err, ErrNoRedo) && !errors.Is(err, ErrNotFound) {
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
		if err := s.Close(); err != nil {
			t.Fatal(err)
		}
		s = openAt(t, dir)
		onDisk, err := s.Load(id)
		if err != nil {
			t.Fatal(err)
		}
		if text(t, held) != text(t, onDisk) {
			t.Fatalf("after %d steps what is held differs from what is on disk:\n%s\n%s", n+1, text(t, held), text(t, onDisk))
		}
	}
}

// begin makes a project with one empty pattern of a bar.
func begin(t testing.TB, s *Store) string {
	t.Helper()
	id, err := s.CreateProject("p", world{}, func(d *project.Draft) error {
		_, err := d.AddPattern(pattern.Pattern{Name: "a", Bars: 1, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}})
		return errors.Join(err, d.PutSettings(project.NewSettings()), d.PutMap(drummap.GeneralMIDI()), d.PutKit(kit.Kit{Name: "k", Pads: []kit.Pad{}}))
	})
	if err != nil {
		t.Fatal(err)
	}
	return id
}

// do makes an edit of core's on a revision.
func do(s *Store, id string, revision int64, e project.Edit) (Done, error) {
	return s.Edit(id, revision, world{}, "", e.Scope, e.Apply)
}

func hitAt(p project.Project, note, tick int) project.Edit {
	return project.Edit{Pattern: &project.PatternEdit{ID: p.Patterns[0].ID,
		Edit: pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{{Note: note, Tick: tick, Velocity: 90}}}}}}
}

// Edits that touch nothing of each other's are laid over each other, whatever revision they were made on; two that touch the
// same are told apart, and what happened meanwhile is named. Nobody ever loads anew here.
func TestEditsThatDoNotTouchEachOtherDoNotRefuseEachOther(t *testing.T) {
	s := openAt(t, t.TempDir())
	id := begin(t, s)
	p, err := s.Load(id)
	if err != nil {
		t.Fatal(err)
	}
	bpm, seven := 100.0, 7
	mute := func(note int) project.Edit {
		return project.Edit{Settings: &project.SettingsEdit{Muted: map[int]bool{note: true}}}
	}
	fill := project.Edit{Pattern: &project.PatternEdit{ID: p.Patterns[0].ID, Edit: pattern.Edit{Fill: &pattern.Fill{About: pattern.About{Notes: []int{42}}, Every: 4, Velocity: 80}}}}
	bars := project.Edit{Pattern: &project.PatternEdit{ID: p.Patterns[0].ID, Edit: pattern.Edit{Shape: &pattern.Shape{Bars: &seven}}}}
	for n, e := range []project.Edit{hitAt(p, 36, 0), hitAt(p, 36, 240), mute(36), mute(38), {Settings: &project.SettingsEdit{BPM: &bpm}}, fill,
		{AddPattern: &project.AddPattern{Name: "b"}}, {AddLane: &project.AddLane{Note: 90}}} {
		done, err := do(s, id, p.Revision, e)
		if err != nil {
			t.Fatalf("edit %d, made on the first revision: %v", n+1, err)
		}
		if done.Project.Revision != p.Revision+int64(n)+1 || n > 0 && len(done.Others) == 0 {
			t.Errorf("edit %d: revision %d, others %v", n+1, done.Project.Revision, done.Others)
		}
	}
	now, _ := s.Load(id)
	if len(now.Patterns[0].Value.Hits) != 2+4 || len(now.Settings.Muted) != 2 || now.Settings.BPM != 100 || len(now.Patterns) != 2 {
		t.Errorf("%d hits, muted %v, %g BPM, %d patterns", len(now.Patterns[0].Value.Hits), now.Settings.Muted, now.Settings.BPM, len(now.Patterns))
	}
	for name, e := range map[string]project.Edit{"the same cell": hitAt(p, 36, 0), "the same mute": mute(36), "the same tempo": {Settings: &project.SettingsEdit{BPM: &bpm}},
		"a lane that got hits": fill, "bars that would cut them": bars, "the map": {AddLane: &project.AddLane{Note: 91}}} {
		_, err := do(s, id, p.Revision, e)
		var c Conflict
		if !errors.Is(err, ErrStale) || !errors.As(err, &c) || len(c.Labels) == 0 {
			t.Errorf("%s was changed since: %v", name, err)
		}
	}
	if _, err := s.Undo(id, p.Revision); !errors.Is(err, ErrStale) {
		t.Errorf("undoing what was not seen: %v", err)
	}
	if after, _ := s.Load(id); text(t, after) != text(t, now) {
		t.Error("a refused edit has changed something")
	}
}

// Fifty that write at once on what they last saw: every edit that is acknowledged is there, and none is refused, since no two
// touch the same.
func TestManyWritersLoseNothing(t *testing.T) {
	s := openAt(t, t.TempDir())
	id := begin(t, s)
	const clients, each = 50, 12
	var wg sync.WaitGroup
	for c := range clients {
		wg.Go(func() {
			p, err := s.Load(id)
			if err != nil {
				t.Error(err)
				return
			}
			revision := p.Revision
			for n := range each {
				done, err := do(s, id, revision, hitAt(p, 36+c, n*10))
				if err != nil {
					t.Errorf("writer %d, edit %d: %v", c, n, err)
					return
				}
				revision = done.Project.Revision
			}
		})
	}
	wg.Wait()
	p, err := s.Load(id)
	if err != nil || len(p.Patterns[0].Value.Hits) != clients*each || p.Revision != 1+clients*each {
		t.Errorf("%d hits at revision %d, %v", len(p.Patterns[0].Value.Hits), p.Revision, err)
	}
}

// A jump over a long history leads to the same project as taking its edits back one by one.
func TestAJumpLeadsWhereSingleStepsLead(t *testing.T) {
	s := openAt(t, t.TempDir())
	id := begin(t, s)
	rng := rand.New(rand.NewPCG(5, 6))
	states := []string{}
	for n := range 120 {
		p, _ := s.Load(id)
		p.Revision, p.Undo, p.Redo = 0, "", ""
		states = append(states, text(t, p))
		p, _ = s.Load(id)
		e := hitAt(p, 36+rng.IntN(4), rng.IntN(3840))
		switch {
		case n%17 == 3:
			e = project.Edit{AddPattern: &project.AddPattern{Name: fmt.Sprint(n)}}
		case n%23 == 5 && len(p.Patterns) > 2:
			e = project.Edit{RemovePattern: &project.RemovePattern{ID: p.Patterns[1].ID}}
		case n%11 == 2:
			bpm := 60 + float64(n)
			e = project.Edit{Settings: &project.SettingsEdit{BPM: &bpm}}
		}
		if _, err := do(s, id, p.Revision, e); err != nil {
			t.Fatal(err)
		}
	}
	for _, to := range []int64{60, 0, 119, 3, 90, 41} {
		p, _ := s.Load(id)
		done, err := s.JumpTo(id, p.Revision, to)
		if err != nil {
			t.Fatal(err)
		}
		at := done.Project
		at.Revision, at.Undo, at.Redo = 0, "", ""
		if text(t, at) != states[to] {
			t.Fatalf("after jumping to edit %d the project is not as it was then", to)
		}
	}
}

// BenchmarkJump16000 takes 16,000 edits of one pattern back and does them again.
func BenchmarkJump16000(b *testing.B) {
	s := openAt(b, b.TempDir())
	id := begin(b, s)
	p, _ := s.Load(id)
	bars := 64
	done, err := do(s, id, p.Revision, project.Edit{Pattern: &project.PatternEdit{ID: p.Patterns[0].ID, Edit: pattern.Edit{Shape: &pattern.Shape{Bars: &bars}}}})
	for n := 1; n < 16000 && err == nil; n++ {
		done, err = do(s, id, done.Project.Revision, hitAt(p, 36+n%8, n*15))
	}
	if err != nil {
		b.Fatal(err)
	}
	at := int64(0)
	for b.Loop() {
		if done, err = s.JumpTo(id, done.Project.Revision, at); err != nil {
			b.Fatal(err)
		}
		at = 16000 - at
	}
}

// Edits that join a name are one step of the history, undone and redone at once; another edit in between ends the step.
func TestJoinedEditsAreOneStep(t *testing.T) {
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	id := begin(t, s)
	p, err := s.Load(id)
	if err != nil {
		t.Fatal(err)
	}
	hits := func(p project.Project) string {
		body, err := json.Marshal(p.Patterns)
		if err != nil {
			t.Fatal(err)
		}
		return string(body)
	}
	first := hits(p)
	revision := p.Revision
	put := func(join string, tick int) {
		t.Helper()
		e := hitAt(p, 36, tick)
		done, err := s.Edit(id, revision, world{}, join, e.Scope, e.Apply)
		if err != nil {
			t.Fatal(err)
		}
		revision = done.Project.Revision
	}
	before, err := s.History(id, 0)
	if err != nil {
		t.Fatal(err)
	}
	for tick := range 5 {
		put("pass", tick)
	}
	put("", 100)
	put("pass", 200)
	after, err := s.History(id, 0)
	if err != nil || len(after) != len(before)+3 {
		t.Fatalf("%d steps more: %v", len(after)-len(before), err)
	}
	var all []string
	for range 3 {
		done, err := s.Undo(id, revision)
		if err != nil {
			t.Fatal(err)
		}
		revision = done.Project.Revision
		all = append(all, hits(done.Project))
	}
	if all[2] != first {
		t.Errorf("undone, the project is another")
	}
	done, err := s.Redo(id, revision)
	if err != nil || hits(done.Project) != all[1] {
		t.Errorf("redone, the five are not back: %v", err)
	}
}
