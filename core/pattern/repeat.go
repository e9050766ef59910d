package pattern

import "fmt"

// Repeat plays the hits of Only again every By ticks to the pattern's end, in place of what their lanes have there.
type Repeat struct {
	About
	By int `json:"by" minimum:"1" maximum:"1000000"`
}

func (e *Repeat) do(p Pattern) (Pattern, error) {
	if e.By < 1 || len(e.Only) == 0 {
		return p, fmt.Errorf("%w: choose the hits that are to be repeated", ErrPattern)
	}
	about := p.about(e.About)
	var chosen []Hit
	lanes := map[int]bool{}
	first := p.LengthTicks()
	for _, h := range p.Hits {
		if about(h) {
			chosen = append(chosen, h)
			lanes[h.Note] = true
			first = min(first, p.line(h))
		}
	}
	var hits []Hit
	for _, h := range p.Hits {
		if !lanes[h.Note] || h.Tick < first+e.By || about(h) {
			hits = append(hits, h)
		}
	}
	for again := e.By; first+again < p.LengthTicks(); again += e.By {
		for _, h := range chosen {
			if h.Tick += again; h.Tick < p.LengthTicks() {
				hits = append(hits, h)
			}
		}
		if len(hits) > MaxHits {
			break // refused by the count
		}
	}
	p.Hits = hits
	return p, nil
}

func (e *Repeat) describe(_ Pattern, lane func(int) string) string { return "Repeat hits" + e.on(lane) }
