// Package feel is what is laid over a pattern when it plays and never written into its hits.
package feel

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"

	"hexachord/core/music"
)

// Swing is the share of a pair of grid cells that the first one takes, in percent: 50 is straight,
// 66.7 triplet, 75 dotted (MIDI-sequencer practice). It moves off-cells only.
type Swing struct {
	Percent float64    `json:"percent" minimum:"50" maximum:"75"`
	Grid    music.Grid `json:"grid"` // 1/8 or 1/16
}

// Feel is laid over a pattern when it plays.
type Feel struct {
	Swing Swing `json:"swing"`
	// LaneLeanMS is how much later a note's lane plays than it is written, ms, −100..100 ("hats late").
	LaneLeanMS map[int]float64 `json:"laneLeanMS,omitempty"`
	Humanise   Humanise        `json:"humanise"`
	Groove     GrooveUse       `json:"groove"`
	// Shares are how much of the rest each lane (by note) follows; a lane that is not named follows it all.
	Shares map[int]Share `json:"shares,omitempty"`

	groove *Groove
}

// Share is how much of swing, groove and humanising one lane follows, percent.
type Share struct {
	Swing    float64 `json:"swing" minimum:"0" maximum:"100"`
	Groove   float64 `json:"groove" minimum:"0" maximum:"100"`
	Humanise float64 `json:"humanise" minimum:"0" maximum:"100"`
}

// GrooveUse says which groove is laid over, and how strongly.
type GrooveUse struct {
	ID       string  `json:"id"`                                 // of the project's groove, "" = none
	Time     float64 `json:"time" minimum:"0" maximum:"100"`     // percent of its leans
	Velocity float64 `json:"velocity" minimum:"0" maximum:"100"` // percent of its accents
	// NoSwing sets the swing aside: a groove has its own.
	NoSwing bool `json:"noSwing"`
}

// With is the feel with the groove it names.
func (f Feel) With(g *Groove) Feel {
	f.groove = g
	return f
}

// share is how much a lane follows, as factors.
func (f Feel) share(note int) (swing, groove, humanise float64) {
	s, ok := f.Shares[note]
	if !ok {
		return 1, 1, 1
	}
	return s.Swing / 100, s.Groove / 100, s.Humanise / 100
}

// Humanise moves every stroke by a chance amount, the same each time for the same seed.
type Humanise struct {
	TimeMS   float64 `json:"timeMS" minimum:"0" maximum:"40"`   // up to so much earlier or later, 0..40
	Velocity float64 `json:"velocity" minimum:"0" maximum:"60"` // up to so much softer or harder, 0..60
	Seed     uint32  `json:"seed" minimum:"0" maximum:"4294967295"`
}

// Straight is no feel at all.
var Straight = Feel{Swing: Swing{50, music.Sixteenths}}

// Errors of Feel.Check: a lean or a humanising out of range, a swing that cannot be played.
var (
	ErrFeel  = errors.New("a lane leans up to 100 ms, strokes are humanised by up to 40 ms and 60 of velocity")
	ErrSwing = errors.New("swing must lie between 50 and 75 % at 1/8 or 1/16")
)

// Check reports ErrSwing or ErrFeel.
func (f Feel) Check() error {
	gridOK := f.Swing.Grid == "1/8" || f.Swing.Grid == "1/16"
	if !(f.Swing.Percent >= 50 && f.Swing.Percent <= 75) || !gridOK {
		return fmt.Errorf("%w, not %g %% at %s", ErrSwing, f.Swing.Percent, f.Swing.Grid)
	}
	for note, ms := range f.LaneLeanMS {
		if note < 0 || note > 127 || !(math.Abs(ms) <= 100) {
			return fmt.Errorf("%w, not %g ms on note %d", ErrFeel, ms, note)
		}
	}
	if h := f.Humanise; !(h.TimeMS >= 0 && h.TimeMS <= 40 && h.Velocity >= 0 && h.Velocity <= 60) {
		return fmt.Errorf("%w, not %g ms and %g", ErrFeel, h.TimeMS, h.Velocity)
	}
	percent := func(v float64) bool { return v >= 0 && v <= 100 }
	if !percent(f.Groove.Time) || !percent(f.Groove.Velocity) || len(f.Groove.ID) > 64 {
		return fmt.Errorf("%w; a groove is laid over by 0 to 100 %%", ErrFeel)
	}
	for note, s := range f.Shares {
		if note < 0 || note > 127 || !percent(s.Swing) || !percent(s.Groove) || !percent(s.Humanise) {
			return fmt.Errorf("%w; a lane follows 0 to 100 %% of it", ErrFeel)
		}
	}
	return nil
}

