package breaks

import (
	"math"
	"math/rand/v2"
)

// Strokes are recorded or sampled strokes that kits may be made of: by kit, General MIDI note and how hard, softest first.
// Each is one channel at Rate, from just before it begins to sound.
type Strokes struct {
	Kits []map[int][][]float32
	// Whole makes every piece of one kit, wherever it has the note.
	Whole bool
}

// into makes pieces of a kit of strokes: sometimes all of one kit, sometimes some of several.
func (s *Strokes) into(kit []*Piece, d dice) {
	all, each := s.Whole || d.chance(0.4), 0.0
	if !all && d.chance(0.4) {
		each = d.between(0.2, 0.8)
	}
	one := d.IntN(len(s.Kits))
	for _, p := range kit {
		from, note := s.Kits[one], p.Note
		if !all {
			if !d.chance(each) {
				continue
			}
			from = s.Kits[d.IntN(len(s.Kits))]
		}
		if note == HalfOpen {
			note = openHat
		}
		if layers := from[note]; layers != nil {
			p.play(layers, d)
		}
	}
}

// Into makes a piece of one kit's strokes, where any has its note.
func (s *Strokes) Into(p *Piece, rng *rand.Rand) {
	from := rng.IntN(len(s.Kits))
	for k := range s.Kits {
		if layers := s.Kits[(from+k)%len(s.Kits)][p.Note]; layers != nil {
			p.play(layers, dice{rng})
			return
		}
	}
}

// play makes a piece sound like strokes, miked and tuned in some way.
func (p *Piece) play(layers [][]float32, d dice) {
	p.Layers, p.Tone = layers, randomTone(p.Note, d)
	if p.Note == HalfOpen {
		p.Tone.DampS = d.exp(0.15, 0.6)
	}
	if d.chance(0.5) {
		p.Tone.Tune = d.NormFloat64() * 0.15
	}
}

// Seconds is how long the piece sounds at most, before any room.
func (p *Piece) Seconds() float64 {
	if p.Layers == nil {
		return p.Drum.Seconds
	}
	longest := 0
	for _, l := range p.Layers {
		longest = max(longest, len(l))
	}
	return float64(longest) / Rate
}

// layer is the stroke for a strength 0..1.
func (p *Piece) layer(strength float64) []float32 {
	k := int(strength * float64(len(p.Layers)))
	return append([]float32(nil), p.Layers[max(0, min(len(p.Layers)-1, k))]...)
}

// tuned plays x at another speed, octaves up, between two frames by a line: it is to be varied, not to be kept.
func tuned(x []float32, octaves float64) []float32 {
	by := math.Exp2(octaves)
	out := make([]float32, int(float64(len(x)-1)/by))
	for i := range out {
		at := float64(i) * by
		k := int(at)
		f := float32(at - float64(k))
		out[i] = x[k]*(1-f) + x[min(len(x)-1, k+1)]*f
	}
	return out
}
