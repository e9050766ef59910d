package sound

import (
	"math"

	"hexachord/core/parts"
)

// The resampler is a Kaiser-windowed sinc, read from a table of phases with linear interpolation
// between them (Smith, "Digital Audio Resampling", after Smith and Gossett 1984).
const (
	sincZeros  = 32  // zero crossings each side
	sincPhases = 512 // table steps a zero crossing
	kaiserBeta = 10  // about −100 dB stop band
	// cutoffShare is where the filter's middle lies, as a share of the lower Nyquist frequency, so
	// that its stop band begins at that frequency.
	cutoffShare = 0.9
)

var sincTable = func() []float64 {
	n := sincZeros * sincPhases
	t := make([]float64, n+2)
	for i := 0; i <= n; i++ {
		x := float64(i) / sincPhases
		w := bessel0(kaiserBeta*math.Sqrt(1-math.Pow(x/sincZeros, 2))) / bessel0(kaiserBeta)
		s := 1.0
		if i > 0 {
			s = math.Sin(math.Pi*x) / (math.Pi * x)
		}
		t[i] = s * w
	}
	return t
}()

// bessel0 is the modified Bessel function of the first kind, order 0, by its power series.
func bessel0(x float64) float64 {
	sum, term := 1.0, 1.0
	for k := 1; k < 60; k++ {
		term *= x / (2 * float64(k)) * x / (2 * float64(k))
		sum += term
		if term < sum*1e-17 {
			break
		}
	}
	return sum
}

// Resample converts the buffer to rate, playing it speed times as fast (1 keeps the pitch), band-
// limited so that what folds back stays under −90 dB. Frame 0 stays frame 0.
func (b Buffer) Resample(rate int, speed float64) Buffer {
	step := float64(b.Rate) / float64(rate) * speed // source frames an output frame
	if step == 1 {
		return b.Clone()
	}
	n := int(math.Ceil(float64(b.Frames()) / step))
	out := New(rate, len(b.Channels), n)
	cut := math.Min(1, 1/step) * cutoffShare
	half := sincZeros / cut
	num, den := ratio(b.Rate, rate, speed)
	var bank *phaseBank
	if den > 0 && den <= 2048 {
		bank = newPhaseBank(num, den, cut, half)
	}
	part := func(from, to int) {
		taps := make([]float64, 2*int(half)+4)
		for i := from; i < to; i++ {
			var first int
			var weights []float64
			if bank != nil {
				whole := i / den * num
				rest := i % den * num
				first = whole + rest/den + bank.first
				weights = bank.weights[rest%den]
			} else {
				pos := float64(i) * step
				first = int(math.Ceil(pos - half))
				last := int(math.Floor(pos + half))
				weights = taps[:last-first+1]
				for k := range weights {
					weights[k] = sincAt(math.Abs(pos-float64(first+k))*cut) * cut
				}
			}
			for c, src := range b.Channels {
				if lo, hi := max(0, -first), min(len(weights), len(src)-first); lo < hi {
					out.Channels[c][i] = dot(weights[lo:hi], src[first+lo:first+hi])
				}
			}
		}
	}
	parts.Do(n, rate, part)
	return out
}

// ResampleAlong converts the buffer to rate while its speed changes: speed tells how fast it plays at a source frame (1 keeps the
// pitch). from gives, for each output frame, the source frame it was read at.
func (b Buffer) ResampleAlong(rate int, speed func(frame float64) float64) (out Buffer, from []float64) {
	ratio := float64(b.Rate) / float64(rate)
	const slowest, fastest = 1.0 / 64, 64
	for pos := 0.0; pos < float64(b.Frames()); {
		from = append(from, pos)
		pos += ratio * math.Min(fastest, math.Max(slowest, speed(pos)))
	}
	out = New(rate, len(b.Channels), len(from))
	parts.Do(len(from), rate, func(lo, hi int) {
		var taps []float64
		for i := lo; i < hi; i++ {
			pos := from[i]
			step := ratio * math.Min(fastest, math.Max(slowest, speed(pos)))
			cut := math.Min(1, 1/step) * cutoffShare
			half := sincZeros / cut
			first, last := int(math.Ceil(pos-half)), int(math.Floor(pos+half))
			if n := last - first + 1; n > cap(taps) {
				taps = make([]float64, n)
			}
			weights := taps[:last-first+1]
			for k := range weights {
				weights[k] = sincAt(math.Abs(pos-float64(first+k))*cut) * cut
			}
			for c, src := range b.Channels {
				if from, to := max(0, -first), min(len(weights), len(src)-first); from < to {
					out.Channels[c][i] = dot(weights[from:to], src[first+from:first+to])
				}
			}
		}
	})
	return out, from
}

// dot is the sum of products; four sums at a time keep the processor busy.
func dot(w []float64, x []float32) float32 {
	x = x[:len(w)]
	var s0, s1, s2, s3 float64
	k := 0
	for ; k+4 <= len(w); k += 4 {
		s0 += w[k] * float64(x[k])
		s1 += w[k+1] * float64(x[k+1])
		s2 += w[k+2] * float64(x[k+2])
		s3 += w[k+3] * float64(x[k+3])
	}
	for ; k < len(w); k++ {
		s0 += w[k] * float64(x[k])
	}
	return float32(s0 + s1 + s2 + s3)
}

func sincAt(x float64) float64 {
	f := x * sincPhases
	i := int(f)
	if i >= sincZeros*sincPhases {
		return 0
	}
	return sincTable[i] + (sincTable[i+1]-sincTable[i])*(f-float64(i))
}

// phaseBank holds the filter's weights for every phase of a rational ratio num/den.
type phaseBank struct {
	first   int
	weights [][]float64
}

func newPhaseBank(num, den int, cut, half float64) *phaseBank {
	h := int(math.Ceil(half))
	pb := &phaseBank{first: -h, weights: make([][]float64, den)}
	for r := range den {
		frac := float64(r) / float64(den)
		w := make([]float64, 2*h+2)
		for k := range w {
			w[k] = sincAt(math.Abs(frac-float64(k-h))*cut) * cut
		}
		pb.weights[r] = w
	}
	return pb
}

// ratio is from/to in lowest terms when speed is 1; den is 0 for a ratio that is not rational.
func ratio(from, to int, speed float64) (num, den int) {
	if speed != 1 {
		return 0, 0
	}
	a, b := from, to
	for b != 0 {
		a, b = b, a%b
	}
	return from / a, to / a
}
