package breaks

import (
	"math"
	"math/rand/v2"

	"hexachord/demo/drums"
)

// Widen makes a drum less like the model it came from: single modes and noises louder, longer and elsewhere. By is how far,
// 0 leaves its sound as it is, with more room to die away in.
func Widen(d *drums.Drum, by float64, rng *rand.Rand) {
	vary := func(v *float64, share float64) { *v *= math.Exp(by * share * rng.NormFloat64()) }
	long := math.Exp(by * 0.3 * rng.NormFloat64())
	for i := range d.Modes {
		m := &d.Modes[i]
		vary(&m.Amp, 0.5)
		m.DecayS *= long
		vary(&m.DecayS, 0.25)
		vary(&m.Hz, 0.03)
	}
	for i := range d.Noises {
		z := &d.Noises[i]
		vary(&z.Amp, 0.5)
		z.DecayS *= long
		vary(&z.DecayS, 0.25)
		vary(&z.LoHz, 0.3)
		vary(&z.HiHz, 0.3)
		z.HiHz = math.Max(z.HiHz, z.LoHz*1.5)
	}
	d.Seconds = math.Min(5, d.Seconds*math.Max(1, long*1.2))
}
