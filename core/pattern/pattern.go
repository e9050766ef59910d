// Package pattern holds the hits of a pattern and the edits that change them, as pure functions.
package pattern

import (
	"errors"
	"fmt"
	"slices"

	"hexachord/core/feel"
	"hexachord/core/music"
)

// MaxLeadTicks is how far before the first line a hit may lie: a hit that leans early off it plays
// before the bar on every pass but the first, where it plays at 0.
const MaxLeadTicks = 480

// MaxHits bounds a pattern.
const MaxHits = 100_000

// Hit is one stroke. Note and Tick together identify it: a lane has at most one hit a tick.
type Hit struct {
	Note     int `json:"note" minimum:"0" maximum:"127"`
	Tick     int `json:"tick"`                               // from the pattern's start, −480..length−1
	Velocity int `json:"velocity" minimum:"1" maximum:"127"` // of the first stroke
	Length   int `json:"length"`                             // ticks; 0 = as long as the sound
	// Split plays the hit as 2..8 equal strokes inside its cell; 0 or 1 is a single stroke. A
	// stroke's velocity is Velocity plus Slope for each stroke before it, kept within 1..127.
	Split int `json:"split" minimum:"0" maximum:"8"`
	Slope int `json:"slope" minimum:"-126" maximum:"126"`
	// Skip is the share of passes in which the hit stays silent, percent: its chance is 100 − Skip.
	Skip int `json:"skip,omitempty" minimum:"0" maximum:"100"`
	// Pan moves the hit left (−100) or right (100) of where its pad stands.
	Pan int `json:"pan,omitempty" minimum:"-100" maximum:"100"`
	// Tune is how much higher than its pad the hit sounds, cents.
	Tune int `json:"tune,omitempty" minimum:"-2400" maximum:"2400"`
}

// MostTune is how far a hit may be tuned, cents each way.
const MostTune = 2400

// Key identifies a hit inside a pattern.
type Key struct {
	Note int `json:"note"`
	Tick int `json:"tick"`
}

// Key is the hit's identity.
func (h Hit) Key() Key { return Key{h.Note, h.Tick} }

// Stroke is one sounding of a hit: Split hits have several.
type Stroke struct {
	OffsetTicks float64 // after the hit's tick
	Velocity    int
}

// Strokes lists the strokes of the hit when its cell is cellTicks long.
func (h Hit) Strokes(cellTicks int) []Stroke {
	n := max(1, h.Split)
	out := make([]Stroke, n)
	for i := range n {
		out[i] = Stroke{
			OffsetTicks: float64(cellTicks) * float64(i) / float64(n),
			Velocity:    min(127, max(1, h.Velocity+i*h.Slope)),
		}
	}
	return out
}

// Pattern is hits in bars. Hits are kept sorted by tick, then note.
type Pattern struct {
	Name  string      `json:"name"`
	Bars  int         `json:"bars" minimum:"1" maximum:"64"`
	Meter music.Meter `json:"meter"`
	Grid  music.Grid  `json:"grid"` // the grid the steps are shown on; changing it changes no hit
	Hits  []Hit       `json:"hits"`
	// Lanes are the lanes (by note) that have a grid or a length of their own.
	Lanes map[int]LaneGrid `json:"lanes,omitempty"`
	// Feel is laid over this pattern instead of the project's; nil leaves it to the project.
	Feel  *feel.Feel `json:"feel,omitempty"`
	Color string     `json:"color,omitempty"` // a colour family of the map, "" = none
	Tags  []string   `json:"tags,omitempty"`
	// Link names the copies whose hits mirror each other; "" when the pattern stands alone.
	Link string `json:"link,omitempty"`
	// Part is the ID of the part it belongs to; "" is the first.
	Part string `json:"part,omitempty"`
}

// LaneGrid is a grid and a length that one lane has for itself.
type LaneGrid struct {
	Grid music.Grid `json:"grid,omitempty"` // "" = the pattern's
	// Cells is how many cells of its grid the lane has before it begins again, 0 = as long as the pattern. A shorter
	// lane runs on through the passes: 12 cells against 16 meet again after three bars.
	Cells int `json:"cells,omitempty" minimum:"0" maximum:"4096"`
}

// LengthTicks is the pattern's length.
func (p Pattern) LengthTicks() int { return p.Bars * p.Meter.BarTicks() }

// CellTicks is the length of one cell of the pattern's grid.
func (p Pattern) CellTicks() int {
	t, err := p.Grid.Ticks()
	if err != nil {
		return music.PPQ / 4
	}
	return t
}

// CellOf is the length of one cell of a lane's grid, in ticks.
func (p Pattern) CellOf(note int) int {
	if own, err := p.Lanes[note].Grid.Ticks(); err == nil {
		return own
	}
	return p.CellTicks()
}

