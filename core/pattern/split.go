package pattern

import (
	"fmt"

	"hexachord/core/music"
)

// Split parts what may be longer than a pattern can be into a row of patterns of bars each (1..music.MaxBars), the last as long as what is
// left: nothing is lost. A hit belongs to the part of its nearest grid line, so that one that leads into a part plays before its bar 1.
// Several are numbered after p's name.
func Split(p Pattern, bars int) []Pattern {
	bars = max(1, min(music.MaxBars, bars))
	cell, err := p.Grid.Ticks()
	if err != nil {
		cell = 1
	}
	n := max(1, (p.Bars+bars-1)/bars)
	row := make([]Pattern, n)
	for i := range row {
		row[i] = p
		row[i].Hits = []Hit{}
		if n > 1 {
			row[i].Name, row[i].Bars, row[i].Link = fmt.Sprintf("%s %d", p.Name, i+1), min(bars, p.Bars-i*bars), ""
		}
	}
	part := bars * p.Meter.BarTicks()
	for _, h := range p.Hits {
		i := max(0, min(n-1, music.NearestLine(h.Tick, cell)/part))
		if h.Tick-i*part < -MaxLeadTicks {
			i--
		}
		h.Tick -= i * part
		h.Length = min(h.Length, row[i].LengthTicks())
		row[i].Hits = append(row[i].Hits, h)
	}
	for i := range row {
		SortHits(row[i].Hits)
	}
	return row
}
