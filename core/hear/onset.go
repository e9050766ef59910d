package hear

import (
	"context"
	"math"
	"sort"

	"hexachord/core/parts"
	"hexachord/core/spectrum"
)

// Onset detection follows SuperFlux (Böck and Widmer, "Maximum Filter Vibrato Suppression for Onset
// Detection", DAFx 2013): the rise of a log-magnitude band spectrum against its own maximum-filtered
// past, here summed in three ranges that are weighed against each other, so that a quiet hat counts
// beside a kick.
const (
	fluxSize  = 1024
	fluxHop   = 256
	fluxBands = 60
	fluxLag   = 3 // frames
	// wholeDelta and rangeDelta are how far the flux must stand over its local median, as a share of its
	// typical peak, in all ranges together and in one alone. Low on purpose: what decides on the drum
	// also decides that there is none.
	wholeDelta = 0.03
	rangeDelta = 0.15
	minGapS    = 0.018
)

// onset is a moment at which something may have been struck.
type onset struct {
	timeS    float64
	strength float64 // flux over its local median, relative to the recording's typical peak
	riseDB   float64 // by how much the sound rises, see rises
	growsDB  float64 // by how much it goes on growing where it rises most, 30 ms later
	moved    bool    // it was found where the sound rises, and not where it was sought first
}

// findOnsets lists candidate onsets in time order, their times refined to the attack in the waveform.
// progress is told how far it has come, 0..1.
func findOnsets(ctx context.Context, x []float32, progress func(float64)) ([]onset, error) {
	whole, ranges, err := fluxOf(ctx, x, progress)
	if err != nil {
		return nil, err
	}
	refiner := newRefiner(x)
	var all []onset
	pick := func(flux []float64, delta float64) {
		norm := quantile(localPeaks(flux), 0.9)
		if norm < 1e-6 {
			return
		}
		const before, after = AnalysisRate / 10 / fluxHop, AnalysisRate * 7 / 100 / fluxHop // 100 ms, 70 ms
		for i, v := range flux {
			if v < delta*norm || !isPeak(flux, i, 3) {
				continue
			}
			strength := (v - quantile(flux[max(0, i-before):min(len(flux), i+after+1)], 0.5)) / norm
			if strength >= delta {
				all = append(all, onset{timeS: refiner.refine(float64(i*fluxHop) / AnalysisRate), strength: strength})
			}
		}
	}
	pick(whole, wholeDelta)
	for _, r := range ranges { // a kick under a ringing cymbal shows in its own range only
		pick(r, rangeDelta)
	}
	sort.Slice(all, func(i, j int) bool { return all[i].timeS < all[j].timeS })
	var out []onset
	for _, o := range all {
		n := len(out)
		switch {
		case n == 0 || o.timeS-out[n-1].timeS >= minGapS:
			out = append(out, o)
		case o.strength > out[n-1].strength:
			out[n-1] = o
		}
	}
	return withoutTail(x, out), nil
}

// withoutTail leaves out an onset at the very beginning that is only what a cut left of a stroke before it: softer than most
// strokes of the recording and hardly falling, where a stroke trimmed short still falls from its attack. The limits are ours,
// set on demo breaks cut at 0 to 10 and at 60 to 120 ms after strokes.
func withoutTail(x []float32, onsets []onset) []onset {
	const (
		edgeS     = 0.012
		softShare = 0.3
		leastFall = 3 // dB
	)
	if len(onsets) < 4 || onsets[0].timeS > edgeS || audibleFrom(x) > AnalysisRate/1000 {
		return onsets
	}
	peak := func(from int) float64 {
		top := float32(0)
		for _, v := range x[min(len(x), from):min(len(x), from+AnalysisRate*12/1000)] {
			top = max(top, v, -v)
		}
		return float64(top)
	}
	others := make([]float64, 0, len(onsets))
	for _, o := range onsets[1:] {
		others = append(others, peak(int(o.timeS*AnalysisRate)))
	}
	if peak(0) > softShare*quantile(others, 0.5) || firstFallDB(x) >= leastFall {
		return onsets
	}
	return onsets[1:]
}

