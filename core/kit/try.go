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
	// Match brings the sample to the loudness of the one it stands in for.
	Match bool `json:"match"`
}

// mostMatchDB bounds how far a sample is raised or lowered to match another.
const mostMatchDB = 24

// MatchDB is by how much a sample that is tried is raised to be as loud as the take it stands in for: 0 without one, or when
// that is not wanted.
func (k Kit) MatchDB(t Try, loud Loudness) float64 {
	p, _ := k.Pad(t.Note)
	old, ok := p.take1(t)
	if !ok || !t.Match {
		return 0
	}
	d := loud(old.Sample) + old.Shape.GainDB - loud(t.Sample)
	return math.Max(-mostMatchDB, math.Min(mostMatchDB, d))
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
func (k Kit) Tried(t Try, loud Loudness) Pad {
	p, ok := k.Pad(t.Note)
	if !ok {
		p = NewPad(t.Note)
	}
	p = p.Clone()
	fresh := Take{Sample: t.Sample, Source: t.Source, Shape: Whole()}
	fresh.Shape.GainDB = k.MatchDB(t, loud)
	old, ok := p.take1(t)
	if !ok {
		p.Layers = []Layer{NewLayer(1, 127, fresh)}
		return p
	}
	l := &p.Layers[t.Layer]
	s := &l.Sounds[t.Sound]
	switch t.Hear {
	case "old":
	case "both":
		beside := *s
		beside.Takes = []Take{fresh}
		l.Sounds = append(l.Sounds, beside)
	case "turn":
		l.Order = InTurn
		s.Takes = []Take{fresh, old}
	default:
		s.Takes[t.Take] = fresh
	}
	return p
}
