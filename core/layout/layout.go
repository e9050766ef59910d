// Package layout lays samples out on the lanes of a kit: by what they are, by their names, or in their order.
package layout

import (
	"errors"
	"fmt"
	"strings"

	"hexachord/core/drummap"
	"hexachord/core/kind"
	"hexachord/core/kit"
)

// Sample is a sample, or a part of one, to be laid out.
type Sample struct {
	Take       kit.Take  `json:"take"`
	Name       string    `json:"name"`
	Kind       kind.Kind `json:"kind"`
	Confidence float64   `json:"confidence"`
}

// By says what decides on the lane.
type By string

// The ways: what name and sound say together, the name alone, one lane after another.
const (
	ByKind  By = "kind"
	ByName  By = "name"
	ByOrder By = "order"
)

// Doubtful is the confidence under which a kind is asked about.
const Doubtful = 0.6

// Options are a person's decisions; the zero value leaves everything to the rules.
type Options struct {
	By     By                `json:"by" enum:"kind,name,order"`
	Kinds  map[int]kind.Kind `json:"kinds,omitempty"`  // what a sample (by its place) is
	How    map[int]kit.How   `json:"how,omitempty"`    // what becomes of the pad on a note that has sounds
	NoLane map[int]bool      `json:"noLane,omitempty"` // notes of new lanes that are not wanted
	// Percussion sends what has no lane to the lane for percussion instead of to new lanes.
	Percussion bool `json:"percussion,omitempty"`
	Again      bool `json:"again,omitempty"` // also lay out what the kit sounds already
}

// Row is a lane and what arrives on it.
type Row struct {
	Lane    drummap.Lane `json:"lane"`
	New     bool         `json:"new"`     // the lane is made for it
	Full    bool         `json:"full"`    // its pad has sounds already
	Samples []int        `json:"samples"` // places in the list of samples
	How     kit.How      `json:"how"`
	Pad     kit.Pad      `json:"pad"` // as it would be
}

// Left is a sample that is not laid out.
type Left struct {
	Sample int    `json:"sample"`
	Why    string `json:"why" enum:"loop,same,full,unwanted,name"`
}

// Plan is what would be laid out where.
type Plan struct {
	Rows     []Row       `json:"rows"`
	Left     []Left      `json:"left"`
	Doubtful []int       `json:"doubtful"` // samples whose kind is doubtful
	Map      drummap.Map `json:"map"`
	Kit      kit.Kit     `json:"kit"`
}

// ErrOptions is returned for decisions that make no sense.
var ErrOptions = errors.New("the samples cannot be laid out so")

// Make plans where the samples go and what map and kit come of it; m and k are left as they are.
func Make(m drummap.Map, k kit.Kit, samples []Sample, o Options, loud kit.Loudness) (Plan, error) {
	if o.By != ByKind && o.By != ByName && o.By != ByOrder {
		return Plan{}, fmt.Errorf("%w: by %q", ErrOptions, o.By)
	}
	p := Plan{Rows: []Row{}, Left: []Left{}, Doubtful: []int{}, Map: m, Kit: k}
	p.Map.Lanes = append([]drummap.Lane(nil), m.Lanes...)
	has := map[string]bool{}
	for _, h := range k.Samples() {
		has[h] = true
	}
	rows := map[int]int{} // note → place in Rows
	put := func(l drummap.Lane, fresh bool, sample int) {
		at, ok := rows[l.Note]
		if !ok {
			pad, _ := k.Pad(l.Note)
			at = len(p.Rows)
			rows[l.Note] = at
			p.Rows = append(p.Rows, Row{Lane: l, New: fresh, Full: len(pad.Layers) > 0, How: kit.AddLayer})
		}
		p.Rows[at].Samples = append(p.Rows[at].Samples, sample)
	}
	next := len(m.Lanes) // by order: from the foot of the map upwards
	for i, s := range samples {
		what, sure := s.Kind, s.Confidence
		if o.By == ByName {
			what, sure = kind.ByName(s.Name, ""), 1
		}
		if said, ok := o.Kinds[i]; ok {
			what, sure = said, 1
		}
		role, isDrum := what.Role()
		whole := s.Take.Shape.EndFrame == 0 && s.Take.Shape.StartFrame == 0
		switch {
		case whole && has[s.Take.Sample] && !o.Again:
			p.Left = append(p.Left, Left{i, "same"})
			continue
		case o.By == ByOrder && o.Kinds[i] == "":
			if next--; next >= 0 {
				put(m.Lanes[next], false, i)
				continue
			}
			role = drummap.Other
		case what == "":
			p.Left = append(p.Left, Left{i, "name"})
			continue
		case !isDrum:
			p.Left = append(p.Left, Left{i, "loop"})
			continue
		}
		if sure < Doubtful {
			p.Doubtful = append(p.Doubtful, i)
		}
		l, ok := m.ByRole(role)
		if !ok && near[role] != "" {
			l, ok = m.ByRole(near[role])
		}
		if !ok && o.Percussion {
			l, ok = m.ByRole(drummap.Percussion, drummap.Other)
		}
		if ok {
			put(l, false, i)
			continue
		}
		if l, ok = p.Map.ByRole(role); !ok || o.By == ByOrder { // one made before for a sample of its kind serves
			l, ok = p.newLane(role, s.Name)
		}
		switch {
		case !ok:
			p.Left = append(p.Left, Left{i, "full"})
		case o.NoLane[l.Note]:
			p.Left = append(p.Left, Left{i, "unwanted"})
		default:
			put(l, true, i)
		}
	}
	for n := range o.NoLane {
		p.Map.Lanes = without(p.Map.Lanes, m, n)
	}
	return p, p.lay(samples, o, loud)
}

