package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"

	"hexachord/core/project"
)

// How much of the history is kept edit by edit, and how what lies further back is gathered.
const (
	// KeptEdits is how many of a project's edits can be undone one by one, whatever their number.
	KeptEdits = 10_000
	// compactFrom is how many edits more make gathering worth while.
	compactFrom = KeptEdits / 10
	// mostGathered bounds how many edits become one step; apart is the pause that ends a sitting.
	mostGathered = 100
	apart        = 30 * time.Minute
	// gathered is what such a step joins.
	gathered = "gathered"
)

// Compact gathers what lies more than [KeptEdits] edits back in the projects' histories: up to a hundred edits of one sitting become
// one step, which undoes and redoes what they did together. Nothing that could be undone is lost, only where one could stop on the way.
// It returns how many edits were gathered. Other edits wait for no more than one step.
func (s *Store) Compact(ctx context.Context) (edits int, err error) {
	var long []string
	if err := s.read.Model(&historyRow{}).Group("project_id").Having("count(*) > ?", KeptEdits+compactFrom).Pluck("project_id", &long).Error; err != nil {
		return 0, err
	}
	for _, id := range long {
		n, err := s.compact(ctx, id, KeptEdits)
		edits += n
		if err != nil {
			return edits, fmt.Errorf("the history of project %s cannot be gathered: %w", id, err)
		}
	}
	return edits, nil
}

func (s *Store) compact(ctx context.Context, id string, kept int) (edits int, err error) {
	for from := int64(0); from >= 0; {
		if err := ctx.Err(); err != nil {
			return edits, err
		}
		var n int
		if err := s.change(func(db *gorm.DB) error {
			n, from, err = gather(db, id, from, kept)
			return err
		}); err != nil {
			return edits, err
		}
		edits += n
	}
	return edits, nil
}

// gather makes one step of the next edits after a number; next is the number to go on from, -1: there are no more.
func gather(db *gorm.DB, id string, from int64, kept int) (edits int, next int64, err error) {
	var at []int64 // of the last edit that may be gathered
	if err := db.Raw("SELECT number FROM history WHERE project_id = ? AND number <= (SELECT history_at FROM projects WHERE id = ?) ORDER BY number DESC LIMIT 1 OFFSET ?",
		id, id, kept).Scan(&at).Error; err != nil || len(at) == 0 {
		return 0, -1, err
	}
	var rows []historyRow
	if err := db.Where("project_id = ? and number > ? and number <= ? and joined <> ?", id, from, at[0], gathered).Order("number").Limit(mostGathered).Find(&rows).Error; err != nil || len(rows) == 0 {
		return 0, -1, err
	}
	var together []project.Change
	n := 0
	for ; n < len(rows) && (n == 0 || rows[n].At.Sub(rows[n-1].At) < apart); n++ {
		var changes []project.Change
		if err := json.Unmarshal(rows[n].Changes, &changes); err != nil {
			return 0, 0, fmt.Errorf("edit %d cannot be read: %w", rows[n].Number, err)
		}
		together = project.Joined(together, changes)
	}
	last, label := rows[n-1], rows[0].Label // one alone keeps its own
	if n > 1 {
		label = fmt.Sprintf("%d edits up to “%s”", n, last.Label)
	}
	text, err := json.Marshal(together)
	if err != nil {
		return 0, 0, err
	}
	if err := db.Where("project_id = ? and number >= ? and number < ?", id, rows[0].Number, last.Number).Delete(&historyRow{}).Error; err != nil {
		return 0, 0, err
	}
	return n, last.Number, db.Model(&historyRow{}).Where("project_id = ? and number = ?", id, last.Number).
		UpdateColumns(map[string]any{"label": label, "changes": text, "joined": gathered}).Error
}
