package project

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"hexachord/core/pattern"
	"hexachord/core/take"
)

// Pass is one time through while recording: what was played, as it was played, and what of it is in its pattern now. Hits that a person
// edits afterwards stay the pass's as long as they stand where it wrote them.
type Pass struct {
	Pattern  string        `json:"pattern"` // its ID
	Replace  bool          `json:"replace,omitempty"`
	Quantise take.Quantise `json:"quantise"`
	FromBar  int           `json:"fromBar,omitempty"` // the bars that went round; 0 and 0: all
	ToBar    int           `json:"toBar,omitempty"`
	InBar    int           `json:"inBar,omitempty"` // the bars that were recorded; 0 and 0: all
	OutBar   int           `json:"outBar,omitempty"`
	Muted    bool          `json:"muted,omitempty"`
	Played   []take.Played `json:"played"`
	// Over are the hits whose places it took; they come back when it goes.
	Over []pattern.Hit `json:"over,omitempty"`
	// Away are its hits while it is muted.
	Away []pattern.Hit `json:"away,omitempty"`
}

// ErrPass is a pass that cannot be recorded.
var ErrPass = errors.New("the pass cannot be recorded")

// mostPlayed bounds the strikes of a pass: an hour of rolls.
const mostPlayed = 100_000

// Check reports ErrPass.
func (p Pass) Check() error {
	if len(p.Played) > mostPlayed || len(p.Over) > pattern.MaxHits || len(p.Away) > pattern.MaxHits {
		return fmt.Errorf("%w: it has more than %d strikes", ErrPass, mostPlayed)
	}
	return p.Quantise.Check()
}

// Notes are the lanes it was played on, in the order of their first strikes.
func (p Pass) Notes() []int {
	notes := []int{}
	for _, s := range p.Played {
		if !slices.Contains(notes, s.Note) {
			notes = append(notes, s.Note)
		}
	}
	return notes
}

// Keys are the hits it wrote.
func (p Pass) Keys() []pattern.Key {
	keys := make([]pattern.Key, len(p.Played))
	for i, s := range p.Played {
		keys[i] = s.Key()
	}
	return keys
}

// Hits are the hits of the pass as they are now: in its pattern, or aside while it is muted.
func (p Pass) Hits(pt pattern.Pattern) []pattern.Hit {
	if p.Muted {
		return slices.Clone(p.Away)
	}
	hits := []pattern.Hit{}
	for _, k := range p.Keys() {
		if h, ok := pt.At(k); ok {
			hits = append(hits, h)
		}
	}
	pattern.SortHits(hits)
	return slices.Compact(hits)
}

// Pass finds a pass by ID; ErrNotFound when it is not there.
func (p Project) Pass(id string) (Pass, error) { return find(p.Passes, id, "the pass") }

// loop is what a pass is played over.
func (p Project) loop(pass Pass, pt pattern.Pattern) take.Loop {
	return take.Loop{BPM: p.Settings.BPM, Pattern: pt, Feel: p.FeelOf(pt), FromBar: pass.FromBar, ToBar: pass.ToBar, InBar: pass.InBar, OutBar: pass.OutBar}
}

// RecordPass adds strikes to a pass, which begins with the first of them. Sent as they fall, strikes of one pass are one step of the
// history.
type RecordPass struct {
	ID       string        `json:"id" required:"true" minLength:"8" maxLength:"64"` // that the window gave the pass
	Pattern  string        `json:"pattern" required:"true" maxLength:"64"`
	Strikes  []take.Strike `json:"strikes" required:"true" maxItems:"10000"`
	Quantise take.Quantise `json:"quantise"`
	// Replace takes out what was on a lane from the moment the lane is played, as far as UpToS, seconds from the pattern's start.
	Replace bool    `json:"replace,omitempty"`
	UpToS   float64 `json:"upTo,omitempty"`
	FromBar int     `json:"fromBar,omitempty" minimum:"0" maximum:"64"`
	ToBar   int     `json:"toBar,omitempty" minimum:"0" maximum:"64"`
	// InBar and OutBar punch: only what is played in the bars from InBar on and before OutBar is recorded; 0 and 0: all.
	InBar  int `json:"inBar,omitempty" minimum:"0" maximum:"64"`
	OutBar int `json:"outBar,omitempty" minimum:"0" maximum:"64"`
}

