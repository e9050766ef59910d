package service

import (
	"context"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/demo"
	"hexachord/store"
)

// Boathouse makes (once, the audio is kept by content) the ready kit and its map.
func (b *Bench) Boathouse() (drummap.Map, kit.Kit, error) {
	return demo.Boathouse(func(f demo.File) (string, error) {
		hash, _, err := b.AddAudio(f.Name, f.Data)
		return hash, err
	})
}

// FillDemoShelf puts the demo's loose samples on the shelf.
func (b *Bench) FillDemoShelf(ctx context.Context) error {
	files, err := demo.Loose()
	if err != nil {
		return err
	}
	var samples []SampleFile
	for _, f := range files {
		samples = append(samples, SampleFile{Name: f.Name, Folder: demo.LooseFolder, Data: f.Data})
	}
	_, err = b.ImportSamples(ctx, samples)
	return err
}

// NewDemoProject makes a project that holds the demo world.
func (b *Bench) NewDemoProject(name string) (id string, err error) {
	m, k, err := b.Boathouse()
	if err != nil {
		return "", err
	}
	settings := store.NewSettings()
	settings.BPM, settings.Feel.Swing = demo.BPM, demo.Swing
	p := store.Project{Name: name, Settings: settings, Map: m, Kit: k}
	for _, pt := range demo.Patterns() {
		p.Patterns = append(p.Patterns, store.Stored[pattern.Pattern]{Value: pt})
	}
	return b.CreateProject(p)
}

// NewProject makes a project with one empty pattern of two bars on an empty map and kit.
func (b *Bench) NewProject(name string) (id string, err error) {
	return b.CreateProject(store.Project{Name: name, Settings: store.NewSettings(), Map: drummap.Map{Name: "none yet", Lanes: []drummap.Lane{}},
		Kit: kit.Kit{Name: "none yet", Pads: []kit.Pad{}},
		Patterns: []store.Stored[pattern.Pattern]{{Value: pattern.Pattern{Name: "pattern 1", Bars: 2, Meter: music.CommonTime,
			Grid: music.Sixteenths, Hits: []pattern.Hit{}}}}})
}

// TakeKit gives a project a kit and its map in one edit: ready is "boathouse" for the ready kit, "empty" for
// lanes with roles and no sounds, or the ID of a kept kit. The kit the project had stays among the kept ones.
func (b *Bench) TakeKit(projectID string, revision int64, ready string) (int64, error) {
	m, err := b.defaultMap()
	if err != nil {
		return revision, err
	}
	k := kit.Kit{Name: "Empty kit", Pads: []kit.Pad{}}
	label := "Make an empty kit"
	switch ready {
	case "empty":
	case "boathouse":
		if m, k, err = b.Boathouse(); err != nil {
			return revision, err
		}
		if err := b.DescribeMissing(context.Background()); err != nil {
			return revision, err
		}
		label = "Take the kit " + k.Name
	default:
		kept, err := b.KeptKit(ready)
		if err != nil {
			return revision, err
		}
		m, k, label = kept.Map, kept.Kit, "Take the kit "+kept.Name
	}
	p, err := b.Load(projectID)
	if err != nil {
		return revision, err
	}
	if len(p.Kit.Samples()) > 0 { // what was made stays listed, whatever is taken after it
		if _, err := b.KeepKit(p.Map, p.Kit, true); err != nil {
			return revision, err
		}
	}
	return b.Edit(projectID, revision, func(tx *store.Tx) string {
		tx.PutMap(m)
		tx.PutKit(k)
		return label
	})
}
