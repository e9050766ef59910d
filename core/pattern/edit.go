package pattern

import (
	"fmt"
	"reflect"
	"slices"
	"sort"

	"hexachord/core/feel"
	"hexachord/core/music"
)

// Edit is a change of one pattern, as a value: what is asked for, not what comes of it. Exactly one of its operations is
// given; each has a file of its own.
type Edit struct {
	Hits     *Hits     `json:"hits,omitempty"`
	Clear    *Clear    `json:"clear,omitempty"`
	Quantise *Quantise `json:"quantise,omitempty"`
	Renote   *Renote   `json:"renote,omitempty"`
	Fill     *Fill     `json:"fill,omitempty"`
	Shift    *Shift    `json:"shift,omitempty"`
	Reverse  *Reverse  `json:"reverse,omitempty"`
	Velocity *Velocity `json:"velocity,omitempty"`
	Copy     *CopyBars `json:"copy,omitempty"`
	Shape    *Shape    `json:"shape,omitempty"`
	Lean     *Lean     `json:"lean,omitempty"`
	Lengths  *Lengths  `json:"lengths,omitempty"`
	Repeat   *Repeat   `json:"repeat,omitempty"`
	Double   *Double   `json:"double,omitempty"`
	Vary     *Vary     `json:"vary,omitempty"`
	FillBar  *FillBar  `json:"fillbar,omitempty"`
	// Label overrides the words the history shows for the edit.
	Label string `json:"label,omitempty" maxLength:"200"`
}

// operation is one way to change a pattern.
type operation interface {
	// do returns the pattern after the operation; p is left as it was. Hits may be in any order and may meet on one note and
	// tick, where the harder stays; Apply checks their values.
	do(p Pattern) (Pattern, error)
	// scope is what it reads and writes.
	scope() Scope
	// describe says what was done in a few words; "" leaves it to what changed.
	describe(p Pattern, lane func(note int) string) string
}

// operation finds the one that is given.
func (e Edit) operation() (operation, error) {
	var found operation
	v := reflect.ValueOf(e)
	for i := range v.NumField() {
		f := v.Field(i)
		if f.Kind() != reflect.Pointer || f.IsNil() {
			continue
		}
		if found != nil {
			return nil, fmt.Errorf("%w: an edit does one thing; send several edits", ErrPattern)
		}
		found = f.Interface().(operation)
	}
	if found == nil {
		return nil, fmt.Errorf("%w: the edit does not say what is to be done", ErrPattern)
	}
	return found, nil
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
	Part  string           `json:"part,omitempty"`
}

// Settings are the pattern's values other than its hits.
func (p Pattern) Settings() Settings {
	return Settings{p.Name, p.Bars, p.Meter, p.Grid, p.Lanes, p.Feel, p.Color, p.Tags, p.Link, p.Part}
}

// With is the pattern with other settings.
func (p Pattern) With(s Settings) Pattern {
	return Pattern{Name: s.Name, Bars: s.Bars, Meter: s.Meter, Grid: s.Grid, Lanes: s.Lanes, Feel: s.Feel, Color: s.Color, Tags: s.Tags, Link: s.Link, Part: s.Part, Hits: p.Hits}
}

func (s Settings) equal(o Settings) bool { return reflect.DeepEqual(s, o) }

// differing names the settings in which two differ, as JSON names them.
func (s Settings) differing(o Settings) (names []string) {
	a, b := reflect.ValueOf(s), reflect.ValueOf(o)
	for i := range a.NumField() {
		if !reflect.DeepEqual(a.Field(i).Interface(), b.Field(i).Interface()) {
			names = append(names, settingName(a.Type().Field(i)))
		}
	}
	return names
}

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

// SameSettings reports whether only hits went and came.
func (c Change) SameSettings() bool { return c.Before.equal(c.After) }

// Empty reports whether the change changes nothing.
func (c Change) Empty() bool {
	return len(c.Removed) == 0 && len(c.Added) == 0 && c.Before.equal(c.After)
}

// Apply returns the edited pattern and the change that leads there; p is left as it was. An edit
// that asks for values out of range is refused with ErrHit or ErrPattern.
func Apply(p Pattern, e Edit) (Pattern, Change, error) {
	op, err := e.operation()
	if err != nil {
		return p, Change{}, err
	}
	next, err := op.do(p)
	if err != nil {
		return p, Change{}, err
	}
	next.Hits = tidied(next.Hits)
	if len(next.Hits) > MaxHits {
		return p, Change{}, fmt.Errorf("%w: it would have %d hits; at most %d fit", ErrPattern, len(next.Hits), MaxHits)
	}
	c := difference(p, next)
	if !c.Before.equal(c.After) {
		if err := next.checkSettings(); err != nil {
			return p, Change{}, err
		}
	}
	for _, h := range c.Added { // what was there before was checked when it came
		if err := next.checkHit(h); err != nil {
			return p, Change{}, err
		}
	}
	return next, c, nil
}

// Describe says what an edit did to a pattern, for the history. p is the pattern after it; laneName gives a note's lane, ""
// when it has none.
func (e Edit) Describe(c Change, p Pattern, laneName func(note int) string) string {
	if e.Label != "" {
		return e.Label
	}
	if op, err := e.operation(); err == nil {
		if words := op.describe(p, laneName); words != "" {
			return words
		}
	}
	return c.Describe(p, laneName)
}

// tidied are hits in order, one a note and tick: the harder.
func tidied(hits []Hit) []Hit {
	if hits == nil {
		return []Hit{}
	}
	if slices.IsSortedFunc(hits, compareHits) && !doubled(hits) {
		return hits
	}
	hits = slices.Clone(hits)
	slices.SortStableFunc(hits, func(a, b Hit) int {
		if c := compareHits(a, b); c != 0 {
			return c
		}
		return b.Velocity - a.Velocity
	})
	return slices.CompactFunc(hits, func(a, b Hit) bool { return a.Key() == b.Key() })
}

func doubled(hits []Hit) bool {
	for i := 1; i < len(hits); i++ {
		if hits[i].Key() == hits[i-1].Key() {
			return true
		}
	}
	return false
}

// At finds the hit on a note and tick.
func (p Pattern) At(k Key) (Hit, bool) {
	i, ok := place(p.Hits, k)
	if !ok {
		return Hit{}, false
	}
	return p.Hits[i], true
}

// place is where a hit of a key stands in sorted hits, or would stand.
func place(hits []Hit, k Key) (int, bool) {
	return sort.Find(len(hits), func(i int) int { return compareHits(Hit{Note: k.Note, Tick: k.Tick}, hits[i]) })
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
