package project

import (
	"fmt"
	"math"
	"slices"

	"hexachord/core/pattern"
	"hexachord/core/song"
)

// SongEnd is the bar after the song's last.
func (p Project) SongEnd() int {
	end := 0
	for _, b := range p.Blocks {
		end = max(end, b.Value.End())
	}
	for _, s := range p.Sections {
		end = max(end, s.Value.End())
	}
	return end
}

// Clock leads from the song's bars to ticks and seconds.
func (p Project) Clock() song.Clock { return song.NewClock(p.Song, p.Settings.BPM) }

// Block finds a block by ID; ErrNotFound when it is not there.
func (p Project) Block(id string) (song.Block, error) { return find(p.Blocks, id, "the block") }

// SectionOf is the section a bar lies in; false for none.
func (p Project) SectionOf(bar int) (song.Section, bool) {
	for _, s := range p.Sections {
		if s.Value.Bar <= bar && bar < s.Value.End() {
			return s.Value, true
		}
	}
	return song.Section{}, false
}

// BlockPut is a block that is laid on its row; without an ID a new one.
type BlockPut struct {
	ID    string     `json:"id,omitempty" maxLength:"64"`
	Block song.Block `json:"block"`
	Own   bool       `json:"own,omitempty"` // it plays a copy of its pattern; blocks of one edit share the copy
}

// SectionPut is a section that is put; without an ID a new one.
type SectionPut struct {
	ID      string       `json:"id,omitempty" maxLength:"64"`
	Section song.Section `json:"section"`
}

// SongEdit lays blocks and sections and sets tempi and meters. A block takes the place of what it lies over in its row; what sticks out
// of that on either side stays.
type SongEdit struct {
	Put            []BlockPut   `json:"put,omitempty" maxItems:"2000"`
	Remove         []string     `json:"remove,omitempty" maxItems:"2000"` // IDs of blocks
	Sections       []SectionPut `json:"sections,omitempty" maxItems:"500"`
	RemoveSections []string     `json:"removeSections,omitempty" maxItems:"500"`
	Song           *song.Song   `json:"song,omitempty"`
	Label          string       `json:"label,omitempty" maxLength:"200"`
}

func (e *SongEdit) Apply(d *Draft) (string, error) {
	for _, id := range e.Remove {
		if err := d.Remove(KindBlock, id); err != nil {
			return "", err
		}
	}
	for _, id := range e.RemoveSections {
		if err := d.Remove(KindSection, id); err != nil {
			return "", err
		}
	}
	if e.Song != nil {
		if err := d.put(KindSong, only, *e.Song); err != nil {
			return "", err
		}
	}
	for _, s := range e.Sections {
		id, err := d.laySection(s.ID, s.Section)
		if err != nil {
			return "", err
		}
		if s.ID == "" {
			d.Result.ID = id
		}
	}
	return e.label(d), d.layBlocks(e.Put)
}

// label says what the history calls the edit.
func (e *SongEdit) label(d *Draft) string {
	name := func(b song.Block) string {
		if r, err := d.Recording(b.Recording); err == nil {
			return r.Name
		}
		pt, _ := d.Pattern(b.Pattern)
		return pt.Name
	}
	switch {
	case e.Label != "":
		return e.Label
	case len(e.Put) == 1:
		return fmt.Sprintf("Lay %s at bar %d", name(e.Put[0].Block), e.Put[0].Block.Bar+1)
	case len(e.Put) > 1:
		return fmt.Sprintf("Lay %d blocks", len(e.Put))
	case len(e.Remove) == 1:
		return "Remove a block"
	case len(e.Remove) > 1:
		return fmt.Sprintf("Remove %d blocks", len(e.Remove))
	case len(e.Sections) > 0:
		return "Section " + e.Sections[0].Section.Name
	case len(e.RemoveSections) > 0:
		return "Remove a section's name"
	}
	return "Tempi and meters of the song"
}