// LoopOf is after how many ticks a lane begins again: the pattern's length when it has no length of its own.
func (p Pattern) LoopOf(note int) int {
	if n := p.Lanes[note].Cells; n > 0 {
		return min(n*p.CellOf(note), p.LengthTicks())
	}
	return p.LengthTicks()
}

// Lean is how far a hit stands off its nearest grid line, early (−) or late (+), in ticks.
func (p Pattern) Lean(h Hit) int { return leanOf(h.Tick, p.CellOf(h.Note)) }

func leanOf(tick, cell int) int { return tick - music.NearestLine(tick, cell) }

// Errors a caller can tell apart.
var (
	ErrHit     = errors.New("the hit cannot be used")
	ErrPattern = errors.New("the pattern cannot be used")
)

// Check reports a fault in the pattern's settings or hits.
func (p Pattern) Check() error {
	if err := p.checkSettings(); err != nil {
		return err
	}
	if len(p.Hits) > MaxHits {
		return fmt.Errorf("%w: it has %d hits; at most %d fit", ErrPattern, len(p.Hits), MaxHits)
	}
	for i, h := range p.Hits {
		if err := p.checkHit(h); err != nil {
			return err
		}
		if i > 0 && compareHits(p.Hits[i-1], h) >= 0 {
			return fmt.Errorf("%w: its hits are out of order or doubled at tick %d", ErrPattern, h.Tick)
		}
	}
	return nil
}

func (p Pattern) checkSettings() error {
	if p.Bars < 1 || p.Bars > music.MaxBars {
		return fmt.Errorf("%w: %d bars; a pattern has 1 to %d", ErrPattern, p.Bars, music.MaxBars)
	}
	if err := p.Meter.Check(); err != nil {
		return err
	}
	if len(p.Name) == 0 || len(p.Name) > 200 {
		return fmt.Errorf("%w: its name must have 1 to 200 characters", ErrPattern)
	}
	for note, l := range p.Lanes {
		if _, err := l.Grid.Ticks(); note < 0 || note > 127 || l.Grid != "" && err != nil || l.Cells < 0 || l.Cells > 4096 {
			return fmt.Errorf("%w: the grid of the lane on note %d must be a note value and its length 1 to 4096 cells", ErrPattern, note)
		}
	}
	if len(p.Tags) > 20 || len(p.Color) > 20 || len(p.Link) > 64 || len(p.Part) > 64 {
		return fmt.Errorf("%w: it can have 20 tags at most", ErrPattern)
	}
	for _, t := range p.Tags {
		if len(t) == 0 || len(t) > 40 {
			return fmt.Errorf("%w: a tag has 1 to 40 characters", ErrPattern)
		}
	}
	if p.Feel != nil {
		if err := p.Feel.Check(); err != nil {
			return err
		}
	}
	_, err := p.Grid.Ticks()
	return err
}

func (p Pattern) checkHit(h Hit) error {
	switch {
	case h.Note < 0 || h.Note > 127:
		return fmt.Errorf("%w: note %d is not between 0 and 127", ErrHit, h.Note)
	case h.Tick < -MaxLeadTicks || h.Tick >= p.LengthTicks():
		return fmt.Errorf("%w: tick %d lies outside the pattern (−%d to %d)", ErrHit, h.Tick, MaxLeadTicks, p.LengthTicks()-1)
	case h.Velocity < 1 || h.Velocity > 127:
		return fmt.Errorf("%w: velocity %d is not between 1 and 127", ErrHit, h.Velocity)
	case h.Length < 0 || h.Length > p.LengthTicks():
		return fmt.Errorf("%w: length %d ticks is not between 0 and the pattern's length", ErrHit, h.Length)
	case h.Split < 0 || h.Split > 8:
		return fmt.Errorf("%w: a hit splits in 2 to 8 strokes, not %d", ErrHit, h.Split)
	case h.Slope < -126 || h.Slope > 126:
		return fmt.Errorf("%w: velocity slope %d is not between −126 and 126", ErrHit, h.Slope)
	case h.Skip < 0 || h.Skip > 100:
		return fmt.Errorf("%w: a hit's chance is not between 0 and 100 %%", ErrHit)
	case h.Pan < -100 || h.Pan > 100:
		return fmt.Errorf("%w: pan %d is not between −100 and 100", ErrHit, h.Pan)
	case h.Tune < -MostTune || h.Tune > MostTune:
		return fmt.Errorf("%w: tune %d is not between −2400 and 2400 cents", ErrHit, h.Tune)
	}
	return nil
}

func compareHits(a, b Hit) int {
	if a.Tick != b.Tick {
		return a.Tick - b.Tick
	}
	return a.Note - b.Note
}

// SortHits puts hits in the order a pattern keeps them: by tick, then note.
func SortHits(hits []Hit) { slices.SortFunc(hits, compareHits) }
