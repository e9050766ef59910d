package breaks

import (
	"math"
	"math/rand/v2"

	"hexachord/core/sound"
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
		if d.chance(0.2) { // hard-beaten, with a knock above the note
			k := drums.Kick{Hz: d.between(48, 80), Sweep: d.between(0.5, 3), SweepS: d.exp(0.004, 0.02), DecayS: d.between(0.1, 0.35),
				Click: d.between(0.4, 1.4), ClickHz: d.exp(1200, 5000), Shell: d.between(0.2, 0.9), Air: d.between(0.2, 0.9), Drive: d.between(0, 0.6)}.Drum()
			k.Modes = append(k.Modes, drums.Mode{Hz: d.between(140, 420), DecayS: d.between(0.03, 0.12), Amp: d.between(0, 0.5), Hard: 0.3})
			k.Noises[0].DecayS = d.exp(0.01, 0.08)
			k.Noises[1].HiHz, k.Noises[1].DecayS = d.exp(300, 6000), d.exp(0.05, 0.3)
			return k
		}
		if d.chance(0.35) { // electronic: long and swept far
			k := drums.Kick{Hz: d.between(40, 62), Sweep: d.between(2, 7), SweepS: d.exp(0.006, 0.04), DecayS: d.between(0.25, 0.9),
				Click: d.between(0, 0.5), ClickHz: d.exp(1500, 6000), Shell: 0, Air: d.between(0, 0.1), Drive: d.between(0, 0.8)}.Drum()
			if d.chance(0.3) {
				beater(&k, d)
			}
			return k
		}
		k := drums.Kick{Hz: d.between(42, 82), Sweep: d.exp(0.1, 2.5), SweepS: d.exp(0.004, 0.03), DecayS: d.between(0.12, 0.5),
			Click: d.exp(0.05, 1.2), ClickHz: d.exp(1000, 7000), Shell: d.exp(0.02, 0.5), Air: d.exp(0.01, 0.5), Drive: d.between(0, 0.5)}.Drum()
		beater(&k, d)
		return k
	case 38, 40:
		return randomSnare(d)
	case 37:
		return drums.Rim{Hz: d.between(380, 1900), DecayS: d.between(0.02, 0.09), Click: d.between(0.1, 0.8)}.Drum()
	case 39:
		c := drums.Clap{CentreHz: d.exp(800, 2200), Width: d.between(1.3, 3), DecayS: d.between(0.08, 0.35)}
		for i, t := 0, 0.0; i < 1+d.IntN(4); i++ {
			t += d.between(0.005, 0.014)
			c.Bursts = append(c.Bursts, t)
		}
		return c.Drum()
	case closedHat, pedalHat, openHat, HalfOpen:
		return randomHat(note, d)
	case 49, 57, 52, 55:
		long := d.exp(1, 8)
		if note == 55 {
			long = d.between(0.4, 0.9)
		}
		return drums.Metal{LoHz: d.exp(250, 900), HiHz: d.between(9000, 16000), Partials: 30 + d.IntN(30), DecayS: long, Fade: d.between(0, 0.5), Ring: d.between(0.2, 0.9),
			Bright: d.between(-0.2, 0.8), Wash: d.between(0.5, 1), WashLoHz: d.exp(900, 4000), WashDecayS: long * d.between(0.5, 1), AttackS: d.between(0.0005, 0.012), Seed: d.Uint64()}.Drum()
	case 51, 59, 53: // a stick's tick, high and short, over a wash that rings for seconds
		m := drums.Metal{LoHz: d.exp(350, 1500), HiHz: d.between(8000, 16000), Partials: 20 + d.IntN(30), DecayS: d.exp(1.5, 10), Fade: d.between(0, 0.9), Ring: d.between(0.1, 0.8),
			Bright: d.between(-0.2, 0.9), Wash: d.exp(0.03, 0.6), WashLoHz: d.exp(1200, 7000), Body: d.between(0, 0.3), BodyHz: d.exp(250, 1500), WashDecayS: d.exp(0.7, 6),
			Ping: d.between(0.1, 1), PingHz: d.exp(700, 3500), Seed: d.Uint64()}
		if note == 53 {
			m.Ping, m.PingHz = d.between(0.7, 1.2), d.exp(500, 1300)
		}
		drum := m.Drum()
		drum.Noises[0].HiHz = math.Max(m.WashLoHz*1.5, d.exp(5000, 17000))
		drum.Noises[1] = drums.Noise{LoHz: d.exp(3000, 9000), HiHz: 20000, AttackS: 0.0003, DecayS: d.exp(0.05, 0.5), Amp: d.exp(0.25, 3), Hard: 0.5}
		return drum
	case 41, 43, 45, 47, 48, 50:
		base := map[int]float64{41: 75, 43: 88, 45: 105, 47: 130, 48: 155, 50: 185}[note]
		if d.chance(0.2) { // electronic: bends far, with hiss
			t := drums.Tom{Hz: base * d.between(0.7, 1.6), Bend: d.between(0.3, 1.5), DecayS: d.between(0.15, 0.7), Slap: d.between(0, 0.4), Body: 1}.Drum()
			t.Noises[1].Amp, t.Noises[1].HiHz = d.between(0, 0.4), d.exp(800, 6000)
			return t
		}
		t := drums.Tom{Hz: base * d.between(0.8, 1.25), Bend: d.between(0.02, 0.5), DecayS: d.between(0.2, 0.9), Slap: d.exp(0.1, 2), Body: d.between(0.6, 1)}.Drum()
		beater(&t, d)
		return t
	case 70:
		return drums.Shaker{LoHz: d.exp(2500, 7000), AttackS: d.between(0.004, 0.03), DecayS: d.between(0.03, 0.12)}.Drum()
	case 56:
		hz := d.between(450, 900)
		return drums.Drum{Seconds: 0.5, Modes: []drums.Mode{{Hz: hz, DecayS: 0.3, Amp: 0.6}, {Hz: hz * 1.49, DecayS: 0.25, Amp: 0.5}}}
	case 54, 60, 61, 62, 64, 65, 67, 69, 75, 76, 77, 82:
		return RandomPercussion(note, rng)
	default: // a hand drum
		return drums.Tom{Hz: d.between(180, 500), Bend: d.between(0, 0.15), DecayS: d.between(0.1, 0.35), Slap: d.between(0.2, 0.7), Body: 0.8}.Drum()
	}
}

