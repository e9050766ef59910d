package pattern

import "fmt"

// Fill sets cells of the lanes on Notes, replacing what they have in the bars.
type Fill struct {
	About
	Every   int `json:"every,omitempty" minimum:"0" maximum:"1024"`      // each so-many-th cell; 0 leaves it to Strokes
	Offset  int `json:"offset,omitempty" minimum:"-1024" maximum:"1024"` // cells later
	Strokes int `json:"strokes,omitempty" minimum:"0" maximum:"1024"`    // so many strokes, spread evenly over Cells
	Cells   int `json:"cells,omitempty" minimum:"0" maximum:"1024"`      // 0 = a bar
	// Velocity of the hits, 1..127.
	Velocity int `json:"velocity" minimum:"1" maximum:"127"`
}

func (e *Fill) do(p Pattern) (Pattern, error) {
	outside := func(n, least int) bool { return n < least || n > 1024 }
	if len(e.Notes) == 0 || outside(e.Every, 0) || outside(e.Cells, 0) || outside(e.Strokes, 0) || outside(e.Offset, -1024) || e.Every == 0 && e.Strokes == 0 {
		return p, fmt.Errorf("%w: a fill names its lanes and every so many cells, or so many strokes", ErrPattern)
	}
	from, to := e.rangeTicks(p)
	hits := p.without(e.About)
	for _, note := range e.Notes {
		cell := p.CellOf(note)
		cells := e.Cells
		if cells == 0 {
			cells = max(1, p.Meter.BarTicks()/cell)
		}
		spread := Bjorklund(e.Strokes, cells)
		for i := 0; from+i*cell < to; i++ {
			at := i - e.Offset
			on := false
			if e.Every > 0 {
				on = at >= 0 && at%e.Every == 0
			} else {
				on = spread[((at%cells)+cells)%cells]
			}
			if on {
				hits = append(hits, Hit{Note: note, Tick: from + i*cell, Velocity: e.Velocity})
			}
		}
	}
	p.Hits = hits
	return p, nil
}

func (e *Fill) describe(_ Pattern, lane func(int) string) string { return "Fill cells" + e.on(lane) }
