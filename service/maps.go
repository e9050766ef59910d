package service

import (
	"fmt"
	"path"
	"path/filepath"
	"sort"
	"strings"

	"hexachord/core/drummap"
	"hexachord/core/kind"
	"hexachord/core/kit"
	"hexachord/core/pattern"
	"hexachord/format/mapcsv"
	"hexachord/format/midnam"
	"hexachord/format/smf"
	"hexachord/store"
)

// MapEdit is a map to put in the place of a project's, and what goes along with lanes whose note changed.
type MapEdit struct {
	Map        drummap.Map `json:"map" required:"true"`
	Moves      map[int]int `json:"moves,omitempty"` // old note → new note of the same lane
	MoveHits   bool        `json:"moveHits,omitempty"`
	MoveSounds bool        `json:"moveSounds,omitempty"`
	Label      string      `json:"label" required:"true"`
}

// EditMap replaces a project's map; hits and sounds of lanes with another note go along when that is wanted, all in one
// edit.
func (b *Bench) EditMap(projectID string, revision int64, e MapEdit) (int64, error) {
	p, err := b.Load(projectID)
	if err != nil {
		return revision, err
	}
	for from, to := range e.Moves {
		if from < 0 || from > 127 || to < 0 || to > 127 {
			return revision, fmt.Errorf("%w: notes go from 0 to 127", drummap.ErrMap)
		}
	}
	next := p.Kit
	if e.MoveSounds && len(e.Moves) > 0 {
		next.Pads = nil
		for _, pad := range p.Kit.Pads {
			if to, ok := e.Moves[pad.Note]; ok {
				pad.Note = to
			}
			if _, taken := next.Pad(pad.Note); taken {
				return revision, fmt.Errorf("%w: note %d has sounds already; give the lane another note, or swap the two", kit.ErrKit, pad.Note)
			}
			next = next.Put(pad)
		}
	}
	return b.Edit(projectID, revision, func(tx *store.Tx) string {
		tx.PutMap(e.Map)
		if len(e.Moves) > 0 {
			tx.PutSettings(p.Settings.Renoted(e.Moves))
			if e.MoveSounds {
				tx.PutKit(next)
			}
			if e.MoveHits {
				for _, pt := range p.Patterns {
					tx.EditPattern(pt.ID, pattern.Edit{Op: pattern.OpRenote, Moves: e.Moves})
				}
			}
		}
		return e.Label
	})
}

// GMMapID and FullSetID name the maps that are built in.
const (
	GMMapID   = "gm"
	FullSetID = "full"
)

// AllMaps lists the kept maps and those built in.
func (b *Bench) AllMaps() ([]store.KeptMap, error) {
	kept, err := b.Maps()
	if err != nil {
		return nil, err
	}
	return append(kept, store.KeptMap{ID: GMMapID, Name: drummap.GeneralMIDI().Name, Description: "General MIDI Level 1 percussion key map", Map: drummap.GeneralMIDI(), BuiltIn: true},
		store.KeptMap{ID: FullSetID, Name: drummap.FullSet().Name, Description: "Twelve roles at their General MIDI notes", Map: drummap.FullSet(), BuiltIn: true}), nil
}

// defaultMap is the map an empty kit begins with: the kept one marked so, else the full set.
func (b *Bench) defaultMap() (drummap.Map, error) {
	kept, err := b.Maps()
	for _, m := range kept {
		if m.Default && !m.Earlier {
			return m.Map, nil
		}
	}
	return drummap.FullSet(), err
}

// roleByName guesses a lane's role from its name, "" when it says nothing.
func roleByName(name string) drummap.Role {
	if r, ok := kind.ByName(name, "").Role(); ok && r.Valid() {
		return r
	}
	return ""
}

// MapFromKit names a map's lanes by a kit's pads: by the samples' names and roles.
func (b *Bench) MapFromKit(p store.Project) drummap.Map { return mapOf(p.Kit.WithSounds()) }

// ReadMap reads a map from a MIDNAM or CSV file, or from the notes of a MIDI file. middleC is the octave in which a
// table's note names count middle C.
func ReadMap(name string, data []byte, middleC int) (drummap.Map, error) {
	stem := strings.TrimSuffix(filepath.Base(name), filepath.Ext(name))
	switch strings.ToLower(filepath.Ext(name)) {
	case ".midnam", ".xml":
		return midnam.Decode(data, roleByName)
	case ".csv":
		return mapcsv.Decode(stem, data, roleByName, middleC)
	case ".mid", ".midi":
		f, err := smf.Decode(data)
		if err != nil {
			return drummap.Map{}, fmt.Errorf("%s: %w", name, err)
		}
		return mapFromMIDI(stem, f), nil
	}
	return drummap.Map{}, fmt.Errorf("%s: %w: a map is read from a .midnam, .csv or .mid file", path.Base(name), ErrInput)
}

