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
	if err := d.put(KindSection, d.World.NewID(), s); err != nil {
		return "", err
	}
	word := "Move"
	if e.Do == "copy" {
		word = "Copy"
	}
	return fmt.Sprintf("%s the section %s", word, s.Name), d.layBlocks(put)
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
