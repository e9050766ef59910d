package service

import (
	"crypto/rand"
	"fmt"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/ready"
	"hexachord/store"
)

// fillRoles are the roles a fill runs through, first to last.
var fillRoles = []drummap.Role{drummap.Snare, drummap.HighTom, drummap.MidTom, drummap.LowTom}

// EditPattern applies an edit and names it in the history. Linked copies are edited with it, in one step.
func (b *Bench) EditPattern(projectID, patternID string, revision int64, e pattern.Edit) (next int64, err error) {
	p, err := b.Load(projectID)
	if err != nil {
		return revision, err
	}
	old, err := p.Pattern(patternID)
	if err != nil {
		return revision, err
	}
	if e.Op == pattern.OpFillBar && len(e.Notes) == 0 {
		for _, r := range fillRoles {
			if l, ok := p.Map.ByRole(r); ok {
				e.Notes = append(e.Notes, l.Note)
			}
		}
	}
	laneName := func(note int) string {
		l, _ := p.Map.ByNote(note)
		return l.Name
	}
	return b.Edit(projectID, revision, func(tx *store.Tx) string {
		pt, done := tx.EditPattern(patternID, e)
		if mirrored, ok := mirroredEdit(e); ok && old.Link != "" {
			for _, other := range p.Patterns {
				if other.ID != patternID && other.Value.Link == old.Link {
					tx.EditPattern(other.ID, mirrored)
				}
			}
		}
		if e.Label != "" {
			return e.Label
		}
		return done.Describe(pt, laneName)
	})
}

// mirroredEdit is what of an edit goes to linked copies: everything but name, colour, tags, feel and the link itself.
func mirroredEdit(e pattern.Edit) (pattern.Edit, bool) {
	if e.Op != pattern.OpShape {
		return e, true
	}
	e.Name, e.Color, e.Tags, e.Feel, e.OwnFeel, e.Link = nil, nil, nil, nil, nil, nil
	return e, e.Bars != nil || e.Meter != nil || e.Grid != nil || e.Lane != nil
}

// putMirrored replaces a pattern, and the hits of its linked copies.
func putMirrored(tx *store.Tx, p store.Project, id string, now pattern.Pattern) {
	tx.PutPattern(id, now)
	for _, other := range p.Patterns {
		if now.Link == "" || other.ID == id || other.Value.Link != now.Link {
			continue
		}
		mirror := other.Value
		mirror.Bars, mirror.Meter, mirror.Grid, mirror.Lanes, mirror.Hits = now.Bars, now.Meter, now.Grid, now.Lanes, now.Hits
		if now.Feel != nil { // what was written into the hits is not laid over them again
			mirror.Feel = now.Feel
		}
		tx.PutPattern(other.ID, mirror)
	}
}

// CopyPattern adds a copy of a pattern; a linked one mirrors every edit of its hits, and they of it.
func (b *Bench) CopyPattern(projectID, patternID string, revision int64, name string, linked bool) (id string, next int64, err error) {
	p, err := b.Load(projectID)
	if err != nil {
		return "", revision, err
	}
	pt, err := p.Pattern(patternID)
	if err != nil {
		return "", revision, err
	}
	next, err = b.Edit(projectID, revision, func(tx *store.Tx) string {
		label := "Copy " + pt.Name
		if linked {
			if pt.Link == "" {
				pt.Link = rand.Text()[:12]
				tx.EditPattern(patternID, pattern.Edit{Op: pattern.OpShape, Link: &pt.Link})
			}
			label = "Linked copy of " + pt.Name
		} else {
			pt.Link = ""
		}
		pt.Name = name
		id = tx.AddPattern(pt)
		return label
	})
	return id, next, err
}

