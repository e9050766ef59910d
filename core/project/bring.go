package project

import (
	"fmt"
	"reflect"
	"slices"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/pattern"
)

// By says how hits of another project's patterns find their lanes.
type By string

// By what the lanes are for, as patterns are carried from map to map; or by their notes as they are.
const (
	ByRole By = "role"
	ByNote By = "note"
)

// Bring adds patterns of another project, carried to this one's lanes, with the feel they sound with there.
type Bring struct {
	Other    Project
	Patterns []string // IDs in Other
	By       By
	To       map[int]int // old note → note a person chose, −1 for none
}

// Brought is what came of bringing patterns.
type Brought struct {
	IDs  []string    `json:"ids"`
	Hits map[int]int `json:"hits"` // hits that each lane (note) gets
	// NoHome are hits by their old note that find no lane; they come along and stay silent.
	NoHome map[int]int `json:"noHome"`
}

func (e *Bring) Apply(d *Draft) (string, error) {
	out := Brought{IDs: []string{}, Hits: map[int]int{}, NoHome: map[int]int{}}
	moves := map[int]int{}
	if e.By == ByRole {
		for _, l := range drummap.Carry(e.Other.Map, d.Map, e.notes(), e.To) {
			if l.To >= 0 && l.To != l.From {
				moves[l.From] = l.To
			}
		}
	}
	grooves := map[string]string{} // ID there → here
	name := ""
	for _, id := range e.Patterns {
		pt, err := e.Other.Pattern(id)
		if err != nil {
			return "", err
		}
		name = pt.Name
		own := e.Other.Settings.Feel
		if pt.Feel != nil {
			own = *pt.Feel
		}
		if own.Groove.ID, err = e.groove(d, own, grooves); err != nil {
			return "", err
		}
		if pt.Link = ""; pt.Feel != nil || !reflect.DeepEqual(own, d.Settings.Feel) {
			pt.Feel = &own // it sounds as it did there
		}
		for _, h := range pt.Hits {
			to, moved := moves[h.Note]
			if !moved {
				to = h.Note
			}
			if _, ok := d.Map.ByNote(to); ok {
				out.Hits[to]++
			} else {
				out.NoHome[h.Note]++
			}
		}
		if pt, _, err = pattern.Apply(pt, pattern.Edit{Renote: &pattern.Renote{Moves: moves}}); err != nil {
			return "", err
		}
		pt.Name = d.freeName(pt.Name)
		fresh, err := d.AddPattern(pt)
		if err != nil {
			return "", err
		}
		out.IDs = append(out.IDs, fresh)
	}
	d.Result.Brought = &out
	if len(e.Patterns) == 1 {
		return fmt.Sprintf("Bring %s from %s", name, e.Other.Title()), nil
	}
	return fmt.Sprintf("Bring %d patterns from %s", len(e.Patterns), e.Other.Title()), nil
}

// notes are those the patterns strike.
func (e *Bring) notes() (out []int) {
	for _, id := range e.Patterns {
		pt, _ := e.Other.Pattern(id)
		for _, h := range pt.Hits {
			if !slices.Contains(out, h.Note) {
				out = append(out, h.Note)
			}
		}
	}
	slices.Sort(out)
	return out
}

// groove brings the groove a feel names; "" when it names none.
func (e *Bring) groove(d *Draft, f feel.Feel, known map[string]string) (id string, err error) {
	there := f.Groove.ID
	g, missing := e.Other.Groove(there)
	if missing != nil {
		return "", nil
	}
	if known[there] == "" {
		for _, own := range d.Grooves { // the same under its name need not come twice
			if own.Value.Name == g.Name && slices.Equal(own.Value.Cells, g.Cells) {
				known[there] = own.ID
			}
		}
	}
	if known[there] == "" {
		known[there], err = d.AddGroove(g)
	}
	return known[there], err
}

// freeName is a name no pattern has: the one given, or with a number.
func (d *Draft) freeName(name string) string {
	taken := map[string]bool{}
	for _, p := range d.Patterns {
		taken[p.Value.Name] = true
	}
	free := name
	for n := 2; taken[free]; n++ {
		free = fmt.Sprintf("%s %d", name, n)
	}
	return free
}

// Scope is the map it carries to, and the list of patterns it adds to.
func (e *Bring) Scope(Project) Scope { return Scope{Keys: []Key{{KindMap, only}}} }
