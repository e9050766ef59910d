// Package song is patterns in a row: blocks, sections, and the clock that leads from bars through ticks to seconds.
package song

import (
	"errors"
	"fmt"
	"slices"

	"hexachord/core/feel"
	"hexachord/core/music"
)

// What a song may hold.
const (
	MaxBars   = 2000
	MaxBlocks = 2000
)

// ErrSong is a song that cannot be played.
var ErrSong = errors.New("the song cannot be so")

// Block is a pattern, or a recording, laid on a row of the song. Its pattern goes round for as long as the block lasts.
type Block struct {
	Part      string `json:"part,omitempty" maxLength:"64"`      // whose row it lies on; "" is the first part
	Pattern   string `json:"pattern,omitempty" maxLength:"64"`   // its ID
	Recording string `json:"recording,omitempty" maxLength:"64"` // or that of a recording; the recordings have a row of their own
	Bar       int    `json:"bar" minimum:"0" maximum:"1999"`     // of the song, from 0
	Bars      int    `json:"bars" minimum:"1" maximum:"2000"`
	// FromBar is how many bars of the pattern (or of the recording's grid) are trimmed off its beginning, the first time through.
	FromBar int    `json:"fromBar,omitempty" minimum:"0" maximum:"1999"`
	LeftOut []int  `json:"leftOut,omitempty" maxItems:"128"` // notes of the lanes that are left out
	Color   string `json:"color,omitempty" maxLength:"9"`
	Muted   bool   `json:"muted,omitempty"`
	// Of a recording: its level, how it comes and goes, how much later than its grid it is laid (by hand), and whether it keeps its own
	// tempo rather than the song's.
	LevelDB  float64 `json:"levelDB,omitempty" minimum:"-60" maximum:"12"`
	FadeInS  float64 `json:"fadeIn,omitempty" minimum:"0" maximum:"60"`
	FadeOutS float64 `json:"fadeOut,omitempty" minimum:"0" maximum:"60"`
	NudgeS   float64 `json:"nudge,omitempty" minimum:"-60" maximum:"60"`
	Free     bool    `json:"free,omitempty"`
}

// RecordingRow is the row of a recording's block.
const RecordingRow = "recordings"

// Row names the row a block lies on: its part, or the recordings'.
func (b Block) Row() string {
	if b.Recording != "" {
		return RecordingRow
	}
	return b.Part
}

// End is the bar after its last.
func (b Block) End() int { return b.Bar + b.Bars }

// Check reports ErrSong.
func (b Block) Check() error {
	switch {
	case (b.Pattern == "") == (b.Recording == ""):
		return fmt.Errorf("%w: a block plays a pattern or a recording", ErrSong)
	case b.Bar < 0 || b.Bars < 1 || b.End() > MaxBars || b.FromBar < 0 || b.FromBar >= MaxBars:
		return fmt.Errorf("%w: a block lies between bar 1 and %d, not from %d for %d bars", ErrSong, MaxBars, b.Bar+1, b.Bars)
	case !(b.LevelDB >= -60 && b.LevelDB <= 12) || !(b.FadeInS >= 0 && b.FadeInS <= 60) || !(b.FadeOutS >= 0 && b.FadeOutS <= 60) || !(b.NudgeS >= -60 && b.NudgeS <= 60):
		return fmt.Errorf("%w: a recording's level is −60 to 12 dB, its fades last up to a minute", ErrSong)
	case slices.ContainsFunc(b.LeftOut, func(n int) bool { return n < 0 || n > 127 }):
		return fmt.Errorf("%w: a lane left out is a note from 0 to 127", ErrSong)
	}
	return nil
}

// Without is what is left of a block when bars from ≤ bar < to are taken out of its row: none, one or two blocks.
func (b Block) Without(from, to int) []Block {
	if to <= b.Bar || from >= b.End() {
		return []Block{b}
	}
	var out []Block
	if from > b.Bar {
		head := b
		head.Bars = from - b.Bar
		out = append(out, head)
	}
	if to < b.End() {
		tail := b
		tail.Bar, tail.Bars, tail.FromBar = to, b.End()-to, b.FromBar+to-b.Bar
		out = append(out, tail)
	}
	return out
}

// Split is a block in two, the second beginning at a bar inside it; ErrSong when the bar is not.
func (b Block) Split(at int) (head, tail Block, err error) {
	if at <= b.Bar || at >= b.End() {
		return b, b, fmt.Errorf("%w: bar %d is not inside the block; put the cursor there first", ErrSong, at+1)
	}
	parts := b.Without(at, at)
	return parts[0], parts[1], nil
}

