package hear

import (
	"math"

	"hexachord/core/parts"
	"hexachord/core/spectrum"
)

// A patch describes what happens around one onset: band spectra of pieces that begin at the attack
// itself, one before it, several after, each longer than the last, and what else is near.
const (
	patchBands = 40
	shortBands = 20
	shortSize  = 512
	longSize   = 2048
	// the lowest octaves once more, finely: a kick's, a snare's and a tom's body lie a few dozen Hz apart
	lowBands = 20
	lowSize  = 4096
)

// longStarts are where the long pieces begin, in frames after the attack.
var longStarts = [...]int{-longSize - 88, -20, 1024, 2048, 4096, 8192}

// ownSize is the length of what describes the onset alone; contextSize that of what describes the recording.
const (
	lowAt       = len(longStarts)*patchBands + 2*shortBands
	ownSize     = lowAt + lowBands + 3
	contextSize = 2*patchBands + lowBands
	// PatchSize is the number of values a patch has.
	PatchSize = ownSize + contextSize
)

// The ranges of the three kinds of spectra, Hz.
var longHz, shortHz, bassHz = [2]float64{25, 16000}, [2]float64{60, 16000}, [2]float64{30, 500}

// Spectrum is where in a patch one of its spectra begins, and which frequency each of its values stands for, Hz. A value
// is 1 at the recording's own level and 1 more or less 20 dB above or under it; −2 is nothing.
type Spectrum struct {
	At int
	Hz []float64
}

// PatchSpectra are all the spectra of a patch.
func PatchSpectra() (all []Spectrum) {
	at := 0
	add := func(bands int, hz [2]float64) {
		all = append(all, Spectrum{at, spectrum.Centres(bands, hz[0], hz[1])})
		at += bands
	}
	for range longStarts {
		add(patchBands, longHz)
	}
	add(shortBands, shortHz)
	add(shortBands, shortHz)
	add(lowBands, bassHz)
	at = ownSize
	add(patchBands, longHz)
	add(patchBands, longHz)
	add(lowBands, bassHz)
	return all
}

// patches describes every onset, relative to the recording's own level.
func patches(x []float32, onsets []onset, progress func(float64)) [][]float32 {
	out := make([][]float32, len(onsets))
	parts.Do(len(onsets), 64, func(from, to int) {
		l := newLooker()
		for i := from; i < to; i++ {
			if from == 0 && i%16 == 0 { // the others are as far
				progress(float64(i) / float64(to))
			}
			out[i] = l.look(x, onsets[i].timeS)
		}
	})
	ref := referencePower(out)
	loudest := 0.0
	for _, p := range out {
		sum := 0.0
		for _, v := range p[patchBands : 2*patchBands] {
			sum += float64(v)
		}
		loudest = max(loudest, sum)
	}
	if moved := newRiser(x, onsets, loudest*3e-6).rises(onsets); len(moved) > 0 {
		l := newLooker()
		for _, i := range moved {
			out[i] = l.look(x, onsets[i].timeS)
		}
	}
	spectral := ownSize - 3
	for i, p := range out {
		for k := range p[:spectral] {
			p[k] = float32(math.Log10(float64(p[k])/ref+1e-6)/2 + 1)
		}
		near := func(other int) float32 {
			if other < 0 || other >= len(onsets) {
				return 1
			}
			return float32(math.Min(0.4, math.Abs(onsets[other].timeS-onsets[i].timeS)) / 0.4)
		}
		p[spectral], p[spectral+1], p[spectral+2] = near(i-1), near(i+1), float32(math.Min(2, onsets[i].strength))
	}
	// what the recording is like on the whole: mean spectrum at the attacks and somewhat later
	for _, part := range [3]struct{ from, to, bands int }{{patchBands, ownSize, patchBands}, {4 * patchBands, ownSize + patchBands, patchBands}, {lowAt, ownSize + 2*patchBands, lowBands}} {
		for b := range part.bands {
			sum := float32(0)
			for _, p := range out {
				sum += p[part.from+b]
			}
			for _, p := range out {
				p[part.to+b] = sum / float32(len(out))
			}
		}
	}
	return out
}

// A looker takes the spectra of one onset.
type looker struct {
	long, short, low       *spectrum.Analyser
	longFB, shortFB, lowFB *spectrum.Bank
}

func newLooker() looker {
	return looker{spectrum.New(longSize), spectrum.New(shortSize), spectrum.New(lowSize), spectrum.NewBank(patchBands, longSize, longHz[0], longHz[1]),
		spectrum.NewBank(shortBands, shortSize, shortHz[0], shortHz[1]), spectrum.NewBank(lowBands, lowSize, bassHz[0], bassHz[1])}
}

// look is a patch of which only the onset's own spectra are there, as powers.
func (l looker) look(x []float32, timeS float64) []float32 {
	p := make([]float32, PatchSize)
	at, k := frameOf(timeS), 0
	for _, start := range longStarts {
		l.longFB.Apply(l.long.At(x, at+start), p[k:k+patchBands])
		k += patchBands
	}
	for _, start := range [2]int{-10, 256} {
		l.shortFB.Apply(l.short.At(x, at+start), p[k:k+shortBands])
		k += shortBands
	}
	l.lowFB.Apply(l.low.At(x, at-20), p[k:k+lowBands])
	return p
}

