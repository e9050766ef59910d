package project

import (
	"encoding/json"
	"reflect"
	"slices"
	"strconv"

	"hexachord/core/pattern"
)

// Change is what an edit did to one document: its body before and after (nil when it was not there), or, for a pattern that
// was edited, exactly which hits and settings went and came. It is what the history keeps.
type Change struct {
	Kind     Kind            `json:"kind"`
	ID       string          `json:"id"`
	Position int64           `json:"position"`
	Before   json.RawMessage `json:"before,omitempty"`
	After    json.RawMessage `json:"after,omitempty"`
	Pattern  *pattern.Change `json:"pattern,omitempty"`
}

// Key names the document that was changed.
func (c Change) Key() Key { return Key{c.Kind, c.ID} }

// Inverse takes the change back.
func (c Change) Inverse() Change {
	c.Before, c.After = c.After, c.Before
	if c.Pattern != nil {
		p := c.Pattern.Inverse()
		c.Pattern = &p
	}
	return c
}

// Inverted takes changes back, the last first.
func Inverted(changes []Change) []Change {
	out := make([]Change, len(changes))
	for i, c := range changes {
		out[len(changes)-1-i] = c.Inverse()
	}
	return out
}

// replayed is a pattern while changes are done to it again.
type replayed struct {
	hits     map[pattern.Key]pattern.Hit
	settings pattern.Settings
	position int64
}

// Replay does changes again, in their order, whatever their number: each document is read and written once. It returns the
// documents that were touched.
func (s State) Replay(changes []Change) (State, []Key, error) {
	bodies := map[Key]*Change{}     // the newest body of a document, After nil: it is gone
	patterns := map[Key]*replayed{} // patterns since their newest body
	touched := map[Key]bool{}
	for i := range changes {
		c := &changes[i]
		k := c.Key()
		touched[k] = true
		if c.Pattern == nil {
			bodies[k] = c
			delete(patterns, k)
			continue
		}
		at, ok := patterns[k]
		if !ok {
			doc, there := s.docs[k]
			if body, ok := bodies[k]; ok {
				if there = body.After != nil; there {
					var err error
					if doc, err = Read(k, body.Position, body.After); err != nil {
						return s, nil, err
					}
				}
			}
			if !there {
				continue // a pattern that is not there any more
			}
			p := doc.Value.(pattern.Pattern)
			at = &replayed{hits: make(map[pattern.Key]pattern.Hit, len(p.Hits)), settings: p.Settings(), position: doc.Position}
			for _, h := range p.Hits {
				at.hits[h.Key()] = h
			}
			patterns[k] = at
		}
		for _, h := range c.Pattern.Removed {
			delete(at.hits, h.Key())
		}
		for _, h := range c.Pattern.Added {
			at.hits[h.Key()] = h
		}
		at.settings = c.Pattern.After
	}
	put := map[Key]*Document{}
	var keys []Key
	for k := range touched {
		keys = append(keys, k)
		if at, ok := patterns[k]; ok {
			p := pattern.Pattern{Hits: make([]pattern.Hit, 0, len(at.hits))}.With(at.settings)
			for _, h := range at.hits {
				p.Hits = append(p.Hits, h)
			}
			pattern.SortHits(p.Hits)
			body, err := json.Marshal(p)
			if err != nil {
				return s, nil, err
			}
			put[k] = &Document{Key: k, Position: at.position, Value: p, Body: body}
			continue
		}
		c, ok := bodies[k]
		switch {
		case !ok:
		case c.After == nil:
			put[k] = nil
		default:
			doc, err := Read(k, c.Position, c.After)
			if err != nil {
				return s, nil, err
			}
			put[k] = &doc
		}
	}
	return s.with(put), keys, nil
}

// Scope is what of a project an edit reads or writes. An edit that was made on an older state is still true on a newer one
// when nothing of its scope was changed in between.
type Scope struct {
	All      bool                     // everything
	Kinds    []Kind                   // every document of these kinds
	Keys     []Key                    // these documents, whole
	Patterns map[string]pattern.Scope // parts of patterns, by ID
	Settings []string                 // settings, as JSON names them; a lane's mute and solo as "muted 38"
	Pads     []int                    // pads of the kit, by note
}

// And is everything that two scopes hold.
func (s Scope) And(o Scope) Scope {
	out := Scope{All: s.All || o.All, Kinds: slices.Concat(s.Kinds, o.Kinds), Keys: slices.Concat(s.Keys, o.Keys),
		Settings: slices.Concat(s.Settings, o.Settings), Pads: slices.Concat(s.Pads, o.Pads), Patterns: map[string]pattern.Scope{}}
	for _, of := range []map[string]pattern.Scope{s.Patterns, o.Patterns} {
		for id, p := range of {
			was := out.Patterns[id]
			out.Patterns[id] = pattern.Scope{All: was.All || p.All, Notes: slices.Concat(was.Notes, p.Notes), Keys: slices.Concat(was.Keys, p.Keys),
				Settings: slices.Concat(was.Settings, p.Settings)}
		}
	}
	return out
}

// Touches reports whether a change touched something of the scope.
func (s Scope) Touches(c Change) bool {
	if s.All || slices.Contains(s.Kinds, c.Kind) || slices.Contains(s.Keys, c.Key()) {
		return true
	}
	switch c.Kind {
	case KindPattern:
		of, ok := s.Patterns[c.ID]
		return ok && (c.Pattern == nil || of.Touches(*c.Pattern))
	case KindSettings:
		if len(s.Settings) == 0 {
			return false
		}
		before, after := readOr(c.Before, NewSettings()), readOr(c.After, NewSettings())
		for _, name := range before.differing(after) {
			if slices.Contains(s.Settings, name) {
				return true
			}
		}
	case KindKit:
		if len(s.Pads) == 0 {
			return false
		}
		var none kitDocument
		before, after := readOr(c.Before, none), readOr(c.After, none)
		for _, n := range s.Pads {
			if !reflect.DeepEqual(before.pad(n), after.pad(n)) {
				return true
			}
		}
	}
	return false
}

// readOr reads a body that was checked when it was kept; one that is not there is v.
func readOr[T any](body json.RawMessage, v T) T {
	if body != nil {
		_ = json.Unmarshal(body, &v)
	}
	return v
}

// kitDocument tells a kit's pads apart without understanding them.
type kitDocument struct {
	Pads []map[string]any `json:"pads"`
}

func (k kitDocument) pad(note int) map[string]any {
	for _, p := range k.Pads {
		if n, ok := p["note"].(float64); ok && int(n) == note {
			return p
		}
	}
	return nil
}

func laneSetting(of string, note int) string { return of + " " + strconv.Itoa(note) }

// Differences are the changes, each of a whole document, that lead from one state to another in the documents of some keys.
func (s State) Differences(next State, keys []Key) []Change {
	var out []Change
	for _, k := range keys {
		c := Change{Kind: k.Kind, ID: k.ID}
		if was, ok := s.docs[k]; ok {
			c.Before, c.Position = was.Body, was.Position
		}
		if is, ok := next.docs[k]; ok {
			c.After, c.Position = is.Body, is.Position
		}
		out = append(out, c)
	}
	return out
}