// beater is the noise of what strikes a drum with a head: short or less so, from its middle or its top, often heard all
// over the spectrum.
func beater(drum *drums.Drum, d dice) {
	drum.Noises[0].DecayS = d.exp(0.01, 0.1)
	lo := d.exp(200, 4000)
	drum.Noises = append(drum.Noises, drums.Noise{LoHz: lo, HiHz: math.Min(16000, lo*d.exp(3, 30)), AttackS: d.exp(0.0002, 0.003), DecayS: d.exp(0.02, 0.25), Amp: d.exp(0.01, 0.5), Hard: 0.6})
}

// randomSnare is a wooden, deep, high, electronic or brushed snare.
func randomSnare(d dice) drums.Drum {
	s := drums.Snare{Hz: d.between(115, 290), Bend: d.between(0, 0.25), DecayS: d.between(0.06, 0.35), Body: d.between(0.3, 1),
		Wires: d.between(0.25, 1), WireLoHz: d.exp(400, 2600), WireHiHz: d.between(6000, 15000), WireDecayS: d.between(0.08, 0.4), Snap: d.between(0.1, 0.8), Thump: d.between(0, 0.4), Drive: d.between(0, 0.4)}
	switch kind := d.Float64(); {
	case kind < 0.2: // deep, its air as strong as a kick's
		s.Hz, s.Body, s.Thump = d.between(85, 190), d.between(0.6, 1.3), d.between(0.3, 1.2)
		s.WireDecayS, s.Drive = d.between(0.12, 0.6), d.between(0, 0.7)
	case kind < 0.4: // electronic: low tones that fall, and hiss
		s.Hz, s.Bend, s.DecayS = d.between(110, 260), d.between(0, 0.9), d.between(0.06, 0.3)
		s.Wires, s.WireLoHz, s.Snap, s.Drive = d.between(0.3, 1), d.exp(300, 4000), d.between(0, 0.4), d.between(0, 0.6)
	case kind < 0.5: // high
		s.Hz = d.between(260, 430)
	case kind < 0.6: // brushed, or hiss alone
		s.Body, s.Snap, s.Thump = d.between(0, 0.25), d.between(0, 0.3), d.between(0, 0.2)
		drum := s.Drum()
		drum.Noises[0].AttackS = d.exp(0.001, 0.02)
		return drum
	}
	return s.Drum()
}

