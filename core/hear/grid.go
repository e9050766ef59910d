package hear

import (
	_ "embed"
	"encoding/json"
	"math"
	"sync"

	"hexachord/core/music"
)

// Tempo: every tempo that makes the recording a whole number of bars, and every tempo that the distances between
// strokes suggest, with every place bar 1 could begin, is a choice; a weighted sum of what speaks for each decides. The
// weights are learnt from performances whose tempo is known (cmd/hearfit -grid).

// GridFeatures is the number of things that speak for or against a grid.
const GridFeatures = 22

// GridChoice is one steady grid that could be meant.
type GridChoice struct {
	BPM      float64
	BarOneS  float64
	Meter    music.Meter
	Features [GridFeatures]float64
}

//go:embed grid.json
var gridBytes []byte

var gridWeights = sync.OnceValue(func() (w [GridFeatures]float64) {
	if err := json.Unmarshal(gridBytes, &w); err != nil {
		panic(err) // the weights are part of the program
	}
	return w
})

// Score is the weighted sum of the choice's features.
func (c GridChoice) Score(weights [GridFeatures]float64) float64 {
	sum := 0.0
	for i, f := range c.Features {
		sum += weights[i] * f
	}
	return sum
}

// pulse is a stroke as the grid sees it: louder and lower drums weigh more.
type pulse struct {
	timeS  float64
	weight float64
	low    float64 // weight as a kick
	back   float64 // weight as a snare
	hat    float64 // weight as a hat or cymbal
}

func pulses(hits []Hit) []pulse {
	var out []pulse
	for _, h := range hits {
		w := h.Confidence * float64(h.Velocity) / 127
		p := pulse{timeS: h.TimeS, weight: w}
		switch f, _ := Family(h.Note); f {
		case FamilyKick:
			p.low = w
		case FamilySnare:
			p.back = w
		case FamilyHat, FamilyCymbal:
			p.weight *= 0.7
			p.hat = w
		}
		if n := len(out); n > 0 && p.timeS-out[n-1].timeS < 0.03 {
			out[n-1].weight += p.weight
			out[n-1].low += p.low
			out[n-1].back += p.back
			out[n-1].hat += p.hat
			continue
		}
		out = append(out, p)
	}
	return out
}

// findGrid sets tempo, meter, bars and bar 1. bpm and bars are the user's word when not 0.
func (h *Hearing) findGrid(durationS, bpm float64, bars int) error {
	if bpm != 0 {
		if err := music.CheckBPM(bpm); err != nil {
			return err
		}
	}
	ps := pulses(h.Hits)
	h.Meter = music.CommonTime
	switch {
	case len(ps) == 0:
		h.BPM, h.Bars = 120, 1
		if bpm != 0 {
			h.BPM = bpm
		}
		return nil
	case bpm == 0 && bars > 0:
		span := durationS - ps[0].timeS
		h.BPM = float64(bars*4) * 60 / span
		if err := music.CheckBPM(h.BPM); err != nil {
			return err
		}
		h.BarOneS = firstLine(ps, h.BPM)
	default:
		best, bestScore := GridChoice{BPM: 120, Meter: music.CommonTime}, math.Inf(-1)
		for _, c := range gridChoices(ps, durationS, bpm) {
			if score := c.Score(gridWeights()); score > bestScore {
				best, bestScore = c, score
			}
		}
		best = otherMeter(ps, best, bpm != 0)
		h.BPM, h.Meter, h.BarOneS = best.BPM, best.Meter, max(0, best.BarOneS)
	}
	h.Bars = bars
	if bars == 0 {
		barS := music.Seconds(float64(h.Meter.BarTicks()), h.BPM)
		whole := (durationS - h.BarOneS) / barS
		if math.Abs(whole-math.Round(whole))*barS > 0.06 { // not cut as a loop: as many bars as have strokes
			whole = math.Floor((ps[len(ps)-1].timeS-h.BarOneS)/barS+0.02) + 1
		}
		h.Bars = min(MaxBars, max(1, int(math.Round(whole))))
	}
	if bpm == 0 && bars == 0 {
		h.settle(ps)
	}
	h.GridErrorMS = 1000 * gridError(ps, h.BPM, h.BarOneS)
	return nil
}

