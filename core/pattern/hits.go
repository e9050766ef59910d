package pattern

import "slices"

// Hits removes the hits named, then puts the hits given, each in place of what is on its note and tick.
type Hits struct {
	Remove []Key `json:"remove,omitempty" maxItems:"100000"`
	Put    []Hit `json:"put,omitempty" maxItems:"100000"`
}

func (e *Hits) do(p Pattern) (Pattern, error) {
	for _, h := range e.Put {
		if err := p.checkHit(h); err != nil {
			return p, err
		}
	}
	if len(e.Remove)+len(e.Put) > 64 {
		return e.many(p), nil
	}
	hits := slices.Clone(p.Hits)
	for _, k := range e.Remove {
		if i, ok := place(hits, k); ok {
			hits = slices.Delete(hits, i, i+1)
		}
	}
	for _, h := range e.Put {
		if i, ok := place(hits, h.Key()); ok {
			hits[i] = h
		} else {
			hits = slices.Insert(hits, i, h)
		}
	}
	p.Hits = hits
	return p, nil
}

func (e *Hits) many(p Pattern) Pattern {
	hits := make(map[Key]Hit, len(p.Hits)+len(e.Put))
	for _, h := range p.Hits {
		hits[h.Key()] = h
	}
	for _, k := range e.Remove {
		delete(hits, k)
	}
	for _, h := range e.Put {
		hits[h.Key()] = h
	}
	p.Hits = make([]Hit, 0, len(hits))
	for _, h := range hits {
		p.Hits = append(p.Hits, h)
	}
	return p
}

func (e *Hits) scope() Scope {
	s := Scope{Keys: slices.Clone(e.Remove), Settings: []string{"bars", "meter"}}
	for _, h := range e.Put {
		s.Keys = append(s.Keys, h.Key())
	}
	return s
}

func (e *Hits) describe(Pattern, func(int) string) string { return "" }
