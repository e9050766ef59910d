package pattern

import (
	"fmt"
	"math"
	"math/rand/v2"
)

// barOf narrows an edit to the one bar it is about.
func (p Pattern) barOf(e Edit) (Edit, error) {
	if e.FromBar < 0 || e.FromBar >= p.Bars {
		return e, fmt.Errorf("%w: bar %d is not in it", ErrPattern, e.FromBar+1)
	}
	e.ToBar = e.FromBar + 1
	return e, nil
}

// vary plays one bar a little otherwise: what lies between the beats may be left out, moved by a cell, split or played
// harder or softer, and a free cell beside a hit may get a ghost of it. Strokes on beats stay (common practice, no
// source: a variation keeps what the ear counts by).
func (p Pattern) vary(e Edit) ([]Hit, error) {
	e, err := p.barOf(e)
	if err != nil {
		return nil, err
	}
	about := p.about(e)
	rng := rand.New(rand.NewPCG(e.Seed, 0x76617279))
	from, to := e.rangeTicks(p)
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
				return append(out, Hit{Note: h.Note, Tick: echo, Velocity: clampVelocity(float64(h.Velocity) * 0.5)}), nil
			}
		}
	}
	return out, nil
}

// fillBar ends a bar in a fill: its last two beats (the last half of a shorter bar) run through the lanes of Notes from
// the first to the last, rising in velocity; other lanes keep their strokes on beats.
func (p Pattern) fillBar(e Edit) ([]Hit, error) {
	e, err := p.barOf(e)
	if err != nil {
		return nil, err
	}
	if len(e.Notes) == 0 || len(e.Notes) > 16 {
		return nil, fmt.Errorf("%w: a fill needs a snare or a tom; give a lane of the map one of these roles", ErrPattern)
	}
	lanes := e.Notes
	beat := p.Meter.BeatTicks()
	_, end := e.rangeTicks(p)
	start := end - beat*min(2, max(1, p.Meter.Beats/2))
	mine := noteSet(lanes)
	e.Notes = nil
	about := p.about(e)
	var out []Hit
	for _, h := range p.Hits {
		if about(h) && p.line(h) >= start && (mine(h.Note) || p.line(h)%beat != 0) {
			continue
		}
		out = append(out, h)
	}
	rng := rand.New(rand.NewPCG(e.Seed, 0x66696c6c))
	cell := p.CellTicks()
	for cell > beat/2 {
		cell /= 2
	}
	cells := (end - start) / cell
	for i := range cells {
		onBeat := (start+i*cell)%beat == 0
		if !onBeat && rng.Float64() < 0.2 {
			continue
		}
		h := Hit{Note: lanes[min(len(lanes)-1, i*len(lanes)/cells)], Tick: start + i*cell,
			Velocity: clampVelocity(78 + 40*math.Sqrt(float64(i)/float64(cells)) + (2*rng.Float64()-1)*6)}
		if !onBeat {
			h.Velocity = clampVelocity(float64(h.Velocity) - 14)
		}
		if i == cells-2 && rng.Float64() < 0.4 {
			h.Split = 2
		}
		out = append(out, h)
	}
	return out, nil
}
