package kind

import (
	"math"

	"hexachord/core/sound"
)

// Silence is the loudness given to what cannot be heard, LUFS.
const Silence = -120.0

// biquad is a second-order filter section.
type biquad struct{ b0, b1, b2, a1, a2 float64 }

// kWeighting are the two filters of ITU-R BS.1770-4 for a sample rate: its 48 kHz coefficients come out of these
// parameters (shelf 1681.97 Hz, +4 dB; high pass 38.14 Hz), as De Man (2018) derives them; values from memory, checked
// against the coefficients the recommendation prints.
func kWeighting(rate int) [2]biquad {
	shelf := func() biquad {
		const hz, db, q = 1681.974450955533, 3.999843853973347, 0.7071752369554196
		k := math.Tan(math.Pi * hz / float64(rate))
		vh := math.Pow(10, db/20)
		vb := math.Pow(vh, 0.4996667741545416)
		a0 := 1 + k/q + k*k
		return biquad{(vh + vb*k/q + k*k) / a0, 2 * (k*k - vh) / a0, (vh - vb*k/q + k*k) / a0, 2 * (k*k - 1) / a0, (1 - k/q + k*k) / a0}
	}
	const hz, q = 38.13547087602444, 0.5003270373238773
	k := math.Tan(math.Pi * hz / float64(rate))
	a0 := 1 + k/q + k*k
	return [2]biquad{shelf(), {1, -2, 1, 2 * (k*k - 1) / a0, (1 - k/q + k*k) / a0}}
}

func (f biquad) filter(x []float64) {
	var x1, x2, y1, y2 float64
	for i, v := range x {
		y := f.b0*v + f.b1*x1 + f.b2*x2 - f.a1*y1 - f.a2*y2
		x2, x1, y2, y1 = x1, v, y1, y
		x[i] = y
	}
}

// Loudness is the momentary loudness (400 ms, ITU-R BS.1770-4) of the loudest moment, in LUFS. What is shorter counts
// as if silence followed.
func Loudness(b sound.Buffer) float64 {
	n := b.Frames()
	if n == 0 || b.Rate == 0 {
		return Silence
	}
	filters := kWeighting(b.Rate)
	if b.Rate < 4*1682 { // the shelf lies where this recording has nothing
		filters[0] = biquad{b0: 1}
	}
	window, hop := b.Rate*4/10, b.Rate/10
	blocks := make([]float64, n/hop+1) // energy of each 100 ms
	for _, ch := range b.Channels[:min(2, len(b.Channels))] {
		x := make([]float64, n)
		for i, v := range ch {
			x[i] = float64(v)
		}
		for _, f := range filters {
			f.filter(x)
		}
		for i, v := range x {
			blocks[i/hop] += v * v
		}
	}
	top := 0.0
	for i := range blocks {
		sum := 0.0
		for _, e := range blocks[i:min(len(blocks), i+4)] {
			sum += e
		}
		top = math.Max(top, sum/float64(window))
	}
	return math.Max(Silence, -0.691+10*math.Log10(top+1e-20))
}