// candidates are the tempi worth judging: whole bars in the file, and refined inter-onset intervals.
func candidates(ps []pulse, durationS float64) []float64 {
	var out []float64
	add := func(bpm float64) {
		if bpm < 55 || bpm > 215 {
			return
		}
		for _, o := range out {
			if math.Abs(o/bpm-1) < 0.002 {
				return
			}
		}
		out = append(out, bpm)
	}
	for _, lead := range []float64{0, ps[0].timeS} {
		for bars := 1; bars <= 16; bars++ {
			for _, beats := range []int{3, 4} {
				add(float64(bars*beats) * 60 / (durationS - lead))
			}
		}
	}
	// histogram of distances between strokes, as beats
	best := map[int]float64{}
	for i, a := range ps {
		for _, b := range ps[i+1:] {
			d := b.timeS - a.timeS
			if d > 4 {
				break
			}
			for beats := 1; beats <= 8; beats++ {
				if bpm := float64(beats) * 60 / d; bpm >= 55 && bpm <= 215 {
					best[int(math.Round(math.Log2(bpm/55)*240))] += a.weight * b.weight / math.Sqrt(float64(beats))
				}
			}
		}
	}
	for range 12 {
		top, topKey := 0.0, -1
		for k, v := range best {
			if v > top || v == top && k < topKey {
				top, topKey = v, k
			}
		}
		if topKey < 0 {
			break
		}
		add(refineBPM(ps, 55*math.Exp2(float64(topKey)/240)))
		for k := topKey - 3; k <= topKey+3; k++ {
			delete(best, k)
		}
	}
	return out
}

// refineBPM moves a tempo by up to 1 % to where the strokes fit its sixteenths best.
func refineBPM(ps []pulse, bpm float64) float64 {
	best, bestErr := bpm, math.Inf(1)
	for k := -20; k <= 20; k++ {
		b := bpm * (1 + float64(k)*0.0005)
		if e := gridError(ps, b, firstLine(ps, b)); e < bestErr {
			best, bestErr = b, e
		}
	}
	return best
}

// firstLine is the place, near the first stroke, from which a grid of sixteenths fits all strokes: the
// weighted circular mean of their phases.
func firstLine(ps []pulse, bpm float64) float64 {
	cell := 15 / bpm
	var s, c float64
	for _, p := range ps {
		a := 2 * math.Pi * p.timeS / cell
		s, c = s+p.weight*math.Sin(a), c+p.weight*math.Cos(a)
	}
	phase := math.Atan2(s, c) / (2 * math.Pi) * cell
	return phase + math.Round((ps[0].timeS-phase)/cell)*cell
}

// gridError is the weighted mean distance in seconds of strokes from the sixteenths (or eighth triplets,
// whichever fits all better).
func gridError(ps []pulse, bpm, from float64) float64 {
	best := math.Inf(1)
	for _, perBeat := range []float64{4, 3} {
		cell := 60 / bpm / perBeat
		sum, weight := 0.0, 0.0
		for _, p := range ps {
			x := (p.timeS - from) / cell
			sum += p.weight * math.Abs(x-math.Round(x)) * cell
			weight += p.weight
		}
		best = math.Min(best, sum/max(1e-9, weight))
	}
	return best
}

// GridChoices lists the grids the hits of a recording could be meant on.
func GridChoices(hits []Hit, durationS float64) []GridChoice {
	ps := pulses(hits)
	if len(ps) == 0 {
		return nil
	}
	return gridChoices(ps, durationS, 0)
}

