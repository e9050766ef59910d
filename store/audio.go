package store

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"regexp"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// AudioInfo describes a stored audio file.
type AudioInfo struct {
	Name     string
	Format   string
	Bits     int
	Rate     int
	Channels int
	Frames   int
}

var hashForm = regexp.MustCompile(`^[0-9a-f]{64}$`)

// HashOf names audio by its content: SHA-256 in hexadecimal.
func HashOf(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// PutAudio keeps an audio file as it came, once for each content, and returns its SHA-256 in hexadecimal. A sample of it that was
// in the trash is no longer.
func (s *Store) PutAudio(data []byte, info AudioInfo) (hash string, err error) {
	hash = HashOf(data)
	path := s.audioPath(hash)
	if _, err = os.Stat(path); errors.Is(err, os.ErrNotExist) {
		err = writeWhole(path, data)
	} else if err == nil { // perhaps just now, by another import that is not yet as far
		err = onDisk.syncFolder(filepath.Dir(path))
	}
	if err != nil {
		return "", fmt.Errorf("the audio cannot be kept: %w", named(err))
	}
	row := audioRow{Hash: hash, Name: info.Name, Format: info.Format, Bits: info.Bits, Rate: info.Rate,
		Channels: info.Channels, Frames: info.Frames, Bytes: int64(len(data))}
	return hash, s.change(func(db *gorm.DB) error {
		if err := errors.Join(db.Clauses(clause.OnConflict{DoNothing: true}).Create(&row).Error,
			db.Model(&sampleRow{}).Where("hash = ?", hash).UpdateColumn("trashed_at", nil).Error); err != nil {
			return err
		}
		if _, err := os.Stat(path); err == nil {
			return nil
		}
		return named(writeWhole(path, data)) // the trash was emptied in between
	})
}

// AudioNames gives the name of every audio file kept, by hash.
func (s *Store) AudioNames() (map[string]string, error) {
	var rows []audioRow
	if err := s.read.Select("hash", "name").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.Hash] = r.Name
	}
	return out, nil
}

// AudioSizes gives the length of every audio file kept, bytes, by hash.
func (s *Store) AudioSizes() (map[string]int64, error) {
	var rows []audioRow
	if err := s.read.Select("hash", "bytes").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make(map[string]int64, len(rows))
	for _, r := range rows {
		out[r.Hash] = r.Bytes
	}
	return out, nil
}

// HasAudio reports whether the audio of a hash is kept.
func (s *Store) HasAudio(hash string) bool {
	if !hashForm.MatchString(hash) {
		return false
	}
	_, err := os.Stat(s.audioPath(hash))
	return err == nil
}

// Audio reads a stored audio file; ErrNotFound when there is none of that hash.
func (s *Store) Audio(hash string) ([]byte, AudioInfo, error) {
	if !hashForm.MatchString(hash) {
		return nil, AudioInfo{}, fmt.Errorf("the audio: %w", ErrNotFound)
	}
	var row audioRow
	if err := s.read.First(&row, "hash = ?", hash).Error; err != nil {
		return nil, AudioInfo{}, notFound(err, "the audio")
	}
	data, err := os.ReadFile(s.audioPath(hash))
	if err != nil {
		return nil, AudioInfo{}, fmt.Errorf("the audio file of %s is missing from the data folder: %w", row.Name, err)
	}
	return data, AudioInfo{row.Name, row.Format, row.Bits, row.Rate, row.Channels, row.Frames}, nil
}

func (s *Store) audioPath(hash string) string { return audioPathIn(s.dir, hash) }

func audioPathIn(dir, hash string) string { return filepath.Join(dir, "audio", hash[:2], hash) }

// onDisk are the steps by which a file gets to the disk for good. A test cuts the power between them.
var onDisk = struct {
	sync       func(*os.File) error
	rename     func(from, to string) error
	syncFolder func(dir string) error
}{(*os.File).Sync, os.Rename, syncFolder}

// writeWhole writes a file that is either there whole, on disk, or not at all: its content first, then its name, then the folder that holds the
// name, and the one that holds the folder.
func writeWhole(path string, data []byte) error {
	dir := filepath.Dir(path)
	_, err := os.Stat(dir)
	if errors.Is(err, os.ErrNotExist) {
		if err = os.MkdirAll(dir, 0o700); err == nil {
			err = onDisk.syncFolder(filepath.Dir(dir))
		}
	}
	if err != nil {
		return err
	}
	f, err := os.CreateTemp(dir, "new-*")
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	if err == nil {
		err = onDisk.sync(f)
	}
	err = errors.Join(err, f.Close())
	if err == nil {
		err = onDisk.rename(f.Name(), path)
	}
	if err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	return onDisk.syncFolder(dir) // or a power cut could lose the new name
}

func syncFolder(dir string) error {
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}

// sweep removes what interrupted writes have left.
func (s *Store) sweep() error {
	left, err := filepath.Glob(filepath.Join(s.dir, "audio", "*", "new-*"))
	for _, path := range left {
		err = errors.Join(err, os.Remove(path))
	}
	return err
}
