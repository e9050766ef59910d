package pattern

import (
	"errors"
	"slices"
	"testing"
)

func groove() Pattern {
	p := empty(4)
	for bar := range 4 {
		for i := range 8 {
			p.Hits = append(p.Hits, Hit{Note: 42, Tick: bar*3840 + i*480, Velocity: 90})
		}
		p.Hits = append(p.Hits, Hit{Note: 36, Tick: bar * 3840, Velocity: 118}, Hit{Note: 38, Tick: bar*3840 + 960, Velocity: 112}, Hit{Note: 38, Tick: bar*3840 + 2880, Velocity: 112})
	}
	SortHits(p.Hits)
	return p
}

func inBar(p Pattern, bar int, keep func(Hit) bool) (out []Hit) {
	for _, h := range p.Hits {
		if h.Tick/3840 == bar && keep(h) {
			out = append(out, h)
		}
	}
	return out
}

func TestVaryingABarKeepsItsBeatsAndTheOtherBars(t *testing.T) {
	p := groove()
	for seed := range uint64(40) {
		next, change, err := Apply(p, Edit{Vary: &Vary{Bar: 2, Seed: seed}})
		if err != nil || next.Check() != nil {
			t.Fatal(err, next.Check())
		}
		if change.Empty() {
			t.Errorf("seed %d varies nothing", seed)
		}
		for bar := range 4 {
			same := slices.Equal(inBar(p, bar, func(Hit) bool { return true }), inBar(next, bar, func(Hit) bool { return true }))
			if same != (bar != 2) {
				t.Errorf("seed %d: bar %d the same: %v", seed, bar+1, same)
			}
		}
		onBeat := func(h Hit) bool { return h.Tick%960 == 0 }
		if !slices.Equal(inBar(p, 2, onBeat), inBar(next, 2, onBeat)) {
			t.Errorf("seed %d changes a stroke on a beat", seed)
		}
		again := mustApply(t, p, Edit{Vary: &Vary{Bar: 2, Seed: seed}})
		if !slices.Equal(again.Hits, next.Hits) {
			t.Error("the same seed varies otherwise")
		}
	}
}

func TestAFillRunsThroughItsLanesAndRises(t *testing.T) {
	p := mustApply(t, groove(), Edit{FillBar: &FillBar{Bar: 3, Notes: []int{38, 48, 45}, Seed: 1}})
	fill := inBar(p, 3, func(h Hit) bool { return h.Tick >= 3*3840+1920 && h.Note != 42 && h.Note != 36 })
	if len(fill) < 5 || fill[0].Note != 38 || fill[len(fill)-1].Note != 45 {
		t.Fatalf("the fill is %v", fill)
	}
	for i := 1; i < len(fill); i++ {
		if order := []int{38, 48, 45}; slices.Index(order, fill[i].Note) < slices.Index(order, fill[i-1].Note) {
			t.Errorf("it turns back: %v", fill)
		}
	}
	if !slices.Equal(inBar(p, 3, func(h Hit) bool { return h.Tick < 3*3840+1920 }), inBar(groove(), 3, func(h Hit) bool { return h.Tick < 3*3840+1920 })) {
		t.Error("the first half of the bar has changed")
	}
	if _, _, err := Apply(p, Edit{FillBar: &FillBar{Bar: 3}}); !errors.Is(err, ErrPattern) {
		t.Errorf("a fill on no lanes: %v", err)
	}
}

func TestDoublingRepeatingAndLengths(t *testing.T) {
	p := mustApply(t, groove(), Edit{Double: &Double{}})
	if p.Bars != 8 || len(p.Hits) != 2*len(groove().Hits) || !slices.Equal(inBar(p, 1, func(Hit) bool { return true }), inBar(groove(), 1, func(Hit) bool { return true })) {
		t.Errorf("doubled: %d bars, %d hits", p.Bars, len(p.Hits))
	}
	if _, _, err := Apply(Pattern{Name: "x", Bars: 40, Meter: p.Meter, Grid: p.Grid}, Edit{Double: &Double{}}); !errors.Is(err, ErrPattern) {
		t.Errorf("80 bars: %v", err)
	}
	p = mustApply(t, empty(1), Edit{Hits: &Hits{Put: []Hit{{Note: 36, Tick: 10, Velocity: 100}, {Note: 42, Tick: 240, Velocity: 80}, {Note: 45, Tick: 1920, Velocity: 60}}}})
	r := mustApply(t, p, Edit{Repeat: &Repeat{About: About{Only: []Key{{36, 10}, {42, 240}}}, By: 960}})
	if len(r.Hits) != 9 || r.Hits[7].Tick != 2890 || r.Hits[8].Tick != 3120 {
		t.Errorf("repeated each beat: %v", r.Hits)
	}
	l := mustApply(t, r, Edit{Lengths: &Lengths{About: About{Notes: []int{36}}, How: "legato"}})
	for _, h := range l.Hits {
		if want := map[int]int{36: 960}[h.Note]; h.Length != want && h.Tick != 2890 {
			t.Errorf("%v lasts %d, want %d", h.Key(), h.Length, want)
		}
		if h.Tick == 2890 && h.Length != 3840-2890 {
			t.Errorf("the last lasts %d, not to the end", h.Length)
		}
	}
}

