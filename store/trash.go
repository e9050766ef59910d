package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"time"

	"gorm.io/gorm"

	"hexachord/core/drummap"
	"hexachord/core/kind"
	"hexachord/core/shelf"
)

// What can be put in the trash.
const (
	TrashProject = "project"
	TrashKit     = "kit"
	TrashMap     = "map"
	TrashSample  = "sample"
)

// Trashed is something in the trash: it stays whole until the trash is emptied.
type Trashed struct {
	What      string      `json:"what" enum:"project,kit,map,sample"`
	ID        string      `json:"id"` // of a sample its hash
	Name      string      `json:"name"`
	TrashedAt time.Time   `json:"trashedAt"`
	Map       drummap.Map `json:"map"`            // its lanes; of a sample none
	Patterns  int         `json:"patterns"`       // of a project
	Kind      kind.Kind   `json:"kind,omitempty"` // of a sample
}

// trashTables are the tables of what can be trashed, and what names a row in them.
var trashTables = map[string]struct{ name, key string }{
	TrashProject: {"projects", "id"}, TrashKit: {"kits", "id"}, TrashMap: {"maps", "id"}, TrashSample: {"samples", "hash"},
}

// Trash puts things of one kind in the trash, all or none; ErrNotFound when one is not there, or in it already.
func (s *Store) Trash(what string, ids ...string) error {
	if err := s.trashed(what, ids, "trashed_at is null", time.Now()); err != nil {
		return err
	}
	if what == TrashProject {
		s.writing.Lock()
		defer s.writing.Unlock()
		for _, id := range ids {
			s.open.forget(id)
		}
	}
	return nil
}

// Restore takes things of one kind out of the trash, all or none. A kit or map whose name another has by now comes back as an
// earlier state.
func (s *Store) Restore(what string, ids ...string) error {
	if err := s.trashed(what, ids, "trashed_at is not null", nil); err != nil || what != TrashKit && what != TrashMap {
		return err
	}
	return s.change(func(db *gorm.DB) error {
		table := trashTables[what].name
		return db.Exec("UPDATE "+table+" SET earlier = true WHERE id IN ? AND EXISTS (SELECT 1 FROM "+table+" AS other WHERE other.name = "+table+".name AND other.id <> "+table+".id AND NOT other.earlier AND other.trashed_at IS NULL)", ids).Error
	})
}

// trashed sets when things were put in the trash.
func (s *Store) trashed(what string, ids []string, where string, at any) error {
	table, ok := trashTables[what]
	if !ok {
		return fmt.Errorf("%q: %w", what, ErrNotFound)
	}
	return s.change(func(db *gorm.DB) error {
		for _, id := range ids {
			done := db.Table(table.name).Where(table.key+" = ? and "+where, id).UpdateColumn("trashed_at", at)
			if done.Error == nil && done.RowsAffected == 0 {
				return fmt.Errorf("the %s: %w", what, ErrNotFound)
			}
			if done.Error != nil {
				return done.Error
			}
		}
		return nil
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
	for _, what := range []string{TrashKit, TrashMap} {
		var rows []struct {
			ID, Name  string
			Map       []byte
			TrashedAt time.Time
		}
		if err := s.read.Table(trashTables[what].name).Select("id", "name", "map", "trashed_at").Where("trashed_at is not null").Find(&rows).Error; err != nil {
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
	var samples []sampleRow
	if err := s.read.Omit("likeness").Where("trashed_at is not null").Find(&samples).Error; err != nil {
		return nil, err
	}
	for _, r := range samples {
		var it shelf.Item
		if err := json.Unmarshal(r.Item, &it); err != nil {
			return nil, err
		}
		out = append(out, Trashed{What: TrashSample, ID: r.Hash, Name: it.Name, TrashedAt: *r.TrashedAt, Map: drummap.Map{Lanes: []drummap.Lane{}}, Kind: it.Kind})
	}
	slices.SortStableFunc(out, func(a, b Trashed) int { return b.TrashedAt.Compare(a.TrashedAt) })
	return out, nil
}

// EmptyTrash removes for good what is in the trash. A sample that a project, its history or a kept kit sounds stays in it; of
// the others the audio goes, too, beside the copies of the database while one of them names it. It returns the hashes of those that went.
func (s *Store) EmptyTrash() (gone []string, err error) {
	s.copying.Lock()
	defer s.copying.Unlock()
	s.writing.Lock()
	defer s.writing.Unlock()
	err = s.write.Transaction(func(db *gorm.DB) error {
		for _, what := range []string{TrashProject, TrashKit, TrashMap} { // documents and history go with their project
			if err := db.Exec("DELETE FROM " + trashTables[what].name + " WHERE trashed_at IS NOT NULL").Error; err != nil {
				return err
			}
		}
		var hashes []string
		if err := db.Model(&sampleRow{}).Where("trashed_at is not null").Pluck("hash", &hashes).Error; err != nil || len(hashes) == 0 {
			return err
		}
		used, err := sounding(db)
		if err != nil {
			return err
		}
		for _, h := range hashes {
			if used[h] {
				continue
			}
			if err := errors.Join(db.Delete(&sampleRow{Hash: h}).Error, db.Delete(&audioRow{Hash: h}).Error); err != nil {
				return err
			}
			gone = append(gone, h)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	if len(gone) > 0 { // only now: before, a crash would leave rows without their audio
		if err := putBeside(s.dir, gone); err != nil {
			return gone, fmt.Errorf("the trash is empty, but an audio file could not be removed: %w", named(err))
		}
	}
	return gone, nil
}

// aHash is how audio is named in documents, histories and kits.
var aHash = regexp.MustCompile(`[0-9a-f]{64}`)

// sounding are the hashes named anywhere: by the documents of projects, their histories and kept kits.
func sounding(db *gorm.DB) (map[string]bool, error) {
	used := map[string]bool{}
	for _, of := range []string{"SELECT body FROM documents", "SELECT changes FROM history", "SELECT kit FROM kits"} {
		rows, err := db.Raw(of).Rows()
		if err != nil {
			return nil, err
		}
		for rows.Next() {
			var text sql.RawBytes
			if err := rows.Scan(&text); err != nil {
				return nil, errors.Join(err, rows.Close())
			}
			for _, h := range aHash.FindAll(text, -1) {
				used[string(h)] = true
			}
		}
		if err := errors.Join(rows.Err(), rows.Close()); err != nil {
			return nil, err
		}
	}
	return used, nil
}
