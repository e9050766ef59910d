package music

import (
	"errors"
	"testing"
)

// The degrees of scales as theory books write them: the eighth of seven is the octave, the one below the first is the leading tone.
func TestScalesClimbThroughOctaves(t *testing.T) {
	for _, c := range []struct {
		scale Scale
		from  int
		want  []int
	}{
		{"semitones", -2, []int{-2, -1, 0, 1, 2}},
		{"major", -1, []int{-1, 0, 2, 4, 5, 7, 9, 11, 12, 14}},
		{"minor", 0, []int{0, 2, 3, 5, 7, 8, 10, 12}},
		{"minor, five notes", -5, []int{-12, -9, -7, -5, -2, 0, 3}},
		{"fifths and octaves", -3, []int{-17, -12, -5, 0, 7, 12}},
	} {
		for i, want := range c.want {
			if got, err := c.scale.Degree(c.from + i); err != nil || got != want {
				t.Errorf("%s, degree %d: %d, not %d (%v)", c.scale, c.from+i, got, want, err)
			}
		}
	}
	if _, err := Scale("blue").Degree(0); !errors.Is(err, ErrScale) {
		t.Errorf("an unknown scale: %v", err)
	}
}
