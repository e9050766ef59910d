package hear

import (
	"context"

	"hexachord/core/sound"
)

// Attack is a moment at which something was struck.
type Attack struct {
	TimeS    float64 `json:"time"`     // seconds from the first frame
	Strength float64 `json:"strength"` // against the recording's typical stroke, which is 1
}

// Attacks finds where strokes begin, at least minGapS apart (of two too near the stronger stays), leaving out those
// weaker than least (0..1).
func Attacks(ctx context.Context, b sound.Buffer, least, minGapS float64) ([]Attack, error) {
	if b.Peak() == 0 {
		return nil, nil
	}
	e, err := Examine(ctx, b, nil)
	if err != nil {
		return nil, err
	}
	var out []Attack
	for _, o := range e.onsets {
		n := len(out)
		switch {
		case o.strength < least:
		case n > 0 && o.timeS-out[n-1].TimeS < minGapS:
			if o.strength > out[n-1].Strength {
				out[n-1] = Attack{o.timeS, o.strength}
			}
		default:
			out = append(out, Attack{o.timeS, o.strength})
		}
	}
	return out, nil
}
