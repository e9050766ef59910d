package project

import (
	"cmp"
	"fmt"
	"math"
	"path"
	"slices"
	"strings"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/kind"
	"hexachord/core/kit"
	"hexachord/core/layout"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

func (e *KitEdit) Apply(d *Draft) (string, error) {
	next, err := kit.Apply(d.Kit, e.Edit, d.World)
	if err != nil {
		return "", err
	}
	if err := HaveSamples(d.World, next); err != nil {
		return "", err
	}
	if err := d.PutKit(next); err != nil {
		return "", err
	}
	label := labelled(e.Label, "Change the kit")
	if _, ok := d.Map.ByNote(e.From); ok || e.Op != kit.OpAdd {
		return label, nil
	}
	m := d.Map // a sound needs a lane to be struck on
	role := drummap.Other
	if it, err := d.World.Sample(e.Takes[0].Sample); err == nil {
		if r, ok := it.Kind.Role(); ok {
			role = r
		}
	}
	return label, d.PutMap(m.With(m.Named(e.From, strings.TrimSuffix(e.Takes[0].Source, path.Ext(e.Takes[0].Source)), role)))
}

func (e *KitEdit) Scope(Project) Scope {
	s := Scope{Pads: append(append([]int{e.From}, e.Notes...), e.Remove...)}
	for _, p := range e.Put {
		s.Pads = append(s.Pads, p.Note)
	}
	if e.Try != nil {
		s.Pads = append(s.Pads, e.Try.Note)
	}
	if e.Op == kit.OpAdd {
		s.Keys = []Key{{KindMap, only}}
	}
	if e.Name != nil {
		s.Keys = append(s.Keys, Key{KindKit, only})
	}
	return s
}

// HaveSamples reports a sample a kit names that is not kept.
func HaveSamples(w World, k kit.Kit) error {
	for _, h := range k.Samples() {
		if !w.HasAudio(h) {
			return fmt.Errorf("%w: the sample %.12s is not in the data folder", kit.ErrKit, h)
		}
	}
	return nil
}

// SamplePart names a sample, or a part of it, to be laid out.
type SamplePart struct {
	Hash       string    `json:"hash" maxLength:"64"`
	Name       string    `json:"name,omitempty" maxLength:"200"` // of the part; the sample's own when empty
	StartFrame int       `json:"startFrame,omitempty" minimum:"0"`
	EndFrame   int       `json:"endFrame,omitempty" minimum:"0"`
	Kind       kind.Kind `json:"kind,omitempty"` // of the part; the sample's own when empty
	Confidence float64   `json:"confidence,omitempty" minimum:"0" maximum:"1"`
	FadeOutMS  float64   `json:"fadeOutMS,omitempty" minimum:"0" maximum:"20000"`
}

// LayOut lays samples out in the kit, as PlanLayout plans it.
type LayOut struct {
	Parts   []SamplePart   `json:"parts" required:"true" maxItems:"20000"`
	Options layout.Options `json:"options" required:"true"`
	Name    string         `json:"name,omitempty" maxLength:"100"` // of a kit and map that begin with it
	// Loop makes a pattern that plays pieces of one recording as it did.
	Loop *LoopPattern `json:"loop,omitempty"`
}

// LoopPattern is a pattern that plays the pieces of a recording at their places in it.
type LoopPattern struct {
	Name      string      `json:"name" required:"true" minLength:"1" maxLength:"200"`
	BPM       float64     `json:"bpm" minimum:"20" maximum:"400"` // of the recording
	Meter     music.Meter `json:"meter"`
	StartS    float64     `json:"startS" minimum:"0" maximum:"3600"`  // where its bar 1 begins in the recording
	Seconds   float64     `json:"seconds" minimum:"0" maximum:"3600"` // how long the recording is
	TakeTempo bool        `json:"takeTempo,omitempty"`                // the project plays at its tempo from then on
}

// pattern places the pieces that a plan laid out. Each is struck at 127, where a pad sounds its sample as loud as it is.
func (e LoopPattern) pattern(w World, parts []SamplePart, rows []layout.Row) (pattern.Pattern, error) {
	beats := int(math.Ceil((e.Seconds-e.StartS)/music.SecondsPerTick(e.BPM)/float64(e.Meter.BarTicks()) - 0.02))
	straight := feel.Straight
	pt := pattern.Pattern{Name: e.Name, Bars: max(1, min(music.MaxBars, beats)), Meter: e.Meter, Grid: music.Sixteenths, Feel: &straight, Hits: []pattern.Hit{}}
	put := map[pattern.Key]bool{}
	for _, r := range rows {
		for _, i := range r.Samples {
			it, err := w.Sample(parts[i].Hash)
			if err != nil {
				return pt, err
			}
			h := pattern.Hit{Note: r.Lane.Note, Tick: music.Ticks(float64(parts[i].StartFrame)/float64(max(1, it.Rate))-e.StartS, e.BPM), Velocity: 127, Split: 1}
			if h.Tick < -pattern.MaxLeadTicks || h.Tick >= pt.LengthTicks() || put[h.Key()] {
				continue
			}
			put[h.Key()] = true
			pt.Hits = append(pt.Hits, h)
		}
	}
	slices.SortFunc(pt.Hits, func(a, b pattern.Hit) int { return cmp.Or(a.Tick-b.Tick, a.Note-b.Note) })
	return pt, pt.Check()
}

// PlanLayout plans where pieces go in a project's kit.
func (p Project) PlanLayout(w World, e LayOut) (layout.Plan, error) {
	samples := make([]layout.Sample, len(e.Parts))
	for i, part := range e.Parts {
		it, err := w.Sample(part.Hash)
		if err != nil {
			return layout.Plan{}, err
		}
		name := cmp.Or(part.Name, it.Name)
		take := kit.Take{Sample: part.Hash, Source: name, Shape: kit.Whole()}
		take.Shape.StartFrame, take.Shape.EndFrame, take.Shape.FadeOutMS = part.StartFrame, part.EndFrame, part.FadeOutMS
		samples[i] = layout.Sample{Take: take, Name: name, Kind: it.Kind, Confidence: it.Confidence, Likeness: it.Facts.Likeness}
		if part.Kind != "" {
			samples[i].Kind, samples[i].Confidence = part.Kind, part.Confidence
		}
	}
	return layout.Make(p.Map, p.Kit, samples, e.Options, layout.Ears{Ears: w, Likeness: func(hash string) []float32 {
		it, _ := w.Sample(hash) // what is not on the shelf is compared by name
		return it.Facts.Likeness
	}})
}

func (e *LayOut) Apply(d *Draft) (string, error) {
	plan, err := d.PlanLayout(d.World, *e)
	if err != nil {
		return "", err
	}
	if name := strings.TrimSpace(e.Name); name != "" && len(d.Map.Lanes) == 0 {
		plan.Map.Name, plan.Kit.Name = name, name
	}
	if err := d.PutMap(plan.Map); err != nil {
		return "", err
	}
	if l := e.Loop; l != nil {
		pt, err := l.pattern(d.World, e.Parts, plan.Rows)
		if err != nil {
			return "", err
		}
		if l.TakeTempo {
			settings := d.Settings
			settings.BPM = l.BPM
			if err := d.PutSettings(settings); err != nil {
				return "", err
			}
		}
		pt.Name = d.freeName(pt.Name)
		if _, err := d.AddPattern(pt); err != nil {
			return "", err
		}
	}
	n := len(e.Parts) - len(plan.Left)
	label := fmt.Sprintf("Lay out %d samples", n)
	if n == 1 {
		label = "Lay out a sample"
	}
	return label, d.PutKit(plan.Kit)
}

func (e *LayOut) Scope(Project) Scope {
	if e.Loop != nil && e.Loop.TakeTempo {
		return mapAndKit.And(Scope{Settings: []string{"bpm"}})
	}
	return mapAndKit
}

// mapAndKit is the scope of what goes over all lanes and pads.
var mapAndKit = Scope{Keys: []Key{{KindMap, only}, {KindKit, only}}}

// PutKit gives a project a kit with its map.
type PutKit struct {
	Map   drummap.Map
	Kit   kit.Kit
	Label string
}

func (e *PutKit) Apply(d *Draft) (string, error) {
	if err := HaveSamples(d.World, e.Kit); err != nil {
		return "", err
	}
	if err := d.PutMap(e.Map); err != nil {
		return "", err
	}
	return labelled(e.Label, "Take a kit"), d.PutKit(e.Kit)
}

func (e *PutKit) Scope(Project) Scope { return mapAndKit }
