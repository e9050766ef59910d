package store

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"
	"gorm.io/gorm"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/pattern"
)

// A project of many patterns is read and understood once; afterwards an edit costs what it touches.

type docKey struct{ kind, id string }

func (d documentRow) key() docKey { return docKey{d.Kind, d.ID} }

// document is one document, understood.
type document struct {
	key      docKey
	position int64
	value    any
}

// held are a project's documents as of a revision, in their order, but for those that have changed since.
type held struct {
	revision int64
	docs     []document
	stale    map[docKey]bool
}

type cache struct {
	mu       sync.Mutex
	projects *lru.Cache[string, *held]
}

func newCache() (*cache, error) {
	projects, err := lru.New[string, *held](8)
	return &cache{projects: projects}, err
}

// changed notes which documents an edit from one revision to the next has touched.
func (c *cache) changed(projectID string, from, to int64, touched []docKey) {
	c.mu.Lock()
	defer c.mu.Unlock()
	h, ok := c.projects.Get(projectID)
	if !ok || h.revision != from {
		return // read anew when it is asked for
	}
	h.revision = to
	for _, k := range touched {
		h.stale[k] = true
	}
}

// documents are those of a project at the revision of its row.
func (c *cache) documents(db *gorm.DB, row projectRow) ([]document, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	h, ok := c.projects.Get(row.ID)
	if !ok || h.revision != row.Revision {
		var rows []documentRow
		if err := db.Where("project_id = ?", row.ID).Find(&rows).Error; err != nil {
			return nil, err
		}
		h = &held{revision: row.Revision, stale: map[docKey]bool{}}
		for _, r := range rows {
			d, err := understand(r)
			if err != nil {
				return nil, err
			}
			h.docs = append(h.docs, d)
		}
		slices.SortFunc(h.docs, byPosition)
		c.projects.Add(row.ID, h)
		return slices.Clone(h.docs), nil
	}
	if len(h.stale) == 0 {
		return slices.Clone(h.docs), nil
	}
	next := slices.DeleteFunc(slices.Clone(h.docs), func(d document) bool { return h.stale[d.key] })
	for k := range h.stale {
		var rows []documentRow
		if err := db.Where("project_id = ? and kind = ? and id = ?", row.ID, k.kind, k.id).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			d, err := understand(r)
			if err != nil {
				return nil, err
			}
			next = append(next, d)
		}
	}
	slices.SortFunc(next, byPosition)
	h.docs, h.stale = next, map[docKey]bool{}
	return slices.Clone(next), nil
}

func byPosition(a, b document) int {
	return cmp.Or(cmp.Compare(a.position, b.position), cmp.Compare(a.key.id, b.key.id), cmp.Compare(a.key.kind, b.key.kind))
}

func understand(r documentRow) (document, error) {
	var err error
	d := document{key: r.key(), position: r.Position}
	switch r.Kind {
	case kindSettings:
		v := NewSettings() // what an older version did not know
		err = json.Unmarshal(r.Body, &v)
		d.value = v
	case kindMap:
		d.value, err = read[drummap.Map](r.Body)
	case kindKit:
		d.value, err = read[kit.Kit](r.Body)
	case kindPattern:
		d.value, err = read[pattern.Pattern](r.Body)
	case kindRecording:
		d.value, err = read[Recording](r.Body)
	case kindGroove:
		d.value, err = read[feel.Groove](r.Body)
	}
	if err != nil {
		return d, fmt.Errorf("the project's %s cannot be read: %w", r.Kind, err)
	}
	return d, nil
}

func read[T any](body []byte) (v T, err error) {
	err = json.Unmarshal(body, &v)
	return v, err
}

// projectOf puts a project together from its documents.
func projectOf(row projectRow, docs []document) Project {
	p := Project{ID: row.ID, Name: row.Name, Revision: row.Revision,
		Patterns: []Stored[pattern.Pattern]{}, Recordings: []Stored[Recording]{}, Grooves: []Stored[feel.Groove]{}}
	for _, d := range docs {
		switch v := d.value.(type) {
		case Settings:
			p.Settings = v
		case drummap.Map:
			p.Map = v
		case kit.Kit:
			p.Kit = v
		case pattern.Pattern:
			p.Patterns = append(p.Patterns, Stored[pattern.Pattern]{d.key.id, v})
		case Recording:
			p.Recordings = append(p.Recordings, Stored[Recording]{d.key.id, v})
		case feel.Groove:
			p.Grooves = append(p.Grooves, Stored[feel.Groove]{d.key.id, v})
		}
	}
	return p
}
