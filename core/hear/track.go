package hear

import (
	"math"
	"slices"

	"hexachord/core/music"
)

// Following a player: the beats are the path through the strokes that gains most, found by dynamic programming over moments and
// lengths of beat (Ellis, "Beat Tracking by Dynamic Programming", 2007; with the length as part of the state as in Krebs, Böck and
// Widmer, "An Efficient State-Space Model for Joint Tempo and Meter Tracking", 2015). A beat gains by a stroke on it, low and loud
// ones most, and by strokes on its quarters or thirds; a change of length costs.

const (
	framesPerBeat = 80    // moments told apart in a beat: 1.25 % of its length
	changeCost    = 150.0 // of the square of a beat's change of length from the last, as a part of it
	farCost       = 94.0  // of the square of a first beat's distance from the tempo, in octaves
	fitSpread     = 0.15  // of a quarter of a beat: standard deviation of strokes around their line
	settleLead    = 0.15  // how much better, of 1, tracked beats must hold the strokes than steady ones to be believed
	countedTwice  = 160   // BPM from which a moving player may be counted at half the tempo
	fitByChance   = 0.376 // what strokes anywhere fit such lines by: √(2π)·fitSpread
)

// fits is the weight of the strokes from a moment on, for a beat's length, times how well they lie on its quarters or on its thirds,
// and that weight.
func fits(ps []pulse, first int, from, length float64) (fit, weight float64) {
	var fours, threes float64
	for _, p := range ps[first:] {
		x := (p.timeS - from) / length
		if x >= 0.97 { // what lies just before the next beat is that beat's
			break
		}
		if x < -0.03 {
			continue
		}
		near := func(parts float64) float64 {
			return bell((x*parts - math.RoundToEven(x*parts)) / parts * 4 / fitSpread)
		}
		fours, threes, weight = fours+p.weight*near(4), threes+p.weight*near(3), weight+p.weight
	}
	return max(fours, 0.95*threes), weight
}

// bells is the normal curve, 1 at 0, at steps of 1/bellSteps deviations.
var bells = func() (b [bellsTo*bellSteps + 2]float64) {
	for i := range b {
		d := float64(i) / bellSteps
		b[i] = math.Exp(-d * d / 2)
	}
	return b
}()

const bellSteps, bellsTo = 256, 6

// bell is exp(−d²/2), read from a table: it is asked for millions of times.
func bell(d float64) float64 {
	d = math.Abs(d) * bellSteps
	if !(d < bellsTo*bellSteps) {
		return 0
	}
	i := int(d)
	return bells[i] + (bells[i+1]-bells[i])*(d-float64(i))
}

// beats are the moments of the beats a player means, from near startS on, about beatS apart at first; none where
// nothing was struck.
func beats(ps []pulse, startS, beatS float64) (times []float64) {
	if len(ps) == 0 {
		return nil
	}
	frame := beatS / framesPerBeat
	last := ps[len(ps)-1].timeS
	frames := int((last-startS+beatS)/frame) + 1
	low, high := framesPerBeat*3/4, framesPerBeat*4/3 // as far as a player is followed from the tempo
	lengths := high - low + 1
	if frames < 2 {
		return nil
	}
	onBeat := make([]float64, frames) // a beat's gain by the strokes at it
	firstAt := make([]int, frames)    // the first stroke from just before the moment on
	for t := range frames {
		at := startS + float64(t)*frame
		if t > 0 {
			firstAt[t] = firstAt[t-1]
		}
		for firstAt[t] < len(ps) && ps[firstAt[t]].timeS < at-0.05*beatS {
			firstAt[t]++
		}
		for _, p := range ps[firstAt[t]:] {
			if p.timeS > at+0.05*beatS {
				break
			}
			d := (p.timeS - at) / (fitSpread * beatS / 4)
			onBeat[t] += (0.5*p.weight + p.low + p.back) * math.Exp(-d*d/2)
		}
	}
	// best[t*lengths+k] is the gain of the best path to a beat at t of which the beat before was low+k frames long.
	best := make([]float32, frames*lengths)
	from := make([]int8, frames*lengths)
	nowhere := float32(math.Inf(-1))
	reach := framesPerBeat / 8
	for t := range frames {
		for k := range lengths {
			here := t*lengths + k
			best[here], from[here] = nowhere, 0
			length := low + k
			if t < reach { // the first beat, of which the length before is only what is expected
				far := math.Log2(float64(length) / framesPerBeat)
				best[here] = float32(onBeat[t] - farCost*far*far)
				continue
			}
			start := t - length
			if start < 0 {
				continue
			}
			top, step := nowhere, int8(0)
			for d := -3; d <= 3; d++ {
				if j := k + d; j >= 0 && j < lengths {
					change := float64(length)/float64(low+j) - 1
					if v := best[start*lengths+j] - float32(changeCost*change*change); v > top {
						top, step = v, int8(d)
					}
				}
			}
			if math.IsInf(float64(top), -1) {
				continue
			}
			fit, weight := fits(ps, firstAt[start], startS+float64(start)*frame, float64(length)*frame)
			best[here], from[here] = top+float32(onBeat[t]+fit-fitByChance*weight), step
		}
	}
	at, top := -1, nowhere
	for i, v := range best {
		if v > top {
			at, top = i, v
		}
	}
	for at >= 0 {
		t, k := at/lengths, at%lengths
		times = append(times, startS+float64(t)*frame)
		if t < reach {
			break
		}
		at = (t-low-k)*lengths + k + int(from[at])
	}
	slices.Reverse(times)
	return times
}

