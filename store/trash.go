package store

import (
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"hexachord/core/drummap"
)

// What can be put in the trash.
const (
	TrashProject = "project"
	TrashKit     = "kit"
	TrashMap     = "map"
)

// Trashed is something in the trash: it stays whole until the trash is emptied.
type Trashed struct {
	What      string      `json:"what" enum:"project,kit,map"`
	ID        string      `json:"id"`
	Name      string      `json:"name"`
	TrashedAt time.Time   `json:"trashedAt"`
	Map       drummap.Map `json:"map"`      // its lanes
	Patterns  int         `json:"patterns"` // of a project
}

// trashTables are the tables of what can be trashed.
var trashTables = map[string]string{TrashProject: "projects", TrashKit: "kits", TrashMap: "maps"}

// Trash puts something in the trash; ErrNotFound when it is not there, or in it already.
func (s *Store) Trash(what, id string) error {
	if err := s.trashed(what, id, "trashed_at is null", time.Now()); err != nil {
		return err
	}
	if what == TrashProject {
		s.writing.Lock()
		defer s.writing.Unlock()
		s.open.forget(id)
	}
	return nil
}

// Restore takes something out of the trash. A kit or map whose name another has by now comes back as an earlier state.
func (s *Store) Restore(what, id string) error {
	if err := s.trashed(what, id, "trashed_at is not null", nil); err != nil || what == TrashProject {
		return err
	}
	return s.change(func(db *gorm.DB) error {
		table := trashTables[what]
		return db.Exec("UPDATE "+table+" SET earlier = true WHERE id = ? AND EXISTS (SELECT 1 FROM "+table+" AS other WHERE other.name = "+table+".name AND other.id <> "+table+".id AND NOT other.earlier AND other.trashed_at IS NULL)", id).Error
	})
}

// trashed sets when something was put in the trash.
func (s *Store) trashed(what, id, where string, at any) error {
	table, ok := trashTables[what]
	if !ok {
		return fmt.Errorf("%q: %w", what, ErrNotFound)
	}
	return s.change(func(db *gorm.DB) error {
		done := db.Table(table).Where("id = ? and "+where, id).UpdateColumn("trashed_at", at)
		if done.Error == nil && done.RowsAffected == 0 {
			return fmt.Errorf("the %s: %w", what, ErrNotFound)
		}
		return done.Error
	})
}

// Trashes lists what is in the trash, the newest first.
func (s *Store) Trashes() ([]Trashed, error) {
	out := []Trashed{}
	var projects []projectRow
	if err := s.read.Where("trashed_at is not null").Find(&projects).Error; err != nil {
		return nil, err
	}
	for _, r := range projects {
		t := Trashed{What: TrashProject, ID: r.ID, Name: r.Name, TrashedAt: *r.TrashedAt}
		var docs []documentRow
		if err := s.read.Where("project_id = ? and kind in ('map','pattern')", r.ID).Find(&docs).Error; err != nil {
			return nil, err
		}
		for _, d := range docs {
			if d.Kind == "pattern" {
				t.Patterns++
			} else if err := json.Unmarshal(d.Body, &t.Map); err != nil {
				return nil, err
			}
		}
		out = append(out, t)
	}
	for what, table := range map[string]string{TrashKit: "kits", TrashMap: "maps"} {
		var rows []struct {
			ID, Name  string
			Map       []byte
			TrashedAt time.Time
		}
		if err := s.read.Table(table).Select("id", "name", "map", "trashed_at").Where("trashed_at is not null").Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			t := Trashed{What: what, ID: r.ID, Name: r.Name, TrashedAt: r.TrashedAt}
			if err := json.Unmarshal(r.Map, &t.Map); err != nil {
				return nil, err
			}
			out = append(out, t)
		}
	}
	slices.SortFunc(out, func(a, b Trashed) int { return b.TrashedAt.Compare(a.TrashedAt) })
	return out, nil
}

// EmptyTrash removes for good what is in the trash. Audio stays: samples are the shelf's.
func (s *Store) EmptyTrash() error {
	return s.change(func(db *gorm.DB) error {
		for _, table := range []string{"projects", "kits", "maps"} { // documents and history go with their project
			if err := db.Exec("DELETE FROM " + table + " WHERE trashed_at IS NOT NULL").Error; err != nil {
				return err
			}
		}
		return nil
	})
}
