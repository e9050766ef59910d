package store

import (
	"bytes"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"time"
)

// Copies of the database lie in the data folder: one from before each change of the schema, and one a day when something changed.
// Audio needs none: it is written once, under the name of its content, and never changed; what the trash gives up lies beside them (emptied.go).
const (
	copiesName = "copies"
	// MostCopies is how many are kept, the newest.
	MostCopies = 7
)

// Copy is one of them.
type Copy struct {
	Path string
	Day  string // when it was made, as a date
	n    int    // copies are numbered, so that a clock that goes backwards cannot make the newest the oldest
}

var copyForm = regexp.MustCompile(`^(\d{6})-(\d{4}-\d{2}-\d{2})\.db$`)

// ErrNoCopy is a data folder without a copy that can be read.
var ErrNoCopy = errors.New("there is no copy of the database that can be read")

// Copies lists the copies in a data folder, the newest first.
func Copies(dir string) ([]Copy, error) {
	files, err := os.ReadDir(filepath.Join(dir, copiesName))
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var out []Copy
	for _, f := range files {
		if m := copyForm.FindStringSubmatch(f.Name()); m != nil {
			n, _ := strconv.Atoi(m[1]) // six digits
			out = append(out, Copy{filepath.Join(dir, copiesName, f.Name()), m[2], n})
		}
	}
	slices.SortFunc(out, func(a, b Copy) int { return b.n - a.n })
	return out, nil
}

// KeepCopy copies the database as it is now, unless the newest copy is the same or (daily) of the same day. It reports whether there is a new one.
func (s *Store) KeepCopy(now time.Time, daily bool) (bool, error) {
	s.copying.Lock()
	defer s.copying.Unlock()
	copies, err := Copies(s.dir)
	if err != nil {
		return false, err
	}
	day := now.UTC().Format(time.DateOnly)
	if daily && len(copies) > 0 && copies[0].Day == day {
		return false, nil
	}
	folder := filepath.Join(s.dir, copiesName)
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return false, err
	}
	part := filepath.Join(folder, "new.db")
	if err := os.Remove(part); err != nil && !errors.Is(err, os.ErrNotExist) {
		return false, err
	}
	if err := copyDatabase(s.dir, part); err != nil {
		return false, errors.Join(fmt.Errorf("the database cannot be copied: %w", err), os.Remove(part))
	}
	next := 1
	if len(copies) > 0 {
		next = copies[0].n + 1
		same, err := sameRows(part, copies[0].Path)
		if err != nil {
			return false, err
		}
		if same {
			return false, os.Remove(part)
		}
	}
	if err := os.Rename(part, filepath.Join(folder, fmt.Sprintf("%06d-%s.db", next, day))); err != nil {
		return false, err
	}
	errs := []error{syncFolder(folder)}
	for _, old := range copies[min(len(copies), MostCopies-1):] {
		errs = append(errs, os.Remove(old.Path))
	}
	return true, errors.Join(append(errs, sweepBeside(s.dir))...)
}

// copyDatabase writes a folder's database as it is at one moment, whole and in order, to a new file. It reads by a connection of its own, so
// that no edit waits for it, also one of another process.
func copyDatabase(dir, path string) error {
	db, err := connect("file:"+escaped(filepath.Join(dir, databaseName))+"?mode=ro&_pragma=busy_timeout(5000)", 1)
	if err != nil {
		return err
	}
	pool, err := db.DB()
	if err != nil {
		return err
	}
	if err := errors.Join(db.Exec("VACUUM INTO ?", path).Error, pool.Close()); err != nil {
		return err
	}
	f, err := os.OpenFile(path, os.O_RDWR, 0)
	if err != nil {
		return err
	}
	return errors.Join(os.Chmod(path, 0o600), f.Sync(), f.Close())
}

// sameRows reports whether two copies differ in nothing but the counters of the database's header.
func sameRows(a, b string) (bool, error) {
	const header = 100
	var sums [2][]byte
	for i, path := range []string{a, b} {
		f, err := os.Open(path)
		if err != nil {
			return false, err
		}
		h := sha256.New()
		_, err = f.Seek(header, io.SeekStart)
		if err == nil {
			_, err = io.Copy(h, f)
		}
		if err = errors.Join(err, f.Close()); err != nil {
			return false, err
		}
		sums[i] = h.Sum(nil)
	}
	return bytes.Equal(sums[0], sums[1]), nil
}

// whole reports why a database file cannot be used, nil when it can.
func whole(path string) error {
	db, err := connect("file:"+escaped(path)+"?mode=ro&_pragma=query_only(1)", 1)
	if err != nil {
		return err
	}
	pool, err := db.DB()
	if err != nil {
		return err
	}
	var faults []string
	err = db.Raw("pragma quick_check(1)").Scan(&faults).Error
	if err == nil && (len(faults) != 1 || faults[0] != "ok") {
		err = fmt.Errorf("%v", faults)
	}
	var n int64
	if err == nil {
		err = db.Table("projects").Count(&n).Error
	}
	return errors.Join(err, pool.Close())
}

// BringBack puts the newest copy that can be read in the database's place. What was there is put aside beside it, with its logs, under
// the name it returns. Nobody may have the folder open: ErrInUse.
func BringBack(dir string, now time.Time) (from Copy, aside string, err error) {
	lock, err := lockFolder(dir)
	if err != nil {
		return from, "", err
	}
	defer func() { err = errors.Join(err, lock.Unlock()) }()
	copies, err := Copies(dir)
	if err != nil {
		return from, "", err
	}
	at := slices.IndexFunc(copies, func(c Copy) bool { return whole(c.Path) == nil })
	if at < 0 {
		return from, "", fmt.Errorf("%w in %s", ErrNoCopy, filepath.Join(dir, copiesName))
	}
	from = copies[at]
	data, err := os.ReadFile(from.Path)
	if err != nil {
		return from, "", err
	}
	aside = databaseName + ".aside-" + now.UTC().Format("20060102T150405.000000000")
	for _, end := range []string{"-wal", "-shm", ""} {
		err := os.Rename(filepath.Join(dir, databaseName+end), filepath.Join(dir, aside+end))
		if err != nil && !errors.Is(err, os.ErrNotExist) {
			return from, aside, err
		}
	}
	if err := writeWhole(filepath.Join(dir, databaseName), data); err != nil {
		return from, aside, err
	}
	return from, aside, bringAudioBack(dir)
}
