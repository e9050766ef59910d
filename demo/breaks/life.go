package breaks

import (
	"math"
	"math/rand/v2"

	"hexachord/core/sound"
	"hexachord/demo/drums"
)

// Life is what performances to learn from take from life, beyond a plain groove on a plain kit; the zero value takes nothing.
type Life struct {
	Hats    bool // open as 0 to 100 % of the hats, half-open, choked early, splashed by the foot
	Grooves bool // led by rides, toms, brushes, shakers and hands; ghosts without body
	Worn    bool // tuned, dampened, played faster, squashed, taped, clipped
	Beds    bool // other music underneath
	Strokes *Strokes
}

// HalfOpen stands for a hat that is neither closed nor open; General MIDI has no note for it. It is chosen among the notes of a
// kit as others are, and a Hit of it is written as an open hat.
const HalfOpen = 146

// KitNotes chooses which pieces a kit has: always kick, snare and hats, often more.
func (l Life) KitNotes(rng *rand.Rand) []int {
	d := dice{rng}
	notes := KitNotes(rng)
	has := map[int]bool{}
	for _, n := range notes {
		has[n] = true
	}
	add := func(note int, p float64) {
		if d.chance(p) && !has[note] {
			notes, has[note] = append(notes, note), true
		}
	}
	if l.Hats {
		add(HalfOpen, 0.4)
		add(pedalHat, 0.3)
	}
	if l.Grooves {
		add(54, 0.12) // shakers and tambourines are much rarer than hats, and much like them
		add([]int{69, 82}[d.IntN(2)], 0.04)
		for _, n := range []int{41, 43, 45, 48} {
			add(n, 0.25)
		}
		add(51, 0.2)
		if d.chance(0.12) { // hands
			for _, n := range []int{60, 61, 62, 63, 64} {
				add(n, 0.6)
			}
		}
		if d.chance(0.1) {
			add([]int{56, 75, 76, 77, 65, 67}[d.IntN(6)], 1)
		}
	}
	return notes
}

// Kit makes a recorded kit with a piece for each note, balanced as recordings are.
func (l Life) Kit(notes []int, rng *rand.Rand) []*Piece {
	d := dice{rng}
	kit := RandomKit(notes, rng)
	if l.Hats {
		oneHat(kit, d)
	}
	if l.Strokes != nil {
		l.Strokes.into(kit, d)
	}
	for _, p := range kit {
		if l.Grooves && (p.Note == 38 || p.Note == 40) && p.Layers == nil && d.chance(0.4) { // soft strokes stir the wires alone
			more := d.between(0.3, 1.6)
			for i := range p.Drum.Modes {
				p.Drum.Modes[i].Hard += more
			}
		}
		if l.Grooves && p.Note >= 54 && p.Note != 55 && p.Note != 57 && p.Note != 59 {
			p.LevelDB = d.between(-16, 0)
		}
		if l.Worn {
			if d.chance(0.25) {
				p.Tone.Tune = d.between(-0.45, 0.45)
			}
			if d.chance(0.2) {
				p.Tone.DampS = d.exp(0.08, 0.7)
			}
		}
	}
	return kit
}

// oneHat makes the hats of a kit one instrument, as most are, each longer than the one that is more closed.
func oneHat(kit []*Piece, d dice) {
	closed, half := d.exp(0.03, 0.3), 0.0
	half = math.Max(closed*d.between(1.5, 4), d.exp(0.15, 0.7))
	open := math.Max(half*d.between(1.3, 3), d.exp(0.35, 4))
	alike := d.chance(0.7)
	var of *Piece
	for _, p := range kit {
		if p.Note == closedHat {
			of = p
		}
	}
	for _, p := range kit {
		length := closed
		switch p.Note {
		case openHat:
			length = open
		case HalfOpen:
			length = half
		case closedHat, pedalHat:
		default:
			continue
		}
		if alike && p != of {
			attack, tone := 0.0, of.Tone
			if p.Note == pedalHat || p.Note == HalfOpen && d.chance(0.15) { // by the foot: no stick's click
				attack = d.between(0.001, 0.008)
			}
			drum := drums.Drum{Modes: append([]drums.Mode(nil), of.Drum.Modes...), Noises: append([]drums.Noise(nil), of.Drum.Noises...), Drive: of.Drum.Drive}
			louder := d.between(0.7, 1.6)
			for i := range drum.Noises {
				drum.Noises[i].AttackS += attack
				if i == 0 {
					drum.Noises[i].Amp *= louder
				} else if attack > 0 {
					drum.Noises[i].Amp *= d.between(0, 0.4)
				}
			}
			p.Drum, p.Tone, p.Static, p.Pan = drum, tone, of.Static, of.Pan
			if p.Note == openHat {
				p.Tone.EndS = 0
			}
		}
		longest := 0.02
		for _, m := range p.Drum.Modes {
			longest = math.Max(longest, m.DecayS)
		}
		for i, z := range p.Drum.Noises {
			if i == 0 || i > 1 {
				longest = math.Max(longest, z.DecayS)
			}
		}
		scale := length / longest
		for i := range p.Drum.Modes {
			p.Drum.Modes[i].DecayS *= scale
		}
		for i := range p.Drum.Noises {
			if i != 1 {
				p.Drum.Noises[i].DecayS *= scale
			}
		}
		p.Drum.Seconds = math.Min(5, length*1.1+0.03)
	}
}

// Perform plays a random performance on a kit in a random room.
func (l Life) Perform(kit []*Piece, notes []int, bars int, rng *rand.Rand) (sound.Buffer, []Hit) {
	var p Performance
	if (l.Grooves || l.Hats) && rng.Float64() < 0.6 {
		p = l.groove(notes, bars, rng)
	} else {
		p = RandomPerformance(notes, bars, rng)
	}
	room := RandomRoom(rng)
	if l.Beds && rng.Float64() < 0.4 {
		room.Bed = randomBed(p, rng)
	}
	audio, truth := Render(kit, p, room, rng.Uint64())
	for i := range truth {
		if truth[i].Note == HalfOpen {
			truth[i].Note = openHat
		}
	}
	if l.Worn {
		audio, truth = worn(audio, truth, rng)
	}
	return audio, truth
}
