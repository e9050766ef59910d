package hear

import (
	"math"
	"math/rand/v2"
	"testing"

	"hexachord/core/sound"
)

// Tones that are held go one way, clicks the other, and both together are the recording; parts that are done at once meet without
// a seam.
func TestOnlyDrums(t *testing.T) {
	const rate, seconds = 44100, 8
	rng := rand.New(rand.NewPCG(3, 3))
	tones, clicks := make([]float32, rate*seconds), make([]float32, rate*seconds)
	for i := range tones {
		s := float64(i) / rate
		tones[i] = float32(0.2*math.Sin(2*math.Pi*220*s) + 0.2*math.Sin(2*math.Pi*1330*s))
	}
	for at := rate / 4; at < len(clicks)-2000; at += rate / 3 {
		for i := range 600 {
			clicks[at+i] += float32((rng.Float64()*2 - 1) * 0.8 * math.Exp(-float64(i)/100))
		}
	}
	both := make([]float32, len(tones))
	for i := range both {
		both[i] = tones[i] + clicks[i]
	}
	drums, left := OnlyDrums(sound.Buffer{Rate: rate, Channels: [][]float32{both}})
	power := func(x []float32) (sum float64) {
		for _, v := range x {
			sum += float64(v) * float64(v)
		}
		return sum
	}
	less := func(a, b []float32) []float32 {
		out := make([]float32, len(a))
		for i := range a {
			out[i] = a[i] - b[i]
		}
		return out
	}
	d, l := drums.Channels[0], left.Channels[0]
	if err := power(less(less(both, d), l)) / power(both); err > 1e-9 {
		t.Errorf("what is kept and what is left out differ from the recording by %.1f dB", 10*math.Log10(err))
	}
	if kept := power(less(d, clicks)) / power(clicks); kept > 0.1 {
		t.Errorf("the clicks come out with an error of %.1f dB", 10*math.Log10(kept))
	}
	// between the clicks hardly a tone is left, at a seam between parts neither
	for at := rate/4 + rate/6; at < len(d)-rate; at += rate / 3 {
		quiet, was := power(d[at:at+1500])/1500, power(tones[at:at+1500])/1500
		if quiet > was/100 {
			t.Errorf("at %.2f s tones are only %.1f dB softer", float64(at)/rate, 10*math.Log10(was/quiet))
		}
	}
}

func BenchmarkOnlyDrums(b *testing.B) {
	rng := rand.New(rand.NewPCG(3, 3))
	x := make([]float32, 44100*60)
	for i := range x {
		x[i] = rng.Float32() - 0.5
	}
	for b.Loop() {
		OnlyDrums(sound.Buffer{Rate: 44100, Channels: [][]float32{x}})
	}
}
