package song

import (
	"math/rand/v2"
	"slices"
	"testing"

	"hexachord/core/music"
	"hexachord/core/pattern"
)

func kicks(ticks ...int) []pattern.Hit {
	var out []pattern.Hit
	for _, t := range ticks {
		out = append(out, pattern.Hit{Note: 36, Tick: t, Velocity: 100})
	}
	return out
}

// A hit a little before a line is the next bar's; bars of other meters are as long as these.
func TestBarsOfALongTake(t *testing.T) {
	c := NewClock(Song{Meters: []Meter{{1, music.Meter{Beats: 3, Unit: 4}}}}, 100)
	bars := Bars(kicks(0, 3840-30, 3840+2880, 3840+2880-500, 99999), c, 3)
	for i, want := range [][]int{{0}, {-30, 2380}, {0}} {
		var got []int
		for _, h := range bars[i].Hits {
			got = append(got, h.Tick)
		}
		if !slices.Equal(got, want) {
			t.Errorf("bar %d has %v, not %v", i+1, got, want)
		}
	}
	if bars[1].Meter.Beats != 3 || bars[0].Meter.Beats != 4 {
		t.Error("meters")
	}
}

// Equal bars share a number; within limits a hand may be late, harder, and leave one in ten out, but not more.
func TestAlikeBarsShareAPattern(t *testing.T) {
	many := make([]int, 12)
	for i := range many {
		many[i] = i * 320
	}
	of := func(hits []pattern.Hit) Bar { return Bar{music.CommonTime, hits} }
	a, late, fewer, half, other := of(kicks(many...)), of(kicks(many...)), of(kicks(many[1:]...)), of(kicks(many[6:]...)), of(kicks(many...))
	late.Hits = slices.Clone(late.Hits)
	for i := range late.Hits {
		late.Hits[i].Tick += 40
		late.Hits[i].Velocity = 60
	}
	other.Hits = slices.Clone(other.Hits)
	for i := range other.Hits {
		other.Hits[i].Note = 38
	}
	bars := []Bar{a, a, late, fewer, half, other, a}
	if got := Same.Groups(bars); !slices.Equal(got, []int{0, 0, 2, 3, 4, 5, 0}) {
		t.Errorf("equal: %v", got)
	}
	if got := AsPlayed.Groups(bars); !slices.Equal(got, []int{0, 0, 0, 0, 4, 5, 0}) {
		t.Errorf("as played: %v", got)
	}
	far := of(kicks(many...))
	far.Hits = slices.Clone(far.Hits)
	for i := range far.Hits {
		far.Hits[i].Tick += 100
	}
	if AsPlayed.Alike(a, far) {
		t.Error("a bar of which every hit lies elsewhere is alike")
	}
	if odd := (Bar{music.Meter{Beats: 7, Unit: 8}, a.Hits}); AsPlayed.Alike(a, odd) {
		t.Error("bars of two meters are alike")
	}
}

// Of a song whose sections are known, verse, chorus, verse and bridge with a hand's variation, each beginning is proposed and nothing else.
func TestWhereSectionsBegin(t *testing.T) {
	rng := rand.New(rand.NewPCG(20, 0))
	play := func(note int, cells ...int) (out []pattern.Hit) {
		for _, c := range cells {
			if rng.Float64() < 0.06 {
				continue
			}
			out = append(out, pattern.Hit{Note: note, Tick: c*240 + rng.IntN(30) - 15, Velocity: 80 + rng.IntN(30)})
		}
		return out
	}
	var bars []Bar
	for _, s := range []struct {
		kind, bars int
	}{{0, 8}, {1, 8}, {0, 8}, {2, 4}} {
		for range s.bars {
			var h []pattern.Hit
			switch s.kind {
			case 0:
				h = slices.Concat(play(36, 0, 7, 10), play(38, 4, 12), play(42, 0, 2, 4, 6, 8, 10, 12, 14))
			case 1:
				h = slices.Concat(play(36, 0, 4, 8, 12), play(38, 4, 12), play(51, 0, 4, 6, 8, 12, 14), play(49, 0))
			default:
				h = slices.Concat(play(45, 0, 3, 6, 9, 12), play(48, 2, 8, 14))
			}
			bars = append(bars, Bar{music.CommonTime, h})
		}
	}
	if got := Begins(bars); !slices.Equal(got, []int{0, 8, 16, 24}) {
		t.Errorf("sections begin at %v", got)
	}
	if got := Begins(nil); !slices.Equal(got, []int{0}) {
		t.Errorf("of nothing: %v", got)
	}
}
