package hear_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"hexachord/core/hear"
)

// struckAt are decaying strokes of a low drum at some seconds, each as loud as given, over a bed of hiss.
func struckAt(rate int, seconds float64, at, loud []float64) []float32 {
	rng := rand.New(rand.NewPCG(5, 5))
	x := make([]float32, int(seconds*float64(rate)))
	for i := range x {
		x[i] = float32(0.001 * rng.NormFloat64())
		for k, s := range at {
			if t := float64(i)/float64(rate) - s; t >= 0 {
				x[i] += float32(loud[k] * math.Exp(-t/0.06) * math.Sin(2*math.Pi*90*t))
			}
		}
	}
	return x
}

// Every stroke is heard once, its gate open within 8 ms of it (with the 4 ms of listening: 12), the louder of two as the harder, whether
// the input comes in blocks of 128 or at once; what is too soft, too near or in another band is not.
func TestAnInputIsHeardAsItComes(t *testing.T) {
	const rate = 48000
	at := []float64{0.1, 0.35, 0.6, 0.75, 0.77, 1.1}
	loud := []float64{0.7, 0.3, 0.1, 0.6, 0.5, 0.02}
	x := struckAt(rate, 1.4, at, loud)
	l := hear.Listener{LoHz: 40, HiHz: 200, OpenDB: -30, CloseDB: -38, GapMS: 40}
	all := func(l hear.Listener, block int) (out []hear.LiveStrike) {
		v, err := hear.NewLive(l, rate)
		if err != nil {
			t.Fatal(err)
		}
		for from := 0; from < len(x); from += block {
			out = append(out, v.Feed(x[from:min(len(x), from+block)])...)
		}
		return out
	}
	got := all(l, 128)
	if len(got) != 4 {
		t.Fatalf("%d strokes were heard, not 4: %+v", len(got), got)
	}
	for i, s := range got {
		if late := float64(s.Frame)/rate - at[i]; late < 0 || late+hear.LookS > 0.012 {
			t.Errorf("stroke %d at %.3f s is heard %.1f ms late", i, at[i], 1000*(late+hear.LookS))
		}
	}
	if got[0].Velocity <= got[1].Velocity || got[1].Velocity <= got[2].Velocity || got[0].Velocity < 110 {
		t.Errorf("velocities %+v", got)
	}
	whole := all(l, len(x))
	for i := range whole {
		if whole[i] != got[i] {
			t.Errorf("in blocks %+v, at once %+v", got[i], whole[i])
		}
	}
	for words, other := range map[string]hear.Listener{
		"another band": {LoHz: 6000, HiHz: 14000, OpenDB: -30, CloseDB: -38, GapMS: 40},
		"off":          {LoHz: 40, HiHz: 200, OpenDB: -30, CloseDB: -38, GapMS: 40, Off: true},
	} {
		if got := all(other, 128); len(got) != 0 {
			t.Errorf("%s: %+v", words, got)
		}
	}
	// two strokes that are over soon, 160 ms apart: within the gap they are one
	short := struckAt(rate, 0.4, []float64{0.1, 0.26}, []float64{0.7, 0.7})
	for i := range short { // dies away in 8 ms
		t := float64(i)/rate - 0.1
		if t >= 0.16 {
			t -= 0.16
		}
		if t > 0 {
			short[i] *= float32(math.Exp(-t / 0.008))
		}
	}
	for gap, want := range map[float64]int{30: 2, 250: 1} {
		v, err := hear.NewLive(hear.Listener{LoHz: 40, HiHz: 200, OpenDB: -30, CloseDB: -38, GapMS: gap}, rate)
		if err != nil {
			t.Fatal(err)
		}
		if got := v.Feed(short); len(got) != want {
			t.Errorf("with a gap of %g ms %d strokes are heard: %+v", gap, len(got), got)
		}
	}
	l.GapMS = 0
	if got := all(l, 128); len(got) < 4 {
		t.Errorf("without a gap %d", len(got))
	}
	l.OpenDB = -3
	if got := all(l, 128); len(got) != 0 {
		t.Errorf("through a threshold above all of them: %+v", got)
	}
	if _, err := hear.NewLive(hear.Listener{LoHz: 200, HiHz: 40}, rate); err == nil {
		t.Error("a band upside down was taken")
	}
}
