package music

import (
	"errors"
	"math"
	"testing"
)

// A sixteenth lasts 60/BPM/4 seconds (common practice, no source).
func TestSixteenthsInMilliseconds(t *testing.T) {
	for bpm, want := range map[float64]float64{82: 182.93, 90: 166.67, 140: 107.14} {
		if got := Seconds(PPQ/4, bpm) * 1000; math.Abs(got-want) > 0.005 {
			t.Errorf("a sixteenth at %g BPM is %.3f ms, want %.2f", bpm, got, want)
		}
	}
}

// Equal temperament: an octave is 2, a semitone 2^(1/12), a fifth 1.498307 (handbook value).
func TestPitch(t *testing.T) {
	if got := TuneRate(7); math.Abs(got-1.498307) > 1e-6 {
		t.Errorf("a fifth is %g, want 1.498307", got)
	}
}

func TestNoteNamesFollowTheOctaveConvention(t *testing.T) {
	for _, c := range []struct {
		note, middle int
		want         string
	}{{36, 4, "C2"}, {69, 4, "A4"}, {36, 3, "C1"}, {69, 3, "A3"}, {42, 4, "F#2"}, {0, 5, "C0"}} {
		if got := NoteName(c.note, c.middle); got != c.want {
			t.Errorf("note %d with middle C = C%d is %s, want %s", c.note, c.middle, got, c.want)
		}
	}
}

func TestGridsAndMeters(t *testing.T) {
	for g, want := range map[Grid]int{"1/4": 960, "1/8": 480, "1/8t": 320, "1/8d": 720, "1/16": 240, "1/64": 60} {
		if got, err := g.Ticks(); err != nil || got != want {
			t.Errorf("%s is %d ticks (%v), want %d", g, got, err, want)
		}
	}
	if _, err := Grid("1/7").Ticks(); !errors.Is(err, ErrGrid) {
		t.Errorf("grid 1/7: %v, want ErrGrid", err)
	}
	if got := (Meter{6, 8}).BarTicks(); got != 3*PPQ {
		t.Errorf("a bar of 6/8 is %d ticks, want three quarters", got)
	}
	if err := (Meter{4, 3}).Check(); !errors.Is(err, ErrMeter) {
		t.Errorf("4/3: %v, want ErrMeter", err)
	}
	for _, bpm := range []float64{19.9, 400.1, math.NaN(), math.Inf(1)} {
		if err := CheckBPM(bpm); !errors.Is(err, ErrTempo) {
			t.Errorf("%g BPM: %v, want ErrTempo", bpm, err)
		}
	}
}

// A hit belongs to its nearest line, before the first one too.
func TestNearestLine(t *testing.T) {
	for tick, want := range map[int]int{0: 0, 119: 0, 120: 240, -119: 0, -121: -240, 250: 240} {
		if got := NearestLine(tick, 240); got != want {
			t.Errorf("tick %d belongs to %d, want %d", tick, got, want)
		}
	}
}

// Common practice, no source: 36 is C2 and 69 A4 where middle C is C4, C1 and A3 where it is C3.
func TestNotesAreReadAsTheyAreNamed(t *testing.T) {
	for _, c := range []struct {
		text    string
		middleC int
		want    int
	}{{"36", 4, 36}, {"C2", 4, 36}, {"a4", 4, 69}, {"C1", 3, 36}, {"A3", 3, 69}, {"C3", 5, 36}, {"F#2", 4, 42}, {"gb2", 4, 42}, {"D2", 4, 38}, {"E2", 4, 40},
		{"C3", 4, 48}, {"D3", 4, 50}, {"E3", 4, 52}, {"c-1", 4, 0}, {"G9", 4, 127}} {
		if got, err := ParseNote(c.text, c.middleC); err != nil || got != c.want {
			t.Errorf("%s with middle C%d is %d (%v), want %d", c.text, c.middleC, got, err, c.want)
		}
	}
	for n := range 128 {
		for octave := 3; octave <= 5; octave++ {
			if got, err := ParseNote(NoteName(n, octave), octave); err != nil || got != n {
				t.Errorf("%s read back is %d (%v), want %d", NoteName(n, octave), got, err, n)
			}
		}
	}
	for _, text := range []string{"", "128", "-1", "H2", "C", "C99", "36.5"} {
		if _, err := ParseNote(text, 4); !errors.Is(err, ErrNote) {
			t.Errorf("%q: %v", text, err)
		}
	}
}
