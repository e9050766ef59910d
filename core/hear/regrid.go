package hear

import (
	"math"

	"hexachord/core/music"
	"hexachord/core/pattern"
)

// Regrid lays another steady grid over what was heard; zero values keep what is there. The hits stay as
// they are.
func (h Hearing) Regrid(bpm float64, bars int, barOneS *float64) (Hearing, error) {
	if bpm != 0 {
		if err := music.CheckBPM(bpm); err != nil {
			return h, err
		}
		h.BPM = bpm
	}
	if bars != 0 {
		h.Bars = min(music.MaxBars, max(1, bars))
	}
	if barOneS != nil {
		h.BarOneS = max(0, *barOneS)
	}
	h.Pins = nil // another steady grid
	h.GridErrorMS = 0
	if ps := pulses(h.Hits); len(ps) > 0 {
		h.GridErrorMS = 1000 * gridError(ps, h.BPM, h.BarOneS)
	}
	return h, nil
}

// EndS is where the last bar ends, in seconds from the recording's first frame.
func (h Hearing) EndS() float64 {
	return h.TimeAt(float64(h.Bars * h.Meter.BarTicks()))
}

// Pattern keeps the hits as a pattern of the hearing's bars, tick 0 at bar 1. laneOf gives the note of the
// lane a hit belongs to; hits for which it says false are left out, and counted in homeless, those the person took out
// are not. Hits
// outside the bars are left out too: outside counts them. Each hit moves to its line of grid by strength 0..100 %.
func (h Hearing) Pattern(name string, grid music.Grid, strength float64, laneOf func(Hit) (int, bool)) (p pattern.Pattern, homeless, outside int, err error) {
	p = pattern.Pattern{Name: name, Bars: h.Bars, Meter: h.Meter, Grid: grid, Hits: []pattern.Hit{}}
	cell, err := grid.Ticks()
	if err != nil {
		return p, 0, 0, err
	}
	at := map[pattern.Key]int{}
	for _, hit := range h.Hits {
		if !hit.Sounds() {
			continue
		}
		note, ok := laneOf(hit)
		if !ok {
			homeless++
			continue
		}
		tick := pattern.QuantiseTick(int(math.Round(h.TickAt(hit.TimeS))), cell, strength)
		if tick < -pattern.MaxLeadTicks || tick >= p.LengthTicks() {
			outside++
			continue
		}
		ph := pattern.Hit{Note: note, Tick: tick, Velocity: hit.Velocity}
		if k, doubled := at[ph.Key()]; doubled {
			p.Hits[k].Velocity = max(p.Hits[k].Velocity, hit.Velocity)
			continue
		}
		at[ph.Key()] = len(p.Hits)
		p.Hits = append(p.Hits, ph)
	}
	pattern.SortHits(p.Hits)
	return p, homeless, outside, p.Check()
}
