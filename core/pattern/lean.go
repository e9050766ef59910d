package pattern

import "fmt"

// Lean moves hits by By ticks about their grid lines; none leaves its cell.
type Lean struct {
	About
	By int `json:"by" minimum:"-3840" maximum:"3840"`
}

func (e *Lean) do(p Pattern) (Pattern, error) {
	if e.By < -3840 || e.By > 3840 {
		return p, fmt.Errorf("%w: hits lean by less than a bar, not %d ticks", ErrPattern, e.By)
	}
	p.Hits = p.mapped(e.About, func(h Hit) Hit {
		limit := p.CellOf(h.Note)/2 - 1
		line := h.Tick - p.Lean(h)
		h.Tick = max(-MaxLeadTicks, min(p.LengthTicks()-1, line+max(-limit, min(limit, h.Tick-line+e.By))))
		return h
	})
	return p, nil
}

func (e *Lean) describe(_ Pattern, lane func(int) string) string { return "Lean of hits" + e.on(lane) }
