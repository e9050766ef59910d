package pattern_test

import (
	"testing"

	"hexachord/core/music"
	"hexachord/core/pattern"
)

// A long pattern in sections keeps every hit: one that leads into a section goes with it, the last section is as long as what is left.
func TestALongPatternInSections(t *testing.T) {
	bar := music.CommonTime.BarTicks()
	p := pattern.Pattern{Name: "take", Bars: 5, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{
		{Note: 36, Tick: 0, Velocity: 100}, {Note: 42, Tick: 2*bar - 200, Velocity: 50}, {Note: 36, Tick: 2*bar - 20, Velocity: 100},
		{Note: 38, Tick: 2*bar + 960, Velocity: 90}, {Note: 36, Tick: 5*bar - 240, Velocity: 80}}}
	row := pattern.Split(p, 2)
	if len(row) != 3 || row[0].Bars != 2 || row[1].Bars != 2 || row[2].Bars != 1 || row[2].Name != "take 3" {
		t.Fatalf("%+v", row)
	}
	for i, want := range [][]int{{0, 2*bar - 200}, {-20, 960}, {bar - 240}} {
		if len(row[i].Hits) != len(want) {
			t.Errorf("section %d: %+v, want ticks %v", i+1, row[i].Hits, want)
			continue
		}
		for k, tick := range want {
			if row[i].Hits[k].Tick != tick {
				t.Errorf("section %d: %+v, want ticks %v", i+1, row[i].Hits, want)
			}
		}
	}
	if whole := pattern.Split(p, 8); len(whole) != 1 || whole[0].Name != "take" || len(whole[0].Hits) != 5 {
		t.Errorf("shorter than a section: %+v", whole)
	}
}
