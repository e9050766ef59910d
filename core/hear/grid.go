package hear

import (
	"math"

	"hexachord/core/music"
)

// Tempo: every tempo that makes the recording a whole number of bars, and every tempo that the distances
// between strokes suggest, is judged by how the strokes fall on its beats and cells, how a bar repeats, and how
// common such a tempo is.

const (
	commonBPM   = 108.0 // middle of the prior
	priorOctave = 0.55  // its width in octaves
)

type gridChoice struct {
	bpm, barOneS, score float64
	meter               music.Meter
}

// pulse is a stroke as the grid sees it: louder and lower drums weigh more.
type pulse struct {
	timeS  float64
	weight float64
	low    float64 // weight as a kick
	back   float64 // weight as a snare
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
		}
		if n := len(out); n > 0 && p.timeS-out[n-1].timeS < 0.03 {
			out[n-1].weight += p.weight
			out[n-1].low += p.low
			out[n-1].back += p.back
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
		best := bestGrid(ps, durationS, bpm)
		h.BPM, h.Meter = best.bpm, best.meter
		h.BarOneS = best.barOneS
	}
	h.Bars = bars
	if bars == 0 {
		barS := music.Seconds(float64(h.Meter.BarTicks()), h.BPM)
		h.Bars = min(music.MaxBars, max(1, int(math.Round((durationS-h.BarOneS)/barS))))
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

func bestGrid(ps []pulse, durationS, fixedBPM float64) gridChoice {
	tempi := []float64{fixedBPM}
	if fixedBPM == 0 {
		tempi = candidates(ps, durationS)
	}
	best := gridChoice{bpm: 120, meter: music.CommonTime, score: math.Inf(-1)}
	for _, bpm := range tempi {
		line := firstLine(ps, bpm)
		for _, beats := range []int{4, 3} {
			for shift := -1; shift < beats*4; shift++ { // bar 1 at the first stroke, or some cells before or after it
				from := line - float64(shift)*15/bpm
				if from < -15/bpm {
					continue
				}
				if c := judge(ps, durationS, bpm, from, beats); c.score > best.score {
					best = c
				}
			}
		}
	}
	best.barOneS = max(0, best.barOneS)
	return best
}

func judge(ps []pulse, durationS, bpm, from float64, beats int) gridChoice {
	beatS := 60 / bpm
	barS := beatS * float64(beats)
	var onBeat, onHalf, off, total, down, backbeat, kickOnBack float64
	for _, p := range ps {
		x := (p.timeS - from) / beatS
		nearest := math.Round(x)
		total += p.weight
		cell := x * 4
		miss := math.Abs(cell-math.Round(cell)) / 4 * beatS // seconds off a sixteenth
		miss = math.Min(miss, math.Abs(x*3-math.Round(x*3))/3*beatS+0.004)
		off += p.weight * math.Min(1, miss/0.03)
		dist := math.Abs(x-nearest) * beatS
		close := math.Exp(-dist * dist / (2 * 0.02 * 0.02))
		onBeat += p.weight * close
		half := math.Abs(x*2-math.Round(x*2)) / 2 * beatS
		onHalf += p.weight * math.Exp(-half*half/(2*0.02*0.02))
		switch place := ((int(nearest) % beats) + beats) % beats; {
		case place == 0:
			down += (p.low + 0.3*p.weight - 0.7*p.back) * close
		case beats == 4 && place%2 == 1 || beats == 3 && place > 0:
			backbeat += p.back * close
			kickOnBack += p.low * close
		}
	}
	bars := (durationS - from) / barS
	whole := math.Abs(bars-math.Round(bars)) * barS // seconds the loop misses whole bars by
	score := 1.1*onBeat/total + 0.6*onHalf/total - 1.6*off/total + (0.5*down+0.55*backbeat-0.25*kickOnBack)/total*math.Min(2, float64(beats)/2)
	score += 0.9 * math.Exp(-whole*whole/(2*0.03*0.03))
	if b := math.Round(bars); b == 1 || b == 2 || b == 4 || b == 8 {
		score += 0.25
	}
	o := math.Log2(bpm/commonBPM) / priorOctave
	score -= 0.45 * o * o
	if beats == 3 {
		score -= 0.35
	}
	score -= 0.15 * math.Abs(from-ps[0].timeS) / beatS // music tends to begin with bar 1
	return gridChoice{bpm, from, score, music.Meter{Beats: beats, Unit: 4}}
}