// WriteFeel writes what is laid over a pattern into its hits.
func (b *Bench) WriteFeel(projectID, patternID string, revision int64) (int64, error) {
	p, err := b.Load(projectID)
	if err != nil {
		return revision, err
	}
	pt, err := p.Pattern(patternID)
	if err != nil {
		return revision, err
	}
	written := play.WriteFeel(pt, p.FeelOf(pt), p.Settings.BPM)
	return b.Edit(projectID, revision, func(tx *store.Tx) string {
		putMirrored(tx, p, patternID, written)
		return "Write the feel into " + pt.Name
	})
}

// TakeReady says what of a ready pattern is taken, and into what.
type TakeReady struct {
	Name    string               `json:"name" required:"true"`
	Roles   []drummap.Role       `json:"roles,omitempty"`   // only these; none = all
	Instead map[drummap.Role]int `json:"instead,omitempty"` // the lane (note) that plays a role, −1 leaves it out
	Into    string               `json:"into,omitempty"`    // ID of the pattern it is put into; "" makes a new one
	FromBar int                  `json:"fromBar,omitempty"` // bars FromBar ≤ bar < ToBar of that pattern; its other lanes stay
	ToBar   int                  `json:"toBar,omitempty"`
}

// LayReady lays a ready pattern on a project's map, as it would be taken: into is the pattern it would come to.
func LayReady(p store.Project, t TakeReady) (laid ready.Laid, into pattern.Pattern, err error) {
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
	var notes []int
	for _, n := range laid.Notes {
		notes = append(notes, n)
	}
	into, _, err = pattern.Apply(old, pattern.Edit{Op: pattern.OpClear, FromBar: t.FromBar, ToBar: t.ToBar, Notes: notes})
	if err != nil {
		return laid, into, err
	}
	from, to := t.FromBar*old.Meter.BarTicks(), min(old.Bars, t.ToBar)*old.Meter.BarTicks()
	var put []pattern.Hit
	for at := from; at < to; at += laid.Pattern.LengthTicks() { // a short one is repeated
		for _, h := range laid.Pattern.Hits {
			if h.Tick += at; h.Tick < to {
				put = append(put, h)
			}
		}
	}
	into, _, err = pattern.Apply(into, pattern.Edit{Op: pattern.OpHits, Put: put})
	return laid, into, err
}

// TakeReady takes a ready pattern and returns the ID of the pattern that now has it.
func (b *Bench) TakeReady(projectID string, revision int64, t TakeReady) (id string, next int64, err error) {
	p, err := b.Load(projectID)
	if err != nil {
		return "", revision, err
	}
	_, into, err := LayReady(p, t)
	if err != nil {
		return "", revision, err
	}
	id = t.Into
	next, err = b.Edit(projectID, revision, func(tx *store.Tx) string {
		if t.Into == "" {
			id = tx.AddPattern(into)
			return fmt.Sprintf("Take %s", t.Name)
		}
		putMirrored(tx, p, t.Into, into)
		return fmt.Sprintf("Take %s into %s", t.Name, into.Name)
	})
	return id, next, err
}

// TakeGroove keeps the groove of a pattern's hits.
func (b *Bench) TakeGroove(projectID, patternID string, revision int64, name string) (id string, next int64, err error) {
	p, err := b.Load(projectID)
	if err != nil {
		return "", revision, err
	}
	pt, err := p.Pattern(patternID)
	if err != nil {
		return "", revision, err
	}
	g, err := feel.TakeGroove(name, playedOf(pt), pt.Meter, pt.Grid)
	if err != nil {
		return "", revision, err
	}
	return b.keepGroove(projectID, revision, g, "Take the groove of "+pt.Name)
}

func playedOf(pt pattern.Pattern) []feel.Played {
	strokes := make([]feel.Played, len(pt.Hits))
	for i, h := range pt.Hits {
		strokes[i] = feel.Played{Tick: float64(h.Tick), Note: h.Note, Velocity: h.Velocity}
	}
	return strokes
}

func (b *Bench) keepGroove(projectID string, revision int64, g feel.Groove, label string) (id string, next int64, err error) {
	next, err = b.Edit(projectID, revision, func(tx *store.Tx) string {
		id = tx.AddGroove(g)
		return label
	})
	return id, next, err
}
