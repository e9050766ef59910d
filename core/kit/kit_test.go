package kit

import (
	"errors"
	"fmt"
	"math"
	"slices"
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
	if gaps, overlaps = (Pad{Layers: []Layer{{Lo: 2, Hi: 126}}}).Ladder(); !slices.Equal(gaps, []Range{{1, 1}, {127, 127}}) || overlaps != nil {
		t.Errorf("2 to 126: gaps %v, overlaps %v", gaps, overlaps)
	}
	if gaps, _ = (Pad{}).Ladder(); len(gaps) > 1 {
		t.Errorf("without layers: gaps %v", gaps)
	}
}

func TestCheckRefusesWhatCannotSound(t *testing.T) {
	for name, p := range map[string]Pad{
		"level":  {LevelDB: 13},
		"nan":    {Pan: math.NaN()},
		"tune":   {Semitones: -49},
		"choke":  {Choke: 17},
		"layer":  {Layers: []Layer{{Lo: 50, Hi: 40}}},
		"region": {Layers: []Layer{NewLayer(1, 127, Take{Shape: Shape{Curve: Straight, StartFrame: 10, EndFrame: 10}})}},
	} {
		if err := (Kit{Pads: []Pad{p}}).Check(); !errors.Is(err, ErrKit) {
			t.Errorf("%s: %v, want ErrKit", name, err)
		}
	}
}

func take(name string) Take { return Take{Sample: name, Source: name, Shape: Whole()} }

func TestEditsOfLayers(t *testing.T) {
	loud := loudOf
	k, err := Apply(Kit{}, Edit{Op: OpAdd, From: 38, How: AddLayer, Takes: []Take{take("c"), take("a"), take("b"), take("d")}}, loud)
	if err != nil {
		t.Fatal(err)
	}
	ladder := func(k Kit) (out []string) {
		p, _ := k.Pad(38)
		for _, l := range p.Layers {
			out = append(out, fmt.Sprintf("%d-%d", l.Lo, l.Hi))
			for _, s := range l.Sounds {
				out = append(out, s.Takes[len(s.Takes)-1].Sample)
			}
		}
		return out
	}
	// soft to loud, in four even ranges of 32, 32, 32 and 31
	if got := ladder(k); !slices.Equal(got, []string{"1-32", "a", "33-64", "d", "65-96", "b", "97-127", "c"}) {
		t.Errorf("four samples as layers: %v", got)
	}
	next, err := Apply(k, Edit{Op: OpAdd, From: 38, How: Stack, Layer: 3, Takes: []Take{take("a")}}, loud)
	if got := ladder(next); err != nil || !slices.Equal(got[6:], []string{"97-127", "c", "a"}) {
		t.Errorf("stacked on the loudest: %v %v", got, err)
	}
	if got := ladder(k); len(got) != 8 {
		t.Error("an edit changed the kit it was made from")
	}
	next, _ = Apply(k, Edit{Op: OpAdd, From: 38, How: AddTake, Layer: -1, Takes: []Take{take("e")}}, loud)
	if p, _ := next.Pad(38); len(p.Layers[2].Sounds[0].Takes) != 2 {
		t.Error("another take for every layer")
	}
	next, _ = Apply(k, Edit{Op: OpAdd, From: 38, How: Replace, Takes: []Take{take("e")}}, loud)
	if got := ladder(next); !slices.Equal(got, []string{"1-127", "e"}) {
		t.Errorf("replaced: %v", got)
	}
	if _, err := Apply(k, Edit{Op: OpEven, Notes: []int{40}}, loud); !errors.Is(err, ErrKit) {
		t.Errorf("a pad that is not there: %v", err)
	}
}

// A wanted overlap crossfades at equal power: the squares of the two gains always make 1.
func TestOverlapsCrossfade(t *testing.T) {
	p := Pad{Crossfade: true, Layers: []Layer{NewLayer(1, 80, take("a")), NewLayer(61, 127, take("b"))}}
	for v := 61; v <= 80; v++ {
		a, b := p.LayerGain(0, v), p.LayerGain(1, v)
		if math.Abs(a*a+b*b-1) > 1e-12 || v == 61 && b > 0.1 || v == 80 && a > 0.1 {
			t.Errorf("velocity %d: gains %g and %g", v, a, b)
		}
	}
	if p.LayerGain(0, 60) != 1 || p.LayerGain(1, 81) != 1 || p.LayerGain(1, 60) != 0 {
		t.Error("outside the overlap one layer sounds at full level")
	}
}
