package song

import (
	"math"
	"slices"

	"hexachord/core/music"
	"hexachord/core/pattern"
)

// Bar is a bar of something long: its meter, and its hits with their ticks from its first line; what leads into it is before it.
type Bar struct {
	Meter music.Meter
	Hits  []pattern.Hit
}

// Bars are the bars of hits whose ticks count from the first one's line. A hit less than a 1/64 before a line is that bar's.
func Bars(hits []pattern.Hit, clock Clock, bars int) []Bar {
	out := make([]Bar, bars)
	for i := range out {
		out[i] = Bar{Meter: clock.MeterAt(i), Hits: []pattern.Hit{}}
	}
	for _, h := range hits {
		n := clock.Bar(max(0, h.Tick+music.PPQ/16))
		if n >= bars {
			continue
		}
		h.Tick -= clock.Tick(n)
		out[n].Hits = append(out[n].Hits, h)
	}
	for i := range out {
		pattern.SortHits(out[i].Hits)
	}
	return out
}

// Limits say within what two bars are alike: how far a hit may lie from the other's, ticks; how much harder or softer it may be; and how many
// hits of one the other may lack, as a share of the fuller.
type Limits struct {
	Ticks    int
	Velocity int
	Lacking  float64
}

// Same are the limits of bars that are equal, AsPlayed those of bars that a player means alike: 30 ms at 120 BPM, and every tenth hit may
// be missing (common practice, no source).
var (
	Same     = Limits{}
	AsPlayed = Limits{Ticks: 58, Velocity: 127, Lacking: 0.1}
)

// Alike reports whether two bars are, within limits.
func (l Limits) Alike(a, b Bar) bool {
	if a.Meter != b.Meter {
		return false
	}
	most := max(len(a.Hits), len(b.Hits))
	lacking := int(l.Lacking * float64(most)) // so many may be missing
	if most-min(len(a.Hits), len(b.Hits)) > lacking {
		return false
	}
	taken := make([]bool, len(b.Hits))
	met := 0
	for n, h := range a.Hits {
		if n-met > lacking { // a long file has many bars to hold against each other
			return false
		}
		best, off := -1, l.Ticks+1
		for i, o := range b.Hits {
			d := max(h.Tick-o.Tick, o.Tick-h.Tick)
			if !taken[i] && o.Note == h.Note && d < off && max(h.Velocity-o.Velocity, o.Velocity-h.Velocity) <= l.Velocity {
				best, off = i, d
			}
		}
		if best >= 0 {
			taken[best] = true
			met++
		}
	}
	return most-met <= lacking
}

// Groups numbers bars: each gets the number of the first bar that it is alike to.
func (l Limits) Groups(bars []Bar) []int {
	out := make([]int, len(bars))
	for i := range bars {
		out[i] = i
		for j := range i {
			if out[j] == j && l.Alike(bars[j], bars[i]) {
				out[i] = j
				break
			}
		}
	}
	return out
}

// kernelBars is how many bars on either side of a line are held against each other.
const kernelBars = 4

// Begins proposes the bars at which sections begin, the first among them: where what was played before a line is alike in itself, what is
// played after it too, and the two are not (Foote 2000, "Automatic audio segmentation using a measure of audio novelty": a checkerboard
// kernel, tapered, along the diagonal of the self-similarity; here of bars' hits).
func Begins(bars []Bar) []int {
	n := len(bars)
	features := make([]map[[2]int]float64, n)
	for i, b := range bars {
		features[i] = map[[2]int]float64{}
		for _, h := range b.Hits {
			features[i][[2]int{h.Note, music.NearestLine(h.Tick, music.PPQ/4)}] += float64(h.Velocity) / 127
		}
	}
	norm := func(f map[[2]int]float64) (s float64) {
		for _, v := range f {
			s += v * v
		}
		return math.Sqrt(s)
	}
	like := func(i, j int) float64 {
		a, b := features[i], features[j]
		if len(a) == 0 || len(b) == 0 {
			if len(a) == len(b) {
				return 1
			}
			return 0
		}
		dot := 0.0
		for k, v := range a {
			dot += v * b[k]
		}
		return dot / (norm(a) * norm(b))
	}
	novelty := make([]float64, n)
	for at := 1; at < n; at++ {
		var sum, weight [2]float64 // on the same side of the line, and across it: apart, so that an edge of the song is none
		for i := -kernelBars; i < kernelBars; i++ {
			for j := -kernelBars; j < kernelBars; j++ {
				if at+i < 0 || at+j < 0 || at+i >= n || at+j >= n || i == j {
					continue
				}
				x, y := (float64(i)+0.5)/kernelBars, (float64(j)+0.5)/kernelBars
				w, across := math.Exp(-2*(x*x+y*y)), 0
				if (i < 0) != (j < 0) {
					across = 1
				}
				weight[across] += w
				sum[across] += w * like(at+i, at+j)
			}
		}
		if weight[0] > 0 && weight[1] > 0 {
			novelty[at] = sum[0]/weight[0] - sum[1]/weight[1]
		}
	}
	out := []int{0}
	for at := 1; at < n; at++ {
		top := novelty[at] > 0.12
		for d := -2; d <= 2; d++ {
			if o := at + d; o > 0 && o < n && o != at && (novelty[o] > novelty[at] || novelty[o] == novelty[at] && o < at) {
				top = false
			}
		}
		if top {
			out = append(out, at)
		}
	}
	return slices.Compact(out)
}
