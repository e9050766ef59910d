package service

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"hexachord/core/drummap"
	"hexachord/core/kind"
	"hexachord/core/kit"
	"hexachord/core/shelf"
	"hexachord/format/archive"
	"hexachord/format/audio"
	"hexachord/format/bundle"
	"hexachord/format/sfz"
	"hexachord/store"
)

// ErrNoKit is a zip that holds no kit.
var ErrNoKit = errors.New("it holds neither kit.json nor an .sfz file")

// SaveKit keeps a project's kit with its map under a name; an older kit of that name stays as an earlier state.
func (b *Bench) SaveKit(projectID, name string) (id string, err error) {
	p, err := b.Load(projectID)
	if err != nil {
		return "", err
	}
	name = strings.TrimSpace(name)
	if name == "" || len(name) > 100 {
		return "", fmt.Errorf("%w: a kit's name has 1 to 100 characters", ErrInput)
	}
	p.Kit.Name, p.Map.Name = name, name
	return b.KeepKit(p.Map, p.Kit, false)
}

// DescribeKit gives a kept kit another name and says what it is for.
func (b *Bench) DescribeKit(id, name, description string) error {
	name = strings.TrimSpace(name)
	if name == "" || len(name) > 100 {
		return fmt.Errorf("%w: a kit's name has 1 to 100 characters", ErrInput)
	}
	return b.Store.DescribeKit(id, name, strings.TrimSpace(description))
}

// fileOf is a sample's file as it came.
func (b *Bench) fileOf(hash string) (name string, data []byte, err error) {
	data, info, err := b.Audio(hash)
	return info.Name, data, err
}

// ExportKit writes a kit as "bundle" or "sfz" (a zip with the samples). lost lists what the format cannot carry.
func (b *Bench) ExportKit(m drummap.Map, k kit.Kit, as string) (name string, data []byte, lost []string, err error) {
	switch as {
	case "bundle":
		data, err = bundle.Write(m, k, b.fileOf, time.Now())
		return bundle.FreeName(k.Name, map[string]bool{}) + ".zip", data, nil, err
	case "sfz":
		name = bundle.FreeName(k.Name, map[string]bool{})
		data, lost, err = writeSFZ(name, m, k, b.fileOf)
		return name + " (SFZ).zip", data, lost, err
	}
	return "", nil, nil, fmt.Errorf("%w: a kit is exported as “sfz” or “bundle”, not %q", ErrInput, as)
}

func writeSFZ(name string, m drummap.Map, k kit.Kit, file func(hash string) (string, []byte, error)) ([]byte, []string, error) {
	w := archive.NewWriter(time.Now())
	paths, taken := map[string]string{}, map[string]bool{}
	for _, hash := range k.Samples() {
		source, data, err := file(hash)
		if err != nil {
			return nil, nil, err
		}
		paths[hash] = "samples/" + bundle.FreeName(source, taken)
		w.Add(paths[hash], data, false)
	}
	lane := func(note int) string {
		l, _ := m.ByNote(note)
		return l.Name
	}
	text, lost := sfz.Write(k, lane, func(hash string) string { return paths[hash] })
	w.Add(name+".sfz", text, true)
	data, err := w.Bytes()
	return data, lost, err
}

