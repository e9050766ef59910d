package ready

import (
	"math"
	"testing"
)

// The grooves can be kept, differ, and stay what a groove is: no cell leans into its neighbour, and on the whole none makes a lane
// louder or softer than it was.
func TestGroovesAreGrooves(t *testing.T) {
	seen := map[string]bool{}
	for _, g := range Grooves() {
		if err := g.Check(); err != nil {
			t.Errorf("%s: %v", g.Name, err)
		}
		if seen[g.Name] {
			t.Errorf("%s stands twice", g.Name)
		}
		seen[g.Name] = true
		level, moved := 0.0, false
		for _, c := range g.Cells {
			if math.Abs(c.LeanTicks) > 60 { // a quarter of a cell
				t.Errorf("%s leans by %g ticks", g.Name, c.LeanTicks)
			}
			level += c.Level / float64(len(g.Cells))
			moved = moved || c.LeanTicks != 0 || c.Level != 1
		}
		if !moved || math.Abs(level-1) > 1e-9 {
			t.Errorf("%s: moved %v, mean level %.3f", g.Name, moved, level)
		}
	}
	if len(seen) < 6 {
		t.Errorf("%d grooves", len(seen))
	}
}
