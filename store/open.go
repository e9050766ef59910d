package store

import (
	"fmt"
	"slices"
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"
	"gorm.io/gorm"

	"hexachord/core/project"
)

// Projects in use are held whole, as of their last edit: reading one costs nothing, an edit what it touches.

const (
	mostOpen     = 8        // projects held
	mostKnown    = 2_000    // edits of each that are known, so that one made on an older revision can be laid over the newer state
	mostKnownLen = 16 << 20 // bytes these may take
)

// openProject is a project at its revision, with what led there since it was read.
type openProject struct {
	state     project.State
	historyAt int64
	since     []edited // oldest first; the last one led to the revision of state
	bytes     int
}

// edited is what an edit, an undo or a jump changed.
type edited struct {
	revision int64 // that it led to
	label    string
	changes  []project.Change
	bytes    int
}

type openProjects struct {
	mu  sync.Mutex
	all *lru.Cache[string, *openProject]
}

func newOpenProjects() *openProjects {
	all, err := lru.New[string, *openProject](mostOpen)
	if err != nil {
		panic(err) // the size is a constant above 0
	}
	return &openProjects{all: all}
}

func (o *openProjects) get(id string) (openProject, bool) {
	o.mu.Lock()
	defer o.mu.Unlock()
	p, ok := o.all.Get(id)
	if !ok {
		return openProject{}, false
	}
	return *p, true
}

func (o *openProjects) forget(id string) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.all.Remove(id)
}

func (o *openProjects) put(id string, p openProject) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.all.Add(id, &p)
}

// with is the project after an edit.
func (p openProject) with(next project.State, historyAt int64, e edited) openProject {
	for _, c := range e.changes {
		e.bytes += len(c.Before) + len(c.After) + 200
		if c.Pattern != nil {
			e.bytes += 100 * (len(c.Pattern.Added) + len(c.Pattern.Removed))
		}
	}
	since := append(slices.Clip(p.since), e)
	bytes := p.bytes + e.bytes
	for len(since) > 1 && (len(since) > mostKnown || bytes > mostKnownLen) {
		bytes -= since[0].bytes
		since = since[1:]
	}
	return openProject{next, historyAt, since, bytes}
}

// after are the edits that led from a revision to now; false when they are not known.
func (p openProject) after(revision int64) ([]edited, bool) {
	if revision > p.state.Revision {
		return nil, false
	}
	n := int(p.state.Revision - revision)
	if n > len(p.since) {
		return nil, false
	}
	return p.since[len(p.since)-n:], true
}

// current is a project as it is now: held, or read. The caller writes, or holds the lock of those that do.
func (s *Store) current(db *gorm.DB, id string) (openProject, error) {
	if p, ok := s.open.get(id); ok {
		return p, nil
	}
	p, err := readProject(db, id)
	if err == nil {
		s.open.put(id, p)
	}
	return p, err
}

// readProject reads a project as of its last edit.
func readProject(db *gorm.DB, id string) (openProject, error) {
	var row projectRow
	if err := db.First(&row, "id = ?", id).Error; err != nil {
		return openProject{}, notFound(err, "the project")
	}
	if row.TrashedAt != nil {
		return openProject{}, fmt.Errorf("the project: %w", ErrTrashed)
	}
	var rows []documentRow
	if err := db.Where("project_id = ?", id).Find(&rows).Error; err != nil {
		return openProject{}, err
	}
	docs := make([]project.Document, len(rows))
	for i, r := range rows {
		var err error
		if docs[i], err = project.Read(project.Key{Kind: project.Kind(r.Kind), ID: r.ID}, r.Position, r.Body); err != nil {
			return openProject{}, err
		}
	}
	p := openProject{state: project.NewState(row.ID, row.Name, row.Revision, docs), historyAt: row.HistoryAt}
	var err error
	p.state.Undo, p.state.Redo, err = historyLabels(db, id, row.HistoryAt)
	return p, err
}
