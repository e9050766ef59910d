package play

import (
	"math"

	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

// WriteFeel is the pattern with the feel written into its hits, to the nearest tick, and none left to be laid over: it
// sounds as it did. Strokes of a split that no longer lie evenly become hits of their own. A hit that now begins after
// the pattern's end leads into the next pass, or begins it.
func WriteFeel(p pattern.Pattern, f feel.Feel, bpm float64) pattern.Pattern {
	next := p
	own := feel.Straight
	next.Feel = &own
	taken := map[pattern.Key]pattern.Hit{}
	put := func(h pattern.Hit, tick float64) {
		h.Tick = int(math.Round(tick))
		if length := p.LengthTicks(); h.Tick >= length {
			h.Tick -= length
		} else if h.Tick < -pattern.MaxLeadTicks {
			h.Tick += length
		}
		if old, ok := taken[h.Key()]; !ok || h.Velocity > old.Velocity {
			taken[h.Key()] = h
		}
	}
	for _, h := range p.Hits {
		strokes, swung := felt(p, h, h.Tick, f, bpm)
		even := swung == float64(p.CellOf(h.Note)) && f.Humanise.TimeMS == 0 && f.Humanise.Velocity == 0
		for _, s := range strokes {
			one := h
			one.Velocity = s.velocity
			if !even && len(strokes) > 1 {
				one.Split, one.Slope, one.Length = 0, 0, int(math.Round(swung))/len(strokes)
			}
			put(one, s.tick)
			if even {
				break
			}
		}
	}
	next.Hits = make([]pattern.Hit, 0, len(taken))
	for _, h := range taken {
		next.Hits = append(next.Hits, h)
	}
	pattern.SortHits(next.Hits)
	return next
}

// feltStroke is a stroke with the feel on it.
type feltStroke struct {
	tick     float64
	velocity int
}

// felt lays the feel over a hit that begins at tick: its strokes, and how many ticks its cell lasts once it is swung.
func felt(p pattern.Pattern, h pattern.Hit, tick int, f feel.Feel, bpm float64) (strokes []feltStroke, swungCell float64) {
	cell := p.CellOf(h.Note)
	start := float64(tick) + f.Shift(h.Note, tick, cell)
	swungCell = float64(cell) + f.SwingShift(h.Note, tick+cell, cell) - f.SwingShift(h.Note, tick, cell)
	for which, s := range h.Strokes(cell) {
		late, velocity := f.Stroke(h.Note, tick, which, s.Velocity)
		at := start + s.OffsetTicks*swungCell/float64(cell) + late/1000/music.SecondsPerTick(bpm)
		strokes = append(strokes, feltStroke{at, velocity})
	}
	return strokes, swungCell
}
