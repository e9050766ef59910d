package project

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"hexachord/core/drummap"
	"hexachord/core/kind"
	"hexachord/core/kit"
	"hexachord/core/pattern"
)

// MapEdit is a map to put in the place of a project's, and what goes along with lanes whose note changed.
type MapEdit struct {
	Map        drummap.Map `json:"map" required:"true"`
	Moves      map[int]int `json:"moves,omitempty"` // old note → new note of the same lane
	MoveHits   bool        `json:"moveHits,omitempty"`
	MoveSounds bool        `json:"moveSounds,omitempty"`
	Label      string      `json:"label" required:"true" maxLength:"200"`
}

func (e *MapEdit) Apply(d *Draft) (string, error) {
	label := labelled(e.Label, "Change the map")
	for from, to := range e.Moves {
		if from < 0 || from > 127 || to < 0 || to > 127 {
			return "", fmt.Errorf("%w: notes go from 0 to 127", drummap.ErrMap)
		}
	}
	if err := d.PutMap(e.Map); err != nil || len(e.Moves) == 0 {
		return label, err
	}
	if err := errors.Join(d.PutSettings(d.Settings.Renoted(e.Moves)), d.renoteStrips(e.Moves)); err != nil {
		return "", err
	}
	if e.MoveSounds {
		next, err := renoted(d.Kit, e.Moves)
		if err != nil {
			return "", err
		}
		if err := d.PutKit(next); err != nil {
			return "", err
		}
	}
	if e.MoveHits {
		for _, pt := range d.Patterns {
			if !d.own(pt.Value) {
				continue
			}
			if _, _, err := d.EditPattern(pt.ID, pattern.Edit{Renote: &pattern.Renote{Moves: e.Moves}}); err != nil {
				return "", err
			}
			if err := d.renotePasses(pt.ID, e.Moves); err != nil {
				return "", err
			}
		}
	}
	for _, b := range d.Blocks { // lanes that are left out go along
		if b.Value.Part != d.Part || len(b.Value.LeftOut) == 0 {
			continue
		}
		next := b.Value
		next.LeftOut = slices.Clone(next.LeftOut)
		for i, n := range next.LeftOut {
			if to, ok := e.Moves[n]; ok {
				next.LeftOut[i] = to
			}
		}
		if err := d.put(KindBlock, b.ID, next); err != nil {
			return "", err
		}
	}
	return label, nil
}

// renoted is a kit whose pads go along with their lanes.
func renoted(k kit.Kit, moves map[int]int) (kit.Kit, error) {
	next := k
	next.Pads = nil
	for _, pad := range k.Pads {
		if to, ok := moves[pad.Note]; ok {
			pad.Note = to
		}
		if _, taken := next.Pad(pad.Note); taken {
			return k, fmt.Errorf("%w: note %d has sounds already; give the lane another note, or swap the two", kit.ErrKit, pad.Note)
		}
		next = next.Put(pad)
	}
	return next, nil
}

func (e *MapEdit) Scope(Project) Scope {
	s := Scope{Keys: []Key{{KindMap, only}}}
	if len(e.Moves) > 0 {
		s.Kinds = []Kind{KindSettings, KindMix}
		if e.MoveSounds {
			s.Kinds = append(s.Kinds, KindKit)
		}
		if e.MoveHits {
			s.Kinds = append(s.Kinds, KindPattern, KindPass)
		}
	}
	return s
}

// AddLane makes a lane, in score order. A name that says a role gives the lane its role, code and colour; without one it
// is called, and is for, what its note is in General MIDI.
type AddLane struct {
	Note int    `json:"note" minimum:"0" maximum:"127"`
	Name string `json:"name,omitempty" maxLength:"100"`
	// Find takes the note the name's role has in General MIDI, or the next free one, in the place of Note.
	Find bool `json:"find,omitempty"`
}

