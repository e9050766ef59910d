// Package mix is the desk: what is done to lanes and outputs between the cues and the ear, how loud that is, and the filters, dynamics and
// spaces it is done with. The browser repeats it from the same description, held to it by tests.
package mix

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
)

// MaxOutputs is how many outputs a project has at most, Main among them.
const MaxOutputs = 32

// ErrMix is a mix that cannot be.
var ErrMix = errors.New("the mix cannot be so")

// Strip is what is done to a lane: gain, level and pan, and what of it is sent on. A strip that is not there does nothing: the lane goes to
// Main as it is.
type Strip struct {
	GainDB  float64 `json:"gain,omitempty" minimum:"-48" maximum:"24"`  // before the strip, dB
	LevelDB float64 `json:"level,omitempty" minimum:"-96" maximum:"12"` // dB; −96 is silence
	Pan     float64 `json:"pan,omitempty" minimum:"-1" maximum:"1"`     // −1 left to 1 right: the farther side is turned down
	Output  string  `json:"output,omitempty" maxLength:"64"`            // ID of the output it goes to, "" is Main
	Also    *string `json:"also,omitempty" maxLength:"64"`              // a second output it goes to as well
	// Room and Delay are how much of it is sent there, dB, after level and pan; nil: it stays dry.
	Room  *float64 `json:"room,omitempty" minimum:"-60" maximum:"6"`
	Delay *float64 `json:"delay,omitempty" minimum:"-60" maximum:"6"`
}

// Output is where lanes go: a track of its own when exported, heard in the mix with all others.
type Output struct {
	ID      string  `json:"id" maxLength:"64"`
	Name    string  `json:"name,omitempty" maxLength:"200"` // "" is called after its lanes
	Color   string  `json:"color,omitempty" maxLength:"9"`
	Mono    bool    `json:"mono,omitempty"`
	LevelDB float64 `json:"level,omitempty" minimum:"-96" maximum:"12"`
	Muted   bool    `json:"muted,omitempty"`
	Chain
}

// Chain is what is done to an output, in this order. All of it is off to begin with.
type Chain struct {
	Gate       Gate       `json:"gate"`
	Compressor Compressor `json:"compressor"`
	Saturation Saturation `json:"saturation"`
	Equaliser  Equaliser  `json:"equaliser"`
}

// On reports whether any of it is.
func (c Chain) On() bool {
	return c.Gate.On || c.Compressor.On || c.Saturation.On || c.Equaliser.On
}

// Mix is a project's. Strips are by lane: the part's ID, a colon and the note.
type Mix struct {
	Strips  map[string]Strip `json:"strips"`
	Main    Output           `json:"main"`
	Outputs []Output         `json:"outputs"` // beside Main
	Room    Room             `json:"room"`
	Delay   Delay            `json:"delay"`
	// Dry leaves out all processing and both spaces; what they are set to is remembered.
	Dry bool `json:"dry,omitempty"`
}

// New is a mix that does nothing.
func New() Mix {
	return Mix{Strips: map[string]Strip{}, Main: Output{Chain: NewChain()}, Outputs: []Output{}, Room: NewRoom(), Delay: NewDelay()}
}

// NewChain is all off, set to where a drum begins to sound treated when it is switched on. Common practice, no source.
func NewChain() Chain {
	return Chain{
		Gate:       Gate{OpenDB: -34, CloseDB: -38, AttackMS: 1, HoldMS: 60, ReleaseMS: 80, RangeDB: -60},
		Compressor: Compressor{ThresholdDB: -18, Ratio: 3, KneeDB: 6, AttackMS: 8, ReleaseMS: 90},
		Saturation: Saturation{DriveDB: 6},
		Equaliser: Equaliser{HighPassHz: 0, Slope: 12, Low: Band{Hz: 100}, Mid: Band{Hz: 700}, High: Band{Hz: 7000},
			MidQ: 0.9},
	}
}

// Recordings is the part under which the strip of the recordings in a song is kept, on note 0.
const Recordings = "recordings"

// Key names a lane's strip.
func Key(part string, note int) string { return fmt.Sprintf("%s:%d", part, note) }

// Strip is that of a lane.
func (m Mix) Strip(part string, note int) Strip { return m.Strips[Key(part, note)] }

