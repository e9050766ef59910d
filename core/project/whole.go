package project

import (
	"cmp"
	"encoding/json"
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
		return cmp.Or(cmp.Compare(a.Kind, b.Kind), cmp.Compare(a.Position, b.Position), cmp.Compare(a.ID, b.ID))
	})
	return out
}

// maxID is how long the ID of a document may be.
const maxID = 64

// mostDocuments is how many documents are restored: twice what the largest project is meant to hold.
const mostDocuments = 20_000

// Restore puts documents into a project that is being made, under their own IDs, in their order. Those that are damaged are left out and said.
func (d *Draft) Restore(docs []Document) (said []string) {
	kept := map[Key]*Document{}
	for _, doc := range docs {
		facts, ok := kinds[doc.Kind]
		if !ok || doc.ID == "" || len(doc.ID) > maxID {
			said = append(said, fmt.Sprintf("a document of the kind %q is left out: this version does not know it", doc.Kind))
			continue
		}
		if len(kept) >= mostDocuments {
			return append(said, fmt.Sprintf("what comes after %d documents is left out", mostDocuments))
		}
		value, err := facts.read(doc.Body)
		if err == nil {
			err = facts.check(value)
		}
		var body []byte
		if err == nil {
			body, err = json.Marshal(value)
		}
		if err != nil {
			said = append(said, fmt.Sprintf("a %s is left out, it is damaged: %v", doc.Kind, err))
			continue
		}
		own := Document{Key: doc.Key, Position: int64(len(kept) + 1), Value: value, Body: body}
		kept[doc.Key] = &own
		d.changes = append(d.changes, Change{Kind: doc.Kind, ID: doc.ID, Position: own.Position, After: body})
	}
	d.State = d.with(kept) // all at once: one by one each would be laid in the order of all others
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
