package hear_test

import (
	"testing"

	"hexachord/core/hear"
	"hexachord/core/music"
)

// A hit that was not heard is added where it was struck; one is moved in time and to another lane; the list stays in time.
func TestHitsAreAddedAndMovedByHand(t *testing.T) {
	h := hear.Hearing{BPM: 120, Meter: music.CommonTime, Bars: 2, Hits: []hear.Hit{{TimeS: 0.5, Note: 36, Velocity: 100, Confidence: 0.4}, {TimeS: 1, Note: 38, Velocity: 90, Confidence: 0.9}}}
	laneOf := func(h hear.Hit) int { return h.Note }
	got, err := h.Apply(hear.Edit{Op: "add", Add: []hear.Added{{TimeS: 0.75, Lane: 42, Velocity: 61, Note: 42}}}, laneOf)
	if err != nil || len(got.Hits) != 3 {
		t.Fatalf("%+v %v", got.Hits, err)
	}
	if a := got.Hits[1]; a.TimeS != 0.75 || a.Note != 42 || a.Velocity != 61 || a.Doubtful() || !a.Sounds() || a.Lane == nil || *a.Lane != 42 {
		t.Errorf("added: %+v", a)
	}
	lane := 37
	got, err = got.Apply(hear.Edit{Op: "move", Hits: []int{0}, ByS: 0.3, ToLane: &lane}, laneOf)
	if err != nil {
		t.Fatal(err)
	}
	if m := got.Hits[1]; m.TimeS != 0.8 || *m.Lane != 37 || m.Doubtful() || got.Hits[0].TimeS != 0.75 {
		t.Errorf("moved: %+v", got.Hits)
	}
	louder, err := h.Apply(hear.Edit{Op: "louder", Hits: []int{0, 1}, Velocity: 30}, laneOf)
	if err != nil || louder.Hits[0].Velocity != 127 || louder.Hits[1].Velocity != 120 {
		t.Errorf("30 louder: %+v %v", louder.Hits, err)
	}
	if len(h.Hits) != 2 || h.Hits[0].TimeS != 0.5 {
		t.Error("the hearing it was made of was changed")
	}
	for _, bad := range []hear.Edit{{Op: "add", Add: []hear.Added{{TimeS: -1, Lane: 42, Velocity: 61}}}, {Op: "add", Add: []hear.Added{{Lane: 42}}}, {Op: "move", Hits: []int{9}}} {
		if _, err := h.Apply(bad, laneOf); err == nil {
			t.Errorf("%+v was done", bad)
		}
	}
}

// Counted in another meter the same stretch has other bars; tempo and bar 1 stay.
func TestAnotherMeter(t *testing.T) {
	h := hear.Hearing{BPM: 140, Meter: music.CommonTime, Bars: 7, BarOneS: 0.1, Pins: []hear.Pin{{Tick: 0, TimeS: 0.1}, {Tick: 3840, TimeS: 2}}}
	for text, bars := range map[string]int{"7/4": 4, "7/8": 8, "6/8": 10, "4/4": 7} {
		m, err := music.ParseMeter(text)
		if err != nil {
			t.Fatal(err)
		}
		got, err := h.InMeter(m)
		if err != nil || got.Bars != bars || got.BPM != 140 || got.BarOneS != 0.1 || got.Meter != m || len(got.Pins) != 0 {
			t.Errorf("%s: %d bars, want %d (%+v %v)", text, got.Bars, bars, got, err)
		}
	}
	for _, bad := range []string{"", "7", "7/9", "0/4", "7/8x"} {
		if m, err := music.ParseMeter(bad); err == nil {
			t.Errorf("%q is read as %v", bad, m)
		}
	}
}
