package kit

import (
	"fmt"
	"slices"
	"sort"
)

// Op names what an Edit does.
type Op string

// The edits of a kit.
const (
	OpPads     Op = "pads"     // put the pads given, remove those on the notes named
	OpEven     Op = "even"     // give the layers of the pads on Notes even ranges
	OpLoudness Op = "loudness" // order the layers of the pads on Notes from soft to loud as measured, with even ranges
	OpRanges   Op = "ranges"   // give the pads on Notes the ranges of the pad on From
	OpAdd      Op = "add"      // bring Takes to the pads on From and Notes: replace, as layers, stacked or as takes of one layer
	OpTry      Op = "try"      // put the sample of Try in its place
	OpCopy     Op = "copy"     // give the pads on Notes what Settings names of the pad on From
)

// How says what becomes of a pad that already has sounds.
type How string

// A new sound replaces what is there, takes a share of the velocities, sounds together with it, or is another take.
const (
	Replace  How = "replace"
	AddLayer How = "layer"
	Stack    How = "stack"
	AddTake  How = "take"
)

// Edit is a change of a kit, as a value.
type Edit struct {
	Op     Op     `json:"op" enum:"pads,even,loudness,ranges,add,try,copy" required:"true"`
	Put    []Pad  `json:"put,omitempty" maxItems:"128"`
	Remove []int  `json:"remove,omitempty" maxItems:"128"`
	Notes  []int  `json:"notes,omitempty" maxItems:"128"`
	From   int    `json:"from,omitempty" minimum:"0" maximum:"127"`
	How    How    `json:"how,omitempty" enum:"replace,layer,stack,take"`
	Layer  int    `json:"layer,omitempty" minimum:"-1" maximum:"31"` // for stack and take: index of the layer, −1 every layer
	Takes  []Take `json:"takes,omitempty" maxItems:"1024"`
	Try    *Try   `json:"try,omitempty"`
	// Settings names what OpCopy copies: play (held, choke, tracking), level, pan, tune, fades, envelope, drawn (the curves).
	Settings []string `json:"settings,omitempty" maxItems:"7"`
	Name     *string  `json:"name,omitempty" maxLength:"100"` // OpPads: also rename the kit
	Label    string   `json:"label,omitempty" maxLength:"200"`
}

// Ears tell what was measured of samples.
type Ears interface {
	Loudness(sample string) float64 // LUFS
	PeakDB(sample string) float64   // dBFS
}

// Apply returns the edited kit; k is left as it was. What is asked for out of range is refused with ErrKit.
func Apply(k Kit, e Edit, ears Ears) (Kit, error) {
	next := k
	each := func(f func(Pad) (Pad, error)) error {
		for _, n := range e.Notes {
			p, ok := next.Pad(n)
			if !ok {
				return fmt.Errorf("%w: there is no pad on note %d", ErrKit, n)
			}
			p, err := f(p.Clone())
			if err != nil {
				return err
			}
			next = next.Put(p)
		}
		return nil
	}
	from, haveFrom := k.Pad(e.From)
	var err error
	switch e.Op {
	case OpPads:
		next.Pads = slices.DeleteFunc(slices.Clone(k.Pads), func(p Pad) bool { return slices.Contains(e.Remove, p.Note) })
		for _, p := range e.Put {
			next = next.Put(p)
		}
		if e.Name != nil {
			next.Name = *e.Name
		}
	case OpEven:
		err = each(func(p Pad) (Pad, error) { return p.spread(EvenRanges(len(p.Layers))) })
	case OpLoudness:
		err = each(func(p Pad) (Pad, error) {
			sort.SliceStable(p.Layers, func(i, j int) bool { return p.Layers[i].loudness(ears) < p.Layers[j].loudness(ears) })
			return p.spread(EvenRanges(len(p.Layers)))
		})
	case OpRanges:
		err = each(func(p Pad) (Pad, error) {
			if len(p.Layers) != len(from.Layers) {
				return p, fmt.Errorf("%w: the pad on note %d has %d layers, the one on note %d has %d; ranges go between pads with as many layers", ErrKit, p.Note, len(p.Layers), e.From, len(from.Layers))
			}
			var ranges []Range
			for _, l := range from.Layers {
				ranges = append(ranges, Range{l.Lo, l.Hi})
			}
			return p.spread(ranges)
		})
	case OpAdd:
		if !haveFrom {
			from = NewPad(e.From)
		}
		if from, err = from.Clone().add(e.How, e.Layer, e.Takes, ears); err == nil {
			next = next.Put(from)
			err = each(func(p Pad) (Pad, error) { return p.add(e.How, e.Layer, e.Takes, ears) })
		}
	case OpTry:
		if e.Try == nil {
			return k, fmt.Errorf("%w: no sound was given to try", ErrKit)
		}
		next = next.Put(k.Tried(*e.Try, ears))
	case OpCopy:
		if !haveFrom {
			return k, fmt.Errorf("%w: there is no pad on note %d", ErrKit, e.From)
		}
		err = each(func(p Pad) (Pad, error) { return p.take(from, e.Settings) })
	default:
		err = fmt.Errorf("%w: unknown edit %q", ErrKit, e.Op)
	}
	if err == nil {
		err = next.Check()
	}
	if err != nil {
		return k, err
	}
	return next, nil
}

