package take

import (
	"math"
	"math/rand/v2"
	"testing"

	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
)

func loopOf(bars int, f feel.Feel) Loop {
	return Loop{BPM: 92, Pattern: pattern.Pattern{Bars: bars, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}}, Feel: f}
}

// soundsAt is where a hit of one lane sounds, in seconds, as the player is given it.
func soundsAt(l Loop, h pattern.Hit) float64 {
	p := l.Pattern
	p.Hits = []pattern.Hit{h}
	return play.Cues(p, l.Feel, l.BPM, play.Table{}, nil).Strokes[0].AtS
}

// What is played at any moment sounds at that moment again, whatever swing, groove and lean are in force: within a tick and a half, and
// but for moments that no hit can sound at, where a swung line leaves a gap.
func TestWhatIsPlayedSoundsWhereItWasPlayed(t *testing.T) {
	groove := feel.Groove{Name: "late", Meter: music.CommonTime, Grid: music.Sixteenths, Cells: make([]feel.GrooveCell, 16)}
	for i := range groove.Cells {
		groove.Cells[i] = feel.GrooveCell{LeanTicks: float64(i%5) * 7, Level: 1, Hits: 1}
	}
	grooved := feel.Feel{Swing: feel.Swing{Percent: 50, Grid: music.Sixteenths}, Groove: feel.GrooveUse{ID: "g", Time: 100, NoSwing: true}}
	feels := map[string]feel.Feel{
		"straight": feel.Straight,
		"swung":    {Swing: feel.Swing{Percent: 62, Grid: music.Sixteenths}},
		"eighths":  {Swing: feel.Swing{Percent: 58, Grid: "1/8"}},
		"leaning":  {Swing: feel.Swing{Percent: 50, Grid: music.Sixteenths}, LaneLeanMS: map[int]float64{38: 22}},
		"grooved":  grooved.With(&groove),
	}
	rng := rand.New(rand.NewPCG(3, 14))
	for name, f := range feels {
		l := loopOf(2, f)
		seconds := music.Seconds(float64(l.Pattern.LengthTicks()), l.BPM)
		gaps := 0
		for range 2000 {
			at := rng.Float64() * (seconds - 0.1)
			p := l.Play(Strike{Note: 38, AtS: at, Velocity: 90})
			p.Tick = l.Tick(p, Quantise{})
			off := math.Abs(soundsAt(l, p.Hit()) - at)
			if off > music.Seconds(1.5, l.BPM) {
				if gaps++; off > 0.04 {
					t.Errorf("%s: played at %.4f s it sounds %.1f ms away", name, at, 1000*off)
				}
			}
		}
		if share := float64(gaps) / 2000; name == "straight" && gaps > 0 || share > 0.15 {
			t.Errorf("%s: %.1f %% of all moments cannot be kept", name, 100*share)
		}
	}
}

// A strike just before the loop's end that belongs to its first line lands before it; one that belongs to the last step stays; bars that are
// held alone go round by themselves.
func TestTheEndOfTheLoopIsItsBeginning(t *testing.T) {
	straight := loopOf(2, feel.Straight)
	swung := loopOf(2, feel.Feel{Swing: feel.Swing{Percent: 66, Grid: music.Sixteenths}})
	held := straight
	held.FromBar, held.ToBar = 1, 2
	late := swung.late(38, 7680-240, 240)
	for _, c := range []struct {
		words string
		l     Loop
		ticks float64
		want  int
	}{
		{"20 ticks early for bar 1", straight, 7660, -20},
		{"on the last step", straight, 7440, 7440},
		{"late on the last step", straight, 7540, 7540},
		{"on the swung last step", swung, 7440 + late, 7440},
		{"a little early for bar 1, swung", swung, 7665, -15},
		{"a whole time through later", straight, 7680 + 480, 480},
		{"before the beginning", straight, -30, -30},
		{"early for the held bar", held, 7660, 3840 - 20},
		{"in the held bar", held, 4800, 4800},
	} {
		s := Strike{Note: 38, AtS: music.Seconds(c.ticks, 92), Velocity: 80}
		if got := c.l.Tick(c.l.Play(s), Quantise{}); got != c.want {
			t.Errorf("%s: written at %d, not %d", c.words, got, c.want)
		}
	}
}

