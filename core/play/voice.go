// Package play turns pattern, feel and kit into cues, and cues into PCM. The browser and the bounce
// play the same cues with the same voices.
package play

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"math"

	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/sound"
)

// ChokeFadeS is how long a choked sound takes to fade out: 5 ms.
const ChokeFadeS = 0.005

// edgeFadeS is the fade of a start or stop that is not at a zero crossing: 1 ms.
const edgeFadeS = 0.001

// shapeVersion enters every voice's name; raise it when Shape changes what it makes.
const shapeVersion = 2

// VoiceSpec is all that makes a voice: which sample, how it is shaped and tuned, and the sample rate it is made
// for. The shape's gain and release are applied by the player, so that voices can be shared.
type VoiceSpec struct {
	Sample    string    `json:"sample"`
	Form      kit.Shape `json:"form"`
	Semitones float64   `json:"semitones"`
	// Stretch lengthens the sound at the same pitch: 2 is twice as long; 0 or 1 leaves it.
	Stretch float64 `json:"stretch,omitempty"`
	Rate    int     `json:"rate"`
	// Band leaves only what lies between two frequencies, Hz; 0 and 0 leaves all. ClickHz makes a click of that pitch
	// instead of any sample.
	Band    [2]float64 `json:"band,omitzero"`
	ClickHz float64    `json:"clickHz,omitempty"`
	// Part leaves only what is struck in the sample, or only what is not.
	Part Part `json:"part,omitempty"`
}

// Part is a choice between what is struck in a recording and what is held, see hear.OnlyDrums.
type Part string

// The parts; "" is the whole.
const (
	DrumsPart Part = "drums"
	LeftPart  Part = "left"
)

// Voice is a sound ready to play. For as long as it is held it goes on from LoopEnd at LoopStart; 0 and 0 is no loop.
type Voice struct {
	sound.Buffer
	LoopStart, LoopEnd int // frames
}

// Click is a short tone that marks a beat.
func Click(hz float64, rate int) Voice {
	n := rate / 25
	b := sound.New(rate, 1, n)
	for i := range b.Channels[0] {
		t := float64(i) / float64(rate)
		b.Channels[0][i] = float32(math.Sin(2*math.Pi*hz*t) * math.Exp(-t*120) * math.Min(1, t*2000))
	}
	b.FadeOut(n/4, func(left float64) float64 { return left })
	return Voice{Buffer: b}
}

// ID names the voice by the hash of all that made it, so that it can be kept for ever under that name.
func (v VoiceSpec) ID() string {
	text, err := json.Marshal(struct {
		Version int
		VoiceSpec
	}{shapeVersion, v})
	if err != nil {
		panic(err) // numbers and strings always marshal, NaN is refused by kit.Check
	}
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:16])
}

// Shape makes the voice from its decoded sample: region, direction, loop, tune, sample rate, envelope, fades. The
// result has one or two channels; more are mixed to one. A region past the sample's end is cut to it.
func (v VoiceSpec) Shape(sample sound.Buffer) Voice {
	s := v.Form
	n := sample.Frames()
	end := s.EndFrame
	if end <= 0 || end > n {
		end = n
	}
	start := min(max(0, s.StartFrame), end)
	region := sample.Region(start, end)
	if start == end {
		region = sound.Buffer{Rate: sample.Rate, Channels: [][]float32{{}}}
	}
	if len(region.Channels) > 2 {
		region = sound.Buffer{Rate: region.Rate, Channels: [][]float32{region.Mono()}}
	}
	if s.Reverse {
		region = region.Reversed()
	}
	speed := music.TuneRate(v.Semitones)
	resample := func(b sound.Buffer) sound.Buffer { return drawn(b, s, v.Rate, v.Semitones) }
	perFrame := float64(v.Rate) / float64(region.Rate) / speed // output frames a source frame
	out := Voice{}
	switch loopLo, loopHi, ok := loopWithin(s, start, end); ok {
	case true:
		// the envelope must have come to rest before what repeats begins
		still := (s.AttackMS + s.DecayMS) / 1000 * float64(v.Rate) / perFrame
		still = max(still, max(s.Level.EndMS(), s.Pan.EndMS(), s.Tune.EndMS())/1000*float64(region.Rate))
		lead := region.Region(0, loopHi)
		once := region.Region(loopLo, loopHi)
		repeats := 1 + max(0, int(math.Ceil((still-float64(loopLo))/float64(loopHi-loopLo))))
		from := loopHi + (repeats-1)*(loopHi-loopLo)
		whole := lead
		for range repeats + 1 { // one more, so that the resampler sees what follows
			whole = whole.Then(once)
		}
		out.Buffer = resample(whole)
		if len(s.Tune) > 0 { // what repeats has the curve's last pitch, and begins where its frames have come to
			at := music.TuneRate(v.Semitones + s.Tune[len(s.Tune)-1].Value)
			length := float64(loopHi-loopLo) * float64(v.Rate) / float64(region.Rate) / at
			out.LoopStart = placeOf(whole, s, v.Rate, v.Semitones, float64(from))
			out.LoopEnd = min(out.Frames(), out.LoopStart+int(math.Round(length)))
			out.Buffer = out.Buffer.Region(0, out.LoopEnd)
			break
		}
		out.LoopStart = int(math.Round(float64(from) * perFrame))
		out.LoopEnd = int(math.Round(float64(from+loopHi-loopLo) * perFrame))
		out.Buffer = out.Buffer.Region(0, out.LoopEnd)
	default:
		out.Buffer = resample(region)
		if v.Stretch > 0 && v.Stretch != 1 {
			out.Buffer = out.Buffer.Stretch(v.Stretch)
		}
	}
	envelope(out.Buffer, s)
	frames := func(ms float64) int { return int(math.Round(ms / 1000 * float64(v.Rate))) }
	edge := int(math.Round(edgeFadeS * float64(v.Rate)))
	switch {
	case s.FadeInMS > 0:
		out.FadeIn(frames(s.FadeInMS))
	case !quietAt(out.Buffer, 0):
		out.FadeIn(edge)
	}
	if out.LoopEnd > 0 {
		return out
	}
	switch {
	case s.FadeOutMS > 0:
		out.FadeOut(frames(s.FadeOutMS), curves[s.Curve])
	case !quietAt(out.Buffer, out.Frames()-1):
		out.FadeOut(edge, nil)
	}
	return out
}

