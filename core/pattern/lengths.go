package pattern

import (
	"fmt"

	"hexachord/core/music"
)

// Lengths changes how long hits last.
type Lengths struct {
	About
	// How: set (to Ticks), add (Ticks, which may be less than 0), quantise (to whole cells), legato (up to the next hit of the lane), trim
	// (none past the lane's end), free (as long as the sound).
	How   string `json:"how" enum:"set,add,quantise,legato,trim,free" required:"true"`
	Ticks int    `json:"ticks,omitempty" minimum:"-1000000" maximum:"1000000"`
}

func (l *Lengths) do(p Pattern) (Pattern, error) {
	if l.Ticks < -p.LengthTicks() || l.Ticks > p.LengthTicks() {
		return p, fmt.Errorf("%w: how long the hits are to last is missing or out of range", ErrPattern)
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
	about := p.about(l.About)
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
			return p, fmt.Errorf("%w: lengths cannot be changed by %q", ErrPattern, l.How)
		}
		out[i].Length = min(p.LengthTicks(), max(0, length))
	}
	p.Hits = out
	return p, nil
}

func (l *Lengths) describe(_ Pattern, lane func(int) string) string {
	return "Lengths of hits" + l.on(lane)
}
