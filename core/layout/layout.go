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
	Likeness   []float32 `json:"-"` // as kind.Alike compares; none when it is not known
}

// By says what decides on the lane.
type By string

// The ways: what name and sound say together, the name alone, one lane after another, the note that the name gives (an instrument
// sampled note by note).
const (
	ByKind  By = "kind"
	ByName  By = "name"
	ByOrder By = "order"
	ByPitch By = "pitch"
)

// Doubtful is the confidence under which a kind is asked about.
const Doubtful = 0.6

// Options are a person's decisions; the zero value leaves everything to the rules.
type Options struct {
	By     By                `json:"by" enum:"kind,name,order,pitch"`
	Kinds  map[int]kind.Kind `json:"kinds,omitempty"`  // what a sample (by its place) is
	How    map[int]kit.How   `json:"how,omitempty"`    // what becomes of the pad on a note that has sounds; the first drum of its kind goes there
	NoLane map[int]bool      `json:"noLane,omitempty"` // notes of new lanes that are not wanted
	// Lane sends a sample (by its place) to the lane on a note, to a lane of its own (OwnLane), or nowhere (NoLaneAtAll).
	Lane map[int]int `json:"lane,omitempty"`
	// Percussion sends what has no lane to the lane for percussion instead of to new lanes.
	Percussion bool `json:"percussion,omitempty"`
	Again      bool `json:"again,omitempty"` // also lay out what the kit sounds already
}

// What Options.Lane means beside a note.
const (
	LeftOut = -1
	OwnLane = -2
)

