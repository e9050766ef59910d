package pattern

import (
	"fmt"
	"math"

	"hexachord/core/music"
)

// Op names what an Edit does.
type Op string

// The edits.
const (
	OpHits     Op = "hits"     // remove the hits named, then put the hits given (replacing any on the same note and tick)
	OpClear    Op = "clear"    // remove every hit that starts in bars FromBar ≤ bar < ToBar (0-based), on Notes or on all
	OpQuantise Op = "quantise" // move the hits on Notes (or all) towards their grid line by Strength %
	OpRenote   Op = "renote"   // give the hits on a note of Moves the note it leads to; where two meet, the harder stays
	OpFill     Op = "fill"     // set cells of the lanes on Notes by Fill
	OpShift    Op = "shift"    // move the hits on Notes (or all) by By cells, wrapping round the bars
	OpReverse  Op = "reverse"  // play the cells of the lanes on Notes (or all) backwards
	OpVelocity Op = "velocity" // change the velocities on Notes (or all) by Shaping
	OpCopyBars Op = "copy"     // repeat the bars FromBar ≤ bar < ToBar at bar By
	OpShape    Op = "shape"    // change name, bars, meter or grid; nil leaves it
)

// Edit is a change of one pattern, as a value: what is asked for, not what comes of it.
type Edit struct {
	Op Op `json:"op" enum:"hits,clear,quantise,renote,fill,shift,reverse,velocity,copy,shape" required:"true"`

	Remove []Key `json:"remove,omitempty"`
	Put    []Hit `json:"put,omitempty"`

	FromBar int   `json:"fromBar,omitempty"`
	ToBar   int   `json:"toBar,omitempty"`
	Notes   []int `json:"notes,omitempty"`

	Moves    map[int]int `json:"moves,omitempty"`
	Strength float64     `json:"strength,omitempty" minimum:"0" maximum:"100"`

	Fill    *Fill    `json:"fill,omitempty"`
	By      int      `json:"by,omitempty"`
	Shaping *Shaping `json:"shaping,omitempty"`

	Name  *string      `json:"name,omitempty"`
	Bars  *int         `json:"bars,omitempty"`
	Meter *music.Meter `json:"meter,omitempty"`
	Grid  *music.Grid  `json:"grid,omitempty"`

	// Label overrides the words the history shows for the edit.
	Label string `json:"label,omitempty"`
}

// Settings are a pattern's values other than its hits.
type Settings struct {
	Name  string      `json:"name"`
	Bars  int         `json:"bars"`
	Meter music.Meter `json:"meter"`
	Grid  music.Grid  `json:"grid"`
}

// Settings are the pattern's values other than its hits.
func (p Pattern) Settings() Settings { return Settings{p.Name, p.Bars, p.Meter, p.Grid} }

// Change is what an edit did, exactly and reversibly: the hits that went, the hits that came, and
// the settings before and after.
type Change struct {
	Removed []Hit    `json:"removed,omitempty"`
	Added   []Hit    `json:"added,omitempty"`
	Before  Settings `json:"before"`
	After   Settings `json:"after"`
}

// Inverse undoes the change.
func (c Change) Inverse() Change {
	return Change{Removed: c.Added, Added: c.Removed, Before: c.After, After: c.Before}
}

// Empty reports whether the change changes nothing.
func (c Change) Empty() bool {
	return len(c.Removed) == 0 && len(c.Added) == 0 && c.Before == c.After
}

