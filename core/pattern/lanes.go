package pattern

import (
	"fmt"
	"sort"

	"hexachord/core/music"
)

// Fill says which cells of lanes get hits.
type Fill struct {
	Every   int `json:"every,omitempty"`   // each so-many-th cell; 0 leaves it to Strokes
	Offset  int `json:"offset,omitempty"`  // cells later
	Strokes int `json:"strokes,omitempty"` // so many strokes, spread evenly over Cells
	Cells   int `json:"cells,omitempty"`   // 0 = a bar
	// Velocity of the hits, 1..127.
	Velocity int `json:"velocity" minimum:"1" maximum:"127"`
}

// laneEdit gives the hits after an edit of whole lanes, or of the hits of Only.
func (p Pattern) laneEdit(e Edit) ([]Hit, error) {
	switch e.Op {
	case OpFill:
		return p.fill(e)
	case OpShift:
		return p.shift(e), nil
	case OpReverse:
		return p.reverse(e), nil
	case OpCopyBars:
		return p.copyBars(e)
	case OpQuantise:
		return p.quantise(e)
	case OpLean:
		return p.lean(e), nil
	case OpLengths:
		return p.lengths(e)
	case OpRepeat:
		return p.repeat(e)
	case OpVary:
		return p.vary(e)
	case OpFillBar:
		return p.fillBar(e)
	}
	return p.velocities(e)
}

// rangeTicks is the stretch of bars an edit is about; ToBar 0 is the pattern's end.
func (e Edit) rangeTicks(p Pattern) (from, to int) {
	bar := p.Meter.BarTicks()
	from, to = e.FromBar*bar, e.ToBar*bar
	if e.ToBar <= 0 || to > p.LengthTicks() {
		to = p.LengthTicks()
	}
	return max(0, from), to
}

// line is the grid line a hit belongs to; one that leads into the pattern belongs to its first.
func (p Pattern) line(h Hit) int { return max(0, h.Tick-p.Lean(h)) }

