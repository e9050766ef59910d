package project

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/mix"
	"hexachord/core/pattern"
	"hexachord/core/song"
)

// Errors a caller can tell apart.
var (
	ErrNotFound = errors.New("not found")
	ErrSettings = errors.New("the settings cannot be used")
	ErrInput    = errors.New("that cannot be done")
)

// Stored is a document with its ID.
type Stored[T any] struct {
	ID    string `json:"id"`
	Value T      `json:"value"`
}

// Project is everything a project holds. It is shared once it is made: it must not be changed.
type Project struct {
	ID         string
	Name       string
	Revision   int64
	Settings   Settings
	Map        drummap.Map
	Kit        kit.Kit
	Patterns   []Stored[pattern.Pattern]
	Recordings []Stored[Recording]
	Grooves    []Stored[feel.Groove]
	Passes     []Stored[Pass]
	Parts      []Stored[Part] // beside the first
	Part       string         // from which of them the project is seen: whose Map, Kit and lanes those above are
	Song       song.Song
	Blocks     []Stored[song.Block]
	Sections   []Stored[song.Section]
	Mix        mix.Mix
	first      firstPart
	Undo, Redo string // labels of what would be undone and redone; "" when there is nothing
}

// Placeholders: what a project, a pattern, a kit and a map are called before anybody named them.
const (
	Unnamed      = "Untitled"
	FirstPattern = "pattern 1"
	NoKit        = "none yet"
	EmptyKit     = "Empty kit"
)

// Title is what a project is called: its name, or as long as it has none, after its first pattern with a name of its own, or its
// kit.
func (p Project) Title() string {
	if p.Name != "" && p.Name != Unnamed {
		return p.Name
	}
	for _, pt := range p.Patterns {
		if pt.Value.Name != FirstPattern && len(pt.Value.Hits) > 0 {
			return pt.Value.Name
		}
	}
	if p.Kit.Name != "" && p.Kit.Name != NoKit && p.Kit.Name != EmptyKit {
		return p.Kit.Name
	}
	return Unnamed
}

// Pattern finds a pattern by ID; ErrNotFound when it is not there.
func (p Project) Pattern(id string) (pattern.Pattern, error) {
	return find(p.Patterns, id, "the pattern")
}

// Recording finds a recording by ID; ErrNotFound when it is not there.
func (p Project) Recording(id string) (Recording, error) {
	return find(p.Recordings, id, "the recording")
}

// Groove finds a groove by ID; ErrNotFound when it is not there.
func (p Project) Groove(id string) (feel.Groove, error) { return find(p.Grooves, id, "the groove") }

// FeelOf is what is laid over a pattern: its own feel or the project's, with the groove it names.
func (p Project) FeelOf(pt pattern.Pattern) feel.Feel {
	f := p.Settings.Feel
	if pt.Feel != nil {
		f = *pt.Feel
	}
	if g, err := p.Groove(f.Groove.ID); err == nil {
		return f.With(&g)
	}
	return f
}

func find[T any](all []Stored[T], id, what string) (T, error) {
	for _, s := range all {
		if s.ID == id {
			return s.Value, nil
		}
	}
	var none T
	return none, fmt.Errorf("%s: %w", what, ErrNotFound)
}

// State is a project with its documents, as of one moment; an edit makes another.
type State struct {
	Project
	docs map[Key]Document
}

// NewState puts a project together from its documents.
func NewState(id, name string, revision int64, docs []Document) State {
	s := State{docs: make(map[Key]Document, len(docs))}
	for _, d := range docs {
		s.docs[d.Key] = d
	}
	s.Project = Project{ID: id, Name: name, Revision: revision, Patterns: []Stored[pattern.Pattern]{}, Recordings: []Stored[Recording]{}, Grooves: []Stored[feel.Groove]{}, Passes: []Stored[Pass]{},
		Blocks: []Stored[song.Block]{}, Sections: []Stored[song.Section]{}, Parts: []Stored[Part]{}}
	s.arrange(KindPart, KindSettings, KindMap, KindKit, KindPattern, KindRecording, KindGroove, KindPass, KindSong, KindBlock, KindSection, KindMix)
	return s
}

// Document finds a document by its key.
func (s State) Document(k Key) (Document, bool) {
	d, ok := s.docs[k]
	return d, ok
}

// arrange brings the project's view of some kinds up to its documents.
func (s *State) arrange(which ...Kind) {
	for _, k := range which {
		switch k {
		case KindSettings:
			s.first.settings, _ = s.docs[Key{k, only}].Value.(Settings)
		case KindMap:
			s.first.lanes, _ = s.docs[Key{k, only}].Value.(drummap.Map)
		case KindKit:
			s.first.kit, _ = s.docs[Key{k, only}].Value.(kit.Kit)
		case KindPattern:
			s.Patterns = listed[pattern.Pattern](s.docs, k)
		case KindRecording:
			s.Recordings = listed[Recording](s.docs, k)
		case KindGroove:
			s.Grooves = listed[feel.Groove](s.docs, k)
		case KindPass:
			s.Passes = listed[Pass](s.docs, k)
		case KindPart:
			s.Parts = listed[Part](s.docs, k)
		case KindSong:
			s.Song, _ = s.docs[Key{k, only}].Value.(song.Song)
		case KindBlock:
			s.Blocks = listed[song.Block](s.docs, k)
		case KindMix:
			s.Mix = mix.New()
			if m, ok := s.docs[Key{k, only}].Value.(mix.Mix); ok {
				s.Mix = m
			}
		case KindSection:
			s.Sections = listed[song.Section](s.docs, k)
		}
	}
	s.Project = s.In(s.Part)
}

// listed are the documents of a kind in their order.
func listed[T any](docs map[Key]Document, k Kind) []Stored[T] {
	var of []Document
	for key, d := range docs {
		if key.Kind == k {
			of = append(of, d)
		}
	}
	slices.SortFunc(of, func(a, b Document) int { return cmp.Or(cmp.Compare(a.Position, b.Position), cmp.Compare(a.ID, b.ID)) })
	out := make([]Stored[T], len(of))
	for i, d := range of {
		out[i] = Stored[T]{d.ID, d.Value.(T)}
	}
	return out
}

// with is the state after documents were put (or, with a nil value, removed).
func (s State) with(put map[Key]*Document) State {
	docs := maps.Clone(s.docs)
	touched := map[Kind]bool{} // true: something came, went or moved
	for k, d := range put {
		was, there := docs[k]
		touched[k.Kind] = touched[k.Kind] || d == nil || !there || was.Position != d.Position
		if d == nil {
			delete(docs, k)
		} else {
			docs[k] = *d
		}
	}
	s.docs = docs
	for k, moved := range touched {
		switch { // the common edit, of a pattern or a block where it stands, does not list thousands anew
		case !moved && k == KindPattern:
			s.Patterns = inPlace(s.Patterns, k, put)
			s.Project = s.In(s.Part)
		case !moved && k == KindBlock:
			s.Blocks = inPlace(s.Blocks, k, put)
			s.Project = s.In(s.Part)
		default:
			s.arrange(k)
		}
	}
	return s
}

// inPlace is a list with other values in the places of those that were put.
func inPlace[T any](all []Stored[T], k Kind, put map[Key]*Document) []Stored[T] {
	out := slices.Clone(all)
	for i, s := range out {
		if d := put[Key{k, s.ID}]; d != nil {
			out[i].Value = d.Value.(T)
		}
	}
	return out
}
