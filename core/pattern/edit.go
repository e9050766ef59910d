package pattern

import (
	"fmt"
	"math"
	"reflect"

	"hexachord/core/feel"
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
	OpShape    Op = "shape"    // change name, bars, meter, grid, colour, tags, feel or a lane's grid; nil leaves it
	OpLean     Op = "lean"     // move the hits by By ticks about their grid lines, never into another cell
	OpLengths  Op = "lengths"  // change how long the hits last by Lengths
	OpRepeat   Op = "repeat"   // repeat the hits of Only every By ticks to the pattern's end
	OpDouble   Op = "double"   // make the pattern twice as long, its contents played twice
	OpVary     Op = "vary"     // play bar FromBar a little otherwise, by Seed
	OpFillBar  Op = "fillbar"  // end bar FromBar in a fill on the lanes of Notes, first to last, by Seed
)

// Edit is a change of one pattern, as a value: what is asked for, not what comes of it.
type Edit struct {
	Op Op `json:"op" enum:"hits,clear,quantise,renote,fill,shift,reverse,velocity,copy,shape,lean,lengths,repeat,double,vary,fillbar" required:"true"`

	Remove []Key `json:"remove,omitempty"`
	Put    []Hit `json:"put,omitempty"`

	FromBar int   `json:"fromBar,omitempty"`
	ToBar   int   `json:"toBar,omitempty"`
	Notes   []int `json:"notes,omitempty"`
	Only    []Key `json:"only,omitempty"` // quantise, velocity, lean, lengths, repeat: these hits alone; none = all

	Moves    map[int]int `json:"moves,omitempty"`
	Strength float64     `json:"strength,omitempty" minimum:"0" maximum:"100"`
	Within   int         `json:"within,omitempty"` // quantise: hits that lean so many ticks at most stay

	Fill    *Fill    `json:"fill,omitempty"`
	By      int      `json:"by,omitempty"`
	Seed    uint64   `json:"seed,omitempty"`
	Shaping *Shaping `json:"shaping,omitempty"`
	Lengths *Lengths `json:"lengths,omitempty"`

	Name  *string      `json:"name,omitempty"`
	Bars  *int         `json:"bars,omitempty"`
	Meter *music.Meter `json:"meter,omitempty"`
	Grid  *music.Grid  `json:"grid,omitempty"`
	Color *string      `json:"color,omitempty"`
	Tags  *[]string    `json:"tags,omitempty"`
	Feel  *feel.Feel   `json:"feel,omitempty"`
	// OwnFeel false gives the pattern back to the project's feel.
	OwnFeel *bool     `json:"ownFeel,omitempty"`
	Lane    *LaneGrid `json:"lane,omitempty"` // of the lanes on Notes
	Link    *string   `json:"link,omitempty"`

	// Label overrides the words the history shows for the edit.
	Label string `json:"label,omitempty"`
}

// Settings are a pattern's values other than its hits.
type Settings struct {
	Name  string           `json:"name"`
	Bars  int              `json:"bars"`
	Meter music.Meter      `json:"meter"`
	Grid  music.Grid       `json:"grid"`
	Lanes map[int]LaneGrid `json:"lanes,omitempty"`
	Feel  *feel.Feel       `json:"feel,omitempty"`
	Color string           `json:"color,omitempty"`
	Tags  []string         `json:"tags,omitempty"`
	Link  string           `json:"link,omitempty"`
}

// Settings are the pattern's values other than its hits.
func (p Pattern) Settings() Settings {
	return Settings{p.Name, p.Bars, p.Meter, p.Grid, p.Lanes, p.Feel, p.Color, p.Tags, p.Link}
}

// With is the pattern with other settings.
func (p Pattern) With(s Settings) Pattern {
	return Pattern{Name: s.Name, Bars: s.Bars, Meter: s.Meter, Grid: s.Grid, Lanes: s.Lanes, Feel: s.Feel, Color: s.Color, Tags: s.Tags, Link: s.Link, Hits: p.Hits}
}

func (s Settings) equal(o Settings) bool { return reflect.DeepEqual(s, o) }

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
	return len(c.Removed) == 0 && len(c.Added) == 0 && c.Before.equal(c.After)
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
	case OpRenote:
		next.renoteLanes(e.Moves)
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
	case OpFill, OpShift, OpReverse, OpVelocity, OpCopyBars, OpQuantise, OpLean, OpLengths, OpRepeat, OpVary, OpFillBar:
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
	case OpDouble:
		next.Bars *= 2
		if err := next.checkSettings(); err != nil {
			return p, Change{}, err
		}
		for _, h := range p.Hits {
			h.Tick += p.LengthTicks()
			if _, ok := hits[h.Key()]; !ok {
				hits[h.Key()] = h
			}
		}
	case OpShape:
		next.reshape(e)
		if err := next.checkSettings(); err != nil {
			return p, Change{}, err
		}
		for k, h := range hits { // hits beyond a shorter pattern go with it; undo brings them back
			if k.Tick >= next.LengthTicks() {
				delete(hits, k)
			} else if h.Length > next.LengthTicks() {
				h.Length = next.LengthTicks()
				hits[k] = h
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

func (p *Pattern) reshape(e Edit) {
	take(&p.Name, e.Name)
	take(&p.Bars, e.Bars)
	take(&p.Meter, e.Meter)
	take(&p.Grid, e.Grid)
	take(&p.Color, e.Color)
	take(&p.Tags, e.Tags)
	take(&p.Link, e.Link)
	if e.Feel != nil {
		p.Feel = e.Feel
	}
	if e.OwnFeel != nil && !*e.OwnFeel {
		p.Feel = nil
	}
	if e.Lane != nil {
		lanes := map[int]LaneGrid{}
		for note, l := range p.Lanes {
			lanes[note] = l
		}
		for _, note := range e.Notes {
			if lanes[note] = *e.Lane; *e.Lane == (LaneGrid{}) {
				delete(lanes, note)
			}
		}
		if p.Lanes = lanes; len(lanes) == 0 {
			p.Lanes = nil
		}
	}
}

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
		for n, l := range p.Lanes {
			lanes[to(n)] = l
		}
		p.Lanes = lanes
	}
	if p.Feel != nil {
		f := p.Feel.Renoted(to)
		p.Feel = &f
	}
}

func take[T any](value, asked *T) {
	if asked != nil {
		*value = *asked
	}
}

// Redo applies a change to the pattern it was made from.
func Redo(p Pattern, c Change) Pattern {
	gone := make(map[Key]bool, len(c.Removed))
	for _, h := range c.Removed {
		gone[h.Key()] = true
	}
	next := Pattern{Hits: make([]Hit, 0, len(p.Hits)+len(c.Added))}.With(c.After)
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