// Stroke is how much later a stroke sounds, in ms, beside what Shift says, and the velocity it is played with: the lane's
// lean, what chance adds to both, and the groove's accent. Which stroke of its hit it is (0 for the first) enters the
// chance.
func (f Feel) Stroke(note, tick, which, velocity int) (lateMS float64, played int) {
	lateMS = f.LaneLeanMS[note]
	_, grooves, humanises := f.share(note)
	v := float64(velocity)
	if g := f.groove; g != nil {
		if c := g.Cells[g.cellAt(float64(tick))]; c.Hits > 0 {
			v *= 1 + (c.Level-1)*f.Groove.Velocity/100*grooves
		}
	}
	if h := f.Humanise; h.TimeMS != 0 || h.Velocity != 0 {
		rng := rand.New(rand.NewPCG(uint64(h.Seed), uint64(note)<<48|uint64(which)<<40|uint64(uint32(tick))))
		lateMS += (2*rng.Float64() - 1) * h.TimeMS * humanises
		v += (2*rng.Float64() - 1) * h.Velocity * humanises
	}
	return lateMS, min(127, max(1, int(math.Round(v))))
}

// Shift is how many ticks later the feel makes a hit sound on a lane whose grid has cells of cell ticks: its swing and its groove. A
// hit on or nearest to a line that moves goes with that line; the hit's own lean is kept.
func (f Feel) Shift(note, tick, cell int) float64 {
	late := f.SwingShift(note, tick, cell)
	if g := f.groove; g != nil {
		_, grooves, _ := f.share(note)
		late += g.Cells[g.cellAt(float64(tick))].LeanTicks * f.Groove.Time / 100 * grooves
	}
	return late
}

// A hit stands on a triplet when it lies on a line of the finest triplet grid that is told (1/16t) and on none of the finest straight
// one (1/64), in ticks.
const (
	tripletCell  = 160
	straightCell = 60
)

// SwingShift is the swing's part of Shift. Swing moves what is written on its own kind of grid only: no lane whose grid neither
// divides the swing's cell nor is made of it (triplets, dotted), and no hit that stands on a triplet.
func (f Feel) SwingShift(note, tick, laneCell int) float64 {
	cell, err := f.Swing.Grid.Ticks()
	if err != nil || f.groove != nil && f.Groove.NoSwing {
		return 0
	}
	if laneCell%cell != 0 && cell%laneCell != 0 || tick%tripletCell == 0 && tick%straightCell != 0 {
		return 0
	}
	line := int(math.Floor(float64(tick)/float64(cell) + 0.5))
	if line&1 == 0 {
		return 0
	}
	swings, _, _ := f.share(note)
	return (f.Swing.Percent/50 - 1) * float64(cell) * swings
}

// Renoted is the feel after lanes took other notes (old → new): what was said of a lane goes with it.
func (f Feel) Renoted(to func(note int) int) Feel {
	f.LaneLeanMS, f.Shares = renoted(f.LaneLeanMS, to), renoted(f.Shares, to)
	return f
}

// renoted are values by note after lanes took other notes; where two meet, the lower one's stays.
func renoted[T any](of map[int]T, to func(note int) int) map[int]T {
	if len(of) == 0 {
		return nil
	}
	out := make(map[int]T, len(of))
	for _, n := range slices.Backward(slices.Sorted(maps.Keys(of))) {
		out[to(n)] = of[n]
	}
	return out
}

// Straightened is no feel but the grid it swung on: what was played already has its own.
func (f Feel) Straightened() Feel { return Feel{Swing: Swing{50, f.Swing.Grid}} }
