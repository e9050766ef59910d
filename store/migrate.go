package store

import (
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// migrations carry old data forward, one step a version. A step says what the tables and documents of its time were and is
// never changed once released.
var migrations = []func(*gorm.DB) error{
	tables(
		"CREATE TABLE IF NOT EXISTS `projects` (`id` text,`name` text,`revision` integer,`history_at` integer,`created_at` datetime,`updated_at` datetime,PRIMARY KEY (`id`))",
		"CREATE TABLE IF NOT EXISTS `documents` (`project_id` text,`kind` text,`id` text,`position` integer NOT NULL,`body` blob NOT NULL,PRIMARY KEY (`project_id`,`kind`,`id`),CONSTRAINT `fk_documents_project` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`) ON DELETE CASCADE)",
		"CREATE TABLE IF NOT EXISTS `history` (`project_id` text,`number` integer,`label` text,`changes` blob NOT NULL,`at` datetime,PRIMARY KEY (`project_id`,`number`),CONSTRAINT `fk_history_project` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`) ON DELETE CASCADE)",
		"CREATE TABLE IF NOT EXISTS `audio` (`hash` text,`name` text,`format` text,`bits` integer,`rate` integer,`channels` integer,`frames` integer,`bytes` integer,`created_at` datetime,PRIMARY KEY (`hash`))",
	),
	stackKits,
	tables(
		"CREATE TABLE IF NOT EXISTS `samples` (`hash` text,`item` blob NOT NULL,`likeness` blob,`added_at` datetime,PRIMARY KEY (`hash`))",
		"CREATE TABLE IF NOT EXISTS `kits` (`id` text,`name` text,`map` blob NOT NULL,`kit` blob NOT NULL,`earlier` numeric,`saved_at` datetime,PRIMARY KEY (`id`))",
		"CREATE INDEX IF NOT EXISTS `idx_kits_name` ON `kits`(`name`)",
	),
	tables(
		"CREATE TABLE IF NOT EXISTS `maps` (`id` text,`name` text,`description` text,`map` blob NOT NULL,`is_default` numeric,`earlier` numeric,`saved_at` datetime,PRIMARY KEY (`id`))",
		"CREATE INDEX IF NOT EXISTS `idx_maps_name` ON `maps`(`name`)",
		"CREATE TABLE IF NOT EXISTS `carries` (`from_map` text,`to_map` text,`from_note` integer,`to_note` integer,PRIMARY KEY (`from_map`,`to_map`,`from_note`))",
	),
	tables(
		"CREATE TABLE `voices` (`id` text,`recipe` blob NOT NULL,`used_at` integer NOT NULL,PRIMARY KEY (`id`))",
		"CREATE INDEX `idx_voices_used` ON `voices`(`used_at`)",
	),
	tables(
		"ALTER TABLE `projects` ADD COLUMN `opened_at` datetime",
		"ALTER TABLE `projects` ADD COLUMN `trashed_at` datetime",
		"ALTER TABLE `kits` ADD COLUMN `description` text NOT NULL DEFAULT ''",
		"ALTER TABLE `kits` ADD COLUMN `trashed_at` datetime",
		"ALTER TABLE `maps` ADD COLUMN `trashed_at` datetime",
	),
	tables("ALTER TABLE `history` ADD COLUMN `joined` text NOT NULL DEFAULT ''"),
	tables("ALTER TABLE `samples` ADD COLUMN `trashed_at` datetime"),
}

func tables(statements ...string) func(*gorm.DB) error {
	return func(db *gorm.DB) error {
		for _, s := range statements {
			if err := db.Exec(s).Error; err != nil {
				return err
			}
		}
		return nil
	}
}

func (s *Store) migrate() error {
	if err := s.write.Exec("CREATE TABLE IF NOT EXISTS `schema` (`id` integer PRIMARY KEY AUTOINCREMENT,`version` integer)").Error; err != nil {
		return fmt.Errorf("the database cannot be prepared: %w", err)
	}
	var was schemaRow
	if err := s.write.Limit(1).Find(&was, 1).Error; err != nil {
		return err
	}
	if was.Version > 0 && was.Version < len(migrations) {
		if _, err := s.KeepCopy(time.Now(), false); err != nil {
			return fmt.Errorf("the database is not changed before it is copied: %w", err)
		}
	}
	return s.change(func(tx *gorm.DB) error {
		at := schemaRow{ID: 1}
		if err := tx.FirstOrCreate(&at).Error; err != nil {
			return err
		}
		if at.Version > len(migrations) {
			return fmt.Errorf("the data folder was written by a newer version of Hexachord (schema %d, this one knows %d); use that version", at.Version, len(migrations))
		}
		for ; at.Version < len(migrations); at.Version++ {
			if err := migrations[at.Version](tx); err != nil {
				return fmt.Errorf("the database cannot be brought up to schema %d: %w", at.Version+1, err)
			}
		}
		return tx.Save(&at).Error
	})
}

// fields are a JSON object of which only some members are understood.
type fields map[string]json.RawMessage

// stackKits gives the layers of kits kept in documents and in the history, which had one sample each, stacked sounds with
// takes.
func stackKits(db *gorm.DB) error {
	var docs []struct {
		ProjectID string
		ID        string
		Body      []byte
	}
	if err := db.Raw("SELECT project_id, id, body FROM documents WHERE kind = 'kit'").Scan(&docs).Error; err != nil {
		return err
	}
	for _, d := range docs {
		body, err := stackKit(d.Body)
		if err != nil {
			return fmt.Errorf("the kit of project %s: %w", d.ProjectID, err)
		}
		if err := db.Exec("UPDATE documents SET body = ? WHERE project_id = ? AND kind = 'kit' AND id = ?", body, d.ProjectID, d.ID).Error; err != nil {
			return err
		}
	}
	var rows []struct {
		ProjectID string
		Number    int64
		Changes   []byte
	}
	if err := db.Raw("SELECT project_id, number, changes FROM history WHERE cast(changes as text) LIKE ?", `%"kind":"kit"%`).Scan(&rows).Error; err != nil {
		return err
	}
	for _, h := range rows {
		text, err := stackKitsOf(h.Changes)
		if err != nil {
			return fmt.Errorf("edit %d of project %s: %w", h.Number, h.ProjectID, err)
		}
		if err := db.Exec("UPDATE history SET changes = ? WHERE project_id = ? AND number = ?", text, h.ProjectID, h.Number).Error; err != nil {
			return err
		}
	}
	return nil
}

// stackKitsOf carries the kits in the changes of one edit forward.
func stackKitsOf(text []byte) ([]byte, error) {
	var changes []fields
	if err := json.Unmarshal(text, &changes); err != nil {
		return nil, err
	}
	for _, c := range changes {
		if string(c["kind"]) != `"kit"` {
			continue
		}
		for _, side := range []string{"before", "after"} {
			if c[side] == nil {
				continue
			}
			body, err := stackKit(c[side])
			if err != nil {
				return nil, err
			}
			c[side] = body
		}
	}
	return json.Marshal(changes)
}

func stackKit(body []byte) ([]byte, error) {
	var old struct {
		Name string   `json:"name"`
		Pads []fields `json:"pads"`
	}
	if err := json.Unmarshal(body, &old); err != nil {
		return nil, err
	}
	type layer struct {
		Lo         int     `json:"lo"`
		Hi         int     `json:"hi"`
		Sample     string  `json:"sample"`
		Source     string  `json:"source"`
		StartFrame int     `json:"startFrame"`
		EndFrame   int     `json:"endFrame"`
		LevelDB    float64 `json:"levelDB"`
		Semitones  float64 `json:"semitones"`
	}
	for _, p := range old.Pads {
		var layers []layer
		var releaseMS float64
		for name, into := range map[string]any{"layers": &layers, "releaseMS": &releaseMS} {
			if p[name] == nil {
				continue
			}
			if err := json.Unmarshal(p[name], into); err != nil {
				return nil, err
			}
		}
		delete(p, "releaseMS")
		stacked := []map[string]any{}
		for _, l := range layers {
			shape := map[string]any{"startFrame": l.StartFrame, "endFrame": l.EndFrame, "curve": "straight", "sustainPct": 100, "releaseMS": releaseMS}
			stacked = append(stacked, map[string]any{"lo": l.Lo, "hi": l.Hi, "order": "turn", "sounds": []map[string]any{{"levelDB": l.LevelDB, "semitones": l.Semitones,
				"takes": []map[string]any{{"sample": l.Sample, "source": l.Source, "shape": shape}}}}})
		}
		var err error
		if p["layers"], err = json.Marshal(stacked); err != nil {
			return nil, err
		}
	}
	if old.Pads == nil {
		old.Pads = []fields{}
	}
	return json.Marshal(old)
}
