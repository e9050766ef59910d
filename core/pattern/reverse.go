package pattern

// Reverse plays the lanes' cells of the bars backwards; leans stay with their hits.
type Reverse struct {
	About
}

func (e *Reverse) do(p Pattern) (Pattern, error) {
	from, to := e.rangeTicks(p)
	p.Hits = p.mapped(e.About, func(h Hit) Hit {
		line := p.line(h)
		h.Tick = min(p.LengthTicks()-1, max(-MaxLeadTicks, to-p.CellOf(h.Note)-(line-from)+h.Tick-line))
		return h
	})
	return p, nil
}

func (e *Reverse) describe(_ Pattern, lane func(int) string) string {
	return "Reverse hits" + e.on(lane)
}
