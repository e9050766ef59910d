package pattern

import (
	"fmt"
	"math/rand/v2"
)

// Vary plays one bar a little otherwise, by Seed: what lies between the beats may be left out, moved by a cell, split or
// played harder or softer, and a free cell beside a hit may get a ghost of it. Strokes on beats stay (common practice, no
// source: a variation keeps what the ear counts by).
type Vary struct {
	Bar   int    `json:"bar" minimum:"0" maximum:"63"` // from 0
	Notes []int  `json:"notes,omitempty" maxItems:"128"`
	Seed  uint64 `json:"seed,omitempty"`
}

func (e *Vary) do(p Pattern) (Pattern, error) {
	bar, err := p.bar(e.Bar, e.Notes)
	if err != nil {
		return p, err
	}
	about := p.about(bar)
	rng := rand.New(rand.NewPCG(e.Seed, 0x76617279))
	from, to := bar.rangeTicks(p)
	beat := p.Meter.BeatTicks()
	taken := map[Key]bool{}
	for _, h := range p.Hits {
		taken[Key{h.Note, p.line(h)}] = true
	}
	free := func(note, line int) bool { return line >= from && line < to && !taken[Key{note, line}] }
	changed := false
	var out []Hit
	for _, h := range p.Hits {
		if !about(h) {
			out = append(out, h)
			continue
		}
		cell, line := p.CellOf(h.Note), p.line(h)
		roll := rng.Float64()
		side := line + cell*(1-2*rng.IntN(2))
		louder := (2*rng.Float64() - 1) * 10
		switch {
		case line%beat == 0:
		case roll < 0.12: // left out
			changed = true
			continue
		case roll < 0.24 && free(h.Note, side):
			taken[Key{h.Note, side}] = true
			h.Tick += side - line
			changed = true
		case roll < 0.32 && h.Split < 2:
			h.Split, h.Slope = 2, -h.Velocity/4
			changed = true
		default:
			h.Velocity = clampVelocity(float64(h.Velocity) + louder)
		}
		out = append(out, h)
		if ghost := line + cell; rng.Float64() < 0.1 && free(h.Note, ghost) {
			taken[Key{h.Note, ghost}] = true
			out = append(out, Hit{Note: h.Note, Tick: ghost, Velocity: clampVelocity(float64(h.Velocity) * 0.35)})
			changed = true
		}
	}
	if !changed { // chance would have left it as it was: the last beat answers itself
		for i := len(out) - 1; i >= 0; i-- {
			h := out[i]
			if echo := p.line(h) + p.CellOf(h.Note); about(h) && free(h.Note, echo) {
				p.Hits = append(out, Hit{Note: h.Note, Tick: echo, Velocity: clampVelocity(float64(h.Velocity) * 0.5)})
				return p, nil
			}
		}
	}
	p.Hits = out
	return p, nil
}

func (e *Vary) scope() Scope { return About{Notes: e.Notes}.scope() }

func (e *Vary) describe(Pattern, func(int) string) string { return fmt.Sprintf("Vary bar %d", e.Bar+1) }

// bar is about one bar of the pattern.
func (p Pattern) bar(bar int, notes []int) (About, error) {
	if bar < 0 || bar >= p.Bars {
		return About{}, fmt.Errorf("%w: bar %d is not in it", ErrPattern, bar+1)
	}
	return About{FromBar: bar, ToBar: bar + 1, Notes: notes}, nil
}
