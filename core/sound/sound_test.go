package sound

import (
	"math"
	"testing"

	"gonum.org/v1/gonum/dsp/fourier"
)

func tone(rate int, hz float64, frames int) Buffer {
	b := New(rate, 1, frames)
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(0.9 * math.Sin(2*math.Pi*hz*float64(i)/float64(rate)))
	}
	return b
}

// strongest finds the strongest frequency of the middle of a buffer, and the strongest level elsewhere, in dB under it.
func strongest(b Buffer) (hz, restDB float64) {
	const n = 16384
	x := make([]float64, n)
	from := b.Frames()/2 - n/2
	for i := range x { // Blackman-Harris: side lobes at −92 dB (Harris 1978)
		p := 2 * math.Pi * float64(i) / n
		w := 0.35875 - 0.48829*math.Cos(p) + 0.14128*math.Cos(2*p) - 0.01168*math.Cos(3*p)
		x[i] = float64(b.Channels[0][from+i]) * w
	}
	c := fourier.NewFFT(n).Coefficients(nil, x)
	power := make([]float64, len(c))
	top := 0
	for i, v := range c {
		power[i] = real(v)*real(v) + imag(v)*imag(v)
		if power[i] > power[top] {
			top = i
		}
	}
	rest := 1e-30
	for i, p := range power {
		if i < top-6 || i > top+6 {
			rest = math.Max(rest, p)
		}
	}
	return float64(top) * float64(b.Rate) / n, 10 * math.Log10(rest/power[top])
}

func TestResamplingKeepsThePitchAndTuneMovesIt(t *testing.T) {
	src := tone(44100, 1000, 60000)
	for _, c := range []struct {
		rate  int
		speed float64
		want  float64
	}{{48000, 1, 1000}, {96000, 1, 1000}, {44100, math.Exp2(7.0 / 12), 1498.3}, {44100, 0.5, 500}} {
		hz, rest := strongest(src.Resample(c.rate, c.speed))
		if math.Abs(hz-c.want) > 6 {
			t.Errorf("to %d at %.3f: %.1f Hz, want %.1f", c.rate, c.speed, hz, c.want)
		}
		if rest > -85 { // the window's own floor is −92
			t.Errorf("to %d at %.3f: something stands at %.1f dB", c.rate, c.speed, rest)
		}
	}
}

// What lies above half the new rate must not fold back: under −90 dB.
func TestResamplingLetsNothingFoldBack(t *testing.T) {
	for _, hz := range []float64{17000, 19000, 21000} {
		out := tone(44100, hz, 60000).Resample(32000, 1)
		mid := out.Region(out.Frames()/4, out.Frames()*3/4)
		if db := DB(mid.Peak() / 0.9); db > -90 {
			t.Errorf("%g Hz comes through at %.1f dB after conversion to 32 kHz", hz, db)
		}
	}
}

func TestResamplingKeepsLevelAndPlace(t *testing.T) {
	b := New(44100, 1, 4000)
	b.Channels[0][1000] = 1
	out := b.Resample(88200, 1)
	best := 0
	for i, v := range out.Channels[0] {
		if v > out.Channels[0][best] {
			best = i
		}
	}
	if best != 2000 {
		t.Errorf("an impulse at frame 1000 is at %d at twice the rate, want 2000", best)
	}
	low := tone(44100, 200, 40000).Resample(48000, 1)
	if p := low.Region(10000, 30000).Peak(); math.Abs(DB(p/0.9)) > 0.02 {
		t.Errorf("a low tone changes its level by %.3f dB", DB(p/0.9))
	}
}

func TestDitherIsSmallSeededAndLeavesSilence(t *testing.T) {
	a, b := tone(44100, 440, 2000), tone(44100, 440, 2000)
	b.Channels[0][10], a.Channels[0][10] = 0, 0
	clean := a.Clone()
	a.Dither(16, 7)
	b.Dither(16, 7)
	for i, v := range a.Channels[0] {
		if v != b.Channels[0][i] {
			t.Fatal("the same seed gives other noise")
		}
		if d := math.Abs(float64(v - clean.Channels[0][i])); d > 1.01*math.Exp2(-15) {
			t.Fatalf("dither of %g, at most one step of 16 bits is meant", d)
		}
	}
	if a.Channels[0][10] != 0 {
		t.Error("silence was dithered")
	}
}

func TestCleanCountsWhatIsNotANumber(t *testing.T) {
	b := New(8000, 2, 4)
	b.Channels[1][2], b.Channels[0][0] = float32(math.NaN()), float32(math.Inf(1))
	if bad := b.Clean(); bad != 2 || b.Peak() != 0 {
		t.Errorf("%d bad, peak %g", bad, b.Peak())
	}
}

func BenchmarkResample48to44(b *testing.B) {
	src := tone(48000, 1000, 48000)
	for b.Loop() {
		src.Resample(44100, 1)
	}
}

// Stretching keeps the pitch: a sine that lasts twice as long crosses zero as often a second.
func TestStretchKeepsThePitch(t *testing.T) {
	const rate = 44100
	b := New(rate, 1, rate)
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(math.Sin(2 * math.Pi * 330 * float64(i) / rate))
	}
	for _, times := range []float64{0.5, 1.3, 2} {
		out := b.Stretch(times)
		crossings := 0
		mid := out.Channels[0][out.Frames()/10 : out.Frames()*9/10]
		for i := 1; i < len(mid); i++ {
			if mid[i-1] < 0 && mid[i] >= 0 {
				crossings++
			}
		}
		hz := float64(crossings) / (float64(len(mid)) / rate)
		if math.Abs(out.Seconds()-times) > 0.001 || math.Abs(hz-330) > 5 || out.Peak() > 1.1 {
			t.Errorf("%g times as long: %.3f s at %.1f Hz, peak %.2f", times, out.Seconds(), hz, out.Peak())
		}
	}
}
