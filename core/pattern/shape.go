package pattern

import (
	"hexachord/core/feel"
	"hexachord/core/music"
)

// Shape changes name, bars, meter, grid, colour, tags, feel or a lane's grid; nil leaves it. Hits beyond a shorter pattern go
// with it; undo brings them back.
type Shape struct {
	Name  *string      `json:"name,omitempty" maxLength:"200"`
	Bars  *int         `json:"bars,omitempty" minimum:"1" maximum:"64"`
	Meter *music.Meter `json:"meter,omitempty"`
	Grid  *music.Grid  `json:"grid,omitempty"`
	Color *string      `json:"color,omitempty" maxLength:"20"`
	Tags  *[]string    `json:"tags,omitempty" maxItems:"20"`
	Feel  *feel.Feel   `json:"feel,omitempty"`
	// OwnFeel false gives the pattern back to the project's feel.
	OwnFeel *bool     `json:"ownFeel,omitempty"`
	Lane    *LaneGrid `json:"lane,omitempty"` // of the lanes on Notes
	Notes   []int     `json:"notes,omitempty" maxItems:"128"`
	Link    *string   `json:"link,omitempty" maxLength:"64"`
}

func (e *Shape) do(p Pattern) (Pattern, error) {
	p.reshape(e)
	if err := p.checkSettings(); err != nil {
		return p, err
	}
	hits := make([]Hit, 0, len(p.Hits))
	for _, h := range p.Hits {
		if h.Tick < p.LengthTicks() {
			h.Length = min(h.Length, p.LengthTicks())
			hits = append(hits, h)
		}
	}
	p.Hits = hits
	return p, nil
}

func (e *Shape) scope() Scope {
	s := Scope{All: e.Bars != nil || e.Meter != nil}
	for name, given := range map[string]bool{"name": e.Name != nil, "bars": e.Bars != nil, "meter": e.Meter != nil, "grid": e.Grid != nil,
		"color": e.Color != nil, "tags": e.Tags != nil, "feel": e.Feel != nil || e.OwnFeel != nil, "lanes": e.Lane != nil, "link": e.Link != nil} {
		if given {
			s.Settings = append(s.Settings, name)
		}
	}
	return s
}

func (e *Shape) describe(Pattern, func(int) string) string { return "" }

// Mirrored is what of it goes to linked copies: everything but name, colour, tags, feel and the link itself.
func (e *Shape) Mirrored() (Shape, bool) {
	m := Shape{Bars: e.Bars, Meter: e.Meter, Grid: e.Grid, Lane: e.Lane, Notes: e.Notes}
	return m, m.Bars != nil || m.Meter != nil || m.Grid != nil || m.Lane != nil
}

func (p *Pattern) reshape(e *Shape) {
	take(&p.Name, e.Name)
	take(&p.Bars, e.Bars)
	take(&p.Meter, e.Meter)
	take(&p.Grid, e.Grid)
	take(&p.Color, e.Color)
	take(&p.Tags, e.Tags)
	take(&p.Link, e.Link)
	if e.Feel != nil {
		p.Feel = e.Feel
	}
	if e.OwnFeel != nil && !*e.OwnFeel {
		p.Feel = nil
	}
	if e.Lane != nil {
		lanes := map[int]LaneGrid{}
		for note, l := range p.Lanes {
			lanes[note] = l
		}
		for _, note := range e.Notes {
			if lanes[note] = *e.Lane; *e.Lane == (LaneGrid{}) {
				delete(lanes, note)
			}
		}
		if p.Lanes = lanes; len(lanes) == 0 {
			p.Lanes = nil
		}
	}
}

func take[T any](value, asked *T) {
	if asked != nil {
		*value = *asked
	}
}