// A performance with human timing, ±12 ms, quantised to sixteenths lands on exactly the cells that were meant; half as strongly, every
// deviation is halved; not at all, it stays.
func TestAHumanPerformanceIsQuantised(t *testing.T) {
	rng := rand.New(rand.NewPCG(12, 7))
	for _, f := range []feel.Feel{feel.Straight, {Swing: feel.Swing{Percent: 58, Grid: music.Sixteenths}}} {
		l := loopOf(8, f)
		for cell := range 8 * 16 {
			meant := cell * 240
			at := soundsAt(l, pattern.Hit{Note: 42, Tick: meant, Velocity: 100}) + (2*rng.Float64()-1)*0.012
			p := l.Play(Strike{Note: 42, AtS: at, Velocity: 100})
			whole, half, none := l.Tick(p, Quantise{Strength: 100}), l.Tick(p, Quantise{Strength: 50}), l.Tick(p, Quantise{})
			if whole != meant {
				t.Errorf("cell %d: quantised to %d", cell, whole)
			}
			if d := float64(none-meant)/2 - float64(half-meant); math.Abs(d) > 0.5 {
				t.Errorf("cell %d: leaning by %d it leans by %d at half strength", cell, none-meant, half-meant)
			}
		}
	}
	l := loopOf(1, feel.Straight)
	if got := l.Tick(l.Play(Strike{Note: 42, AtS: music.Seconds(3839, 92), Velocity: 1}), Quantise{Grid: "1/8", Strength: 100}); got != 0 {
		t.Errorf("quantised beyond the end: %d", got)
	}
}

// Two strikes of a pad within 5 ms from one source are one; of two pads, from two sources, or farther apart they are two.
func TestBouncesAreOneStroke(t *testing.T) {
	l := loopOf(1, feel.Straight)
	at := func(note int, ms float64, from string) Played {
		return l.Play(Strike{Note: note, AtS: 1 + ms/1000, Velocity: 90, From: from})
	}
	first := at(38, 0, "keys")
	for _, c := range []struct {
		other Played
		same  bool
	}{{at(38, 4.5, "keys"), true}, {at(38, 6, "keys"), false}, {at(36, 1, "keys"), false}, {at(38, 1, "midi"), false}} {
		if l.Same(first, c.other) != c.same {
			t.Errorf("%+v: the same %v", c.other, !c.same)
		}
	}
	for _, bad := range []Strike{{Note: 128, Velocity: 1}, {Note: 1, Velocity: 0}, {Note: 1, Velocity: 9, AtS: math.NaN()}, {Note: 1, Velocity: 9, HeldS: -1}} {
		if bad.Check() == nil {
			t.Errorf("%+v is a strike", bad)
		}
	}
}

// What leads into a time through by less than half a cell is its own; what is counted in is none's; at a lane's own grid by that grid.
func TestATimeThroughBeginsALittleEarly(t *testing.T) {
	l := loopOf(2, feel.Straight)
	l.Pattern.Lanes = map[int]pattern.LaneGrid{42: {Grid: "1/4"}}
	for _, c := range []struct {
		note  int
		ticks float64
		want  int
	}{{38, -130, -1}, {38, -110, 0}, {42, -470, 0}, {38, 0, 0}, {38, 7680 - 130, 0}, {38, 7680 - 110, 1}, {42, 7680 - 470, 1}, {38, 3*7680 + 5, 3}} {
		if got := l.Through(c.note, music.Seconds(c.ticks, 92)); got != c.want {
			t.Errorf("note %d at %g ticks: time through %d, not %d", c.note, c.ticks, got, c.want)
		}
	}
	l.FromBar, l.ToBar = 1, 2
	if got := l.Through(38, music.Seconds(3840, 92)); got != 1 {
		t.Errorf("a held bar later: time through %d", got)
	}
}

// Punched in and out by bars: what leads into the first of them is recorded, what leads into the one after them is not.
func TestOnlyThePunchedBarsAreRecorded(t *testing.T) {
	l := loopOf(4, feel.Straight)
	play := func(ticks float64) Played {
		return l.Play(Strike{Note: 38, AtS: music.Seconds(ticks, 92), Velocity: 90})
	}
	if !l.Punched(play(0)) || !l.Punched(play(4*3840-1)) {
		t.Error("without bars to punch all are recorded")
	}
	for _, c := range []struct {
		in, out int
		ticks   float64
		want    bool
	}{{1, 3, 3840, true}, {1, 3, 3840 - 100, true}, {1, 3, 3840 - 140, false}, {1, 3, 3*3840 - 140, true}, {1, 3, 3*3840 - 100, false},
		{1, 3, 0, false}, {0, 1, -100, true}, {0, 1, 4*3840 - 100, true}, {3, 4, 4*3840 - 140, true}} {
		l.InBar, l.OutBar = c.in, c.out
		if got := l.Punched(play(c.ticks)); got != c.want {
			t.Errorf("bars %d to %d, at %g: %v", c.in, c.out, c.ticks, got)
		}
	}
}

func BenchmarkWritten(b *testing.B) {
	l := loopOf(8, feel.Feel{Swing: feel.Swing{Percent: 58, Grid: music.Sixteenths}, LaneLeanMS: map[int]float64{38: 12}})
	p := l.Play(Strike{Note: 38, AtS: 3.21, Velocity: 90})
	for b.Loop() {
		l.Written(p)
	}
}
