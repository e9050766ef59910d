package hear_test

import (
	"reflect"
	"testing"

	"hexachord/core/hear"
	"hexachord/core/music"
)

// What the person said of a break is not lost when it is heard again, and what changed is told hit by hit.
func TestHearingAgainKeepsWhatThePersonSaid(t *testing.T) {
	lane := 61
	before := hear.Hearing{Ear: 1, BPM: 96, Bars: 2, BarOneS: 0.25, Meter: music.Meter{Beats: 3, Unit: 4}, Pins: []hear.Pin{{Tick: 0, TimeS: 0.25}, {Tick: 1440, TimeS: 2}}, Hits: []hear.Hit{
		{TimeS: 0.25, Note: 36, Velocity: 120, Confidence: 0.9},                             // found again
		{TimeS: 0.50, Note: 38, Velocity: 30, Confidence: 0.4, State: hear.Out},             // taken out, found again
		{TimeS: 0.75, Note: 45, Velocity: 80, Confidence: 0.9},                              // is a kick now
		{TimeS: 1.00, Note: 42, Velocity: 70, Confidence: 0.9},                              // is not found again
		{TimeS: 1.25, Note: 38, Velocity: 64, Confidence: 1, State: hear.Kept, Lane: &lane}, // added by hand, not found again
		{TimeS: 1.50, Note: 38, Velocity: 99, Confidence: 0.9, Set: true},                   // its velocity is the person's
	}}
	again := hear.Hearing{Ear: 2, Drums: true, BPM: 120, Bars: 4, Meter: music.CommonTime, Hits: []hear.Hit{
		{TimeS: 0.251, Note: 36, Velocity: 110, Confidence: 0.95},
		{TimeS: 0.499, Note: 38, Velocity: 35, Confidence: 0.8},
		{TimeS: 0.750, Note: 36, Velocity: 90, Confidence: 0.95},
		{TimeS: 1.1, Note: 46, Velocity: 60, Confidence: 0.7}, // new
		{TimeS: 1.505, Note: 38, Velocity: 70, Confidence: 0.95},
	}}
	got := before.Again(again)
	c := before.ChangesTo(got)
	want := []hear.Hit{again.Hits[0], before.Hits[1], again.Hits[2], again.Hits[3], before.Hits[4], again.Hits[4]}
	want[5].Velocity, want[5].Set = 99, true
	if !reflect.DeepEqual(got.Hits, want) {
		t.Errorf("the hits are\n%+v, not\n%+v", got.Hits, want)
	}
	if wantC := (hear.Changes{Same: []int{0, 5}, Other: []int{2}, New: []int{3}, Gone: []int{3}, Carried: []int{1, 4}}); !reflect.DeepEqual(c, wantC) {
		t.Errorf("it says %+v, not %+v", c, wantC)
	}
	if got.BPM != 96 || got.Bars != 2 || got.BarOneS != 0.25 || len(got.Pins) != 2 || got.Meter != before.Meter || got.Ear != 2 || !got.Drums {
		t.Errorf("the grid is not the person's, or it does not say how it was heard: %+v", got)
	}
	// ears of before velocities were marked: each stays where the same drum was found again
	before.Ear = 0
	if got := before.Again(again); got.Hits[0].Velocity != 120 || got.Hits[2].Velocity != 90 {
		t.Errorf("velocities of an old hearing are %d and %d", got.Hits[0].Velocity, got.Hits[2].Velocity)
	}
}

// Of two strokes near each other each finds its own again, nearest first, and the same drum before another.
func TestHearingAgainPairsStrokes(t *testing.T) {
	before := hear.Hearing{Ear: 1, Hits: []hear.Hit{{TimeS: 1, Note: 38, State: hear.Kept}, {TimeS: 1.024, Note: 38, State: hear.Out}, {TimeS: 1.024, Note: 36, State: hear.Kept}}}
	again := hear.Hearing{Ear: 2, Hits: []hear.Hit{{TimeS: 1.01, Note: 38}, {TimeS: 1.022, Note: 36}, {TimeS: 1.023, Note: 38}}}
	got := before.Again(again)
	c := before.ChangesTo(got)
	if len(got.Hits) != 3 || len(c.Carried) != 3 || len(c.New) != 0 || len(c.Gone) != 0 {
		t.Errorf("%+v, %+v", got.Hits, c)
	}
}

// A hit that the person moved is the stroke that was heard where it came from, so that it does not appear there once more; when it is
// heard where it was moved to, it is that one; and another stroke there keeps its own.
func TestHearingAgainFindsWhatWasMoved(t *testing.T) {
	heard := hear.Hearing{Ear: 2, Hits: []hear.Hit{{TimeS: 1, Note: 38, Velocity: 90, Confidence: 0.9}, {TimeS: 1.1, Note: 36, Velocity: 80, Confidence: 0.9}, {TimeS: 2, Note: 42, Velocity: 60, Confidence: 0.9}}}
	laneOf := func(h hear.Hit) int { return h.Note }
	moved := heard
	for range 2 { // twice: where it was heard is what counts
		var err error
		if moved, err = moved.Apply(hear.Edit{Op: "move", Hits: []int{0}, ByS: 0.05}, laneOf); err != nil {
			t.Fatal(err)
		}
	}
	got := moved.Again(heard)
	c := moved.ChangesTo(got)
	if !reflect.DeepEqual(got.Hits, moved.Hits) || len(c.New) != 0 || len(c.Gone) != 0 || len(c.Carried) != 1 || len(c.Same) != 2 {
		t.Errorf("heard as before: %+v, %+v", got.Hits, c)
	}
	other := hear.Hearing{Ear: 3, Hits: []hear.Hit{{TimeS: 1.1, Note: 36, Velocity: 80, Confidence: 0.9}, {TimeS: 1.11, Note: 38, Velocity: 88, Confidence: 0.9}, {TimeS: 2, Note: 42, Velocity: 60, Confidence: 0.9}}}
	got = moved.Again(other)
	c = moved.ChangesTo(got)
	if !reflect.DeepEqual(got.Hits, moved.Hits) || len(c.New) != 0 || len(c.Gone) != 0 {
		t.Errorf("heard where it was moved to: %+v, %+v", got.Hits, c)
	}
}
