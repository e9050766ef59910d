package hear

import (
	"math"
	"math/rand/v2"
	"testing"

	"hexachord/core/music"
)

// groove is a bar in its own cells.
type groove struct {
	name        string
	meter       music.Meter
	bpm         float64 // quarters a minute
	cells       int     // a bar
	kick, snare []int   // the cells they are struck on
	hats        int     // every so many cells
}

var grooves = []groove{
	{"four", music.Meter{Beats: 4, Unit: 4}, 100, 16, []int{0, 6, 8}, []int{4, 12}, 2},
	{"four, one drum a beat", music.Meter{Beats: 4, Unit: 4}, 124, 16, []int{0, 4, 8, 12}, []int{4, 12}, 2},
	{"waltz", music.Meter{Beats: 3, Unit: 4}, 110, 12, []int{0}, []int{4, 8}, 2},
	{"five", music.Meter{Beats: 5, Unit: 4}, 95, 20, []int{0, 6, 12}, []int{4, 16}, 2},
	{"seven quarters", music.Meter{Beats: 7, Unit: 4}, 140, 28, []int{0, 8, 18}, []int{4, 12, 20, 24}, 2},
	{"seven eighths", music.Meter{Beats: 7, Unit: 8}, 130, 14, []int{0, 6}, []int{4, 10}, 2},
	{"shuffle", music.Meter{Beats: 4, Unit: 4}, 120, 12, []int{0, 5, 7, 8}, []int{3, 9}, 3},
	{"six eighths", music.Meter{Beats: 6, Unit: 8}, 150, 6, []int{0}, []int{3}, 1},
	{"twelve eighths", music.Meter{Beats: 12, Unit: 8}, 96, 12, []int{0, 5, 6}, []int{3, 9}, 1},
}

func (g groove) strokes(bars int, leadS float64) (hits []Hit, endS float64) {
	chance := rand.New(rand.NewPCG(7, uint64(g.cells)))
	barS := music.Seconds(float64(g.meter.BarTicks()), g.bpm)
	for bar := range bars {
		for c := range g.cells {
			at := leadS + barS*(float64(bar)+float64(c)/float64(g.cells)) + 0.004*chance.NormFloat64()
			put := func(note, velocity int) {
				hits = append(hits, Hit{TimeS: max(0, at), Note: note, Velocity: velocity + chance.IntN(9), Confidence: 0.9})
			}
			for _, k := range g.kick {
				if k == c {
					put(36, 112)
				}
			}
			for _, s := range g.snare {
				if s == c {
					put(38, 108)
				}
			}
			if c%g.hats == 0 {
				put(42, 70)
			}
		}
	}
	return hits, leadS + barS*float64(bars)
}

// Meter, tempo and bar 1 of a groove are found, cut as a loop or with a lead and an end that is not cut.
func TestTheMeterIsProposed(t *testing.T) {
	for _, g := range grooves {
		for _, leadS := range []float64{0, 0.37} {
			hits, endS := g.strokes(6, leadS)
			h := Hearing{Hits: hits}
			if err := h.findGrid(endS+leadS*1.7, 0, 0); err != nil {
				t.Fatal(err)
			}
			if h.Meter != g.meter || math.Abs(h.BPM/g.bpm-1) > 0.01 || math.Abs(h.BarOneS-leadS) > 0.03 || h.Bars != 6 {
				t.Errorf("%s after %g s: %v at %.1f BPM from %.3f s, %d bars; %v at %g is meant, 6 bars", g.name, leadS, h.Meter, h.BPM, h.BarOneS, h.Bars, g.meter, g.bpm)
			}
		}
	}
}
