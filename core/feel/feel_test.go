package feel

import (
	"errors"
	"math"
	"testing"

	"hexachord/core/music"
)

// 66.7 % swing is triplet timing: the off-sixteenth falls on the second third of its pair (MIDI-sequencer practice).
func TestSwing(t *testing.T) {
	f := Feel{Swing: Swing{200.0 / 3, "1/16"}}
	if got := 240 + f.Shift(42, 240, 240); math.Abs(got-320) > 1e-9 {
		t.Errorf("the off-sixteenth sounds at tick %g, want 320", got)
	}
	for _, tick := range []int{0, 480, 960, -480, 485, 475} {
		if got := f.Shift(42, tick, 240); got != 0 {
			t.Errorf("tick %d moves by %g; only off-cells move", tick, got)
		}
	}
	for _, tick := range []int{230, 250, -240, 720} { // a lean is kept
		if got := f.Shift(42, tick, 240); math.Abs(got-80) > 1e-9 {
			t.Errorf("tick %d moves by %g, want 80", tick, got)
		}
	}
	if got := (Feel{Swing: Swing{75, "1/8"}}).Shift(42, 480, 240); got != 240 {
		t.Errorf("75 %% at 1/8 moves by %g, want 240", got)
	}
	// what is written on triplets or dotted notes is not bent by a straight grid's swing; coarser and finer straight grids are
	for _, c := range []struct {
		tick, cell int
		want       float64
	}{{320, 320, 0}, {960 / 3, 240, 0}, {160, 160, 0}, {360, 360, 0}, {1080, 360, 0}, {240, 480, 80}, {240, 120, 80}, {245, 240, 80}, {480, 320, 0}, {640, 240, 0}} {
		if got := f.Shift(42, c.tick, c.cell); math.Abs(got-c.want) > 1e-9 {
			t.Errorf("tick %d of a grid of %d moves by %g, want %g", c.tick, c.cell, got, c.want)
		}
	}
	for _, bad := range []Swing{{49, "1/16"}, {76, "1/16"}, {60, "1/4"}, {math.NaN(), "1/8"}} {
		if err := (Feel{Swing: bad}).Check(); !errors.Is(err, ErrSwing) {
			t.Errorf("%v: %v, want ErrSwing", bad, err)
		}
	}
}

// Chance is the same for the same seed, stays within its bounds, and a lane leans as a whole.
func TestStrokesLeanAndAreHumanised(t *testing.T) {
	f := Straight
	f.LaneLeanMS = map[int]float64{42: 12}
	if late, v := f.Stroke(42, 480, 0, 90); late != 12 || v != 90 {
		t.Errorf("hats late: %g ms, velocity %d", late, v)
	}
	f.Humanise = Humanise{TimeMS: 8, Velocity: 20, Seed: 5}
	var sum float64
	seen := map[int]bool{}
	for tick := range 2000 {
		late, v := f.Stroke(38, tick, 0, 100)
		again, same := f.Stroke(38, tick, 0, 100)
		if late != again || v != same || late < -8 || late > 8 || v < 80 || v > 120 {
			t.Fatalf("tick %d: %g ms, %d; then %g, %d", tick, late, v, again, same)
		}
		sum += late
		seen[v] = true
	}
	if sum/2000 > 0.5 || sum/2000 < -0.5 || len(seen) < 35 {
		t.Errorf("on the whole %g ms late, %d velocities", sum/2000, len(seen))
	}
	if late, v := f.Straightened().Stroke(42, 480, 0, 90); late != 0 || v != 90 {
		t.Error("what was played is not leant and humanised again")
	}
	for _, bad := range []Feel{{Swing: f.Swing, LaneLeanMS: map[int]float64{36: 101}}, {Swing: f.Swing, Humanise: Humanise{TimeMS: -1}}, {Swing: f.Swing, Humanise: Humanise{Velocity: 99}}} {
		if err := bad.Check(); !errors.Is(err, ErrFeel) {
			t.Errorf("%+v: %v", bad, err)
		}
	}
}

// The groove of a bar played twice, worked by hand: cell 1 leans 10 and 20 ticks late (mean 15) and is accented, cell 3
// (the off-beat) leans early; the lane's mean velocity is 90.
func TestTakeAndLayAGroove(t *testing.T) {
	strokes := []Played{{10, 42, 100}, {3860, 42, 110}, {470, 42, 70}, {3840 + 470, 42, 80}, {960, 38, 60}, {-20, 36, 100}}
	g, err := TakeGroove("deck", strokes, music.CommonTime, music.Sixteenths)
	if err != nil || g.Check() != nil || len(g.Cells) != 16 {
		t.Fatalf("%v, %v, %d cells", err, g.Check(), len(g.Cells))
	}
	first := g.Cells[0]
	if first.Hits != 3 || math.Abs(first.LeanTicks-10.0/3) > 1e-9 || math.Abs(first.Level-(100/90.0+110/90.0+1)/3) > 1e-9 {
		t.Errorf("the first cell: %+v", first)
	}
	if c := g.Cells[2]; c.Hits != 2 || c.LeanTicks != -10 || math.Abs(c.Level-75.0/90) > 1e-9 {
		t.Errorf("the off-beat: %+v", c)
	}
	f := Feel{Swing: Swing{60, "1/16"}, Groove: GrooveUse{ID: "g", Time: 50, Velocity: 100, NoSwing: true}, Shares: map[int]Share{36: {100, 0, 100}}}.With(&g)
	if late := f.Shift(42, 480+3840, 240); late != -5 {
		t.Errorf("half the time lays %g ticks on the off-beat of bar 2", late)
	}
	if _, v := f.Stroke(42, 480, 0, 90); v != 75 {
		t.Errorf("the whole accent makes velocity %d of 90", v)
	}
	if late := f.Shift(42, 240, 240); late != 0 {
		t.Errorf("a cell no hit spoke of moves by %g; swing is set aside", late)
	}
	if late := f.Shift(36, 480, 240); late != 0 {
		t.Errorf("a lane that follows none of it moves by %g", late)
	}
	if _, err := TakeGroove("none", nil, music.CommonTime, music.Sixteenths); !errors.Is(err, ErrGroove) {
		t.Errorf("no hits: %v", err)
	}
}
