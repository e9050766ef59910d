package pattern

// Then is what two changes, one after the other, do together.
func (c Change) Then(next Change) Change {
	gone := make(map[Key]bool, len(next.Removed))
	for _, h := range next.Removed {
		gone[h.Key()] = true
	}
	out := Change{Before: c.Before, After: next.After, Removed: append([]Hit(nil), c.Removed...)}
	came := make(map[Key]bool, len(c.Added))
	for _, h := range c.Added {
		came[h.Key()] = true
		if !gone[h.Key()] {
			out.Added = append(out.Added, h)
		}
	}
	for _, h := range next.Removed {
		if !came[h.Key()] { // it was there before both
			out.Removed = append(out.Removed, h)
		}
	}
	out.Added = append(out.Added, next.Added...)
	return out
}
