package project

import (
	"errors"
	"fmt"
	"maps"
	"reflect"
	"slices"

	"hexachord/core/feel"
	"hexachord/core/music"
)

// Settings are a project's values that belong to no pattern.
type Settings struct {
	BPM   float64   `json:"bpm" minimum:"20" maximum:"400"`
	Feel  feel.Feel `json:"feel"`
	Muted []int     `json:"muted"` // notes of muted lanes
	Solo  []int     `json:"solo"`  // notes of soloed lanes
	// Output says what the part plays to: the kit, a MIDI output with the map alone, or both.
	Output Output `json:"output"`
	// First is what the part is called, and whether it is heard beside others.
	First *PartFacts `json:"first,omitempty"`
}

// Output is what a part plays to.
type Output struct {
	To      string `json:"to" enum:"kit,midi,both"`
	Port    string `json:"port" maxLength:"200"`             // the MIDI output's name; "receiver" is the one that ships
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
	for _, notes := range [][]int{s.Muted, s.Solo} {
		if len(notes) > 128 {
			return fmt.Errorf("%w: %d lanes; there are 128 notes", ErrSettings, len(notes))
		}
		for _, n := range notes {
			if n < 0 || n > 127 {
				return fmt.Errorf("%w: note %d is not between 0 and 127", ErrSettings, n)
			}
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
	if len(s.Solo) > 0 {
		return slices.Contains(s.Muted, note) || !slices.Contains(s.Solo, note)
	}
	return slices.Contains(s.Muted, note)
}

// differing names the settings in which two differ, as Scope names them.
func (s Settings) differing(o Settings) (names []string) {
	for name, same := range map[string]bool{"bpm": s.BPM == o.BPM, "feel": reflect.DeepEqual(s.Feel, o.Feel), "output": s.Output == o.Output, "first": reflect.DeepEqual(s.First, o.First)} {
		if !same {
			names = append(names, name)
		}
	}
	for _, n := range odd(s.Muted, o.Muted) {
		names = append(names, laneSetting("muted", n))
	}
	for _, n := range odd(s.Solo, o.Solo) {
		names = append(names, laneSetting("solo", n))
	}
	return names
}

// odd are the notes that only one of two lists has.
func odd(a, b []int) (out []int) {
	for _, n := range a {
		if !slices.Contains(b, n) {
			out = append(out, n)
		}
	}
	for _, n := range b {
		if !slices.Contains(a, n) {
			out = append(out, n)
		}
	}
	return out
}

// SettingsEdit changes settings; what is nil stays.
type SettingsEdit struct {
	BPM    *float64     `json:"bpm,omitempty" minimum:"20" maximum:"400"`
	Feel   *feel.Feel   `json:"feel,omitempty"`
	Muted  map[int]bool `json:"muted,omitempty"` // lanes (by note) that become muted (true) or are heard again (false)
	Solo   map[int]bool `json:"solo,omitempty"`  // likewise
	Output *Output      `json:"output,omitempty"`
}

func (e *SettingsEdit) Apply(d *Draft) (string, error) {
	next := d.Settings
	if e.BPM != nil {
		next.BPM = *e.BPM
	}
	if e.Feel != nil {
		next.Feel = *e.Feel
	}
	if e.Output != nil {
		next.Output = *e.Output
	}
	next.Muted, next.Solo = chosen(next.Muted, e.Muted), chosen(next.Solo, e.Solo)
	return "Change the settings", d.PutSettings(next)
}

// chosen are the notes of a list after some were chosen or let go.
func chosen(notes []int, change map[int]bool) []int {
	out := slices.Clone(notes)
	for _, n := range slices.Sorted(maps.Keys(change)) {
		out = slices.DeleteFunc(out, func(o int) bool { return o == n })
		if change[n] {
			out = append(out, n)
		}
	}
	return out
}

func (e *SettingsEdit) Scope(Project) Scope {
	var s Scope
	for name, given := range map[string]bool{"bpm": e.BPM != nil, "feel": e.Feel != nil, "output": e.Output != nil} {
		if given {
			s.Settings = append(s.Settings, name)
		}
	}
	for n := range e.Muted {
		s.Settings = append(s.Settings, laneSetting("muted", n))
	}
	for n := range e.Solo {
		s.Settings = append(s.Settings, laneSetting("solo", n))
	}
	return s
}
