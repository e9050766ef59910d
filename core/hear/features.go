package hear

import (
	"math"

	"hexachord/core/spectrum"
)

// A patch describes what happens around one onset: band spectra of pieces that begin at the attack
// itself, one before it, several after, each longer than the last, and what else is near.
const (
	patchBands = 40
	shortBands = 20
	shortSize  = 512
	longSize   = 2048
)

// longStarts are where the long pieces begin, in frames after the attack.
var longStarts = [...]int{-longSize - 88, -20, 1024, 2048, 4096, 8192}

// ownSize is the length of what describes the onset alone; contextSize that of what describes the recording.
const (
	ownSize     = len(longStarts)*patchBands + 2*shortBands + 3
	contextSize = 2 * patchBands
	// PatchSize is the number of values a patch has.
	PatchSize = ownSize + contextSize
)

// patches describes every onset, relative to the recording's own level.
func patches(x []float32, onsets []onset) [][]float32 {
	long, short := spectrum.New(longSize), spectrum.New(shortSize)
	longFB, shortFB := spectrum.NewBank(patchBands, longSize, 25, 16000), spectrum.NewBank(shortBands, shortSize, 60, 16000)
	out := make([][]float32, len(onsets))
	for i, o := range onsets {
		p := make([]float32, PatchSize)
		at := int(math.Round(o.timeS * AnalysisRate))
		k := 0
		for _, start := range longStarts {
			longFB.Apply(long.At(x, at+start), p[k:k+patchBands])
			k += patchBands
		}
		for _, start := range [2]int{-10, 256} {
			shortFB.Apply(short.At(x, at+start), p[k:k+shortBands])
			k += shortBands
		}
		out[i] = p
	}
	ref := referencePower(out)
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
	for _, part := range [2]struct{ from, to int }{{patchBands, ownSize}, {4 * patchBands, ownSize + patchBands}} {
		for b := range patchBands {
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
