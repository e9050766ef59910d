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
		h.Bars = min(MaxBars, max(1, bars))
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

// InMeter counts the recording in another meter: tempo, bar 1 and hits stay, the bars are those that hold what they held. Bars that
// followed the player are let go.
func (h Hearing) InMeter(m music.Meter) (Hearing, error) {
	if err := m.Check(); err != nil {
		return h, err
	}
	ticks := float64(h.Bars * h.Meter.BarTicks())
	h.Meter, h.Pins = m, nil
	h.Bars = max(1, min(MaxBars, int(math.Ceil(ticks/float64(m.BarTicks())-0.02))))
	return h, nil
}

// EndS is where the last bar ends, in seconds from the recording's first frame.
func (h Hearing) EndS() float64 {
	return h.TimeAt(float64(h.Bars * h.Meter.BarTicks()))
}

// MaxBars bounds the bars of a hearing: an hour of 1/1 bars at 60 BPM.
const MaxBars = 3600

// placed are the hits on their lanes, in ticks from bar 1, each moved to its line of grid by strength 0..100 %; of two on one note
// and tick the harder stays. laneOf gives the note of the lane a hit belongs to; those for which it says false are left out and
// counted. What the person took out is neither.
func (h Hearing) placed(grid music.Grid, strength float64, laneOf func(Hit) (int, bool)) (hits []pattern.Hit, homeless int, err error) {
	cell, err := grid.Ticks()
	if err != nil {
		return nil, 0, err
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
		ph := pattern.Hit{Note: note, Tick: pattern.QuantiseTick(int(math.Round(h.TickAt(hit.TimeS))), cell, strength), Velocity: hit.Velocity}
		if k, doubled := at[ph.Key()]; doubled {
			hits[k].Velocity = max(hits[k].Velocity, hit.Velocity)
			continue
		}
		at[ph.Key()] = len(hits)
		hits = append(hits, ph)
	}
	pattern.SortHits(hits)
	return hits, homeless, nil
}

// Take is all that was heard within the bars, as a pattern that may be longer than one can be kept; see placed. outside counts hits
// before bar 1 and after the last bar.
func (h Hearing) Take(name string, grid music.Grid, strength float64, laneOf func(Hit) (int, bool)) (p pattern.Pattern, homeless, outside int, err error) {
	p = pattern.Pattern{Name: name, Bars: h.Bars, Meter: h.Meter, Grid: grid, Hits: []pattern.Hit{}}
	hits, homeless, err := h.placed(grid, strength, laneOf)
	if err != nil {
		return p, 0, 0, err
	}
	for _, hit := range hits {
		if hit.Tick < -pattern.MaxLeadTicks || hit.Tick >= p.LengthTicks() {
			outside++
			continue
		}
		p.Hits = append(p.Hits, hit)
	}
	return p, homeless, outside, nil
}

// Sections keep what was heard as a row of patterns of bars each, so that nothing of a long take is lost; see pattern.Split.
func (h Hearing) Sections(name string, grid music.Grid, strength float64, laneOf func(Hit) (int, bool), bars int) (row []pattern.Pattern, homeless, outside int, err error) {
	p, homeless, outside, err := h.Take(name, grid, strength, laneOf)
	if err != nil {
		return nil, 0, 0, err
	}
	row = pattern.Split(p, bars)
	for i := range row {
		if err := row[i].Check(); err != nil {
			return nil, 0, 0, err
		}
	}
	return row, homeless, outside, nil
}

// Pattern keeps what was heard as one pattern, of a longer take the first music.MaxBars bars.
func (h Hearing) Pattern(name string, grid music.Grid, strength float64, laneOf func(Hit) (int, bool)) (p pattern.Pattern, homeless, outside int, err error) {
	p, homeless, outside, err = h.Take(name, grid, strength, laneOf)
	if err != nil {
		return p, 0, 0, err
	}
	row := pattern.Split(p, music.MaxBars)
	for _, rest := range row[1:] {
		outside += len(rest.Hits)
	}
	row[0].Name = name
	return row[0], homeless, outside, row[0].Check()
}
