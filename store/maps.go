package store

import (
	"encoding/json"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hexachord/core/drummap"
)

// mapRow is a drum map kept by name.
type mapRow struct {
	ID          string `gorm:"primaryKey"`
	Name        string `gorm:"index"`
	Description string
	Map         []byte `gorm:"not null"`
	IsDefault   bool
	Earlier     bool // a newer map of this name has been kept, or it was taken off the list
	SavedAt     time.Time
	TrashedAt   *time.Time // nil: it is not in the trash
}

func (mapRow) TableName() string { return "maps" }

// carryRow remembers where a person sent the hits of a note when carrying patterns between two maps.
type carryRow struct {
	FromMap  string `gorm:"primaryKey"` // names
	ToMap    string `gorm:"primaryKey"`
	FromNote int    `gorm:"primaryKey;autoIncrement:false"`
	ToNote   int
}

func (carryRow) TableName() string { return "carries" }

// KeptMap is a drum map kept by name.
type KeptMap struct {
	ID          string      `json:"id"`
	Name        string      `json:"name"`
	Description string      `json:"description"`
	Map         drummap.Map `json:"map"`
	Default     bool        `json:"default"` // new lanes begin with it
	Earlier     bool        `json:"earlier"`
	BuiltIn     bool        `json:"builtIn"`
	SavedAt     time.Time   `json:"savedAt"`
}

// KeepMap keeps a map under its name; one that had the name stays as an earlier state.
func (s *Store) KeepMap(m drummap.Map, description string) (id string, err error) {
	if err := m.Check(); err != nil {
		return "", err
	}
	text, err := json.Marshal(m)
	if err != nil {
		return "", err
	}
	id = NewID()
	err = s.change(func(db *gorm.DB) error {
		var old mapRow
		wasDefault := db.Where("name = ? and earlier = ? and trashed_at is null", m.Name, false).First(&old).Error == nil && old.IsDefault
		if err := db.Model(&mapRow{}).Where("name = ?", m.Name).Updates(map[string]any{"earlier": true, "is_default": false}).Error; err != nil {
			return err
		}
		return db.Create(&mapRow{ID: id, Name: m.Name, Description: description, Map: text, IsDefault: wasDefault, SavedAt: time.Now()}).Error
	})
	return id, err
}

// Maps lists the maps kept, by name, the newest of each first.
func (s *Store) Maps() ([]KeptMap, error) {
	var rows []mapRow
	if err := s.read.Where("trashed_at is null").Order("name, earlier, saved_at desc").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]KeptMap, len(rows))
	for i, r := range rows {
		out[i] = KeptMap{ID: r.ID, Name: r.Name, Description: r.Description, Default: r.IsDefault, Earlier: r.Earlier, SavedAt: r.SavedAt}
		if err := json.Unmarshal(r.Map, &out[i].Map); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// SetMap makes a kept map the default or takes it off the list (it stays as an earlier state), or brings it back.
func (s *Store) SetMap(id string, isDefault, earlier bool) error {
	return s.change(func(db *gorm.DB) error {
		var row mapRow
		if err := db.First(&row, "id = ?", id).Error; err != nil {
			return notFound(err, "the map")
		}
		if isDefault {
			if err := db.Model(&mapRow{}).Where("is_default = ?", true).Update("is_default", false).Error; err != nil {
				return err
			}
		}
		return db.Model(&row).Updates(map[string]any{"is_default": isDefault, "earlier": earlier}).Error
	})
}

// Corrections are the notes a person chose when carrying from one map to another, by their names: −1 for none.
func (s *Store) Corrections(fromMap, toMap string) (map[int]int, error) {
	var rows []carryRow
	err := s.read.Where("from_map = ? and to_map = ?", fromMap, toMap).Find(&rows).Error
	out := map[int]int{}
	for _, r := range rows {
		out[r.FromNote] = r.ToNote
	}
	return out, err
}

// RememberCorrections keeps the notes a person chose.
func (s *Store) RememberCorrections(fromMap, toMap string, notes map[int]int) error {
	var rows []carryRow
	for from, to := range notes {
		rows = append(rows, carryRow{fromMap, toMap, from, to})
	}
	if len(rows) == 0 {
		return nil
	}
	return s.change(func(db *gorm.DB) error { return db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&rows).Error })
}