func (e *RecordPass) Apply(d *Draft) (string, error) {
	pt, err := d.Pattern(e.Pattern)
	if err != nil {
		return "", err
	}
	pass, err := d.Pass(e.ID)
	if errors.Is(err, ErrNotFound) {
		pass = Pass{Pattern: e.Pattern, Replace: e.Replace, Quantise: e.Quantise, FromBar: e.FromBar, ToBar: e.ToBar,
			InBar: e.InBar, OutBar: e.OutBar}
	}
	if pass.Pattern != e.Pattern || pass.Muted {
		return "", fmt.Errorf("%w: it belongs to another pattern, or is muted", ErrPass)
	}
	pass.Played, pass.Over = slices.Clone(pass.Played), slices.Clone(pass.Over)
	loop := d.loop(pass, pt)
	edit := pattern.Hits{}
	for _, s := range e.Strikes {
		if err := s.Check(); err != nil {
			return "", err
		}
		played := loop.Play(s)
		if !loop.Punched(played) {
			continue
		}
		if i := slices.IndexFunc(pass.Played, func(o take.Played) bool { return loop.Same(o, played) }); i >= 0 {
			// it bounced, or it was held and is let go
			was := &pass.Played[i]
			if played.Velocity <= was.Velocity && played.Length <= was.Length {
				continue
			}
			was.Velocity, was.Length = max(was.Velocity, played.Velocity), max(was.Length, played.Length)
			edit.Put = append(edit.Put, was.Hit())
			continue
		}
		played.Tick = loop.Tick(played, pass.Quantise)
		if was, ok := pt.At(played.Key()); ok && !slices.Contains(pass.Keys(), played.Key()) {
			pass.Over = append(pass.Over, was)
		}
		pass.Played = append(pass.Played, played)
		edit.Put = append(edit.Put, played.Hit())
	}
	if pass.Replace && e.UpToS > 0 {
		upTo := loop.Play(take.Strike{AtS: e.UpToS, Velocity: 1}).At
		if upTo <= 0 || e.UpToS >= loopSeconds(loop) {
			upTo = float64(pt.LengthTicks())
		}
		gone := replaced(loop, pass, pt, upTo)
		for _, h := range gone {
			edit.Remove = append(edit.Remove, h.Key())
		}
		pass.Over = append(pass.Over, gone...)
	}
	if len(edit.Put) == 0 && len(edit.Remove) == 0 {
		return "", nil
	}
	if err := d.putMirroredHits(e.Pattern, edit); err != nil {
		return "", err
	}
	return d.describePass("Record", pass), d.put(KindPass, e.ID, pass)
}

func loopSeconds(l take.Loop) float64 {
	return float64(l.Pattern.LengthTicks()) * 60 / (l.BPM * 960)
}

// replaced are the hits that a replacing pass takes out: those of its lanes, of other passes or drawn, from half a cell before its first
// strike on the lane to where it has come.
func replaced(loop take.Loop, pass Pass, pt pattern.Pattern, upTo float64) (gone []pattern.Hit) {
	first := map[int]float64{}
	own := map[pattern.Key]bool{}
	for _, s := range pass.Played {
		own[s.Key()] = true
		if at, ok := first[s.Note]; !ok || s.At < at {
			first[s.Note] = s.At
		}
	}
	for _, h := range pt.Hits {
		from, plays := first[h.Note]
		if plays && !own[h.Key()] && float64(h.Tick) >= from-float64(pt.CellOf(h.Note))/2 && float64(h.Tick) < upTo &&
			loop.Punched(take.Played{Note: h.Note, At: float64(h.Tick)}) {
			gone = append(gone, h)
		}
	}
	return gone
}

// describePass says what a pass is, for the history.
func (d *Draft) describePass(verb string, pass Pass) string {
	var names []string
	for _, n := range pass.Notes() {
		l, ok := d.Map.ByNote(n)
		if !ok {
			l.Name = fmt.Sprintf("note %d", n)
		}
		names = append(names, l.Name)
	}
	if len(names) > 3 {
		names = append(names[:2], fmt.Sprintf("%d more lanes", len(names)-2))
	}
	hits := fmt.Sprintf("%d hits", len(pass.Played))
	if len(pass.Played) == 1 {
		hits = "a hit"
	}
	return fmt.Sprintf("%s a pass: %s on %s", verb, hits, strings.Join(names, ", "))
}

// putMirroredHits edits hits of a pattern and of its linked copies.
func (d *Draft) putMirroredHits(id string, hits pattern.Hits) error {
	pt, err := d.Pattern(id)
	if err != nil {
		return err
	}
	edit := pattern.Edit{Hits: &hits}
	if _, _, err := d.EditPattern(id, edit); err != nil {
		return err
	}
	return d.mirror(id, pt.Link, edit)
}

func (e *RecordPass) Scope(p Project) Scope {
	notes := []int{}
	for _, s := range e.Strikes {
		notes = append(notes, s.Note)
	}
	if pass, err := p.Pass(e.ID); err == nil && e.Replace {
		notes = append(notes, pass.Notes()...)
	}
	return p.passScope(e.ID, e.Pattern, notes)
}

