// Package feel is what is laid over a pattern when it plays and never written into its hits.
package feel

import (
	"errors"
	"fmt"
	"math"

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
}

// Straight is no feel at all.
var Straight = Feel{Swing{50, music.Sixteenths}}

// ErrSwing is returned for a swing that cannot be played.
var ErrSwing = errors.New("swing must lie between 50 and 75 % at 1/8 or 1/16")

// Check reports ErrSwing.
func (f Feel) Check() error {
	gridOK := f.Swing.Grid == "1/8" || f.Swing.Grid == "1/16"
	if !(f.Swing.Percent >= 50 && f.Swing.Percent <= 75) || !gridOK {
		return fmt.Errorf("%w, not %g %% at %s", ErrSwing, f.Swing.Percent, f.Swing.Grid)
	}
	return nil
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

// Straightened is the feel without its swing: what was played already has its own.
func (f Feel) Straightened() Feel {
	f.Swing.Percent = 50
	return f
}
