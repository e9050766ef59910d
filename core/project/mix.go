package project

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"hexachord/core/drummap"
	"hexachord/core/mix"
)

// MixEdit changes the mix: strips, outputs, the room, the delay, and whether all is dry.
type MixEdit struct {
	Strips        map[string]*mix.Strip `json:"strips,omitempty"`                      // by lane; null is as it began
	Main          *mix.Output           `json:"main,omitempty"`                        //
	Outputs       []mix.Output          `json:"outputs,omitempty" maxItems:"32"`       // put by their IDs; without one a new one
	RemoveOutputs []string              `json:"removeOutputs,omitempty" maxItems:"32"` // their lanes go to Main
	Room          *mix.Room             `json:"room,omitempty"`
	Delay         *mix.Delay            `json:"delay,omitempty"`
	Dry           *bool                 `json:"dry,omitempty"`
	// ByRole sets the levels of the part's lanes to where each role usually stands.
	ByRole bool `json:"byRole,omitempty"`
	// ShiftDB raises or lowers everything that comes out.
	ShiftDB float64 `json:"shift,omitempty" minimum:"-96" maximum:"48"`
	Label   string  `json:"label" required:"true" maxLength:"200"`
}

// roleLevels are where a drum usually stands below the kick, dB. Common practice, no source.
var roleLevels = map[drummap.Role]float64{
	drummap.Kick: 0, drummap.Snare: -1, drummap.Clap: -4, drummap.Rim: -6, drummap.HighTom: -3, drummap.MidTom: -3, drummap.LowTom: -3,
	drummap.ClosedHat: -8, drummap.PedalHat: -10, drummap.OpenHat: -8, drummap.Ride: -9, drummap.Crash: -7, drummap.Shaker: -11, drummap.Tambourine: -10, drummap.Cowbell: -9,
}

// NewOutput names, in a strip of an edit, the output that the same edit adds.
const NewOutput = "new"

// NewMixOutput is an output that does nothing.
func NewMixOutput() mix.Output { return mix.Output{Chain: mix.NewChain()} }

func (e *MixEdit) Apply(d *Draft) (string, error) {
	m := d.Mix
	m.Strips, m.Outputs = maps.Clone(m.Strips), slices.Clone(m.Outputs)
	if e.ByRole {
		for _, l := range d.Map.Lanes {
			key := mix.Key(d.Part, l.Note)
			s := m.Strips[key]
			s.LevelDB = -9
			if db, ok := roleLevels[l.Role]; ok {
				s.LevelDB = db
			}
			m.Strips[key] = s
		}
	}
	if e.Main != nil {
		m.Main = *e.Main
		m.Main.ID = ""
	}
	added := ""
	for _, o := range e.Outputs {
		i := slices.IndexFunc(m.Outputs, func(x mix.Output) bool { return x.ID == o.ID && o.ID != "" })
		switch {
		case i >= 0:
			m.Outputs[i] = o
		case o.ID != "":
			return "", fmt.Errorf("the output: %w", ErrNotFound)
		default:
			o.ID = d.World.NewID()
			d.Result.ID, added = o.ID, o.ID
			m.Outputs = append(m.Outputs, o)
		}
	}
	for key, s := range e.Strips {
		if s == nil || *s == (mix.Strip{}) {
			delete(m.Strips, key)
			continue
		}
		next := *s
		if next.Output == NewOutput {
			next.Output = added
		}
		m.Strips[key] = next
	}
	for _, id := range e.RemoveOutputs {
		i := slices.IndexFunc(m.Outputs, func(x mix.Output) bool { return x.ID == id })
		if i < 0 {
			return "", fmt.Errorf("the output: %w", ErrNotFound)
		}
		m.Outputs = slices.Delete(m.Outputs, i, i+1)
		for key, s := range m.Strips {
			if s.Output == id {
				s.Output = ""
			}
			if s.Also != nil && *s.Also == id {
				s.Also = nil
			}
			m.Strips[key] = s
		}
	}
	if e.Room != nil {
		m.Room = *e.Room
	}
	if e.Delay != nil {
		m.Delay = *e.Delay
	}
	if e.Dry != nil {
		m.Dry = *e.Dry
	}
	if e.ShiftDB != 0 {
		m = shifted(m, e.ShiftDB)
	}
	return labelled(e.Label, "Change the mix"), d.put(KindMix, only, m)
}

// shifted is a mix of which everything that comes out is so much louder.
func shifted(m mix.Mix, db float64) mix.Mix {
	move := func(level, lo float64) float64 { return math.Round(100*max(lo, min(12, level+db))) / 100 }
	m.Main.LevelDB = move(m.Main.LevelDB, -96)
	for i := range m.Outputs {
		m.Outputs[i].LevelDB = move(m.Outputs[i].LevelDB, -96)
	}
	m.Room.ReturnDB, m.Delay.ReturnDB = move(m.Room.ReturnDB, -60), move(m.Delay.ReturnDB, -60)
	return m
}

func (e *MixEdit) Scope(Project) Scope {
	s := Scope{Keys: []Key{{KindMix, only}}}
	if e.ByRole {
		s.Keys = append(s.Keys, Key{KindMap, only})
	}
	return s
}

// renoteStrips lets the strips of the part go along with lanes whose note changed.
func (d *Draft) renoteStrips(moves map[int]int) error {
	next := maps.Clone(d.Mix.Strips)
	touched := false
	for from := range moves {
		if _, ok := next[mix.Key(d.Part, from)]; ok {
			delete(next, mix.Key(d.Part, from))
			touched = true
		}
	}
	for from, to := range moves {
		if s, ok := d.Mix.Strips[mix.Key(d.Part, from)]; ok {
			next[mix.Key(d.Part, to)] = s
		}
	}
	return d.putStrips(next, touched)
}

// stripsOfPart copies the strips of one part to another; with to nil it takes them out.
func (d *Draft) stripsOfPart(of string, to *string) error {
	next := maps.Clone(d.Mix.Strips)
	touched := false
	for key, s := range d.Mix.Strips {
		note, ok := strings.CutPrefix(key, of+":")
		if !ok {
			continue
		}
		touched = true
		if to == nil {
			delete(next, key)
		} else {
			next[*to+":"+note] = s
		}
	}
	return d.putStrips(next, touched)
}

func (d *Draft) putStrips(strips map[string]mix.Strip, touched bool) error {
	if !touched {
		return nil
	}
	m := d.Mix
	m.Strips = strips
	return d.put(KindMix, only, m)
}

// OutputLanes are the lanes of all parts that go to an output, by its place among all.
func (p Project) OutputLanes(i int) (lanes []drummap.Lane) {
	for _, id := range p.PartIDs() {
		for _, l := range p.In(id).Map.Lanes {
			if slices.Contains(p.Mix.OutputsOf(id, l.Note), i) {
				lanes = append(lanes, l)
			}
		}
	}
	return lanes
}

// OutputName is what an output is called: its own name, that of the one lane that goes to it, or its number.
func (p Project) OutputName(i int) string {
	if name := p.Mix.All()[i].Name; name != "" {
		return name
	}
	lanes := p.OutputLanes(i)
	switch {
	case i == 0:
		return "Main"
	case len(lanes) == 1:
		return lanes[0].Name
	}
	return fmt.Sprintf("Output %d", i+1)
}
