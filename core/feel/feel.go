// Package feel is what is laid over a pattern when it plays and never written into its hits.
package feel

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"

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
}

// Humanise moves every stroke by a chance amount, the same each time for the same seed.
type Humanise struct {
	TimeMS   float64 `json:"timeMS" minimum:"0" maximum:"40"`   // up to so much earlier or later, 0..40
	Velocity float64 `json:"velocity" minimum:"0" maximum:"60"` // up to so much softer or harder, 0..60
	Seed     uint32  `json:"seed"`
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
	return nil
}

// Stroke is how much later a stroke sounds, in ms, beside the swing, and the velocity it is played with: the lane's
// lean and what chance adds to both. Which stroke of its hit it is (0 for the first) enters the chance.
func (f Feel) Stroke(note, tick, which, velocity int) (lateMS float64, played int) {
	lateMS, played = f.LaneLeanMS[note], velocity
	h := f.Humanise
	if h.TimeMS == 0 && h.Velocity == 0 {
		return lateMS, played
	}
	rng := rand.New(rand.NewPCG(uint64(h.Seed), uint64(note)<<48|uint64(which)<<40|uint64(uint32(tick))))
	lateMS += (2*rng.Float64() - 1) * h.TimeMS
	played = min(127, max(1, velocity+int(math.Round((2*rng.Float64()-1)*h.Velocity))))
	return lateMS, played
}

// Shift is how many ticks later the feel makes a tick sound. A hit on or nearest to an off-cell
// line moves with that line; the hit's own lean is kept.
func (f Feel) Shift(tick int) float64 {
	cell, err := f.Swing.Grid.Ticks()
	if err != nil {
		return 0
	}
	line := int(math.Floor(float64(tick)/float64(cell) + 0.5))
	if line&1 == 0 {
		return 0
	}
	return (f.Swing.Percent/50 - 1) * float64(cell)
}

// Straightened is no feel but the grid it swung on: what was played already has its own.
func (f Feel) Straightened() Feel { return Feel{Swing: Swing{50, f.Swing.Grid}} }
