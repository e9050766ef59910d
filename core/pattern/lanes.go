package pattern

import (
	"fmt"
	"math"
	"math/rand/v2"
	"sort"
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

// Shaping says what is done to velocities.
type Shaping struct {
	How string `json:"how" enum:"set,add,scale,compress,accent,random,even" required:"true"`
	// Amount is a velocity (set, even: what main strokes are brought to), a difference (add, accent: beats gain it,
	// what lies between loses it), a percentage (scale; compress: towards the mean) or a range to each side (random).
	Amount float64 `json:"amount" required:"true"`
	Ghost  int     `json:"ghost,omitempty"` // even: strokes softer than this are left alone
	Seed   uint64  `json:"seed,omitempty"`  // random
}

// laneEdit gives the hits after an edit of whole lanes.
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
	}
	return p.shape(e)
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

// inside reports whether a hit belongs to a stretch, by its grid line.
func inside(tick, cell, from, to int) bool {
	line := max(0, tick-leanOf(tick, cell))
	return line >= from && line < to
}

// fill sets the cells of the lanes on Notes, replacing what they have in the bars.
func (p Pattern) fill(e Edit) ([]Hit, error) {
	f := e.Fill
	cell := p.CellTicks()
	from, to := e.rangeTicks(p)
	if f == nil || len(e.Notes) == 0 || f.Every < 0 || f.Every > 1024 || f.Cells < 0 || f.Cells > 1024 || f.Strokes < 0 || f.Strokes > 1024 || f.Every == 0 && f.Strokes == 0 {
		return nil, fmt.Errorf("%w: a fill names its lanes and every so many cells, or so many strokes", ErrPattern)
	}
	cells := f.Cells
	if cells == 0 {
		cells = max(1, p.Meter.BarTicks()/cell)
	}
	spread := Bjorklund(f.Strokes, cells)
	only := noteSet(e.Notes)
	var hits []Hit
	for _, h := range p.Hits {
		if !only(h.Note) || !inside(h.Tick, cell, from, to) {
			hits = append(hits, h)
		}
	}
	for i := 0; from+i*cell < to; i++ {
		at := i - f.Offset
		on := false
		if f.Every > 0 {
			on = at >= 0 && at%f.Every == 0
		} else {
			on = spread[((at%cells)+cells)%cells]
		}
		if on {
			for _, n := range e.Notes {
				hits = append(hits, Hit{Note: n, Tick: from + i*cell, Velocity: f.Velocity})
			}
		}
	}
	return hits, nil
}

// shift moves the hits of the lanes by cells, those that leave the bars at one end coming in at the other.
func (p Pattern) shift(e Edit) []Hit {
	from, to := e.rangeTicks(p)
	by := e.By * p.CellTicks()
	return p.mapped(e, func(h Hit) Hit {
		lean := leanOf(h.Tick, p.CellTicks())
		line := h.Tick - lean - from + by
		h.Tick = from + ((line%(to-from))+(to-from))%(to-from) + lean
		return h
	})
}

// reverse plays the lanes' cells of the bars backwards; leans stay with their hits.
func (p Pattern) reverse(e Edit) []Hit {
	from, to := e.rangeTicks(p)
	cell := p.CellTicks()
	return p.mapped(e, func(h Hit) Hit {
		lean := leanOf(h.Tick, cell)
		h.Tick = to - cell - (h.Tick - lean - from) + lean
		return h
	})
}

// mapped changes the hits of the lanes in the bars.
func (p Pattern) mapped(e Edit, f func(Hit) Hit) []Hit {
	only := noteSet(e.Notes)
	from, to := e.rangeTicks(p)
	out := make([]Hit, len(p.Hits))
	for i, h := range p.Hits {
		if only(h.Note) && inside(h.Tick, p.CellTicks(), from, to) {
			h = f(h)
		}
		out[i] = h
	}
	return out
}

// shape changes velocities.
func (p Pattern) shape(e Edit) ([]Hit, error) {
	s := e.Shaping
	if s == nil || math.IsNaN(s.Amount) || math.Abs(s.Amount) > 1000 {
		return nil, fmt.Errorf("%w: what is to be done to the velocities is missing or out of range", ErrPattern)
	}
	beat := p.Meter.BeatTicks()
	only := noteSet(e.Notes)
	from, to := e.rangeTicks(p)
	var chosen []float64
	for _, h := range p.Hits {
		if only(h.Note) && inside(h.Tick, p.CellTicks(), from, to) {
			chosen = append(chosen, float64(h.Velocity))
		}
	}
	mean := 0.0
	for _, v := range chosen {
		mean += v / float64(len(chosen))
	}
	rng := rand.New(rand.NewPCG(s.Seed, 0x76656c))
	of := map[string]func(h Hit, v float64) float64{
		"set":      func(Hit, float64) float64 { return s.Amount },
		"add":      func(_ Hit, v float64) float64 { return v + s.Amount },
		"scale":    func(_ Hit, v float64) float64 { return v * s.Amount / 100 },
		"compress": func(_ Hit, v float64) float64 { return v + (mean-v)*s.Amount/100 },
		"random":   func(_ Hit, v float64) float64 { return v + (2*rng.Float64()-1)*s.Amount },
		"accent": func(h Hit, v float64) float64 {
			if line := h.Tick - leanOf(h.Tick, p.CellTicks()); line%beat == 0 {
				return v + s.Amount
			}
			return v - s.Amount
		},
		"even": func(_ Hit, v float64) float64 {
			if v < float64(s.Ghost) {
				return v
			}
			return s.Amount
		},
	}[s.How]
	if of == nil {
		return nil, fmt.Errorf("%w: velocities cannot be changed by %q", ErrPattern, s.How)
	}
	return p.mapped(e, func(h Hit) Hit {
		h.Velocity = min(127, max(1, int(math.Round(of(h, float64(h.Velocity))))))
		return h
	}), nil
}

// copyBars repeats the hits of the bars FromBar ≤ bar < ToBar at bar By, replacing what is there.
func (p Pattern) copyBars(e Edit) ([]Hit, error) {
	from, to := e.rangeTicks(p)
	at := e.By * p.Meter.BarTicks()
	if e.By < 0 || at >= p.LengthTicks() || from >= to {
		return nil, fmt.Errorf("%w: bar %d is not in it", ErrPattern, e.By+1)
	}
	end := min(p.LengthTicks(), at+to-from)
	only, cell := noteSet(e.Notes), p.CellTicks()
	var hits []Hit
	for _, h := range p.Hits {
		if !only(h.Note) || !inside(h.Tick, cell, at, end) {
			hits = append(hits, h)
		}
	}
	for _, h := range p.Hits {
		if only(h.Note) && inside(h.Tick, cell, from, to) {
			if h.Tick += at - from; h.Tick < p.LengthTicks() && inside(h.Tick, cell, at, end) {
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
