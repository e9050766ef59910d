package music

import (
	"errors"
	"fmt"
)

// Scale names a row of pitches: semitones above its first, within an octave.
type Scale string

// scales are the steps of each scale within an octave, as theory books give them (Piston, Harmony, 1941; from memory).
var scales = []struct {
	name  Scale
	steps []int
}{
	{"semitones", []int{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11}},
	{"major", []int{0, 2, 4, 5, 7, 9, 11}},
	{"minor", []int{0, 2, 3, 5, 7, 8, 10}},
	{"minor, five notes", []int{0, 3, 5, 7, 10}},
	{"fifths and octaves", []int{0, 7}},
}

// ErrScale is a scale that is not known.
var ErrScale = errors.New("this scale is not known")

// Scales are the scales there are.
func Scales() []Scale {
	out := make([]Scale, len(scales))
	for i, s := range scales {
		out[i] = s.name
	}
	return out
}

// Degree is how many semitones above its first the n-th pitch of a scale lies, n counting from 0 and through octaves, below 0 downwards.
func (s Scale) Degree(n int) (int, error) {
	for _, known := range scales {
		if known.name == s {
			size := len(known.steps)
			octave := n / size
			if n%size < 0 {
				octave--
			}
			return 12*octave + known.steps[n-octave*size], nil
		}
	}
	return 0, fmt.Errorf("%w: %q; there are %v", ErrScale, s, Scales())
}
