package pattern

// About says which hits an operation is about: those of its lanes, bars and selection.
type About struct {
	FromBar int   `json:"fromBar,omitempty" minimum:"0" maximum:"64"` // bars FromBar ≤ bar < ToBar, from 0
	ToBar   int   `json:"toBar,omitempty" minimum:"0" maximum:"64"`   // 0 is the pattern's end
	Notes   []int `json:"notes,omitempty" maxItems:"128"`             // lanes; none = all
	Only    []Key `json:"only,omitempty" maxItems:"100000"`           // these hits alone; none = all
}

// scope of an operation on whole cells: the hits it is about, and what decides where cells lie.
func (e About) scope() Scope {
	if len(e.Notes) > 0 {
		return Scope{Notes: e.Notes, Settings: gridSettings}
	}
	if len(e.Only) > 0 {
		s := Scope{Settings: gridSettings}
		for _, k := range e.Only {
			s.Notes = append(s.Notes, k.Note)
		}
		return s
	}
	return Scope{All: true, Settings: gridSettings}
}

// on names the lanes it is about, for the history.
func (e About) on(lane func(note int) string) string {
	if len(e.Notes) == 1 {
		if name := lane(e.Notes[0]); name != "" {
			return " of " + name
		}
	}
	return ""
}

// rangeTicks is the stretch of bars it is about.
func (e About) rangeTicks(p Pattern) (from, to int) {
	bar := p.Meter.BarTicks()
	from, to = min(max(0, e.FromBar), p.Bars)*bar, min(max(0, e.ToBar), p.Bars)*bar
	if e.ToBar <= 0 {
		to = p.LengthTicks()
	}
	return from, to
}

// line is the grid line a hit belongs to; one that leads into the pattern belongs to its first, one that leads out of it
// to its last.
func (p Pattern) line(h Hit) int {
	line := max(0, h.Tick-p.Lean(h))
	if length := p.LengthTicks(); line >= length {
		cell := p.CellOf(h.Note)
		line = (length - 1) / cell * cell
	}
	return line
}

// about reports which hits an edit is about: those of its lanes, bars and selection.
func (p Pattern) about(e About) func(Hit) bool {
	note := noteSet(e.Notes)
	from, to := e.rangeTicks(p)
	only := map[Key]bool{}
	for _, k := range e.Only {
		only[k] = true
	}
	return func(h Hit) bool {
		line := p.line(h)
		return note(h.Note) && line >= from && line < to && (len(only) == 0 || only[h.Key()])
	}
}

// mapped changes the hits an edit is about.
func (p Pattern) mapped(e About, f func(Hit) Hit) []Hit {
	about := p.about(e)
	out := make([]Hit, len(p.Hits))
	for i, h := range p.Hits {
		if about(h) {
			h = f(h)
		}
		out[i] = h
	}
	return out
}

// without are the hits an edit is not about.
func (p Pattern) without(e About) (rest []Hit) {
	about := p.about(e)
	for _, h := range p.Hits {
		if !about(h) {
			rest = append(rest, h)
		}
	}
	return rest
}