// layBlocks puts blocks on their rows; what they lie over gives way.
func (d *Draft) layBlocks(put []BlockPut) error {
	if len(d.Blocks)+len(put) > song.MaxBlocks*2 {
		return fmt.Errorf("%w: it has %d blocks at most", song.ErrSong, song.MaxBlocks)
	}
	coming := map[string]int{} // those that are moved by what follows do not lie where they were
	for i, p := range put {
		if p.ID != "" {
			coming[p.ID] = i
		}
	}
	copies := map[string]string{} // of patterns, for blocks that get their own
	for i, p := range put {
		b := p.Block
		if b.Pattern != "" {
			pt, err := d.Pattern(b.Pattern)
			if err != nil {
				return err
			}
			b.Part = pt.Part // a pattern lies on its own part's row
			if p.Own {
				if copies[b.Pattern] == "" {
					if copies[b.Pattern], err = d.addPatternOf(pt.Part, ownCopy(d, pt, "own")); err != nil {
						return err
					}
				}
				b.Pattern = copies[b.Pattern]
			}
		} else if _, err := d.Recording(b.Recording); err != nil {
			return err
		} else {
			b.Part = ""
		}
		if err := b.Check(); err != nil {
			return err
		}
		for _, other := range d.Blocks {
			o := other.Value
			if at, moves := coming[other.ID]; moves && at >= i || o.Row() != b.Row() || o.Bar >= b.End() || b.Bar >= o.End() {
				continue
			}
			left := o.Without(b.Bar, b.End())
			if len(left) == 0 {
				if err := d.Remove(KindBlock, other.ID); err != nil {
					return err
				}
				continue
			}
			if err := d.put(KindBlock, other.ID, left[0]); err != nil {
				return err
			}
			if len(left) > 1 {
				if err := d.put(KindBlock, d.World.NewID(), left[1]); err != nil {
					return err
				}
			}
		}
		id := p.ID
		if id == "" {
			id = d.World.NewID()
			d.Result.ID = id
		}
		if err := d.put(KindBlock, id, b); err != nil {
			return err
		}
	}
	if len(d.Blocks) > song.MaxBlocks {
		return fmt.Errorf("%w: it has %d blocks at most", song.ErrSong, song.MaxBlocks)
	}
	return nil
}

// songScope is all of the song: blocks give way to each other.
var songScope = Scope{Kinds: []Kind{KindBlock, KindSection, KindSong}}

func (e *SongEdit) Scope(Project) Scope {
	s := Scope{Kinds: []Kind{KindBlock}}
	for _, p := range e.Put {
		if p.Block.Pattern != "" {
			s.Keys = append(s.Keys, Key{KindPattern, p.Block.Pattern})
		}
	}
	if len(e.Sections)+len(e.RemoveSections) > 0 {
		s.Kinds = append(s.Kinds, KindSection)
	}
	if e.Song != nil {
		s.Kinds = append(s.Kinds, KindSong)
	}
	return s
}

// BlockEdit changes what a block plays. Exactly one of its parts is given; All is for every block of its pattern.
type BlockEdit struct {
	ID  string `json:"id" required:"true" maxLength:"64"`
	All bool   `json:"all,omitempty"`
	// Own gives the block a copy of its pattern, so that an edit shows in it alone.
	Own bool `json:"own,omitempty"`
	// Fill makes its last bar a fill, Vary plays its last time through a little otherwise; by Seed.
	Fill bool   `json:"fill,omitempty"`
	Vary bool   `json:"vary,omitempty"`
	Seed uint64 `json:"seed,omitempty"`
	// SplitAt is the bar at which it becomes two; Repeat how many times more, or fewer, it goes round; Begin and End the bars at which it
	// begins, and before which it ends, from now on.
	SplitAt *int `json:"splitAt,omitempty" minimum:"0" maximum:"2000"`
	Repeat  int  `json:"repeat,omitempty" minimum:"-2000" maximum:"2000"`
	Begin   *int `json:"begin,omitempty" minimum:"0" maximum:"2000"`
	End     *int `json:"end,omitempty" minimum:"0" maximum:"2000"`
	// Attack lays a recording so that the stroke heard nearest to where it begins falls on the bar.
	Attack bool `json:"attack,omitempty"`
}

