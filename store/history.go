package store

import (
	"encoding/json"
	"time"

	"gorm.io/gorm"

	"hexachord/core/pattern"
)

// change is what an edit did to one document: its body before and after (nil when it was not there), or,
// for a pattern that was edited, exactly which hits and settings went and came.
type change struct {
	Kind     string          `json:"kind"`
	ID       string          `json:"id"`
	Position int64           `json:"position"`
	Before   json.RawMessage `json:"before,omitempty"`
	After    json.RawMessage `json:"after,omitempty"`
	Pattern  *pattern.Change `json:"pattern,omitempty"`
}

func (c change) inverse() change {
	c.Before, c.After = c.After, c.Before
	if c.Pattern != nil {
		p := c.Pattern.Inverse()
		c.Pattern = &p
	}
	return c
}

// Edit runs edit as one transaction on the project, provided the project is still at revision (ErrStale
// otherwise), and keeps what undo needs under the label that edit returns. What had been undone can no longer be
// redone after it. An edit that changes nothing leaves no trace. The project's new revision is returned.
func (s *Store) Edit(projectID string, revision int64, edit func(*Tx) (label string)) (int64, error) {
	next := revision
	err := s.change(projectID, revision, func(tx *Tx, row *projectRow) error {
		db := tx.db
		label := edit(tx)
		if tx.err != nil || len(tx.changes) == 0 {
			return tx.err
		}
		text, err := json.Marshal(tx.changes)
		if err != nil {
			return err
		}
		if err := db.Where("project_id = ? and number > ?", projectID, row.HistoryAt).Delete(&historyRow{}).Error; err != nil {
			return err
		}
		row.HistoryAt++
		row.Revision++
		next = row.Revision
		return db.Omit("Project").Create(&historyRow{ProjectID: projectID, Number: row.HistoryAt, Label: label, Changes: text, At: time.Now()}).Error
	})
	return next, err
}

// Undo takes the last edit back and returns its label; ErrNoUndo when there is none.
func (s *Store) Undo(projectID string, revision int64) (label string, err error) {
	err = s.change(projectID, revision, func(tx *Tx, row *projectRow) error {
		if row.HistoryAt == 0 {
			return ErrNoUndo
		}
		var h historyRow
		if err := tx.db.First(&h, "project_id = ? and number = ?", projectID, row.HistoryAt).Error; err != nil {
			return notFound(err, "the edit to undo")
		}
		label = h.Label
		row.HistoryAt--
		row.Revision++
		return tx.replay(h, true)
	})
	return label, err
}

// Redo does an undone edit again and returns its label; ErrNoRedo when there is none.
func (s *Store) Redo(projectID string, revision int64) (label string, err error) {
	err = s.change(projectID, revision, func(tx *Tx, row *projectRow) error {
		var h historyRow
		if err := tx.db.First(&h, "project_id = ? and number = ?", projectID, row.HistoryAt+1).Error; err != nil {
			return ErrNoRedo
		}
		label = h.Label
		row.HistoryAt++
		row.Revision++
		return tx.replay(h, false)
	})
	return label, err
}

// HistoryEntry is one edit of a project's history.
type HistoryEntry struct {
	Number int64     `json:"number"`
	Label  string    `json:"label"`
	At     time.Time `json:"at"`
	Undone bool      `json:"undone"` // taken back, and can be done again
}

// mostHistory bounds how much of the history one list shows.
const mostHistory = 500

// History lists a project's edits, the newest first.
func (s *Store) History(projectID string) ([]HistoryEntry, error) {
	var row projectRow
	if err := s.db.First(&row, "id = ?", projectID).Error; err != nil {
		return nil, notFound(err, "the project")
	}
	var rows []historyRow
	err := s.db.Select("number", "label", "at").Where("project_id = ?", projectID).Order("number desc").Limit(mostHistory).Find(&rows).Error
	out := make([]HistoryEntry, len(rows))
	for i, h := range rows {
		out[i] = HistoryEntry{h.Number, h.Label, h.At, h.Number > row.HistoryAt}
	}
	return out, err
}

// JumpTo takes edits back, or does them again, until the edit of that number is the last one in force (0: none).
func (s *Store) JumpTo(projectID string, revision, number int64) error {
	return s.change(projectID, revision, func(tx *Tx, row *projectRow) error {
		for row.HistoryAt != number {
			backwards := row.HistoryAt > number
			at := row.HistoryAt
			if !backwards {
				at++
			}
			var h historyRow
			if err := tx.db.First(&h, "project_id = ? and number = ?", projectID, at).Error; err != nil {
				return notFound(err, "that edit")
			}
			if err := tx.replay(h, backwards); err != nil {
				return err
			}
			if row.HistoryAt = at; backwards {
				row.HistoryAt = at - 1
			}
		}
		row.Revision++
		return nil
	})
}

// change runs f in a transaction on a project that is still at revision.
func (s *Store) change(projectID string, revision int64, f func(*Tx, *projectRow) error) error {
	tx := &Tx{projectID: projectID}
	next := revision
	err := s.db.Transaction(func(db *gorm.DB) error {
		tx.db = db
		var row projectRow
		if err := db.First(&row, "id = ?", projectID).Error; err != nil {
			return notFound(err, "the project")
		}
		if row.Revision != revision {
			return ErrStale
		}
		before := row
		if err := f(tx, &row); err != nil || row == before {
			return err
		}
		next = row.Revision
		return db.Save(&row).Error
	})
	if err == nil {
		s.cache.changed(projectID, revision, next, tx.touched)
	}
	return err
}

// replay does an edit again, or takes it back.
func (tx *Tx) replay(h historyRow, backwards bool) error {
	var changes []change
	if err := json.Unmarshal(h.Changes, &changes); err != nil {
		return err
	}
	for i := range changes {
		c := changes[i]
		if backwards {
			c = changes[len(changes)-1-i].inverse()
		}
		switch {
		case c.Pattern != nil:
			row, ok := tx.row(kindPattern, c.ID)
			if !ok {
				break
			}
			var p pattern.Pattern
			tx.Fail(json.Unmarshal(row.Body, &p))
			tx.save(row, pattern.Redo(p, *c.Pattern))
		case c.After == nil:
			tx.delete(documentRow{ProjectID: tx.projectID, Kind: c.Kind, ID: c.ID})
		default:
			tx.write(documentRow{ProjectID: tx.projectID, Kind: c.Kind, ID: c.ID, Position: c.Position, Body: c.After})
		}
	}
	return tx.err
}

func historyLabels(db *gorm.DB, row projectRow) (undo, redo string, err error) {
	var rows []historyRow
	err = db.Select("number", "label").Where("project_id = ? and number in ?", row.ID, []int64{row.HistoryAt, row.HistoryAt + 1}).Find(&rows).Error
	for _, h := range rows {
		if h.Number == row.HistoryAt {
			undo = h.Label
		} else {
			redo = h.Label
		}
	}
	return undo, redo, err
}
