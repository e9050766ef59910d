package project

import (
	"hexachord/core/feel"
	"hexachord/core/pattern"
)

// AddGroove keeps a groove: the one given, or that of a pattern's hits.
type AddGroove struct {
	Name      string       `json:"name" required:"true" maxLength:"100"`
	PatternID string       `json:"patternId,omitempty" maxLength:"64"` // take it from this pattern's hits
	Groove    *feel.Groove `json:"groove,omitempty"`                   // or keep this one
	Over      string       `json:"over,omitempty" maxLength:"64"`      // lay it over this pattern too
	// Use says how strongly it is laid over; its ID says nothing.
	Use   *feel.GrooveUse `json:"use,omitempty"`
	Label string          `json:"label,omitempty" maxLength:"200"`
}

func (e *AddGroove) Apply(d *Draft) (string, error) {
	var g feel.Groove
	label := "Keep the groove " + e.Name
	if e.Groove != nil {
		g = *e.Groove
		g.Name = e.Name
	} else {
		pt, err := d.Pattern(e.PatternID)
		if err != nil {
			return "", err
		}
		if g, err = feel.TakeGroove(e.Name, Played(pt), pt.Meter, pt.Grid); err != nil {
			return "", err
		}
		label = "Take the groove of " + pt.Name
	}
	id, err := d.AddGroove(g)
	if err == nil && e.Over != "" && e.Use != nil {
		var pt pattern.Pattern
		if pt, err = d.Pattern(e.Over); err == nil {
			f := d.Settings.Feel
			if pt.Feel != nil {
				f = *pt.Feel
			}
			f.Groove = *e.Use
			f.Groove.ID = id
			label = "Lay " + e.Name + " over " + pt.Name
			_, _, err = d.EditPattern(e.Over, pattern.Edit{Shape: &pattern.Shape{Feel: &f}})
		}
	}
	if e.Label != "" {
		label = e.Label
	}
	return label, err
}

func (e *AddGroove) Scope(Project) Scope {
	var s Scope
	if e.PatternID != "" {
		s.Keys = []Key{{KindPattern, e.PatternID}}
	}
	if e.Over != "" {
		s.Patterns = map[string]pattern.Scope{e.Over: {Settings: []string{"feel"}}}
		s.Settings = []string{"feel"}
	}
	return s
}

// Played are the strokes of a pattern as a groove is taken from them.
func Played(pt pattern.Pattern) []feel.Played {
	strokes := make([]feel.Played, len(pt.Hits))
	for i, h := range pt.Hits {
		strokes[i] = feel.Played{Tick: float64(h.Tick), Note: h.Note, Velocity: h.Velocity}
	}
	return strokes
}

// PutGroove changes or renames a groove.
type PutGroove struct {
	ID     string      `json:"id" required:"true" maxLength:"64"`
	Groove feel.Groove `json:"groove" required:"true"`
}

func (e *PutGroove) Apply(d *Draft) (string, error) {
	return "Change the groove " + e.Groove.Name, d.replace(KindGroove, e.ID, e.Groove)
}

func (e *PutGroove) Scope(Project) Scope { return Scope{Keys: []Key{{KindGroove, e.ID}}} }

// RemoveGroove takes a groove out; undo brings it back. A feel that names it plays without it.
type RemoveGroove struct {
	ID string `json:"id" required:"true" maxLength:"64"`
}

func (e *RemoveGroove) Apply(d *Draft) (string, error) {
	g, err := d.Groove(e.ID)
	if err != nil {
		return "", err
	}
	return "Remove the groove " + g.Name, d.Remove(KindGroove, e.ID)
}

func (e *RemoveGroove) Scope(Project) Scope { return Scope{Keys: []Key{{KindGroove, e.ID}}} }
