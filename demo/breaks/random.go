package breaks

import (
	"math"
	"math/rand/v2"

	"hexachord/demo/drums"
)

type dice struct{ *rand.Rand }

func (d dice) between(lo, hi float64) float64 { return lo + (hi-lo)*d.Float64() }
func (d dice) exp(lo, hi float64) float64     { return lo * math.Pow(hi/lo, d.Float64()) }
func (d dice) chance(p float64) bool          { return d.Float64() < p }

// RandomDrum makes a drum that could stand for a General MIDI note: acoustic or electronic, within wide bounds.
func RandomDrum(note int, rng *rand.Rand) drums.Drum {
	d := dice{rng}
	switch note {
	case 35, 36:
		if d.chance(0.3) { // electronic: long and swept far
			return drums.Kick{Hz: d.between(40, 62), Sweep: d.between(2, 7), SweepS: d.exp(0.006, 0.04), DecayS: d.between(0.25, 0.9),
				Click: d.between(0, 0.5), ClickHz: d.exp(1500, 6000), Shell: 0, Air: d.between(0, 0.1), Drive: d.between(0, 0.8)}.Drum()
		}
		return drums.Kick{Hz: d.between(45, 85), Sweep: d.between(0.3, 2.5), SweepS: d.exp(0.005, 0.03), DecayS: d.between(0.12, 0.45),
			Click: d.between(0.05, 0.8), ClickHz: d.exp(1200, 6000), Shell: d.between(0.05, 0.5), Air: d.between(0, 0.5), Drive: d.between(0, 0.5)}.Drum()
	case 38, 40:
		if d.chance(0.25) { // electronic: two low tones and hiss
			return drums.Snare{Hz: d.between(150, 260), Bend: d.between(0, 0.6), DecayS: d.between(0.08, 0.25), Body: d.between(0.3, 0.9),
				Wires: d.between(0.4, 1), WireLoHz: d.exp(700, 4000), WireHiHz: d.between(8000, 16000), WireDecayS: d.between(0.1, 0.35), Snap: d.between(0, 0.4), Thump: d.between(0, 0.4), Drive: d.between(0, 0.6)}.Drum()
		}
		return drums.Snare{Hz: d.between(115, 290), Bend: d.between(0, 0.25), DecayS: d.between(0.06, 0.35), Body: d.between(0.3, 1),
			Wires: d.between(0.25, 1), WireLoHz: d.exp(400, 2600), WireHiHz: d.between(6000, 15000), WireDecayS: d.between(0.08, 0.4), Snap: d.between(0.1, 0.8), Thump: d.between(0, 0.4), Drive: d.between(0, 0.4)}.Drum()
	case 37:
		return drums.Rim{Hz: d.between(380, 1900), DecayS: d.between(0.02, 0.09), Click: d.between(0.1, 0.8)}.Drum()
	case 39:
		c := drums.Clap{CentreHz: d.exp(800, 2200), Width: d.between(1.3, 3), DecayS: d.between(0.08, 0.35)}
		for i, t := 0, 0.0; i < 1+d.IntN(4); i++ {
			t += d.between(0.005, 0.014)
			c.Bursts = append(c.Bursts, t)
		}
		return c.Drum()
	case closedHat, pedalHat, openHat:
		m := drums.Metal{LoHz: d.exp(600, 5000), HiHz: d.between(10000, 16000), Partials: 8 + d.IntN(28), Ring: d.between(0.05, 0.8),
			Wash: d.between(0.3, 1), WashLoHz: d.exp(900, 9000), Body: d.between(0, 0.3), BodyHz: d.exp(250, 1500), Seed: d.Uint64()}
		m.DecayS, m.WashDecayS = d.between(0.03, 0.16), d.exp(0.03, 0.14)
		if note == openHat {
			m.DecayS, m.WashDecayS = d.between(0.35, 1.4), d.between(0.3, 1.2)
		}
		if note == pedalHat {
			m.AttackS = d.between(0.001, 0.006)
			m.Wash *= 0.7
		}
		return m.Drum()
	case 49, 57, 52, 55:
		long := d.between(0.9, 4.5)
		if note == 55 {
			long = d.between(0.4, 0.9)
		}
		return drums.Metal{LoHz: d.exp(250, 900), HiHz: d.between(9000, 16000), Partials: 30 + d.IntN(30), DecayS: long, Ring: d.between(0.2, 0.9),
			Wash: d.between(0.5, 1), WashLoHz: d.exp(900, 4000), WashDecayS: long * d.between(0.5, 1), AttackS: d.between(0.0005, 0.012), Seed: d.Uint64()}.Drum()
	case 51, 59, 53:
		m := drums.Metal{LoHz: d.exp(350, 1500), HiHz: d.between(8000, 15000), Partials: 20 + d.IntN(30), DecayS: d.between(0.6, 3.5), Ring: d.between(0.1, 0.8),
			Wash: d.between(0.05, 0.8), WashLoHz: d.exp(1200, 7000), Body: d.between(0, 0.3), BodyHz: d.exp(250, 1500), WashDecayS: d.between(0.3, 2.5), Ping: d.between(0.1, 0.8), PingHz: d.exp(700, 3500), Seed: d.Uint64()}
		if note == 53 {
			m.Ping, m.PingHz = d.between(0.7, 1.2), d.exp(500, 1300)
		}
		return m.Drum()
	case 41, 43, 45, 47, 48, 50:
		base := map[int]float64{41: 75, 43: 88, 45: 105, 47: 130, 48: 155, 50: 185}[note]
		return drums.Tom{Hz: base * d.between(0.8, 1.25), Bend: d.between(0.02, 0.5), DecayS: d.between(0.2, 0.9), Slap: d.between(0.05, 0.6), Body: d.between(0.6, 1)}.Drum()
	case 70:
		return drums.Shaker{LoHz: d.exp(2500, 7000), AttackS: d.between(0.004, 0.03), DecayS: d.between(0.03, 0.12)}.Drum()
	case 56:
		hz := d.between(450, 900)
		return drums.Drum{Seconds: 0.5, Modes: []drums.Mode{{Hz: hz, DecayS: 0.3, Amp: 0.6}, {Hz: hz * 1.49, DecayS: 0.25, Amp: 0.5}}}
	default: // a hand drum
		return drums.Tom{Hz: d.between(180, 500), Bend: d.between(0, 0.15), DecayS: d.between(0.1, 0.35), Slap: d.between(0.2, 0.7), Body: 0.8}.Drum()
	}
}

