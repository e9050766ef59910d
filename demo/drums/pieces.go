package drums

import (
	"math"
	"math/rand/v2"
)

// Piece parameters. Zero values are not useful; Boathouse and the random kits set them all.

// Kick is a struck low drum.
type Kick struct {
	Hz, Sweep, SweepS, DecayS float64
	Click, ClickHz            float64 // level and centre of the beater's noise
	Shell                     float64 // level of the second mode
	Air                       float64 // level of the low noise around the stroke
	Drive                     float64
}

// Drum builds the piece.
func (k Kick) Drum() Drum {
	return Drum{Seconds: math.Max(0.25, k.DecayS*1.3), Drive: k.Drive,
		Modes: []Mode{
			{Hz: k.Hz, Sweep: k.Sweep, SweepS: k.SweepS, DecayS: k.DecayS, Amp: 0.95},
			{Hz: k.Hz * 1.83, Sweep: k.Sweep * 0.6, SweepS: k.SweepS, DecayS: k.DecayS * 0.35, Amp: k.Shell, Hard: 0.5},
		},
		Noises: []Noise{
			{LoHz: k.ClickHz * 0.5, HiHz: k.ClickHz * 1.8, AttackS: 0.0003, DecayS: 0.018, Amp: k.Click, Hard: 1.1},
			{LoHz: 60, HiHz: 500, AttackS: 0.002, DecayS: 0.11, Amp: k.Air, Hard: 0.6},
		}}
}

// Snare is a drum with wires under it.
type Snare struct {
	Hz, Bend, DecayS          float64 // first mode of the head
	Body                      float64 // level of the head's modes
	Wires, WireLoHz, WireHiHz float64
	WireDecayS                float64
	Snap                      float64 // level of the stick's noise
	Thump                     float64 // level of the air under the head
	Drive                     float64
}

// Drum builds the piece.
func (s Snare) Drum() Drum {
	var modes []Mode
	for i, r := range []float64{1, 1.594, 1.88, 2.296, 2.65} { // ideal circular membrane, Rossing "Science of Percussion Instruments" (ratios from memory)
		modes = append(modes, Mode{Hz: s.Hz * r, Sweep: s.Bend, SweepS: 0.012, DecayS: s.DecayS / (1 + 0.6*float64(i)),
			Amp: s.Body * []float64{0.8, 0.5, 0.22, 0.2, 0.12}[i], Hard: 0.25 * float64(i)})
	}
	return Drum{Seconds: math.Max(0.2, math.Max(s.WireDecayS, s.DecayS)*1.25), Drive: s.Drive, Modes: modes, Noises: []Noise{
		{LoHz: s.WireLoHz, HiHz: s.WireHiHz, AttackS: 0.0015, DecayS: s.WireDecayS, Amp: s.Wires, Hard: 0.25},
		{LoHz: 2500, HiHz: 12000, AttackS: 0.0002, DecayS: 0.03, Amp: s.Snap, Hard: 1.2},
		{LoHz: 60, HiHz: 260, AttackS: 0.001, DecayS: 0.09, Amp: s.Thump, Hard: 0.4},
	}}
}

// Rim is a stick on the rim or a side stick.
type Rim struct{ Hz, DecayS, Click float64 }

// Drum builds the piece.
func (r Rim) Drum() Drum {
	return Drum{Seconds: 0.16, Modes: []Mode{
		{Hz: r.Hz, DecayS: r.DecayS, Amp: 0.7}, {Hz: r.Hz * 1.51, DecayS: r.DecayS * 0.8, Amp: 0.5, Hard: 0.3},
		{Hz: r.Hz * 2.67, DecayS: r.DecayS * 0.5, Amp: 0.35, Hard: 0.6}, {Hz: r.Hz * 0.42, DecayS: r.DecayS * 1.1, Amp: 0.3},
	}, Noises: []Noise{{LoHz: 1800, HiHz: 9000, AttackS: 0.0002, DecayS: 0.02, Amp: r.Click, Hard: 0.8}}}
}

// Clap is hands that do not meet at once.
type Clap struct {
	CentreHz, Width, DecayS float64
	Bursts                  []float64
}

// Drum builds the piece.
func (c Clap) Drum() Drum {
	return Drum{Seconds: c.DecayS*1.2 + 0.08, Noises: []Noise{
		{LoHz: c.CentreHz / c.Width, HiHz: c.CentreHz * c.Width, AttackS: 0.0004, DecayS: c.DecayS, Amp: 0.95, Hard: 0.15, Bursts: c.Bursts},
		{LoHz: 3000, HiHz: 9000, AttackS: 0.0003, DecayS: c.DecayS * 0.4, Amp: 0.25, Hard: 0.8, Bursts: c.Bursts},
	}}
}

