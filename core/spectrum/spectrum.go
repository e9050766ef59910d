// Package spectrum looks at sound by frequency: windowed power spectra and mel bands.
package spectrum

import (
	"math"

	"hexachord/core/fourier"
)

// Rate is the sample rate every sound is looked at with, in frames a second.
const Rate = 44100

// Analyser computes power spectra of Hann-windowed pieces of one length. Not safe for two goroutines.
type Analyser struct {
	size   int
	window []float64
	fft    *fourier.Real
	in     []float64
	out    []complex128
	power  []float64
}

func New(size int) *Analyser {
	s := &Analyser{size: size, fft: fourier.NewReal(size), window: make([]float64, size), in: make([]float64, size),
		out: make([]complex128, size/2+1), power: make([]float64, size/2+1)}
	sum := 0.0
	for i := range s.window {
		s.window[i] = 0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/float64(size))
		sum += s.window[i]
	}
	for i := range s.window { // a full-scale sinusoid has power 1 whatever the length
		s.window[i] *= 2 / sum
	}
	return s
}

// At is the power spectrum of the piece that begins at frame start; what lies outside x is silence.
// The result is overwritten by the next call.
func (s *Analyser) At(x []float32, start int) []float64 {
	if start >= 0 && start+s.size <= len(x) {
		for i, v := range x[start : start+s.size] {
			s.in[i] = float64(v) * s.window[i]
		}
	} else {
		for i := range s.in {
			s.in[i] = 0
			if k := start + i; k >= 0 && k < len(x) {
				s.in[i] = float64(x[k]) * s.window[i]
			}
		}
	}
	s.fft.Coefficients(s.out, s.in)
	for i, c := range s.out {
		s.power[i] = real(c)*real(c) + imag(c)*imag(c)
	}
	return s.power
}

// Bank sums spectra into bands of triangular filters, evenly spaced on the mel scale (Stevens,
// Volkmann and Newman 1937, in O'Shaughnessy's form m = 2595·log10(1 + f/700)).
type Bank struct {
	first   []int
	weights [][]float64
}

// edgeHz is the edge i of bands from loHz to hiHz; band b rises from edge b to its centre b+1 and falls to b+2.
func edgeHz(i, bands int, loHz, hiHz float64) float64 {
	mel := func(hz float64) float64 { return 2595 * math.Log10(1+hz/700) }
	return 700 * (math.Pow(10, (mel(loHz)+(mel(hiHz)-mel(loHz))*float64(i)/float64(bands+1))/2595) - 1)
}

// Centres are the middles of a bank's bands, Hz.
func Centres(bands int, loHz, hiHz float64) []float64 {
	out := make([]float64, bands)
	for b := range out {
		out[b] = edgeHz(b+1, bands, loHz, hiHz)
	}
	return out
}

func NewBank(bands, size int, loHz, hiHz float64) *Bank {
	edge := func(i int) float64 { return edgeHz(i, bands, loHz, hiHz) * float64(size) / Rate }
	fb := &Bank{first: make([]int, bands), weights: make([][]float64, bands)}
	for b := range bands {
		lo, mid, hi := edge(b), edge(b+1), edge(b+2)
		lo, hi = math.Min(lo, mid-1), math.Max(hi, mid+1) // never narrower than the bins
		first := max(0, int(math.Ceil(lo)))
		fb.first[b] = first
		for k := first; float64(k) < hi && k <= size/2; k++ {
			w := (float64(k) - lo) / (mid - lo)
			if float64(k) > mid {
				w = (hi - float64(k)) / (hi - mid)
			}
			fb.weights[b] = append(fb.weights[b], math.Max(0, w))
		}
	}
	return fb
}

// Bins is how many of the spectrum's values a band is made of.
func (fb *Bank) Bins(band int) int { return len(fb.weights[band]) }

func (fb *Bank) Apply(power []float64, out []float32) {
	for b, w := range fb.weights {
		sum, p := 0.0, power[fb.first[b]:]
		for k, v := range w {
			sum += v * p[k]
		}
		out[b] = float32(sum)
	}
}
