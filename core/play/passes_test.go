package play

import (
	"math"
	"slices"
	"strings"
	"testing"

	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

// sounded lists at which ticks, from the start of pass 0, a note sounds in so many passes.
func sounded(p Pass, note, passes int) (ticks []int) {
	for n := range passes {
		for _, s := range p.Strokes {
			if s.Note == note && p.Sounds(s.When, n) {
				ticks = append(ticks, music.Ticks(float64(n)*p.LengthS+s.AtS, 120))
			}
		}
	}
	slices.Sort(ticks)
	return ticks
}

// A lane of 12 sixteenths against a bar of 16 runs on: its one stroke comes every 12 cells, and both meet again after
// three bars of four (lowest common multiple of 12 and 16 is 48).
func TestAShorterLaneRunsOnThroughThePasses(t *testing.T) {
	p := onePattern(pattern.Hit{Note: 42, Tick: 480, Velocity: 90}, pattern.Hit{Note: 36, Velocity: 100})
	p.Lanes = map[int]pattern.LaneGrid{42: {Cells: 12}}
	got, _ := pass(p, feel.Straight)
	var want []int
	for i := range 8 {
		want = append(want, 480+i*12*240)
	}
	if ticks := sounded(got, 42, 6); !slices.Equal(ticks, want) {
		t.Errorf("six bars have it at %v, want %v", ticks, want)
	}
	if len(got.Whens) == 0 || len(got.Whens[0]) != 3 {
		t.Errorf("the passes repeat after %q, want three", got.Whens)
	}
	// a stroke beyond the lane's end stays in the pattern, unheard
	p.Hits = append(p.Hits, pattern.Hit{Note: 42, Tick: 13 * 240, Velocity: 90})
	if again, _ := pass(p, feel.Straight); len(sounded(again, 42, 6)) != 8 {
		t.Error("what lies past the lane's end is heard")
	}
	// triplets on one lane: its split strokes share its own cell
	p = onePattern(pattern.Hit{Note: 42, Velocity: 90, Split: 2})
	p.Lanes = map[int]pattern.LaneGrid{42: {Grid: "1/8t"}}
	got, _ = pass(p, feel.Straight)
	if ticks := sounded(got, 42, 1); !slices.Equal(ticks, []int{0, 160}) {
		t.Errorf("two strokes of a triplet eighth lie at %v", ticks)
	}
}

// Chance is exact on the whole, the same for the same seed, and the bounce keeps to it.
func TestChance(t *testing.T) {
	p := onePattern(pattern.Hit{Note: 42, Velocity: 90, Skip: 70}, pattern.Hit{Note: 42, Tick: 960, Velocity: 90, Skip: 70}, pattern.Hit{Note: 46, Velocity: 90, Skip: 100})
	f := feel.Straight
	got, table := pass(p, f)
	times := sounded(got, 42, 64)
	if len(times) != 2*19 { // 30 % of 64 is 19.2
		t.Errorf("two hits at 30 %% sound %d times in 64 passes", len(times))
	}
	first, second := got.Whens[0], got.Whens[1]
	if first == second {
		t.Error("both hits fall on the same passes")
	}
	if again, _ := pass(p, f); !slices.Equal(again.Whens, got.Whens) {
		t.Error("the same seed gives other passes")
	}
	f.Humanise.Seed = 9
	if other, _ := pass(p, f); slices.Equal(other.Whens, got.Whens) {
		t.Error("another seed gives the same passes")
	}
	if len(sounded(got, 46, 64)) != 0 {
		t.Error("0 % is heard")
	}
	n := strings.IndexByte(first, '1')
	out := bounced(got, n+1, rate, voices(table, 100))
	frame := int(float64(n) * got.LengthS * rate)
	if out.Channels[0][frame] == 0 || n > 0 && out.Channels[0][0] != 0 {
		t.Errorf("the bounce does not sound in pass %d alone", n)
	}
}

// Equal power: a hit panned all the way leaves one channel silent and keeps its power (−3 dB at the centre is 0 dB there).
func TestAHitsOwnPan(t *testing.T) {
	got, _ := pass(onePattern(pattern.Hit{Note: 36, Velocity: 127}, pattern.Hit{Note: 36, Tick: 240, Velocity: 127, Pan: 100}, pattern.Hit{Note: 36, Tick: 480, Velocity: 127, Pan: -50}), feel.Straight)
	for i, want := range [][2]float64{{math.Sqrt2 / 2, math.Sqrt2 / 2}, {0, 1}, {math.Cos(math.Pi / 8), math.Sin(math.Pi / 8)}} {
		if c := got.Cues[i]; math.Abs(c.Left-want[0]) > 1e-9 || math.Abs(c.Right-want[1]) > 1e-9 {
			t.Errorf("hit %d sounds at %g and %g, want %v", i, c.Left, c.Right, want)
		}
	}
}

// At 82 BPM two strokes in a 16th lie 91.46 ms apart and three 60.98 (a quarter is 60/82 s).
func TestStrokesOfASplitAtEightyTwo(t *testing.T) {
	for split, want := range map[int]float64{2: 91.46, 3: 60.98} {
		got := Cues(onePattern(pattern.Hit{Note: 36, Velocity: 100, Split: split}), feel.Straight, 82, Compile(testKit(), rate), nil)
		if ms := 1000 * (got.Cues[1].AtS - got.Cues[0].AtS); math.Abs(ms-want) > 0.005 {
			t.Errorf("%d strokes lie %.2f ms apart, want %.2f", split, ms, want)
		}
	}
}

// Written into the hits, a feel sounds as it did, to half a tick, and is not laid over again.
func TestWriteFeelSoundsAsBefore(t *testing.T) {
	p := onePattern(pattern.Hit{Note: 42, Tick: 240, Velocity: 90}, pattern.Hit{Note: 36, Tick: 700, Velocity: 100, Split: 3, Slope: -20},
		pattern.Hit{Note: 46, Tick: 15 * 240, Velocity: 60}, pattern.Hit{Note: 36, Tick: -100, Velocity: 70})
	g, err := feel.TakeGroove("late", []feel.Played{{Tick: 30, Note: 1, Velocity: 90}, {Tick: 3640, Note: 1, Velocity: 45}}, music.CommonTime, music.Sixteenths)
	if err != nil {
		t.Fatal(err)
	}
	f := feel.Feel{Swing: feel.Swing{Percent: 58, Grid: music.Sixteenths}, LaneLeanMS: map[int]float64{42: 12}, Humanise: feel.Humanise{TimeMS: 5, Velocity: 9, Seed: 3},
		Groove: feel.GrooveUse{ID: "x", Time: 80, Velocity: 60}}.With(&g)
	before, _ := pass(p, f)
	written := WriteFeel(p, f, 120)
	if err := written.Check(); err != nil {
		t.Fatal(err)
	}
	after, _ := pass(written, *written.Feel)
	tickS := music.SecondsPerTick(120)
	round := func(p Pass) (out [][3]float64) {
		for _, s := range p.Strokes {
			at := math.Mod(s.AtS+p.LengthS, p.LengthS)
			out = append(out, [3]float64{at, float64(s.Note), float64(s.Velocity)})
		}
		slices.SortFunc(out, func(a, b [3]float64) int { return slices.Compare(a[:], b[:]) })
		return out
	}
	a, b := round(before), round(after)
	if len(a) != len(b) || len(a) != 6 {
		t.Fatalf("%d strokes became %d", len(a), len(b))
	}
	for i := range a {
		if math.Abs(a[i][0]-b[i][0]) > tickS*0.51 || a[i][1] != b[i][1] || a[i][2] != b[i][2] {
			t.Errorf("stroke %v became %v", a[i], b[i])
		}
	}
}

// Lanes whose lengths meet again after more than 64 passes begin again with every pass; those that meet sooner run on
// (80 and 61, 63, 64 and 67 cells meet after 61, 63, 4 and 67 passes: the least common multiple over 80).
func TestTheCapOnPasses(t *testing.T) {
	for _, c := range []struct{ cells, want int }{{61, 61}, {63, 63}, {64, 4}, {67, 0}} {
		p := onePattern(pattern.Hit{Note: 42, Velocity: 90})
		p.Bars = 5
		p.Lanes = map[int]pattern.LaneGrid{42: {Cells: c.cells}}
		longest := 0
		for _, w := range Cues(p, feel.Straight, 120, Compile(testKit(), rate), nil).Whens {
			longest = max(longest, len(w))
		}
		if longest != c.want {
			t.Errorf("a lane of %d cells in 80: %d passes are told apart, want %d", c.cells, longest, c.want)
		}
	}
}

// A split of three in a sixteenth at 120 is three notes of 1/24 s (a sixteenth is 1/8 s); a hit with a length of its own
// shares that out. Half a beat in two: 1/8 s each.
func TestTheMIDILengthOfASplit(t *testing.T) {
	for _, c := range []struct {
		hit  pattern.Hit
		want float64
	}{
		{pattern.Hit{Note: 36, Velocity: 100, Split: 3}, 0.125 / 3},
		{pattern.Hit{Note: 36, Velocity: 100, Split: 2, Length: 480}, 0.125},
		{pattern.Hit{Note: 36, Velocity: 100}, 0.125},
	} {
		got := Cues(onePattern(c.hit), feel.Straight, 120, Compile(testKit(), rate), nil).Strokes
		if len(got) != max(1, c.hit.Split) {
			t.Fatalf("%d strokes", len(got))
		}
		for _, s := range got {
			if math.Abs(s.LengthS-c.want) > 1e-9 {
				t.Errorf("%d strokes last %g s, want %g", c.hit.Split, s.LengthS, c.want)
			}
		}
	}
}
