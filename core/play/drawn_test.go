package play

import (
	"math"
	"testing"

	"hexachord/core/kit"
	"hexachord/core/sound"
)

// curve has its points as times, ms, and values in turn.
func curve(v ...float64) (c kit.Drawn) {
	for i := 0; i < len(v); i += 2 {
		c = append(c, kit.Point{AtMS: v[i], Value: v[i+1]})
	}
	return c
}

func sine(hz, seconds float64) sound.Buffer {
	const rate = 48000
	b := sound.New(rate, 1, int(seconds*rate))
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(0.5 * math.Sin(2*math.Pi*hz*float64(i)/rate))
	}
	return b
}

// pitch is the frequency by upward zero crossings between two times, s.
func pitch(b sound.Buffer, from, to float64) float64 {
	n, first, last := 0, 0.0, 0.0
	x := b.Channels[0]
	for i := int(from * float64(b.Rate)); i < min(len(x)-1, int(to*float64(b.Rate))); i++ {
		if x[i] < 0 && x[i+1] >= 0 {
			at := float64(i) + float64(-x[i])/float64(x[i+1]-x[i])
			if n == 0 {
				first = at
			}
			last = at
			n++
		}
	}
	return float64(n-1) / (last - first) * float64(b.Rate)
}

func peakAt(b sound.Buffer, ch int, s float64) float64 {
	top := 0.0
	for i := int(s * float64(b.Rate)); i < min(b.Frames(), int((s+0.006)*float64(b.Rate))); i++ {
		top = math.Max(top, math.Abs(float64(b.Channels[ch][i])))
	}
	return top
}

func shapeWith(f func(*kit.Shape)) VoiceSpec {
	s := kit.Whole()
	f(&s)
	return VoiceSpec{Sample: "x", Form: s, Rate: 48000}
}

func TestADrawnLevelIsHeard(t *testing.T) {
	v := shapeWith(func(s *kit.Shape) { s.Level = curve(100, 0, 300, -12, 400, -60) }).Shape(sine(1000, 0.6))
	for at, want := range map[float64]float64{0.05: 0.5, 0.2: 0.5 * kit.DBToGain(-6), 0.3: 0.5 * kit.DBToGain(-12), 0.45: 0} {
		if got := peakAt(v.Buffer, 0, at); math.Abs(got-want) > 0.02*want+0.002 {
			t.Errorf("at %g s the peak is %.4f, want %.4f", at, got, want)
		}
	}
}

// A constant drawn tune is the same as tuning; a sweep passes the pitches between, and the sound is as long as its frames take.
func TestADrawnTuneIsHeard(t *testing.T) {
	v := shapeWith(func(s *kit.Shape) { s.Tune = curve(0, 12) }).Shape(sine(440, 0.5))
	if hz := pitch(v.Buffer, 0.05, 0.2); math.Abs(hz-880) > 0.5 || math.Abs(float64(v.Frames())/48000-0.25) > 0.001 {
		t.Errorf("an octave up: %.1f Hz for %.3f s", hz, float64(v.Frames())/48000)
	}
	v = shapeWith(func(s *kit.Shape) { s.Tune = curve(0, -12, 200, 0) }).Shape(sine(440, 0.8))
	start, later := pitch(v.Buffer, 0, 0.03), pitch(v.Buffer, 0.4, 0.6)
	if start < 220 || start > 250 || math.Abs(later-440) > 0.5 {
		t.Errorf("rising from an octave below: %.1f Hz, then %.1f", start, later)
	}
	plain := shapeWith(func(*kit.Shape) {}).Shape(sine(440, 0.5))
	flat := shapeWith(func(s *kit.Shape) { s.Tune = curve(0, 0) }).Shape(sine(440, 0.5))
	for i := 100; i < plain.Frames()-100; i++ {
		if d := plain.Channels[0][i] - flat.Channels[0][i]; math.Abs(float64(d)) > 2e-3 {
			t.Fatalf("a drawn tune of 0 changes frame %d by %g", i, d)
		}
	}
}

func TestADrawnPanIsHeard(t *testing.T) {
	v := shapeWith(func(s *kit.Shape) { s.Pan = curve(0, -1, 200, 1) }).Shape(sine(1000, 0.4))
	if len(v.Channels) != 2 {
		t.Fatalf("%d channels", len(v.Channels))
	}
	for at, want := range map[float64][2]float64{0.001: {0.5 * math.Sqrt2, 0}, 0.0985: {0.5, 0.5}, 0.3: {0, 0.5 * math.Sqrt2}} {
		l, r := peakAt(v.Buffer, 0, at), peakAt(v.Buffer, 1, at)
		if math.Abs(l-want[0]) > 0.03 || math.Abs(r-want[1]) > 0.045 {
			t.Errorf("at %g s %.3f left, %.3f right; want %.3f and %.3f", at, l, r, want[0], want[1])
		}
	}
}

// A held sound repeats only once its curves have come to rest.
func TestDrawnCurvesRestBeforeWhatRepeats(t *testing.T) {
	spec := shapeWith(func(s *kit.Shape) {
		s.Loop, s.LoopStart, s.LoopEnd = true, 4800, 9600
		s.Level, s.Tune = curve(0, 0, 300, -12), curve(0, 0, 250, 12)
	})
	v := spec.Shape(sine(440, 0.5))
	if v.LoopEnd <= v.LoopStart || v.LoopEnd > v.Frames() {
		t.Fatalf("the loop goes from %d to %d of %d", v.LoopStart, v.LoopEnd, v.Frames())
	}
	from, to := float64(v.LoopStart)/48000, float64(v.LoopEnd)/48000
	if hz := pitch(v.Buffer, from, to); math.Abs(hz-880) > 4 {
		t.Errorf("what repeats sounds at %.1f Hz, want the curve's last, 880", hz)
	}
	if p := peakAt(v.Buffer, 0, from); math.Abs(p-0.5*kit.DBToGain(-12)) > 0.01 {
		t.Errorf("what repeats begins at %.3f", p)
	}
}

func TestDrawnCurvesAreChecked(t *testing.T) {
	for name, c := range map[string]kit.Drawn{"backwards": curve(10, 0, 5, 0), "too loud": curve(0, 13), "before": curve(-1, 0), "nan": curve(0, math.NaN()), "many": make(kit.Drawn, 65)} {
		s := kit.Whole()
		s.Level = c
		p := kit.NewPad(36)
		p.Layers = []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: "a", Shape: s})}
		if err := (kit.Kit{Pads: []kit.Pad{p}}).Check(); err == nil {
			t.Errorf("%s is taken", name)
		}
	}
}
