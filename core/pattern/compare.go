package pattern

// Comparison is how two patterns differ, hit by hit.
type Comparison struct {
	OnlyA   []Hit `json:"onlyA"`
	OnlyB   []Hit `json:"onlyB"`
	Changed []Hit `json:"changed"` // as the second has them: on one note and cell, but otherwise played
	Same    int   `json:"same"`
}

// Compare matches the hits of two patterns by note and grid line (of the first one's grid).
func Compare(a, b Pattern) Comparison {
	c := Comparison{OnlyA: []Hit{}, OnlyB: []Hit{}, Changed: []Hit{}}
	at := map[Key][]Hit{}
	for _, h := range b.Hits {
		k := Key{h.Note, a.line(h)}
		at[k] = append(at[k], h)
	}
	for _, h := range a.Hits {
		k := Key{h.Note, a.line(h)}
		others := at[k]
		if len(others) == 0 {
			c.OnlyA = append(c.OnlyA, h)
			continue
		}
		at[k] = others[1:]
		if others[0] == h {
			c.Same++
		} else {
			c.Changed = append(c.Changed, others[0])
		}
	}
	for _, h := range b.Hits {
		k := Key{h.Note, a.line(h)}
		if rest := at[k]; len(rest) > 0 && rest[0] == h {
			c.OnlyB = append(c.OnlyB, h)
			at[k] = rest[1:]
		}
	}
	return c
}
