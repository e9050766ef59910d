package pattern

import (
	"errors"
	"slices"
	"strings"
	"testing"
)

// Toussaint, "The Euclidean Algorithm Generates Traditional Musical Rhythms" (2005), lists these.
func TestBjorklundGivesThePublishedRhythms(t *testing.T) {
	for _, c := range []struct {
		k, n int
		want string
	}{{3, 8, "x..x..x."}, {5, 8, "x.xx.xx."}, {7, 16, "x..x.x.x..x.x.x."}, {2, 5, "x.x.."}, {4, 9, "x.x.x.x.."}, {5, 12, "x..x.x..x.x."},
		{4, 12, "x..x..x..x.."}, {3, 4, "x.xx"}, {1, 4, "x..."}, {4, 4, "xxxx"}, {0, 3, "..."}} {
		var b strings.Builder
		for _, on := range Bjorklund(c.k, c.n) {
			b.WriteByte(map[bool]byte{true: 'x', false: '.'}[on])
		}
		if b.String() != c.want {
			t.Errorf("E(%d,%d) is %s, published as %s", c.k, c.n, b.String(), c.want)
		}
	}
}

func steps(p Pattern, note int) (out []int) {
	for _, h := range p.Hits {
		if h.Note == note {
			out = append(out, (h.Tick-p.Lean(h))/p.CellTicks()+1)
		}
	}
	slices.Sort(out)
	return out
}

// Kick on the beats, backbeat on 2 and 4, two hats a beat: steps 1,5,9,13 / 5,13 / 1,3,…,15.
func TestFillsShiftsAndReverses(t *testing.T) {
	p := mustApply(t, empty(1), Edit{Fill: &Fill{About: About{Notes: []int{36}}, Every: 4, Velocity: 118}})
	p = mustApply(t, p, Edit{Fill: &Fill{About: About{Notes: []int{38}}, Every: 8, Offset: 4, Velocity: 112}})
	p = mustApply(t, p, Edit{Fill: &Fill{About: About{Notes: []int{42}}, Every: 2, Velocity: 90}})
	for note, want := range map[int][]int{36: {1, 5, 9, 13}, 38: {5, 13}, 42: {1, 3, 5, 7, 9, 11, 13, 15}} {
		if got := steps(p, note); !slices.Equal(got, want) {
			t.Errorf("note %d on steps %v, want %v", note, got, want)
		}
	}
	p = mustApply(t, p, Edit{Hits: &Hits{Put: []Hit{{Note: 38, Tick: 4*240 + 9, Velocity: 50}}, Remove: []Key{{38, 4 * 240}}}})
	shifted := mustApply(t, p, Edit{Shift: &Shift{About: About{Notes: []int{38}}, By: -5}})
	if got := steps(shifted, 38); !slices.Equal(got, []int{8, 16}) {
		t.Errorf("five cells earlier, round the bar: %v", got)
	}
	if back := mustApply(t, shifted, Edit{Shift: &Shift{About: About{Notes: []int{38}}, By: 5}}); !slices.Equal(back.Hits, p.Hits) {
		t.Error("there and back is not the same, leans and all")
	}
	turned := mustApply(t, p, Edit{Reverse: &Reverse{About: About{Notes: []int{36}}}})
	if got := steps(turned, 36); !slices.Equal(got, []int{4, 8, 12, 16}) {
		t.Errorf("backwards: %v", got)
	}
	if back := mustApply(t, turned, Edit{Reverse: &Reverse{About: About{Notes: []int{36}}}}); !slices.Equal(back.Hits, p.Hits) {
		t.Error("backwards twice is not the same")
	}
	bars := 4
	long := mustApply(t, mustApply(t, p, Edit{Shape: &Shape{Bars: &bars}}), Edit{Copy: &CopyBars{About: About{FromBar: 0, ToBar: 1}, At: 3}})
	if got := steps(long, 38); !slices.Equal(got, []int{5, 13, 53, 61}) {
		t.Errorf("bar 1 repeated as bar 4: %v", got)
	}
	// 8 bars of hits on beat 4 are 8
	bars = 8
	p = mustApply(t, empty(8), Edit{Fill: &Fill{About: About{Notes: []int{38}}, Every: 16, Offset: 12, Velocity: 100}})
	if got := steps(p, 38); len(got) != 8 || got[0] != 13 {
		t.Errorf("beat 4 of eight bars: %v", got)
	}
}

func TestVelocitiesAreShaped(t *testing.T) {
	p := empty(1)
	for i, v := range []int{100, 60, 30, 110} {
		p.Hits = append(p.Hits, Hit{Note: 38, Tick: i * 480, Velocity: v}) // beats 1 and 2 and what lies between
	}
	for _, c := range []struct {
		s    Velocity
		want []int
	}{
		{Velocity{How: "set", Amount: 77}, []int{77, 77, 77, 77}}, {Velocity{How: "add", Amount: 20}, []int{120, 80, 50, 127}},
		{Velocity{How: "scale", Amount: 50}, []int{50, 30, 15, 55}}, {Velocity{How: "compress", Amount: 100}, []int{75, 75, 75, 75}},
		{Velocity{How: "accent", Amount: 10}, []int{110, 50, 40, 100}}, {Velocity{How: "even", Amount: 105, Ghost: 50}, []int{105, 105, 30, 105}},
	} {
		var got []int
		for _, h := range mustApply(t, p, Edit{Velocity: &c.s}).Hits {
			got = append(got, h.Velocity)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s by %g: %v, want %v", c.s.How, c.s.Amount, got, c.want)
		}
	}
	random := Edit{Velocity: &Velocity{How: "random", Amount: 15, Seed: 3}}
	a, b := mustApply(t, p, random), mustApply(t, p, random)
	if !slices.Equal(a.Hits, b.Hits) || slices.Equal(a.Hits, p.Hits) {
		t.Error("at random, the same for the same seed")
	}
	for _, e := range []Edit{{Velocity: &Velocity{}}, {Velocity: &Velocity{How: "louder"}}, {Fill: &Fill{About: About{Notes: []int{36}}}}, {Fill: &Fill{About: About{Notes: []int{36}}, Every: 2, Velocity: 200}},
		{Copy: &CopyBars{About: About{ToBar: 1}, At: 9}}} {
		if _, _, err := Apply(p, e); !errors.Is(err, ErrPattern) && !errors.Is(err, ErrHit) {
			t.Errorf("%+v: %v", e, err)
		}
	}
}
