package project

import (
	"fmt"

	"hexachord/core/drummap"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/ready"
)

// fillRoles are the roles a fill runs through, first to last.
var fillRoles = []drummap.Role{drummap.Snare, drummap.HighTom, drummap.MidTom, drummap.LowTom}

// PatternEdit edits one pattern. Linked copies are edited with it, in one step.
type PatternEdit struct {
	ID   string       `json:"id" required:"true" maxLength:"64"`
	Edit pattern.Edit `json:"edit" required:"true"`
}

func (e *PatternEdit) Apply(d *Draft) (string, error) {
	old, err := d.Pattern(e.ID)
	if err != nil {
		return "", err
	}
	edit := e.Edit
	if f := edit.FillBar; f != nil && len(f.Notes) == 0 {
		own := *f
		for _, r := range fillRoles {
			if l, ok := d.Map.ByRole(r); ok {
				own.Notes = append(own.Notes, l.Note)
			}
		}
		edit.FillBar = &own
	}
	pt, done, err := d.EditPattern(e.ID, edit)
	if err != nil {
		return "", err
	}
	if err := d.mirror(e.ID, old.Link, edit); err != nil {
		return "", err
	}
	return edit.Describe(done, pt, func(note int) string {
		l, _ := d.Map.ByNote(note)
		return l.Name
	}), nil
}

// mirror edits the copies that are linked by a name as their pattern was edited.
func (d *Draft) mirror(id, link string, e pattern.Edit) error {
	if link == "" {
		return nil
	}
	if e.Shape != nil {
		shape, some := e.Shape.Mirrored()
		if !some {
			return nil
		}
		e.Shape = &shape
	}
	for _, other := range d.Patterns {
		if other.ID != id && other.Value.Link == link {
			if _, _, err := d.EditPattern(other.ID, e); err != nil {
				return err
			}
		}
	}
	return nil
}

func (e *PatternEdit) Scope(p Project) Scope {
	own := e.Edit.Scope()
	s := Scope{Patterns: map[string]pattern.Scope{}}
	pt, _ := p.Pattern(e.ID)
	for _, other := range p.Patterns {
		if other.ID == e.ID || pt.Link != "" && other.Value.Link == pt.Link {
			s.Patterns[other.ID] = own
		}
	}
	if e.Edit.FillBar != nil {
		s.Keys = []Key{{KindMap, only}}
	}
	return s
}

// putMirrored replaces a pattern, and the hits of its linked copies.
func (d *Draft) putMirrored(id string, now pattern.Pattern) error {
	if err := d.PutPattern(id, now); err != nil || now.Link == "" {
		return err
	}
	for _, other := range d.Patterns {
		if other.ID == id || other.Value.Link != now.Link {
			continue
		}
		mirror := other.Value
		mirror.Bars, mirror.Meter, mirror.Grid, mirror.Lanes, mirror.Hits = now.Bars, now.Meter, now.Grid, now.Lanes, now.Hits
		if now.Feel != nil { // what was written into the hits is not laid over them again
			mirror.Feel = now.Feel
		}
		if err := d.PutPattern(other.ID, mirror); err != nil {
			return err
		}
	}
	return nil
}

// wholePatterns is the scope of what reads a pattern whole, with its linked copies; "" is none.
func (p Project) wholePatterns(id string) Scope {
	pt, _ := p.Pattern(id)
	var s Scope
	for _, other := range p.Patterns {
		if other.ID == id || pt.Link != "" && other.Value.Link == pt.Link {
			s.Keys = append(s.Keys, Key{KindPattern, other.ID})
		}
	}
	return s
}

// AddPattern adds an empty pattern, a copy of one, or the pattern given.
type AddPattern struct {
	Name   string           `json:"name" required:"true" minLength:"1" maxLength:"200"`
	Bars   int              `json:"bars,omitempty" minimum:"0" maximum:"64"` // 0 is 2
	CopyOf string           `json:"copyOf,omitempty" maxLength:"64"`         // ID of the pattern to copy
	Linked bool             `json:"linked,omitempty"`                        // the copy and it mirror each other's hits
	Value  *pattern.Pattern `json:"value,omitempty"`                         // its name is Name
}

func (e *AddPattern) Apply(d *Draft) (string, error) {
	label := "New pattern " + e.Name
	bars := e.Bars
	if bars == 0 {
		bars = 2
	}
	pt := pattern.Pattern{Bars: bars, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}}
	switch {
	case e.CopyOf != "":
		var err error
		if pt, err = d.Pattern(e.CopyOf); err != nil {
			return "", err
		}
		label = "Copy " + pt.Name
		if !e.Linked {
			pt.Link = ""
			break
		}
		label = "Linked copy of " + pt.Name
		if pt.Link == "" {
			pt.Link = d.World.NewID()
			if _, _, err := d.EditPattern(e.CopyOf, pattern.Edit{Shape: &pattern.Shape{Link: &pt.Link}}); err != nil {
				return "", err
			}
		}
	case e.Value != nil:
		pt = *e.Value
	}
	pt.Name = e.Name
	_, err := d.AddPattern(pt)
	return label, err
}