// Apply returns the edited pattern and the change that leads there; p is left as it was. An edit
// that asks for values out of range is refused with ErrHit or ErrPattern.
func Apply(p Pattern, e Edit) (Pattern, Change, error) {
	next := p
	next.Hits = nil
	hits := make(map[Key]Hit, len(p.Hits))
	for _, h := range p.Hits {
		hits[h.Key()] = h
	}
	switch e.Op {
	case OpHits:
		for _, k := range e.Remove {
			delete(hits, k)
		}
		for _, h := range e.Put {
			if err := p.checkHit(h); err != nil {
				return p, Change{}, err
			}
			hits[h.Key()] = h
		}
	case OpClear:
		bar := p.Meter.BarTicks()
		only := noteSet(e.Notes)
		for k := range hits {
			inBars := max(0, k.Tick) >= e.FromBar*bar && max(0, k.Tick) < e.ToBar*bar
			if inBars && only(k.Note) {
				delete(hits, k)
			}
		}
	case OpQuantise:
		if !(e.Strength >= 0 && e.Strength <= 100) {
			return p, Change{}, fmt.Errorf("%w: quantise strength %g is not between 0 and 100 %%", ErrPattern, e.Strength)
		}
		cell, only := p.CellTicks(), noteSet(e.Notes)
		if e.Grid != nil {
			var err error
			if cell, err = e.Grid.Ticks(); err != nil {
				return p, Change{}, err
			}
		}
		hits = make(map[Key]Hit, len(p.Hits))
		for _, h := range p.Hits {
			if only(h.Note) {
				h.Tick = QuantiseTick(h.Tick, cell, e.Strength)
				if h.Tick >= p.LengthTicks() { // the line after the last cell is the next pass's first
					h.Tick -= p.LengthTicks()
				}
			}
			if old, ok := hits[h.Key()]; !ok || h.Velocity > old.Velocity {
				hits[h.Key()] = h
			}
		}
	case OpRenote:
		hits = make(map[Key]Hit, len(p.Hits))
		for _, h := range p.Hits {
			if to, ok := e.Moves[h.Note]; ok {
				h.Note = to
			}
			if err := p.checkHit(h); err != nil {
				return p, Change{}, err
			}
			if old, ok := hits[h.Key()]; !ok || h.Velocity > old.Velocity {
				hits[h.Key()] = h
			}
		}
	case OpFill, OpShift, OpReverse, OpVelocity, OpCopyBars:
		changed, err := p.laneEdit(e)
		if err != nil {
			return p, Change{}, err
		}
		hits = unique(changed)
		for _, h := range hits {
			if err := p.checkHit(h); err != nil {
				return p, Change{}, err
			}
		}
	case OpShape:
		if e.Name != nil {
			next.Name = *e.Name
		}
		if e.Bars != nil {
			next.Bars = *e.Bars
		}
		if e.Meter != nil {
			next.Meter = *e.Meter
		}
		if e.Grid != nil {
			next.Grid = *e.Grid
		}
		if err := next.checkSettings(); err != nil {
			return p, Change{}, err
		}
		for k := range hits { // hits beyond a shorter pattern go with it; undo brings them back
			if k.Tick >= next.LengthTicks() {
				delete(hits, k)
			}
		}
	default:
		return p, Change{}, fmt.Errorf("%w: unknown edit %q", ErrPattern, e.Op)
	}
	next.Hits = make([]Hit, 0, len(hits))
	for _, h := range hits {
		next.Hits = append(next.Hits, h)
	}
	SortHits(next.Hits)
	if len(next.Hits) > MaxHits {
		return p, Change{}, fmt.Errorf("%w: it would have %d hits; at most %d fit", ErrPattern, len(next.Hits), MaxHits)
	}
	return next, difference(p, next), nil
}

// Redo applies a change to the pattern it was made from.
func Redo(p Pattern, c Change) Pattern {
	gone := make(map[Key]bool, len(c.Removed))
	for _, h := range c.Removed {
		gone[h.Key()] = true
	}
	next := Pattern{Name: c.After.Name, Bars: c.After.Bars, Meter: c.After.Meter, Grid: c.After.Grid,
		Hits: make([]Hit, 0, len(p.Hits)+len(c.Added))}
	for _, h := range p.Hits {
		if !gone[h.Key()] {
			next.Hits = append(next.Hits, h)
		}
	}
	next.Hits = append(next.Hits, c.Added...)
	SortHits(next.Hits)
	return next
}

// QuantiseTick moves a tick towards its nearest line of a grid by strength 0..100 %.
func QuantiseTick(tick, cellTicks int, strength float64) int {
	line := music.NearestLine(tick, cellTicks)
	return tick + int(math.Round(float64(line-tick)*strength/100))
}

func difference(a, b Pattern) Change {
	c := Change{Before: a.Settings(), After: b.Settings()}
	i, j := 0, 0
	for i < len(a.Hits) || j < len(b.Hits) {
		switch {
		case j == len(b.Hits) || i < len(a.Hits) && compareHits(a.Hits[i], b.Hits[j]) < 0:
			c.Removed = append(c.Removed, a.Hits[i])
			i++
		case i == len(a.Hits) || compareHits(a.Hits[i], b.Hits[j]) > 0:
			c.Added = append(c.Added, b.Hits[j])
			j++
		default:
			if a.Hits[i] != b.Hits[j] {
				c.Removed, c.Added = append(c.Removed, a.Hits[i]), append(c.Added, b.Hits[j])
			}
			i, j = i+1, j+1
		}
	}
	return c
}

func noteSet(notes []int) func(int) bool {
	if len(notes) == 0 {
		return func(int) bool { return true }
	}
	set := map[int]bool{}
	for _, n := range notes {
		set[n] = true
	}
	return func(n int) bool { return set[n] }
}
