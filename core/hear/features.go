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
		long, short, low := spectrum.New(longSize), spectrum.New(shortSize), spectrum.New(lowSize)
		longFB, shortFB := spectrum.NewBank(patchBands, longSize, longHz[0], longHz[1]), spectrum.NewBank(shortBands, shortSize, shortHz[0], shortHz[1])
		lowFB := spectrum.NewBank(lowBands, lowSize, bassHz[0], bassHz[1])
		for i := from; i < to; i++ {
			if from == 0 && i%16 == 0 { // the others are as far
				progress(float64(i) / float64(to))
			}
			p := make([]float32, PatchSize)
			at := int(math.Round(onsets[i].timeS * AnalysisRate))
			k := 0
			for _, start := range longStarts {
				longFB.Apply(long.At(x, at+start), p[k:k+patchBands])
				k += patchBands
			}
			for _, start := range [2]int{-10, 256} {
				shortFB.Apply(short.At(x, at+start), p[k:k+shortBands])
				k += shortBands
			}
			lowFB.Apply(low.At(x, at-20), p[k:k+lowBands])
			out[i] = p
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
	rises(x, onsets, spectrum.New(shortSize), spectrum.NewBank(shortBands, shortSize, shortHz[0], shortHz[1]), loudest*3e-6)
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

// laterFrames is when a stroke has begun to die away: 30 ms after its attack.
const laterFrames = AnalysisRate * 30 / 1000

// rises finds by how much the sound rises at each attack, dB: from the 12 ms before to the 12 ms after, in the three
// neighbouring bands where it rises most, less what noise would rise by chance (the fewer bins a band has, the more).
// What lies under floor (55 dB below the recording's loudest stroke) counts as silence. Before a recording's first frame
// there is no silence but what usually lies between its strokes: hiss that begins is no stroke.
func rises(x []float32, onsets []onset, sp *spectrum.Analyser, bank *spectrum.Bank, floor float64) {
	before, after := make([][shortBands]float32, len(onsets)), make([][shortBands]float32, len(onsets))
	risen := make([]int, len(onsets)) // the first of the three bands in which each rises most
	var later [shortBands]float32
	var between [shortBands][]float64
	at := func(i int) int { return int(math.Round(onsets[i].timeS * AnalysisRate)) }
	for i := range onsets {
		bank.Apply(sp.At(x, at(i)-shortSize-10), before[i][:])
		bank.Apply(sp.At(x, at(i)-10), after[i][:])
		for b := 0; b < shortBands && at(i) > shortSize; b++ {
			between[b] = append(between[b], float64(before[i][b]))
		}
	}
	for i := range onsets {
		bank.Apply(sp.At(x, at(i)+laterFrames), later[:])
		if at(i) <= shortSize && len(between[0]) > 0 {
			for b := range before[i] {
				before[i][b] = max(before[i][b], float32(quantile(between[b], 0.25)))
			}
		}
		for b := 0; b+3 <= shortBands; b++ {
			var was, is, then float64
			bins := 0
			for k := b; k < b+3; k++ {
				was += float64(before[i][k])
				is += float64(after[i][k])
				then += float64(later[k])
				bins += bank.Bins(k)
			}
			if rise := 10*math.Log10((is+floor)/(was+floor)) - 10/math.Sqrt(float64(bins)/3); rise > onsets[i].riseDB {
				risen[i] = b
				onsets[i].riseDB = rise
				onsets[i].growsDB = 10 * math.Log10((then+floor)/(is+floor))
			}
		}
		if onsets[i].growsDB > swellDB && jumps(x, at(i), risen[i], sp, bank, floor) || i+1 < len(onsets) && at(i+1)-at(i) < laterFrames+shortSize {
			onsets[i].growsDB = 0 // another stroke makes it grow
		}
	}
}

// jumps says whether the three bands from band on jump on their way from an attack to laterFrames after it, as another
// drum makes them when it is struck a little later than the first; what swells grows steadily.
func jumps(x []float32, at, band int, sp *spectrum.Analyser, bank *spectrum.Bank, floor float64) bool {
	const step, jumpDB = AnalysisRate * 6 / 1000, 5
	var now [shortBands]float32
	last := 0.0
	for start := at - 10; start <= at+laterFrames; start += step {
		bank.Apply(sp.At(x, start), now[:])
		is := floor + float64(now[band]+now[band+1]+now[band+2])
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
