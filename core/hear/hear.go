// Package hear turns a recording of drums into hits: when, which drum, how hard and how surely. Methods
// can be exchanged and compared.
package hear

import (
	"context"
	"errors"
	"fmt"
	"math"
	"sort"

	"hexachord/core/music"
	"hexachord/core/sound"
)

// Hit is one heard stroke.
type Hit struct {
	TimeS      float64 `json:"time"`       // seconds from the recording's first frame
	Note       int     `json:"note"`       // General MIDI percussion note of the drum
	Velocity   int     `json:"velocity"`   // 1..127
	Confidence float64 `json:"confidence"` // 0..1
	// Or is the General MIDI note of the next likely drum, 0 when nothing else comes near, and
	// OrConfidence how likely that one is.
	Or           int     `json:"or,omitempty"`
	OrConfidence float64 `json:"orConfidence,omitempty"`
	// State is what the person said of it: nothing yet, kept, or out.
	State string `json:"state,omitempty" enum:"kept,out"`
	// Lane is the note of the lane the person moved it to; nil leaves it to its drum.
	Lane *int `json:"lane,omitempty"`
	// Set says that its velocity is the person's.
	Set bool `json:"set,omitempty"`
	// FromS is where it was before the person moved it, nil if nobody did.
	FromS *float64 `json:"from,omitempty"`
}

// Doubtful is the confidence under which a hit is shown as doubtful.
const Doubtful = 0.6

// Hearing is what was heard in a recording.
type Hearing struct {
	Hits    []Hit       `json:"hits"` // by time, then note
	BPM     float64     `json:"bpm"`
	Meter   music.Meter `json:"meter"`
	Bars    int         `json:"bars"`    // whole bars from bar 1 to the recording's end, at least 1
	BarOneS float64     `json:"barOneS"` // when bar 1 begins, seconds from the first frame
	// GridErrorMS is how far the hits stand off the sixteenths of the steady grid: median, ms.
	GridErrorMS float64 `json:"gridErrorMS"`
	// Moves says that the player moves so much that no steady grid holds his strokes: BPM is then the mean, and the grid is better
	// made to follow.
	Moves  bool   `json:"moves,omitempty"`
	Method string `json:"method"`
	// Pins make the grid follow the player; fewer than two leave it steady.
	Pins []Pin `json:"pins,omitempty"`
	// Listeners are the lanes (by note) that hear by themselves.
	Listeners map[int]Listener `json:"listeners,omitempty"`
	// First are the hits as they were first heard, kept once a lane hears by itself.
	First []Hit `json:"first,omitempty"`
	// Channel is what was listened to: "" both, left, right, mid or side.
	Channel Channel `json:"channel,omitempty" enum:"left,right,mid,side"`
	// Drums says that what is held was left out before, see OnlyDrums.
	Drums bool `json:"drums,omitempty"`
	// Ear is which networks heard it; 0 are those of before they were counted.
	Ear int `json:"ear,omitempty"`
	// Flipped are the lanes (notes) whose kit sounds are turned over when they reinforce the recording.
	Flipped []int `json:"flipped,omitempty"`
}

// Channel is a choice of source in a stereo recording.
type Channel string

// The channels: both mixed, each alone, or what both share and do not share.
const (
	Both  Channel = ""
	Left  Channel = "left"
	Right Channel = "right"
	Mid   Channel = "mid"
	Side  Channel = "side"
)

// ErrChannel is a channel that is not there.
var ErrChannel = errors.New("the channel to listen to is left, right, mid or side")

// Of is the channel of a recording, as one channel.
func (c Channel) Of(b sound.Buffer) (sound.Buffer, error) {
	one := func(x []float32) sound.Buffer { return sound.Buffer{Rate: b.Rate, Channels: [][]float32{x}} }
	if len(b.Channels) < 2 || c == Both || c == Mid {
		switch c {
		case Both, Left, Right, Mid, Side:
			return one(b.Mono()), nil
		}
		return b, fmt.Errorf("%w, not %q", ErrChannel, c)
	}
	switch c {
	case Left:
		return one(b.Channels[0]), nil
	case Right:
		return one(b.Channels[1]), nil
	case Side:
		out := make([]float32, b.Frames())
		for i := range out {
			out[i] = (b.Channels[0][i] - b.Channels[1][i]) / 2
		}
		return one(out), nil
	}
	return b, fmt.Errorf("%w, not %q", ErrChannel, c)
}