// mapFromMIDI has a lane for every note a file plays: named by its track when that plays nothing else, else by General
// MIDI.
func mapFromMIDI(name string, f smf.File) drummap.Map {
	m := drummap.Map{Name: name, Lanes: []drummap.Lane{}}
	names := map[int]string{}
	for _, t := range f.Tracks {
		keys := map[int]bool{}
		for _, n := range t.Notes {
			keys[n.Key] = true
		}
		for key := range keys {
			if len(keys) == 1 && t.Name != "" {
				names[key] = t.Name
			} else if names[key] == "" {
				names[key] = drummap.GMName(key)
			}
		}
	}
	notes := make([]int, 0, len(names))
	for n := range names {
		notes = append(notes, n)
	}
	sort.Sort(sort.Reverse(sort.IntSlice(notes)))
	for _, n := range notes {
		label := names[n]
		if label == "" {
			label = fmt.Sprintf("note %d", n)
		}
		m.Lanes = append(m.Lanes, m.Named(n, label, roleByName(label)))
	}
	return m
}

// WriteMap writes a map as "midnam" or "csv". lost lists what the format cannot carry.
func WriteMap(m drummap.Map, as string) (name string, data []byte, lost []string, err error) {
	switch as {
	case "midnam":
		data, err = midnam.Encode(m)
		return m.Name + ".midnam", data, midnam.Loses(m), err
	case "csv":
		data, err = mapcsv.Encode(m)
		return m.Name + ".csv", data, nil, err
	}
	return "", nil, nil, fmt.Errorf("%w: a map is written as “midnam” or “csv”, not %q", ErrInput, as)
}

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
	Patterns    []string    `json:"patterns,omitempty"`
	Copies      bool        `json:"copies,omitempty"`   // make copies instead of changing the patterns
	Remember    bool        `json:"remember,omitempty"` // the corrections, for this pair of maps
}

func (r CarryRequest) chosen(id string) bool {
	if r.Patterns == nil {
		return true
	}
	for _, p := range r.Patterns {
		if p == id {
			return true
		}
	}
	return false
}

// PlanCarry finds where hits would go: as corrected now, as corrected before, by role, by name, by note.
func (b *Bench) PlanCarry(p store.Project, r CarryRequest) (CarryPlan, error) {
	corrections, err := b.Corrections(r.From.Name, r.To.Name)
	if err != nil {
		return CarryPlan{}, err
	}
	for n, to := range r.Corrections {
		corrections[n] = to
	}
	plan := CarryPlan{Hits: map[int]int{}, Patterns: []PatternCarry{}, Differences: drummap.Compare(r.From, r.To)}
	var notes []int
	for _, pt := range p.Patterns {
		if !r.chosen(pt.ID) {
			continue
		}
		for _, h := range pt.Value.Hits {
			if plan.Hits[h.Note]++; plan.Hits[h.Note] == 1 {
				notes = append(notes, h.Note)
			}
		}
	}
	sort.Ints(notes)
	plan.Links = drummap.Carry(r.From, r.To, notes, corrections)
	home := map[int]bool{}
	for _, l := range plan.Links {
		home[l.From] = l.To >= 0
	}
	for _, pt := range p.Patterns {
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
	return plan, nil
}

// CarryPatterns does what PlanCarry plans, in one edit. Hits without a home stay as they are.
func (b *Bench) CarryPatterns(projectID string, revision int64, r CarryRequest) (int64, error) {
	p, err := b.Load(projectID)
	if err != nil {
		return revision, err
	}
	plan, err := b.PlanCarry(p, r)
	if err != nil {
		return revision, err
	}
	moves := map[int]int{}
	for _, l := range plan.Links {
		if l.To >= 0 && l.To != l.From {
			moves[l.From] = l.To
		}
	}
	next, err := b.Edit(projectID, revision, func(tx *store.Tx) string {
		n := 0
		for _, pt := range p.Patterns {
			if !r.chosen(pt.ID) {
				continue
			}
			n++
			e := pattern.Edit{Op: pattern.OpRenote, Moves: moves}
			if r.Copies {
				moved, _, err := pattern.Apply(pt.Value, e)
				tx.Fail(err)
				moved.Name += " " + r.To.Name
				tx.AddPattern(moved)
				continue
			}
			tx.EditPattern(pt.ID, e)
		}
		return fmt.Sprintf("Carry %d patterns to %s", n, r.To.Name)
	})
	if err == nil && r.Remember {
		err = b.RememberCorrections(r.From.Name, r.To.Name, r.Corrections)
	}
	return next, err
}
