package store

import (
	"crypto/rand"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hexachord/core/project"
)

// ProjectInfo is a project's line in a list.
type ProjectInfo struct {
	ID        string    `json:"id"`
	Name      string    `json:"name"` // "" as long as nobody gave it one
	Revision  int64     `json:"revision"`
	UpdatedAt time.Time `json:"updatedAt"`
	OpenedAt  time.Time `json:"openedAt"` // when a window last opened it; when it was last changed, if that is not known
}

// Projects lists all projects that are not in the trash, last changed first.
func (s *Store) Projects() ([]ProjectInfo, error) {
	var rows []projectRow
	if err := s.read.Where("trashed_at is null").Order("updated_at desc").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]ProjectInfo, len(rows))
	for i, r := range rows {
		out[i] = ProjectInfo{r.ID, r.Name, r.Revision, r.UpdatedAt, r.UpdatedAt}
		if r.OpenedAt != nil {
			out[i].OpenedAt = *r.OpenedAt
		}
	}
	return out, nil
}

// Opened notes that a window opened a project.
func (s *Store) Opened(id string) error {
	return s.setProject(id, map[string]any{"opened_at": time.Now()})
}

// RenameProject gives a project another name; "" takes its name away.
func (s *Store) RenameProject(id, name string) error {
	if err := s.setProject(id, map[string]any{"name": name}); err != nil {
		return err
	}
	s.writing.Lock()
	defer s.writing.Unlock()
	if p, ok := s.open.get(id); ok {
		p.state.Name = name
		s.open.put(id, p)
	}
	return nil
}

// setProject changes what is known of a project beside its documents, which is no edit.
func (s *Store) setProject(id string, values map[string]any) error {
	return s.change(func(db *gorm.DB) error {
		done := db.Model(&projectRow{}).Where("id = ? and trashed_at is null", id).UpdateColumns(values)
		if done.Error == nil && done.RowsAffected == 0 {
			return fmt.Errorf("the project: %w", ErrNotFound)
		}
		return done.Error
	})
}

// DuplicateProject copies a project as it is now, without its history, under another name.
func (s *Store) DuplicateProject(id, name string) (copied string, err error) {
	of, err := s.State(id)
	if err != nil {
		return "", err
	}
	copied = NewID()
	return copied, s.change(func(db *gorm.DB) error {
		if err := db.Create(&projectRow{ID: copied, Name: name, Revision: 1}).Error; err != nil {
			return err
		}
		return db.Exec("INSERT INTO documents (project_id, kind, id, position, body) SELECT ?, kind, id, position, body FROM documents WHERE project_id = ?", copied, of.ID).Error
	})
}

// Peek gives a whole project without holding it at hand.
func (s *Store) Peek(id string) (project.Project, error) {
	if p, ok := s.open.get(id); ok {
		return p.state.Project, nil
	}
	p, err := readProject(s.read, id)
	return p.state.Project, err
}

// CreateProject makes a project; fill puts in what it begins with. Making it is not an edit: there is nothing before it to undo
// to.
func (s *Store) CreateProject(name string, w project.World, fill func(*project.Draft) error) (id string, err error) {
	id = NewID()
	d := project.NewDraft(project.NewState(id, name, 1, nil), w)
	if err := fill(d); err != nil {
		return "", err
	}
	err = s.change(func(db *gorm.DB) error {
		if err := db.Create(&projectRow{ID: id, Name: name, Revision: 1}).Error; err != nil {
			return err
		}
		return s.keep(db, d.State, touchedBy(d.Changes()))
	})
	return id, err
}

// NewID is random and short enough for an address line.
func NewID() string { return rand.Text()[:16] }

// Load gives a whole project as of now. It is shared: it must not be changed.
func (s *Store) Load(id string) (project.Project, error) {
	if p, ok := s.open.get(id); ok {
		return p.state.Project, nil
	}
	s.writing.Lock()
	defer s.writing.Unlock()
	p, err := s.current(s.read, id)
	return p.state.Project, err
}

// State gives a whole project with its documents, as of now.
func (s *Store) State(id string) (project.State, error) {
	if _, err := s.Load(id); err != nil {
		return project.State{}, err
	}
	s.writing.Lock()
	defer s.writing.Unlock()
	p, err := s.current(s.read, id)
	return p.state, err
}

// keep writes the documents of a state that were touched.
func (s *Store) keep(db *gorm.DB, state project.State, touched []project.Key) error {
	var rows []documentRow
	for _, k := range touched {
		if d, ok := state.Document(k); ok {
			rows = append(rows, documentRow{ProjectID: state.ID, Kind: string(k.Kind), ID: k.ID, Position: d.Position, Body: d.Body})
			continue
		}
		if err := db.Where("project_id = ? and kind = ? and id = ?", state.ID, k.Kind, k.ID).Delete(&documentRow{}).Error; err != nil {
			return err
		}
	}
	if len(rows) == 0 {
		return nil
	}
	return db.Omit("Project").Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(&rows, 100).Error
}

// touchedBy are the documents changes touched, each once.
func touchedBy(changes []project.Change) (keys []project.Key) {
	seen := map[project.Key]bool{}
	for _, c := range changes {
		if k := c.Key(); !seen[k] {
			seen[k] = true
			keys = append(keys, k)
		}
	}
	return keys
}
