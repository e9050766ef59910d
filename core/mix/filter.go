package mix

import (
	"errors"
	"math"
	"math/cmplx"
)

// Band is a frequency and how much it is raised or lowered.
type Band struct {
	Hz float64 `json:"hz" minimum:"20" maximum:"20000"`
	DB float64 `json:"db" minimum:"-18" maximum:"18"`
}

// Equaliser is a high-pass, a low shelf, a bell and a high shelf.
type Equaliser struct {
	On         bool    `json:"on,omitempty"`
	HighPassHz float64 `json:"highPass,omitempty" minimum:"0" maximum:"2000"` // 0: none
	Slope      int     `json:"slope,omitempty" enum:"12,24"`                  // of the high-pass, dB an octave
	Low        Band    `json:"low"`
	Mid        Band    `json:"mid"`
	MidQ       float64 `json:"midQ" minimum:"0.1" maximum:"18"`
	High       Band    `json:"high"`
}

func (e Equaliser) check() error {
	errs := []error{within("a high-pass in Hz", e.HighPassHz, 0, 2000), within("a Q", e.MidQ, 0.1, 18)}
	for _, b := range []Band{e.Low, e.Mid, e.High} {
		errs = append(errs, within("a band in Hz", b.Hz, 20, 20000), within("a band in dB", b.DB, -18, 18))
	}
	if e.Slope != 12 && e.Slope != 24 {
		errs = append(errs, within("a high-pass's slope in dB an octave", float64(e.Slope), 12, 12))
	}
	return errors.Join(errs...)
}

// Biquad are the coefficients of a second-order section, a0 divided out.
type Biquad struct{ B0, B1, B2, A1, A2 float64 }

// The filters of the W3C Web Audio API, BiquadFilterNode (Recommendation of 2021, "Filters characteristics"), which are those of R. Bristow-
// Johnson's Audio EQ Cookbook. Frequencies at or above half the rate are taken just below it.
func angle(hz float64, rate int) (w, cos, sin float64) {
	w = 2 * math.Pi * min(hz, 0.499*float64(rate)) / float64(rate)
	return w, math.Cos(w), math.Sin(w)
}

func norm(b0, b1, b2, a0, a1, a2 float64) Biquad {
	return Biquad{b0 / a0, b1 / a0, b2 / a0, a1 / a0, a2 / a0}
}

// HighPass is a second-order high-pass of a quality q (0.7071 is Butterworth's).
func HighPass(hz, q float64, rate int) Biquad {
	_, cos, sin := angle(hz, rate)
	alpha := sin / (2 * q)
	return norm((1+cos)/2, -(1 + cos), (1+cos)/2, 1+alpha, -2*cos, 1-alpha)
}

// Bell raises or lowers around a frequency.
func Bell(b Band, q float64, rate int) Biquad {
	_, cos, sin := angle(b.Hz, rate)
	a := math.Pow(10, b.DB/40)
	alpha := sin / (2 * q)
	return norm(1+alpha*a, -2*cos, 1-alpha*a, 1+alpha/a, -2*cos, 1-alpha/a)
}

// LowShelf raises or lowers what lies below, by a shelf of slope 1.
func LowShelf(b Band, rate int) Biquad {
	_, cos, sin := angle(b.Hz, rate)
	a := math.Pow(10, b.DB/40)
	s := sin * math.Sqrt2 * math.Sqrt(a)
	return norm(a*((a+1)-(a-1)*cos+s), 2*a*((a-1)-(a+1)*cos), a*((a+1)-(a-1)*cos-s), (a+1)+(a-1)*cos+s, -2*((a-1)+(a+1)*cos), (a+1)+(a-1)*cos-s)
}

