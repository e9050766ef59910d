package kind

import (
	"math"
	"slices"

	"hexachord/core/sound"
	"hexachord/core/spectrum"
)

// Facts are what is measured of a sample.
type Facts struct {
	Seconds      float64   `json:"seconds"`
	PeakDB       float64   `json:"peakDB"`       // dBFS
	Loudness     float64   `json:"loudness"`     // LUFS, of the loudest 400 ms
	BrightnessHz float64   `json:"brightnessHz"` // spectral centroid
	AttackMS     float64   `json:"attackMS"`     // from a tenth of the peak to the peak
	PitchHz      float64   `json:"pitchHz"`      // of the strongest partial under 1 kHz while it rings
	DeadMS       float64   `json:"deadMS"`       // before anything sounds
	Attacks      int       `json:"attacks"`      // how many strokes it has, roughly
	soundsS      float64   // from the first to the last moment within 40 dB of the loudest
	Likeness     []float32 `json:"-"` // what two samples are compared by; see Alike
	// Peaks draw the sample small: its highest level in each of PeakColumns equal parts, 0..255.
	Peaks []int `json:"peaks"`
}

// PeakColumns is how many parts Facts.Peaks has.
const PeakColumns = 64

// Loud is the level, against the peak, from which a sample sounds: −40 dB.
const loudShare = 0.01

const (
	envHop    = spectrum.Rate / 500 // 2 ms
	bands     = 32
	shortBand = 20
	lowBands  = 16
	envPoints = 20
	// Inputs is the number of values a net is given for a sound.
	Inputs = len2*bands + shortBand + lowBands + envPoints + 14
	len2   = 6
)

// starts are where the long pieces begin, in frames after the attack.
var starts = [len2]int{-20, 1024, 3072, 7168, 15360, 31744}

// Look measures a sample and describes it for the net.
func Look(b sound.Buffer) (Facts, []float32) {
	f := Facts{Seconds: b.Seconds(), PeakDB: math.Max(-120, sound.DB(b.Peak())), Peaks: peaks(b)}
	mono := sound.Buffer{Rate: b.Rate, Channels: [][]float32{b.Mono()}}
	const longest = 6 * spectrum.Rate // what a drum is shows early
	if mono.Frames() > 6*b.Rate {
		mono = mono.Region(0, 6*b.Rate)
	}
	f.Loudness = Loudness(b)
	if b.Rate != spectrum.Rate {
		mono = mono.Resample(spectrum.Rate, 1)
	}
	x := mono.Channels[0]
	x = x[:min(len(x), longest)]
	env := envelope(x)
	peakAt, peak := 0, 0.0
	for i, v := range env {
		if v > peak {
			peakAt, peak = i, v
		}
	}
	if peak == 0 {
		f.Likeness = make([]float32, bands+envPoints)
		return f, make([]float32, Inputs)
	}
	onset := 0
	for onset < peakAt && env[onset] < peak*loudShare*3 {
		onset++
	}
	f.DeadMS = float64(onset*envHop) / spectrum.Rate * 1000
	tenth := onset
	for tenth < peakAt && env[tenth] < peak/10 {
		tenth++
	}
	f.AttackMS = float64((peakAt-tenth)*envHop) / spectrum.Rate * 1000
	f.Attacks = countAttacks(env)
	last := len(env) - 1
	for last > onset && env[last] < peak*loudShare {
		last--
	}
	f.soundsS = float64((last-onset)*envHop) / spectrum.Rate
	in := describe(x, env, onset*envHop, peakAt, peak, &f)
	return f, in
}

// envelope is the RMS level of each 2 ms.
func envelope(x []float32) []float64 {
	out := make([]float64, len(x)/envHop+1)
	for i := range out {
		sum := 0.0
		part := x[i*envHop : min(len(x), (i+1)*envHop)]
		for _, v := range part {
			sum += float64(v) * float64(v)
		}
		out[i] = math.Sqrt(sum / envHop)
	}
	return out
}

// countAttacks counts strokes: rises of 8 dB within 100 ms, to a level within 20 dB of the loudest. Levels are of
// 24 ms, so that the waves of a low drum are not taken for strokes.
func countAttacks(env []float64) int {
	const width, back, hold = 12, 50, 50
	smooth := make([]float64, len(env))
	top, sum := 0.0, 0.0
	for i, v := range env {
		sum += v * v
		if i >= width {
			sum -= env[i-width] * env[i-width]
		}
		smooth[i] = math.Sqrt(math.Max(0, sum) / width)
		top = math.Max(top, smooth[i])
	}
	n, next := 0, 0
	for i, v := range smooth {
		if i < next || v < top/10 {
			continue
		}
		if n == 0 || v > 2.5*slices.Min(smooth[max(0, i-back):i]) {
			n++
			next = i + hold
		}
	}
	return n
}

