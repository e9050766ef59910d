package project

import (
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

// Patterns come to the lanes of their roles here, or to their notes; what has no lane comes along and is counted, a name that is
// taken gets a number, and a groove they use comes once.
func TestPatternsAreBroughtToTheLanesHere(t *testing.T) {
	w := newWorld("x")
	other := state(t, w).Project
	other.Map = drummap.Map{Name: "theirs", Lanes: []drummap.Lane{drummap.NewLane(drummap.Kick, 60, "boom"), drummap.NewLane(drummap.Snare, 61, "slap"), drummap.NewLane(drummap.Cowbell, 62, "bell")}}
	hits := []pattern.Hit{{Note: 60, Tick: 0, Velocity: 100}, {Note: 61, Tick: 960, Velocity: 110}, {Note: 61, Tick: 1920, Velocity: 30}, {Note: 62, Tick: 1200, Velocity: 60}}
	own := feel.Straight
	own.Groove.ID = other.Grooves[0].ID
	one := pattern.Pattern{Name: "a", Bars: 1, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: hits, Link: "l", Feel: &own}
	two := one
	two.Name = "fresh"
	other.Patterns = []Stored[pattern.Pattern]{{ID: "p1", Value: one}, {ID: "p2", Value: two}}

	d := NewDraft(state(t, newWorld("h")), newWorld("n"))
	before := len(d.Patterns)
	label, err := (&Bring{Other: other, Patterns: []string{"p1", "p2"}, By: ByRole}).Apply(d)
	if err != nil {
		t.Fatal(err)
	}
	got := d.Result.Brought
	if len(d.Patterns) != before+2 || len(got.IDs) != 2 || got.Hits[36] != 2 || got.Hits[38] != 4 || got.NoHome[62] != 2 || label != "Bring 2 patterns from Lock" {
		t.Errorf("%d patterns, %+v, %q", len(d.Patterns), got, label)
	}
	first, _ := d.Pattern(got.IDs[0])
	if first.Name != "a 2" || first.Link != "" || len(first.Hits) != 4 || first.Hits[0].Note != 36 {
		t.Errorf("the first came as %+v", first)
	}
	if len(d.Grooves) != 1 || first.Feel == nil || first.Feel.Groove.ID != d.Grooves[0].ID {
		t.Errorf("%d grooves, the same one came again; feel %+v", len(d.Grooves), first.Feel)
	}
	d = NewDraft(state(t, newWorld("h")), newWorld("n"))
	if _, err := (&Bring{Other: other, Patterns: []string{"p1"}, By: ByNote}).Apply(d); err != nil {
		t.Fatal(err)
	}
	if got := d.Result.Brought; len(got.Hits) != 0 || got.NoHome[60] != 1 {
		t.Errorf("by note, where no lane has the notes: %+v", got)
	}
	if _, err := (&Bring{Other: other, Patterns: []string{"none"}, By: ByRole}).Apply(NewDraft(state(t, newWorld("h")), newWorld("n"))); err == nil {
		t.Error("a pattern that is not there was brought")
	}
}

func TestAProjectIsCalledAfterWhatIsInIt(t *testing.T) {
	named := []Stored[pattern.Pattern]{{Value: pattern.Pattern{Name: FirstPattern}}, {Value: pattern.Pattern{Name: "spillway", Hits: make([]pattern.Hit, 1)}}}
	for _, c := range []struct {
		p    Project
		want string
	}{
		{Project{Name: "Weir", Kit: kit.Kit{Name: "k"}}, "Weir"},
		{Project{Kit: kit.Kit{Name: NoKit}}, Unnamed},
		{Project{Name: Unnamed, Kit: kit.Kit{Name: "Harbour"}}, "Harbour"},
		{Project{Kit: kit.Kit{Name: "Harbour"}, Patterns: named[:1]}, "Harbour"},
		{Project{Kit: kit.Kit{Name: "Harbour"}, Patterns: named}, "spillway"},
	} {
		if got := c.p.Title(); got != c.want {
			t.Errorf("called %q, want %q", got, c.want)
		}
	}
}
