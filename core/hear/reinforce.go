package hear

import (
	"math"

	"hexachord/core/sound"
)

// Reinforcement is what layering a kit's sound under a recorded drum does to its low end.
type Reinforcement struct {
	Strokes    int     `json:"strokes"`    // how many were compared
	BeforeDB   float64 `json:"beforeDB"`   // energy below 120 Hz of the recording's strokes, dB full scale
	AfterDB    float64 `json:"afterDB"`    // with the kit's sound as it is
	FlippedDB  float64 `json:"flippedDB"`  // with the kit's sound turned over
	Flip       bool    `json:"flip"`       // turning it over keeps the low end, leaving it thins it
	AttackMS   float64 `json:"attackMS"`   // how long after its first frame the kit's sound begins to sound; it is started that much earlier
	AlignedToS float64 `json:"alignedToS"` // where the first stroke's attack lies in the recording
}

// lowHz is below what the low end is measured.
const lowHz = 120

// Reinforce compares strokes of a recording with and without a kit's sound laid to their attacks. voice is the kit's
// sound at the recording's rate; gains are what it is played with at each time (seconds of the recording).
func Reinforce(recording, voice sound.Buffer, timesS, gains []float64) Reinforcement {
	rec, kit := lowOnly(recording.Mono(), recording.Rate), lowOnly(voice.Mono(), recording.Rate)
	lead := AttackFrame(voice)
	window := recording.Rate / 10
	r := Reinforcement{Strokes: len(timesS), AttackMS: 1000 * float64(lead) / float64(recording.Rate)}
	var before, after, flipped float64
	for n, t := range timesS {
		at := int(math.Round(t * float64(recording.Rate)))
		for i := range window {
			j, k := at+i, lead+i
			if j < 0 || j >= len(rec) {
				continue
			}
			x, y := float64(rec[j]), 0.0
			if k < len(kit) {
				y = float64(kit[k]) * gains[n]
			}
			before += x * x
			after += (x + y) * (x + y)
			flipped += (x - y) * (x - y)
		}
	}
	frames := float64(max(1, window*len(timesS)))
	db := func(e float64) float64 { return 10 * math.Log10(e/frames+1e-12) }
	r.BeforeDB, r.AfterDB, r.FlippedDB = db(before), db(after), db(flipped)
	r.Flip = r.AfterDB < r.BeforeDB-0.5 && r.FlippedDB > r.AfterDB+0.5
	if len(timesS) > 0 {
		r.AlignedToS = timesS[0]
	}
	return r
}

// AttackFrame is where a sound begins to be heard: a tenth of the peak of its first 50 ms that reach half its loudest.
func AttackFrame(b sound.Buffer) int {
	x := b.Mono()
	peak := float32(0)
	for _, v := range x {
		peak = max(peak, max(v, -v))
	}
	if peak == 0 {
		return 0
	}
	half := 0
	for i, v := range x {
		if max(v, -v) >= peak/2 {
			half = i
			break
		}
	}
	for i := max(0, half-b.Rate/20); i <= half; i++ {
		if v := x[i]; max(v, -v) >= peak/10 {
			return i
		}
	}
	return half
}

func lowOnly(x []float32, rate int) []float32 {
	f := [2]sound.Biquad{sound.LowPass(lowHz, float64(rate)), sound.LowPass(lowHz, float64(rate))}
	out := make([]float32, len(x))
	for i, v := range x {
		y := float64(v)
		for k := range f {
			y = f[k].Next(y)
		}
		out[i] = float32(y)
	}
	return out
}