func (e *AddPattern) Scope(p Project) Scope {
	if e.CopyOf == "" {
		return Scope{}
	}
	return Scope{Keys: []Key{{KindPattern, e.CopyOf}}}
}

// RemovePattern takes a pattern out; undo brings it back.
type RemovePattern struct {
	ID string `json:"id" required:"true" maxLength:"64"`
}

func (e *RemovePattern) Apply(d *Draft) (string, error) {
	p, err := d.Pattern(e.ID)
	if err != nil {
		return "", err
	}
	for _, pass := range d.Passes {
		if pass.Value.Pattern == e.ID {
			if err := d.Remove(KindPass, pass.ID); err != nil {
				return "", err
			}
		}
	}
	return "Remove the pattern " + p.Name, d.Remove(KindPattern, e.ID)
}

func (e *RemovePattern) Scope(Project) Scope {
	return Scope{Keys: []Key{{KindPattern, e.ID}}, Kinds: []Kind{KindPass}}
}

// WriteFeel writes what is laid over a pattern into its hits.
type WriteFeel struct {
	Pattern string `json:"pattern" required:"true" maxLength:"64"`
}

func (e *WriteFeel) Apply(d *Draft) (string, error) {
	pt, err := d.Pattern(e.Pattern)
	if err != nil {
		return "", err
	}
	written := play.WriteFeel(pt, d.FeelOf(pt), d.Settings.BPM)
	return "Write the feel into " + pt.Name, d.putMirrored(e.Pattern, written)
}

func (e *WriteFeel) Scope(p Project) Scope {
	return p.wholePatterns(e.Pattern).And(Scope{Settings: []string{"bpm", "feel"}, Kinds: []Kind{KindGroove}})
}

// TakeReady says what of a ready pattern is taken, and into what.
type TakeReady struct {
	Name    string               `json:"name" required:"true"`
	Roles   []drummap.Role       `json:"roles,omitempty"`                            // only these; none = all
	Instead map[drummap.Role]int `json:"instead,omitempty"`                          // the lane (note) that plays a role, −1 leaves it out
	Into    string               `json:"into,omitempty" maxLength:"64"`              // ID of the pattern it is put into; "" makes a new one
	FromBar int                  `json:"fromBar,omitempty" minimum:"0" maximum:"64"` // bars FromBar ≤ bar < ToBar of that pattern; its other lanes stay
	ToBar   int                  `json:"toBar,omitempty" minimum:"0" maximum:"64"`
}

// LayReady lays a ready pattern on a project's map, as it would be taken: into is the pattern it would come to.
func (p Project) LayReady(t TakeReady) (laid ready.Laid, into pattern.Pattern, err error) {
	rp, err := ready.Find(t.Name)
	if err != nil {
		return laid, into, err
	}
	instead := map[drummap.Role]int{}
	for r, note := range t.Instead {
		instead[r] = note
	}
	if len(t.Roles) > 0 {
		wanted := map[drummap.Role]bool{}
		for _, r := range t.Roles {
			wanted[r] = true
		}
		for _, r := range rp.Roles {
			if !wanted[r] {
				instead[r] = -1
			}
		}
	}
	laid = rp.Lay(p.Map, instead)
	if t.Into == "" {
		return laid, laid.Pattern, nil
	}
	old, err := p.Pattern(t.Into)
	if err != nil {
		return laid, into, err
	}
	notes := []int{}
	for _, n := range laid.Notes {
		notes = append(notes, n)
	}
	into, _, err = pattern.Apply(old, pattern.Edit{Clear: &pattern.Clear{FromBar: t.FromBar, ToBar: t.ToBar, Notes: notes}})
	if err != nil || len(notes) == 0 {
		return laid, old, err
	}
	from, to := max(0, t.FromBar)*old.Meter.BarTicks(), min(old.Bars, t.ToBar)*old.Meter.BarTicks()
	var put []pattern.Hit
	for at := from; at < to; at += laid.Pattern.LengthTicks() { // a short one is repeated
		for _, h := range laid.Pattern.Hits {
			if h.Tick += at; h.Tick < to {
				put = append(put, h)
			}
		}
	}
	into, _, err = pattern.Apply(into, pattern.Edit{Hits: &pattern.Hits{Put: put}})
	return laid, into, err
}

func (t *TakeReady) Apply(d *Draft) (string, error) {
	_, into, err := d.LayReady(*t)
	if err != nil {
		return "", err
	}
	if t.Into == "" {
		_, err := d.AddPattern(into)
		return "Take " + t.Name, err
	}
	return fmt.Sprintf("Take %s into %s", t.Name, into.Name), d.putMirrored(t.Into, into)
}

func (t *TakeReady) Scope(p Project) Scope {
	return p.wholePatterns(t.Into).And(Scope{Keys: []Key{{KindMap, only}}})
}