// HighShelf raises or lowers what lies above.
func HighShelf(b Band, rate int) Biquad {
	_, cos, sin := angle(b.Hz, rate)
	a := math.Pow(10, b.DB/40)
	s := sin * math.Sqrt2 * math.Sqrt(a)
	return norm(a*((a+1)+(a-1)*cos+s), -2*a*((a-1)+(a+1)*cos), a*((a+1)+(a-1)*cos-s), (a+1)-(a-1)*cos+s, 2*((a-1)-(a+1)*cos), (a+1)-(a-1)*cos-s)
}

// Butterworth qualities of a fourth-order filter in two sections.
var fourth = [2]float64{0.5411961001461970, 1.3065629648763766}

// Sections are the equaliser's filters that do something.
func (e Equaliser) Sections(rate int) []Biquad {
	var out []Biquad
	if e.HighPassHz > 0 {
		if e.Slope == 24 {
			out = append(out, HighPass(e.HighPassHz, fourth[0], rate), HighPass(e.HighPassHz, fourth[1], rate))
		} else {
			out = append(out, HighPass(e.HighPassHz, math.Sqrt2/2, rate))
		}
	}
	if e.Low.DB != 0 {
		out = append(out, LowShelf(e.Low, rate))
	}
	if e.Mid.DB != 0 {
		out = append(out, Bell(e.Mid, e.MidQ, rate))
	}
	if e.High.DB != 0 {
		out = append(out, HighShelf(e.High, rate))
	}
	return out
}

// ResponseDB is by how much sections raise a frequency, dB.
func ResponseDB(sections []Biquad, hz float64, rate int) float64 {
	z := cmplx.Exp(complex(0, -2*math.Pi*hz/float64(rate)))
	h := complex(1, 0)
	for _, s := range sections {
		h *= (complex(s.B0, 0) + complex(s.B1, 0)*z + complex(s.B2, 0)*z*z) / (1 + complex(s.A1, 0)*z + complex(s.A2, 0)*z*z)
	}
	return 20 * math.Log10(cmplx.Abs(h))
}

// section is a filter at work on both sides (direct form 1, transposed 2: two numbers a side).
type section struct {
	Biquad
	s1, s2 [2]float64
}

// rest is what a filter remembers that is nothing any more: numbers much smaller are reckoned with a hundred times as slowly.
const rest = 1e-25

// both runs both sides at once, which do not wait for each other.
func (f *section) both(l, r []float64) {
	b0, b1, b2, a1, a2 := f.B0, f.B1, f.B2, f.A1, f.A2
	l1, l2, r1, r2 := f.s1[0], f.s2[0], f.s1[1], f.s2[1]
	for len(l) > 0 {
		n := min(len(l), 256)
		right := r[:n]
		for i, v := range l[:n] {
			w := right[i]
			y := b0*v + l1
			z := b0*w + r1
			l1 = b1*v - a1*y + l2
			r1 = b1*w - a1*z + r2
			l2 = b2*v - a2*y
			r2 = b2*w - a2*z
			l[i], right[i] = y, z
		}
		l, r = l[n:], r[n:]
		if math.Abs(l1) < rest && math.Abs(l2) < rest {
			l1, l2 = 0, 0
		}
		if math.Abs(r1) < rest && math.Abs(r2) < rest {
			r1, r2 = 0, 0
		}
	}
	f.s1, f.s2 = [2]float64{l1, r1}, [2]float64{l2, r2}
}

func (f *section) run(side int, x []float64) {
	s1, s2 := f.s1[side], f.s2[side]
	b0, b1, b2, a1, a2 := f.B0, f.B1, f.B2, f.A1, f.A2
	for len(x) > 0 {
		n := min(len(x), 256)
		for i, v := range x[:n] {
			y := b0*v + s1
			s1 = b1*v - a1*y + s2
			s2 = b2*v - a2*y
			x[i] = y
		}
		x = x[n:]
		if math.Abs(s1) < rest && math.Abs(s2) < rest {
			s1, s2 = 0, 0
		}
	}
	f.s1[side], f.s2[side] = s1, s2
}
