package ready

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"hexachord/core/drummap"
)

func TestEveryReadyPatternLiesOnGeneralMIDIWhole(t *testing.T) {
	families, names := map[string]int{}, map[string]bool{}
	gm := drummap.GeneralMIDI()
	for _, p := range All() {
		families[p.Family]++
		if names[p.Name] {
			t.Errorf("two patterns are called %q", p.Name)
		}
		names[p.Name] = true
		laid := p.Lay(gm, nil)
		if err := laid.Pattern.Check(); err != nil || len(laid.Missing) > 0 || len(laid.Pattern.Hits) != len(p.Strokes) {
			t.Errorf("%s: %v, missing %v, %d of %d strokes", p.Name, err, laid.Missing, len(laid.Pattern.Hits), len(p.Strokes))
		}
		if !(p.LoBPM >= 20 && p.LoBPM < p.HiBPM && p.HiBPM <= 400) || !strings.HasSuffix(p.Words, ".") {
			t.Errorf("%s: %g to %g BPM, %q", p.Name, p.LoBPM, p.HiBPM, p.Words)
		}
	}
	if len(names) < 60 || len(families) != 12 {
		t.Errorf("%d patterns in %d families %v", len(names), len(families), families)
	}
}

// A role the map lacks is said to be missing; a near one plays it until the person chooses, or leaves it out.
func TestLayWithoutAPedalHat(t *testing.T) {
	p, err := Find("slack water")
	if err != nil {
		t.Fatal(err)
	}
	m := drummap.Map{Name: "small", Lanes: []drummap.Lane{{Note: 61, Role: drummap.Kick}, {Note: 62, Role: drummap.Snare}, {Note: 63, Role: drummap.Ride}, {Note: 64, Role: drummap.ClosedHat}}}
	laid := p.Lay(m, nil)
	if !slices.Equal(laid.Missing, []drummap.Role{drummap.PedalHat}) || laid.Notes[drummap.PedalHat] != 64 || laid.Notes[drummap.Kick] != 61 {
		t.Errorf("missing %v, notes %v", laid.Missing, laid.Notes)
	}
	count := func(l Laid, note int) (n int) {
		for _, h := range l.Pattern.Hits {
			if h.Note == note {
				n++
			}
		}
		return n
	}
	if n := count(laid, 64); n != 4 {
		t.Errorf("the pedal's four strokes are %d on the closed hat", n)
	}
	if n := count(p.Lay(m, map[drummap.Role]int{drummap.PedalHat: -1}), 64); n != 0 {
		t.Errorf("left out, it has %d strokes", n)
	}
	if _, err := Find("no such"); !errors.Is(err, ErrNone) {
		t.Error(err)
	}
}
