package store

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
)

// Audio that went with the trash lies beside the copies of the database for as long as one of them names it, so that a copy that is
// brought back sounds.

func besideIn(dir string) string { return filepath.Join(dir, copiesName, "audio") }

// putBeside takes audio files out of a data folder: those that a copy names go beside the copies.
func putBeside(dir string, hashes []string) error {
	named, err := namedByCopies(dir, hashes)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(besideIn(dir), 0o700); err != nil {
		return err
	}
	var errs []error
	for _, h := range hashes {
		if named[h] {
			err = os.Rename(audioPathIn(dir, h), filepath.Join(besideIn(dir), h))
		} else {
			err = os.Remove(audioPathIn(dir, h))
		}
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			errs = append(errs, err)
		}
	}
	return errors.Join(errs...)
}

// beside lists the hashes of the audio that lies beside the copies.
func beside(dir string) (hashes []string, err error) {
	files, err := os.ReadDir(besideIn(dir))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	for _, f := range files {
		if hashForm.MatchString(f.Name()) {
			hashes = append(hashes, f.Name())
		}
	}
	return hashes, err
}

// sweepBeside removes the audio beside the copies that none of them names any more.
func sweepBeside(dir string) error {
	hashes, err := beside(dir)
	if err != nil || len(hashes) == 0 {
		return err
	}
	named, err := namedByCopies(dir, hashes)
	if err != nil {
		return err
	}
	var errs []error
	for _, h := range hashes {
		if !named[h] {
			errs = append(errs, os.Remove(filepath.Join(besideIn(dir), h)))
		}
	}
	return errors.Join(errs...)
}

// bringAudioBack puts the audio beside the copies that the database names, and that is not there, in its place again.
func bringAudioBack(dir string) error {
	hashes, err := beside(dir)
	if err != nil || len(hashes) == 0 {
		return err
	}
	named, err := namedBy(filepath.Join(dir, databaseName), hashes)
	if err != nil {
		return err
	}
	var errs []error
	for _, h := range hashes {
		to := audioPathIn(dir, h)
		if _, err := os.Stat(to); !named[h] || err == nil {
			continue
		}
		errs = append(errs, os.MkdirAll(filepath.Dir(to), 0o700), os.Rename(filepath.Join(besideIn(dir), h), to), syncFolder(filepath.Dir(to)))
	}
	return errors.Join(errs...)
}

// namedByCopies tells which audio the copies name that can be read; the others cannot be brought back.
func namedByCopies(dir string, hashes []string) (map[string]bool, error) {
	copies, err := Copies(dir)
	if err != nil {
		return nil, err
	}
	all := map[string]bool{}
	for _, c := range copies {
		named, err := namedBy(c.Path, hashes)
		if err != nil && whole(c.Path) == nil {
			return nil, err
		}
		for h := range named {
			all[h] = true
		}
	}
	return all, nil
}

// namedBy tells which audio a database names.
func namedBy(path string, hashes []string) (map[string]bool, error) {
	db, err := connect("file:"+escaped(path)+"?mode=ro&_pragma=query_only(1)", 1)
	if err != nil {
		return nil, err
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	named := map[string]bool{}
	for _, h := range hashes {
		var n int64
		if err = db.Model(&audioRow{}).Where("hash = ?", h).Count(&n).Error; err != nil {
			break
		}
		if n > 0 {
			named[h] = true
		}
	}
	return named, errors.Join(err, pool.Close())
}