func gridChoices(ps []pulse, durationS, fixedBPM float64) []GridChoice {
	tempi := []float64{fixedBPM}
	if fixedBPM == 0 {
		tempi = candidates(ps, durationS)
	}
	var out []GridChoice
	for _, bpm := range tempi {
		line := firstLine(ps, bpm)
		for _, beats := range []int{4, 3} {
			repeats := repetition(ps, 60/bpm*float64(beats))
			for shift := -2; shift < beats*4; shift++ { // bar 1 at the first stroke, or some cells before or after it
				from := line - float64(shift)*15/bpm
				if from < -15/bpm {
					continue
				}
				out = append(out, GridChoice{bpm, from, music.Meter{Beats: beats, Unit: 4}, features(ps, durationS, bpm, from, beats, repeats)})
			}
		}
	}
	return out
}

// repetition is the share of strokes that come again a bar later.
func repetition(ps []pulse, barS float64) float64 {
	var again, all float64
	k := 0
	last := ps[len(ps)-1].timeS
	for _, p := range ps {
		if p.timeS+barS > last+0.03 {
			break
		}
		for k < len(ps) && ps[k].timeS < p.timeS+barS-0.03 {
			k++
		}
		all += p.weight
		if k < len(ps) && ps[k].timeS <= p.timeS+barS+0.03 {
			// the same drums again, not only some stroke
			alike := math.Min(p.low, ps[k].low) + math.Min(p.back, ps[k].back) + math.Min(p.hat, ps[k].hat)
			again += p.weight * alike / math.Max(1e-6, p.low+p.back+p.hat)
		}
	}
	return again / math.Max(0.5, all)
}

func features(ps []pulse, durationS, bpm, from float64, beats int, repeats float64) (f [GridFeatures]float64) {
	beatS := 60 / bpm
	const nearS = 0.02
	near := func(missS float64) float64 { return math.Exp(-missS * missS / (2 * nearS * nearS)) }
	var all, low, back, hat, onBeat, onHalf, onFour, onThree, hatOnBeat float64
	var lowAt, backAt [4]float64
	for _, p := range ps {
		x := (p.timeS - from) / beatS
		miss := func(perBeat float64) float64 { return math.Abs(x*perBeat-math.Round(x*perBeat)) / perBeat * beatS }
		close := near(miss(1))
		all, low, back, hat = all+p.weight, low+p.low, back+p.back, hat+p.hat
		onBeat += p.weight * close
		onHalf += p.weight * near(miss(2))
		onFour += p.weight * near(miss(4))
		onThree += p.weight * near(miss(3))
		hatOnBeat += p.hat * close
		place := ((int(math.Round(x)) % beats) + beats) % beats
		lowAt[place] += p.low * close
		backAt[place] += p.back * close
	}
	share := func(a, b float64) float64 { return a / math.Max(0.3, b) }
	barS := beatS * float64(beats)
	bars := (durationS - from) / barS
	whole := math.Abs(bars-math.Round(bars)) * barS // seconds the file misses whole bars by
	octave := math.Log2(bpm / 110)
	perBeat := math.Log2(math.Max(0.1, float64(len(ps))/(durationS/beatS)) / 2)
	backbeat := backAt[1] + backAt[3]
	if beats == 3 {
		backbeat = backAt[1] + backAt[2]
	}
	f = [GridFeatures]float64{share(onBeat, all), share(onHalf, all), share(onFour, all), share(onThree, all), share(math.Max(onFour, onThree), all),
		share(lowAt[0], low), share(lowAt[0]+lowAt[2], low), share(lowAt[1]+lowAt[3], low), share(backbeat, back), share(backAt[2], back), share(backAt[0], back),
		share(hatOnBeat, hat), near(whole * 0.6), 0, octave, octave * octave, perBeat, perBeat * perBeat, 0, -math.Abs(from-ps[0].timeS) / beatS, repeats, 0}
	if r := math.Round(bars); near(whole*0.6) > 0.3 && (r == 1 || r == 2 || r == 4 || r == 8) {
		f[13] = 1
	}
	if beats == 3 {
		f[18] = 1
	}
	if from <= ps[0].timeS+0.03 && from >= ps[0].timeS-0.03 {
		f[21] = 1 // bar 1 at the first stroke
	}
	return f
}
