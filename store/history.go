package store

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"hexachord/core/project"
)

// Done is what an edit, an undo or a jump led to.
type Done struct {
	Project project.Project
	// Others is what was changed after the revision the edit was made on and before the edit itself.
	Others  []project.Change
	Changes []project.Change
}

// Conflict is an edit that was made on an older revision and touches what was changed since.
type Conflict struct {
	Labels []string // of what happened meanwhile, the newest last; none when it is not known any more
}

func (c Conflict) Error() string {
	if len(c.Labels) == 0 {
		return ErrStale.Error()
	}
	last := c.Labels[max(0, len(c.Labels)-3):]
	return fmt.Sprintf("%v: “%s”", ErrStale, strings.Join(last, "”, “"))
}

// Is makes every conflict an ErrStale.
func (c Conflict) Is(target error) bool { return target == ErrStale }

// Edit runs edit as one transaction on the project and keeps what undo needs under the label that edit returns. What had been
// undone can no longer be redone after it. An edit that changes nothing leaves no trace. An edit made on an older revision
// is laid over the newer state when nothing in its scope was changed since; else it is refused with a Conflict. An edit that joins
// a name becomes one step with the edit before it when that joined the same; "" joins none.
func (s *Store) Edit(projectID string, revision int64, w project.World, join string, scope func(project.Project) project.Scope, edit func(*project.Draft) (label string, err error)) (Done, error) {
	return s.move(projectID, func(db *gorm.DB, p openProject) (openProject, []project.Change, []project.Change, error) {
		others, err := p.between(revision, scope)
		if err != nil {
			return p, nil, nil, err
		}
		d := project.NewDraft(p.state, w)
		label, err := edit(d)
		if err != nil || len(d.Changes()) == 0 {
			return p, others, nil, err
		}
		changes := d.Changes()
		at, together, err := joins(db, projectID, p.historyAt, join, changes)
		if err != nil {
			return p, nil, nil, err
		}
		text, err := json.Marshal(together)
		if err != nil {
			return p, nil, nil, err
		}
		if err := db.Where("project_id = ? and number >= ?", projectID, at).Delete(&historyRow{}).Error; err != nil {
			return p, nil, nil, err
		}
		if err := db.Omit("Project").Create(&historyRow{ProjectID: projectID, Number: at, Label: label, Changes: text, At: time.Now(), Joined: join}).Error; err != nil {
			return p, nil, nil, err
		}
		next := d.State
		next.Undo, next.Redo = label, ""
		return p.with(next, at, edited{label: label, changes: changes}), others, changes, s.keep(db, next, touchedBy(changes))
	})
}

// joins finds the number of the history's row for an edit, and what the row says was changed: with the edit before it when both join one
// name.
func joins(db *gorm.DB, projectID string, at int64, join string, changes []project.Change) (int64, []project.Change, error) {
	if join == "" || at == 0 {
		return at + 1, changes, nil
	}
	var last historyRow
	if err := db.Omit("Project").First(&last, "project_id = ? and number = ?", projectID, at).Error; err != nil {
		return 0, nil, notFound(err, "the last edit")
	}
	if last.Joined != join || join == gathered {
		return at + 1, changes, nil
	}
	var before []project.Change
	if err := json.Unmarshal(last.Changes, &before); err != nil {
		return 0, nil, fmt.Errorf("edit %d of the history cannot be read: %w", at, err)
	}
	return at, project.Joined(before, changes), nil
}

// between is what was changed since a revision; a Conflict when the scope touches one of the changes.
func (p openProject) between(revision int64, scope func(project.Project) project.Scope) (others []project.Change, err error) {
	if revision == p.state.Revision {
		return nil, nil
	}
	since, known := p.after(revision)
	if !known {
		return nil, Conflict{}
	}
	of := scope(p.state.Project)
	var all []project.Change
	touches := false
	var labels []string
	for _, e := range since {
		labels = append(labels, e.label)
		for _, c := range e.changes {
			touches = touches || of.Touches(c)
		}
		all = append(all, e.changes...)
	}
	if touches {
		return nil, Conflict{labels}
	}
	return all, nil
}

// move leads a project to its next revision, in memory as on disk.
func (s *Store) move(projectID string, f func(*gorm.DB, openProject) (openProject, []project.Change, []project.Change, error)) (done Done, err error) {
	var next openProject
	moved := false
	s.writing.Lock() // until what is held says the same as the disk
	defer s.writing.Unlock()
	err = s.write.Transaction(func(db *gorm.DB) error {
		p, err := s.current(db, projectID)
		if err != nil {
			return err
		}
		next, done.Others, done.Changes, err = f(db, p)
		if err != nil {
			return err
		}
		if moved = next.historyAt != p.historyAt || len(done.Changes) > 0; !moved {
			return nil
		}
		next.state.Revision = p.state.Revision + 1
		next.since[len(next.since)-1].revision = next.state.Revision
		return db.Model(&projectRow{ID: projectID}).Updates(map[string]any{"revision": next.state.Revision, "history_at": next.historyAt, "updated_at": time.Now()}).Error
	})
	if err != nil {
		return Done{}, named(err)
	}
	if moved {
		s.open.put(projectID, next)
	}
	done.Project = next.state.Project
	return done, nil
}