// Metal is a hat or cymbal: partials spread over a range, each with its own decay, and a wash of noise.
type Metal struct {
	LoHz, HiHz float64
	Partials   int
	DecayS     float64 // of the lowest partials; high ones die sooner
	Ring       float64 // level of the partials
	Wash       float64 // level of the noise
	WashLoHz   float64
	WashDecayS float64
	AttackS    float64 // how slowly the wash builds (crash)
	Ping       float64 // level of the stick's tone (ride)
	PingHz     float64
	Body       float64 // level of the stand's and the stick's low knock
	BodyHz     float64
	Bright     float64 // how much louder high partials are than low ones: amplitude·(f/lowest)^Bright
	Fade       float64 // how much sooner high partials die than low ones, beyond what they do anyway: decay·(f/lowest)^−Fade
	Seed       uint64  // which set of partials
}

// Drum builds the piece.
func (m Metal) Drum() Drum {
	rng := rand.New(rand.NewPCG(m.Seed, 7))
	d := Drum{Seconds: math.Max(m.DecayS, m.WashDecayS) * 1.05}
	for i := range m.Partials {
		x := (float64(i) + rng.Float64()) / float64(m.Partials)
		hz := m.LoHz * math.Pow(m.HiHz/m.LoHz, x)
		d.Modes = append(d.Modes, Mode{Hz: hz, DecayS: m.DecayS * (0.25 + 0.75*math.Pow(1-x, 0.7)) * (0.6 + 0.8*rng.Float64()) * math.Pow(hz/m.LoHz, -m.Fade),
			Amp: m.Ring * (0.3 + rng.Float64()) * 1.6 / math.Sqrt(float64(m.Partials)) * math.Pow(hz/m.LoHz, m.Bright), Hard: 0.9 * x})
	}
	d.Noises = append(d.Noises,
		Noise{LoHz: m.WashLoHz, HiHz: 20000, AttackS: math.Max(0.0003, m.AttackS), DecayS: m.WashDecayS, Amp: m.Wash, Hard: 0.45},
		Noise{LoHz: 4000, HiHz: 16000, AttackS: 0.0002, DecayS: 0.025, Amp: 0.25, Hard: 0.8})
	if m.Body > 0 {
		d.Noises = append(d.Noises, Noise{LoHz: m.BodyHz * 0.6, HiHz: m.BodyHz * 2, AttackS: 0.0005, DecayS: 0.05, Amp: m.Body, Hard: 0.5})
	}
	if m.Ping > 0 {
		for i, r := range []float64{1, 1.47, 2.09, 2.56, 3.4} {
			d.Modes = append(d.Modes, Mode{Hz: m.PingHz * r, DecayS: m.DecayS * (0.7 - 0.1*float64(i)), Amp: m.Ping * 0.4 / (1 + 0.4*float64(i)), Hard: 0.15 * float64(i)})
		}
	}
	return d
}

// Tom is a drum that sings.
type Tom struct{ Hz, Bend, DecayS, Slap, Body float64 }

// Drum builds the piece.
func (t Tom) Drum() Drum {
	d := Drum{Seconds: t.DecayS * 1.2, Noises: []Noise{
		{LoHz: 900, HiHz: 6000, AttackS: 0.0003, DecayS: 0.03, Amp: t.Slap, Hard: 0.9},
		{LoHz: t.Hz, HiHz: t.Hz * 5, AttackS: 0.001, DecayS: 0.12, Amp: 0.12, Hard: 0.4}}}
	for i, r := range []float64{1, 1.594, 2.136, 2.653} {
		d.Modes = append(d.Modes, Mode{Hz: t.Hz * r, Sweep: t.Bend, SweepS: 0.05, DecayS: t.DecayS / (1 + 1.2*float64(i)),
			Amp: []float64{0.8, 0.35, 0.2, 0.12}[i] * t.Body, Hard: 0.35 * float64(i)})
	}
	return d
}

// Shaker is grains thrown against a wall.
type Shaker struct{ LoHz, AttackS, DecayS float64 }

// Drum builds the piece.
func (s Shaker) Drum() Drum {
	return Drum{Seconds: s.AttackS + s.DecayS*1.2, Noises: []Noise{
		{LoHz: s.LoHz, HiHz: 14000, AttackS: s.AttackS, DecayS: s.DecayS, Amp: 0.9, Hard: 0.2},
		{LoHz: s.LoHz * 1.6, HiHz: 16000, AttackS: s.AttackS * 0.3, DecayS: s.DecayS * 0.3, Amp: 0.3, Hard: 0.9}}}
}
