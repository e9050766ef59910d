package pattern

import "fmt"

// CopyBars repeats the hits of the bars FromBar ≤ bar < ToBar at bar At (from 0), replacing what is there.
type CopyBars struct {
	About
	At int `json:"at" minimum:"0" maximum:"63"`
}

func (e *CopyBars) do(p Pattern) (Pattern, error) {
	from, to := e.rangeTicks(p)
	bar := p.Meter.BarTicks()
	if e.At < 0 || e.At >= p.Bars || from >= to {
		return p, fmt.Errorf("%w: bar %d is not in it", ErrPattern, e.At+1)
	}
	at := e.At * bar
	end := min(p.LengthTicks(), at+to-from)
	there := e.About
	there.FromBar, there.ToBar = e.At, (end+bar-1)/bar
	hits := p.without(there)
	about := p.about(e.About)
	for _, h := range p.Hits {
		if about(h) {
			if h.Tick += at - from; h.Tick < p.LengthTicks() && p.line(h) >= at && p.line(h) < end {
				hits = append(hits, h)
			}
		}
	}
	p.Hits = hits
	return p, nil
}

func (e *CopyBars) describe(_ Pattern, lane func(int) string) string {
	return fmt.Sprintf("Copy bars to bar %d%s", e.At+1, e.on(lane))
}