// about reports which hits an edit is about: those of its lanes, bars and selection.
func (p Pattern) about(e Edit) func(Hit) bool {
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
func (p Pattern) mapped(e Edit, f func(Hit) Hit) []Hit {
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
func (p Pattern) without(e Edit) (rest []Hit) {
	about := p.about(e)
	for _, h := range p.Hits {
		if !about(h) {
			rest = append(rest, h)
		}
	}
	return rest
}

// fill sets the cells of the lanes on Notes, replacing what they have in the bars.
func (p Pattern) fill(e Edit) ([]Hit, error) {
	f := e.Fill
	if f == nil || len(e.Notes) == 0 || f.Every < 0 || f.Every > 1024 || f.Cells < 0 || f.Cells > 1024 || f.Strokes < 0 || f.Strokes > 1024 || f.Every == 0 && f.Strokes == 0 {
		return nil, fmt.Errorf("%w: a fill names its lanes and every so many cells, or so many strokes", ErrPattern)
	}
	from, to := e.rangeTicks(p)
	hits := p.without(e)
	for _, note := range e.Notes {
		cell := p.CellOf(note)
		cells := f.Cells
		if cells == 0 {
			cells = max(1, p.Meter.BarTicks()/cell)
		}
		spread := Bjorklund(f.Strokes, cells)
		for i := 0; from+i*cell < to; i++ {
			at := i - f.Offset
			on := false
			if f.Every > 0 {
				on = at >= 0 && at%f.Every == 0
			} else {
				on = spread[((at%cells)+cells)%cells]
			}
			if on {
				hits = append(hits, Hit{Note: note, Tick: from + i*cell, Velocity: f.Velocity})
			}
		}
	}
	return hits, nil
}

// shift moves the hits of the lanes by cells, those that leave the bars (or the lane's own length) at one end coming in
// at the other.
func (p Pattern) shift(e Edit) []Hit {
	from, to := e.rangeTicks(p)
	return p.mapped(e, func(h Hit) Hit {
		lean, to := p.Lean(h), to
		if loop := p.LoopOf(h.Note); loop > from && loop < to && h.Tick-lean < loop {
			to = loop
		}
		line := h.Tick - lean - from + e.By*p.CellOf(h.Note)
		h.Tick = from + ((line%(to-from))+(to-from))%(to-from) + lean
		return h
	})
}

// reverse plays the lanes' cells of the bars backwards; leans stay with their hits.
func (p Pattern) reverse(e Edit) []Hit {
	from, to := e.rangeTicks(p)
	return p.mapped(e, func(h Hit) Hit {
		lean := p.Lean(h)
		h.Tick = to - p.CellOf(h.Note) - (h.Tick - lean - from) + lean
		return h
	})
}

// quantise moves hits towards their grid line, those that lean no more than Within ticks excepted.
func (p Pattern) quantise(e Edit) ([]Hit, error) {
	if !(e.Strength >= 0 && e.Strength <= 100) {
		return nil, fmt.Errorf("%w: quantise strength %g is not between 0 and 100 %%", ErrPattern, e.Strength)
	}
	own := 0
	if e.Grid != nil {
		var err error
		if own, err = e.Grid.Ticks(); err != nil {
			return nil, err
		}
	}
	return p.mapped(e, func(h Hit) Hit {
		cell := own
		if cell == 0 {
			cell = p.CellOf(h.Note)
		}
		if lean := leanOf(h.Tick, cell); max(lean, -lean) <= e.Within {
			return h
		}
		h.Tick = QuantiseTick(h.Tick, cell, e.Strength)
		if h.Tick >= p.LengthTicks() { // the line after the last cell is the next pass's first
			h.Tick -= p.LengthTicks()
		}
		return h
	}), nil
}

// lean moves hits about their grid lines; none leaves its cell.
func (p Pattern) lean(e Edit) []Hit {
	return p.mapped(e, func(h Hit) Hit {
		limit := p.CellOf(h.Note)/2 - 1
		line := h.Tick - p.Lean(h)
		h.Tick = max(-MaxLeadTicks, min(p.LengthTicks()-1, line+max(-limit, min(limit, h.Tick-line+e.By))))
		return h
	})
}

// Lengths says what is done to how long hits last.
type Lengths struct {
	// How: set (to Ticks), add (Ticks, which may be less than 0), quantise (to whole cells), legato (up to the next hit of the lane), trim
	// (none past the lane's end), free (as long as the sound).
	How   string `json:"how" enum:"set,add,quantise,legato,trim,free" required:"true"`
	Ticks int    `json:"ticks,omitempty"`
}

func (p Pattern) lengths(e Edit) ([]Hit, error) {
	l := e.Lengths
	if l == nil || l.Ticks < -p.LengthTicks() || l.Ticks > p.LengthTicks() {
		return nil, fmt.Errorf("%w: how long the hits are to last is missing or out of range", ErrPattern)
	}
	next := map[int]int{} // note → tick of the hit that follows
	after := make([]int, len(p.Hits))
	for i := len(p.Hits) - 1; i >= 0; i-- {
		h := p.Hits[i]
		after[i] = p.LoopOf(h.Note)
		if t, ok := next[h.Note]; ok {
			after[i] = t
		}
		next[h.Note] = h.Tick
	}
	about := p.about(e)
	out := append([]Hit(nil), p.Hits...)
	for i, h := range p.Hits {
		if !about(h) {
			continue
		}
		cell := p.CellOf(h.Note)
		length := h.Length
		switch l.How {
		case "set":
			length = l.Ticks
		case "add":
			if length == 0 {
				length = cell
			}
			length = max(1, length+l.Ticks)
		case "quantise":
			if length > 0 {
				length = max(cell, music.NearestLine(length, cell))
			}
		case "legato":
			length = after[i] - h.Tick
		case "trim":
			if end := p.LoopOf(h.Note) - h.Tick; length > end {
				length = end
			}
		case "free":
			length = 0
		default:
			return nil, fmt.Errorf("%w: lengths cannot be changed by %q", ErrPattern, l.How)
		}
		out[i].Length = min(p.LengthTicks(), max(0, length))
	}
	return out, nil
}

// repeat plays the hits of Only again every By ticks to the pattern's end, in place of what their lanes have there.
func (p Pattern) repeat(e Edit) ([]Hit, error) {
	if e.By < 1 || len(e.Only) == 0 {
		return nil, fmt.Errorf("%w: choose the hits that are to be repeated", ErrPattern)
	}
	about := p.about(e)
	var chosen []Hit
	lanes := map[int]bool{}
	first := p.LengthTicks()
	for _, h := range p.Hits {
		if about(h) {
			chosen = append(chosen, h)
			lanes[h.Note] = true
			first = min(first, p.line(h))
		}
	}
	var hits []Hit
	for _, h := range p.Hits {
		if !lanes[h.Note] || h.Tick < first+e.By || about(h) {
			hits = append(hits, h)
		}
	}
	for again := e.By; first+again < p.LengthTicks(); again += e.By {
		for _, h := range chosen {
			if h.Tick += again; h.Tick < p.LengthTicks() {
				hits = append(hits, h)
			}
		}
		if len(hits) > MaxHits {
			break // refused by the count
		}
	}
	return hits, nil
}

// copyBars repeats the hits of the bars FromBar ≤ bar < ToBar at bar By, replacing what is there.
func (p Pattern) copyBars(e Edit) ([]Hit, error) {
	from, to := e.rangeTicks(p)
	at := e.By * p.Meter.BarTicks()
	if e.By < 0 || at >= p.LengthTicks() || from >= to {
		return nil, fmt.Errorf("%w: bar %d is not in it", ErrPattern, e.By+1)
	}
	end := min(p.LengthTicks(), at+to-from)
	bar := p.Meter.BarTicks()
	there := e
	there.FromBar, there.ToBar = e.By, (end+bar-1)/bar
	hits := p.without(there)
	about := p.about(e)
	for _, h := range p.Hits {
		if about(h) {
			if h.Tick += at - from; h.Tick < p.LengthTicks() && p.line(h) >= at && p.line(h) < end {
				hits = append(hits, h)
			}
		}
	}
	return hits, nil
}

// unique keeps one hit a note and tick: the harder.
func unique(hits []Hit) map[Key]Hit {
	sort.SliceStable(hits, func(i, j int) bool { return hits[i].Velocity < hits[j].Velocity })
	out := make(map[Key]Hit, len(hits))
	for _, h := range hits {
		out[h.Key()] = h
	}
	return out
}
