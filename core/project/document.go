// Package project says what a project is: its documents, the edits that change them, what an edit changed, and how that is
// taken back. Everything is a pure function of values; a new kind of document is an entry in kinds and the edits that know it.
package project

import (
	"encoding/json"
	"errors"
	"fmt"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/mix"
	"hexachord/core/pattern"
	"hexachord/core/song"
)

// Kind is a kind of document.
type Kind string

// The kinds of documents a project is made of.
const (
	KindSettings  Kind = "settings"
	KindMap       Kind = "map"
	KindKit       Kind = "kit"
	KindPattern   Kind = "pattern"
	KindRecording Kind = "recording"
	KindGroove    Kind = "groove"
	KindPass      Kind = "pass"
	KindSong      Kind = "song"
	KindBlock     Kind = "block"
	KindSection   Kind = "section"
	KindPart      Kind = "part"
	KindMix       Kind = "mix"
)

// only is the ID of the one document of a kind that a project has one of.
const only = "1"

// Key names a document of a project.
type Key struct {
	Kind Kind   `json:"kind"`
	ID   string `json:"id"`
}

// Document is one document: its value, and the JSON that is kept of it.
type Document struct {
	Key
	Position int64 // among those of its kind
	Value    any
	Body     []byte
}

// kindFacts are how documents of a kind are read and checked.
type kindFacts struct {
	read  func(body []byte) (any, error)
	check func(value any) error
}

// kindOf describes a kind: blank is what an older version did not know of it.
func kindOf[T any](blank func() T, check func(T) error) kindFacts {
	return kindFacts{
		read: func(body []byte) (any, error) {
			v := blank()
			err := json.Unmarshal(body, &v)
			return v, err
		},
		check: func(value any) error { return check(value.(T)) },
	}
}

func zero[T any]() (v T) { return v }

var kinds = map[Kind]kindFacts{
	KindSettings:  kindOf(NewSettings, Settings.Check),
	KindMap:       kindOf(zero[drummap.Map], drummap.Map.Check),
	KindKit:       kindOf(zero[kit.Kit], kit.Kit.Check),
	KindPattern:   kindOf(zero[pattern.Pattern], pattern.Pattern.Check),
	KindRecording: kindOf(zero[Recording], Recording.Check),
	KindGroove:    kindOf(zero[feel.Groove], feel.Groove.Check),
	KindPass:      kindOf(zero[Pass], Pass.Check),
	KindSong:      kindOf(zero[song.Song], song.Song.Check),
	KindBlock:     kindOf(zero[song.Block], song.Block.Check),
	KindSection:   kindOf(zero[song.Section], song.Section.Check),
	KindPart:      kindOf(zero[Part], Part.Check),
	KindMix:       kindOf(mix.New, mix.Mix.Check),
}

// ErrDocument is a document that cannot be understood.
var ErrDocument = errors.New("a document of the project cannot be read")

// Read understands a document that was kept.
func Read(k Key, position int64, body []byte) (Document, error) {
	d := Document{Key: k, Position: position, Body: body}
	facts, ok := kinds[k.Kind]
	if !ok {
		return d, fmt.Errorf("%w: %q is no kind this version knows", ErrDocument, k.Kind)
	}
	var err error
	if d.Value, err = facts.read(body); err != nil {
		return d, fmt.Errorf("%w: its %s: %w", ErrDocument, k.Kind, err)
	}
	return d, nil
}