// ReadKit reads a kit from an SFZ file, a zip with one, or a kit bundle. take keeps a sample's file and returns its
// hash; beside gives a file's content by its path from the kit's folder, for an SFZ file that is not in a zip. said
// lists what was left out or plays otherwise.
func ReadKit(name string, data []byte, take func(SampleFile) (hash string, d audio.Decoded, err error), beside func(path string) ([]byte, error)) (m drummap.Map, k kit.Kit, said []string, err error) {
	stem := strings.TrimSuffix(path.Base(filepath.ToSlash(name)), path.Ext(name))
	if !archive.Sniff(data) {
		return readSFZ(stem, "", data, take, beside)
	}
	files, err := archive.Open(data, archive.Usual)
	if err != nil {
		return m, k, nil, fmt.Errorf("%s: %w", name, err)
	}
	byPath := map[string]archive.Entry{}
	folded := map[string]archive.Entry{}
	sfzPath := ""
	isBundle := false
	for _, f := range files {
		byPath[f.Path] = f
		folded[strings.ToLower(f.Path)] = f // maps are often written where file names have no case
		isBundle = isBundle || f.Path == bundle.ManifestName
		if strings.EqualFold(path.Ext(f.Path), ".sfz") && (sfzPath == "" || len(f.Path) < len(sfzPath)) {
			sfzPath = f.Path
		}
	}
	switch {
	case isBundle:
		return readBundle(name, files, take)
	case sfzPath == "":
		return m, k, nil, fmt.Errorf("%s: %w", name, ErrNoKit)
	}
	text, err := byPath[sfzPath].Read()
	if err != nil {
		return m, k, nil, err
	}
	dir := path.Dir(sfzPath)
	if dir == "." {
		dir = ""
	}
	return readSFZ(strings.TrimSuffix(path.Base(sfzPath), path.Ext(sfzPath)), dir, text, take, func(p string) ([]byte, error) {
		f, ok := byPath[p]
		if !ok {
			f, ok = folded[strings.ToLower(p)]
		}
		if !ok {
			return nil, errors.New("the file is missing")
		}
		return f.Read()
	})
}

func readSFZ(name, dir string, text []byte, take func(SampleFile) (string, audio.Decoded, error), file func(string) ([]byte, error)) (m drummap.Map, k kit.Kit, said []string, err error) {
	f, err := sfz.Parse(text)
	if err != nil {
		return m, k, nil, err
	}
	sounds := map[string]kind.Guess{} // of samples whose names say nothing
	k, said, err = f.Kit(name, dir, func(p string) (sfz.Sample, error) {
		data, err := file(p)
		if err != nil {
			return sfz.Sample{}, err
		}
		hash, d, err := take(SampleFile{Name: path.Base(p), Folder: path.Join(name, path.Dir(p)), Data: data})
		if err != nil {
			return sfz.Sample{}, errors.New(strings.TrimPrefix(err.Error(), path.Base(p)+": "))
		}
		if _, known := sounds[hash]; !known && roleByName(path.Base(p)) == "" {
			_, guesses := kind.BySound(d.Buffer)
			sounds[hash] = guesses[0]
		}
		return sfz.Sample{Hash: hash, Source: path.Base(p), Frames: d.Frames(), Loops: d.Loops}, nil
	})
	return mapOf(k, sounds), k, said, err
}

// How sure a sound must be to say a lane's role: against a drum that General MIDI has on its note, and where it has none or
// percussion.
const (
	surelyNot = 0.95
	surely    = 0.6
)

// mapOf names the lanes of a kit that came without a map: by its samples' names when these say a drum, else by the role: what
// the sound surely is, or what the note is in General MIDI.
func mapOf(k kit.Kit, sounds map[string]kind.Guess) drummap.Map {
	m := drummap.Map{Name: k.Name, Lanes: []drummap.Lane{}}
	named := map[string]int{}
	for i := len(k.Pads) - 1; i >= 0; i-- { // low notes at the foot
		p := k.Pads[i]
		if len(p.Layers) == 0 {
			continue // its regions had no velocities to sound at
		}
		take := p.Layers[len(p.Layers)-1].Sounds[0].Takes[0]
		name := strings.TrimSuffix(take.Source, path.Ext(take.Source))
		role := roleByName(take.Source)
		if role == "" {
			role = drummap.GMRole(p.Note)
			least := surely
			if role != drummap.Other && role != drummap.Percussion {
				least = surelyNot
			}
			if g := sounds[take.Sample]; g.Confidence >= least {
				if r, ok := g.Kind.Role(); ok && r.Valid() {
					role = r
				}
			}
			if role != drummap.Other {
				name = string(role)
			}
		}
		if named[name]++; named[name] > 1 {
			name = fmt.Sprintf("%s %d", name, named[name])
		}
		m.Lanes = append(m.Lanes, m.Named(p.Note, name, role))
	}
	return m
}