func (e *AddLane) Apply(d *Draft) (string, error) {
	m := d.Map
	name, note, role := strings.TrimSpace(e.Name), e.Note, drummap.GMRole(e.Note)
	if name != "" {
		role = drummap.Other
		if r, ok := kind.ByName(name, "").Role(); ok && r.Valid() {
			role = r
		}
	}
	if e.Find {
		free, ok := m.FreeNote(role)
		if !ok {
			return "", fmt.Errorf("%w: every note has a lane; take one off the map first", drummap.ErrMap)
		}
		note = free
	}
	if _, there := m.ByNote(note); there {
		return "", fmt.Errorf("%w: note %d has a lane already", drummap.ErrMap, note)
	}
	if name == "" {
		name = cmp.Or(drummap.GMName(note), fmt.Sprintf("note %d", note))
	}
	return fmt.Sprintf("Make a lane on note %d", note), d.PutMap(m.With(m.Named(note, name, role)))
}

func (e *AddLane) Scope(Project) Scope { return Scope{Keys: []Key{{KindMap, only}}} }

// PatternCarry counts what carrying moves in a pattern.
type PatternCarry struct {
	PatternID string `json:"patternId"`
	Carried   int    `json:"carried"` // hits whose note finds a lane
	NoHome    int    `json:"noHome"`
}

// CarryPlan is where every note's hits would go.
type CarryPlan struct {
	Links       []drummap.Link       `json:"links"`
	Hits        map[int]int          `json:"hits"` // by old note, in the patterns chosen
	Patterns    []PatternCarry       `json:"patterns"`
	Differences []drummap.Difference `json:"differences"`
}

// CarryRequest says what to carry: Patterns (all when nil) from one map to another.
type CarryRequest struct {
	From        drummap.Map `json:"from" required:"true"`
	To          drummap.Map `json:"to" required:"true"`
	Corrections map[int]int `json:"corrections,omitempty"` // old note → note, −1 for none
	Patterns    []string    `json:"patterns,omitempty" maxItems:"100000"`
	Copies      bool        `json:"copies,omitempty"`   // make copies instead of changing the patterns
	Remember    bool        `json:"remember,omitempty"` // the corrections, for this pair of maps
}

func (r CarryRequest) chosen(id string) bool {
	return r.Patterns == nil || slices.Contains(r.Patterns, id)
}

// PlanCarry finds where hits would go.
func (p Project) PlanCarry(r CarryRequest) CarryPlan {
	plan := CarryPlan{Hits: map[int]int{}, Patterns: []PatternCarry{}, Differences: drummap.Compare(r.From, r.To)}
	var notes []int
	for _, pt := range p.Patterns {
		if !r.chosen(pt.ID) || !p.own(pt.Value) {
			continue
		}
		for _, h := range pt.Value.Hits {
			if plan.Hits[h.Note]++; plan.Hits[h.Note] == 1 {
				notes = append(notes, h.Note)
			}
		}
	}
	slices.Sort(notes)
	plan.Links = drummap.Carry(r.From, r.To, notes, r.Corrections)
	home := map[int]bool{}
	for _, l := range plan.Links {
		home[l.From] = l.To >= 0
	}
	for _, pt := range p.Patterns {
		if !p.own(pt.Value) {
			continue
		}
		c := PatternCarry{PatternID: pt.ID}
		for _, h := range pt.Value.Hits {
			if home[h.Note] {
				c.Carried++
			} else {
				c.NoHome++
			}
		}
		plan.Patterns = append(plan.Patterns, c)
	}
	return plan
}

// apply does what PlanCarry plans. Hits without a home stay as they are.
func (r *CarryRequest) Apply(d *Draft) (string, error) {
	moves := map[int]int{}
	for _, l := range d.PlanCarry(*r).Links {
		if l.To >= 0 && l.To != l.From {
			moves[l.From] = l.To
		}
	}
	n := 0
	for _, pt := range d.Patterns {
		if !r.chosen(pt.ID) || !d.own(pt.Value) {
			continue
		}
		n++
		e := pattern.Edit{Renote: &pattern.Renote{Moves: moves}}
		var err error
		if r.Copies {
			var moved pattern.Pattern
			if moved, _, err = pattern.Apply(pt.Value, e); err == nil {
				moved.Name += " " + r.To.Name
				_, err = d.AddPattern(moved)
			}
		} else {
			if _, _, err = d.EditPattern(pt.ID, e); err == nil {
				err = d.renotePasses(pt.ID, moves)
			}
		}
		if err != nil {
			return "", err
		}
	}
	return fmt.Sprintf("Carry %d patterns to %s", n, r.To.Name), nil
}

func (r *CarryRequest) Scope(Project) Scope { return Scope{Kinds: []Kind{KindPattern, KindPass}} }