// laterFrames is when a stroke has begun to die away: 30 ms after its attack.
const laterFrames = AnalysisRate * 30 / 1000

// A riser measures by how much a sound rises, dB: from the 12 ms before a moment to the 12 ms after, in the three neighbouring bands where it rises
// most, less what noise would rise by chance (the fewer bins a band has, the more). What lies under floor (55 dB below the recording's loudest
// stroke) counts as silence. Before a recording's first frame there is no silence but what usually lies between its strokes: hiss that begins is no
// stroke.
type riser struct {
	x                    []float32
	sp                   *spectrum.Analyser
	bank                 *spectrum.Bank
	floor                float64
	usual                [shortBands]float32 // between strokes
	before, after, later [shortBands]float32
}

func newRiser(x []float32, onsets []onset, floor float64) *riser {
	r := &riser{x: x, sp: spectrum.New(shortSize), bank: spectrum.NewBank(shortBands, shortSize, shortHz[0], shortHz[1]), floor: floor}
	var between [shortBands][]float64
	for _, o := range onsets {
		if at := frameOf(o.timeS); at > shortSize {
			r.bank.Apply(r.sp.At(x, at-shortSize-10), r.before[:])
			for b, v := range r.before {
				between[b] = append(between[b], float64(v))
			}
		}
	}
	for b := range between {
		r.usual[b] = float32(quantile(between[b], 0.25))
	}
	return r
}

func frameOf(timeS float64) int { return int(math.Round(timeS * AnalysisRate)) }

// rise is by how much the sound rises at a frame, and how much it grows from there on for 30 ms, in the same bands, from band on.
func (r *riser) rise(at int) (riseDB, growsDB float64, band int) {
	r.bank.Apply(r.sp.At(r.x, at-shortSize-10), r.before[:])
	r.bank.Apply(r.sp.At(r.x, at-10), r.after[:])
	r.bank.Apply(r.sp.At(r.x, at+laterFrames), r.later[:])
	if at <= shortSize {
		for b := range r.before {
			r.before[b] = max(r.before[b], r.usual[b])
		}
	}
	for b := 0; b+3 <= shortBands; b++ {
		var was, is, then float64
		bins := 0
		for k := b; k < b+3; k++ {
			was += float64(r.before[k])
			is += float64(r.after[k])
			then += float64(r.later[k])
			bins += r.bank.Bins(k)
		}
		if rise := 10*math.Log10((is+r.floor)/(was+r.floor)) - 10/math.Sqrt(float64(bins)/3); rise > riseDB {
			riseDB, growsDB, band = rise, 10*math.Log10((then+r.floor)/(is+r.floor)), b
		}
	}
	return riseDB, growsDB, band
}

// rises finds by how much the sound rises at each attack. Where it hardly does, the attack was sought in the wrong place (under a bass or a
// voice another range rises more): it is moved to where the sound rises most near it, if that is clear. It says which were moved.
func (r *riser) rises(onsets []onset) (moved []int) {
	const reach, step, clearDB = AnalysisRate * 16 / 1000, AnalysisRate * 2 / 1000, fullRiseDB
	for i := range onsets {
		o := &onsets[i]
		var band int
		o.riseDB, o.growsDB, band = r.rise(frameOf(o.timeS))
		if o.riseDB < leastRiseDB {
			from, to := 0, len(r.x)-shortSize // a stroke that is cut off at once is none
			if i > 0 {
				from = frameOf(onsets[i-1].timeS + minGapS)
			}
			if i+1 < len(onsets) {
				to = frameOf(onsets[i+1].timeS - minGapS)
			}
			at, best := frameOf(o.timeS), float64(clearDB)
			for off := -reach; off <= reach; off += step {
				near := frameOf(o.timeS) + off
				if near < from || near > to {
					continue
				}
				if rise, _, _ := r.rise(near); rise > best {
					at, best = near, rise
				}
			}
			if at != frameOf(o.timeS) {
				o.timeS = float64(at) / AnalysisRate
				o.riseDB, o.growsDB, band = r.rise(at)
				o.moved, moved = true, append(moved, i)
			}
		}
		at := frameOf(o.timeS)
		if o.growsDB > swellDB && r.jumps(at, band) || i+1 < len(onsets) && frameOf(onsets[i+1].timeS)-at < laterFrames+shortSize {
			o.growsDB = 0 // another stroke makes it grow
		}
	}
	return moved
}

// jumps says whether the three bands from band on jump on their way from an attack to laterFrames after it, as another
// drum makes them when it is struck a little later than the first; what swells grows steadily.
func (r *riser) jumps(at, band int) bool {
	const step, jumpDB = AnalysisRate * 6 / 1000, 5
	var now [shortBands]float32
	last := 0.0
	for start := at - 10; start <= at+laterFrames; start += step {
		r.bank.Apply(r.sp.At(r.x, start), now[:])
		is := r.floor + float64(now[band]+now[band+1]+now[band+2])
		if last > 0 && 10*math.Log10(is/last) > jumpDB {
			return true
		}
		last = is
	}
	return false
}

// referencePower is the 90th percentile of the patches' power at the attack.
func referencePower(raw [][]float32) float64 {
	totals := make([]float64, len(raw))
	for i, p := range raw {
		for _, v := range p[patchBands : 2*patchBands] {
			totals[i] += float64(v)
		}
	}
	return max(1e-12, quantile(totals, 0.9))
}