// audibleFrom is the first frame over a thousandth of the recording's loud moments.
func audibleFrom(x []float32) int {
	least := float32(levelReference(x) / 1000)
	for i, v := range x {
		if v > least || -v > least {
			return i
		}
	}
	return len(x)
}

// firstFallDB is by how much the first 8 ms are louder than 20 to 40 ms, over or under 3 kHz, whichever falls more.
func firstFallDB(x []float32) float64 {
	r := refiner{x: x, low: onePole(300), high: onePole(3000)}
	level := func(fromMS, toMS int) (low, high float64) {
		from, to := AnalysisRate*fromMS/1000, min(len(x), AnalysisRate*toMS/1000)
		r.run(from, to, func(_ int, p [3]float32) {
			low += float64(p[0]*p[0] + p[1]*p[1])
			high += float64(p[2] * p[2])
		})
		n := float64(max(1, to-from))
		return low / n, high / n
	}
	low, high := level(0, 8)
	lowAfter, highAfter := level(20, 40)
	return 10 * math.Log10(max((low+1e-12)/(lowAfter+1e-12), (high+1e-12)/(highAfter+1e-12)))
}

func fluxOf(ctx context.Context, x []float32, progress func(float64)) (whole []float64, ranges [3][]float64, err error) {
	ref := levelReference(x)
	frames := len(x)/fluxHop + 1
	for r := range ranges {
		ranges[r] = make([]float64, frames)
	}
	parts.Do(frames, 64, func(from, to int) {
		sp, fb := spectrum.New(fluxSize), spectrum.NewBank(fluxBands, fluxSize, 30, 16000)
		ring := make([][]float32, fluxLag+1)
		for i := range ring {
			ring[i] = make([]float32, fluxBands)
		}
		for i := max(0, from-fluxLag); i < to; i++ {
			if i%512 == 0 {
				if ctx.Err() != nil {
					return
				}
				if from == 0 { // the others are as far
					progress(float64(i) / float64(to))
				}
			}
			cur := ring[i%len(ring)]
			fb.Apply(sp.At(x, i*fluxHop-fluxSize/2), cur)
			for b, v := range cur {
				cur[b] = float32(math.Log10(1 + 1000*math.Sqrt(float64(v))/ref))
			}
			if i < from {
				continue
			}
			old := ring[(i+len(ring)-fluxLag)%len(ring)] // silence before the first frame: a recording may begin with a stroke
			for b, v := range cur {
				past := max(old[b], old[max(0, b-1)], old[min(fluxBands-1, b+1)])
				if rise := float64(v - past); rise > 0 {
					ranges[min(2, b*3/fluxBands)][i] += rise
				}
			}
		}
	})
	if err := ctx.Err(); err != nil {
		return nil, ranges, err
	}
	whole = make([]float64, frames)
	for _, r := range ranges {
		norm := max(1.5, quantile(localPeaks(r), 0.9))
		for i, v := range r {
			whole[i] += v / norm
		}
	}
	return whole, ranges, nil
}

// levelReference is the loudness of the recording's loud moments: the 99th percentile of |x|.
func levelReference(x []float32) float64 {
	stride := max(1, len(x)/20_000)
	sample := make([]float64, 0, len(x)/stride+1)
	for i := 0; i < len(x); i += stride {
		sample = append(sample, math.Abs(float64(x[i])))
	}
	return max(1e-6, quantile(sample, 0.99))
}

func isPeak(v []float64, i, reach int) bool {
	for k := max(0, i-reach); k <= min(len(v)-1, i+reach); k++ {
		if v[k] > v[i] || v[k] == v[i] && k < i {
			return false
		}
	}
	return v[i] > 0
}

func localPeaks(v []float64) []float64 {
	var out []float64
	for i := range v {
		if isPeak(v, i, 3) {
			out = append(out, v[i])
		}
	}
	return out
}

// quantile of the values, q in 0..1; 0 when there are none. The values are left as they are.
func quantile(values []float64, q float64) float64 {
	if len(values) == 0 {
		return 0
	}
	s := append([]float64(nil), values...)
	sort.Float64s(s)
	return s[int(q*float64(len(s)-1)+0.5)]
}

