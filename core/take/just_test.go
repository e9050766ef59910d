package take

import (
	"math"
	"testing"

	"hexachord/core/music"
)

// Of what was just played the fullest whole bars are proposed first, and of two as full those on the grid.
func TestTheBestBarsOfWhatWasJustPlayed(t *testing.T) {
	bar := music.Seconds(3840, 100)
	var strikes []Strike
	for b, hits := range []int{2, 8, 8, 1} {
		for i := range hits {
			at := float64(b)*bar + music.Seconds(float64(i)*480, 100)
			if b == 1 {
				at += 0.03
			}
			strikes = append(strikes, Strike{Note: 36, AtS: at, Velocity: 90})
		}
	}
	if got := Stretches(strikes, 100, music.CommonTime, 1); len(got) != 4 || got[0].FromBar != 2 || len(got[0].Strikes) != 8 || got[0].Near > 0.01 || got[1].FromBar != 1 {
		t.Errorf("one bar: %+v", got)
	}
	if got := Stretches(strikes, 100, music.CommonTime, 2); got[0].FromBar != 1 || len(got[0].Strikes) != 16 || math.Abs(got[0].Strikes[8].AtS-bar) > 1e-9 {
		t.Errorf("two bars: %+v", got)
	}
	if got := Stretches(strikes[:1], 100, music.CommonTime, 4); len(got) != 1 || got[0].FromBar != -3 || math.Abs(got[0].Strikes[0].AtS-3*bar) > 1e-9 {
		t.Errorf("longer than what was played: %+v", got)
	}
}

// What leads into a bar is its own, a little before it; only the newest time something played counts, or the newest time nothing did, then
// from the first strike on.
func TestWhatWasJustPlayedCountsFromABarLine(t *testing.T) {
	since := func(s float64) *float64 { return &s }
	heard := func(at float64, since *float64) Heard {
		return Heard{Strike: Strike{Note: 38, AtS: at, Velocity: 90}, SinceS: since}
	}
	old, now := heard(10, since(1)), []Heard{heard(100, since(2.38)), heard(101, since(3.4))}
	if got := FromBarLine(append([]Heard{old, heard(50, nil)}, now...)); len(got) != 2 || math.Abs(got[0].AtS-2.4) > 1e-9 && math.Abs(got[0].AtS-2.38) > 0.03 {
		t.Errorf("while it played: %+v", got)
	}
	if got := FromBarLine([]Heard{old, heard(50, nil), heard(51.5, nil)}); len(got) != 2 || got[0].AtS != 0 || got[1].AtS != 1.5 {
		t.Errorf("while nothing played: %+v", got)
	}
	if got := FromBarLine(nil); got == nil || len(got) != 0 {
		t.Errorf("nothing: %#v", got)
	}
	lead := []Strike{{Note: 38, AtS: music.Seconds(3840-60, 100), Velocity: 90}}
	if got := Stretches(lead, 100, music.CommonTime, 1); len(got) != 1 || got[0].FromBar != 1 || got[0].Strikes[0].AtS >= 0 {
		t.Errorf("leading into bar 2: %+v", got)
	}
}
