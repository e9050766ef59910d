package pattern

import "fmt"

// Describe says what a change did in a few words, for the history: "Rope slap at 2.4: velocity 112". p is the
// pattern after the change; laneName gives a note's lane, "" when it has none.
func (c Change) Describe(p Pattern, laneName func(note int) string) string {
	name := func(note int) string {
		if n := laneName(note); n != "" {
			return n
		}
		return fmt.Sprintf("note %d", note)
	}
	switch {
	case c.Before.Name != c.After.Name:
		return fmt.Sprintf("Rename %s to %s", c.Before.Name, c.After.Name)
	case c.Before.Bars != c.After.Bars:
		return fmt.Sprintf("%s: %d bars", c.After.Name, c.After.Bars)
	case !c.Before.equal(c.After) && c.Before.Meter == c.After.Meter && c.Before.Grid == c.After.Grid:
		return "Change " + c.After.Name
	case !c.Before.equal(c.After):
		return fmt.Sprintf("%s: %s, grid %s", c.After.Name, c.After.Meter, c.After.Grid)
	}
	one := func(hits []Hit) (h Hit, lane string, single bool) {
		if len(hits) == 0 {
			return h, "", false
		}
		for _, other := range hits[1:] {
			if other.Note != hits[0].Note {
				return h, "", false
			}
		}
		return hits[0], name(hits[0].Note), true
	}
	gone, goneLane, goneOne := one(c.Removed)
	came, cameLane, cameOne := one(c.Added)
	switch {
	case len(c.Added) == 1 && len(c.Removed) == 0:
		return fmt.Sprintf("%s at %s", cameLane, p.Place(came.Tick))
	case len(c.Removed) == 1 && len(c.Added) == 0:
		return fmt.Sprintf("Clear %s at %s", goneLane, p.Place(gone.Tick))
	case len(c.Removed) == 1 && len(c.Added) == 1 && gone.Note == came.Note:
		return describeOne(gone, came, cameLane, p.Place(came.Tick))
	case len(c.Removed) == 0 && cameOne:
		return fmt.Sprintf("%s: %d hits", cameLane, len(c.Added))
	case len(c.Added) == 0 && goneOne:
		return fmt.Sprintf("Clear %d hits of %s", len(c.Removed), goneLane)
	case len(c.Added) == 0:
		return fmt.Sprintf("Clear %d hits", len(c.Removed))
	case cameOne:
		return fmt.Sprintf("Change %d hits of %s", len(c.Added), cameLane)
	}
	return fmt.Sprintf("Change %d hits", len(c.Added))
}

func describeOne(was, is Hit, lane, place string) string {
	switch {
	case was.Tick != is.Tick:
		return fmt.Sprintf("Move %s to %s", lane, place)
	case was.Split != is.Split && is.Split > 1:
		return fmt.Sprintf("Split %s at %s", lane, place)
	case was.Split != is.Split:
		return fmt.Sprintf("Undo the split of %s at %s", lane, place)
	case was.Velocity != is.Velocity:
		return fmt.Sprintf("%s at %s: velocity %d", lane, place, is.Velocity)
	}
	return fmt.Sprintf("Change %s at %s", lane, place)
}

// Place names a tick as bar.beat, both from 1, by its nearest grid line.
func (p Pattern) Place(tick int) string {
	tick = max(0, tick-p.Lean(Hit{Tick: tick}))
	bar := p.Meter.BarTicks()
	return fmt.Sprintf("%d.%d", tick/bar+1, tick%bar/p.Meter.BeatTicks()+1)
}
