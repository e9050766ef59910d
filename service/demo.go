package service

import (
	"context"
	"errors"
	"strings"

	"hexachord/core/drummap"
	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/project"
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

// HearOwnBreak brings the demo's recorded break into a project, as if it had been dropped.
func (b *Bench) HearOwnBreak(ctx context.Context, projectID string) (store.Done, []project.Result, error) {
	file, _, err := demo.DeckBreak()
	if err != nil {
		return store.Done{}, nil, err
	}
	return b.Hear(ctx, projectID, file.Name, file.Data, "", hear.Options{})
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
	return b.CreateProject(name, b, func(d *project.Draft) error {
		settings := project.NewSettings()
		settings.BPM, settings.Feel.Swing = demo.BPM, demo.Swing
		errs := []error{d.PutSettings(settings), d.PutMap(m), d.PutKit(k)}
		var ids []string
		for _, pt := range demo.Patterns() {
			id, err := d.AddPattern(pt)
			ids, errs = append(ids, id), append(errs, err)
		}
		_, err := demo.Song(m, ids[0], ids[1]).Apply(d)
		errs = append(errs, err)
		return errors.Join(errs...)
	})
}

// NewProject makes a project with one empty pattern of two bars on an empty map and kit.
func (b *Bench) NewProject(name string) (id string, err error) {
	return b.CreateProject(name, b, func(d *project.Draft) error {
		_, err := d.AddPattern(pattern.Pattern{Name: project.FirstPattern, Bars: 2, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}})
		return errors.Join(err, d.PutSettings(project.NewSettings()), d.PutMap(drummap.Map{Name: project.NoKit, Lanes: []drummap.Lane{}}),
			d.PutKit(kit.Kit{Name: project.NoKit, Pads: []kit.Pad{}}))
	})
}

// takeKit finds the kit that is taken, and puts the one the project has among the kept ones.
func (b *Bench) takeKit(e TakeKit) (project.Step, error) {
	m, err := b.defaultMap()
	if err != nil {
		return nil, err
	}
	step := &project.PutKit{Map: m, Kit: kit.Kit{Name: project.EmptyKit, Pads: []kit.Pad{}}, Label: "Make an empty kit"}
	switch e.Kit {
	case "empty":
	case "boathouse":
		if step.Map, step.Kit, err = b.Boathouse(); err != nil {
			return nil, err
		}
		if err := b.DescribeMissing(context.Background()); err != nil {
			return nil, err
		}
		step.Label = "Take the kit " + step.Kit.Name
	default:
		if from, ok := strings.CutPrefix(e.Kit, kitOfProject); ok {
			other, err := b.Peek(from)
			if err != nil {
				return nil, err
			}
			step.Map, step.Kit, step.Label = other.Map, other.Kit, "Take the kit of "+other.Title()
			break
		}
		kept, err := b.KeptKit(e.Kit)
		if err != nil {
			return nil, err
		}
		step.Map, step.Kit, step.Label = kept.Map, kept.Kit, "Take the kit "+kept.Name
	}
	return step, nil
}

// putAside keeps the kit a part of a project has among the earlier states, so that what was made stays listed, whatever is taken after it.
func (b *Bench) putAside(projectID, part string) error {
	p, err := b.Load(projectID)
	p = p.In(part)
	if err != nil || len(p.Kit.Samples()) == 0 {
		return err
	}
	_, err = b.KeepKit(p.Map, p.Kit, true)
	return err
}
