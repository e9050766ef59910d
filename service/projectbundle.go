package service

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/core/project"
	"hexachord/format/archive"
	"hexachord/format/bundle"
	"hexachord/format/midnam"
	"hexachord/format/sfz"
)

// The manifest of a project bundle.
const (
	projectManifest = "project.json"
	projectFormat   = "hexachord project"
	projectVersion  = 1
	maxProject      = 256 << 20 // bytes of the manifest
)

// ErrBundle is a bundle that holds no project.
var ErrBundle = errors.New("this is not a project bundle")

// bundledProject is what project.json holds.
type bundledProject struct {
	Format    string            `json:"format"`
	Version   int               `json:"version"`
	Name      string            `json:"name"`
	Documents []bundledDocument `json:"documents"`
	Samples   []bundle.Sample   `json:"samples"`
}

type bundledDocument struct {
	Kind     project.Kind    `json:"kind"`
	ID       string          `json:"id"`
	Position int64           `json:"position"`
	Body     json.RawMessage `json:"body"`
}

// bundledAt dates the files in a bundle, so that one project makes the same bytes whenever it is bundled.
var bundledAt = time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)

// ProjectBundle packs a project: its documents as JSON a person can read, the audio as it came, and beside them, for other programs, MIDI of
// every pattern and of the song, SFZ of every kit and MIDNAM of every map.
func (b *Bench) ProjectBundle(state project.State) ([]byte, error) {
	p := state.Project
	man := bundledProject{Format: projectFormat, Version: projectVersion, Name: p.Title(), Samples: []bundle.Sample{}}
	for _, d := range state.Documents() {
		man.Documents = append(man.Documents, bundledDocument{d.Kind, d.ID, d.Position, d.Body})
	}
	w := archive.NewWriter(bundledAt)
	taken, paths := map[string]bool{}, map[string]string{}
	for _, hash := range samplesOf(state.Project) {
		name, data, err := b.fileOf(hash)
		if err != nil {
			continue // it was missing before; who opens the bundle is told
		}
		s := bundle.Sample{SHA256: hash, File: "audio/" + bundle.FreeName(name, taken), Name: name}
		man.Samples = append(man.Samples, s)
		paths[hash] = s.File
		w.Add(s.File, data, false)
	}
	text, err := json.MarshalIndent(man, "", "  ")
	if err != nil {
		return nil, err
	}
	w.Add(projectManifest, append(text, '\n'), true)
	taken = map[string]bool{}
	for _, s := range state.Patterns {
		of := state.In(s.Value.Part)
		w.Add("midi/"+bundle.FreeName(s.Value.Name+".mid", taken), MIDI(of, s.Value, false), true)
	}
	if state.SongEnd() > 0 {
		if data, err := b.SongMIDI(state.Project); err == nil {
			w.Add("midi/"+bundle.FreeName("song of "+p.Title()+".mid", taken), data, true)
		}
	}
	for _, id := range state.PartIDs() {
		addKit(w, state.In(id), paths, taken)
	}
	return w.Bytes()
}

// addKit adds a part's kit as SFZ and its map as MIDNAM.
func addKit(w *archive.Writer, of project.Project, paths map[string]string, taken map[string]bool) {
	lane := func(note int) string {
		l, _ := of.Map.ByNote(note)
		return l.Name
	}
	text, _ := sfz.Write(of.Kit, lane, func(hash string) string { return "../" + paths[hash] })
	w.Add("kits/"+bundle.FreeName(of.PartName()+".sfz", taken), text, true)
	if data, err := midnam.Encode(of.Map); err == nil {
		w.Add("maps/"+bundle.FreeName(of.PartName()+".midnam", taken), data, true)
	}
}

