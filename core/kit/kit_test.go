package kit

import (
	"errors"
	"math"
	"testing"
)

// 40·log10(v/127) dB: SFZ amp_veltrack 100 and the DLS/GM2 recommendation. At 64 that is −11.9 dB.
func TestVelocityGain(t *testing.T) {
	if got := 20 * math.Log10(VelocityGain(64, 100)); math.Abs(got+11.9) > 0.05 {
		t.Errorf("velocity 64 is %.2f dB, want −11.9", got)
	}
	if VelocityGain(127, 100) != 1 || VelocityGain(1, 0) != 1 {
		t.Error("full strength, and no tracking, leave the level alone")
	}
	if got := 20 * math.Log10(VelocityGain(64, 50)); math.Abs(got+5.95) > 0.05 {
		t.Errorf("velocity 64 at half tracking is %.2f dB, want half as many", got)
	}
}

// Equal power: −3 dB (1/√2) each in the centre, and the sum of squares constant.
func TestPanIsEqualPower(t *testing.T) {
	if l, r := PanGains(0); math.Abs(l-math.Sqrt2/2) > 1e-12 || math.Abs(r-math.Sqrt2/2) > 1e-12 {
		t.Errorf("centre: %g %g", l, r)
	}
	for pan := -1.0; pan <= 1; pan += 0.25 {
		if l, r := PanGains(pan); math.Abs(l*l+r*r-1) > 1e-12 || l < -1e-12 || r < -1e-12 {
			t.Errorf("pan %g: %g %g", pan, l, r)
		}
	}
}

func TestEvenRangesCoverEverythingOnce(t *testing.T) {
	for n := 1; n <= 127; n++ {
		next, least, most := 1, 127, 0
		for _, r := range EvenRanges(n) {
			if r.Lo != next {
				t.Fatalf("%d ranges: one begins at %d, want %d", n, r.Lo, next)
			}
			size := r.Hi - r.Lo + 1
			least, most, next = min(least, size), max(most, size), r.Hi+1
		}
		if next != 128 || most-least > 1 {
			t.Fatalf("%d ranges end at %d, sizes %d to %d", n, next-1, least, most)
		}
	}
}

// Four layers 1–40, 41–80, 81–100, 101–127 (common practice, no source).
func TestLayersAndTheLadder(t *testing.T) {
	p := Pad{Layers: []Layer{{Lo: 1, Hi: 40}, {Lo: 41, Hi: 80}, {Lo: 81, Hi: 100}, {Lo: 101, Hi: 127}}}
	for v, want := range map[int]int{1: 0, 40: 0, 41: 1, 80: 1, 81: 2, 100: 2, 101: 3, 127: 3} {
		if got := p.LayersAt(v); len(got) != 1 || got[0] != want {
			t.Errorf("velocity %d fires %v, want layer %d", v, got, want)
		}
	}
	if gaps, overlaps := p.Ladder(); gaps != nil || overlaps != nil {
		t.Errorf("gaps %v, overlaps %v; want none", gaps, overlaps)
	}
	p.Layers[1] = Layer{Lo: 50, Hi: 85}
	gaps, overlaps := p.Ladder()
	if len(gaps) != 1 || gaps[0] != (Range{41, 49}) || len(overlaps) != 1 || overlaps[0] != (Range{81, 85}) {
		t.Errorf("gaps %v, overlaps %v", gaps, overlaps)
	}
}

func TestCheckRefusesWhatCannotSound(t *testing.T) {
	for name, p := range map[string]Pad{
		"level":  {LevelDB: 13},
		"nan":    {Pan: math.NaN()},
		"tune":   {Semitones: -49},
		"choke":  {Choke: 17},
		"layer":  {Layers: []Layer{{Lo: 50, Hi: 40}}},
		"region": {Layers: []Layer{{Lo: 1, Hi: 127, StartFrame: 10, EndFrame: 10}}},
	} {
		if err := (Kit{Pads: []Pad{p}}).Check(); !errors.Is(err, ErrKit) {
			t.Errorf("%s: %v, want ErrKit", name, err)
		}
	}
}
