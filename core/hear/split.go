package hear

import (
	"math"
	"slices"

	"hexachord/core/fourier"
	"hexachord/core/parts"
	"hexachord/core/sound"
)

// A recording with other music in it is parted into what is struck and what is held: in a spectrogram a stroke stands upright (all
// frequencies, one moment) and a held tone lies (one frequency, many moments), so that a median across frequencies keeps the one
// and a median across moments the other; each point goes to both in the ratio of their squares (FitzGerald, "Harmonic/Percussive
// Separation using Median Filtering", DAFx 2010, with its Wiener masks; its medians of 17 points).
const (
	splitSize   = 2048
	splitHop    = splitSize / 4
	splitMedian = 17 // points; 0.2 s across moments, 370 Hz across frequencies
)

// OnlyDrums is a recording's channels without what is held in them, and what was left out: together they are the recording.
func OnlyDrums(b sound.Buffer) (drums, left sound.Buffer) {
	drums, left = sound.Buffer{Rate: b.Rate}, sound.Buffer{Rate: b.Rate}
	for _, ch := range b.Channels {
		struck := onlyStruck(ch)
		held := make([]float32, len(ch))
		for i, v := range ch {
			held[i] = v - struck[i]
		}
		drums.Channels, left.Channels = append(drums.Channels, struck), append(left.Channels, held)
	}
	return drums, left
}

func onlyStruck(x []float32) []float32 {
	out := make([]float32, len(x))
	frames := (len(x)+splitSize)/splitHop + 1
	// each part works on frames of its own, with enough around them for the medians and the overlap
	const around = splitMedian/2 + splitSize/splitHop
	const atOnce = 512 // frames: 12 MB
	parts.Do((frames+atOnce-1)/atOnce, 1, func(fromPart, toPart int) {
		for p := fromPart; p < toPart; p++ {
			from, to := p*atOnce, min(frames, (p+1)*atOnce)
			struckPart(x, out, max(0, from-around), min(frames, to+around), (from-1)*splitHop, (to-1)*splitHop, from == 0, to == frames)
		}
	})
	return out
}

// struckPart parts the frames first..last and writes the samples fromX..toX that they make; at the recording's ends all there are.
func struckPart(x, out []float32, first, last, fromX, toX int, begins, ends bool) {
	const bins = splitSize/2 + 1
	if begins {
		fromX = 0
	}
	if ends {
		toX = len(x)
	}
	fromX, toX = max(0, fromX), min(len(x), toX)
	if fromX >= toX {
		return
	}
	n := last - first
	window := make([]float64, splitSize)
	for i := range window {
		window[i] = 0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/splitSize)
	}
	plan, back := fourier.NewReal(splitSize), fourier.NewPlan(splitSize)
	spectra, levels := make([]complex128, n*bins), make([]float32, n*bins)
	in := make([]float64, splitSize)
	startOf := func(k int) int { return (first+k)*splitHop - splitSize }
	for k := range n {
		for i := range in {
			in[i] = 0
			if at := startOf(k) + i; at >= 0 && at < len(x) {
				in[i] = float64(x[at]) * window[i]
			}
		}
		row := spectra[k*bins : (k+1)*bins]
		plan.Coefficients(row, in)
		for i, c := range row {
			levels[k*bins+i] = float32(math.Hypot(real(c), imag(c)))
		}
	}
	held := make([]float32, n*bins)
	line, smooth := make([]float32, n), make([]float32, n)
	for b := range bins {
		for k := range n {
			line[k] = levels[k*bins+b]
		}
		runningMedian(line, smooth)
		for k := range n {
			held[k*bins+b] = smooth[k]
		}
	}
	sum := make([]float64, toX-fromX)
	struck := make([]float32, bins)
	full, time := make([]complex128, splitSize), make([]complex128, splitSize)
	const overlap = 1.5 // of squared Hann windows a quarter apart
	for k := range n {
		runningMedian(levels[k*bins:(k+1)*bins], struck)
		for b, c := range spectra[k*bins : (k+1)*bins] {
			p, h := float64(struck[b]), float64(held[k*bins+b])
			mask := complex(p*p/(p*p+h*h+1e-20), 0)
			full[b] = complex(real(c), -imag(c)) * mask // conjugate, so that the transform goes back
			if b > 0 && b < bins-1 {
				full[splitSize-b] = complex(real(c), imag(c)) * mask
			}
		}
		back.Forward(time, full)
		for i, v := range time {
			if at := startOf(k) + i; at >= fromX && at < toX {
				sum[at-fromX] += real(v) / splitSize * window[i] / overlap
			}
		}
	}
	for i, v := range sum {
		out[fromX+i] = float32(v)
	}
}

// runningMedian writes the median of each splitMedian neighbours; beyond the ends there are none.
func runningMedian(x, out []float32) {
	const half = splitMedian / 2
	sorted := make([]float32, 0, splitMedian+1)
	put := func(v float32) {
		at, _ := slices.BinarySearch(sorted, v)
		sorted = slices.Insert(sorted, at, v)
	}
	take := func(v float32) {
		at, _ := slices.BinarySearch(sorted, v)
		sorted = slices.Delete(sorted, at, at+1)
	}
	for i := range min(half, len(x)) {
		put(x[i])
	}
	for i := range x {
		if i+half < len(x) {
			put(x[i+half])
		}
		if i-half-1 >= 0 {
			take(x[i-half-1])
		}
		out[i] = sorted[len(sorted)/2]
	}
}
