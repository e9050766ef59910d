package project

import (
	"errors"
	"fmt"
	"slices"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

// MaxParts is how many parts a project can have beside its first.
const MaxParts = 31

// PartFacts are what a part is called, and whether it is heard.
type PartFacts struct {
	Name  string `json:"name,omitempty" maxLength:"200"` // "" is its kit's
	Color string `json:"color,omitempty" maxLength:"9"`
	Muted bool   `json:"muted,omitempty"`
	Solo  bool   `json:"solo,omitempty"`
	Order int    `json:"order,omitempty" minimum:"0" maximum:"1000"` // where it stands among the parts; those alike as they were added
}

// Part is an instrument of the project beside its first: a kit with its map, or a MIDI output with a map.
type Part struct {
	PartFacts
	Kit    kit.Kit     `json:"kit"`
	Map    drummap.Map `json:"map"`
	Output Output      `json:"output"`
	// Layers is the ID of the part whose patterns it plays too, lane to lane by role; "" is the first, nil none.
	Layers    *string `json:"layers,omitempty"`
	LaneMuted []int   `json:"laneMuted"` // notes of its muted lanes
	LaneSolo  []int   `json:"laneSolo"`
}

// Check reports what cannot be played.
func (p Part) Check() error {
	s := NewSettings()
	s.Muted, s.Solo, s.Output = p.LaneMuted, p.LaneSolo, p.Output
	if len(p.Name) > 200 || len(p.Color) > 9 {
		return fmt.Errorf("%w: a part's name has up to 200 letters", ErrSettings)
	}
	return errors.Join(p.Kit.Check(), p.Map.Check(), s.Check())
}

// firstPart is what a project has of its first part.
type firstPart struct {
	settings Settings
	kit      kit.Kit
	lanes    drummap.Map
}

// In is the project as it is seen from one of its parts: kit, map, the lanes' mutes and the output are that part's. A part that is not
// there is the first.
func (p Project) In(part string) Project {
	p.Part, p.Settings, p.Kit, p.Map = "", p.first.settings, p.first.kit, p.first.lanes
	if part == "" {
		return p
	}
	if own, err := find(p.Parts, part, "the part"); err == nil {
		p.Part, p.Kit, p.Map = part, own.Kit, own.Map
		p.Settings.Muted, p.Settings.Solo, p.Settings.Output, p.Settings.First = own.LaneMuted, own.LaneSolo, own.Output, &own.PartFacts
	}
	return p
}

// Facts are those of the part the project is seen from.
func (p Project) Facts() PartFacts {
	if p.Settings.First == nil {
		return PartFacts{}
	}
	return *p.Settings.First
}

// PartIDs are the parts in their order; "" is the first.
func (p Project) PartIDs() []string {
	ids := []string{""}
	order := map[string]int{}
	if f := p.first.settings.First; f != nil {
		order[""] = f.Order
	}
	for _, s := range p.Parts {
		ids = append(ids, s.ID)
		order[s.ID] = s.Value.Order
	}
	slices.SortStableFunc(ids, func(a, b string) int { return order[a] - order[b] })
	return ids
}

// MapOf is the map of a part.
func (p Project) MapOf(part string) drummap.Map { return p.In(part).Map }

// Heard reports whether a part is heard beside the others.
func (p Project) Heard(part string) bool {
	own := p.In(part).Facts()
	solo := p.In("").Facts().Solo
	for _, s := range p.Parts {
		solo = solo || s.Value.Solo
	}
	return !own.Muted && (!solo || own.Solo)
}

// own reports whether a pattern belongs to the part the project is seen from.
func (p Project) own(pt pattern.Pattern) bool { return pt.Part == p.Part }

// focus turns the draft to a part.
func (d *Draft) focus(part string) error {
	if part != "" && !slices.Contains(d.PartIDs(), part) {
		return fmt.Errorf("the part: %w", ErrNotFound)
	}
	d.Project = d.In(part)
	return nil
}

// putPart changes the part the draft is turned to.
func (d *Draft) putPart(change func(p *Part)) error {
	part, err := find(d.Parts, d.Part, "the part")
	if err != nil {
		return err
	}
	change(&part)
	return d.put(KindPart, d.Part, part)
}

// InPart is a step that is done in one of the parts.
type InPart struct {
	Part string
	Step
}

func (e InPart) Apply(d *Draft) (string, error) {
	was := d.Part
	if err := d.focus(e.Part); err != nil {
		return "", err
	}
	label, err := e.Step.Apply(d)
	d.Project = d.In(was)
	return label, err
}

// Scope is the step's, its kit, map and lanes being the part's.
func (e InPart) Scope(p Project) Scope {
	s := e.Step.Scope(p.In(e.Part))
	if e.Part == "" {
		return s
	}
	own := Key{KindPart, e.Part}
	keys := []Key{own}
	for _, k := range s.Keys {
		if k.Kind != KindMap && k.Kind != KindKit {
			keys = append(keys, k)
		}
	}
	s.Keys, s.Pads = keys, nil
	return s
}

// AddPart adds a part after the others: a copy of another, or one that plays to a MIDI output.
type AddPart struct {
	Name   string  `json:"name,omitempty" maxLength:"200"`
	CopyOf *string `json:"copyOf,omitempty" maxLength:"64"` // ID of the part whose kit and map it begins with, "" the first; left out: the lanes of a full set, no sounds
	Output *Output `json:"output,omitempty"`
	// Patterns also copies the patterns of that part.
	Patterns bool `json:"patterns,omitempty"`
}

func (e *AddPart) Apply(d *Draft) (string, error) {
	if len(d.Parts) >= MaxParts {
		return "", fmt.Errorf("%w: a project has %d parts at most", ErrInput, MaxParts+1)
	}
	part := Part{PartFacts: PartFacts{Name: e.Name}, Kit: kit.Kit{Name: EmptyKit, Pads: []kit.Pad{}}, Map: drummap.FullSet(), Output: NewSettings().Output,
		LaneMuted: []int{}, LaneSolo: []int{}}
	if e.CopyOf != nil {
		from := d.In(*e.CopyOf)
		part.Kit, part.Map, part.Output = from.Kit, from.Map, from.Settings.Output
	}
	if e.Output != nil {
		part.Output = *e.Output
	}
	for _, other := range d.PartIDs() {
		if n := d.In(other).Facts().Order; n >= part.Order && n > 0 {
			part.Order = n + 1
		}
	}
	id := d.World.NewID()
	if err := d.put(KindPart, id, part); err != nil {
		return "", err
	}
	if e.CopyOf != nil {
		if err := d.stripsOfPart(*e.CopyOf, &id); err != nil {
			return "", err
		}
	}
	copied := 0
	if e.Patterns && e.CopyOf != nil {
		for _, pt := range slices.Clone(d.Patterns) {
			if pt.Value.Part != *e.CopyOf {
				continue
			}
			copied++
			own := pt.Value
			own.Link, own.Part = "", id
			if err := d.put(KindPattern, d.World.NewID(), own); err != nil {
				return "", err
			}
		}
	}
	if copied == 0 { // a part has something to be shown
		first := pattern.Pattern{Name: FirstPattern, Bars: 2, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}, Part: id}
		if err := d.put(KindPattern, d.World.NewID(), first); err != nil {
			return "", err
		}
	}
	d.Result.ID = id
	return "Add the part " + d.In(id).PartName(), nil
}

