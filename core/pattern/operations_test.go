package pattern

import (
	"errors"
	"slices"
	"testing"

	"hexachord/core/feel"
	"hexachord/core/music"
)

func with(bars int, hits ...Hit) Pattern {
	p := empty(bars)
	p.Hits = hits
	SortHits(p.Hits)
	return p
}

func keys(p Pattern) (out []Key) {
	for _, h := range p.Hits {
		out = append(out, h.Key())
	}
	return out
}

func alike(t *testing.T, what string, got, want []Key) {
	t.Helper()
	if !slices.Equal(got, want) {
		t.Errorf("%s: %v, want %v", what, got, want)
	}
}

// A hit late on step 2 of 16 is, played backwards, as late on step 15; one that leads early leads as early.
func TestReversingALaneKeepsTheLean(t *testing.T) {
	p := with(1, Hit{Note: 38, Tick: 240 + 17, Velocity: 90}, Hit{Note: 38, Tick: 4*240 - 12, Velocity: 60}, Hit{Note: 36, Tick: 5, Velocity: 100})
	got := mustApply(t, p, Edit{Reverse: &Reverse{About: About{Notes: []int{38}}}})
	alike(t, "backwards", keys(got), []Key{{36, 5}, {38, 11*240 - 12}, {38, 14*240 + 17}})
	if got.Hits[1].Velocity != 60 {
		t.Error("the velocities did not go with their hits")
	}
}

// A lane of 12 cells in a bar of 16 wraps at its own twelfth; the hits beyond it, which do not sound, wrap round the bar.
func TestShiftingRespectsALanesOwnLoop(t *testing.T) {
	p := with(1, Hit{Note: 42, Tick: 11 * 240, Velocity: 90}, Hit{Note: 36, Tick: 11 * 240, Velocity: 90})
	p.Lanes = map[int]LaneGrid{42: {Cells: 12}}
	if p.LoopOf(42) != 12*240 {
		t.Fatalf("the lane's own length is %d ticks", p.LoopOf(42))
	}
	got := mustApply(t, p, Edit{Shift: &Shift{By: 2}})
	alike(t, "two cells later", keys(got), []Key{{42, 240}, {36, 13 * 240}})
}

// Copied to where only part of it fits, a range keeps what fits; nothing lies beyond the end, nothing outside is touched.
func TestCopyingBarsStaysWithinBounds(t *testing.T) {
	bar := 3840
	p := with(3, Hit{Note: 36, Velocity: 1}, Hit{Note: 38, Tick: bar + 10, Velocity: 2}, Hit{Note: 42, Tick: 2*bar + 960, Velocity: 3})
	got := mustApply(t, p, Edit{Copy: &CopyBars{About: About{FromBar: 0, ToBar: 2}, At: 2}})
	alike(t, "bars 1 and 2 at bar 3 of 3", keys(got), []Key{{36, 0}, {38, bar + 10}, {36, 2 * bar}})
	got = mustApply(t, p, Edit{Copy: &CopyBars{About: About{FromBar: 0, ToBar: 1}, At: 1}})
	alike(t, "bar 1 at bar 2", keys(got), []Key{{36, 0}, {36, bar}, {42, 2*bar + 960}})
	for _, at := range []int{-1, 3, 1 << 60} {
		if _, _, err := Apply(p, Edit{Copy: &CopyBars{About: About{FromBar: 0, ToBar: 1}, At: at}}); !errors.Is(err, ErrPattern) {
			t.Errorf("to bar %d of 3: %v", at+1, err)
		}
	}
	for _, about := range []About{{FromBar: 1 << 62, ToBar: 1<<62 + 1}, {FromBar: 2, ToBar: 1}} {
		next, _, err := Apply(p, Edit{Copy: &CopyBars{About: about, At: 0}})
		if err == nil && !slices.Equal(next.Hits, p.Hits) {
			t.Errorf("bars %d to %d changed the pattern: %v", about.FromBar, about.ToBar, next.Hits)
		}
	}
}

// Repeating a beat's kick takes the place of what its lane has later; other lanes and what is earlier stay.
func TestRepeatingReplacesWhatItLandsOn(t *testing.T) {
	p := with(1, Hit{Note: 36, Velocity: 100}, Hit{Note: 36, Tick: 1000, Velocity: 50}, Hit{Note: 36, Tick: 1920, Velocity: 30},
		Hit{Note: 42, Tick: 1920, Velocity: 70})
	got := mustApply(t, p, Edit{Repeat: &Repeat{About: About{Only: []Key{{36, 0}}}, By: 960}})
	alike(t, "the kick each beat", keys(got), []Key{{36, 0}, {36, 960}, {36, 1920}, {42, 1920}, {36, 2880}})
	if h, _ := got.At(Key{36, 1920}); h.Velocity != 100 {
		t.Errorf("what was there stayed: velocity %d", h.Velocity)
	}
}

