package project

import (
	"fmt"
	"math"

	"hexachord/core/drummap"
	"hexachord/core/kit"
)

// MovePad brings a pad with all its settings to another note: a copy takes that note's place, moving leaves its own empty, and
// swapping changes the two. Lanes and hits stay.
type MovePad struct {
	From int    `json:"from" minimum:"0" maximum:"127"`
	To   int    `json:"to" minimum:"0" maximum:"127"`
	How  string `json:"how" required:"true" enum:"copy,move,swap"`
}

func (e *MovePad) Apply(d *Draft) (string, error) {
	from, ok := d.Kit.Pad(e.From)
	if !ok || e.From == e.To {
		return "", fmt.Errorf("%w: there is no pad on note %d to bring to note %d", kit.ErrKit, e.From, e.To)
	}
	to, had := d.Kit.Pad(e.To)
	from.Note, to.Note = e.To, e.From
	next := d.Kit.Put(from)
	words := map[string]string{"copy": "Copy %s to %s", "move": "Move %s to %s", "swap": "Swap %s and %s"}[e.How]
	switch {
	case words == "":
		return "", fmt.Errorf("%w: a pad is copied, moved or swapped, not %q", ErrInput, e.How)
	case e.How == "swap" && had:
		next = next.Put(to)
	case e.How != "copy":
		next = next.Without(e.From)
	}
	return fmt.Sprintf(words, d.laneName(e.From), d.laneName(e.To)), d.PutKit(next)
}

func (e *MovePad) Scope(Project) Scope { return Scope{Pads: []int{e.From, e.To}} }

// laneName is what a note is called.
func (d *Draft) laneName(note int) string {
	if l, ok := d.Map.ByNote(note); ok {
		return l.Name
	}
	return fmt.Sprintf("note %d", note)
}

// SpreadPad copies a pad to lanes of its own, each tuned a step from the one before: 1 copy with a step of 0 duplicates it. Below of
// them lie under the pad's own pitch.
type SpreadPad struct {
	Note  int     `json:"note" minimum:"0" maximum:"127"`
	Count int     `json:"count" minimum:"1" maximum:"64"` // copies
	Step  float64 `json:"step" minimum:"-24" maximum:"24"`
	Below int     `json:"below,omitempty" minimum:"0" maximum:"64"`
}

func (e *SpreadPad) Apply(d *Draft) (string, error) {
	pad, ok := d.Kit.Pad(e.Note)
	own, lane := d.Map.ByNote(e.Note)
	if !ok || !lane || len(pad.Layers) == 0 {
		return "", fmt.Errorf("%w: note %d has no lane with sounds to spread", kit.ErrKit, e.Note)
	}
	if e.Below > e.Count {
		return "", fmt.Errorf("%w: %d of %d copies cannot lie below", ErrInput, e.Below, e.Count)
	}
	m, k := d.Map, d.Kit
	for i := range e.Count {
		place := i - e.Below
		if place >= 0 {
			place++ // the pad itself is at 0
		}
		note, ok := freeFrom(m, k, e.Note, place < 0)
		if !ok {
			return "", fmt.Errorf("%w: no note is free for %d more pads", drummap.ErrMap, e.Count)
		}
		fresh := pad.Clone()
		fresh.Note = note
		if fresh.Semitones = pad.Semitones + float64(place)*e.Step; math.Abs(fresh.Semitones) > 48 {
			return "", fmt.Errorf("%w: tuned by %g semitones a step, copy %d would lie beyond four octaves", kit.ErrKit, e.Step, i+1)
		}
		name := fmt.Sprintf("%s %d", own.Name, i+2)
		if e.Step != 0 {
			name = fmt.Sprintf("%s %+g", own.Name, float64(place)*e.Step)
		}
		l := m.Named(note, name, own.Role)
		l.Color = own.Color
		m, k = m.With(l), k.Put(fresh)
	}
	label := fmt.Sprintf("Spread %s over %d notes", own.Name, e.Count+1)
	if e.Count == 1 && e.Step == 0 {
		label = "Copy " + own.Name + " to a lane of its own"
	}
	if err := d.PutMap(m); err != nil {
		return "", err
	}
	return label, d.PutKit(k)
}

// freeFrom is the free note nearest to one, above it or below; the highest free one when there is none on that side.
func freeFrom(m drummap.Map, k kit.Kit, note int, below bool) (int, bool) {
	step := 1
	if below {
		step = -1
	}
	for n := note + step; n >= 0 && n <= 127; n += step {
		if free(m, k, n) {
			return n, true
		}
	}
	for n := 127; n >= 0; n-- {
		if free(m, k, n) {
			return n, true
		}
	}
	return 0, false
}

func free(m drummap.Map, k kit.Kit, note int) bool {
	_, lane := m.ByNote(note)
	pad, _ := k.Pad(note)
	return !lane && len(pad.Layers) == 0
}

func (e *SpreadPad) Scope(Project) Scope { return mapAndKit }
