// Package bundle reads and writes kit bundles: one zip file with a manifest a person can read, kit.json, and the
// audio of every sample as it came, in the folder audio.
package bundle

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"strings"
	"time"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/format/archive"
	"hexachord/format/damaged"
)

// ManifestName is the manifest's path in the zip.
const ManifestName = "kit.json"

const (
	formatName = "hexachord kit"
	version    = 1
)

// ErrBundle is returned for a zip that is no kit bundle.
var ErrBundle = errors.New("this is not a kit bundle")

// maxManifest bounds kit.json, bytes: a kit of 128 pads with 512 layers takes a quarter of a megabyte.
const maxManifest = 4 << 20

// Manifest is what kit.json holds.
type Manifest struct {
	Format  string      `json:"format"`
	Version int         `json:"version"`
	Map     drummap.Map `json:"map"`
	Kit     kit.Kit     `json:"kit"`
	Samples []Sample    `json:"samples"`
}

// Sample names a sample's file.
type Sample struct {
	SHA256 string `json:"sha256"`
	File   string `json:"file"` // path in the zip
	Name   string `json:"name"` // the file's name as it came
}

// Write packs a kit with its map, dated at. audio gives a sample's file as it came and its name.
func Write(m drummap.Map, k kit.Kit, audio func(hash string) (name string, data []byte, err error), at time.Time) ([]byte, error) {
	man := Manifest{Format: formatName, Version: version, Map: m, Kit: k, Samples: []Sample{}}
	w := archive.NewWriter(at)
	taken := map[string]bool{}
	for _, hash := range k.Samples() {
		name, data, err := audio(hash)
		if err != nil {
			return nil, err
		}
		s := Sample{hash, "audio/" + FreeName(name, taken), name}
		man.Samples = append(man.Samples, s)
		w.Add(s.File, data, false)
	}
	text, err := json.MarshalIndent(man, "", "  ")
	if err != nil {
		return nil, err
	}
	w.Add(ManifestName, append(text, '\n'), true)
	return w.Bytes()
}

// FreeName is a file's name made safe for every system, and unlike those taken, to which it is added.
func FreeName(name string, taken map[string]bool) string {
	name = strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`"\/:*?<>|=`, r) {
			return '-'
		}
		return r
	}, path.Base(strings.ReplaceAll(name, `\`, "/")))
	ext := path.Ext(name)
	stem := strings.TrimSuffix(name, ext)
	for n := 2; taken[strings.ToLower(name)]; n++ {
		name = fmt.Sprintf("%s (%d)%s", stem, n, ext)
	}
	taken[strings.ToLower(name)] = true
	return name
}

// Read reads the manifest of a bundle's files and checks it.
func Read(files []archive.Entry) (_ Manifest, err error) {
	defer damaged.Caught(&err, ErrBundle)
	var man Manifest
	for _, f := range files {
		if f.Path != ManifestName {
			continue
		}
		if f.Size() > maxManifest {
			return man, fmt.Errorf("%w: its %s has %d MB, a kit's has %d at most", ErrBundle, ManifestName, f.Size()>>20, maxManifest>>20)
		}
		text, err := f.Read()
		if err != nil {
			return man, err
		}
		if err := json.Unmarshal(text, &man); err != nil || man.Format != formatName {
			return man, fmt.Errorf("%w: its %s is not a kit's manifest", ErrBundle, ManifestName)
		}
		if man.Version > version {
			return man, fmt.Errorf("%w of a version this bench knows: it was written by a newer one", ErrBundle)
		}
		return man, errors.Join(man.Map.Check(), man.Kit.Check())
	}
	return man, fmt.Errorf("%w: it has no %s", ErrBundle, ManifestName)
}

// Audio unpacks a sample and checks that it is the one the manifest names.
func (s Sample) Audio(files []archive.Entry) ([]byte, error) {
	for _, f := range files {
		if f.Path != path.Clean(s.File) {
			continue
		}
		data, err := f.Read()
		if err != nil {
			return nil, err
		}
		if sum := sha256.Sum256(data); hex.EncodeToString(sum[:]) != s.SHA256 {
			return nil, fmt.Errorf("%w: %s is not the sample the manifest names", ErrBundle, s.File)
		}
		return data, nil
	}
	return nil, fmt.Errorf("%w: %s is missing", ErrBundle, s.File)
}