// Options guide the hearing; the zero value leaves everything to be found.
type Options struct {
	Method   string        // "" is the best one; see Methods
	BPM      float64       // 0 = find it
	Meter    music.Meter   // the zero value = find it
	Bars     int           // 0 = find them
	Channel  Channel       // what of a stereo recording is listened to
	Drums    bool          // hear through other music: what is held is left out first, see OnlyDrums
	InPlace  bool          // the recording itself may be moved to around zero, which spares a copy of it
	Progress func(float64) // told how far it has come, 0..1; may be nil
}

// A Method decides which drums were struck at each candidate onset.
type Method interface {
	// Strokes lists what is heard in e.
	Strokes(e Examined) []Stroke
}

// Stroke is a drum at a moment, before levels become velocities.
type Stroke struct {
	Onset        int // index into Examined.TimesS
	Note         int
	LevelDB      float64 // of that drum alone, relative to anything constant within the recording
	Confidence   float64
	Or           int
	OrConfidence float64
}

var methods = map[string]func() Method{
	"net":   func() Method { return netMethod{loadedNets()} },
	"bands": func() Method { return bandMethod{} },
}

// DefaultMethod is the one used when none is named.
const DefaultMethod = "net"

// Methods lists the names of the methods, sorted.
func Methods() []string {
	var out []string
	for name := range methods {
		out = append(out, name)
	}
	sort.Strings(out)
	return out
}

// Ear counts the ways of hearing there have been, networks and what is made of their verdicts: a hearing of an earlier one may be heard again.
const Ear = 2

// Faults a caller can tell apart.
var (
	ErrMethod = errors.New("there is no such method of hearing")
	ErrShort  = fmt.Errorf("%w: it is too short to hear a beat in (a tenth of a second at least)", sound.ErrAudio)
	ErrSilent = fmt.Errorf("%w: it is silent", sound.ErrAudio)
)

// MinSeconds is the shortest recording that is listened to.
const MinSeconds = 0.1

// silent is the level a recording must reach to be heard, −80 dBFS.
const silent = 1e-4

// Listen hears the recording. Errors: ErrShort, ErrSilent, ErrMethod, a tempo out of range, or the
// context's.
func Listen(ctx context.Context, b sound.Buffer, o Options) (Hearing, error) {
	if o.Method == "" {
		o.Method = DefaultMethod
	}
	newMethod, ok := methods[o.Method]
	switch {
	case !ok:
		return Hearing{}, fmt.Errorf("%w as %q; there are %v", ErrMethod, o.Method, Methods())
	case b.Seconds() < MinSeconds:
		return Hearing{}, ErrShort
	case b.Under(silent):
		return Hearing{}, ErrSilent
	}
	b, err := o.Channel.Of(b)
	if err != nil {
		return Hearing{}, err
	}
	if b.Under(silent) {
		return Hearing{}, fmt.Errorf("%w on the channel chosen", ErrSilent)
	}
	if o.Drums {
		b, _ = OnlyDrums(b)
	}
	progress := o.Progress
	if progress != nil {
		progress = part(progress, 0, examineShare)
	}
	e, err := examine(ctx, b, o.InPlace, progress)
	if err != nil {
		return Hearing{}, err
	}
	h := Hearing{Method: o.Method, Ear: Ear, Channel: o.Channel, Drums: o.Drums, Hits: hitsOf(e, newMethod().Strokes(e))}
	if err = h.findGrid(b.Seconds(), o.BPM, o.Bars); err == nil && o.Meter != (music.Meter{}) {
		h, err = h.InMeter(o.Meter)
	}
	return h, err
}

// examineShare is how much of the time a hearing takes goes into examining; measured on takes of minutes.
const examineShare = 0.75

// hitsOf turns strokes into hits: the loudest stroke of each family of drums is 127, others follow the curve by
// which the bench plays them back, 40·log10(v/127) dB.
func hitsOf(e Examined, strokes []Stroke) []Hit {
	top := map[int]float64{}
	for _, s := range strokes {
		f, _ := Family(s.Note)
		if t, ok := top[f]; !ok || s.LevelDB > t {
			top[f] = s.LevelDB
		}
	}
	hits := make([]Hit, 0, len(strokes))
	for _, s := range strokes {
		f, _ := Family(s.Note)
		v := 127 * math.Pow(10, (s.LevelDB-top[f])/40)
		hits = append(hits, Hit{TimeS: e.TimesS[s.Onset], Note: s.Note, Velocity: min(127, max(2, int(math.Round(v)))),
			Confidence: s.Confidence, Or: s.Or, OrConfidence: s.OrConfidence})
	}
	sortHits(hits)
	return hits
}
