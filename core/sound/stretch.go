package sound

import "math"

// Stretch makes the sound last times as long at the same pitch (Verhelst and Roelands 1993, WSOLA: overlapping pieces
// are laid down at another pace, each taken from where it best continues the one before). times lies in 0.25..4.
func (b Buffer) Stretch(times float64) Buffer {
	times = max(0.25, min(4, times))
	n := b.Frames()
	hop := b.Rate / 100 // 10 ms; pieces of 20 ms keep a drum's attack together
	size, seek := 2*hop, b.Rate/125
	outFrames := int(math.Round(float64(n) * times))
	out := New(b.Rate, len(b.Channels), outFrames)
	if n < 2*size {
		return b.Resample(b.Rate, 1/times)
	}
	window := make([]float32, size)
	for i := range window {
		window[i] = float32(0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/float64(size)))
	}
	mono := b.Mono()
	at := func(i int) float32 {
		if i < 0 || i >= n {
			return 0
		}
		return mono[i]
	}
	from := 0
	for to := 0; to < outFrames; to += hop {
		if to > 0 {
			want := int(float64(to) / times)
			best, bestFit := want, math.Inf(-1)
			for s := want - seek; s <= want+seek; s++ {
				fit, energy := 0.0, 1e-9
				for i := 0; i < hop; i += 4 { // its first half falls on the second half of the piece before
					v := float64(at(s - hop + i))
					fit += v * float64(at(from+i))
					energy += v * v
				}
				if fit /= math.Sqrt(energy); fit > bestFit {
					best, bestFit = s, fit
				}
			}
			from = best
		}
		for c, src := range b.Channels {
			dst := out.Channels[c]
			for i, w := range window {
				s, d := from+i-hop, to+i-hop
				if s >= 0 && s < n && d >= 0 && d < outFrames {
					dst[d] += src[s] * w
				}
			}
		}
	}
	return out
}