// nearBeats is how far from a bar its first stroke is looked for, beats of the recording.
const nearBeats = 0.5

// Stretch is by how much longer a recording's block sounds than its recording: 1 for one that keeps its own tempo.
func (p Project) Stretch(b song.Block, r Recording) float64 {
	if b.Free {
		return 1
	}
	clock, barTicks := p.Clock(), r.Heard.Meter.BarTicks()
	own := r.Heard.TimeAt(float64((b.FromBar+b.Bars)*barTicks)) - r.Heard.TimeAt(float64(b.FromBar*barTicks))
	if stretch := (clock.Seconds(float64(clock.Tick(b.End()))) - clock.Seconds(float64(clock.Tick(b.Bar)))) / own; stretch >= 0.25 && stretch <= 4 {
		return math.Round(stretch*1e6) / 1e6
	}
	return 1
}

// attack moves a recording's block so that the stroke heard nearest to its first bar falls on it.
func (d *Draft) attack(id string, b song.Block) error {
	r, err := d.Recording(b.Recording)
	if err != nil {
		return err
	}
	begins := r.Heard.TimeAt(float64(b.FromBar * r.Heard.Meter.BarTicks()))
	off := nearBeats * 60 / r.Heard.BPM
	found := false
	for _, h := range r.Heard.Hits {
		if by := h.TimeS - begins; h.Sounds() && math.Abs(by) < math.Abs(off) {
			off, found = by, true
		}
	}
	if !found {
		return fmt.Errorf("%w: no stroke was heard within half a beat of its bar; set how much later it begins by hand", ErrInput)
	}
	b.NudgeS = math.Round(-off*d.Stretch(b, r)*1e5) / 1e5
	return d.put(KindBlock, id, b)
}

// shape splits a block, or makes it longer or shorter; "" when the edit does neither.
func (e *BlockEdit) shape(d *Draft, b song.Block) (string, error) {
	switch {
	case e.Attack:
		return "Lay a recording's attack on the bar", d.attack(e.ID, b)
	case e.SplitAt != nil:
		head, tail, err := b.Split(*e.SplitAt)
		if err != nil {
			return "", err
		}
		return "Split a block", d.layBlocks([]BlockPut{{ID: e.ID, Block: head}, {Block: tail}})
	case e.Repeat != 0:
		round := 1
		if pt, err := d.Pattern(b.Pattern); err == nil {
			round = pt.Bars
		}
		word := "Repeat once more"
		if e.Repeat < 0 {
			word = "Repeat once less"
		}
		return word, d.layBlocks([]BlockPut{{ID: e.ID, Block: b.Repeated(e.Repeat, round)}})
	case e.Begin != nil || e.End != nil:
		begin, end, word := b.Bar, b.End(), "Trim a block's end"
		if e.End != nil {
			end = *e.End
		}
		if e.Begin != nil {
			begin, word = *e.Begin, "Trim a block's beginning"
		}
		return word, d.layBlocks([]BlockPut{{ID: e.ID, Block: b.Trimmed(begin, end)}})
	}
	return "", nil
}

