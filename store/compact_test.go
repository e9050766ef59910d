package store

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/project"
)

// A long history gathers what lies far back: every edit of the kept ones is taken back and done again one by one, those before
// in steps that lead where they led, to the very beginning and back; what was undone is not touched, and a pause ends a step.
func TestALongHistoryIsGatheredAndUndoes(t *testing.T) {
	const edits, kept, undone = 400, 40, 7
	dir := t.TempDir()
	s := openAt(t, dir)
	id := begin(t, s)
	rng := rand.New(rand.NewPCG(5, 6))
	content := func() string {
		p, err := s.Load(id)
		if err != nil {
			t.Fatal(err)
		}
		p.Revision, p.Undo, p.Redo = 0, "", ""
		return text(t, p)
	}
	revision := func() int64 {
		p, _ := s.Load(id)
		return p.Revision
	}
	states := []string{content()}
	for n := 1; n <= edits; n++ {
		p, _ := s.Load(id)
		of := p.Patterns[rng.IntN(len(p.Patterns))]
		_, err := s.Edit(id, p.Revision, world{}, "", everything, func(d *project.Draft) (label string, err error) {
			switch rng.IntN(8) {
			case 0:
				_, err = d.AddPattern(pattern.Pattern{Name: fmt.Sprint(n), Bars: 1, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}})
			case 1: // whole, between edits of its hits
				whole := of.Value
				whole.Name, whole.Hits = fmt.Sprint(n), []pattern.Hit{{Note: n % 128, Tick: n, Velocity: 100}}
				err = d.PutPattern(of.ID, whole)
			case 2:
				set := d.Settings
				set.BPM = 60 + float64(n)/10
				err = d.PutSettings(set)
			case 3:
				if len(p.Patterns) > 3 {
					return fmt.Sprint(n), d.Remove(project.KindPattern, of.ID)
				}
				fallthrough
			default:
				_, _, err = d.EditPattern(of.ID, pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{{Note: rng.IntN(128), Tick: rng.IntN(3840), Velocity: 1 + n%127}}}})
			}
			return fmt.Sprint(n), err
		})
		if err != nil {
			t.Fatal(err)
		}
		states = append(states, content())
	}
	// a sitting ends after edit 150
	if err := s.write.Exec("UPDATE history SET at = ? WHERE number <= 150", time.Now().Add(-time.Hour)).Error; err != nil {
		t.Fatal(err)
	}
	for range undone {
		if _, err := s.Undo(id, revision()); err != nil {
			t.Fatal(err)
		}
	}
	for again := range 2 { // gathered once, there is nothing more to gather
		n, err := s.compact(context.Background(), id, kept)
		if want := []int{edits - undone - kept, 0}[again]; err != nil || n != want {
			t.Fatalf("%d edits gathered, %d wanted: %v", n, want, err)
		}
	}
	list, err := s.History(id, 0)
	if err != nil {
		t.Fatal(err)
	}
	var old []int64
	for _, h := range list {
		if strings.Contains(h.Label, "edits up to") {
			old = append(old, h.Number)
		}
	}
	if fmt.Sprint(old) != "[353 350 250 150 100]" {
		t.Errorf("steps end with edits %v", old)
	}
	expect := func(what string, n int64) {
		t.Helper()
		if content() != states[n] {
			t.Fatalf("%s edit %d the project is not as it was then", what, n)
		}
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	s = openAt(t, dir)
	for n := int64(edits - undone); n > 0; {
		if n > edits-undone-kept {
			n--
		} else if old = old[1:]; len(old) > 0 {
			n = old[0]
		} else {
			n = 0
		}
		if _, err := s.Undo(id, revision()); err != nil {
			t.Fatal(err)
		}
		expect("undone to", n)
	}
	if _, err := s.Undo(id, revision()); err != ErrNoUndo {
		t.Errorf("before the beginning: %v", err)
	}
	for range 5 + kept + undone {
		if _, err := s.Redo(id, revision()); err != nil {
			t.Fatal(err)
		}
	}
	expect("redone to", edits)
	if _, err := s.Redo(id, revision()); err != ErrNoRedo {
		t.Errorf("after the end: %v", err)
	}
	for _, n := range []int64{250, 400, 0, 100, 380} {
		if _, err := s.JumpTo(id, revision(), n); err != nil {
			t.Fatal(err)
		}
		expect("jumped to", n)
	}
	if _, err := s.JumpTo(id, revision(), 99); err == nil {
		t.Error("jumped into a step")
	}
}

// Only histories well longer than what is kept edit by edit are gathered.
func TestShortHistoriesAreLeftAlone(t *testing.T) {
	s := openAt(t, t.TempDir())
	id := begin(t, s)
	p, _ := s.Load(id)
	for i := range 30 {
		done, err := do(s, id, p.Revision, hitAt(p, 36, i*120))
		if err != nil {
			t.Fatal(err)
		}
		p = done.Project
	}
	if n, err := s.Compact(context.Background()); n != 0 || err != nil {
		t.Errorf("%d gathered: %v", n, err)
	}
	if n, err := s.compact(context.Background(), id, 30); n != 0 || err != nil {
		t.Errorf("%d of the kept ones gathered: %v", n, err)
	}
	if list, _ := s.History(id, 0); len(list) != 30 {
		t.Errorf("%d steps are left of 30", len(list))
	}
}