// PartName is what the part that the project is seen from is called.
func (p Project) PartName() string {
	if n := p.Facts().Name; n != "" {
		return n
	}
	if p.Settings.Output.To == "midi" {
		return "MIDI, " + p.Map.Name
	}
	return p.Kit.Name
}

func (e *AddPart) Scope(Project) Scope {
	return Scope{Kinds: []Kind{KindPart, KindKit, KindMap, KindPattern, KindMix}}
}

// PartEdit names, mutes or takes out a part; "" is the first.
type PartEdit struct {
	ID     string  `json:"id" maxLength:"64"`
	Name   *string `json:"name,omitempty" maxLength:"200"`
	Color  *string `json:"color,omitempty" maxLength:"9"`
	Muted  *bool   `json:"muted,omitempty"`
	Solo   *bool   `json:"solo,omitempty"`
	Layers *string `json:"layers,omitempty" maxLength:"64"`           // the part whose patterns it plays too; its own ID: none
	Move   int     `json:"move,omitempty" minimum:"-32" maximum:"32"` // so many places down among the parts, or up
	Remove bool    `json:"remove,omitempty"`                          // with its patterns and blocks
}

// movePart puts a part so many places down, or up.
func (d *Draft) movePart(id string, by int) error {
	ids := d.PartIDs()
	from := slices.Index(ids, id)
	to := max(0, min(len(ids)-1, from+by))
	ids = slices.Insert(slices.Delete(ids, from, from+1), to, id)
	for i, id := range ids {
		facts := d.In(id).Facts()
		facts.Order = i + 1
		if err := d.putFacts(id, facts); err != nil {
			return err
		}
	}
	return nil
}