// Repeated is a block that goes round so many times more, or fewer, by the bars of once through; a bar stays.
func (b Block) Repeated(by, round int) Block {
	bars := b.Bars + by*max(1, round)
	if bars < 1 {
		bars = max(1, b.Bars-1)
	}
	b.Bars = bars
	return b
}

// Trimmed is a block that begins and ends at other bars. What it plays stays where it was; before what it has to play, it cannot begin.
func (b Block) Trimmed(begin, end int) Block {
	by := max(-min(b.Bar, b.FromBar), min(begin-b.Bar, b.Bars-1))
	b.Bar, b.FromBar, b.Bars = b.Bar+by, b.FromBar+by, b.Bars-by
	b.Bars = max(1, end-b.Bar)
	return b
}

// Section is a stretch of the song with a name, over all parts.
type Section struct {
	Name  string     `json:"name" minLength:"1" maxLength:"200"`
	Bar   int        `json:"bar" minimum:"0" maximum:"1999"`
	Bars  int        `json:"bars" minimum:"1" maximum:"2000"`
	Color string     `json:"color,omitempty" maxLength:"9"`
	Feel  *feel.Feel `json:"feel,omitempty"` // laid over what plays in it, in the place of the project's
}

// End is the bar after its last.
func (s Section) End() int { return s.Bar + s.Bars }

// Without is what is left of a section when bars from ≤ bar < to are given to another: none, one or two.
func (s Section) Without(from, to int) []Section {
	var out []Section
	if s.Bar < from {
		head := s
		head.Bars = min(s.End(), from) - s.Bar
		out = append(out, head)
	}
	if s.End() > to {
		tail := s
		tail.Bar = max(s.Bar, to)
		tail.Bars = s.End() - tail.Bar
		out = append(out, tail)
	}
	return out
}

// Check reports ErrSong.
func (s Section) Check() error {
	if s.Name == "" || len(s.Name) > 200 || s.Bar < 0 || s.Bars < 1 || s.End() > MaxBars {
		return fmt.Errorf("%w: a section has a name and lies between bar 1 and %d", ErrSong, MaxBars)
	}
	if s.Feel != nil {
		return s.Feel.Check()
	}
	return nil
}

// Tempo is a tempo from a bar on.
type Tempo struct {
	Bar   int     `json:"bar" minimum:"0" maximum:"1999"`
	BPM   float64 `json:"bpm" minimum:"20" maximum:"400"`
	Glide bool    `json:"glide,omitempty"` // from here it changes steadily until the next tempo
}

// Meter is a meter from a bar on.
type Meter struct {
	Bar   int         `json:"bar" minimum:"0" maximum:"1999"`
	Meter music.Meter `json:"meter"`
}

// Song is what a song has beside its blocks and sections: its tempi and meters, in the order of their bars. Before the first of them the
// project's tempo and 4/4 hold.
type Song struct {
	Tempos []Tempo `json:"tempos" maxItems:"2000"`
	Meters []Meter `json:"meters" maxItems:"2000"`
}

// Plain is the same song in the order of its bars, without tempi and meters that change nothing; bpm is the project's tempo.
func (s Song) Plain(bpm float64) Song {
	out := Song{Tempos: []Tempo{}, Meters: []Meter{}}
	slices.SortStableFunc(s.Tempos, func(a, b Tempo) int { return a.Bar - b.Bar })
	slices.SortStableFunc(s.Meters, func(a, b Meter) int { return a.Bar - b.Bar })
	now, glides := bpm, false
	for _, t := range s.Tempos {
		if t.BPM != now || t.Glide || glides {
			out.Tempos = append(out.Tempos, t)
		}
		now, glides = t.BPM, t.Glide
	}
	meter := music.CommonTime
	for _, m := range s.Meters {
		if m.Meter != meter {
			out.Meters = append(out.Meters, m)
		}
		meter = m.Meter
	}
	return out
}

// Check reports ErrSong, and a tempo or meter that is none.
func (s Song) Check() error {
	last := -1
	for _, t := range s.Tempos {
		if err := music.CheckBPM(t.BPM); err != nil {
			return err
		}
		if t.Bar <= last || t.Bar >= MaxBars {
			return fmt.Errorf("%w: tempi stand at bars of their own, in order", ErrSong)
		}
		last = t.Bar
	}
	last = -1
	for _, m := range s.Meters {
		if err := m.Meter.Check(); err != nil {
			return err
		}
		if m.Bar <= last || m.Bar >= MaxBars {
			return fmt.Errorf("%w: meters stand at bars of their own, in order", ErrSong)
		}
		last = m.Bar
	}
	return nil
}
