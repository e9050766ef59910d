// Package take turns what is played into hits: strikes heard at moments of a loop become hits written where the feel in force lets
// them sound as they were played, or nearer to the grid.
package take

import (
	"errors"
	"fmt"
	"math"

	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

// DoubleS is how near two strikes of one pad from one source may lie and still be one stroke, seconds: pads and keys bounce
// (common practice, no source).
const DoubleS = 0.005

// swungFarthest is how far swing moves a line at most: 75 % of eighths, ticks.
const swungFarthest = music.PPQ / 4

// Strike is what was played: a pad, and the moment of the loop at which it was heard, seconds from the pattern's start, latency taken
// off. It may lie a little before the loop, or beyond its end.
type Strike struct {
	Note     int     `json:"note" minimum:"0" maximum:"127"`
	AtS      float64 `json:"at"`
	Velocity int     `json:"velocity" minimum:"1" maximum:"127"`
	HeldS    float64 `json:"held,omitempty" minimum:"0" maximum:"3600"`     // how long it was held; 0: it rings as it does
	Tune     int     `json:"tune,omitempty" minimum:"-2400" maximum:"2400"` // cents, of one sound played over the pads
	From     string  `json:"from,omitempty" maxLength:"100"`                // which source it came from
}

// ErrStrike is a strike that is none.
var ErrStrike = errors.New("a strike cannot be understood")

// Check reports ErrStrike.
func (s Strike) Check() error {
	if s.Note < 0 || s.Note > 127 || s.Velocity < 1 || s.Velocity > 127 || !(math.Abs(s.AtS) <= 36000) || !(s.HeldS >= 0 && s.HeldS <= 3600) || len(s.From) > 100 ||
		s.Tune < -pattern.MostTune || s.Tune > pattern.MostTune {
		return fmt.Errorf("%w: note %d at %g s, velocity %d, held %g s, tune %d", ErrStrike, s.Note, s.AtS, s.Velocity, s.HeldS, s.Tune)
	}
	return nil
}

// Played is a strike as it is kept: where it was played, and where it is written now.
type Played struct {
	Note     int     `json:"note"`
	At       float64 `json:"at"` // ticks from the pattern's start at which it was heard, folded into the loop; to be sounded there
	Velocity int     `json:"velocity"`
	Length   int     `json:"length,omitempty"` // ticks
	Tune     int     `json:"tune,omitempty"`   // cents
	From     string  `json:"from,omitempty"`
	Tick     int     `json:"tick"` // of its hit
}

// Key names the hit of the strike.
func (p Played) Key() pattern.Key { return pattern.Key{Note: p.Note, Tick: p.Tick} }

// Quantise moves what is played towards the lines of a grid; none: each lane's own. Strength 0 leaves it as played.
type Quantise struct {
	Grid     music.Grid `json:"grid,omitempty" maxLength:"8"`
	Strength float64    `json:"strength,omitempty" minimum:"0" maximum:"100"`
}

// Check reports an unknown grid and a strength that is none.
func (q Quantise) Check() error {
	if !(q.Strength >= 0 && q.Strength <= 100) {
		return fmt.Errorf("%w: quantised by %g %%", ErrStrike, q.Strength)
	}
	if q.Grid != "" {
		_, err := q.Grid.Ticks()
		return err
	}
	return nil
}

// Loop is what is played over: a pattern, or some bars of it, at a tempo and with the feel in force.
type Loop struct {
	BPM     float64
	Pattern pattern.Pattern
	Feel    feel.Feel
	// FromBar and ToBar are the bars that go round; 0 and 0 are all.
	FromBar, ToBar int
	// InBar and OutBar are the bars that are recorded, those before OutBar; 0 and 0 are all.
	InBar, OutBar int
}

// ends are the ticks between which the loop goes round.
func (l Loop) ends() (from, to int) {
	bar, all := l.Pattern.Meter.BarTicks(), l.Pattern.LengthTicks()
	from, to = max(0, l.FromBar*bar), l.ToBar*bar
	if to <= from || to > all {
		to = all
	}
	if from >= to {
		from = 0
	}
	return from, to
}

// Through is which time through a strike belongs to, from its seconds since the loop's first line was played for the first time: what
// leads into a time through by less than half a cell is its own. −1 while it is counted in.
func (l Loop) Through(note int, sinceS float64) int {
	from, to := l.ends()
	at := sinceS/music.SecondsPerTick(l.BPM) + float64(l.Pattern.CellOf(note))/2
	if at < 0 {
		return -1
	}
	return int(at / float64(to-from))
}

// Punched reports whether a strike lies in the bars that are recorded; what leads into their first line does, what leads into the line
// after them does not.
func (l Loop) Punched(p Played) bool {
	if l.OutBar <= l.InBar {
		return true
	}
	from, _ := l.ends()
	bar := float64(l.Pattern.Meter.BarTicks())
	at := max(float64(from), p.At+float64(l.Pattern.CellOf(p.Note))/2)
	return at >= float64(l.InBar)*bar && at < float64(l.OutBar)*bar
}

// late is how many ticks later than written the feel lets a line of a lane sound, chance left out.
func (l Loop) late(note, line, cell int) float64 {
	return l.Feel.Shift(note, line, cell) + l.Feel.LaneLeanMS[note]/1000/music.SecondsPerTick(l.BPM)
}

// Play keeps a strike: in ticks, folded into the loop. What falls within half a cell before the loop's end and nearer to its end than
// to any line before belongs to its first line: it lies before it, leaning early.
func (l Loop) Play(s Strike) Played {
	from, to := l.ends()
	cell := l.Pattern.CellOf(s.Note)
	at := s.AtS / music.SecondsPerTick(l.BPM)
	length := float64(to - from)
	at = float64(from) + math.Mod(math.Mod(at-float64(from), length)+length, length)
	end := float64(to) + l.late(s.Note, from, cell)
	last := float64(to-cell) + l.late(s.Note, to-cell, cell)
	if at > end-float64(cell)/2 && end-at < math.Abs(at-last) {
		at -= length
	}
	p := Played{Note: s.Note, At: math.Round(at*100) / 100, Velocity: s.Velocity, Tune: s.Tune, From: s.From}
	if s.HeldS > 0 {
		p.Length = min(l.Pattern.LengthTicks(), max(1, music.Ticks(s.HeldS, l.BPM)))
	}
	return p
}

// Same reports whether two strikes are one stroke that bounced: of one pad and source, within DoubleS.
func (l Loop) Same(a, b Played) bool {
	return a.Note == b.Note && a.Tune == b.Tune && a.From == b.From && math.Abs(a.At-b.At) <= DoubleS/music.SecondsPerTick(l.BPM)
}

// Written is the tick at which a hit must be written so that it sounds where it was played, with the feel upon it. Where a swung line
// leaves a gap in which nothing can sound, it is the tick that sounds nearest.
func (l Loop) Written(p Played) int {
	cell := l.Pattern.CellOf(p.Note)
	best, bestOff := int(math.Round(p.At)), math.Inf(1)
	reach := cell + swungFarthest + int(math.Abs(l.Feel.LaneLeanMS[p.Note])/1000/music.SecondsPerTick(l.BPM))
	for tick := int(p.At) - reach; tick <= int(p.At)+reach; tick++ { // swing and grooves go by lines, and what stands on a triplet is spared: every tick is asked
		off := math.Abs(float64(tick) + l.late(p.Note, tick, cell) - p.At)
		lean := math.Abs(float64(tick - music.NearestLine(tick, cell)))
		if off += lean / 1e4; off < bestOff { // of two that sound alike the one nearer to its line
			best, bestOff = tick, off
		}
	}
	return l.kept(best)
}

// Tick is where a strike is written, quantised towards the line it belongs to.
func (l Loop) Tick(p Played, q Quantise) int {
	cell := l.Pattern.CellOf(p.Note)
	if q.Grid != "" {
		if t, err := q.Grid.Ticks(); err == nil {
			cell = t
		}
	}
	return l.kept(pattern.QuantiseTick(l.Written(p), cell, q.Strength))
}

// kept is a tick within what a pattern may hold; the line after the last is the loop's first.
func (l Loop) kept(tick int) int {
	from, to := l.ends()
	if tick >= to {
		tick -= to - from
	}
	return max(-pattern.MaxLeadTicks, tick)
}

// Hit is the hit of a strike that is written.
func (p Played) Hit() pattern.Hit {
	return pattern.Hit{Note: p.Note, Tick: p.Tick, Velocity: p.Velocity, Length: p.Length, Tune: p.Tune}
}