// passScope is what changing a pass reads and writes: itself, its lanes in its pattern and the linked copies, and what says where lines
// lie and sound.
func (p Project) passScope(id, patternID string, notes []int) Scope {
	s := Scope{Keys: []Key{{KindPass, id}}, Kinds: []Kind{KindGroove}, Settings: []string{"bpm", "feel"}, Patterns: map[string]pattern.Scope{}}
	of := pattern.Scope{Notes: notes, Settings: []string{"bars", "meter", "grid", "lanes", "feel", "link"}}
	pt, _ := p.Pattern(patternID)
	s.Patterns[patternID] = of
	for _, other := range p.Patterns {
		if pt.Link != "" && other.Value.Link == pt.Link {
			s.Patterns[other.ID] = of
		}
	}
	return s
}

// PassEdit changes a pass that was recorded: exactly one of its parts is given.
type PassEdit struct {
	ID       string         `json:"id" required:"true" maxLength:"64"`
	Muted    *bool          `json:"muted,omitempty"`
	Quantise *take.Quantise `json:"quantise,omitempty"`             // afterwards: from where it was played
	Merge    string         `json:"merge,omitempty" maxLength:"64"` // the ID of another pass of the pattern, which becomes part of this one
	// Swap mutes this pass and lets another of the pattern, which was muted, be heard in its place; or the other way round.
	Swap   string `json:"swap,omitempty" maxLength:"64"`
	Remove bool   `json:"remove,omitempty"` // with its hits; what it took the place of comes back
}

func (e *PassEdit) Apply(d *Draft) (string, error) {
	pass, err := d.Pass(e.ID)
	if err != nil {
		return "", err
	}
	pt, err := d.Pattern(pass.Pattern)
	switch {
	case err != nil:
		return "", err
	case e.Muted != nil:
		return e.mute(d, pass, pt, *e.Muted)
	case e.Quantise != nil:
		return e.quantise(d, pass, pt)
	case e.Merge != "":
		return e.merge(d, pass)
	case e.Swap != "":
		return e.swap(d, pass)
	case e.Remove:
		if !pass.Muted {
			if err := d.takeAway(&pass, pt); err != nil {
				return "", err
			}
		}
		return d.describePass("Remove", pass), d.Remove(KindPass, e.ID)
	}
	return "", fmt.Errorf("%w: the edit does not say what is to be done", ErrPass)
}

// takeAway takes the hits of a pass out of its pattern, keeps them aside, and puts back those whose places they took.
func (d *Draft) takeAway(pass *Pass, pt pattern.Pattern) error {
	edit := pattern.Hits{}
	pass.Away = nil
	free := map[pattern.Key]bool{}
	for _, k := range pass.Keys() {
		if h, ok := pt.At(k); ok && !free[k] {
			pass.Away = append(pass.Away, h)
			edit.Remove = append(edit.Remove, k)
		}
		free[k] = true
	}
	for _, h := range pass.Over {
		if _, taken := pt.At(h.Key()); !taken || free[h.Key()] {
			edit.Put = append(edit.Put, h)
		}
	}
	return d.putMirroredHits(pass.Pattern, edit)
}

func (e *PassEdit) mute(d *Draft, pass Pass, pt pattern.Pattern, muted bool) (string, error) {
	if pass.Muted == muted {
		return "", nil
	}
	pass.Muted = muted
	if muted {
		if err := d.takeAway(&pass, pt); err != nil {
			return "", err
		}
		return d.describePass("Mute", pass), d.put(KindPass, e.ID, pass)
	}
	edit := pattern.Hits{Put: pass.Away}
	back := map[pattern.Key]bool{}
	for _, h := range pass.Away {
		back[h.Key()] = true
	}
	for _, h := range pass.Over {
		if now, ok := pt.At(h.Key()); ok && now == h && !back[h.Key()] { // it had come back in the meantime
			edit.Remove = append(edit.Remove, h.Key())
		}
	}
	pass.Away = nil
	if err := d.putMirroredHits(pass.Pattern, edit); err != nil {
		return "", err
	}
	return d.describePass("Hear", pass), d.put(KindPass, e.ID, pass)
}

