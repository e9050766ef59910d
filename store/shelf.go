package store

import (
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"runtime"
	"sync"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/core/shelf"
)

// sampleRow is a sample on the shelf; its audio is a row and a file of its own.
type sampleRow struct {
	Hash     string `gorm:"primaryKey"`
	Item     []byte `gorm:"not null"` // JSON of shelf.Item
	Likeness []byte // float32s, little-endian
	AddedAt  time.Time
	// TrashedAt is nil as long as it is not in the trash.
	TrashedAt *time.Time
}

func (sampleRow) TableName() string { return "samples" }

// kitRow is a kit kept by name, with its map.
type kitRow struct {
	ID      string `gorm:"primaryKey"`
	Name    string `gorm:"index"`
	Map     []byte `gorm:"not null"`
	Kit     []byte `gorm:"not null"`
	Earlier bool   // a newer kit of this name has been kept, or it was put aside when another was taken
	SavedAt time.Time
	// Description is a person's; TrashedAt is nil as long as it is not in the trash.
	Description string
	TrashedAt   *time.Time
}

func (kitRow) TableName() string { return "kits" }

// PutSamples keeps samples on the shelf, all or none.
func (s *Store) PutSamples(items []shelf.Item) error {
	if len(items) == 0 {
		return nil
	}
	rows := make([]sampleRow, len(items))
	for i, it := range items {
		text, err := json.Marshal(it)
		if err != nil {
			return err
		}
		var likeness []byte
		for _, v := range it.Facts.Likeness {
			likeness = binary.LittleEndian.AppendUint32(likeness, math.Float32bits(v))
		}
		rows[i] = sampleRow{Hash: it.Hash, Item: text, Likeness: likeness, AddedAt: time.Now()}
	}
	return s.change(func(db *gorm.DB) error {
		return db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "hash"}}, DoUpdates: clause.AssignmentColumns([]string{"item", "likeness"})}).
			CreateInBatches(&rows, 200).Error
	})
}

// Samples reads the whole shelf, and which of it is in the trash.
func (s *Store) Samples() (all []shelf.Item, trashed map[string]bool, err error) {
	var rows []sampleRow
	if err := s.read.Order("added_at").Find(&rows).Error; err != nil {
		return nil, nil, err
	}
	all, trashed = make([]shelf.Item, len(rows)), map[string]bool{}
	for _, r := range rows {
		if r.TrashedAt != nil {
			trashed[r.Hash] = true
		}
	}
	// a large shelf is mostly JSON to be read: by all cores
	each := len(rows)/runtime.GOMAXPROCS(0) + 1
	faults := make([]error, len(rows)/each+1)
	var reading sync.WaitGroup
	for n := range faults {
		reading.Go(func() {
			for i := n * each; i < min(len(rows), (n+1)*each); i++ {
				faults[n] = errors.Join(faults[n], readItem(rows[i], &all[i]))
			}
		})
	}
	reading.Wait()
	return all, trashed, errors.Join(faults...)
}

func readItem(r sampleRow, into *shelf.Item) error {
	if err := json.Unmarshal(r.Item, into); err != nil {
		return fmt.Errorf("sample %s: %w", r.Hash, err)
	}
	into.Facts.Likeness = make([]float32, len(r.Likeness)/4)
	for i := range into.Facts.Likeness {
		into.Facts.Likeness[i] = math.Float32frombits(binary.LittleEndian.Uint32(r.Likeness[4*i:]))
	}
	return nil
}

// KeptKit is a kit kept by name, with its map.
type KeptKit struct {
	ID      string      `json:"id"`
	Name    string      `json:"name"`
	Map     drummap.Map `json:"map"`
	Kit     kit.Kit     `json:"kit"`
	Earlier bool        `json:"earlier"` // an earlier state, or put aside when another kit was taken
	SavedAt time.Time   `json:"savedAt"`
	// Description says what it is for; may be empty.
	Description string `json:"description"`
}

// KeepKit keeps a kit under its name; the one that had the name is kept on as an earlier state. A kit that is kept
// just so already is not kept twice. earlier keeps it as an earlier state itself.
func (s *Store) KeepKit(m drummap.Map, k kit.Kit, earlier bool) (id string, err error) {
	if err := k.Check(); err != nil {
		return "", err
	}
	mapText, err := json.Marshal(m)
	if err != nil {
		return "", err
	}
	kitText, err := json.Marshal(k)
	if err != nil {
		return "", err
	}
	row := kitRow{ID: NewID(), Name: k.Name, Map: mapText, Kit: kitText, Earlier: earlier, SavedAt: time.Now()}
	err = s.change(func(db *gorm.DB) error {
		var same []kitRow
		if err := db.Where("name = ? and map = ? and kit = ? and trashed_at is null", k.Name, mapText, kitText).Find(&same).Error; err != nil {
			return err
		}
		if len(same) > 0 {
			row.ID = same[0].ID
			if earlier {
				return nil
			}
		}
		if !earlier {
			var newest kitRow
			if db.Where("name = ? and earlier = ? and trashed_at is null", k.Name, false).First(&newest).Error == nil {
				row.Description = newest.Description
			}
			if err := db.Model(&kitRow{}).Where("name = ?", k.Name).Update("earlier", true).Error; err != nil {
				return err
			}
		}
		return db.Save(&row).Error
	})
	return row.ID, err
}

// Kits lists the kits kept, by name, the newest of each first.
func (s *Store) Kits() ([]KeptKit, error) {
	var rows []kitRow
	if err := s.read.Where("trashed_at is null").Order("name, earlier, saved_at desc").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]KeptKit, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.kept(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// KeptKit finds a kept kit by ID; ErrNotFound when it is not there.
func (s *Store) KeptKit(id string) (KeptKit, error) {
	var row kitRow
	if err := s.read.First(&row, "id = ? and trashed_at is null", id).Error; err != nil {
		return KeptKit{}, notFound(err, "the kit")
	}
	return row.kept()
}

// DescribeKit gives a kept kit another name and says what it is for. The kits it is an earlier state of, or that are of it, go
// along.
func (s *Store) DescribeKit(id, name, description string) error {
	return s.change(func(db *gorm.DB) error {
		var row kitRow
		if err := db.First(&row, "id = ? and trashed_at is null", id).Error; err != nil {
			return notFound(err, "the kit")
		}
		if name != row.Name {
			var taken int64
			if err := db.Model(&kitRow{}).Where("name = ? and trashed_at is null", name).Count(&taken).Error; err != nil {
				return err
			}
			if taken > 0 {
				return fmt.Errorf("a kit called %s %w", name, ErrTaken)
			}
		}
		var all []kitRow
		if err := db.Where("name = ? and trashed_at is null", row.Name).Find(&all).Error; err != nil {
			return err
		}
		for _, r := range all {
			k, err := r.kept()
			if err != nil {
				return err
			}
			if k.Map.Name == k.Kit.Name {
				k.Map.Name = name
			}
			k.Kit.Name, r.Name = name, name
			if r.Map, err = json.Marshal(k.Map); err != nil {
				return err
			}
			if r.Kit, err = json.Marshal(k.Kit); err != nil {
				return err
			}
			if r.ID == id {
				r.Description = description
			}
			if err := db.Save(&r).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

func (r kitRow) kept() (KeptKit, error) {
	k := KeptKit{ID: r.ID, Name: r.Name, Earlier: r.Earlier, SavedAt: r.SavedAt, Description: r.Description}
	if err := json.Unmarshal(r.Map, &k.Map); err != nil {
		return k, err
	}
	return k, json.Unmarshal(r.Kit, &k.Kit)
}
