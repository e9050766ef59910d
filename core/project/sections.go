package project

import (
	"fmt"
	"slices"

	"hexachord/core/song"
)

// SectionEdit moves, copies or takes out a section whole, with what every part plays in it. What comes after it makes room, or closes up.
type SectionEdit struct {
	ID    string `json:"id" required:"true" maxLength:"64"`
	Do    string `json:"do" required:"true" enum:"move,copy,remove"`
	ToBar int    `json:"toBar,omitempty" minimum:"0" maximum:"2000"` // before which bar it is put
}

func (e *SectionEdit) Apply(d *Draft) (string, error) {
	s, err := find(d.Sections, e.ID, "the section")
	if err != nil {
		return "", err
	}
	if e.ToBar > s.Bar && e.ToBar < s.End() && e.Do == "move" {
		return "", nil
	}
	var blocks []song.Block
	for _, b := range d.Blocks {
		for _, in := range within(b.Value, s.Bar, s.End()) {
			in.Bar -= s.Bar
			blocks = append(blocks, in)
		}
	}
	to := e.ToBar
	times := d.timesOf(s)
	if e.Do != "copy" {
		if err := d.cutBars(s.Bar, s.End()); err != nil {
			return "", err
		}
		if to > s.Bar {
			to -= s.Bars
		}
	}
	if e.Do == "remove" {
		return "Remove the section " + s.Name, nil
	}
	if err := d.makeRoom(to, s.Bars); err != nil {
		return "", err
	}
	put := make([]BlockPut, 0, len(blocks))
	for _, b := range blocks {
		b.Bar += to
		put = append(put, BlockPut{Block: b})
	}
	s.Bar = to
	if _, err := d.laySection("", s); err != nil {
		return "", err
	}
	if err := d.layTimes(times, s); err != nil {
		return "", err
	}
	word := "Move"
	if e.Do == "copy" {
		word = "Copy"
	}
	return fmt.Sprintf("%s the section %s", word, s.Name), d.layBlocks(put)
}

// laySection puts a section; others give way to it. Without an ID it is a new one. Returns its ID.
func (d *Draft) laySection(id string, s song.Section) (string, error) {
	if id == "" {
		id = d.World.NewID()
	}
	for _, o := range slices.Clone(d.Sections) {
		if o.ID == id || o.Value.Bar >= s.End() || s.Bar >= o.Value.End() {
			continue
		}
		left := o.Value.Without(s.Bar, s.End())
		if len(left) == 0 {
			if err := d.Remove(KindSection, o.ID); err != nil {
				return "", err
			}
			continue
		}
		for i, l := range left {
			as := o.ID
			if i > 0 {
				as = d.World.NewID()
			}
			if err := d.put(KindSection, as, l); err != nil {
				return "", err
			}
		}
	}
	return id, d.put(KindSection, id, s)
}

// timesOf are the tempi and meters of a section, counted from its first bar, at which those stand that are in force there.
func (d *Draft) timesOf(s song.Section) song.Song {
	clock := d.Clock()
	out := song.Song{
		Tempos: []song.Tempo{{BPM: clock.BPM(float64(clock.Tick(s.Bar)))}},
		Meters: []song.Meter{{Meter: clock.MeterAt(s.Bar)}},
	}
	for _, t := range d.Song.Tempos {
		if t.Bar = t.Bar - s.Bar; t.Bar == 0 {
			out.Tempos[0] = t
		} else if t.Bar > 0 && t.Bar < s.Bars {
			out.Tempos = append(out.Tempos, t)
		}
	}
	for _, m := range d.Song.Meters {
		if m.Bar -= s.Bar; m.Bar > 0 && m.Bar < s.Bars {
			out.Meters = append(out.Meters, m)
		}
	}
	return out
}

// layTimes gives a section that was put into the room made for it the tempi and meters it came with; what follows it keeps its own.
func (d *Draft) layTimes(times song.Song, s song.Section) error {
	clock := d.Clock()
	after := song.Song{ // what would be in force behind the section without it
		Tempos: []song.Tempo{{Bar: s.End(), BPM: clock.BPM(float64(clock.Tick(s.End())))}},
		Meters: []song.Meter{{Bar: s.End(), Meter: clock.MeterAt(s.End())}},
	}
	var next song.Song
	for _, t := range d.Song.Tempos {
		switch {
		case t.Bar == s.End():
			after.Tempos[0] = t
		case t.Bar < s.Bar || t.Bar > s.End():
			next.Tempos = append(next.Tempos, t)
		}
	}
	for _, m := range d.Song.Meters {
		if m.Bar < s.Bar || m.Bar > s.End() {
			next.Meters = append(next.Meters, m)
		}
	}
	for _, t := range times.Tempos {
		t.Bar += s.Bar
		next.Tempos = append(next.Tempos, t)
	}
	for _, m := range times.Meters {
		m.Bar += s.Bar
		next.Meters = append(next.Meters, m)
	}
	if s.End() < d.SongEnd() {
		next.Tempos, next.Meters = append(next.Tempos, after.Tempos...), append(next.Meters, after.Meters...)
	}
	next = next.Plain(d.Settings.BPM)
	if len(next.Tempos)+len(next.Meters)+len(d.Song.Tempos)+len(d.Song.Meters) == 0 {
		return nil
	}
	return d.put(KindSong, only, next)
}

