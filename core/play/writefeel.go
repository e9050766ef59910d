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
		cell := p.CellOf(h.Note)
		start := float64(h.Tick) + f.Shift(h.Note, h.Tick)
		swung := float64(cell) + f.SwingShift(h.Note, h.Tick+cell) - f.SwingShift(h.Note, h.Tick)
		strokes := h.Strokes(cell)
		even := swung == float64(cell) && f.Humanise.TimeMS == 0 && f.Humanise.Velocity == 0
		for which, s := range strokes {
			late, velocity := f.Stroke(h.Note, h.Tick, which, s.Velocity)
			at := start + s.OffsetTicks*swung/float64(cell) + late/1000/music.SecondsPerTick(bpm)
			one := h
			one.Velocity = velocity
			if !even && len(strokes) > 1 {
				one.Split, one.Slope, one.Length = 0, 0, int(math.Round(swung))/len(strokes)
			}
			put(one, at)
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
