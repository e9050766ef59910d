package project

import (
	"encoding/json"
	"errors"
	"fmt"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/pattern"
	"hexachord/core/shelf"
)

// World is what edits need to know of what lies outside the project.
type World interface {
	// NewID makes a name no document has yet.
	NewID() string
	// Sample finds a sample on the shelf.
	Sample(hash string) (shelf.Item, error)
	// HasAudio reports whether the audio of a hash is kept.
	HasAudio(hash string) bool
	kit.Ears
}

// Draft is a project while it is edited: what it is now, and what has been changed so far.
type Draft struct {
	State
	World World
	// Result is what came of the step that is under way, beside the documents it changed.
	Result  Result
	changes []Change
}

// NewDraft begins an edit.
func NewDraft(s State, w World) *Draft { return &Draft{State: s, World: w} }

// Changes are what the edit has changed so far.
func (d *Draft) Changes() []Change { return d.changes }

// PutSettings replaces the settings; those of lanes and the output are the part's.
func (d *Draft) PutSettings(s Settings) error {
	if d.Part == "" {
		return d.put(KindSettings, only, s)
	}
	all := d.first.settings
	all.BPM, all.Feel = s.BPM, s.Feel
	return errors.Join(d.put(KindSettings, only, all), d.putPart(func(p *Part) { p.LaneMuted, p.LaneSolo, p.Output = s.Muted, s.Solo, s.Output }))
}

// PutMap replaces the drum map of the part.
func (d *Draft) PutMap(m drummap.Map) error {
	if d.Part == "" {
		return d.put(KindMap, only, m)
	}
	return d.putPart(func(p *Part) { p.Map = m })
}

// PutKit replaces the kit of the part.
func (d *Draft) PutKit(k kit.Kit) error {
	if d.Part == "" {
		return d.put(KindKit, only, k)
	}
	return d.putPart(func(p *Part) { p.Kit = k })
}

// AddPattern adds a pattern of the part after the others and returns its ID.
func (d *Draft) AddPattern(p pattern.Pattern) (id string, err error) {
	return d.addPatternOf(d.Part, p)
}

// addPatternOf adds a pattern of any part.
func (d *Draft) addPatternOf(part string, p pattern.Pattern) (id string, err error) {
	p.Part = part
	id = d.World.NewID()
	d.Result.ID = id
	return id, d.put(KindPattern, id, p)
}

// PutPattern replaces a pattern.
func (d *Draft) PutPattern(id string, p pattern.Pattern) error { return d.replace(KindPattern, id, p) }

// EditPattern applies an edit to one pattern and returns the pattern it leads to.
func (d *Draft) EditPattern(id string, e pattern.Edit) (next pattern.Pattern, done pattern.Change, err error) {
	k := Key{KindPattern, id}
	doc, ok := d.docs[k]
	if !ok {
		return next, done, missing(k)
	}
	next, done, err = pattern.Apply(doc.Value.(pattern.Pattern), e)
	if err != nil || done.Empty() {
		return next, done, err
	}
	body, err := json.Marshal(next)
	if err != nil {
		return next, done, err
	}
	doc.Value, doc.Body = next, body
	d.changes = append(d.changes, Change{Kind: k.Kind, ID: id, Position: doc.Position, Pattern: &done})
	d.set(doc)
	return next, done, nil
}

// AddGroove keeps a groove and returns its ID.
func (d *Draft) AddGroove(g feel.Groove) (id string, err error) {
	id = d.World.NewID()
	d.Result.ID = id
	return id, d.put(KindGroove, id, g)
}

// AddRecording adds a recording and returns its ID.
func (d *Draft) AddRecording(r Recording) (id string, err error) {
	id = d.World.NewID()
	d.Result.ID = id
	return id, d.put(KindRecording, id, r)
}

// PutRecording replaces a recording.
func (d *Draft) PutRecording(id string, r Recording) error {
	return d.replace(KindRecording, id, r)
}

// replace puts a document that must be there already.
func (d *Draft) replace(kind Kind, id string, value any) error {
	if _, ok := d.docs[Key{kind, id}]; !ok {
		return missing(Key{kind, id})
	}
	return d.put(kind, id, value)
}

func (d *Draft) put(kind Kind, id string, value any) error {
	if err := kinds[kind].check(value); err != nil {
		return err
	}
	body, err := json.Marshal(value)
	if err != nil {
		return err
	}
	doc, there := d.docs[Key{kind, id}]
	c := Change{Kind: kind, ID: id, After: body}
	if there {
		c.Before, c.Position = doc.Body, doc.Position
		if string(doc.Body) == string(body) {
			return nil
		}
	} else {
		for k, other := range d.docs {
			if k.Kind == kind {
				c.Position = max(c.Position, other.Position)
			}
		}
		c.Position++
	}
	d.changes = append(d.changes, c)
	d.set(Document{Key: c.Key(), Position: c.Position, Value: value, Body: body})
	return nil
}

// Remove takes a document out; undo brings it back.
func (d *Draft) Remove(kind Kind, id string) error {
	k := Key{kind, id}
	doc, ok := d.docs[k]
	if !ok {
		return missing(k)
	}
	d.changes = append(d.changes, Change{Kind: kind, ID: id, Position: doc.Position, Before: doc.Body})
	d.State = d.with(map[Key]*Document{k: nil})
	return nil
}

func (d *Draft) set(doc Document) { d.State = d.with(map[Key]*Document{doc.Key: &doc}) }

func missing(k Key) error { return fmt.Errorf("the %s: %w", k.Kind, ErrNotFound) }
