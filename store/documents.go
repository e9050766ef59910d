package store

import (
	"errors"
	"fmt"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

// The kinds of documents a project is made of.
const (
	kindSettings  = "settings"
	kindMap       = "map"
	kindKit       = "kit"
	kindPattern   = "pattern"
	kindRecording = "recording"
	kindGroove    = "groove"
)

// only is the ID of the one document of a kind that a project has one of.
const only = "1"

// Settings are a project's values that belong to no pattern.
type Settings struct {
	BPM   float64   `json:"bpm"`
	Feel  feel.Feel `json:"feel"`
	Muted []int     `json:"muted"` // notes of muted lanes
	Solo  []int     `json:"solo"`  // notes of soloed lanes
	// Output says what the part plays to: the kit, a MIDI output with the map alone, or both.
	Output Output `json:"output"`
}

// Output is what a part plays to.
type Output struct {
	To      string `json:"to" enum:"kit,midi,both"`
	Port    string `json:"port"`                             // the MIDI output's name; "receiver" is the one that ships
	Channel int    `json:"channel" minimum:"1" maximum:"16"` // MIDI channel
}

// ReceiverPort names the simulated MIDI receiver that ships with the bench.
const ReceiverPort = "receiver"

func (o Output) check() error {
	if o.To != "kit" && o.To != "midi" && o.To != "both" || o.Channel < 1 || o.Channel > 16 || len(o.Port) > 200 {
		return fmt.Errorf("%w: a part plays to “kit”, “midi” or “both”, on channel 1 to 16; not to %q on %d", ErrSettings, o.To, o.Channel)
	}
	return nil
}

// NewSettings are what a project begins with.
func NewSettings() Settings {
	return Settings{BPM: 92, Feel: feel.Straight, Muted: []int{}, Solo: []int{}, Output: Output{"kit", ReceiverPort, 10}}
}

// Check reports values out of range.
func (s Settings) Check() error {
	if err := music.CheckBPM(s.BPM); err != nil {
		return err
	}
	for _, n := range append(append([]int(nil), s.Muted...), s.Solo...) {
		if n < 0 || n > 127 {
			return fmt.Errorf("%w: note %d is not between 0 and 127", ErrSettings, n)
		}
	}
	return errors.Join(s.Output.check(), s.Feel.Check())
}

// Renoted are the settings after lanes took other notes (old → new): what was muted, soloed or leant stays so.
func (s Settings) Renoted(moves map[int]int) Settings {
	to := func(n int) int {
		if other, ok := moves[n]; ok {
			return other
		}
		return n
	}
	notes := func(old []int) []int {
		out := make([]int, len(old))
		for i, n := range old {
			out[i] = to(n)
		}
		return out
	}
	s.Muted, s.Solo = notes(s.Muted), notes(s.Solo)
	s.Feel = s.Feel.Renoted(to)
	return s
}

// Silent reports whether the lane of a note is not heard: muted, or not soloed while another is.
func (s Settings) Silent(note int) bool {
	for _, n := range s.Muted {
		if n == note {
			return true
		}
	}
	for _, n := range s.Solo {
		if n == note {
			return false
		}
	}
	return len(s.Solo) > 0
}

// Recording is a break in a project: its audio and what was heard in it.
type Recording struct {
	Name    string       `json:"name"`
	Audio   string       `json:"audio"` // SHA-256 of the file
	Seconds float64      `json:"seconds"`
	Heard   hear.Hearing `json:"heard"`
}

// Stored is a document with its ID.
type Stored[T any] struct {
	ID    string `json:"id"`
	Value T      `json:"value"`
}

// Project is everything a project holds at one revision.
type Project struct {
	ID         string
	Name       string
	Revision   int64
	Settings   Settings
	Map        drummap.Map
	Kit        kit.Kit
	Patterns   []Stored[pattern.Pattern]
	Recordings []Stored[Recording]
	Grooves    []Stored[feel.Groove]
	Undo, Redo string // labels of what would be undone and redone; "" when there is nothing
}

// Pattern finds a pattern by ID; ErrNotFound when it is not there.
func (p Project) Pattern(id string) (pattern.Pattern, error) {
	return find(p.Patterns, id, "the pattern")
}

// Recording finds a recording by ID; ErrNotFound when it is not there.
func (p Project) Recording(id string) (Recording, error) {
	return find(p.Recordings, id, "the recording")
}

// Groove finds a groove by ID; ErrNotFound when it is not there.
func (p Project) Groove(id string) (feel.Groove, error) { return find(p.Grooves, id, "the groove") }

// FeelOf is what is laid over a pattern: its own feel or the project's, with the groove it names.
func (p Project) FeelOf(pt pattern.Pattern) feel.Feel {
	f := p.Settings.Feel
	if pt.Feel != nil {
		f = *pt.Feel
	}
	if g, err := p.Groove(f.Groove.ID); err == nil {
		return f.With(&g)
	}
	return f
}

func find[T any](all []Stored[T], id, what string) (T, error) {
	for _, s := range all {
		if s.ID == id {
			return s.Value, nil
		}
	}
	var none T
	return none, fmt.Errorf("%s: %w", what, ErrNotFound)
}
