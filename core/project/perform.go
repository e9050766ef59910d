package project

import (
	"fmt"
	"math"
	"slices"

	"hexachord/core/pattern"
	"hexachord/core/song"
)

// LayShape lays a ready structure of a song, made from patterns the project has, from a bar on.
type LayShape struct {
	Shape    string   `json:"shape" required:"true" maxLength:"100"`
	Patterns []string `json:"patterns" required:"true" minItems:"1" maxItems:"8"` // those it is made of; where it needs more the first stands in
	Part     string   `json:"part,omitempty" maxLength:"64"`
	Bar      int      `json:"bar,omitempty" minimum:"0" maximum:"1999"`
}

func (e *LayShape) Apply(d *Draft) (string, error) {
	i := slices.IndexFunc(song.Shapes(), func(s song.Shape) bool { return s.Name == e.Shape })
	if i < 0 || len(e.Patterns) == 0 {
		return "", fmt.Errorf("%w: there is no ready shape %q, or no pattern for it", ErrInput, e.Shape)
	}
	shape, bar := song.Shapes()[i], e.Bar
	for n, s := range shape.Stretches {
		id := e.Patterns[0]
		if s.Uses < len(e.Patterns) {
			id = e.Patterns[s.Uses]
		}
		pt, err := d.Pattern(id)
		if err != nil {
			return "", err
		}
		block := song.Block{Part: e.Part, Pattern: id, Bar: bar, Bars: s.Bars}
		if len(s.Only) > 0 {
			for _, l := range d.MapOf(e.Part).Lanes {
				if !slices.Contains(s.Only, l.Role) {
					block.LeftOut = append(block.LeftOut, l.Note)
				}
			}
		}
		if err := d.layBlocks([]BlockPut{{Block: block}}); err != nil {
			return "", err
		}
		if s.Fill {
			if err := d.fillBlocks([]Stored[song.Block]{{ID: d.Result.ID, Value: block}}, pt, uint64(n+1)); err != nil {
				return "", err
			}
		}
		if _, err := d.laySection("", song.Section{Name: s.Name, Bar: bar, Bars: s.Bars}); err != nil {
			return "", err
		}
		bar += s.Bars
	}
	return "A song in the shape of " + shape.Name, nil
}

func (e *LayShape) Scope(Project) Scope {
	return songScope.And(Scope{Keys: []Key{{KindMap, only}}, Kinds: []Kind{KindPattern}})
}

// Perform lays some bars as a drummer would play one pattern on: every time through a little otherwise by Amount, its accents rising and
// falling over four bars, a fill every so many bars, and louder into it. The same seed plays the same.
type Perform struct {
	Pattern   string  `json:"pattern" required:"true" maxLength:"64"`
	Part      string  `json:"part,omitempty" maxLength:"64"`
	Bar       int     `json:"bar,omitempty" minimum:"0" maximum:"1999"`
	Bars      int     `json:"bars" required:"true" minimum:"1" maximum:"64"`
	Amount    float64 `json:"amount,omitempty" minimum:"0" maximum:"100"`
	FillEvery int     `json:"fillEvery,omitempty" minimum:"0" maximum:"64"` // bars; 0: no fills
	Seed      uint64  `json:"seed,omitempty"`
}

// Accents over a performance: how much louder the fourth bar is than the first, and the bar that leads into what comes next, shares of the
// velocity at full amount (common practice, no source).
const (
	breathes = 0.08
	leadsIn  = 0.1
)

func (e *Perform) Apply(d *Draft) (string, error) {
	pt, err := d.Pattern(e.Pattern)
	if err != nil {
		return "", err
	}
	if !(e.Amount >= 0 && e.Amount <= 100) || e.Bars < 1 || e.Bars > 64 {
		return "", fmt.Errorf("%w: a performance lasts 1 to 64 bars, at 0 to 100 %%", ErrInput)
	}
	share := e.Amount / 100
	var put []BlockPut
	for done := 0; done < e.Bars; done += pt.Bars {
		bars := min(pt.Bars, e.Bars-done)
		played := ownCopy(d, pt, "played")
		for b := range bars {
			bar := done + b
			fills := e.FillEvery > 0 && (bar+1)%e.FillEvery == 0
			edits := []pattern.Edit{}
			if fills {
				edits = append(edits, d.fillOf(e.Part, b, e.Seed+uint64(bar)))
			} else if share > 0 && bar%4 != 0 { // the first of four stays what the ear counts by
				edits = append(edits, pattern.Edit{Vary: &pattern.Vary{Bar: b, Seed: e.Seed + uint64(bar)}})
			}
			for _, edit := range edits {
				next, _, err := pattern.Apply(played, edit)
				if err != nil {
					return "", err
				}
				played = next
			}
			lift := 1 + share*breathes*(1-math.Cos(2*math.Pi*float64(bar%4)/4))/2
			if e.FillEvery > 0 && (bar+1)%e.FillEvery == 0 || bar == e.Bars-1 {
				lift += share * leadsIn
			}
			played.Hits = lifted(played, b, lift)
		}
		id, err := d.addPatternOf(pt.Part, played)
		if err != nil {
			return "", err
		}
		put = append(put, BlockPut{Block: song.Block{Part: e.Part, Pattern: id, Bar: e.Bar + done, Bars: bars}})
	}
	return fmt.Sprintf("Perform %s for %d bars", pt.Name, e.Bars), d.layBlocks(put)
}

// lifted are the hits of a pattern, those of one bar louder.
func lifted(p pattern.Pattern, bar int, by float64) []pattern.Hit {
	out := slices.Clone(p.Hits)
	from, to := bar*p.Meter.BarTicks(), (bar+1)*p.Meter.BarTicks()
	for i := range out {
		if out[i].Tick >= from && out[i].Tick < to {
			out[i].Velocity = max(1, min(127, int(math.Round(float64(out[i].Velocity)*by))))
		}
	}
	return out
}

func (e *Perform) Scope(Project) Scope {
	return songScope.And(Scope{Keys: []Key{{KindMap, only}}, Kinds: []Kind{KindPattern}})
}
