package hear

import (
	"math"
	"slices"
	"sort"

	"hexachord/core/sound"
)

// Cut is a stroke of a recording that can become a sample: frames of the recording at its own rate.
type Cut struct {
	Hit        int     // its place among the hits
	StartFrame int     // just before the attack
	EndFrame   int     // before the next stroke, or where it has rung out
	LevelDB    float64 // peak
	Clean      float64 // 0..1: 1 stands alone and rings out
	Wanted     bool    // a person chose it by ear
}

// mostLayers is how many loudnesses of a drum are cut at most.
const mostLayers = 4

// Cuts finds each lane's cleanest strokes, softest first, at most four of unlike loudness: sure ones, with no other drum at
// the same time, and long alone. A lane all of whose strokes fall together with others gives its best, and says so by Clean. Of
// the strokes of one loudness those that are wanted, by their places among the hits, go before cleaner ones.
func (h Hearing) Cuts(b sound.Buffer, laneOf func(Hit) int, wanted []int) map[int][]Cut {
	mono := b.Mono()
	times := make([]float64, 0, len(h.Hits))
	for _, hit := range h.Hits {
		if hit.Sounds() {
			times = append(times, hit.TimeS)
		}
	}
	sort.Float64s(times)
	out := map[int][]Cut{}
	for i, hit := range h.Hits {
		lane := laneOf(hit)
		chosen := slices.Contains(wanted, i)
		if lane < 0 || !hit.Sounds() || hit.Doubtful() && !chosen {
			continue
		}
		next := b.Seconds()
		for _, t := range times {
			if t > hit.TimeS+0.03 {
				next = t
				break
			}
		}
		together := 0
		for _, t := range times {
			if math.Abs(t-hit.TimeS) <= 0.03 {
				together++
			}
		}
		c := Cut{Hit: i, Wanted: chosen, StartFrame: max(0, int((hit.TimeS-0.001)*float64(b.Rate))), EndFrame: min(b.Frames(), int((next-0.002)*float64(b.Rate)))}
		if c.EndFrame-c.StartFrame < b.Rate/50 {
			continue
		}
		c.EndFrame = c.StartFrame + ringsOut(mono[c.StartFrame:c.EndFrame], b.Rate)
		peak := float32(1e-6)
		for _, v := range mono[c.StartFrame:c.EndFrame] {
			peak = max(peak, max(v, -v))
		}
		c.LevelDB = 20 * math.Log10(float64(peak))
		alone := math.Min(1, (next-hit.TimeS)/0.35)
		c.Clean = hit.Confidence * alone / float64(together)
		out[lane] = append(out[lane], c)
	}
	for lane, cuts := range out {
		out[lane] = layersOf(cuts)
	}
	return out
}

// ringsOut is after how many frames a stroke has fallen 60 dB below its loudest 5 ms, or all of them.
func ringsOut(x []float32, rate int) int {
	block := max(1, rate/200)
	top := 0.0
	last := len(x)
	for i := 0; i+block <= len(x); i += block {
		sum := 0.0
		for _, v := range x[i : i+block] {
			sum += float64(v) * float64(v)
		}
		if sum > top {
			top = sum
		}
		if sum > top*1e-6 {
			last = min(len(x), i+2*block)
		}
	}
	return last
}

// before reports whether c is taken before another stroke of its loudness.
func (c Cut) before(d Cut) bool {
	if c.Wanted != d.Wanted {
		return c.Wanted
	}
	return c.Clean > d.Clean
}

// layersOf chooses the stroke wanted, or else the cleanest, of each of up to four ranges of loudness, softest first.
func layersOf(cuts []Cut) []Cut {
	sort.Slice(cuts, func(i, j int) bool { return cuts[i].LevelDB < cuts[j].LevelDB })
	span := cuts[len(cuts)-1].LevelDB - cuts[0].LevelDB
	layers := min(mostLayers, len(cuts), 1+int(span/5)) // layers under 5 dB apart would sound the same
	var out []Cut
	for n := range layers {
		lo := cuts[0].LevelDB + span*float64(n)/float64(layers)
		hi := cuts[0].LevelDB + span*float64(n+1)/float64(layers)
		best := -1
		for i, c := range cuts {
			in := c.LevelDB >= lo && (c.LevelDB < hi || n == layers-1)
			if in && (best < 0 || c.before(cuts[best])) {
				best = i
			}
		}
		if best >= 0 {
			out = append(out, cuts[best])
		}
	}
	return out
}
