package service

import (
	"fmt"
	"path"
	"path/filepath"
	"sort"
	"strings"

	"hexachord/core/drummap"
	"hexachord/core/kind"
	"hexachord/core/project"
	"hexachord/format/mapcsv"
	"hexachord/format/midnam"
	"hexachord/format/smf"
	"hexachord/store"
)

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
func (b *Bench) MapFromKit(p project.Project) drummap.Map {
	sounds := map[string]kind.Guess{}
	for _, hash := range p.Kit.Samples() {
		if it, err := b.Sample(hash); err == nil {
			sounds[hash] = kind.Guess{Kind: it.Kind, Confidence: it.Confidence}
		}
	}
	return mapOf(p.Kit.WithSounds(), sounds)
}

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

// PlanCarry finds where hits would go: as corrected now, as corrected before, by role, by name, by note.
func (b *Bench) PlanCarry(p project.Project, r project.CarryRequest) (project.CarryPlan, error) {
	r, err := b.corrected(r)
	if err != nil {
		return project.CarryPlan{}, err
	}
	return p.PlanCarry(r), nil
}
