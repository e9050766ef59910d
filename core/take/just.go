package take

import (
	"cmp"
	"math"
	"slices"

	"hexachord/core/music"
)

// Heard is a strike that was heard while nobody recorded, its moment on any clock.
type Heard struct {
	Strike
	// SinceS are the seconds since what was playing then began, a bar line; left out when nothing played.
	SinceS *float64 `json:"since,omitempty"`
}

// began is the moment at which what was playing began; false when nothing played.
func (h Heard) began() (float64, bool) {
	if h.SinceS == nil {
		return 0, false
	}
	return h.AtS - *h.SinceS, true
}

// FromBarLine are the strikes of the newest time in which something played, or nothing did, counted from a bar line: where what was playing
// began, or else the first strike.
func FromBarLine(all []Heard) []Strike {
	if len(all) == 0 {
		return []Strike{}
	}
	zero, played := all[len(all)-1].began()
	var out []Strike
	for _, h := range all {
		began, did := h.began()
		if did != played || did && math.Abs(began-zero) > 0.5 {
			continue
		}
		if !played && len(out) == 0 {
			zero = h.AtS
		}
		s := h.Strike
		s.AtS -= zero
		out = append(out, s)
	}
	return out
}

// Stretch is some bars of what was played while nobody recorded.
type Stretch struct {
	FromBar int      `json:"fromBar"` // counted from the line that the strikes count from
	Bars    int      `json:"bars"`
	Strikes []Strike `json:"strikes"` // those within, counted from its first bar; what leads into that is its own
	Near    float64  `json:"near"`    // mean distance from the nearest sixteenth, as a share of half a sixteenth: 0 is on the lines, 1 between
}

// Stretches are the whole-bar stretches of strikes, so many bars long, the best first: those with the most strikes, and of these those
// that lie nearest to the grid. Strikes count their seconds from a bar line, at the tempo they were played at.
func Stretches(strikes []Strike, bpm float64, meter music.Meter, bars int) []Stretch {
	if len(strikes) == 0 || bars < 1 {
		return nil
	}
	const cell = music.PPQ / 4
	barS := music.Seconds(float64(meter.BarTicks()), bpm)
	per := map[int][]Strike{}
	first, last := math.MaxInt, math.MinInt
	for _, s := range strikes {
		n := int(math.Floor((s.AtS + music.Seconds(cell/2, bpm)) / barS)) // what leads into a bar is its own
		per[n] = append(per[n], s)
		first, last = min(first, n), max(last, n)
	}
	var out []Stretch
	for from := min(first, last-bars+1); from+bars-1 <= last; from++ {
		s := Stretch{FromBar: from, Bars: bars}
		for n := from; n < from+bars; n++ {
			for _, strike := range per[n] {
				strike.AtS -= float64(from) * barS
				at := strike.AtS / music.SecondsPerTick(bpm)
				s.Near += math.Abs(at-math.Floor(at/cell+0.5)*cell) / (cell / 2)
				s.Strikes = append(s.Strikes, strike)
			}
		}
		if len(s.Strikes) == 0 {
			continue
		}
		s.Near /= float64(len(s.Strikes))
		out = append(out, s)
	}
	slices.SortFunc(out, func(a, b Stretch) int {
		return cmp.Or(cmp.Compare(len(b.Strikes), len(a.Strikes)), cmp.Compare(a.Near, b.Near), cmp.Compare(b.FromBar, a.FromBar))
	})
	return out
}