func (p Pad) spread(ranges []Range) (Pad, error) {
	for i, r := range ranges {
		p.Layers[i].Lo, p.Layers[i].Hi = r.Lo, r.Hi
	}
	return p, nil
}

// loudness is the layer's loudest sound's, by its first take.
func (l Layer) loudness(ears Ears) float64 {
	top := -200.0
	for _, s := range l.Sounds {
		for _, t := range s.Takes[:1] {
			top = max(top, ears.Loudness(t.Sample)+t.Shape.GainDB+s.LevelDB)
		}
	}
	return top
}

// add brings takes to the pad. New layers come in the order of their loudness; together with those that are there
// they share the velocities evenly.
func (p Pad) add(how How, layer int, takes []Take, ears Ears) (Pad, error) {
	if len(takes) == 0 {
		return p, fmt.Errorf("%w: no sound was given", ErrKit)
	}
	if len(p.Layers) == 0 && how != AddTake {
		how = Replace
	}
	switch how {
	case Replace, AddLayer:
		if how == Replace {
			p.Layers = nil
		}
		fresh := make([]Layer, len(takes))
		for i, t := range takes {
			fresh[i] = NewLayer(1, 127, t)
		}
		sort.SliceStable(fresh, func(i, j int) bool { return fresh[i].loudness(ears) < fresh[j].loudness(ears) })
		p.Layers = append(p.Layers, fresh...)
		return p.spread(EvenRanges(len(p.Layers)))
	case Stack, AddTake:
		if len(p.Layers) == 0 {
			p.Layers = []Layer{NewLayer(1, 127, takes...)}
			return p, nil
		}
		if layer >= len(p.Layers) {
			return p, fmt.Errorf("%w: the pad on note %d has no layer %d", ErrKit, p.Note, layer+1)
		}
		for i := range p.Layers {
			l := &p.Layers[i]
			switch {
			case layer >= 0 && i != layer:
			case how == Stack:
				for _, t := range takes {
					l.Sounds = append(l.Sounds, Sound{Takes: []Take{t}})
				}
			default:
				l.Sounds[0].Takes = append(l.Sounds[0].Takes, takes...)
			}
		}
		return p, nil
	}
	return p, fmt.Errorf("%w: a sound can replace, be a layer, be stacked or be a take, not %q", ErrKit, how)
}

// take gives p the settings named, of from.
func (p Pad) take(from Pad, settings []string) (Pad, error) {
	var shape Shape
	if len(from.Layers) > 0 {
		shape = from.Layers[0].Sounds[0].Takes[0].Shape
	}
	for _, s := range settings {
		switch s {
		case "play":
			p.Held, p.VelTrack, p.Crossfade = from.Held, from.VelTrack, from.Crossfade
			p.Choke, p.CutBy, p.SelfChoke = from.Choke, from.CutBy, from.SelfChoke
		case "level":
			p.LevelDB = from.LevelDB
		case "pan":
			p.Pan = from.Pan
		case "tune":
			p.Semitones = from.Semitones
		case "fades":
			for t := range p.Takes() {
				t.Shape.FadeInMS, t.Shape.FadeOutMS, t.Shape.Curve = shape.FadeInMS, shape.FadeOutMS, shape.Curve
			}
		case "envelope":
			for t := range p.Takes() {
				t.Shape.AttackMS, t.Shape.DecayMS, t.Shape.SustainPct, t.Shape.ReleaseMS = shape.AttackMS, shape.DecayMS, shape.SustainPct, shape.ReleaseMS
			}
		case "drawn":
			for t := range p.Takes() {
				t.Shape.Level, t.Shape.Pan, t.Shape.Tune = shape.Level, shape.Pan, shape.Tune
			}
		default:
			return p, fmt.Errorf("%w: %q is not a setting that can be copied", ErrKit, s)
		}
	}
	return p, nil
}
