// Package drums synthesises drum strokes from modes and filtered noise: a struck body rings in decaying
// sinusoids (modal synthesis), wires, beads and air are shaped noise, metal is many inharmonic modes.
package drums

import (
	"math"
	"math/rand/v2"

	"hexachord/core/sound"
)

// Mode is one decaying sinusoid of a struck body.
type Mode struct {
	Hz     float64
	Sweep  float64 // how far above Hz it begins at full strength, as a share of Hz
	SweepS float64 // time constant of the fall to Hz, seconds
	DecayS float64 // time to fall by 60 dB, seconds
	Amp    float64
	Hard   float64 // how much faster than the whole it grows with strength: amplitude·strength^Hard
}

// Noise is filtered noise with an attack and a decay.
type Noise struct {
	LoHz, HiHz float64
	AttackS    float64
	DecayS     float64 // time to fall by 60 dB, seconds
	Amp        float64
	Hard       float64
	Bursts     []float64 // extra starts, seconds after the first (hands that do not meet at once)
}

// Drum is one piece.
type Drum struct {
	Modes   []Mode
	Noises  []Noise
	Drive   float64 // 0 = clean; soft saturation
	Seconds float64
}

// Stroke renders one stroke at a sample rate: strength 0..1 is how hard it is struck (tone and level),
// seed varies the noise and the modes' phases from stroke to stroke. The result's peak grows with strength,
// to about 1.
func (d Drum) Stroke(strength float64, seed uint64, rate int) []float32 {
	rng := rand.New(rand.NewPCG(seed, 0x64727563))
	n := int(d.Seconds * float64(rate))
	out := make([]float64, n)
	fr := float64(rate)
	for _, m := range d.Modes {
		if m.Hz < fr*0.45 {
			m.add(out, strength, rng, fr)
		}
	}
	for _, z := range d.Noises {
		z.add(out, strength, rng, fr)
	}
	for i, v := range out {
		if d.Drive > 0 {
			g := 1 + d.Drive*4
			v = math.Tanh(v*g) / math.Tanh(g)
		}
		out[i] = v * strength * strength
	}
	tail := min(n, rate/20) // the end is let down over 50 ms
	for i := range tail {
		out[n-1-i] *= float64(i) / float64(tail)
	}
	res := make([]float32, n)
	for i, v := range out {
		res[i] = float32(v)
	}
	return res
}

func (m Mode) add(out []float64, strength float64, rng *rand.Rand, rate float64) {
	amp := m.Amp * math.Pow(strength, m.Hard)
	if amp < 1e-5 {
		return
	}
	r := math.Pow(10, -3/(m.DecayS*rate))
	n := min(len(out), int(1.6*m.DecayS*rate)+1)
	if m.Sweep == 0 {
		// two-pole resonator; the start phase varies a little, so that no two strokes are the same
		w := 2 * math.Pi * m.Hz / rate
		phase := (rng.Float64() - 0.5) * 0.6
		y1, y2 := amp*math.Sin(phase-w)/r, amp*math.Sin(phase-2*w)/(r*r)
		c := 2 * r * math.Cos(w)
		for i := range n {
			y := c*y1 - r*r*y2
			y2, y1 = y1, y
			out[i] += y
		}
		return
	}
	phase, gain := 0.0, amp
	fall := math.Exp(-1 / (m.SweepS * rate))
	sweep := m.Sweep * (0.35 + 0.65*strength)
	for i := range n {
		out[i] += gain * math.Sin(phase)
		phase += 2 * math.Pi * m.Hz * (1 + sweep) / rate
		sweep *= fall
		gain *= r
	}
}

func (z Noise) add(out []float64, strength float64, rng *rand.Rand, rate float64) {
	amp := z.Amp * math.Pow(strength, z.Hard)
	if amp < 1e-5 {
		return
	}
	hp, lp := sound.HighPass(z.LoHz, rate), sound.LowPass(math.Min(z.HiHz, rate*0.45), rate)
	hp2, lp2 := hp, lp
	r := math.Pow(10, -3/(z.DecayS*rate))
	rise := 1 - math.Exp(-1/(math.Max(z.AttackS, 2e-4)*rate))
	starts := []int{0}
	for _, b := range z.Bursts {
		starts = append(starts, int(b*rate))
	}
	env, target := 0.0, 0.0
	gainUp := amp * math.Sqrt(rate/(2*math.Max(200, math.Min(z.HiHz, rate/2)-z.LoHz))) * 0.9
	for i, k := 0, 0; i < len(out); i++ {
		if k < len(starts) && i >= starts[k] {
			target = 1
			if k < len(starts)-1 { // an early burst dies fast, the last one rings
				env *= 0.3
			}
			k++
		}
		env += (target - env) * rise
		target *= r
		if k < len(starts) && len(starts) > 1 {
			target *= math.Pow(10, -3/(0.02*rate))
		}
		v := rng.Float64()*2 - 1
		v = lp2.Next(lp.Next(hp2.Next(hp.Next(v))))
		out[i] += v * env * gainUp
		if target < 1e-4 && env < 1e-4 && k >= len(starts) {
			break
		}
	}
}