// Row is a lane and what arrives on it.
type Row struct {
	Lane    drummap.Lane `json:"lane"`
	New     bool         `json:"new"`     // the lane is made for it
	Beside  int          `json:"beside"`  // note of the lane that had its kind already, for a lane that is made; −1 for none
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

// Ears tell how samples sound: what was measured, and what kind.Alike compares.
type Ears struct {
	kit.Ears
	Likeness func(sample string) []float32
}

// Make plans where the samples go and what map and kit come of it; m and k are left as they are. Samples of one kind share a
// lane when they are strokes of one drum; another drum of that kind has a lane of its own.
func Make(m drummap.Map, k kit.Kit, samples []Sample, o Options, ears Ears) (Plan, error) {
	if o.By != ByKind && o.By != ByName && o.By != ByOrder && o.By != ByPitch {
		return Plan{}, fmt.Errorf("%w: by %q", ErrOptions, o.By)
	}
	p := planner{Plan: Plan{Rows: []Row{}, Left: []Left{}, Doubtful: []int{}, Map: m, Kit: k}, was: m, kit: k, samples: samples, o: o, ears: ears, rows: map[int]int{}}
	p.Map.Lanes = append([]drummap.Lane(nil), m.Lanes...)
	has := map[string]bool{}
	for _, h := range k.Samples() {
		has[h] = true
	}
	free := m.Lanes // by order: from the foot of the map upwards, lanes without sounds
	if o.By == ByOrder {
		free = p.silent()
	}
	next := len(free)
	var sent []int
	for i, s := range samples {
		what, sure := s.Kind, s.Confidence
		if o.By == ByName {
			what, sure = kind.ByName(s.Name, ""), 1
		}
		if said, ok := o.Kinds[i]; ok {
			what, sure = said, 1
		}
		to, decided := o.Lane[i]
		role, isDrum := what.Role()
		leave := func(why string) { p.Left = append(p.Left, Left{i, why}) }
		switch {
		case decided && to == LeftOut:
			leave("unwanted")
		case decided:
			sent = append(sent, i) // once the lanes that others need are made
		case !s.part() && has[s.Take.Sample] && !o.Again:
			leave("same")
		case o.By == ByOrder && o.Kinds[i] == "":
			if next--; next >= 0 {
				p.put(free[next], false, -1, i)
			} else {
				p.own(roleOf(what), -1, i)
			}
		case o.By == ByPitch && o.Kinds[i] == "":
			if note, ok := pitchOf(s.Name); ok {
				p.onNote(i, note, roleOf(what))
			} else {
				leave("name")
			}
		case what == "":
			leave("name")
		case !isDrum:
			leave("loop")
		default:
			if sure < Doubtful {
				p.Doubtful = append(p.Doubtful, i)
			}
			p.byRole(role, i)
		}
	}
	for _, i := range sent {
		p.send(i, o.Lane[i])
	}
	for n := range o.NoLane {
		p.Map.Lanes = without(p.Map.Lanes, m, n)
	}
	return p.Plan, p.lay(samples, o, ears.Ears)
}

// planner is a plan that is being made.
type planner struct {
	Plan
	was     drummap.Map
	kit     kit.Kit
	samples []Sample
	o       Options
	ears    Ears
	rows    map[int]int // note → place in Rows
}

// roleOf is the role of a kind, Other for a loop or nothing.
func roleOf(k kind.Kind) drummap.Role {
	if r, ok := k.Role(); ok && r.Valid() {
		return r
	}
	return drummap.Other
}

// silent are the lanes without sounds, in the map's order.
func (p *planner) silent() (out []drummap.Lane) {
	for _, l := range p.was.Lanes {
		if pad, ok := p.kit.Pad(l.Note); !ok || len(pad.Layers) == 0 {
			out = append(out, l)
		}
	}
	return out
}

// put lets a sample arrive on a lane.
func (p *planner) put(l drummap.Lane, fresh bool, beside, sample int) {
	at, ok := p.rows[l.Note]
	if !ok {
		pad, _ := p.kit.Pad(l.Note)
		at = len(p.Rows)
		p.rows[l.Note] = at
		p.Rows = append(p.Rows, Row{Lane: l, New: fresh, Beside: beside, Full: len(pad.Layers) > 0, How: kit.AddLayer})
	}
	p.Rows[at].Samples = append(p.Rows[at].Samples, sample)
}

// own gives a sample a lane of its own.
func (p *planner) own(role drummap.Role, beside, sample int) {
	l, ok := p.newLane(role, p.samples[sample].Name)
	switch {
	case !ok:
		p.Left = append(p.Left, Left{sample, "full"})
	case p.o.NoLane[l.Note]:
		p.Left = append(p.Left, Left{sample, "unwanted"})
	default:
		p.put(l, true, beside, sample)
	}
}

// byRole finds a sample's lane by what it is.
func (p *planner) byRole(role drummap.Role, i int) {
	l, ok := p.was.ByRole(role)
	if !ok && near[role] != "" {
		l, ok = p.was.ByRole(near[role])
	}
	if !ok && p.o.Percussion {
		if l, ok = p.was.ByRole(drummap.Percussion, drummap.Other); ok {
			p.put(l, false, -1, i)
			return
		}
	}
	if ok && p.belongs(l.Note, i) {
		p.put(l, false, -1, i)
		return
	}
	for _, r := range p.Rows { // another drum of the kind, which may have come already
		if r.Lane.Role == role && p.belongs(r.Lane.Note, i) {
			p.put(r.Lane, r.New, r.Beside, i)
			return
		}
	}
	beside := -1
	if ok {
		beside = l.Note
	}
	p.own(role, beside, i)
}

// belongs reports whether a sample is the drum that sounds, or is to sound, on a note. Where a person said what becomes of the
// lane and sent nothing there, the first drum of its kind is meant.
func (p *planner) belongs(note, i int) bool {
	if at, ok := p.rows[note]; ok {
		return oneDrum(p.samples[p.Rows[at].Samples[0]], p.samples[i])
	}
	if _, said := p.o.How[note]; said {
		for _, to := range p.o.Lane {
			if to == note {
				return false
			}
		}
		return true
	}
	pad, _ := p.kit.Pad(note)
	for t := range pad.Takes() {
		there := Sample{Take: *t, Name: t.Source, Likeness: p.ears.Likeness(t.Sample)}
		return oneDrum(there, p.samples[i])
	}
	return true
}

// send puts a sample where a person wants it.
func (p *planner) send(i, to int) {
	what := p.samples[i].Kind
	if said, ok := p.o.Kinds[i]; ok {
		what = said
	}
	if to < 0 || to > 127 {
		p.own(roleOf(what), -1, i)
		return
	}
	p.onNote(i, to, roleOf(what))
}

// onNote puts a sample on the lane of a note, which is made when there is none.
func (p *planner) onNote(i, note int, role drummap.Role) {
	if l, there := p.Map.ByNote(note); there {
		_, was := p.was.ByNote(note)
		p.put(l, !was, -1, i)
		return
	}
	l := p.Map.Named(note, drumName(p.samples[i].Name), role)
	p.Map = p.Map.With(l)
	p.put(l, true, -1, i)
}

// near names roles whose lane will do for one that has none of its own.
var near = map[drummap.Role]drummap.Role{drummap.MidTom: drummap.HighTom, drummap.Cymbal: drummap.Crash, drummap.PedalHat: drummap.ClosedHat,
	drummap.HighTom: drummap.MidTom, drummap.LowTom: drummap.MidTom}

// newLane gives a role a lane of its own: on its General MIDI note when that is free, else on the next free one.
func (p *planner) newLane(role drummap.Role, name string) (drummap.Lane, bool) {
	note, ok := p.Map.FreeNote(role)
	if !ok {
		return drummap.Lane{}, false
	}
	l := p.Map.Named(note, drumName(name), role)
	p.Map = p.Map.With(l)
	return l, true
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
func (p *planner) lay(samples []Sample, o Options, ears kit.Ears) error {
	for i := range p.Rows {
		r := &p.Rows[i]
		if how, ok := o.How[r.Lane.Note]; ok {
			r.How = how
		}
		e := kit.Edit{Op: kit.OpAdd, From: r.Lane.Note, How: r.How, Layer: -1}
		for _, s := range r.Samples {
			e.Takes = append(e.Takes, samples[s].Take)
		}
		next, err := kit.Apply(p.Kit, e, ears)
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
