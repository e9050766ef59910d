package store

import (
	"crypto/rand"
	"encoding/json"
	"time"

	"gorm.io/gorm"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/pattern"
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
	if err := s.db.Order("updated_at desc").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]ProjectInfo, len(rows))
	for i, r := range rows {
		out[i] = ProjectInfo{r.ID, r.Name, r.UpdatedAt}
	}
	return out, nil
}

// CreateProject makes a project; what p holds is what it begins with. Making it is not an edit: there is
// nothing before it to undo to.
func (s *Store) CreateProject(p Project) (id string, err error) {
	id = newID()
	return id, s.db.Transaction(func(db *gorm.DB) error {
		if err := db.Create(&projectRow{ID: id, Name: p.Name, Revision: 1}).Error; err != nil {
			return err
		}
		tx := &Tx{db: db, projectID: id}
		tx.PutSettings(p.Settings)
		tx.PutMap(p.Map)
		tx.PutKit(p.Kit)
		for _, pt := range p.Patterns {
			tx.AddPattern(pt.Value)
		}
		return tx.err
	})
}

// newID is random and short enough for an address line.
func newID() string { return rand.Text()[:16] }

// Load reads a whole project as of one moment. What it gives is shared: it must not be changed.
func (s *Store) Load(id string) (Project, error) {
	var p Project
	err := s.db.Transaction(func(db *gorm.DB) error {
		var row projectRow
		if err := db.First(&row, "id = ?", id).Error; err != nil {
			return notFound(err, "the project")
		}
		docs, err := s.cache.documents(db, row)
		if err != nil {
			return err
		}
		p = projectOf(row, docs)
		p.Undo, p.Redo, err = historyLabels(db, row)
		return err
	})
	return p, err
}

// Tx is one edit under way. After a fault its calls do nothing; Edit returns the fault and nothing is changed.
type Tx struct {
	db        *gorm.DB
	projectID string
	changes   []change
	touched   []docKey
	err       error
}

// Fail ends the edit with err, when there is one.
func (tx *Tx) Fail(err error) {
	if tx.err == nil {
		tx.err = err
	}
}

// PutSettings replaces the settings.
func (tx *Tx) PutSettings(s Settings) { tx.putChecked(kindSettings, only, s, s.Check) }

// PutMap replaces the drum map.
func (tx *Tx) PutMap(m drummap.Map) { tx.putChecked(kindMap, only, m, m.Check) }

// PutKit replaces the kit.
func (tx *Tx) PutKit(k kit.Kit) { tx.putChecked(kindKit, only, k, k.Check) }

// AddPattern adds a pattern after the others and returns its ID.
func (tx *Tx) AddPattern(p pattern.Pattern) (id string) {
	id = newID()
	tx.putChecked(kindPattern, id, p, p.Check)
	return id
}

// EditPattern applies an edit and returns the pattern it leads to.
func (tx *Tx) EditPattern(id string, e pattern.Edit) (next pattern.Pattern, done pattern.Change) {
	row, ok := tx.row(kindPattern, id)
	if !ok {
		return next, done
	}
	var p pattern.Pattern
	if err := json.Unmarshal(row.Body, &p); err != nil {
		tx.Fail(err)
		return next, done
	}
	next, done, err := pattern.Apply(p, e)
	if err != nil {
		tx.Fail(err)
		return p, done
	}
	if done.Empty() {
		return p, done
	}
	tx.save(row, next)
	tx.changes = append(tx.changes, change{Kind: kindPattern, ID: id, Position: row.Position, Pattern: &done})
	return next, done
}

// PutPattern replaces a pattern.
func (tx *Tx) PutPattern(id string, p pattern.Pattern) {
	if _, ok := tx.row(kindPattern, id); ok {
		tx.putChecked(kindPattern, id, p, p.Check)
	}
}

// AddGroove keeps a groove and returns its ID.
func (tx *Tx) AddGroove(g feel.Groove) (id string) {
	id = newID()
	tx.putChecked(kindGroove, id, g, g.Check)
	return id
}

// PutGroove replaces a groove.
func (tx *Tx) PutGroove(id string, g feel.Groove) {
	if _, ok := tx.row(kindGroove, id); ok {
		tx.putChecked(kindGroove, id, g, g.Check)
	}
}

// DeleteGroove removes a groove; undo brings it back. A feel that names it plays without it.
func (tx *Tx) DeleteGroove(id string) { tx.remove(kindGroove, id) }

// DeletePattern removes a pattern; undo brings it back.
func (tx *Tx) DeletePattern(id string) { tx.remove(kindPattern, id) }

// AddRecording adds a recording and returns its ID.
func (tx *Tx) AddRecording(r Recording) (id string) {
	id = newID()
	tx.putChecked(kindRecording, id, r, func() error { return nil })
	return id
}

// PutRecording replaces a recording.
func (tx *Tx) PutRecording(id string, r Recording) {
	if _, ok := tx.row(kindRecording, id); ok {
		tx.putChecked(kindRecording, id, r, func() error { return nil })
	}
}

func (tx *Tx) putChecked(kind, id string, value any, check func() error) {
	if tx.err != nil {
		return
	}
	if err := check(); err != nil {
		tx.Fail(err)
		return
	}
	body, err := json.Marshal(value)
	if err != nil {
		tx.Fail(err)
		return
	}
	var old []documentRow
	if err := tx.db.Where("project_id = ? and kind = ? and id = ?", tx.projectID, kind, id).Find(&old).Error; err != nil {
		tx.Fail(err)
		return
	}
	c := change{Kind: kind, ID: id, After: body}
	if len(old) > 0 {
		c.Before, c.Position = old[0].Body, old[0].Position
	} else {
		var last int64
		tx.db.Model(&documentRow{}).Where("project_id = ? and kind = ?", tx.projectID, kind).Select("coalesce(max(position),0)").Scan(&last)
		c.Position = last + 1
	}
	tx.write(documentRow{ProjectID: tx.projectID, Kind: kind, ID: id, Position: c.Position, Body: body})
	tx.changes = append(tx.changes, c)
}

func (tx *Tx) remove(kind, id string) {
	row, ok := tx.row(kind, id)
	if !ok {
		return
	}
	tx.changes = append(tx.changes, change{Kind: kind, ID: id, Position: row.Position, Before: row.Body})
	tx.delete(row)
}

func (tx *Tx) row(kind, id string) (row documentRow, ok bool) {
	if tx.err != nil {
		return row, false
	}
	err := tx.db.First(&row, "project_id = ? and kind = ? and id = ?", tx.projectID, kind, id).Error
	tx.Fail(notFound(err, "the "+kind))
	return row, err == nil
}

func (tx *Tx) save(row documentRow, value any) {
	body, err := json.Marshal(value)
	if err != nil {
		tx.Fail(err)
		return
	}
	row.Body = body
	tx.write(row)
}

func (tx *Tx) write(row documentRow) {
	if tx.err == nil {
		tx.touched = append(tx.touched, row.key())
		tx.Fail(tx.db.Omit("Project").Save(&row).Error)
	}
}

func (tx *Tx) delete(row documentRow) {
	if tx.err == nil {
		tx.touched = append(tx.touched, row.key())
		tx.Fail(tx.db.Where("project_id = ? and kind = ? and id = ?", row.ProjectID, row.Kind, row.ID).Delete(&documentRow{}).Error)
	}
}