// drawn resamples a region to a rate, tuned, with its drawn curves of tune, level and pan.
func drawn(b sound.Buffer, s kit.Shape, rate int, semitones float64) sound.Buffer {
	perMS := float64(b.Rate) / 1000
	var out sound.Buffer
	at := func(i int) float64 { return float64(i) * music.TuneRate(semitones) * 1000 / float64(rate) } // ms of the region
	if len(s.Tune) == 0 {
		out = b.Resample(rate, music.TuneRate(semitones))
	} else {
		var from []float64
		out, from = b.ResampleAlong(rate, tuneAlong(s, semitones, perMS))
		at = func(i int) float64 { return from[i] / perMS }
	}
	if len(s.Level) > 0 {
		for i := range out.Frames() {
			g := float32(s.Level.GainAt(at(i)))
			for _, ch := range out.Channels {
				ch[i] *= g
			}
		}
	}
	if len(s.Pan) > 0 {
		if len(out.Channels) == 1 {
			out.Channels = append(out.Channels, append([]float32(nil), out.Channels[0]...))
		}
		for i := range out.Frames() {
			left, right := kit.PanGains(s.Pan.At(at(i)))
			out.Channels[0][i] *= float32(left * math.Sqrt2) // as it is in the middle
			out.Channels[1][i] *= float32(right * math.Sqrt2)
		}
	}
	return out
}

// tuneAlong is how fast a region plays at one of its frames.
func tuneAlong(s kit.Shape, semitones, framesAMS float64) func(frame float64) float64 {
	return func(frame float64) float64 { return music.TuneRate(semitones + s.Tune.At(frame/framesAMS)) }
}

// placeOf is the output frame at which a frame of a region with a drawn tune is read.
func placeOf(b sound.Buffer, s kit.Shape, rate int, semitones, frame float64) int {
	speed := tuneAlong(s, semitones, float64(b.Rate)/1000)
	n := 0
	for pos := 0.0; pos < frame; n++ {
		pos += float64(b.Rate) / float64(rate) * speed(pos)
	}
	return n
}

// curves give a fade out's gain for what is left of it, 0..1.
var curves = map[kit.Curve]func(float64) float64{
	kit.Falling: func(x float64) float64 { return x * x },
	kit.Round:   func(x float64) float64 { return math.Sin(x * math.Pi / 2) },
}

// loopWithin finds the loop in frames of the region as it sounds.
func loopWithin(s kit.Shape, start, end int) (lo, hi int, ok bool) {
	if !s.Loop {
		return 0, 0, false
	}
	lo, hi = max(start, s.LoopStart), s.LoopEnd
	if hi <= 0 || hi > end {
		hi = end
	}
	lo, hi = lo-start, hi-start
	if s.Reverse {
		n := end - start
		lo, hi = n-hi, n-lo
	}
	return lo, hi, hi-lo > 1
}

// envelope scales the sound: from nothing to full in the attack, to the sustain level in the decay, all straight
// lines in amplitude.
func envelope(b sound.Buffer, s kit.Shape) {
	if s.AttackMS == 0 && (s.DecayMS == 0 && s.SustainPct == 100) {
		return
	}
	attack, decay := s.AttackMS/1000*float64(b.Rate), s.DecayMS/1000*float64(b.Rate)
	sustain := s.SustainPct / 100
	for _, ch := range b.Channels {
		for i := range ch {
			ch[i] *= float32(EnvelopeAt(float64(i), attack, decay, sustain))
		}
	}
}

// EnvelopeAt is the envelope's gain at a time, all in one unit; sustain 0..1.
func EnvelopeAt(t, attack, decay, sustain float64) float64 {
	switch {
	case t < attack:
		return t / attack
	case t < attack+decay:
		return 1 - (1-sustain)*(t-attack)/decay
	}
	return sustain
}

func quietAt(b sound.Buffer, frame int) bool {
	if frame < 0 || frame >= b.Frames() {
		return true
	}
	for _, ch := range b.Channels {
		if math.Abs(float64(ch[frame])) > 1e-4 {
			return false
		}
	}
	return true
}
