// Package drums synthesises drum strokes from modes and filtered noise: a struck body rings in decaying
// sinusoids (modal synthesis), wires, beads and air are shaped noise, metal is many inharmonic modes.
package drums

import (
	"math"
	"math/rand/v2"
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
	hp, lp := HighPass(z.LoHz, rate), LowPass(math.Min(z.HiHz, rate*0.45), rate)
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

// Biquad is a second-order filter (formulae: R. Bristow-Johnson, "Audio EQ Cookbook").
type Biquad struct{ b0, b1, b2, a1, a2, x1, x2, y1, y2 float64 }

// Next filters one sample.
func (q *Biquad) Next(x float64) float64 {
	y := q.b0*x + q.b1*q.x1 + q.b2*q.x2 - q.a1*q.y1 - q.a2*q.y2
	q.x2, q.x1, q.y2, q.y1 = q.x1, x, q.y1, y
	return y
}

func design(hz, rate, q float64, b func(cos, alpha float64) (b0, b1, b2 float64)) Biquad {
	w := 2 * math.Pi * math.Max(10, math.Min(hz, rate*0.47)) / rate
	alpha := math.Sin(w) / (2 * q)
	b0, b1, b2 := b(math.Cos(w), alpha)
	a0 := 1 + alpha
	return Biquad{b0: b0 / a0, b1: b1 / a0, b2: b2 / a0, a1: -2 * math.Cos(w) / a0, a2: (1 - alpha) / a0}
}

// LowPass passes what lies below hz.
func LowPass(hz, rate float64) Biquad {
	return design(hz, rate, math.Sqrt2/2, func(c, _ float64) (float64, float64, float64) { return (1 - c) / 2, 1 - c, (1 - c) / 2 })
}

// HighPass passes what lies above hz.
func HighPass(hz, rate float64) Biquad {
	return design(hz, rate, math.Sqrt2/2, func(c, _ float64) (float64, float64, float64) { return (1 + c) / 2, -1 - c, (1 + c) / 2 })
}

// Peaking lifts or cuts around hz by db.
func Peaking(hz, db, q, rate float64) Biquad {
	a := math.Pow(10, db/40)
	w := 2 * math.Pi * math.Min(hz, rate*0.47) / rate
	alpha := math.Sin(w) / (2 * q)
	a0 := 1 + alpha/a
	return Biquad{b0: (1 + alpha*a) / a0, b1: -2 * math.Cos(w) / a0, b2: (1 - alpha*a) / a0,
		a1: -2 * math.Cos(w) / a0, a2: (1 - alpha/a) / a0}
}
