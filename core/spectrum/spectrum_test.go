package spectrum

import (
	"math"
	"testing"
)

func sine(hz float64, frames int) []float32 {
	x := make([]float32, frames)
	for i := range x {
		x[i] = float32(math.Sin(2 * math.Pi * hz * float64(i) / Rate))
	}
	return x
}

// A full-scale sinusoid in the middle of bin k has power 1 there, a quarter (−6 dB) in the bins beside it (the Hann window's
// transform: Harris, "On the use of windows for harmonic analysis with the discrete Fourier transform", Proc. IEEE 66, 1978)
// and nothing two bins further.
func TestASinusoidThroughAHannWindow(t *testing.T) {
	for _, size := range []int{512, 1024, 4096} {
		k := size / 16
		power := New(size).At(sine(float64(k)*Rate/float64(size), size), 0)
		for at, want := range map[int]float64{k: 1, k - 1: 0.25, k + 1: 0.25, k + 3: 0, k - 3: 0} {
			if math.Abs(power[at]-want) > 1e-4 {
				t.Errorf("size %d, bin %d−%d: power %g, want %g", size, at, k, power[at], want)
			}
		}
	}
}

// What lies outside the sound is silence, and a piece looked at again is the same whatever came between.
func TestOutsideIsSilence(t *testing.T) {
	a := New(512)
	x := sine(1000, 512)
	first := append([]float64(nil), a.At(x, -256)...)
	for _, start := range []int{-512, 512, 1 << 40} {
		for i, p := range a.At(x, start) {
			if p != 0 {
				t.Fatalf("at %d bin %d has power %g", start, i, p)
			}
		}
	}
	for i, p := range a.At(x, -256) {
		if p != first[i] {
			t.Fatalf("bin %d: %g, then %g", i, first[i], p)
		}
	}
}

// 1000 Hz is 1000 mel to within a thousandth (the scale's definition); evenly spaced there, centres rise ever further apart.
func TestBandsAreEvenOnTheMelScale(t *testing.T) {
	mel := func(hz float64) float64 { return 2595 * math.Log10(1+hz/700) }
	if m := mel(1000); math.Abs(m-1000) > 1 {
		t.Fatalf("1000 Hz is %g mel", m)
	}
	at := Centres(40, 40, 16000)
	step := (mel(16000) - mel(40)) / 41
	for i, hz := range at {
		if want := mel(40) + step*float64(i+1); math.Abs(mel(hz)-want) > 1e-6 {
			t.Errorf("band %d lies at %g mel, want %g", i, mel(hz), want)
		}
	}
}

// A tone is loudest in the band whose centre is nearest to it.
func TestABankPutsAToneInItsBand(t *testing.T) {
	const size, bands = 2048, 24
	bank := NewBank(bands, size, 60, 12000)
	centres := Centres(bands, 60, 12000)
	out := make([]float32, bands)
	for b := 4; b < bands; b++ { // below, bands are narrower than the window's own bin
		bank.Apply(New(size).At(sine(centres[b], size), 0), out)
		best := 0
		for i, v := range out {
			if v > out[best] {
				best = i
			}
		}
		if best != b {
			t.Errorf("%g Hz is loudest in band %d (%g Hz), not %d", centres[b], best, centres[best], b)
		}
	}
}
