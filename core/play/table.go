package play

import (
	"math"
	"math/rand/v2"

	"hexachord/core/kit"
)

// StrikeTake is one take, ready to sound.
type StrikeTake struct {
	Spec  VoiceSpec `json:"-"`
	Voice string    `json:"voice"` // the voice's ID
	Left  float64   `json:"left"`  // gain at velocity 127
	Right float64   `json:"right"`
}

// StrikeLayer is one sound of one layer of a pad, ready to sound.
type StrikeLayer struct {
	Lo    int          `json:"lo"`
	Hi    int          `json:"hi"`
	Layer int          `json:"layer"` // index in the pad's ladder, softest 0
	Takes []StrikeTake `json:"takes"`
	Order []int        `json:"order"` // which take sounds, stroke after stroke, begun again when it ends
	// Blend is the gain from velocity Lo to Hi where layers crossfade; empty is 1 throughout.
	Blend    []float64 `json:"blend,omitempty"`
	ReleaseS float64   `json:"releaseS"`
}

// tuned is the sound so many cents higher.
func (l StrikeLayer) tuned(cents int) StrikeLayer {
	if cents == 0 {
		return l
	}
	takes := make([]StrikeTake, len(l.Takes))
	for i, t := range l.Takes {
		t.Spec.Semitones += float64(cents) / 100
		t.Voice = t.Spec.ID()
		takes[i] = t
	}
	l.Takes = takes
	return l
}

// at is the layer's gain at a velocity it covers.
func (l StrikeLayer) at(velocity int) float64 {
	if len(l.Blend) == 0 {
		return 1
	}
	return l.Blend[velocity-l.Lo]
}

// StrikePad is what a strike on a note sounds.
type StrikePad struct {
	Note   int           `json:"note"`
	Layers []StrikeLayer `json:"layers"`
	Gains  []float64     `json:"gains"` // amplitude by velocity, index 0..127; 0 is silent
	// Fires says for each velocity, 0..127, which of Layers sound, by their places.
	Fires     [][]int `json:"fires"`
	Choke     int     `json:"choke"`
	CutBy     int     `json:"cutBy"` // the choke group that cuts it; its own when it has no other
	SelfChoke bool    `json:"selfChoke"`
	Held      bool    `json:"held"`
}

// Table is a kit compiled for a sample rate: note × velocity → voices. With it a player sounds a
// strike at once, without asking.
type Table struct {
	Rate int         `json:"rate"`
	Pads []StrikePad `json:"pads"`
}

// Compile makes the kit's table for a sample rate.
func Compile(k kit.Kit, rate int) Table {
	t := Table{Rate: rate, Pads: make([]StrikePad, 0, len(k.Pads))}
	for _, p := range k.Pads {
		sp := StrikePad{Note: p.Note, Layers: []StrikeLayer{}, Gains: make([]float64, 128), Choke: p.Choke,
			CutBy: p.CutBy, SelfChoke: p.SelfChoke, Held: p.Held}
		if sp.CutBy == 0 {
			sp.CutBy = p.Choke
		}
		for v := 1; v <= 127; v++ {
			sp.Gains[v] = kit.VelocityGain(v, p.VelTrack)
		}
		for i, l := range p.Layers {
			for j, s := range l.Sounds {
				if !s.Off {
					sp.Layers = append(sp.Layers, strikeLayer(p, i, j, rate))
				}
			}
		}
		sp.Fires = make([][]int, 128)
		for v := range sp.Fires {
			sp.Fires[v] = []int{}
			for i, l := range sp.Layers {
				if v >= l.Lo && v <= l.Hi {
					sp.Fires[v] = append(sp.Fires[v], i)
				}
			}
		}
		t.Pads = append(t.Pads, sp)
	}
	return t
}

func strikeLayer(p kit.Pad, layer, which, rate int) StrikeLayer {
	l := p.Layers[layer]
	s := l.Sounds[which]
	out := StrikeLayer{Lo: l.Lo, Hi: l.Hi, Layer: layer, ReleaseS: ChokeFadeS,
		Order: takeOrder(l.Order, len(s.Takes), uint64(p.Note)<<16|uint64(layer)<<8|uint64(which))}
	left, right := kit.PanGains(p.Pan + s.Pan)
	for _, take := range s.Takes {
		form := take.Shape
		gain := kit.DBToGain(p.LevelDB + s.LevelDB + form.GainDB)
		out.ReleaseS = math.Max(out.ReleaseS, form.ReleaseMS/1000)
		form.GainDB, form.ReleaseMS, form.Loop = 0, 0, form.Loop && p.Held
		if !form.Loop {
			form.LoopStart, form.LoopEnd = 0, 0
		}
		spec := VoiceSpec{Sample: take.Sample, Form: form, Semitones: p.Semitones + s.Semitones, Rate: rate}
		out.Takes = append(out.Takes, StrikeTake{spec, spec.ID(), left * gain, right * gain})
	}
	if p.Crossfade {
		for v := l.Lo; v <= l.Hi; v++ {
			out.Blend = append(out.Blend, p.LayerGain(layer, v))
		}
	}
	return out
}

// randomStrokes is how many strokes a random order goes on for before it begins again.
const randomStrokes = 64

// takeOrder lists which of n takes sounds, stroke after stroke: one after another, or at random but never the same
// twice running, the same for the same seed. It can begin again after its end.
func takeOrder(o kit.Order, n int, seed uint64) []int {
	if o != kit.Random || n < 3 { // two takes that never repeat sound in turn
		out := make([]int, n)
		for i := range out {
			out[i] = i
		}
		return out
	}
	rng := rand.New(rand.NewPCG(seed, 0x74616b6573))
	out := make([]int, 0, randomStrokes)
	for len(out) < randomStrokes {
		next := rng.IntN(n)
		last := len(out) == randomStrokes-1
		if len(out) > 0 && next == out[len(out)-1] || last && next == out[0] {
			continue
		}
		out = append(out, next)
	}
	return out
}

// Voices lists the distinct voices of the table.
func (t Table) Voices() []VoiceSpec {
	seen := map[string]bool{}
	var out []VoiceSpec
	for _, p := range t.Pads {
		for _, l := range p.Layers {
			for _, take := range l.Takes {
				if !seen[take.Voice] {
					seen[take.Voice] = true
					out = append(out, take.Spec)
				}
			}
		}
	}
	return out
}

// Tuned is a pad as it is struck so many cents higher, with the voices it needs beside the table's; false when the note has no pad.
func (t Table) Tuned(note, cents int) (StrikePad, []VoiceSpec, bool) {
	for i := range t.Pads {
		if t.Pads[i].Note == note {
			var pass Pass
			return *pass.tunedPad(&t.Pads[i], cents), pass.Tuned, true
		}
	}
	return StrikePad{}, nil, false
}
