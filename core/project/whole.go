package project

import (
	"errors"
	"fmt"
	"slices"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

// Documents are all documents of a project, in the order of their kinds and positions.
func (s State) Documents() []Document {
	out := make([]Document, 0, len(s.docs))
	for _, d := range s.docs {
		out = append(out, d)
	}
	slices.SortFunc(out, func(a, b Document) int {
		if a.Kind != b.Kind {
			if a.Kind < b.Kind {
				return -1
			}
			return 1
		}
		if a.Position != b.Position {
			return int(a.Position - b.Position)
		}
		if a.ID < b.ID {
			return -1
		}
		return 1
	})
	return out
}

// maxID is how long the ID of a document may be.
const maxID = 64

// Restore puts documents into a project that is being made, under their own IDs. Those that are damaged are left out and said; what a project
// cannot be without is put as it is in a new one.
func (d *Draft) Restore(docs []Document) (said []string) {
	for _, doc := range docs {
		facts, ok := kinds[doc.Kind]
		if !ok || doc.ID == "" || len(doc.ID) > maxID {
			said = append(said, fmt.Sprintf("a document of the kind %q is left out: this version does not know it", doc.Kind))
			continue
		}
		value, err := facts.read(doc.Body)
		if err == nil {
			err = d.put(doc.Kind, doc.ID, value)
		}
		if err != nil {
			said = append(said, fmt.Sprintf("a %s is left out, it is damaged: %v", doc.Kind, err))
		}
	}
	return said
}

// PutMissing puts what a project cannot be without, where it is not there; lacked says whether something was not.
func (d *Draft) PutMissing(s Settings, m drummap.Map, k kit.Kit) (lacked bool, err error) {
	for key, value := range map[Kind]any{KindSettings: s, KindMap: m, KindKit: k} {
		if _, ok := d.docs[Key{key, only}]; !ok {
			lacked = true
			err = errors.Join(err, d.put(key, only, value))
		}
	}
	if len(d.Patterns) == 0 {
		lacked = true
		_, added := d.AddPattern(pattern.Pattern{Name: FirstPattern, Bars: 2, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}})
		err = errors.Join(err, added)
	}
	return lacked, err
}

// Straight is the project with no feel laid over anything: hits sound where they are written.
func (p Project) Straight() Project {
	p.Settings.Feel, p.first.settings.Feel = feel.Straight, feel.Straight
	p.Patterns, p.Sections = slices.Clone(p.Patterns), slices.Clone(p.Sections)
	for i := range p.Patterns {
		p.Patterns[i].Value.Feel = nil
	}
	for i := range p.Sections {
		p.Sections[i].Value.Feel = nil
	}
	return p
}

// ErrBundle is a bundle that holds no project.
var ErrBundle = errors.New("this is not a project bundle")
