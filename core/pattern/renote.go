package pattern

import (
	"maps"
	"slices"
)

// Renote gives the hits on a note of Moves the note it leads to; where two meet, the harder stays. What belongs to the lanes
// goes along.
type Renote struct {
	Moves map[int]int `json:"moves"`
}

func (e *Renote) do(p Pattern) (Pattern, error) {
	hits := make([]Hit, len(p.Hits))
	for i, h := range p.Hits {
		if to, ok := e.Moves[h.Note]; ok {
			h.Note = to
		}
		hits[i] = h
	}
	p.Hits = hits
	p.renoteLanes(e.Moves)
	return p, nil
}

func (e *Renote) scope() Scope { return Scope{All: true, Settings: []string{"lanes", "feel"}} }

func (e *Renote) describe(Pattern, func(int) string) string { return "Give hits other notes" }

// renoteLanes lets what belongs to lanes go with their notes.
func (p *Pattern) renoteLanes(moves map[int]int) {
	to := func(n int) int {
		if other, ok := moves[n]; ok {
			return other
		}
		return n
	}
	if len(p.Lanes) > 0 {
		lanes := make(map[int]LaneGrid, len(p.Lanes))
		for _, n := range slices.Sorted(maps.Keys(p.Lanes)) {
			lanes[to(n)] = p.Lanes[n]
		}
		p.Lanes = lanes
	}
	if p.Feel != nil {
		f := p.Feel.Renoted(to)
		p.Feel = &f
	}
}
