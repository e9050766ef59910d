// Package store keeps projects in SQLite and audio beside it: every edit one transaction with a revision,
// undo and redo that outlive a restart.
package store

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	_ "modernc.org/sqlite" // the driver, without cgo
)

// Faults a caller can tell apart.
var (
	ErrNotFound = errors.New("not found")
	ErrStale    = errors.New("the project was changed elsewhere since you last saw it")
	ErrNoUndo   = errors.New("there is nothing to undo")
	ErrNoRedo   = errors.New("there is nothing to redo")
	ErrSettings = errors.New("the settings cannot be used")
)

// Store is an open data folder. It is safe for many goroutines.
type Store struct {
	db    *gorm.DB
	dir   string
	cache *cache
}

type projectRow struct {
	ID        string `gorm:"primaryKey"`
	Name      string
	Revision  int64
	HistoryAt int64 // number of the last edit that is in force; later ones can be redone
	CreatedAt time.Time
	UpdatedAt time.Time
}

func (projectRow) TableName() string { return "projects" }

// documentRow is one document of a project: its settings, its map, its kit, a pattern, a recording.
type documentRow struct {
	ProjectID string     `gorm:"primaryKey"`
	Kind      string     `gorm:"primaryKey"`
	ID        string     `gorm:"primaryKey"`
	Position  int64      `gorm:"not null"`
	Body      []byte     `gorm:"not null"`
	Project   projectRow `gorm:"constraint:OnDelete:CASCADE"`
}

func (documentRow) TableName() string { return "documents" }

type historyRow struct {
	ProjectID string `gorm:"primaryKey"`
	Number    int64  `gorm:"primaryKey;autoIncrement:false"`
	Label     string
	Changes   []byte `gorm:"not null"`
	At        time.Time
	Project   projectRow `gorm:"constraint:OnDelete:CASCADE"`
}

func (historyRow) TableName() string { return "history" }

type audioRow struct {
	Hash      string `gorm:"primaryKey"` // SHA-256 of the file as it came
	Name      string
	Format    string
	Bits      int
	Rate      int
	Channels  int
	Frames    int
	Bytes     int64
	CreatedAt time.Time
}

func (audioRow) TableName() string { return "audio" }

type schemaRow struct {
	ID      int `gorm:"primaryKey"`
	Version int
}

func (schemaRow) TableName() string { return "schema" }

// migrations carry old data forward, one step a version; a step is never changed once released.
var migrations = []func(*gorm.DB) error{
	func(db *gorm.DB) error {
		return db.AutoMigrate(&projectRow{}, &documentRow{}, &historyRow{}, &audioRow{})
	},
	stackKits,
	func(db *gorm.DB) error { return db.AutoMigrate(&sampleRow{}, &kitRow{}) },
	func(db *gorm.DB) error { return db.AutoMigrate(&mapRow{}, &carryRow{}) },
}

// Open opens the data folder, makes it when it is missing, and brings its tables up to date.
func Open(dir string) (*Store, error) {
	if err := os.MkdirAll(filepath.Join(dir, "audio"), 0o755); err != nil {
		return nil, fmt.Errorf("the data folder cannot be made: %w", err)
	}
	// immediate transactions: two writers that read first would else fail instead of waiting; full
	// synchronisation: an edit that was acknowledged survives a power cut
	dsn := "file:" + filepath.Join(dir, "hexachord.db") +
		"?_pragma=busy_timeout(5000)&_pragma=journal_mode(WAL)&_pragma=foreign_keys(1)&_pragma=synchronous(FULL)&_txlock=immediate"
	db, err := gorm.Open(sqlite.Dialector{DriverName: "sqlite", DSN: dsn}, &gorm.Config{Logger: logger.Default.LogMode(logger.Silent), TranslateError: true})
	if err != nil {
		return nil, fmt.Errorf("the database in %s cannot be opened: %w", dir, err)
	}
	known, err := newCache()
	if err != nil {
		return nil, err
	}
	s := &Store{db: db, dir: dir, cache: known}
	if err := s.migrate(); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

func (s *Store) migrate() error {
	if err := s.db.AutoMigrate(&schemaRow{}); err != nil {
		return fmt.Errorf("the database cannot be prepared: %w", err)
	}
	return s.db.Transaction(func(tx *gorm.DB) error {
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

// Close closes the database.
func (s *Store) Close() error {
	sql, err := s.db.DB()
	if err != nil {
		return err
	}
	return sql.Close()
}

func notFound(err error, what string) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return fmt.Errorf("%s: %w", what, ErrNotFound)
	}
	return err
}
