package sound

import "math"

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
