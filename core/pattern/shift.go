package pattern

import "fmt"

// Shift moves hits by By cells, those that leave the bars (or the lane's own length) at one end coming in at the other.
type Shift struct {
	About
	By int `json:"by" minimum:"-4096" maximum:"4096"`
}

func (e *Shift) do(p Pattern) (Pattern, error) {
	if e.By < -4096 || e.By > 4096 {
		return p, fmt.Errorf("%w: hits are shifted by up to 4096 cells, not %d", ErrPattern, e.By)
	}
	from, to := e.rangeTicks(p)
	p.Hits = p.mapped(e.About, func(h Hit) Hit {
		line, to := p.line(h), to
		lean := h.Tick - line
		if loop := p.LoopOf(h.Note); loop > from && loop < to && line < loop {
			to = loop
		}
		moved := line - from + e.By*p.CellOf(h.Note)
		h.Tick = min(p.LengthTicks()-1, from+((moved%(to-from))+(to-from))%(to-from)+lean)
		return h
	})
	return p, nil
}

func (e *Shift) describe(_ Pattern, lane func(int) string) string {
	return fmt.Sprintf("Shift hits%s by %d", e.on(lane), e.By)
}
