package demo

import (
	"math"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

// BPM and Swing are the demo project's tempo and swing.
const BPM = 92.0

// Swing is the demo project's swing.
var Swing = feel.Swing{Percent: 58, Grid: music.Sixteenths}

// strike is a hit as a player would say it: which sixteenth, how hard, how late in ms, in how many strokes.
type strike struct {
	step, velocity int
	lateMS         float64
	split, slope   int
}

type part map[drummap.Role][]strike

// on lists plain strikes: step, velocity, step, velocity, …
func on(stepVelocity ...int) (out []strike) {
	for i := 0; i+1 < len(stepVelocity); i += 2 {
		out = append(out, strike{step: stepVelocity[i], velocity: stepVelocity[i+1]})
	}
	return out
}

func plus(s []strike, more ...strike) []strike { return append(s, more...) }

// Patterns makes towpath (one bar of steps) and night ferry (two bars, hits that lean, splits).
func Patterns() []pattern.Pattern {
	towpath := part{
		drummap.Crash:     on(0, 101),
		drummap.Ride:      on(4, 66, 12, 71),
		drummap.OpenHat:   {{14, 84, 18, 0, 0}},
		drummap.PedalHat:  on(2, 55, 10, 62),
		drummap.ClosedHat: plus(on(0, 92, 1, 46, 2, 78, 3, 52, 4, 94, 6, 80, 8, 90, 9, 48, 10, 82, 11, 54, 12, 96, 13, 42), strike{5, 40, -14, 0, 0}, strike{7, 44, 0, 2, 26}),
		drummap.Shaker:    plus(on(3, 58, 11, 72), strike{6, 50, -26, 0, 0}),
		drummap.Rim:       plus(on(2, 55, 7, 47), strike{10, 62, -18, 0, 0}),
		drummap.Clap:      {{12, 88, 12, 0, 0}},
		drummap.HighTom:   on(13, 84),
		drummap.LowTom:    plus(on(14, 91), strike{15, 70, 28, 0, 0}),
		drummap.Snare:     plus(on(4, 112, 9, 27), strike{7, 34, 16, 0, 0}, strike{12, 120, 22, 0, 0}, strike{15, 46, 0, 3, 25}),
		drummap.Kick:      plus(on(0, 118, 3, 70, 8, 104, 11, 40), strike{10, 92, -20, 0, 0}),
	}
	ferry := part{
		drummap.Ride:      plus(on(0, 92, 2, 50, 4, 74, 8, 88, 12, 76, 16, 92, 20, 72, 24, 90, 28, 78), strike{6, 48, 9, 0, 0}, strike{22, 52, 11, 0, 0}),
		drummap.PedalHat:  on(4, 60, 12, 64, 20, 60, 28, 66),
		drummap.ClosedHat: plus(on(10, 52, 14, 46, 26, 50), strike{30, 44, 0, 4, 14}),
		drummap.Shaker:    on(18, 60, 23, 52, 29, 62),
		drummap.Rim:       plus(on(4, 54), strike{12, 58, 14, 0, 0}, strike{20, 56, 12, 0, 0}),
		drummap.Clap:      {{28, 84, 16, 0, 0}},
		drummap.HighTom:   on(25, 78),
		drummap.LowTom:    on(29, 92, 31, 104),
		drummap.Snare:     plus(on(7, 24, 15, 30), strike{26, 50, 8, 0, 0}, strike{27, 60, 0, 3, 18}),
		drummap.Kick:      plus(on(0, 98, 16, 96, 23, 70), strike{7, 72, -10, 0, 0}, strike{11, 64, 12, 0, 0}, strike{27, 72, -8, 0, 0}),
	}
	return []pattern.Pattern{makePattern("towpath", 1, towpath), makePattern("night ferry", 2, ferry)}
}

func makePattern(name string, bars int, p part) pattern.Pattern {
	out := pattern.Pattern{Name: name, Bars: bars, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}}
	for role, strikes := range p {
		for _, s := range strikes {
			late := int(math.Round(s.lateMS / 1000 / music.SecondsPerTick(BPM)))
			out.Hits = append(out.Hits, pattern.Hit{Note: role.Note(), Tick: s.step*music.PPQ/4 + late, Velocity: s.velocity, Split: s.split, Slope: s.slope})
		}
	}
	pattern.SortHits(out.Hits)
	return out
}