// sure is how well strokes lie on the parts of beats, 0..1; 0 where there are none.
func sure(ps []pulse, times []float64) float64 {
	var fit, weight float64
	for i := range len(times) - 1 {
		f, w := fits(ps, 0, times[i], times[i+1]-times[i])
		fit, weight = fit+f, weight+w
	}
	return fit / max(1e-9, weight)
}

// settle corrects a steady grid that holds the strokes of a long recording badly. Where the beats the player means are evenly apart,
// tempo and bar 1 become theirs; where they are not, he moves: the tempo becomes the mean, and the grid is better made to follow. Of a
// tempo and its half the one a drummer counts is taken.
func (h *Hearing) settle(ps []pulse) {
	perPulse := float64(pulseTicks(h.Meter))
	lastS := ps[len(ps)-1].timeS
	held := func(barOneS, bpm float64) float64 { // how sure a steady grid's bars are
		beatS := music.Seconds(perPulse, bpm)
		var times []float64
		for t := barOneS; t <= lastS+beatS; t += beatS {
			times = append(times, t)
		}
		return sure(ps, times)
	}
	best, bestSure := *h, held(h.BarOneS, h.BPM)+settleLead
	if bestSure > 1 { // nothing can hold them so much better
		return
	}
	for _, bpm := range []float64{h.BPM, h.BPM / 2} {
		if bpm != h.BPM && h.BPM < countedTwice {
			break
		}
		beatS := music.Seconds(perPulse, bpm)
		times := beats(ps, max(0, h.BarOneS-beatS/16), beatS)
		tracked := sure(ps, times)
		if len(times) < 2 || tracked < bestSure {
			continue
		}
		bestSure = tracked - 0.05 // the half, second, needs to be no better
		from, every := line(times)
		even := *h
		even.BPM, even.BarOneS = 60*perPulse/music.PPQ/every, max(0, from)
		if held(even.BarOneS, even.BPM) > tracked-settleLead {
			even.Bars = max(1, int(math.Round(float64(h.Bars)*even.BPM/h.BPM)))
			best = even
			continue
		}
		moving := *h
		moving.BPM, moving.Bars = bpm, max(1, int(math.Round(float64(h.Bars)*bpm/h.BPM)))
		pinned := moving.Follow()
		first, last := pinned.Pins[0], pinned.Pins[len(pinned.Pins)-1]
		moving.BPM = float64(last.Tick) / music.PPQ * 60 / (last.TimeS - first.TimeS)
		moving.Bars, moving.Moves = pinned.Bars, true
		best = moving
	}
	*h = best
}

// line is the straight line through evenly numbered moments by least squares: where the first should lie, and the step.
func line(times []float64) (from, step float64) {
	n := float64(len(times))
	middle := (n - 1) / 2
	var mean, up, across float64
	for _, t := range times {
		mean += t / n
	}
	for i, t := range times {
		x := float64(i) - middle
		up, across = up+x*(t-mean), across+x*x
	}
	step = up / across
	return mean - middle*step, step
}

// pulseTicks is the length of the beats a player is followed by: quarters, or in meters of eighths three of them where they come
// in threes, else one.
func pulseTicks(m music.Meter) int {
	unit := m.BarTicks() / m.Beats
	if m.Unit >= 8 && m.Beats%3 == 0 {
		return 3 * unit
	}
	return unit
}

// Follow pins every bar line, and the last bar's end, to what the player does: the beats are tracked from bar 1 on, and where a
// stroke stands within an eighth of a beat of a bar line, the line is pinned to it. The bars become as many as the strokes fill by
// then. Each bar's pin says how sure it is.
func (h Hearing) Follow() Hearing {
	ps := pulses(sounding(h.Hits))
	bar, beat := h.Meter.BarTicks(), pulseTicks(h.Meter)
	beatS := music.Seconds(float64(beat), h.BPM)
	times := beats(ps, max(0, h.BarOneS-beatS/16), beatS)
	if len(times) < 2 {
		return h
	}
	lastS := ps[len(ps)-1].timeS
	spare := h.Bars - (int(math.Floor(h.steady(lastS)/float64(bar)+0.02)) + 1) // bars after the last stroke
	perBar := bar / beat
	for len(times)%perBar != 1 || times[len(times)-1] < lastS+0.02*beatS { // on at the last beat's pace to the end of a bar
		n := len(times)
		times = append(times, 2*times[n-1]-times[n-2])
	}
	for range max(0, spare) * perBar {
		n := len(times)
		times = append(times, 2*times[n-1]-times[n-2])
	}
	h.Pins = []Pin{}
	for i, t := range times {
		if i%perBar != 0 {
			continue
		}
		reach := beatS / 8
		at, top := t, 0.0
		for _, p := range ps {
			off := math.Abs(p.timeS - t)
			if w := (p.weight + p.low) * (1 - 0.7*off/reach); off <= reach && w > top {
				at, top = p.timeS, w
			}
		}
		h.Pins = append(h.Pins, Pin{Tick: i * beat, TimeS: at})
		h.Pins[len(h.Pins)-1].Sure = math.Round(100*sure(ps, times[i:min(i+perBar+1, len(times))])) / 100
	}
	h.Bars = min(MaxBars, len(h.Pins)-1)
	return h
}

// steady is the tick at a moment as the tempo alone says it.
func (h Hearing) steady(timeS float64) float64 {
	return (timeS - h.BarOneS) / music.SecondsPerTick(h.BPM)
}
