package store

import (
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// voiceRow is the recipe of a voice that was named to a window, so that its address answers after a restart.
type voiceRow struct {
	ID     string `gorm:"primaryKey"`
	Recipe []byte `gorm:"not null"`
	UsedAt int64  // Unix seconds
}

func (voiceRow) TableName() string { return "voices" }

// mostVoices bounds how many recipes are kept; when there are more, the tenth that was named longest ago is dropped.
const mostVoices = 100_000

// KeepRecipes keeps recipes of voices by their names.
func (s *Store) KeepRecipes(recipes map[string][]byte) error {
	if len(recipes) == 0 {
		return nil
	}
	now := time.Now().Unix()
	rows := make([]voiceRow, 0, len(recipes))
	for id, r := range recipes {
		rows = append(rows, voiceRow{id, r, now})
	}
	return s.change(func(db *gorm.DB) error {
		err := db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "id"}}, DoUpdates: clause.AssignmentColumns([]string{"used_at"})}).
			CreateInBatches(&rows, 200).Error
		if err != nil {
			return err
		}
		var count int64
		if err := db.Model(&voiceRow{}).Count(&count).Error; err != nil || count <= mostVoices {
			return err
		}
		return db.Exec("DELETE FROM voices WHERE id IN (SELECT id FROM voices ORDER BY used_at, id LIMIT ?)", mostVoices/10).Error
	})
}

// Recipe finds the recipe of a voice; ErrNotFound when it was never named, or too long ago.
func (s *Store) Recipe(id string) ([]byte, error) {
	var row voiceRow
	if err := s.read.First(&row, "id = ?", id).Error; err != nil {
		return nil, notFound(err, "the voice")
	}
	return row.Recipe, nil
}