func readBundle(name string, files []archive.Entry, take func(SampleFile) (string, audio.Decoded, error)) (m drummap.Map, k kit.Kit, said []string, err error) {
	man, err := bundle.Read(files)
	if err != nil {
		return m, k, nil, fmt.Errorf("%s: %w", name, err)
	}
	have := map[string]bool{}
	for _, s := range man.Samples {
		data, err := s.Audio(files)
		if err == nil {
			_, _, err = take(SampleFile{Name: s.Name, Folder: man.Kit.Name, Data: data})
		}
		if err != nil {
			said = append(said, err.Error())
			continue
		}
		have[s.SHA256] = true
	}
	k = man.Kit
	k.Pads = []kit.Pad{}
	for _, p := range man.Kit.Pads {
		kept, missing := p.Only(func(t kit.Take) bool { return have[t.Sample] })
		if missing > 0 {
			said = append(said, fmt.Sprintf("note %d: %d takes are left out, their samples are missing", p.Note, missing))
		}
		k.Pads = append(k.Pads, kept)
	}
	return man.Map, k, said, nil
}

// ImportKit reads a kit and keeps it among the kits, its samples on the shelf.
func (b *Bench) ImportKit(ctx context.Context, name string, data []byte, beside func(string) ([]byte, error)) (id string, said []string, err error) {
	m, k, said, err := ReadKit(name, data, func(f SampleFile) (string, audio.Decoded, error) {
		if err := ctx.Err(); err != nil {
			return "", audio.Decoded{}, err
		}
		hash, d, err := b.AddAudio(f.Name, f.Data)
		if err != nil {
			return "", d, err
		}
		if _, err := b.Sample(hash); errors.Is(err, store.ErrNotFound) {
			err = b.keepSamples([]shelf.Item{itemOf(hash, f.Name, f.Folder, d)})
			return hash, d, err
		}
		return hash, d, nil
	}, beside)
	if err != nil {
		return "", said, err
	}
	id, err = b.KeepKit(m, k, false)
	return id, said, err
}

// KitIn finds the kit among files that came together: a zip or the SFZ file that lies highest, and how it reads the others.
func KitIn(files []SampleFile) (kit SampleFile, beside func(string) ([]byte, error), err error) {
	at := -1
	for i, f := range files {
		isKit := strings.EqualFold(path.Ext(f.Name), ".sfz") || archive.Sniff(f.Data)
		if isKit && (at < 0 || len(f.Folder) < len(files[at].Folder)) {
			at = i
		}
	}
	if at < 0 {
		return kit, nil, ErrNoKit
	}
	kit = files[at]
	others := map[string][]byte{}
	for _, f := range files {
		others[strings.ToLower(path.Join(f.Folder, f.Name))] = f.Data // maps are often written where file names have no case
	}
	return kit, func(p string) ([]byte, error) {
		data, ok := others[strings.ToLower(path.Join(kit.Folder, path.Join("/", p)))]
		if !ok {
			return nil, errors.New("the file is missing; drop the kit's whole folder, or a zip of it")
		}
		return data, nil
	}, nil
}

// FilesBeside reads files below a folder, never outside it.
func FilesBeside(dir string) func(string) ([]byte, error) {
	return func(p string) ([]byte, error) {
		root, err := os.OpenRoot(dir)
		if err != nil {
			return nil, err
		}
		defer func() { _ = root.Close() }() // nothing was written
		data, err := root.ReadFile(filepath.FromSlash(p))
		if errors.Is(err, os.ErrNotExist) {
			return nil, errors.New("the file is missing")
		}
		return data, err
	}
}