func describe(x []float32, env []float64, at, peakAt int, peak float64, f *Facts) []float32 {
	const long, short, low = 2048, 512, 8192
	sp, fb := spectrum.New(long), spectrum.NewBank(bands, long, 30, 18000)
	in := make([]float32, Inputs)
	k := 0
	ref := 0.0
	var weighted, total float64
	for p, start := range starts {
		power := sp.At(x, at+start)
		fb.Apply(power, in[k:k+bands])
		if p < 2 {
			for _, v := range in[k : k+bands] {
				ref = math.Max(ref, float64(v))
			}
		}
		for bin, v := range power {
			hz := float64(bin) * spectrum.Rate / long
			weighted += hz * v
			total += v
		}
		k += bands
	}
	sps, fbs := spectrum.New(short), spectrum.NewBank(shortBand, short, 60, 18000)
	fbs.Apply(sps.At(x, at-10), in[k:k+shortBand])
	k += shortBand
	spl, fbl := spectrum.New(low), spectrum.NewBank(lowBands, low, 25, 500)
	power := spl.At(x, at+256)
	fbl.Apply(power, in[k:k+lowBands])
	k += lowBands
	ref = math.Max(ref, 1e-12)
	for i := range in[:k] {
		in[i] = float32(math.Log10(float64(in[i])/ref+1e-5)/2 + 1)
	}
	f.Likeness = likeness(in, env, at/envHop, peak)
	f.BrightnessHz = weighted / math.Max(total, 1e-20)
	f.PitchHz = pitch(power, low)

	// the envelope at moments that lie closer together near the attack
	for i := range envPoints {
		t := int(math.Round(math.Pow(float64(i)/(envPoints-1), 2.2) * 700)) // to 1.4 s
		in[k+i] = float32(levelAt(env, at/envHop+t, peak))
	}
	k += envPoints
	for i, share := range []float64{0.316, 0.1, 0.0316, 0.01} { // how long it stays over −10, −20, −30, −40 dB
		last := peakAt
		for j := peakAt; j < len(env); j++ {
			if env[j] > peak*share {
				last = j
			}
		}
		in[k+i] = float32(math.Log10(1+float64(last-peakAt)*2) / 3)
	}
	k += 4
	in[k] = float32(math.Log10(1+f.AttackMS) / 2)
	in[k+1] = float32(math.Min(8, float64(bursts(env, at/envHop))) / 4)
	in[k+2] = float32(math.Log10(f.BrightnessHz+20)/2 - 1)
	in[k+3] = float32(math.Log10(f.PitchHz+20)/2 - 0.5)
	k += 4
	// how much single partials stand out of their surroundings, low, middle and high, early and late
	for _, start := range [2]int{600, 5000} {
		for j, r := range [3][2]float64{{60, 500}, {500, 3000}, {3000, 14000}} {
			in[k+j] = float32(crest(spl.At(x, at+start), low, r[0], r[1]))
		}
		k += 3
	}
	return in
}

// levelAt is the envelope against its peak: 0 dB is 1, −60 dB and less 0.
func levelAt(env []float64, i int, peak float64) float64 {
	if i >= len(env) {
		return 0
	}
	return math.Max(0, 1+math.Log10(env[i]/peak+1e-9)/3)
}

// bursts counts separate rises in the first 60 ms, as hands that do not meet at once make.
func bursts(env []float64, from int) int {
	n := 0
	for i := from + 1; i+1 < len(env) && i < from+30; i++ {
		if env[i] > env[i+1] && env[i] > 1.5*min(env[max(from, i-2)], env[min(len(env)-1, i+2)]) {
			n++
		}
	}
	return n
}

// pitch is the frequency of the strongest peak between 35 Hz and 1 kHz.
func pitch(power []float64, size int) float64 {
	best, at := 0.0, 0
	for k := 35 * size / spectrum.Rate; k < 1000*size/spectrum.Rate; k++ {
		if power[k] > best {
			best, at = power[k], k
		}
	}
	return float64(at) * spectrum.Rate / float64(size)
}

// crest is the logarithm of the highest bin over the mean of a range.
func crest(power []float64, size int, loHz, hiHz float64) float64 {
	top, sum, n := 0.0, 0.0, 0
	for k := int(loHz * float64(size) / spectrum.Rate); k < int(hiHz*float64(size)/spectrum.Rate); k++ {
		top = math.Max(top, power[k])
		sum += power[k]
		n++
	}
	if sum <= 1e-18 {
		return 0
	}
	return math.Log10(top*float64(n)/sum) / 2
}

// likeness is what two samples are compared by: the spectrum of the attack and the ring, and the envelope.
func likeness(in []float32, env []float64, from int, peak float64) []float32 {
	out := make([]float32, 0, bands+envPoints)
	for b := range bands {
		out = append(out, (in[b]+in[bands+b]+in[2*bands+b])/3)
	}
	for i := range envPoints {
		t := int(math.Round(math.Pow(float64(i)/(envPoints-1), 2.2) * 700))
		out = append(out, float32(levelAt(env, from+t, peak)))
	}
	return out
}

// Alike is how alike two samples sound by their Likeness, 0..1: 1 for the same, ½ for what differs as two strokes of
// different drums typically do.
func Alike(a, b []float32) float64 {
	if len(a) != len(b) || len(a) == 0 {
		return 0
	}
	sum := 0.0
	for i := range a {
		d := float64(a[i] - b[i])
		sum += d * d
	}
	const usual = 0.25
	return math.Exp2(-math.Sqrt(sum/float64(len(a))) / usual)
}

func peaks(b sound.Buffer) []int {
	out := make([]int, PeakColumns)
	top := b.Peak()
	if top == 0 {
		return out
	}
	n := b.Frames()
	for c := range out {
		from, to := c*n/PeakColumns, (c+1)*n/PeakColumns
		p := b.Region(from, max(from+1, to)).Peak()
		out[c] = int(math.Round(255 * p / top))
	}
	return out
}
