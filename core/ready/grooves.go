package ready

import (
	"hexachord/core/feel"
	"hexachord/core/music"
)

// groove is one bar of sixteenths in 4/4: ticks by which each cell leans, late above 0, and how loud it is against the others. Their leans lie where players' do, a hundredth of a beat to a twentieth (common practice, no source).
type groove struct {
	name  string
	leans [16]float64
	loud  [16]float64
}

var grooves = []groove{
	{"Low water", [16]float64{0, 18, 8, 22, 26, 18, 10, 22, 4, 18, 8, 22, 26, 18, 10, 22},
		[16]float64{112, 80, 98, 82, 106, 78, 96, 84, 108, 80, 98, 82, 106, 78, 96, 88}},
	{"Upstream", [16]float64{-4, -14, -18, -12, -6, -14, -20, -12, -4, -14, -18, -12, -6, -14, -20, -16},
		[16]float64{104, 84, 108, 82, 104, 84, 110, 82, 104, 84, 108, 82, 104, 84, 110, 92}},
	{"Rocking boat", [16]float64{0, 38, 4, 42, 0, 38, 6, 44, 0, 38, 4, 42, 0, 38, 6, 46},
		[16]float64{114, 70, 100, 76, 110, 70, 98, 78, 112, 70, 100, 76, 110, 70, 98, 84}},
	{"Heavy rope", [16]float64{0, 14, 12, 24, 36, 20, 14, 26, 2, 14, 12, 24, 36, 20, 14, 28},
		[16]float64{116, 74, 92, 80, 118, 74, 90, 82, 110, 74, 92, 80, 118, 74, 90, 86}},
	{"Loose gate", [16]float64{0, 30, -12, 44, 18, 26, -8, 50, 4, 34, -14, 40, 22, 24, -6, 54},
		[16]float64{110, 76, 104, 70, 108, 82, 100, 74, 106, 72, 106, 78, 110, 80, 96, 88}},
	{"Three in the lock", [16]float64{},
		[16]float64{122, 78, 84, 116, 78, 84, 116, 78, 84, 116, 78, 84, 116, 78, 112, 84}},
}

// Grooves are grooves to lay over patterns, written for this bench.
func Grooves() []feel.Groove {
	out := make([]feel.Groove, len(grooves))
	for i, g := range grooves {
		mean := 0.0
		for _, l := range g.loud {
			mean += l / float64(len(g.loud))
		}
		cells := make([]feel.GrooveCell, len(g.leans))
		for k := range cells {
			cells[k] = feel.GrooveCell{LeanTicks: g.leans[k], Level: g.loud[k] / mean, Hits: 1}
		}
		out[i] = feel.Groove{Name: g.name, Meter: music.CommonTime, Grid: music.Sixteenths, Cells: cells}
	}
	return out
}
