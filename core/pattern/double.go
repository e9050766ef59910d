package pattern

import "hexachord/core/music"

// Double makes the pattern twice as long, its contents played twice.
type Double struct{}

func (e *Double) do(p Pattern) (Pattern, error) {
	length := p.LengthTicks()
	p.Bars *= 2
	if p.Bars > music.MaxBars {
		return p, p.checkSettings()
	}
	hits := make([]Hit, 0, 2*len(p.Hits))
	hits = append(hits, p.Hits...)
	for _, h := range p.Hits {
		h.Tick += length
		if _, there := place(p.Hits, h.Key()); !there {
			hits = append(hits, h)
		}
	}
	p.Hits = hits
	return p, nil
}

func (e *Double) scope() Scope { return Scope{All: true, Settings: gridSettings} }

func (e *Double) describe(p Pattern, _ func(int) string) string { return "Double " + p.Name }