// samplesOf are the hashes of all audio a project needs, each once.
func samplesOf(p project.Project) []string {
	var out []string
	for _, id := range p.PartIDs() {
		out = append(out, p.In(id).Kit.Samples()...)
	}
	for _, r := range p.Recordings {
		out = append(out, r.Value.Audio)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// openBundle reads a project bundle: its manifest and what is damaged of it. Audio is checked by its hash.
func openBundle(data []byte) (man bundledProject, audio map[string][]byte, said []string, err error) {
	files, err := archive.Open(data, archive.Usual)
	if err != nil {
		return man, nil, nil, err
	}
	at := slices.IndexFunc(files, func(f archive.Entry) bool { return f.Path == projectManifest })
	if at < 0 {
		return man, nil, nil, fmt.Errorf("%w: it holds no %s", ErrBundle, projectManifest)
	}
	if files[at].Size() > maxProject {
		return man, nil, nil, fmt.Errorf("%w: its %s is too large", ErrBundle, projectManifest)
	}
	text, err := files[at].Read()
	if err != nil {
		return man, nil, nil, fmt.Errorf("%w: its %s cannot be read: %w", ErrBundle, projectManifest, err)
	}
	if err := json.Unmarshal(text, &man); err != nil || man.Format != projectFormat {
		return man, nil, nil, fmt.Errorf("%w: its %s is not a project's", ErrBundle, projectManifest)
	}
	if man.Version > projectVersion {
		return man, nil, nil, fmt.Errorf("%w of a version this bench knows: a newer one wrote it", ErrBundle)
	}
	audio = map[string][]byte{}
	for _, s := range man.Samples {
		i := slices.IndexFunc(files, func(f archive.Entry) bool { return f.Path == s.File })
		if i < 0 {
			said = append(said, fmt.Sprintf("%s is missing in the bundle", s.File))
			continue
		}
		data, err := files[i].Read()
		if err != nil {
			said = append(said, fmt.Sprintf("%s cannot be read: %v", s.File, err))
			continue
		}
		if sum := sha256.Sum256(data); hex.EncodeToString(sum[:]) != s.SHA256 {
			said = append(said, fmt.Sprintf("%s is not the file that was bundled: it was changed or damaged", s.File))
			continue
		}
		audio[s.SHA256] = data
	}
	return man, audio, said, nil
}

// CheckBundle says what is wrong with a project bundle, and what is in it; nothing is kept.
func CheckBundle(data []byte) (name string, said []string, err error) {
	man, audio, said, err := openBundle(data)
	if err != nil {
		return "", nil, err
	}
	d := project.NewDraft(project.NewState("check", man.Name, 1, nil), checking{})
	said = append(said, d.Restore(documentsOf(man))...)
	for _, hash := range samplesOf(d.Project) {
		if _, ok := audio[hash]; !ok && !slices.ContainsFunc(man.Samples, func(s bundle.Sample) bool { return s.SHA256 == hash }) {
			said = append(said, "a sound that the project needs is not in the bundle: "+hash[:min(12, len(hash))])
		}
	}
	return man.Name, said, nil
}

// checking is a world in which nothing is made.
type checking struct{ project.World }

func (checking) NewID() string        { return "new" }
func (checking) HasAudio(string) bool { return true }

func documentsOf(man bundledProject) []project.Document {
	out := make([]project.Document, 0, len(man.Documents))
	for _, d := range man.Documents {
		out = append(out, project.Document{Key: project.Key{Kind: d.Kind, ID: d.ID}, Position: d.Position, Body: d.Body})
	}
	slices.SortStableFunc(out, func(a, b project.Document) int { return int(a.Position - b.Position) })
	return out
}

// ImportProject opens a project bundle as a new project; nothing that is there is changed. said tells what was damaged and is left out.
func (b *Bench) ImportProject(ctx context.Context, data []byte) (id string, said []string, err error) {
	man, audio, said, err := openBundle(data)
	if err != nil {
		return "", nil, err
	}
	for _, s := range man.Samples {
		if err := ctx.Err(); err != nil {
			return "", nil, err
		}
		file, ok := audio[s.SHA256]
		if !ok {
			continue
		}
		if _, _, err := b.AddAudio(s.Name, file); err != nil {
			said = append(said, err.Error())
		}
	}
	id, err = b.CreateProject(man.Name, b, func(d *project.Draft) error {
		said = append(said, d.Restore(documentsOf(man))...)
		lacked, err := d.PutMissing(project.NewSettings(), drummap.Map{Name: project.NoKit, Lanes: []drummap.Lane{}}, kit.Kit{Name: project.NoKit, Pads: []kit.Pad{}})
		if lacked {
			said = append(said, "what the bundle lacks of a project begins anew")
		}
		return err
	})
	if err != nil {
		return "", said, err
	}
	p, err := b.Load(id)
	if err != nil {
		return id, said, err
	}
	for _, hash := range samplesOf(p) {
		if _, err := b.Decode(hash); err != nil {
			said = append(said, fmt.Sprintf("a sound the project needs is missing (%s…); its pads are silent", hash[:min(12, len(hash))]))
		}
	}
	return id, said, nil
}
