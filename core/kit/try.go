package kit

import "math"

// Try is a sample heard in a place of the kit before it is kept there.
type Try struct {
	Note   int    `json:"note" minimum:"0" maximum:"127"`
	Layer  int    `json:"layer" minimum:"0" maximum:"31"`
	Sound  int    `json:"sound" minimum:"0" maximum:"7"`
	Take   int    `json:"take" minimum:"0" maximum:"31"`
	Sample string `json:"sample" maxLength:"64"`
	Source string `json:"source" maxLength:"255"`
	// Hear: new in the old one's place, old as it was, both together, or in turn.
	Hear string `json:"hear" enum:"new,old,both,turn"`
	// Whole tries it for the pad's every layer: alone, it is the pad's one layer.
	Whole bool `json:"whole,omitempty"`
	// Match brings the sample to the loudness of the one it stands in for.
	Match bool `json:"match"`
}

// mostMatchDB bounds how far a sample is raised or lowered to match another.
const mostMatchDB = 24

// MatchDB is by how much a sample that is tried is raised to be as loud as the take it stands in for (for the whole pad: its
// hardest layer's), never over full scale: 0 without one, or when that is not wanted.
func (k Kit) MatchDB(t Try, ears Ears) float64 {
	p, _ := k.Pad(t.Note)
	old, ok := p.take1(t)
	if n := len(p.Layers); t.Whole && n > 0 {
		old, ok = p.Layers[n-1].Sounds[0].Takes[0], true
	}
	if !ok || !t.Match {
		return 0
	}
	d := ears.Loudness(old.Sample) + old.Shape.GainDB - ears.Loudness(t.Sample)
	d = math.Max(-mostMatchDB, math.Min(mostMatchDB, d))
	return math.Min(d, math.Max(0, -ears.PeakDB(t.Sample)))
}

// take1 is the take a try stands in for.
func (p Pad) take1(t Try) (Take, bool) {
	if t.Layer < 0 || t.Layer >= len(p.Layers) || t.Sound < 0 || t.Sound >= len(p.Layers[t.Layer].Sounds) {
		return Take{}, false
	}
	takes := p.Layers[t.Layer].Sounds[t.Sound].Takes
	if t.Take < 0 || t.Take >= len(takes) {
		return Take{}, false
	}
	return takes[t.Take], true
}

// Tried is the pad of a try's note as it sounds while the sample is tried. A pad without that place has the sample as its one
// layer.
func (k Kit) Tried(t Try, ears Ears) Pad {
	p, ok := k.Pad(t.Note)
	if !ok {
		p = NewPad(t.Note)
	}
	p = p.Clone()
	fresh := Take{Sample: t.Sample, Source: t.Source, Shape: Whole()}
	fresh.Shape.GainDB = k.MatchDB(t, ears)
	_, ok = p.take1(t)
	switch {
	case t.Hear == "old":
	case !ok, t.Whole && t.Hear == "new":
		p.Layers = []Layer{NewLayer(1, 127, fresh)}
	case t.Whole:
		for i := range p.Layers {
			p.Layers[i].try(t.Hear, 0, 0, fresh)
		}
	default:
		p.Layers[t.Layer].try(t.Hear, t.Sound, t.Take, fresh)
	}
	return p
}

// try lets a take be heard in a place of the layer: in its stead, beside it or in turn with it.
func (l *Layer) try(hear string, sound, take int, fresh Take) {
	s := &l.Sounds[sound]
	switch hear {
	case "both":
		beside := *s
		beside.Takes = []Take{fresh}
		l.Sounds = append(l.Sounds, beside)
	case "turn":
		l.Order = InTurn
		s.Takes = []Take{fresh, s.Takes[take]}
	default:
		s.Takes[take] = fresh
	}
}
