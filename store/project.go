package store

import (
	"crypto/rand"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hexachord/core/project"
)

// ProjectInfo is a project's line in a list.
type ProjectInfo struct {
	ID        string    `json:"id"`
	Name      string    `json:"name"`
	UpdatedAt time.Time `json:"updatedAt"`
}

// Projects lists all projects, last changed first.
func (s *Store) Projects() ([]ProjectInfo, error) {
	var rows []projectRow
	if err := s.read.Order("updated_at desc").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]ProjectInfo, len(rows))
	for i, r := range rows {
		out[i] = ProjectInfo{r.ID, r.Name, r.UpdatedAt}
	}
	return out, nil
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