// refiner finds attacks in the waveform: in the range (low, middle or high) that rises most, the
// moment its envelope first passes a tenth of the way from the level before to the peak after.
type refiner struct {
	x     []float32
	peaks [3][]float32 // of each range, in steps of stepFrames
	low   float64
	high  float64
}

const (
	stepFrames = AnalysisRate / 2000 // 0.5 ms
	spanSteps  = 8                   // levels before and after are peaks of 4 ms
)

func newRefiner(x []float32) *refiner {
	r := &refiner{x: x, low: onePole(300), high: onePole(3000)}
	for k := range r.peaks {
		r.peaks[k] = make([]float32, len(x)/stepFrames+1)
	}
	var l, h float64
	for step := range r.peaks[0] {
		var top [3]float32
		for _, v := range x[min(len(x), step*stepFrames):min(len(x), (step+1)*stepFrames)] {
			s := float64(v)
			l += (s - l) * r.low
			h += (s - h) * r.high
			top[0] = max(top[0], float32(math.Abs(l)))
			top[1] = max(top[1], float32(math.Abs(h-l)))
			top[2] = max(top[2], float32(math.Abs(s-h)))
		}
		for k, v := range top {
			r.peaks[k][step] = v
		}
	}
	return r
}

const settleFrames = AnalysisRate / 50 // many time constants of the slower filter

// run splits frames from..to into the three ranges, rectified.
func (r *refiner) run(from, to int, each func(i int, parts [3]float32)) {
	var l, h float64
	for i := max(0, from-settleFrames); i < to; i++ {
		s := float64(r.x[i])
		l += (s - l) * r.low
		h += (s - h) * r.high
		if i >= from {
			each(i, [3]float32{float32(math.Abs(l)), float32(math.Abs(h - l)), float32(math.Abs(s - h))})
		}
	}
}

// passes is the first of frames from..to at which one of the three ranges passes a level; false when none does.
func (r *refiner) passes(k, from, to int, level float64) (int, bool) {
	var l, h float64
	for i := max(0, from-settleFrames); i < to; i++ {
		s := float64(r.x[i])
		l += (s - l) * r.low
		h += (s - h) * r.high
		if i >= from && float64(float32(math.Abs([3]float64{l, h - l, s - h}[k]))) > level {
			return i, true
		}
	}
	return 0, false
}

func onePole(hz float64) float64 { return 1 - math.Exp(-2*math.Pi*hz/AnalysisRate) }

func (r *refiner) refine(timeS float64) float64 {
	// the flux is highest a little after the attack, when its window is full of it
	const earlier, later = AnalysisRate * 20 / 1000 / stepFrames, AnalysisRate * 6 / 1000 / stepFrames
	mid := int(timeS * AnalysisRate / stepFrames)
	bestRise, bestK, bestI, level := 0.0, 0, -1, 0.0
	for k := range r.peaks {
		peak := func(from, to int) float64 {
			p := float32(0)
			for _, v := range r.peaks[k][min(len(r.peaks[k]), max(0, from)):max(0, min(len(r.peaks[k]), to))] {
				p = max(p, v)
			}
			return float64(p)
		}
		for i := max(0, mid-earlier); i < min(len(r.peaks[k]), mid+later); i++ {
			before, after := peak(i-spanSteps, i), peak(i, i+spanSteps)
			rise := (after - before) / (before + 0.02*after + 1e-7)
			rise *= math.Pow(max(0, after), 0.25) // among clear rises the louder one is meant
			if rise <= bestRise {
				continue
			}
			bestRise, bestK, bestI, level = rise, k, i, before+0.1*(after-before)
		}
	}
	if bestI < 0 {
		return float64(mid*stepFrames) / AnalysisRate
	}
	at, ok := r.passes(bestK, max(0, (bestI-1)*stepFrames), min(len(r.x), (bestI+spanSteps)*stepFrames), level)
	if !ok {
		at = bestI * stepFrames
	}
	return float64(at) / AnalysisRate
}