// RandomKit makes a recorded kit with a piece for each note, balanced as recordings are.
func RandomKit(notes []int, rng *rand.Rand) []*Piece {
	d := dice{rng}
	static := d.chance(0.5)
	hats := d.between(-20, -5)
	toms := d.between(-8, 2)
	ride := d.between(-18, -4)
	wide := d.between(0, 0.8)
	var kit []*Piece
	for _, n := range notes {
		p := &Piece{Note: n, Drum: RandomDrum(n, rng), Static: static, Pan: wide * d.between(-1, 1)}
		switch n {
		case 35, 36:
			p.LevelDB, p.Pan = d.between(-4, 4), 0
		case 38, 40, 39:
			p.LevelDB, p.Pan = d.between(-6, 3), p.Pan*0.3
		case 37:
			p.LevelDB = d.between(-12, 0)
		case closedHat, pedalHat, openHat:
			p.LevelDB = hats + d.between(-2, 2)
		case 51, 53, 59:
			p.LevelDB = ride + d.between(-2, 2)
		case 49, 57, 52, 55:
			p.LevelDB = d.between(-12, 0)
		case 41, 43, 45, 47, 48, 50:
			p.LevelDB = toms + d.between(-2, 2)
		default:
			p.LevelDB = d.between(-18, -6)
		}
		kit = append(kit, p)
	}
	return kit
}

// RandomRoom makes a way of recording: dry to roomy, clean to driven, hi-fi to worn.
func RandomRoom(rng *rand.Rand) Room {
	d := dice{rng}
	r := Room{HissDB: -120, LowHz: 15, HighHz: 20000, PeakDB: d.between(-8, -0.5), Stereo: d.chance(0.5), DampHz: d.exp(2000, 12000)}
	if d.chance(0.75) {
		r.Wet, r.DecayS = d.exp(0.02, 0.5), d.between(0.1, 1.1)
	}
	if d.chance(0.5) {
		r.HissDB = d.between(-80, -48)
	}
	if d.chance(0.4) {
		r.Drive = d.exp(0.05, 1)
	}
	if d.chance(0.35) {
		r.LowHz, r.HighHz = d.between(20, 60), d.between(7000, 16000)
	}
	for i := range r.TiltDB {
		r.TiltDB[i] = d.between(-5, 5)
	}
	return r
}
