package mix

import (
	"math"
	"slices"
)

// Weighting are the two filters through which ITU-R BS.1770-4 (2015) hears: a high shelf for the head, and a high-pass. The standard states
// them at 48 kHz; at other rates they are the same analogue filters.
func Weighting(rate int) [2]Biquad {
	const (
		shelfHz, shelfQ, shelfDB = 1681.974450955533, 0.7071752369554196, 3.999843853973347
		passHz, passQ            = 38.13547087602444, 0.5003270373238773
	)
	k := math.Tan(math.Pi * shelfHz / float64(rate))
	vh := math.Pow(10, shelfDB/20)
	vb := math.Pow(vh, 0.4996667741545416)
	a0 := 1 + k/shelfQ + k*k
	shelf := Biquad{(vh + vb*k/shelfQ + k*k) / a0, 2 * (k*k - vh) / a0, (vh - vb*k/shelfQ + k*k) / a0, 2 * (k*k - 1) / a0, (1 - k/shelfQ + k*k) / a0}
	k = math.Tan(math.Pi * passHz / float64(rate))
	a0 = 1 + k/passQ + k*k
	return [2]Biquad{shelf, {1, -2, 1, 2 * (k*k - 1) / a0, (1 - k/passQ + k*k) / a0}}
}

// Meter measures how loud stereo sound is by ITU-R BS.1770-4, and its highest sample.
type Meter struct {
	rate    int
	filters [2]section
	hop     []float64 // mean squares of tenths of a second, both sides added
	sum     float64
	n       int
	peak    float64
	peakAt  int
	frames  int
	block   []float64
}

// NewMeter begins.
func NewMeter(rate int) *Meter {
	m := &Meter{rate: rate}
	for i, b := range Weighting(rate) {
		m.filters[i] = section{Biquad: b}
	}
	return m
}

// Write hears what follows; mono sound is given as both sides of a half, or as one side and silence, as it is played.
func (m *Meter) Write(x [2][]float64) {
	frames := len(x[0])
	energy := make([]float64, frames)
	for side := range x {
		m.block = append(m.block[:0], x[side]...)
		for i, v := range m.block {
			if a := math.Abs(v); a > m.peak {
				m.peak, m.peakAt = a, m.frames+i
			}
		}
		for i := range m.filters {
			m.filters[i].run(side, m.block)
		}
		for i, v := range m.block {
			energy[i] += v * v
		}
	}
	m.frames += frames
	tenth := m.rate / 10
	for _, e := range energy {
		m.sum += e
		if m.n++; m.n == tenth {
			m.hop = append(m.hop, m.sum/float64(tenth))
			m.sum, m.n = 0, 0
		}
	}
}

// Quietest is what silence is called, LUFS.
const Quietest = -120

func lufs(meanSquare float64) float64 {
	if meanSquare < 1e-12 {
		return Quietest
	}
	return -0.691 + 10*math.Log10(meanSquare)
}

// over is the loudness of each stretch of so many tenths of a second, beginning every tenth.
func (m *Meter) over(tenths int) []float64 {
	var out []float64
	for i := tenths; i <= len(m.hop); i++ {
		sum := 0.0
		for _, h := range m.hop[i-tenths : i] {
			sum += h
		}
		out = append(out, sum/float64(tenths))
	}
	return out
}

func loudest(squares []float64) float64 {
	if len(squares) == 0 {
		return Quietest
	}
	return lufs(slices.Max(squares))
}

// Loudness is what a meter has heard.
type Loudness struct {
	Integrated   float64 `json:"integrated"`   // LUFS, gated
	MaxMomentary float64 `json:"maxMomentary"` // of 400 ms
	MaxShort     float64 `json:"maxShort"`     // of 3 s
	PeakDB       float64 `json:"peak"`         // dBFS, of samples
	PeakFrame    int     `json:"peakFrame"`
}

// Loudness is how loud all of it was. What is shorter than a stretch is not counted by it.
func (m *Meter) Loudness() Loudness {
	l := Loudness{Integrated: Quietest, MaxMomentary: loudest(m.over(4)), MaxShort: loudest(m.over(30)), PeakDB: Quietest, PeakFrame: m.peakAt}
	if m.peak > 0 {
		l.PeakDB = 20 * math.Log10(m.peak)
	}
	mean := func(gate float64) float64 {
		sum, n := 0.0, 0
		for _, s := range m.over(4) {
			if lufs(s) > gate {
				sum += s
				n++
			}
		}
		if n == 0 {
			return Quietest
		}
		return lufs(sum / float64(n))
	}
	if absolute := mean(-70); absolute > Quietest {
		l.Integrated = mean(max(-70, absolute-10))
	}
	return l
}

// Between is the loudness of a stretch of what was heard, seconds, ungated, to a tenth of a second.
func (m *Meter) Between(fromS, toS float64) float64 {
	from, to := max(0, int(fromS*10+0.5)), min(len(m.hop), max(int(fromS*10+0.5)+1, int(toS*10+0.5)))
	if from >= to {
		return Quietest
	}
	sum := 0.0
	for _, h := range m.hop[from:to] {
		sum += h
	}
	return lufs(sum / float64(to-from))
}