// within is what of a block lies in bars from ≤ bar < to.
func within(b song.Block, from, to int) []song.Block {
	var out []song.Block
	for _, left := range b.Without(0, from) {
		if left.Bar >= from || left.End() > from {
			out = append(out, left.Without(to, song.MaxBars*2)...)
		}
	}
	return out
}

// cutBars takes bars out of the song; what comes after closes up.
func (d *Draft) cutBars(from, to int) error {
	for _, o := range slices.Clone(d.Blocks) {
		var left []song.Block
		for _, b := range o.Value.Without(from, to) {
			if b.Bar >= to {
				b.Bar -= to - from
			}
			left = append(left, b)
		}
		if err := d.putBlocks(o.ID, left); err != nil {
			return err
		}
	}
	for _, o := range slices.Clone(d.Sections) {
		s := o.Value
		inside := max(0, min(s.End(), to)-max(s.Bar, from))
		if inside == s.Bars {
			if err := d.Remove(KindSection, o.ID); err != nil {
				return err
			}
			continue
		}
		if s.Bar >= to {
			s.Bar -= to - from
		} else if s.Bar > from {
			s.Bar = from
		}
		s.Bars -= inside
		if err := d.put(KindSection, o.ID, s); err != nil {
			return err
		}
	}
	return d.moveSong(func(bar int) int {
		if bar >= to {
			return bar - (to - from)
		}
		return min(bar, from)
	})
}

// makeRoom moves everything from a bar on by some bars; a block that plays across it is split.
func (d *Draft) makeRoom(at, bars int) error {
	for _, o := range slices.Clone(d.Blocks) {
		b := o.Value
		if b.End() <= at {
			continue
		}
		left := []song.Block{b}
		if b.Bar < at {
			head := b
			head.Bars = at - b.Bar
			b.FromBar += head.Bars
			b.Bars -= head.Bars
			b.Bar = at
			left = []song.Block{head, b}
		}
		left[len(left)-1].Bar += bars
		if err := d.putBlocks(o.ID, left); err != nil {
			return err
		}
	}
	for _, o := range slices.Clone(d.Sections) {
		s := o.Value
		switch {
		case s.Bar >= at:
			s.Bar += bars
		case s.End() > at:
			s.Bars = at - s.Bar
		default:
			continue
		}
		if err := d.put(KindSection, o.ID, s); err != nil {
			return err
		}
	}
	return d.moveSong(func(bar int) int {
		if bar >= at && bar > 0 {
			return bar + bars
		}
		return bar
	})
}

// putBlocks puts what became of one block.
func (d *Draft) putBlocks(id string, left []song.Block) error {
	if len(left) == 0 {
		return d.Remove(KindBlock, id)
	}
	if err := d.put(KindBlock, id, left[0]); err != nil {
		return err
	}
	for _, b := range left[1:] {
		if err := d.put(KindBlock, d.World.NewID(), b); err != nil {
			return err
		}
	}
	return nil
}

// moveSong moves the tempi and meters of the song; of several that come to one bar the last holds.
func (d *Draft) moveSong(to func(bar int) int) error {
	next := song.Song{Tempos: []song.Tempo{}, Meters: []song.Meter{}}
	for _, t := range d.Song.Tempos {
		t.Bar = to(t.Bar)
		if n := len(next.Tempos); n > 0 && next.Tempos[n-1].Bar == t.Bar {
			next.Tempos = next.Tempos[:n-1]
		}
		if t.Bar < song.MaxBars {
			next.Tempos = append(next.Tempos, t)
		}
	}
	for _, m := range d.Song.Meters {
		m.Bar = to(m.Bar)
		if n := len(next.Meters); n > 0 && next.Meters[n-1].Bar == m.Bar {
			next.Meters = next.Meters[:n-1]
		}
		if m.Bar < song.MaxBars {
			next.Meters = append(next.Meters, m)
		}
	}
	if len(next.Tempos)+len(next.Meters) == 0 {
		return nil
	}
	return d.put(KindSong, only, next)
}

func (e *SectionEdit) Scope(Project) Scope { return songScope }