// quantise moves the hits of a pass to where its strikes belong by other settings; what a person made of them since stays.
func (e *PassEdit) quantise(d *Draft, pass Pass, pt pattern.Pattern) (string, error) {
	if err := e.Quantise.Check(); err != nil {
		return "", err
	}
	pass.Quantise = *e.Quantise
	pass.Played, pass.Away = slices.Clone(pass.Played), slices.Clone(pass.Away)
	loop := d.loop(pass, pt)
	edit := pattern.Hits{}
	for i := range pass.Played {
		s := &pass.Played[i]
		was := s.Key()
		s.Tick = loop.Tick(*s, pass.Quantise)
		if pass.Muted {
			if k := slices.IndexFunc(pass.Away, func(h pattern.Hit) bool { return h.Key() == was }); k >= 0 {
				pass.Away[k].Tick = s.Tick
			}
			continue
		}
		if h, ok := pt.At(was); ok {
			edit.Remove = append(edit.Remove, was)
			h.Tick = s.Tick
			edit.Put = append(edit.Put, h)
		}
	}
	if err := d.putMirroredHits(pass.Pattern, edit); err != nil {
		return "", err
	}
	words := "as played"
	if q := pass.Quantise; q.Strength > 0 {
		words = fmt.Sprintf("quantised %g %%", q.Strength)
	}
	return fmt.Sprintf("%s, %s", d.describePass("Set", pass), words), d.put(KindPass, e.ID, pass)
}

func (e *PassEdit) merge(d *Draft, pass Pass) (string, error) {
	other, err := d.Pass(e.Merge)
	switch {
	case err != nil:
		return "", err
	case e.Merge == e.ID || other.Pattern != pass.Pattern || other.Muted != pass.Muted:
		return "", fmt.Errorf("%w: merge two passes of one pattern, both heard or both muted", ErrPass)
	}
	pass.Played = slices.Concat(pass.Played, other.Played)
	pass.Over, pass.Away = slices.Concat(pass.Over, other.Over), slices.Concat(pass.Away, other.Away)
	if err := d.Remove(KindPass, e.Merge); err != nil {
		return "", err
	}
	return d.describePass("Merge", pass), d.put(KindPass, e.ID, pass)
}

func (e *PassEdit) swap(d *Draft, pass Pass) (string, error) {
	other, err := d.Pass(e.Swap)
	switch {
	case err != nil:
		return "", err
	case other.Pattern != pass.Pattern || other.Muted == pass.Muted:
		return "", fmt.Errorf("%w: swap two passes of one pattern, one heard and one muted", ErrPass)
	}
	heard, muted := e.ID, e.Swap
	if pass.Muted {
		heard, muted = muted, heard
	}
	for _, one := range []struct {
		id    string
		muted bool
	}{{heard, true}, {muted, false}} { // first room is made
		pass, err := d.Pass(one.id)
		if err != nil {
			return "", err
		}
		pt, err := d.Pattern(pass.Pattern)
		if err != nil {
			return "", err
		}
		if _, err := (&PassEdit{ID: one.id}).mute(d, pass, pt, one.muted); err != nil {
			return "", err
		}
	}
	pass, err = d.Pass(muted)
	return d.describePass("Swap for", pass), err
}

func (e *PassEdit) Scope(p Project) Scope {
	pass, err := p.Pass(e.ID)
	if err != nil {
		return Scope{All: true}
	}
	notes := pass.Notes()
	var keys []Key
	for _, id := range []string{e.Merge, e.Swap} {
		if other, err := p.Pass(id); err == nil {
			keys, notes = append(keys, Key{KindPass, id}), append(notes, other.Notes()...)
		}
	}
	s := p.passScope(e.ID, pass.Pattern, notes)
	s.Keys = append(s.Keys, keys...)
	return s
}

// renotePasses lets what was played over a pattern go along when its lanes take other notes (old → new).
func (d *Draft) renotePasses(patternID string, moves map[int]int) error {
	to := func(note int) int {
		if n, ok := moves[note]; ok && n >= 0 {
			return n
		}
		return note
	}
	for _, p := range d.Passes {
		if p.Value.Pattern != patternID {
			continue
		}
		next := p.Value
		next.Played, next.Over, next.Away = slices.Clone(next.Played), slices.Clone(next.Over), slices.Clone(next.Away)
		for i := range next.Played {
			next.Played[i].Note = to(next.Played[i].Note)
		}
		for _, hits := range [][]pattern.Hit{next.Over, next.Away} {
			for i := range hits {
				hits[i].Note = to(hits[i].Note)
			}
		}
		if err := d.put(KindPass, p.ID, next); err != nil {
			return err
		}
	}
	return nil
}

// Joined is what two edits, one after the other, did together: one change for each document, or a few in their order where a pattern was
// put whole and edited.
func Joined(a, b []Change) []Change {
	out := slices.Clone(a)
	for _, c := range b {
		i := len(out) - 1
		for i >= 0 && out[i].Key() != c.Key() {
			i--
		}
		if i < 0 || (out[i].Pattern == nil) != (c.Pattern == nil) {
			out = append(out, c)
			continue
		}
		if c.Pattern != nil {
			p := out[i].Pattern.Then(*c.Pattern)
			out[i].Pattern = &p
			continue
		}
		out[i].After, out[i].Position = c.After, c.Position
	}
	return out
}