func (e *BlockEdit) Apply(d *Draft) (string, error) {
	b, err := d.Block(e.ID)
	if err != nil {
		return "", err
	}
	if label, err := e.shape(d, b); label != "" || err != nil {
		return label, err
	}
	pt, err := d.Pattern(b.Pattern)
	if err != nil {
		return "", err
	}
	of := []Stored[song.Block]{{e.ID, b}}
	if e.All {
		of = of[:0]
		for _, o := range d.Blocks {
			if o.Value.Pattern == b.Pattern && o.Value.Part == b.Part {
				of = append(of, o)
			}
		}
	}
	switch {
	case e.Own:
		id, err := d.addPatternOf(pt.Part, ownCopy(d, pt, "own"))
		if err != nil {
			return "", err
		}
		for _, o := range of {
			o.Value.Pattern = id
			if err := d.put(KindBlock, o.ID, o.Value); err != nil {
				return "", err
			}
		}
		return "A copy of its own of " + pt.Name, nil
	case e.Fill:
		return "Make the last bar of " + pt.Name + " a fill", d.fillBlocks(of, pt, e.Seed)
	case e.Vary:
		return "Vary " + pt.Name, d.endBlocks(of, pt, "varied", func(bar int) (edits []pattern.Edit) {
			for n := range bar + 1 {
				edits = append(edits, pattern.Edit{Vary: &pattern.Vary{Bar: n, Seed: e.Seed + uint64(n)}})
			}
			return edits
		})
	}
	return "", fmt.Errorf("%w: the edit does not say what is to be done with the block", ErrInput)
}

// ownCopy is a copy of a pattern that stands alone, its name free.
func ownCopy(d *Draft, pt pattern.Pattern, word string) pattern.Pattern {
	pt.Link = ""
	base := pt.Name + " " + word
	pt.Name = base
	taken := func(o Stored[pattern.Pattern]) bool { return o.Value.Name == pt.Name }
	for n := 2; slices.ContainsFunc(d.Patterns, taken); n++ {
		pt.Name = fmt.Sprintf("%s %d", base, n)
	}
	return pt
}

// fillOf makes a bar of a part's pattern a fill.
func (d *Draft) fillOf(part string, bar int, seed uint64) pattern.Edit {
	f := pattern.FillBar{Bar: bar, Seed: seed}
	for _, r := range fillRoles {
		if l, ok := d.MapOf(part).ByRole(r); ok {
			f.Notes = append(f.Notes, l.Note)
		}
	}
	return pattern.Edit{FillBar: &f}
}

// fillBlocks ends blocks of one pattern in a fill.
func (d *Draft) fillBlocks(of []Stored[song.Block], pt pattern.Pattern, seed uint64) error {
	return d.endBlocks(of, pt, "fill", func(bar int) []pattern.Edit {
		return []pattern.Edit{d.fillOf(of[0].Value.Part, bar, seed)}
	})
}

// endBlocks gives the last time through of blocks of one pattern to a copy of it that is edited, by the last bar that plays; blocks that
// end on the same bar of the pattern share the copy.
func (d *Draft) endBlocks(of []Stored[song.Block], pt pattern.Pattern, word string, edits func(bar int) []pattern.Edit) error {
	made := map[int]string{}
	for _, o := range of {
		b := o.Value
		last := (b.FromBar + b.Bars - 1) % pt.Bars // bar of the pattern that plays last
		id, ok := made[last]
		if !ok {
			edited := ownCopy(d, pt, word)
			for _, e := range edits(last) {
				next, _, err := pattern.Apply(edited, e)
				if err != nil {
					return err
				}
				edited = next
			}
			var err error
			if id, err = d.addPatternOf(pt.Part, edited); err != nil {
				return err
			}
			made[last] = id
		}
		bars := min(b.Bars, last+1) // of its last time through
		tail := b
		tail.Pattern, tail.Bar, tail.Bars = id, b.End()-bars, bars
		tail.FromBar = last + 1 - bars
		if bars == b.Bars {
			if err := d.put(KindBlock, o.ID, tail); err != nil {
				return err
			}
			continue
		}
		b.Bars -= bars
		if err := d.put(KindBlock, o.ID, b); err != nil {
			return err
		}
		if err := d.put(KindBlock, d.World.NewID(), tail); err != nil {
			return err
		}
	}
	return nil
}

func (e *BlockEdit) Scope(p Project) Scope {
	b, _ := p.Block(e.ID)
	return songScope.And(Scope{Keys: []Key{{KindMap, only}, {KindPattern, b.Pattern}}, Kinds: []Kind{KindPattern}})
}
