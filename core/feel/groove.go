package feel

import (
	"errors"
	"fmt"
	"math"

	"hexachord/core/music"
)

// Groove is how a bar was played: for each cell, how far off the grid and how loud against its lane.
type Groove struct {
	Name  string       `json:"name"`
	Meter music.Meter  `json:"meter"`
	Grid  music.Grid   `json:"grid"`
	Cells []GrooveCell `json:"cells"` // one bar
}

// GrooveCell is one cell of a groove.
type GrooveCell struct {
	LeanTicks float64 `json:"leanTicks"` // mean, late above 0
	Level     float64 `json:"level"`     // mean velocity against the lane's own mean, 1 = the same
	Hits      int     `json:"hits"`      // how many said so; a cell with none leaves what is laid on it as it is
}

// Played is one stroke a groove is taken from.
type Played struct {
	Tick     float64 // from bar 1
	Note     int
	Velocity int
}

// ErrGroove is a groove that cannot be used.
var ErrGroove = errors.New("the groove cannot be used")

// TakeGroove finds the groove of strokes: for each cell of the bar their mean lean and their mean velocity, each against
// the mean of its own lane, so that a soft lane's accent counts as much as a loud one's.
func TakeGroove(name string, strokes []Played, meter music.Meter, grid music.Grid) (Groove, error) {
	cell, err := grid.Ticks()
	if err != nil {
		return Groove{}, err
	}
	if err := meter.Check(); err != nil {
		return Groove{}, err
	}
	if len(strokes) == 0 {
		return Groove{}, fmt.Errorf("%w: there is not a hit to take it from", ErrGroove)
	}
	n := max(1, int(math.Ceil(float64(meter.BarTicks())/float64(cell)-1e-9)))
	g := Groove{Name: name, Meter: meter, Grid: grid, Cells: make([]GrooveCell, n)}
	sum, count := map[int]float64{}, map[int]float64{}
	for _, s := range strokes {
		sum[s.Note] += float64(s.Velocity)
		count[s.Note]++
	}
	for _, s := range strokes {
		c := &g.Cells[g.cellAt(s.Tick)]
		c.LeanTicks += s.Tick - math.Floor(s.Tick/float64(cell)+0.5)*float64(cell)
		c.Level += float64(s.Velocity) * count[s.Note] / sum[s.Note]
		c.Hits++
	}
	for i := range g.Cells {
		c := &g.Cells[i]
		if c.Hits == 0 {
			c.Level = 1
			continue
		}
		c.LeanTicks /= float64(c.Hits)
		c.Level /= float64(c.Hits)
	}
	return g, nil
}

// cellAt is the cell of the bar that a tick of a pattern belongs to.
func (g Groove) cellAt(tick float64) int {
	cell, err := g.Grid.Ticks()
	if err != nil || len(g.Cells) == 0 {
		return 0
	}
	bar := float64(g.Meter.BarTicks())
	line := math.Floor(tick/float64(cell)+0.5) * float64(cell)
	inBar := math.Mod(math.Mod(line, bar)+bar, bar)
	return min(len(g.Cells)-1, int(math.Round(inBar/float64(cell))))
}

// Check reports ErrGroove.
func (g Groove) Check() error {
	cell, err := g.Grid.Ticks()
	switch {
	case err != nil:
		return err
	case len(g.Name) == 0 || len(g.Name) > 200:
		return fmt.Errorf("%w: give it a name of 1 to 200 characters", ErrGroove)
	case g.Meter.Check() != nil || len(g.Cells) == 0 || len(g.Cells) > 32*64:
		return fmt.Errorf("%w: it is not one bar of a meter", ErrGroove)
	}
	for _, c := range g.Cells {
		if !(math.Abs(c.LeanTicks) <= float64(cell)) || !(c.Level >= 0 && c.Level <= 16) || c.Hits < 0 {
			return fmt.Errorf("%w: a cell leans by %g ticks and is %g as loud", ErrGroove, c.LeanTicks, c.Level)
		}
	}
	return nil
}