// Two lanes that get one note: where their hits meet the harder stays, whichever came first.
func TestOfTwoHitsThatMeetOnANewNoteTheHarderStays(t *testing.T) {
	p := with(1, Hit{Note: 36, Velocity: 100}, Hit{Note: 35, Velocity: 60}, Hit{Note: 36, Tick: 960, Velocity: 20}, Hit{Note: 35, Tick: 960, Velocity: 90})
	got := mustApply(t, p, Edit{Renote: &Renote{Moves: map[int]int{35: 36}}})
	alike(t, "one lane", keys(got), []Key{{36, 0}, {36, 960}})
	if got.Hits[0].Velocity != 100 || got.Hits[1].Velocity != 90 {
		t.Errorf("velocities %d and %d, want the harder 100 and 90", got.Hits[0].Velocity, got.Hits[1].Velocity)
	}
	back := mustApply(t, p, Edit{Renote: &Renote{Moves: map[int]int{35: 36, 36: 35}}})
	if h, _ := back.At(Key{35, 960}); len(back.Hits) != 4 || h.Velocity != 20 {
		t.Errorf("two lanes that change places: %v", back.Hits)
	}
}

// A pattern's own feel and a lane's own grid go along when the lane gets another note.
func TestAPatternsOwnFeelGoesAlongWithANewNote(t *testing.T) {
	p := with(1, Hit{Note: 38, Velocity: 100})
	p.Lanes = map[int]LaneGrid{38: {Cells: 7}}
	p.Feel = &feel.Feel{Swing: feel.Swing{Percent: 58, Grid: music.Sixteenths}, LaneLeanMS: map[int]float64{38: -8, 42: 3},
		Shares: map[int]feel.Share{38: {Swing: 40}}}
	got := mustApply(t, p, Edit{Renote: &Renote{Moves: map[int]int{38: 40}}})
	if got.Feel.LaneLeanMS[40] != -8 || got.Feel.LaneLeanMS[42] != 3 || len(got.Feel.LaneLeanMS) != 2 {
		t.Errorf("leans %v", got.Feel.LaneLeanMS)
	}
	if _, ok := got.Feel.Shares[40]; !ok || len(got.Feel.Shares) != 1 || got.Lanes[40].Cells != 7 || len(got.Lanes) != 1 {
		t.Errorf("shares %v, lanes %v", got.Feel.Shares, got.Lanes)
	}
	if p.Feel.LaneLeanMS[38] != -8 || p.Lanes[38].Cells != 7 {
		t.Error("the pattern before was changed")
	}
}

// A lean is held half a cell from its line, at either side, and to what a pattern may lead by.
func TestLeaningStaysInItsCell(t *testing.T) {
	p := with(1, Hit{Note: 36, Tick: 960, Velocity: 100}, Hit{Note: 36, Velocity: 100})
	late := mustApply(t, p, Edit{Lean: &Lean{By: 500}})
	alike(t, "as late as can be", keys(late), []Key{{36, 119}, {36, 960 + 119}})
	early := mustApply(t, late, Edit{Lean: &Lean{By: -3000}})
	alike(t, "as early as can be", keys(early), []Key{{36, -119}, {36, 960 - 119}})
}

// The line after the last cell is the next pass's first; half strength goes half the way.
func TestQuantisingPastTheEndComesRound(t *testing.T) {
	p := with(1, Hit{Note: 36, Tick: 3840 - 20, Velocity: 100}, Hit{Note: 38, Tick: 980, Velocity: 90})
	full := mustApply(t, p, Edit{Quantise: &Quantise{Strength: 100}})
	alike(t, "to the line", keys(full), []Key{{36, 0}, {38, 960}})
	half := mustApply(t, p, Edit{Quantise: &Quantise{Strength: 50}})
	alike(t, "half the way", keys(half), []Key{{38, 970}, {36, 3830}})
}

// What Clear, Fill and velocities are about is what was named, in lanes, bars and hits.
func TestOperationsAreAboutWhatIsNamed(t *testing.T) {
	bar := 3840
	p := with(2, Hit{Note: 36, Velocity: 100}, Hit{Note: 38, Tick: 10, Velocity: 90}, Hit{Note: 36, Tick: bar - 5, Velocity: 80}, Hit{Note: 38, Tick: bar + 960, Velocity: 70})
	got := mustApply(t, p, Edit{Clear: &Clear{FromBar: 1, ToBar: 2}})
	alike(t, "bar 2 cleared", keys(got), []Key{{36, 0}, {38, 10}, {36, bar - 5}})
	got = mustApply(t, p, Edit{Clear: &Clear{Notes: []int{38}, ToBar: 1}})
	alike(t, "the snare of bar 1 cleared", keys(got), []Key{{36, 0}, {36, bar - 5}, {38, bar + 960}})
	// a hit that leads into bar 2 by a few ticks belongs to bar 2
	got = mustApply(t, p, Edit{Velocity: &Velocity{About: About{FromBar: 1, ToBar: 2}, How: "set", Amount: 1}})
	if v := []int{got.Hits[0].Velocity, got.Hits[1].Velocity, got.Hits[2].Velocity, got.Hits[3].Velocity}; !slices.Equal(v, []int{100, 90, 1, 1}) {
		t.Errorf("velocities of bar 2: %v", v)
	}
	got = mustApply(t, p, Edit{Velocity: &Velocity{About: About{Only: []Key{{38, 10}}}, How: "add", Amount: 60}})
	if h, _ := got.At(Key{38, 10}); h.Velocity != 127 || got.Hits[0].Velocity != 100 {
		t.Errorf("harder: %v", got.Hits)
	}
}
