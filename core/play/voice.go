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
const shapeVersion = 1

// VoiceSpec is all that makes a voice: which region of which sample, how it is tuned, and the sample
// rate it is made for.
type VoiceSpec struct {
	Sample     string  `json:"sample"`
	StartFrame int     `json:"startFrame"`
	EndFrame   int     `json:"endFrame"`
	Semitones  float64 `json:"semitones"`
	Rate       int     `json:"rate"`
}

// ID names the voice by the hash of all that made it, so that it can be kept for ever under that name.
func (v VoiceSpec) ID() string {
	text, err := json.Marshal(struct {
		Version int
		VoiceSpec
	}{shapeVersion, v})
	if err != nil {
		panic(err) // numbers and a string always marshal, NaN is refused by kit.Check
	}
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:16])
}

// Shape makes the voice from its decoded sample: region, tune, sample rate, edge fades. The result
// has one or two channels; more are mixed to one.
func (v VoiceSpec) Shape(sample sound.Buffer) sound.Buffer {
	region := sample.Region(v.StartFrame, v.EndFrame)
	if len(region.Channels) > 2 {
		region = sound.Buffer{Rate: region.Rate, Channels: [][]float32{region.Mono()}}
	}
	out := region.Resample(v.Rate, music.TuneRate(v.Semitones))
	fade := int(math.Round(edgeFadeS * float64(v.Rate)))
	if !quietAt(out, 0) {
		out.FadeIn(fade)
	}
	if !quietAt(out, out.Frames()-1) {
		out.FadeOut(fade)
	}
	return out
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

// StrikeLayer is one layer of a pad, ready to sound.
type StrikeLayer struct {
	Lo    int       `json:"lo"`
	Hi    int       `json:"hi"`
	Spec  VoiceSpec `json:"-"`
	Voice string    `json:"voice"` // the voice's ID
	Left  float64   `json:"left"`  // gain at velocity 127
	Right float64   `json:"right"`
}

// StrikePad is what a strike on a note sounds.
type StrikePad struct {
	Note      int           `json:"note"`
	Layers    []StrikeLayer `json:"layers"`
	Gains     []float64     `json:"gains"` // amplitude by velocity, index 0..127; 0 is silent
	Choke     int           `json:"choke"`
	SelfChoke bool          `json:"selfChoke"`
	Held      bool          `json:"held"`
	ReleaseS  float64       `json:"releaseS"`
}

// Table is a kit compiled for a sample rate: note × velocity → voices. With it a player sounds a
// strike at once, without asking.
type Table struct {
	Rate int         `json:"rate"`
	Pads []StrikePad `json:"pads"`
}

// Compile makes the kit's table for a sample rate.
func Compile(k kit.Kit, rate int) Table {
	t := Table{Rate: rate, Pads: make([]StrikePad, 0, len(k.Pads))}
	for _, p := range k.Pads {
		sp := StrikePad{Note: p.Note, Layers: []StrikeLayer{}, Gains: make([]float64, 128), Choke: p.Choke,
			SelfChoke: p.SelfChoke, Held: p.Held, ReleaseS: math.Max(ChokeFadeS, p.ReleaseMS/1000)}
		for v := 1; v <= 127; v++ {
			sp.Gains[v] = kit.VelocityGain(v, p.VelTrack)
		}
		left, right := kit.PanGains(p.Pan)
		for _, l := range p.Layers {
			spec := VoiceSpec{l.Sample, l.StartFrame, l.EndFrame, p.Semitones + l.Semitones, rate}
			gain := kit.DBToGain(p.LevelDB + l.LevelDB)
			sp.Layers = append(sp.Layers, StrikeLayer{l.Lo, l.Hi, spec, spec.ID(), left * gain, right * gain})
		}
		t.Pads = append(t.Pads, sp)
	}
	return t
}

// Voices lists the distinct voices of the table.
func (t Table) Voices() []VoiceSpec {
	seen := map[string]bool{}
	var out []VoiceSpec
	for _, p := range t.Pads {
		for _, l := range p.Layers {
			if !seen[l.Voice] {
				seen[l.Voice] = true
				out = append(out, l.Spec)
			}
		}
	}
	return out
}