// randomHat is a closed, pedal or open hat of bronze, of tones or of hiss.
func randomHat(note int, d dice) drums.Drum {
	m := drums.Metal{LoHz: d.exp(600, 5000), HiHz: d.between(10000, 18000), Partials: 8 + d.IntN(28), Ring: d.between(0.05, 0.8),
		Bright: d.between(-0.1, 1.1), Wash: d.between(0.3, 1.3), WashLoHz: d.exp(900, 9000), Body: d.between(0, 0.3), BodyHz: d.exp(250, 1500), Seed: d.Uint64()}
	kind := d.Float64()
	switch {
	case kind < 0.25: // hiss alone, from low or high up
		m.Partials, m.Ring, m.WashLoHz, m.Body = 1+d.IntN(3), d.between(0, 0.15), d.exp(300, 9000), d.between(0, 0.2)
	case kind < 0.4: // a few tones, as circuits make them
		m.Partials, m.LoHz, m.Ring, m.Wash = 4+d.IntN(5), d.exp(300, 4000), d.between(0.5, 1.2), d.between(0, 0.4)
	case kind < 0.5: // heavy, with a knock
		m.LoHz, m.Body, m.BodyHz = d.exp(300, 900), d.between(0.3, 0.9), d.exp(180, 1200)
	}
	m.DecayS, m.WashDecayS = d.exp(0.04, 0.4), d.exp(0.03, 0.4)
	if note == openHat {
		m.DecayS, m.WashDecayS, m.Fade = d.exp(0.4, 4), d.exp(0.4, 3), d.between(0, 0.4)
	}
	if note == pedalHat {
		m.AttackS = d.between(0.001, 0.006)
		m.Wash *= 0.7
	}
	drum := m.Drum()
	if kind < 0.4 { // circuits pass what they pass
		drum.Noises[0].HiHz = d.between(7000, 17000)
		drum.Noises[1].Amp, drum.Noises[1].LoHz = d.between(0, 0.4), d.exp(1000, 8000)
	}
	return drum
}

// randomTone is how one piece was miked, or made into a sample.
func randomTone(note int, d dice) (t Tone) {
	if d.chance(0.75) {
		for range 1 + d.IntN(3) {
			t.Filters = append(t.Filters, sound.Peaking(d.exp(70, 11000), d.between(-9, 9), d.exp(0.5, 2.5), Rate))
		}
	}
	if d.chance(0.12) {
		t.Filters = append(t.Filters, sound.LowPass(d.exp(5000, 14000), Rate))
	}
	if note > 36 && d.chance(0.25) {
		t.Filters = append(t.Filters, sound.HighPass(d.exp(50, 250), Rate))
	}
	if d.chance(0.12) {
		t.EndS = d.exp(0.07, 0.35)
	}
	if d.chance(0.3) {
		t.Drive = d.exp(0.1, 1)
	}
	if d.chance(0.3) {
		t.Wet, t.RoomS, t.DampHz = d.exp(0.05, 0.7), d.exp(0.08, 0.9), d.exp(1500, 12000)
	}
	return t
}

// RandomKit makes a recorded kit with a piece for each note, balanced as recordings are.
func RandomKit(notes []int, rng *rand.Rand) []*Piece {
	d := dice{rng}
	static := d.chance(0.5)
	hats := d.between(-16, 2)
	toms := d.between(-8, 2)
	ride := d.between(-18, 0)
	wide := d.between(0, 0.8)
	wild := d.between(0, 1.3)
	var kit []*Piece
	for _, n := range notes {
		drum := RandomDrum(n, rng)
		Widen(&drum, wild, rng)
		p := &Piece{Note: n, Drum: drum, Tone: randomTone(n, d), Static: static, Pan: wide * d.between(-1, 1)}
		switch n {
		case 35, 36:
			p.LevelDB, p.Pan = d.between(-4, 4), 0
		case 38, 40, 39:
			p.LevelDB, p.Pan = d.between(-6, 3), p.Pan*0.3
		case 37:
			p.LevelDB = d.between(-12, 0)
		case closedHat, pedalHat, openHat, HalfOpen:
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
		r.LowHz, r.HighHz = d.between(20, 80), d.between(7000, 16000)
	}
	for i := range r.TiltDB {
		r.TiltDB[i] = d.between(-5, 5)
	}
	if d.chance(0.4) {
		r.Squeeze = Squeeze{ThresholdDB: d.between(-32, -8), Ratio: d.between(1.5, 8), AttackS: d.exp(0.001, 0.015), ReleaseS: d.exp(0.05, 0.25)}
	}
	return r
}
