package store

import (
	"archive/zip"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"
)

// A backup is a zip of the database and of every audio file it names: "hexachord.db" and "audio/HASH". It can be made while a bench
// has the folder open: the database is copied at one moment, and audio is there before any row names it and never changes.

// Backed says what a backup holds.
type Backed struct {
	Audio int   // files
	Bytes int64 // of them
	// Missing are audio files that the database names and the folder has lost.
	Missing []string
}

// ErrBackup is a file that is no backup, or a damaged one.
var ErrBackup = errors.New("this is no backup that can be read")

// Backup writes a backup of a data folder.
func Backup(dir string, out io.Writer) (b Backed, err error) {
	file := filepath.Join(dir, databaseName)
	if _, err := os.Stat(file); err != nil {
		return b, fmt.Errorf("%s is no data folder: %w", dir, err)
	}
	temp, err := os.MkdirTemp("", "hexachord-backup")
	if err != nil {
		return b, err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(temp)) }()
	still := filepath.Join(temp, databaseName)
	if err := copyDatabase(dir, still); err != nil {
		return b, fmt.Errorf("the database cannot be copied: %w", err)
	}
	db, err := connect("file:"+escaped(still)+"?mode=ro", 1)
	if err != nil {
		return b, err
	}
	var rows []audioRow
	pool, err := db.DB()
	if err != nil {
		return b, err
	}
	if err := errors.Join(db.Order("hash").Find(&rows).Error, pool.Close()); err != nil {
		return b, err
	}
	z := zip.NewWriter(out)
	if _, err := addFile(z, databaseName, still, zip.Deflate); err != nil {
		return b, err
	}
	for _, r := range rows {
		n, err := addFile(z, "audio/"+r.Hash, audioPathIn(dir, r.Hash), zip.Store)
		if errors.Is(err, os.ErrNotExist) {
			b.Missing = append(b.Missing, r.Name)
			continue
		}
		if err != nil {
			return b, err
		}
		b.Audio, b.Bytes = b.Audio+1, b.Bytes+n
	}
	return b, z.Close()
}

func addFile(z *zip.Writer, name, from string, method uint16) (int64, error) {
	f, err := os.Open(from)
	if err != nil {
		return 0, err
	}
	defer f.Close() // it was only read
	w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method, Modified: time.Now()})
	if err != nil {
		return 0, err
	}
	return io.Copy(w, f)
}

// RestoreBackup unpacks a backup into a data folder that is not there yet, or empty. Everything is checked before the database gets its name: a
// restore that was cut off leaves no folder that looks whole.
func RestoreBackup(file, dir string) (b Backed, err error) {
	z, err := zip.OpenReader(file)
	if err != nil {
		return b, fmt.Errorf("%w: %w", ErrBackup, err)
	}
	defer func() { err = errors.Join(err, z.Close()) }()
	if there, err := os.ReadDir(dir); err == nil && len(there) > 0 {
		return b, fmt.Errorf("%s is not empty; name a new folder with --data, or move that one away first", dir)
	}
	if err := os.MkdirAll(filepath.Join(dir, "audio"), 0o700); err != nil {
		return b, err
	}
	part := filepath.Join(dir, databaseName+".part")
	found := false
	for _, f := range z.File {
		name := path.Clean(f.Name)
		switch hash, isAudio := strings.CutPrefix(name, "audio/"); {
		case name == databaseName && !found:
			found = true
			if _, err := unpack(f, part); err != nil {
				return b, err
			}
		case isAudio && hashForm.MatchString(hash):
			to := audioPathIn(dir, hash)
			sum, err := unpack(f, to)
			if err != nil {
				return b, err
			}
			if sum != hash {
				return b, errors.Join(fmt.Errorf("%w: the audio %.12s… is damaged", ErrBackup, hash), os.Remove(to))
			}
			b.Audio, b.Bytes = b.Audio+1, b.Bytes+int64(f.UncompressedSize64)
		default:
			return b, fmt.Errorf("%w: it holds %q", ErrBackup, f.Name)
		}
	}
	if !found {
		return b, fmt.Errorf("%w: it holds no %s", ErrBackup, databaseName)
	}
	if err := whole(part); err != nil {
		return b, fmt.Errorf("%w: its database is damaged: %w", ErrBackup, err)
	}
	return b, errors.Join(os.Rename(part, filepath.Join(dir, databaseName)), syncFolder(dir))
}

// unpack writes one file of a zip and returns its SHA-256.
func unpack(f *zip.File, to string) (sum string, err error) {
	if err := os.MkdirAll(filepath.Dir(to), 0o700); err != nil {
		return "", err
	}
	in, err := f.Open()
	if err != nil {
		return "", fmt.Errorf("%w: %w", ErrBackup, err)
	}
	defer in.Close() // it was only read
	out, err := os.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return "", err
	}
	h := sha256.New()
	_, err = io.Copy(io.MultiWriter(out, h), in)
	if err = errors.Join(err, out.Sync(), out.Close()); err != nil {
		return "", fmt.Errorf("%s: %w", f.Name, err)
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}
