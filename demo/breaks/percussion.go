package breaks

import (
	"math"
	"math/rand/v2"

	"hexachord/demo/drums"
)

// RandomPercussion makes a hand-played or small instrument that could stand for a General MIDI note from 54 up,
// within wide bounds.
func RandomPercussion(note int, rng *rand.Rand) drums.Drum {
	d := dice{rng}
	tone := func(hz, decayS, amp float64) drums.Mode { return drums.Mode{Hz: hz, DecayS: decayS, Amp: amp} }
	switch note {
	case 54: // tambourine: jingles
		m := drums.Metal{LoHz: d.exp(2500, 5000), HiHz: d.between(9000, 16000), Partials: 10 + d.IntN(20), DecayS: d.between(0.08, 0.35), Ring: d.between(0.3, 0.8),
			Wash: d.between(0.2, 0.7), WashLoHz: d.exp(4000, 8000), WashDecayS: d.between(0.05, 0.25), Seed: d.Uint64()}.Drum()
		for i, t := 0, 0.0; i < 1+d.IntN(4); i++ { // the jingles do not meet at once
			t += d.between(0.008, 0.03)
			m.Noises[0].Bursts = append(m.Noises[0].Bursts, t)
		}
		if d.chance(0.5) {
			m.Modes = append(m.Modes, tone(d.between(180, 420), d.between(0.05, 0.15), d.between(0.1, 0.5)))
		}
		return m
	case 56, 67, 68: // cowbell, agogo
		hz := d.between(450, 950)
		if note != 56 {
			hz = d.between(650, 1900)
		}
		decay := d.between(0.12, 0.7)
		return drums.Drum{Seconds: decay * 1.3, Drive: d.between(0, 0.3), Modes: []drums.Mode{tone(hz, decay, 0.6), tone(hz*d.between(1.42, 1.6), decay*0.8, 0.5),
			tone(hz*d.between(2.3, 2.9), decay*0.5, d.between(0, 0.4)), tone(hz*d.between(3.2, 4.4), decay*0.4, d.between(0, 0.3))},
			Noises: []drums.Noise{{LoHz: 2000, HiHz: 9000, AttackS: 0.0002, DecayS: 0.02, Amp: d.between(0, 0.4)}}}
	case 58, 73, 74: // vibraslap, guiro: a row of strokes
		n, gap := 4+d.IntN(14), d.between(0.008, 0.04)
		z := drums.Noise{LoHz: d.exp(900, 3000), HiHz: d.between(5000, 12000), AttackS: 0.0005, DecayS: d.between(0.03, 0.3), Amp: 0.8}
		for i := range n {
			z.Bursts = append(z.Bursts, gap*float64(i+1)*d.between(0.9, 1.1))
		}
		return drums.Drum{Seconds: gap*float64(n) + z.DecayS*1.3, Noises: []drums.Noise{z}, Modes: []drums.Mode{tone(d.between(900, 2600), d.between(0.03, 0.4), d.between(0, 0.3))}}
	case 60, 61, 62, 63, 64: // bongos and congas
		hz := d.between(230, 480)
		if note > 61 {
			hz = d.between(130, 300)
		}
		decay := d.between(0.08, 0.5)
		if note == 62 {
			decay = d.between(0.03, 0.1)
		}
		return drums.Drum{Seconds: decay*1.3 + 0.05, Modes: []drums.Mode{{Hz: hz, Sweep: d.between(0, 0.12), SweepS: 0.02, DecayS: decay, Amp: 0.8},
			tone(hz*d.between(1.5, 2.1), decay*0.5, d.between(0.05, 0.5)), tone(hz*d.between(2.4, 3.4), decay*0.3, d.between(0, 0.3))},
			Noises: []drums.Noise{{LoHz: d.exp(500, 1500), HiHz: d.between(3000, 9000), AttackS: 0.0003, DecayS: d.between(0.01, 0.05), Amp: d.between(0.1, 0.9)}}}
	case 65, 66: // timbales: a ringing shell
		hz := d.between(180, 420)
		decay := d.between(0.2, 0.9)
		return drums.Drum{Seconds: decay * 1.3, Modes: []drums.Mode{tone(hz, decay*0.6, 0.6), tone(hz*1.59, decay, 0.5), tone(hz*2.14, decay*0.9, 0.4), tone(hz*2.65, decay*0.8, 0.3),
			tone(hz*d.between(3.5, 5), decay*0.7, d.between(0.1, 0.4))}, Noises: []drums.Noise{{LoHz: 1500, HiHz: 9000, AttackS: 0.0003, DecayS: 0.04, Amp: d.between(0.1, 0.6)}}}
	case 69, 70, 82: // cabasa, maracas, shaker
		s := drums.Shaker{LoHz: d.exp(2500, 7500), AttackS: d.between(0.003, 0.04), DecayS: d.between(0.03, 0.18)}.Drum()
		if d.chance(0.4) {
			s.Noises[0].Bursts = []float64{d.between(0.02, 0.09)}
		}
		return s
	case 71, 72: // whistles
		length := d.between(0.06, 0.2)
		if note == 72 {
			length = d.between(0.25, 0.7)
		}
		hz := d.between(1800, 3200)
		return drums.Drum{Seconds: length * 1.4, Modes: []drums.Mode{tone(hz, length*3, 0.5), tone(hz*d.between(1.01, 1.06), length*3, 0.5)},
			Noises: []drums.Noise{{LoHz: hz * 0.8, HiHz: hz * 1.6, AttackS: 0.01, DecayS: length * 2, Amp: d.between(0.05, 0.4)}}}
	case 75, 76, 77: // claves, wood blocks
		hz := d.between(550, 1500)
		if note == 75 {
			hz = d.between(1700, 3200)
		}
		decay := d.between(0.03, 0.14)
		return drums.Drum{Seconds: decay*1.4 + 0.03, Modes: []drums.Mode{tone(hz, decay, 0.9), tone(hz*d.between(1.9, 2.9), decay*0.5, d.between(0, 0.3))},
			Noises: []drums.Noise{{LoHz: hz, HiHz: hz * 4, AttackS: 0.0002, DecayS: 0.008, Amp: d.between(0, 0.25)}}}
	case 78, 79: // cuica: a cry that bends
		length := d.between(0.08, 0.3)
		hz := d.between(280, 800)
		return drums.Drum{Seconds: length * 1.5, Drive: d.between(0, 0.5), Modes: []drums.Mode{{Hz: hz, Sweep: d.between(-0.4, 0.6), SweepS: length * 0.5, DecayS: length * 2, Amp: 0.8},
			{Hz: hz * 2, Sweep: d.between(-0.4, 0.6), SweepS: length * 0.5, DecayS: length * 1.5, Amp: 0.3}},
			Noises: []drums.Noise{{LoHz: 600, HiHz: 4000, AttackS: 0.005, DecayS: length, Amp: d.between(0, 0.2)}}}
	default: // triangles: few high partials, ringing or muted
		decay := d.exp(0.06, 0.2)
		if note == 81 {
			decay = d.between(0.6, 2.5)
		}
		hz := d.between(1100, 5200)
		t := drums.Drum{Seconds: decay * 1.2}
		for i := range 3 + d.IntN(4) {
			t.Modes = append(t.Modes, tone(hz*(1+float64(i)*d.between(0.55, 0.9)), decay*d.between(0.5, 1), d.between(0.2, 0.6)/math.Sqrt(float64(i+1))))
		}
		return t
	}
}
