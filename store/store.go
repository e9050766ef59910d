// Package store keeps projects in SQLite and audio beside it: every edit one transaction with a revision,
// undo and redo that outlive a restart. It knows rows, revisions and how changes are replayed, and no rule of the job.
package store

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/gofrs/flock"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	_ "modernc.org/sqlite" // the driver, without cgo

	"hexachord/core/project"
)

// Faults a caller can tell apart.
var (
	ErrNotFound = project.ErrNotFound
	ErrTrashed  = errors.New("it is in the trash; restore it first")
	ErrStale    = errors.New("the project was changed elsewhere since you last saw it")
	ErrTaken    = errors.New("is there already; choose another name")
	ErrNoUndo   = errors.New("there is nothing to undo")
	ErrNoRedo   = errors.New("there is nothing to redo")
	ErrInUse    = errors.New("the data folder is in use")
	ErrDamaged  = errors.New("the database is damaged")
)

// Store is an open data folder, which no other process has open. It is safe for many goroutines.
type Store struct {
	// Writes wait for each other in the process, on one connection, so that none ever finds the database locked; reads go by
	// connections of their own and wait for none.
	write, read *gorm.DB
	writing     sync.Mutex
	copying     sync.Mutex // held while copies are made, or audio is taken out that they may name; before writing
	dir         string
	lock        *flock.Flock
	open        *openProjects
}

type projectRow struct {
	ID        string `gorm:"primaryKey"`
	Name      string
	Revision  int64
	HistoryAt int64 // number of the last edit that is in force; later ones can be redone
	CreatedAt time.Time
	UpdatedAt time.Time
	OpenedAt  *time.Time
	TrashedAt *time.Time // nil: it is not in the trash
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
	Joined    string     // edits of one name, one after the other, are one row
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

const databaseName = "hexachord.db"

// Open opens the data folder, makes it when it is missing, and brings its tables up to date. It is for its owner alone.
// Errors: ErrInUse when another process has it open, ErrDamaged when its database cannot be read.
func Open(dir string) (*Store, error) {
	if err := os.MkdirAll(filepath.Join(dir, "audio"), 0o700); err != nil {
		return nil, fmt.Errorf("the data folder cannot be made: %w; choose another with --data", err)
	}
	lock, err := lockFolder(dir)
	if err != nil {
		return nil, err
	}
	s := &Store{dir: dir, lock: lock, open: newOpenProjects()}
	if err := errors.Join(s.ownerOnly(), s.sweep()); err != nil {
		return nil, errors.Join(fmt.Errorf("the data folder cannot be used: %w", err), s.Close())
	}
	if err := s.openDatabase(); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// lockFolder keeps every other process from opening the folder.
func lockFolder(dir string) (*flock.Flock, error) {
	lock := flock.New(filepath.Join(dir, "lock"), flock.SetPermissions(0o600))
	got, err := lock.TryLock()
	if err != nil {
		return nil, fmt.Errorf("the data folder cannot be used: %w", err)
	}
	if !got {
		return nil, fmt.Errorf("%w: %s is open in another bench; stop that one, or choose another folder with --data", ErrInUse, dir)
	}
	return lock, nil
}

// ownerOnly takes the folder and the database from everybody else, those that older versions made too.
func (s *Store) ownerOnly() error {
	f, err := os.OpenFile(filepath.Join(s.dir, databaseName), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return err
	}
	errs := []error{f.Close(), os.Chmod(s.dir, 0o700), os.Chmod(filepath.Join(s.dir, "audio"), 0o700)}
	for _, name := range []string{databaseName, databaseName + "-wal", databaseName + "-shm"} {
		if err := os.Chmod(filepath.Join(s.dir, name), 0o600); err != nil && !errors.Is(err, os.ErrNotExist) {
			errs = append(errs, err)
		}
	}
	return errors.Join(errs...)
}

// Dir is the data folder.
func (s *Store) Dir() string { return s.dir }

func (s *Store) openDatabase() error {
	// full synchronisation: an edit that was acknowledged survives a power cut
	const pragmas = "?_pragma=busy_timeout(5000)&_pragma=journal_mode(WAL)&_pragma=foreign_keys(1)&_pragma=synchronous(FULL)"
	dsn := "file:" + escaped(filepath.Join(s.dir, databaseName)) + pragmas
	var err error
	if s.write, err = connect(dsn+"&_txlock=immediate", 1); err != nil {
		return s.damaged(err)
	}
	var faults []string
	if err := s.write.Raw("pragma quick_check(1)").Scan(&faults).Error; err != nil || len(faults) != 1 || faults[0] != "ok" {
		return s.damaged(errors.Join(err, errors.New(strings.Join(faults, "; "))))
	}
	if err := s.migrate(); err != nil {
		return err
	}
	s.read, err = connect(dsn+"&_pragma=query_only(1)", 8)
	return err
}

// escaped is a path as SQLite takes it in a URI.
func escaped(path string) string {
	return strings.NewReplacer("?", "%3f", "#", "%23", "%", "%25").Replace(path)
}

func connect(dsn string, most int) (*gorm.DB, error) {
	db, err := gorm.Open(sqlite.Dialector{DriverName: "sqlite", DSN: dsn}, &gorm.Config{Logger: logger.Default.LogMode(logger.Silent)})
	if err != nil {
		return nil, err
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(most)
	return db, nil
}

// damaged says what can be done about a database that cannot be read: the newest good copy, when there is one.
func (s *Store) damaged(err error) error {
	if disk := named(err); errors.Is(disk, ErrFull) || errors.Is(disk, ErrNoDisk) { // nothing is damaged by that
		return fmt.Errorf("%s in %s cannot be opened: %w", databaseName, s.dir, disk)
	}
	way := "Bring back a copy of that file, or put it aside under another name to begin anew"
	if copies, e := Copies(s.dir); e == nil {
		for _, c := range copies {
			if whole(c.Path) == nil {
				way = fmt.Sprintf("`hexachord restore --newest --data %s` brings back the copy of %s and puts the damaged one aside", s.dir, c.Day)
				break
			}
		}
	}
	return fmt.Errorf("%w: %s in %s cannot be read (%w). %s; the audio beside it is untouched", ErrDamaged, databaseName, s.dir, err, way)
}

// change runs f as one transaction when every write before it has ended.
func (s *Store) change(f func(*gorm.DB) error) error {
	s.writing.Lock()
	defer s.writing.Unlock()
	return named(s.write.Transaction(f))
}

// Close closes the database and gives the folder free.
func (s *Store) Close() error {
	var errs []error
	for _, db := range []*gorm.DB{s.read, s.write} {
		if db == nil {
			continue
		}
		pool, err := db.DB()
		if err == nil {
			err = pool.Close()
		}
		errs = append(errs, err)
	}
	return errors.Join(append(errs, s.lock.Unlock())...)
}

func notFound(err error, what string) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return fmt.Errorf("%s: %w", what, ErrNotFound)
	}
	return err
}
