package kit

import (
	"fmt"
	"slices"
)

// Point is a corner of a drawn curve.
type Point struct {
	AtMS  float64 `json:"atMS"` // from the region's start as it sounds, before it is tuned
	Value float64 `json:"value"`
}

// Drawn is a curve over a sound's own time: straight lines between its points, which are in the order of time; level before the first
// and after the last. None is no curve.
type Drawn []Point

// MaxPoints is the most a curve has.
const MaxPoints = 64

// SilenceDB is the level at which a drawn curve is silent.
const SilenceDB = -60

// At is the curve's value at a time, ms; none is 0.
func (c Drawn) At(ms float64) float64 {
	if len(c) == 0 {
		return 0
	}
	i, _ := slices.BinarySearchFunc(c, ms, func(p Point, at float64) int {
		if p.AtMS <= at {
			return -1
		}
		return 1
	}) // the first point after ms
	switch {
	case i == 0:
		return c[0].Value
	case i == len(c):
		return c[i-1].Value
	}
	a, b := c[i-1], c[i]
	return a.Value + (b.Value-a.Value)*(ms-a.AtMS)/(b.AtMS-a.AtMS)
}

// GainAt is the amplitude factor of a curve of dB at a time: 1 without one, 0 at SilenceDB.
func (c Drawn) GainAt(ms float64) float64 {
	if len(c) == 0 {
		return 1
	}
	if db := c.At(ms); db > SilenceDB {
		return DBToGain(db)
	}
	return 0
}

// EndMS is when the curve comes to rest.
func (c Drawn) EndMS() float64 {
	if len(c) == 0 {
		return 0
	}
	return c[len(c)-1].AtMS
}

func (c Drawn) check(in, what string, lo, hi float64) error {
	if len(c) > MaxPoints {
		return fmt.Errorf("%w: the drawn %s of %s has %d points, at most %d are kept", ErrKit, what, in, len(c), MaxPoints)
	}
	for i, p := range c {
		if err := within(in, bound{"drawn " + what, p.Value, lo, hi}, bound{"time of a point", p.AtMS, 0, longestCurveMS}); err != nil {
			return err
		}
		if i > 0 && p.AtMS <= c[i-1].AtMS {
			return fmt.Errorf("%w: the points of the drawn %s of %s are not in the order of time", ErrKit, what, in)
		}
	}
	return nil
}

// longestCurveMS bounds where a point lies: an hour.
const longestCurveMS = 3_600_000
