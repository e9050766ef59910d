// Package music holds musical time and pitch: ticks, meters, tempo, grids and note names.
package music

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// PPQ is the number of ticks in a quarter note (pulses per quarter note).
const PPQ = 960

// MinBPM and MaxBPM bound every tempo, in quarter notes a minute.
const (
	MinBPM = 20.0
	MaxBPM = 400.0
)

// MaxBars is the longest pattern, in bars.
const MaxBars = 64

// Errors a caller can tell apart.
var (
	ErrTempo = errors.New("tempo must lie between 20 and 400 BPM")
	ErrMeter = errors.New("meter must have 1 to 32 beats of a half, quarter, eighth or sixteenth note")
	ErrGrid  = errors.New("grid must be a note value from 1/4 to 1/64, straight, triplet (1/8t) or dotted (1/8d)")
)

// CheckBPM reports ErrTempo when bpm is not a tempo the bench can play.
func CheckBPM(bpm float64) error {
	if !(bpm >= MinBPM && bpm <= MaxBPM) {
		return fmt.Errorf("%w, not %g", ErrTempo, bpm)
	}
	return nil
}

// SecondsPerTick is the length of one tick in seconds at bpm quarter notes a minute.
func SecondsPerTick(bpm float64) float64 { return 60 / (bpm * PPQ) }

// Seconds converts ticks at a steady tempo to seconds.
func Seconds(ticks float64, bpm float64) float64 { return ticks * SecondsPerTick(bpm) }

// Ticks converts seconds at a steady tempo to the nearest tick.
func Ticks(seconds, bpm float64) int { return int(math.Round(seconds / SecondsPerTick(bpm))) }

// Meter is a time signature: Beats notes of 1/Unit in a bar.
type Meter struct {
	Beats int `json:"beats" minimum:"1" maximum:"32"`
	Unit  int `json:"unit" minimum:"2" maximum:"16"`
}

// CommonTime is 4/4.
var CommonTime = Meter{Beats: 4, Unit: 4}

// Check reports ErrMeter when the meter cannot be used.
func (m Meter) Check() error {
	unitOK := m.Unit == 2 || m.Unit == 4 || m.Unit == 8 || m.Unit == 16
	if m.Beats < 1 || m.Beats > 32 || !unitOK {
		return fmt.Errorf("%w, not %d/%d", ErrMeter, m.Beats, m.Unit)
	}
	return nil
}

// BeatTicks is the length of one beat (the meter's unit) in ticks.
func (m Meter) BeatTicks() int { return PPQ * 4 / m.Unit }

// BarTicks is the length of one bar in ticks: n·4/d quarters.
func (m Meter) BarTicks() int { return m.Beats * m.BeatTicks() }

// ParseMeter reads a meter written as 7/8.
func ParseMeter(text string) (m Meter, err error) {
	if n, err := fmt.Sscanf(text+" ", "%d/%d ", &m.Beats, &m.Unit); n != 2 || err != nil {
		return m, fmt.Errorf("%w, not %q", ErrMeter, text)
	}
	return m, m.Check()
}

func (m Meter) String() string { return fmt.Sprintf("%d/%d", m.Beats, m.Unit) }

// Grid is a note value that divides a bar: 1/Value, straight, triplet or dotted.
// Its text form is "1/16", "1/8t" or "1/8d".
type Grid string

// Sixteenths is the grid a new pattern begins with.
const Sixteenths Grid = "1/16"

var gridTicks = func() map[Grid]int {
	m := map[Grid]int{}
	for _, v := range []int{4, 8, 16, 32, 64} {
		straight := PPQ * 4 / v
		name := fmt.Sprintf("1/%d", v)
		m[Grid(name)] = straight
		m[Grid(name+"t")] = straight * 2 / 3
		m[Grid(name+"d")] = straight * 3 / 2
	}
	return m
}()

// Grids are the grids that are offered, coarse to fine, dotted ones last.
func Grids() []Grid {
	return []Grid{"1/4", "1/8", "1/8t", "1/16", "1/16t", "1/32", "1/32t", "1/64", "1/4d", "1/8d", "1/16d"}
}

// Ticks is the length of one cell of the grid in ticks; ErrGrid when the grid is unknown.
func (g Grid) Ticks() (int, error) {
	t, ok := gridTicks[g]
	if !ok {
		return 0, fmt.Errorf("%w, not %q", ErrGrid, string(g))
	}
	return t, nil
}

// NearestLine is the grid line nearest to tick, for cells of cell ticks; the earlier one on a tie
// is never taken, so a hit exactly between two lines belongs to the later.
func NearestLine(tick, cell int) int {
	return int(math.Floor(float64(tick)/float64(cell)+0.5)) * cell
}

// TuneRate is the playback rate that shifts a sound by semitones: 2^(n/12).
func TuneRate(semitones float64) float64 { return math.Exp2(semitones / 12) }

// NoteName spells a MIDI note, sharps only, with middle C (note 60) in octave middleCOctave
// (3, 4 or 5). The number always goes before it where it is shown.
func NoteName(note, middleCOctave int) string {
	names := [...]string{"C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"}
	return fmt.Sprintf("%s%d", names[note%12], note/12-5+middleCOctave)
}

// ErrNote is returned for words that are no note.
var ErrNote = errors.New("a note is a number from 0 to 127, or a name like C2 or F#3")

// ParseNote reads a note as a number, or as a name with middle C (note 60) in octave middleCOctave.
func ParseNote(text string, middleCOctave int) (int, error) {
	s := strings.ToLower(strings.TrimSpace(text))
	n, err := strconv.Atoi(s)
	if err != nil {
		if s == "" {
			return 0, ErrNote
		}
		step := strings.IndexByte("c d ef g a b", s[0])
		if step < 0 || s[0] == ' ' {
			return 0, fmt.Errorf("%w, not %q", ErrNote, text)
		}
		rest := s[1:]
		if after, ok := strings.CutPrefix(rest, "#"); ok {
			step, rest = step+1, after
		} else if after, ok := strings.CutPrefix(rest, "b"); ok {
			step, rest = step-1, after
		}
		octave, err := strconv.Atoi(rest)
		if err != nil || octave < -10 || octave > 20 {
			return 0, fmt.Errorf("%w, not %q", ErrNote, text)
		}
		n = (octave-middleCOctave+5)*12 + step
	}
	if n < 0 || n > 127 {
		return 0, fmt.Errorf("%w, not %q", ErrNote, text)
	}
	return n, nil
}