// All are the outputs, Main first.
func (m Mix) All() []Output { return append([]Output{m.Main}, m.Outputs...) }

// Index is where an output stands among All; Main for one that is not there.
func (m Mix) Index(id string) int {
	return 1 + slices.IndexFunc(m.Outputs, func(o Output) bool { return o.ID == id && id != "" })
}

// Treated reports whether anything is done to an output, by its number among All, or with "all" to any, the spaces too.
func (m Mix) Treated(output string) bool {
	if m.Dry {
		return false
	}
	for i, o := range m.All() {
		if (output == "all" || output == strconv.Itoa(i)) && o.On() {
			return true
		}
	}
	if output == "all" {
		for _, s := range m.Strips {
			if s.Room != nil || s.Delay != nil {
				return true
			}
		}
	}
	return false
}

// Without is the mix without the processing of an output, by its number among All, or of all, the spaces too; what is without it is louder by so
// many dB.
func (m Mix) Without(output string, louderDB float64) Mix {
	off := func(o *Output) {
		o.LevelDB += louderDB
		o.Gate.On, o.Compressor.On, o.Saturation.On, o.Equaliser.On = false, false, false, false
	}
	m.Outputs = slices.Clone(m.Outputs)
	m.Dry = m.Dry || output == "all"
	for i := range m.All() {
		switch {
		case output != "all" && output != strconv.Itoa(i):
		case i == 0:
			off(&m.Main)
		default:
			off(&m.Outputs[i-1])
		}
	}
	return m
}

// OutputsOf are the outputs a lane goes to, by their places among All.
func (m Mix) OutputsOf(part string, note int) []int {
	s := m.Strip(part, note)
	out := []int{m.Index(s.Output)}
	if s.Also != nil {
		if also := m.Index(*s.Also); also != out[0] {
			out = append(out, also)
		}
	}
	return out
}

func within(name string, v, lo, hi float64) error {
	if !(v >= lo && v <= hi) {
		return fmt.Errorf("%w: %s is %g to %g, not %g", ErrMix, name, lo, hi, v)
	}
	return nil
}

// Check reports ErrMix.
func (m Mix) Check() error {
	if len(m.Outputs) >= MaxOutputs {
		return fmt.Errorf("%w: it has %d outputs at most", ErrMix, MaxOutputs)
	}
	errs := []error{m.Room.check(), m.Delay.check()}
	if len(m.Strips) > 32*128 {
		errs = append(errs, fmt.Errorf("%w: it has too many strips", ErrMix))
	}
	for key, s := range m.Strips {
		if i := strings.LastIndexByte(key, ':'); i < 0 || len(key) > 68 {
			errs = append(errs, fmt.Errorf("%w: %q names no lane", ErrMix, key))
		}
		errs = append(errs, within("a gain in dB", s.GainDB, -48, 24), within("a level in dB", s.LevelDB, -96, 12), within("a pan", s.Pan, -1, 1))
		for _, send := range []*float64{s.Room, s.Delay} {
			if send != nil {
				errs = append(errs, within("what is sent, in dB,", *send, -60, 6))
			}
		}
	}
	seen := map[string]bool{"": true}
	for i, o := range m.All() {
		if i > 0 && seen[o.ID] {
			errs = append(errs, fmt.Errorf("%w: two outputs are called %q inside", ErrMix, o.ID))
		}
		seen[o.ID] = true
		if len(o.Name) > 200 || len(o.Color) > 9 || len(o.ID) > 64 {
			errs = append(errs, fmt.Errorf("%w: an output's name has up to 200 letters", ErrMix))
		}
		errs = append(errs, within("an output's level in dB", o.LevelDB, -96, 12), o.Gate.check(), o.Compressor.check(), o.Saturation.check(), o.Equaliser.check())
	}
	return errors.Join(errs...)
}

// silence is the level from which on nothing is heard, dB.
const silence = -96

// linear is a level as a factor; silence is none at all.
func linear(db float64) float64 {
	if db <= silence {
		return 0
	}
	return math.Pow(10, db/20)
}

// sides are the factors of a strip on the left and the right.
func (s Strip) sides() [2]float64 {
	g := linear(s.GainDB) * linear(s.LevelDB)
	return [2]float64{g * min(1, 1-s.Pan), g * min(1, 1+s.Pan)}
}