// putFacts says what a part is called, and where it stands; "" is the first.
func (d *Draft) putFacts(id string, facts PartFacts) error {
	if id == "" {
		s := d.first.settings
		s.First = &facts
		return d.put(KindSettings, only, s)
	}
	part, err := find(d.Parts, id, "the part")
	if err != nil {
		return err
	}
	part.PartFacts = facts
	return d.put(KindPart, id, part)
}

func (e *PartEdit) Apply(d *Draft) (string, error) {
	if e.ID != "" && !slices.Contains(d.PartIDs(), e.ID) {
		return "", fmt.Errorf("the part: %w", ErrNotFound)
	}
	name := d.In(e.ID).PartName()
	if e.Remove {
		return "Remove the part " + name, d.removePart(e.ID)
	}
	if e.Move != 0 {
		return "Move the part " + name, d.movePart(e.ID, e.Move)
	}
	facts := d.In(e.ID).Facts()
	label := "Part " + name
	for _, to := range []struct {
		from *bool
		to   *bool
		word string
	}{{e.Muted, &facts.Muted, "mute"}, {e.Solo, &facts.Solo, "solo"}} {
		if to.from != nil {
			*to.to = *to.from
			label += ": " + to.word
			if !*to.from {
				label += " off"
			}
		}
	}
	if e.Name != nil {
		facts.Name = *e.Name
		label = "Call a part " + *e.Name
	}
	if e.Color != nil {
		facts.Color = *e.Color
	}
	if err := d.putFacts(e.ID, facts); err != nil || e.Layers == nil {
		return label, err
	}
	part, err := find(d.Parts, e.ID, "the part")
	if err != nil {
		return "", err
	}
	if !slices.Contains(d.PartIDs(), *e.Layers) {
		return "", fmt.Errorf("the part: %w", ErrNotFound)
	}
	part.Layers = e.Layers
	label = "Part " + name + ": layer " + d.In(*e.Layers).PartName()
	if *e.Layers == e.ID {
		part.Layers, label = nil, "Part "+name+": layer none"
	}
	return label, d.put(KindPart, e.ID, part)
}

// LayersOf are the parts that play a part's patterns too.
func (p Project) LayersOf(part string) (ids []string) {
	for _, s := range p.Parts {
		if l := s.Value.Layers; l != nil && *l == part && s.ID != part {
			ids = append(ids, s.ID)
		}
	}
	return ids
}

// Layered is a pattern of one part as another plays it: its hits on that part's lanes of the same roles; those of roles it has no lane of, and
// on notes that are left out, are not played.
func (p Project) Layered(pt pattern.Pattern, leftOut []int, to string) pattern.Pattern {
	from, lanes := p.MapOf(pt.Part), p.MapOf(to)
	out := pt
	out.Part, out.Lanes, out.Hits = to, nil, []pattern.Hit{}
	for _, h := range pt.Hits {
		l, ok := from.ByNote(h.Note)
		if !ok || slices.Contains(leftOut, h.Note) {
			continue
		}
		if other, ok := lanes.ByRole(l.Role); ok {
			if grid, own := pt.Lanes[h.Note]; own {
				if out.Lanes == nil {
					out.Lanes = map[int]pattern.LaneGrid{}
				}
				out.Lanes[other.Note] = grid
			}
			h.Note = other.Note
			out.Hits = append(out.Hits, h)
		}
	}
	pattern.SortHits(out.Hits)
	out.Hits = slices.CompactFunc(out.Hits, func(a, b pattern.Hit) bool { return a.Key() == b.Key() })
	return out
}

// removePart takes a part out with all that is its own.
func (d *Draft) removePart(id string) error {
	if id == "" {
		return fmt.Errorf("%w: the first part stays; take another kit for it instead", ErrInput)
	}
	for _, b := range slices.Clone(d.Blocks) {
		if b.Value.Part == id {
			if err := d.Remove(KindBlock, b.ID); err != nil {
				return err
			}
		}
	}
	for _, pt := range slices.Clone(d.Patterns) {
		if pt.Value.Part == id {
			if _, err := (&RemovePattern{ID: pt.ID}).Apply(d); err != nil {
				return err
			}
		}
	}
	return errors.Join(d.stripsOfPart(id, nil), d.Remove(KindPart, id))
}

func (e *PartEdit) Scope(Project) Scope {
	s := Scope{Keys: []Key{{KindPart, e.ID}}}
	if e.ID == "" {
		s = Scope{Settings: []string{"first"}}
	}
	if e.Move != 0 {
		s = Scope{Settings: []string{"first"}, Kinds: []Kind{KindPart}}
	}
	if e.Remove {
		s.Kinds = []Kind{KindBlock, KindPattern, KindPass, KindPart, KindMix}
	}
	return s
}