// near names roles whose lane will do for one that has none of its own.
var near = map[drummap.Role]drummap.Role{drummap.MidTom: drummap.HighTom, drummap.Cymbal: drummap.Crash, drummap.PedalHat: drummap.ClosedHat,
	drummap.HighTom: drummap.MidTom, drummap.LowTom: drummap.MidTom}

// newLane gives a role a lane of its own: on its General MIDI note when that is free, else on the next free one.
func (p *Plan) newLane(role drummap.Role, name string) (drummap.Lane, bool) {
	for d := range 128 {
		note := (role.Note() + d) % 128
		if _, taken := p.Map.ByNote(note); taken {
			continue
		}
		l := drummap.NewLane(role, note, strings.TrimSuffix(name, extension(name)))
		l.Code = p.Map.ProposeCode(l.Name)
		if role != drummap.Other && !p.Map.HasCode(role.Code()) {
			l.Code = role.Code()
		}
		p.Map.Lanes = append([]drummap.Lane{l}, p.Map.Lanes...)
		return l, true
	}
	return drummap.Lane{}, false
}

func extension(name string) string {
	if i := strings.LastIndexByte(name, '.'); i > 0 {
		return name[i:]
	}
	return ""
}

func without(lanes []drummap.Lane, old drummap.Map, note int) []drummap.Lane {
	if _, was := old.ByNote(note); was {
		return lanes
	}
	out := lanes[:0:0]
	for _, l := range lanes {
		if l.Note != note {
			out = append(out, l)
		}
	}
	return out
}

// lay makes the pads of every row.
func (p *Plan) lay(samples []Sample, o Options, loud kit.Loudness) error {
	for i := range p.Rows {
		r := &p.Rows[i]
		if how, ok := o.How[r.Lane.Note]; ok {
			r.How = how
		}
		e := kit.Edit{Op: kit.OpAdd, From: r.Lane.Note, How: r.How, Layer: -1}
		for _, s := range r.Samples {
			e.Takes = append(e.Takes, samples[s].Take)
		}
		next, err := kit.Apply(p.Kit, e, loud)
		if err != nil {
			return err
		}
		p.Kit = next
		pad, _ := p.Kit.Pad(r.Lane.Note)
		if !r.Full && (r.Lane.Role == drummap.ClosedHat || r.Lane.Role == drummap.OpenHat || r.Lane.Role == drummap.PedalHat) {
			pad.Choke, pad.SelfChoke = HatGroup(p.Map, p.Kit), true
			p.Kit = p.Kit.Put(pad)
		}
		r.Pad = pad
	}
	return nil
}

// HatGroup is the choke group the kit's hats are in, or a free one when they are in none.
func HatGroup(m drummap.Map, k kit.Kit) int {
	used := map[int]bool{}
	for _, p := range k.Pads {
		l, _ := m.ByNote(p.Note)
		if p.Choke > 0 && (l.Role == drummap.ClosedHat || l.Role == drummap.OpenHat || l.Role == drummap.PedalHat) {
			return p.Choke
		}
		used[p.Choke] = true
	}
	for g := 1; g <= 16; g++ {
		if !used[g] {
			return g
		}
	}
	return 1
}