// Undo takes the last edit back; ErrNoUndo when there is none. What others did meanwhile is not taken back unseen: the
// revision must be the newest.
func (s *Store) Undo(projectID string, revision int64) (Done, error) {
	return s.step(projectID, revision, func(db *gorm.DB, at int64) (int64, error) {
		if at == 0 {
			return 0, ErrNoUndo
		}
		row, err := stepBeside(db, projectID, "number < ?", at, "number desc")
		return row.Number, err
	})
}

// Redo does an undone edit again; ErrNoRedo when there is none.
func (s *Store) Redo(projectID string, revision int64) (Done, error) {
	return s.step(projectID, revision, func(db *gorm.DB, at int64) (int64, error) {
		row, err := stepBeside(db, projectID, "number > ?", at, "number")
		if err == nil && row.Number == 0 {
			err = ErrNoRedo
		}
		return row.Number, err
	})
}

// JumpTo takes edits back, or does them again, until the edit of that number is the last one in force (0: none).
func (s *Store) JumpTo(projectID string, revision, number int64) (Done, error) {
	return s.step(projectID, revision, func(db *gorm.DB, _ int64) (int64, error) {
		row, err := stepBeside(db, projectID, "number = ?", number, "number")
		if err == nil && row.Number != number { // 0 of no row is the beginning
			err = fmt.Errorf("that edit: %w", ErrNotFound)
		}
		return number, err
	})
}

// stepBeside finds a step of the history by its number, without what it changed; its number is 0 when there is none.
func stepBeside(db *gorm.DB, projectID, where string, number int64, order string) (historyRow, error) {
	var rows []historyRow
	err := db.Select("number", "label").Where("project_id = ? and "+where, projectID, number).Order(order).Limit(1).Find(&rows).Error
	if err != nil || len(rows) == 0 {
		return historyRow{}, err
	}
	return rows[0], nil
}

// everything is the scope of what goes by all that happened.
func everything(project.Project) project.Scope { return project.Scope{All: true} }

// step goes to another place in the history. Numbers of steps grow, but need not follow one another.
func (s *Store) step(projectID string, revision int64, to func(db *gorm.DB, at int64) (int64, error)) (Done, error) {
	return s.move(projectID, func(db *gorm.DB, p openProject) (openProject, []project.Change, []project.Change, error) {
		if _, err := p.between(revision, everything); err != nil {
			return p, nil, nil, err
		}
		number, err := to(db, p.historyAt)
		if err != nil || number == p.historyAt {
			return p, nil, nil, err
		}
		var rows []historyRow
		backwards := number < p.historyAt
		lo, hi := min(number, p.historyAt), max(number, p.historyAt)
		order := "number"
		if backwards {
			order = "number desc"
		}
		if err := db.Where("project_id = ? and number > ? and number <= ?", projectID, lo, hi).Order(order).Find(&rows).Error; err != nil {
			return p, nil, nil, err
		}
		var all []project.Change
		for _, h := range rows {
			var changes []project.Change
			if err := json.Unmarshal(h.Changes, &changes); err != nil {
				return p, nil, nil, fmt.Errorf("edit %d of the history cannot be read: %w", h.Number, err)
			}
			if backwards {
				changes = project.Inverted(changes)
			}
			all = append(all, changes...)
		}
		next, touched, err := p.state.Replay(all)
		if err != nil {
			return p, nil, nil, err
		}
		if next.Undo, next.Redo, err = historyLabels(db, projectID, number); err != nil {
			return p, nil, nil, err
		}
		label := "Undo " + rows[0].Label
		switch {
		case len(rows) > 1:
			label = "Another place in the history"
		case !backwards:
			label = "Redo " + rows[0].Label
		}
		if len(rows) > 1 { // what matters of a jump is where it led
			all = p.state.Differences(next, touched)
		}
		return p.with(next, number, edited{label: label, changes: all}), nil, all, s.keep(db, next, touched)
	})
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

// History lists a project's edits, the newest first: those before the edit of a number, or (0) the newest.
func (s *Store) History(projectID string, before int64) ([]HistoryEntry, error) {
	var row projectRow
	if err := s.read.First(&row, "id = ?", projectID).Error; err != nil {
		return nil, notFound(err, "the project")
	}
	find := s.read.Select("number", "label", "at").Where("project_id = ?", projectID)
	if before > 0 {
		find = find.Where("number < ?", before)
	}
	var rows []historyRow
	err := find.Order("number desc").Limit(mostHistory).Find(&rows).Error
	out := make([]HistoryEntry, len(rows))
	for i, h := range rows {
		out[i] = HistoryEntry{h.Number, h.Label, h.At, h.Number > row.HistoryAt}
	}
	return out, err
}

func historyLabels(db *gorm.DB, projectID string, at int64) (undo, redo string, err error) {
	last, err := stepBeside(db, projectID, "number = ?", at, "number")
	if err != nil {
		return "", "", err
	}
	next, err := stepBeside(db, projectID, "number > ?", at, "number")
	return last.Label, next.Label, err
}
