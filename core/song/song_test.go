package song

import (
	"math"
	"testing"

	"hexachord/core/music"
)

func near(t *testing.T, words string, got, want float64) {
	t.Helper()
	if math.Abs(got-want) > 1e-9*math.Max(1, math.Abs(want)) {
		t.Errorf("%s: %.12g, not %.12g", words, got, want)
	}
}

// Worked by hand: two bars of 4/4 and one of 7/8 at 120 BPM, then four bars of 6/8 in which the tempo glides from 90 to 120 BPM, then 120.
// A quarter note at 120 is half a second: the bars begin at 0, 2, 4 and 4 + 7/8·2 = 5.75 s. A bar of 6/8 is three quarter notes; over the
// twelve of the glide BPM(q) = 90 + 30·q/12, and ∫ 60/BPM dq = 60·12/30·ln(BPM/90) = 24·ln(1 + q/36).
func TestASongsBarsByHand(t *testing.T) {
	c := NewClock(Song{
		Tempos: []Tempo{{0, 120, false}, {3, 90, true}, {7, 120, false}},
		Meters: []Meter{{2, music.Meter{Beats: 7, Unit: 8}}, {3, music.Meter{Beats: 6, Unit: 8}}, {8, music.CommonTime}},
	}, 92)
	for bar, want := range []float64{0, 2, 4, 5.75, 5.75 + 24*math.Log(39.0/36), 5.75 + 24*math.Log(42.0/36), 5.75 + 24*math.Log(45.0/36), 5.75 + 24*math.Log(48.0/36),
		5.75 + 24*math.Log(48.0/36) + 1.5, 5.75 + 24*math.Log(48.0/36) + 1.5 + 2} {
		near(t, "bar "+string(rune('1'+bar)), c.Seconds(float64(c.Tick(bar))), want)
	}
	if c.Tick(3) != 2*4*960+7*480 || c.Tick(4)-c.Tick(3) != 6*480 || c.Bar(c.Tick(3)) != 3 || c.Bar(c.Tick(3)-1) != 2 {
		t.Errorf("bars begin at ticks %d, %d", c.Tick(3), c.Tick(4))
	}
	near(t, "tempo in the middle of the glide", c.BPM(float64(c.Tick(5))), 105)
	near(t, "tempo after it", c.BPM(float64(c.Tick(8))), 120)
	if m := c.MeterAt(2); m.Beats != 7 {
		t.Errorf("bar 3 is in %+v", m)
	}
	for tick := -480.0; tick < float64(c.Tick(10)); tick += 97 {
		near(t, "there and back", c.Ticks(c.Seconds(tick)), tick)
	}
	// the closed form against a sum of small steps
	sum := 0.0
	for tick := c.Tick(3); tick < c.Tick(7); tick++ {
		sum += music.SecondsPerTick(c.BPM(float64(tick) + 0.5))
	}
	if got := c.Seconds(float64(c.Tick(7))) - c.Seconds(float64(c.Tick(3))); math.Abs(got-sum) > 1e-6 {
		t.Errorf("the glide lasts %.9f s, summed tick by tick %.9f", got, sum)
	}
	plain := NewClock(Song{}, 92)
	near(t, "without tempi the project's holds", plain.Seconds(float64(plain.Tick(10))), 40*60.0/92)
}

// What is taken out of a block leaves its head as it was, and its tail going on where it would have been.
func TestABlockGivesWay(t *testing.T) {
	b := Block{Pattern: "p", Bar: 4, Bars: 8, FromBar: 1}
	for _, c := range []struct {
		from, to int
		want     [][3]int // bar, bars, from bar
	}{{0, 4, [][3]int{{4, 8, 1}}}, {12, 20, [][3]int{{4, 8, 1}}}, {0, 6, [][3]int{{6, 6, 3}}}, {10, 20, [][3]int{{4, 6, 1}}},
		{6, 7, [][3]int{{4, 2, 1}, {7, 5, 4}}}, {0, 20, nil}} {
		got := b.Without(c.from, c.to)
		if len(got) != len(c.want) {
			t.Errorf("without %d to %d: %+v", c.from, c.to, got)
			continue
		}
		for i, g := range got {
			if [3]int{g.Bar, g.Bars, g.FromBar} != c.want[i] {
				t.Errorf("without %d to %d: %+v", c.from, c.to, got)
			}
		}
	}
}

func TestWhatNoSongCanHold(t *testing.T) {
	for words, bad := range map[string]interface{ Check() error }{
		"nothing to play":       Block{Bars: 1},
		"two things to play":    Block{Pattern: "a", Recording: "b", Bars: 1},
		"no bars":               Block{Pattern: "a"},
		"beyond the end":        Block{Pattern: "a", Bar: MaxBars - 1, Bars: 2},
		"a note that is none":   Block{Pattern: "a", Bars: 1, LeftOut: []int{128}},
		"a level that is none":  Block{Recording: "a", Bars: 1, LevelDB: math.NaN()},
		"a section of no name":  Section{Bars: 1},
		"tempi out of order":    Song{Tempos: []Tempo{{4, 90, false}, {2, 80, false}}},
		"a tempo out of range":  Song{Tempos: []Tempo{{0, 4000, false}}},
		"two meters at one bar": Song{Meters: []Meter{{1, music.CommonTime}, {1, music.CommonTime}}},
		"a meter that is none":  Song{Meters: []Meter{{0, music.Meter{Beats: 0, Unit: 4}}}},
	} {
		if bad.Check() == nil {
			t.Errorf("%s is taken", words)
		}
	}
}
