package breaks

import (
	"math"
	"math/rand/v2"

	"hexachord/core/sound"
)

// worn is what becomes of a recording: played faster or slower (pitch and time together), squashed, taped, of few bits, clipped.
func worn(b sound.Buffer, truth []Hit, rng *rand.Rand) (sound.Buffer, []Hit) {
	d := dice{rng}
	if d.chance(0.22) {
		ratio := math.Exp2(d.between(-0.35, 0.4))
		b = b.Resample(b.Rate, ratio)
		for i := range truth {
			truth[i].TimeS /= ratio
		}
	} else {
		b = b.Clone()
	}
	level := func() {
		if peak := b.Peak(); peak > 0 {
			g := float32(0.9 / peak)
			for _, ch := range b.Channels {
				for i := range ch {
					ch[i] *= g
				}
			}
		}
	}
	if d.chance(0.15) {
		Squeeze{ThresholdDB: d.between(-36, -15), Ratio: d.between(4, 20), AttackS: d.exp(0.0003, 0.02), ReleaseS: d.exp(0.03, 0.2)}.apply(b.Channels)
		level()
	}
	if d.chance(0.15) { // tape
		g := d.between(1, 4)
		hiss := math.Pow(10, d.between(-70, -45)/20)
		for c := range b.Channels {
			lp := sound.LowPass(d.exp(6000, 16000), Rate)
			for i, v := range b.Channels[c] {
				b.Channels[c][i] = float32(lp.Next(math.Tanh(float64(v)*g) + rng.NormFloat64()*hiss))
			}
		}
		level()
	}
	if d.chance(0.1) { // few bits, held
		steps, hold := math.Exp2(d.between(6, 11)), 1+d.IntN(3)
		for _, ch := range b.Channels {
			for i := range ch {
				ch[i] = float32(math.Round(float64(ch[i-i%hold])*steps) / steps)
			}
		}
	}
	if d.chance(0.15) {
		g := float32(math.Pow(10, d.between(1, 10)/20))
		for _, ch := range b.Channels {
			for i, v := range ch {
				ch[i] = max(-0.95, min(0.95, v*g))
			}
		}
	}
	return b, truth
}
