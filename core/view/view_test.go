package view

import (
	"math"
	"slices"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/project"
)

// At 120 BPM a sixteenth lasts 125 ms. Swung two to one (66.7 %), each second sixteenth lies 41.7 ms late: a strike there
// leans by nothing, one on the straight line is as much early. A lane that follows no swing is judged by the straight line.
func TestTheLeanOfALiveStrike(t *testing.T) {
	p := project.Project{Settings: project.NewSettings()}
	p.Settings.BPM = 120
	p.Settings.Feel = feel.Feel{Swing: feel.Swing{Percent: 200.0 / 3, Grid: music.Sixteenths}, LaneLeanMS: map[int]float64{38: -10},
		Shares: map[int]feel.Share{42: {}}}
	pt := pattern.Pattern{Name: "p", Bars: 1, Meter: music.CommonTime, Grid: music.Sixteenths}
	swung := 0.125 + 0.125/3
	for _, c := range []struct {
		note      int
		atS, want float64 // s, ms
	}{
		{36, 0.500, 0}, {36, 0.512, 12}, {36, 0.493, -7}, // on the beat
		{36, swung, 0}, {36, 0.125, -1000 * 0.125 / 3}, // on a swung line
		{42, 0.125, 0}, {42, 0.130, 5}, // the lane that does not swing
		{38, 0.490, 0}, {38, 0.500, 10}, // the lane that leans early as a whole
	} {
		if got := StrikeLean(p, pt, c.note, c.atS); math.Abs(got-c.want) > 0.3 { // a tick is 0.52 ms
			t.Errorf("note %d at %.3f s leans by %.1f ms, want %.1f", c.note, c.atS, got, c.want)
		}
	}
}

// Every lane is offered a code that no other lane has.
func TestOfferedCodesAreFree(t *testing.T) {
	m := drummap.FullSet()
	got := codes(m)
	for _, l := range m.Lanes {
		code := got[l.Note]
		if code == "" {
			t.Errorf("%s is offered no code", l.Name)
		}
		for _, o := range m.Lanes {
			if o.Note != l.Note && o.Code == code {
				t.Errorf("%s is offered %s, which %s has", l.Name, code, o.Name)
			}
		}
	}
}

func TestNotesWithoutALaneAndLaddersWithHoles(t *testing.T) {
	pt := func(name string, notes ...int) project.Stored[pattern.Pattern] {
		p := pattern.Pattern{Name: name, Bars: 1, Meter: music.CommonTime, Grid: music.Sixteenths}
		for i, n := range notes {
			p.Hits = append(p.Hits, pattern.Hit{Note: n, Tick: 240 * i, Velocity: 90})
		}
		return project.Stored[pattern.Pattern]{ID: name, Value: p}
	}
	p := project.Project{Settings: project.NewSettings(), Map: drummap.Map{Name: "m", Lanes: []drummap.Lane{drummap.NewLane(drummap.Kick, 36, "kick")}},
		Patterns: []project.Stored[pattern.Pattern]{pt("a", 36, 99, 99), pt("b", 99, 36)}}
	p.Kit.Pads = []kit.Pad{{Note: 36, Layers: []kit.Layer{kit.NewLayer(1, 60, kit.Take{}), kit.NewLayer(70, 127, kit.Take{})}}}
	v := Of(p)
	if len(v.Missing) != 1 || v.Missing[0].Note != 99 || v.Missing[0].Hits != 3 || !slices.Equal(v.Missing[0].Patterns, []string{"a", "b"}) {
		t.Errorf("missing %+v", v.Missing)
	}
	if len(v.Ladders) != 1 || !slices.Equal(v.Ladders[0].Gaps, []kit.Range{{Lo: 61, Hi: 69}}) || len(v.Ladders[0].Overlaps) != 0 {
		t.Errorf("ladders %+v", v.Ladders)
	}
}
