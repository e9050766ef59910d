package pattern

import (
	"fmt"
	"math"

	"hexachord/core/music"
)

// Quantise moves hits towards their grid line by Strength percent, those that lean no more than Within ticks excepted.
type Quantise struct {
	About
	Strength float64     `json:"strength,omitempty" minimum:"0" maximum:"100"`
	Within   int         `json:"within,omitempty" minimum:"0" maximum:"3840"`
	Grid     *music.Grid `json:"grid,omitempty"` // none: each lane's own
}

func (e *Quantise) do(p Pattern) (Pattern, error) {
	if !(e.Strength >= 0 && e.Strength <= 100) {
		return p, fmt.Errorf("%w: quantise strength %g is not between 0 and 100 %%", ErrPattern, e.Strength)
	}
	own := 0
	if e.Grid != nil {
		var err error
		if own, err = e.Grid.Ticks(); err != nil {
			return p, err
		}
	}
	p.Hits = p.mapped(e.About, func(h Hit) Hit {
		cell := own
		if cell == 0 {
			cell = p.CellOf(h.Note)
		}
		if lean := leanOf(h.Tick, cell); max(lean, -lean) <= e.Within {
			return h
		}
		h.Tick = QuantiseTick(h.Tick, cell, e.Strength)
		if h.Tick >= p.LengthTicks() { // the line after the last cell is the next pass's first
			h.Tick -= p.LengthTicks()
		}
		return h
	})
	return p, nil
}

func (e *Quantise) describe(_ Pattern, lane func(int) string) string {
	return "Quantise hits" + e.on(lane)
}

// QuantiseTick moves a tick towards its nearest line of a grid by strength 0..100 %.
func QuantiseTick(tick, cellTicks int, strength float64) int {
	line := music.NearestLine(tick, cellTicks)
	return tick + int(math.Round(float64(line-tick)*strength/100))
}