// 100 % moves all but what lies within the range; a hit on a lane with triplets goes to the lane's own line.
func TestQuantiseWithinARangeAndOnTheLanesOwnGrid(t *testing.T) {
	p := mustApply(t, empty(1), Edit{Hits: &Hits{Put: []Hit{{Note: 36, Tick: 12, Velocity: 100}, {Note: 36, Tick: 270, Velocity: 100}, {Note: 42, Tick: 300, Velocity: 80}}}})
	p = mustApply(t, p, Edit{Shape: &Shape{Notes: []int{42}, Lane: &LaneGrid{Grid: "1/8t", Cells: 6}}})
	q := mustApply(t, p, Edit{Quantise: &Quantise{Strength: 100, Within: 15}})
	var ticks []int
	for _, h := range q.Hits {
		ticks = append(ticks, h.Tick)
	}
	if !slices.Equal(ticks, []int{12, 240, 320}) {
		t.Errorf("quantised to %v, want 12 (within the range), 240, 320 (a triplet's line)", ticks)
	}
	if q.LoopOf(42) != 6*320 || q.LoopOf(36) != 3840 {
		t.Errorf("the lanes loop after %d and %d ticks", q.LoopOf(42), q.LoopOf(36))
	}
	if _, _, err := Apply(p, Edit{Shape: &Shape{Notes: []int{42}, Lane: &LaneGrid{Grid: "1/7"}}}); !errors.Is(err, ErrPattern) {
		t.Errorf("a lane of sevenths: %v", err)
	}
	// leaning by more than half a cell stops inside it
	if got := mustApply(t, q, Edit{Lean: &Lean{About: About{Only: []Key{{36, 240}}}, By: 500}}).Hits; got[2].Tick != 240+119 {
		t.Errorf("leant to %v", got)
	}
}

// A straight line through ticks 0 to 3840 passes the middle half-way; bent, it stays below it.
func TestVelocitiesAlongALine(t *testing.T) {
	p := mustApply(t, empty(1), Edit{Fill: &Fill{About: About{Notes: []int{42}}, Every: 8, Velocity: 50}})
	p = mustApply(t, p, Edit{Fill: &Fill{About: About{Notes: []int{36}}, Every: 8, Velocity: 50}})
	line := func(bend float64) (out []int) {
		next := mustApply(t, p, Edit{Velocity: &Velocity{About: About{Notes: []int{42}}, How: "line", Amount: 20, To: 100, FromTick: 0, ToTick: 3840, Bend: bend}})
		for _, h := range next.Hits {
			if h.Note == 42 {
				out = append(out, h.Velocity)
			} else if h.Velocity != 50 {
				t.Error("another lane has changed")
			}
		}
		return out
	}
	if got := line(0); !slices.Equal(got, []int{20, 60}) {
		t.Errorf("straight: %v", got)
	}
	if got := line(0.5); got[0] != 20 || got[1] >= 60 {
		t.Errorf("bent: %v", got)
	}
}

func TestCompare(t *testing.T) {
	a := groove()
	if c := Compare(a, a); c.Same != len(a.Hits) || len(c.OnlyA)+len(c.OnlyB)+len(c.Changed) != 0 {
		t.Errorf("a pattern differs from itself: %+v", c)
	}
	b := mustApply(t, a, Edit{Hits: &Hits{Remove: []Key{{36, 0}, {38, 960}}, Put: []Hit{{Note: 38, Tick: 970, Velocity: 99}, {Note: 45, Tick: 240, Velocity: 70}}}})
	c := Compare(a, b)
	if len(c.OnlyA) != 1 || c.OnlyA[0].Note != 36 || len(c.OnlyB) != 1 || c.OnlyB[0].Note != 45 || len(c.Changed) != 1 || c.Changed[0].Tick != 970 {
		t.Errorf("compared: %+v", c)
	}
}
