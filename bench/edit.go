package bench

import (
	"hexachord/core/pattern"
	"hexachord/store"
)

// EditPattern edits one pattern of a project. The history calls the edit what it did, by the lanes' names.
func (b *Bench) EditPattern(projectID, patternID string, revision int64, e pattern.Edit) (next int64, err error) {
	p, err := b.Load(projectID)
	if err != nil {
		return revision, err
	}
	return b.Edit(projectID, revision, func(tx *store.Tx) string {
		after, done := tx.EditPattern(patternID, e)
		if e.Label != "" {
			return e.Label
		}
		return done.Describe(after, func(note int) string {
			if l, ok := p.Map.ByNote(note); ok {
				return l.Name
			}
			return ""
		})
	})
}
