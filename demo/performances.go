package demo

import (
	"math/rand/v2"

	"hexachord/core/music"
)

// Performed is a strike of a scripted performance.
type Performed struct {
	AtS      float64 `json:"at"`    // seconds from its first bar line
	MeantS   float64 `json:"meant"` // where the player meant it
	Note     int     `json:"note"`
	Velocity int     `json:"velocity"`
}

// Performance is what the bench controller can play by itself: bars in 4/4 as hands play them, every strike up to 12 ms off and a
// little harder or softer than meant.
type Performance struct {
	Name    string      `json:"name"`
	Bars    int         `json:"bars"`
	Strikes []Performed `json:"strikes"`
}

// performances are what hands play, by sixteenths of a bar: note, cell, velocity.
var performances = []struct {
	name string
	bars int
	does func(bar int, strike func(note, cell, velocity int))
}{
	{"Kick and snare", 8, func(bar int, strike func(note, cell, velocity int)) {
		for _, c := range []int{0, 7, 10} {
			strike(36, c, 104)
		}
		strike(38, 4, 112)
		strike(38, 12, 112)
		if bar%2 == 1 {
			strike(38, 15, 34)
		}
	}},
	{"Hats", 8, func(_ int, strike func(note, cell, velocity int)) {
		for c := 0; c < 16; c += 2 {
			strike(42, c, []int{92, 64}[c/2%2])
		}
	}},
	{"Shaker, with a splash every fourth bar", 8, func(bar int, strike func(note, cell, velocity int)) {
		strike(70, 12, 88) // beat 4
		if bar%4 == 0 {
			strike(49, 0, 120)
		}
	}},
	{"A roll", 1, func(_ int, strike func(note, cell, velocity int)) {
		for c := range 16 {
			strike(38, c, 40+5*c)
		}
	}},
}

// mostOffS is how far a strike of a performance is off at most, seconds.
const mostOffS = 0.012

// Performances are the bench controller's, at a tempo; a seed always plays them alike.
func Performances(bpm float64, seed uint64) []Performance {
	rng := rand.New(rand.NewPCG(seed, 16))
	out := make([]Performance, len(performances))
	for i, p := range performances {
		out[i] = Performance{Name: p.name, Bars: p.bars, Strikes: []Performed{}}
		for bar := range p.bars {
			p.does(bar, func(note, cell, velocity int) {
				meant := music.Seconds(float64(bar*3840+cell*240), bpm)
				at := max(0, meant+(2*rng.Float64()-1)*mostOffS)
				out[i].Strikes = append(out[i].Strikes, Performed{at, meant, note, min(127, max(1, velocity+rng.IntN(13)-6))})
			})
		}
	}
	return out
}
