package feel

import (
	"errors"
	"math"
	"testing"
)

// 66.7 % swing is triplet timing: the off-sixteenth falls on the second third of its pair (MIDI-sequencer practice).
func TestSwing(t *testing.T) {
	f := Feel{Swing{200.0 / 3, "1/16"}}
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
	if got := (Feel{Swing{75, "1/8"}}).Shift(480); got != 240 {
		t.Errorf("75 %% at 1/8 moves by %g, want 240", got)
	}
	for _, bad := range []Swing{{49, "1/16"}, {76, "1/16"}, {60, "1/4"}, {math.NaN(), "1/8"}} {
		if err := (Feel{bad}).Check(); !errors.Is(err, ErrSwing) {
			t.Errorf("%v: %v, want ErrSwing", bad, err)
		}
	}
}
