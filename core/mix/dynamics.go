package mix

import (
	"errors"
	"math"
)

// Compressor lowers what is above its threshold: Giannoulis, Massberg and Reiss, "Digital Dynamic Range Compressor Design" (JAES 60/6, 2012),
// feed-forward, in dB, with a soft knee and a smooth branching peak detector. Both sides are lowered alike, by the louder.
type Compressor struct {
	On          bool    `json:"on,omitempty"`
	ThresholdDB float64 `json:"threshold" minimum:"-60" maximum:"0"`
	Ratio       float64 `json:"ratio" minimum:"1" maximum:"100"`
	KneeDB      float64 `json:"knee" minimum:"0" maximum:"24"`
	AttackMS    float64 `json:"attack" minimum:"0.1" maximum:"500"`
	ReleaseMS   float64 `json:"release" minimum:"1" maximum:"5000"`
	MakeupDB    float64 `json:"makeup,omitempty" minimum:"-24" maximum:"24"`
}

func (c Compressor) check() error {
	return errors.Join(within("a compressor's threshold in dB", c.ThresholdDB, -60, 0), within("a ratio", c.Ratio, 1, 100), within("a knee in dB", c.KneeDB, 0, 24),
		within("an attack in ms", c.AttackMS, 0.1, 500), within("a release in ms", c.ReleaseMS, 1, 5000), within("a gain in dB", c.MakeupDB, -24, 24))
}

// Curve is the level that comes out for one that goes in, dB, without the make-up gain (equation 4 of the paper).
func (c Compressor) Curve(db float64) float64 {
	over := db - c.ThresholdDB
	switch {
	case 2*over < -c.KneeDB:
		return db
	case 2*math.Abs(over) <= c.KneeDB && c.KneeDB > 0:
		return db + (1/c.Ratio-1)*math.Pow(over+c.KneeDB/2, 2)/(2*c.KneeDB)
	}
	return c.ThresholdDB + over/c.Ratio
}

// Gate lets through what opens it, and turns the rest down by its range. It closes below a second, lower threshold, after a hold.
type Gate struct {
	On        bool    `json:"on,omitempty"`
	OpenDB    float64 `json:"open" minimum:"-90" maximum:"0"`
	CloseDB   float64 `json:"close" minimum:"-96" maximum:"0"`
	AttackMS  float64 `json:"attack" minimum:"0.05" maximum:"100"`
	HoldMS    float64 `json:"hold" minimum:"0" maximum:"2000"`
	ReleaseMS float64 `json:"release" minimum:"1" maximum:"5000"`
	RangeDB   float64 `json:"range" minimum:"-96" maximum:"0"`
}

func (g Gate) check() error {
	return errors.Join(within("what opens a gate, in dB,", g.OpenDB, -90, 0), within("what closes a gate, in dB: no more than what opens it", g.CloseDB, -96, g.OpenDB),
		within("an attack in ms", g.AttackMS, 0.05, 100), within("a hold in ms", g.HoldMS, 0, 2000), within("a release in ms", g.ReleaseMS, 1, 5000), within("a gate's range in dB", g.RangeDB, -96, 0))
}

// Saturation rounds off what is loud: y = tanh(g·x)/tanh(g), so that full scale stays full scale.
type Saturation struct {
	On      bool    `json:"on,omitempty"`
	DriveDB float64 `json:"drive" minimum:"0" maximum:"36"`
}

func (s Saturation) check() error { return within("a drive in dB", s.DriveDB, 0, 36) }

// steepness is g.
func (s Saturation) steepness() float64 { return math.Pow(10, s.DriveDB/20) - 1 }

// Curve is what comes out for what goes in.
func (s Saturation) Curve(x float64) float64 {
	g := s.steepness()
	if g < 1e-6 {
		return x
	}
	return math.Tanh(g*x) / math.Tanh(g)
}

// pole is the coefficient of a one-pole that has come 63 % of its way after so many ms.
func pole(ms float64, rate int) float64 { return math.Exp(-1000 / (ms * float64(rate))) }

// floorDB is what silence counts as to the detectors, dB.
const floorDB = -120

type compressor struct {
	Compressor
	attack, release float64
	y               float64 // how much is taken off, dB
}

func newCompressor(c Compressor, rate int) compressor {
	return compressor{Compressor: c, attack: pole(c.AttackMS, rate), release: pole(c.ReleaseMS, rate)}
}

func level(l, r float64) float64 { return max(math.Abs(l), math.Abs(r)) }

// dB a nat, and nats a dB: logarithms and powers of e are the quickest.
const (
	perNat = 20 / math.Ln10
	perDB  = math.Ln10 / 20
)

func inDB(x float64) float64 {
	if x < 1e-6 {
		return floorDB
	}
	return perNat * math.Log(x)
}

func (c *compressor) run(l, r []float64) {
	y, was := c.y, c.y
	g := math.Exp(perDB * (c.MakeupDB - y))
	low := math.Pow(10, (c.ThresholdDB-c.KneeDB/2)/20) // below it nothing is taken off
	for i := range l {
		over := 0.0
		if x := level(l[i], r[i]); x > low {
			db := inDB(x)
			over = db - c.Curve(db)
		}
		a := c.release
		if over > y {
			a = c.attack
		}
		y = a*y + (1-a)*over
		if y < 1e-9 {
			y = 0
		}
		// from one sample to the next the gain changes little: a short series does, and each block begins anew
		if d := perDB * (was - y); d > -0.02 && d < 0.02 {
			g *= 1 + d*(1+d*(1.0/2+d*(1.0/6+d*(1.0/24))))
		} else {
			g = math.Exp(perDB * (c.MakeupDB - y))
		}
		was = y
		l[i] *= g
		r[i] *= g
	}
	c.y = y
}

type gate struct {
	Gate
	attack, release        float64
	opens, closes, shut    float64
	fall, env, gain        float64
	isOpen                 bool
	sinceFrames, holdFrame int
}

// fallMS is how slowly a gate's detector follows a level down, so that it does not close between the waves of a low drum.
const fallMS = 15

func newGate(g Gate, rate int) gate {
	return gate{Gate: g, attack: pole(g.AttackMS, rate), release: pole(g.ReleaseMS, rate), opens: linear(g.OpenDB), closes: linear(g.CloseDB), shut: linear(g.RangeDB),
		fall: pole(fallMS, rate), gain: linear(g.RangeDB), holdFrame: int(math.Round(g.HoldMS / 1000 * float64(rate)))}
}

func (g *gate) run(l, r []float64) {
	for i := range l {
		if g.env = max(level(l[i], r[i]), g.env*g.fall); g.env < rest {
			g.env = 0
		}
		switch {
		case g.env >= g.opens:
			g.isOpen, g.sinceFrames = true, 0
		case g.env >= g.closes:
			g.sinceFrames = 0
		default:
			g.sinceFrames++
			g.isOpen = g.isOpen && g.sinceFrames <= g.holdFrame
		}
		to, a := g.shut, g.release
		if g.isOpen {
			to, a = 1, g.attack
		}
		g.gain = a*g.gain + (1-a)*to
		l[i] *= g.gain
		r[i] *= g.gain
	}
}
