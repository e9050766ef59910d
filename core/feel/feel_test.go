package feel

import (
	"errors"
	"math"
	"testing"
)

// 66.7 % swing is triplet timing: the off-sixteenth falls on the second third of its pair (MIDI-sequencer practice).
func TestSwing(t *testing.T) {
	f := Feel{Swing: Swing{200.0 / 3, "1/16"}}
	if got := 240 + f.Shift(240); math.Abs(got-320) > 1e-9 {
		t.Errorf("the off-sixteenth sounds at tick %g, want 320", got)
	}
	for _, tick := range []int{0, 480, 960, -480, 485, 475} {
		if got := f.Shift(tick); got != 0 {
			t.Errorf("tick %d moves by %g; only off-cells move", tick, got)
		}
	}
	for _, tick := range []int{230, 250, -240, 720} { // a lean is kept
		if got := f.Shift(tick); math.Abs(got-80) > 1e-9 {
			t.Errorf("tick %d moves by %g, want 80", tick, got)
		}
	}
	if got := (Feel{Swing: Swing{75, "1/8"}}).Shift(480); got != 240 {
		t.Errorf("75 %% at 1/8 moves by %g, want 240", got)
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
