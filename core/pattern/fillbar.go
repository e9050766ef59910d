package pattern

import (
	"fmt"
	"math"
	"math/rand/v2"
)

// FillBar ends a bar in a fill, by Seed: its last two beats (the last half of a shorter bar) run through the lanes of Notes
// from the first to the last, rising in velocity; other lanes keep their strokes on beats.
type FillBar struct {
	Bar   int    `json:"bar" minimum:"0" maximum:"63"` // from 0
	Notes []int  `json:"notes,omitempty" maxItems:"16"`
	Seed  uint64 `json:"seed,omitempty"`
}

func (e *FillBar) do(p Pattern) (Pattern, error) {
	bar, err := p.bar(e.Bar, nil)
	if err != nil {
		return p, err
	}
	if len(e.Notes) == 0 || len(e.Notes) > 16 {
		return p, fmt.Errorf("%w: a fill needs a snare or a tom; give a lane of the map one of these roles", ErrPattern)
	}
	lanes := e.Notes
	beat := p.Meter.BeatTicks()
	_, end := bar.rangeTicks(p)
	start := end - beat*min(2, max(1, p.Meter.Beats/2))
	mine := noteSet(lanes)
	about := p.about(bar)
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
	p.Hits = out
	return p, nil
}

func (e *FillBar) scope() Scope { return Scope{All: true, Settings: gridSettings} }

func (e *FillBar) describe(Pattern, func(int) string) string {
	return fmt.Sprintf("Fill bar %d", e.Bar+1)
}
