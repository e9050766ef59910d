package pattern

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"testing"

	"hexachord/core/music"
)

func empty(bars int) Pattern {
	return Pattern{Name: "p", Bars: bars, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []Hit{}}
}

func mustApply(t *testing.T, p Pattern, e Edit) Pattern {
	t.Helper()
	next, _, err := Apply(p, e)
	if err != nil {
		t.Fatal(err)
	}
	return next
}

// Any run of edits, undone one by one, gives back the same pattern byte for byte; redone, the same end.
func TestEditsUndoAndRedoExactly(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	text := func(p Pattern) string {
		b, err := json.Marshal(p)
		if err != nil {
			t.Fatal(err)
		}
		return string(b)
	}
	p := empty(4)
	states, changes := []string{text(p)}, []Change(nil)
	for range 1000 {
		next, c, err := Apply(p, randomEdit(rng, p))
		if err != nil {
			t.Fatal(err)
		}
		if err := next.Check(); err != nil {
			t.Fatalf("an edit left a pattern that cannot be used: %v", err)
		}
		p = next
		states, changes = append(states, text(p)), append(changes, c)
	}
	for i := len(changes) - 1; i >= 0; i-- {
		p = Redo(p, changes[i].Inverse())
		if text(p) != states[i] {
			t.Fatalf("undoing edit %d gives\n%s\nwant\n%s", i, text(p), states[i])
		}
	}
	for i, c := range changes {
		p = Redo(p, c)
		if text(p) != states[i+1] {
			t.Fatalf("redoing edit %d differs", i)
		}
	}
}

func randomEdit(rng *rand.Rand, p Pattern) Edit {
	hit := func() Hit {
		return Hit{Note: rng.IntN(128), Tick: rng.IntN(p.LengthTicks()+MaxLeadTicks) - MaxLeadTicks, Velocity: 1 + rng.IntN(127), Split: rng.IntN(9), Slope: rng.IntN(21) - 10}
	}
	notes := []int{rng.IntN(128), 36}
	switch rng.IntN(20) {
	case 8:
		return Edit{Fill: &Fill{About: About{Notes: notes}, Strokes: 1 + rng.IntN(7), Cells: 8 + rng.IntN(8), Offset: rng.IntN(4), Velocity: 1 + rng.IntN(127)}}
	case 9:
		return Edit{Shift: &Shift{About: About{FromBar: rng.IntN(2)}, By: rng.IntN(41) - 20}}
	case 10:
		return Edit{Reverse: &Reverse{About: About{Notes: notes}}}
	case 11:
		return Edit{Velocity: &Velocity{How: []string{"add", "scale", "compress", "accent", "random"}[rng.IntN(5)], Amount: float64(rng.IntN(120)), Seed: rng.Uint64()}}
	case 12:
		return Edit{Copy: &CopyBars{About: About{FromBar: 0, ToBar: 1}, At: rng.IntN(p.Bars)}}
	case 0:
		return Edit{Clear: &Clear{FromBar: rng.IntN(4), ToBar: rng.IntN(5)}}
	case 1:
		return Edit{Quantise: &Quantise{Strength: float64(rng.IntN(101))}}
	case 2:
		bars, grid := 1+rng.IntN(6), []music.Grid{"1/8", "1/16", "1/16t"}[rng.IntN(3)]
		return Edit{Shape: &Shape{Bars: &bars, Grid: &grid}}
	case 13:
		return Edit{Vary: &Vary{Bar: rng.IntN(p.Bars), Seed: rng.Uint64()}}
	case 14:
		return Edit{FillBar: &FillBar{Bar: rng.IntN(p.Bars), Notes: notes, Seed: rng.Uint64()}}
	case 15:
		return Edit{Lean: &Lean{About: About{Notes: notes}, By: rng.IntN(100) - 50}}
	case 16:
		return Edit{Lengths: &Lengths{How: []string{"legato", "trim", "quantise", "free"}[rng.IntN(4)]}}
	case 17:
		name, tags := fmt.Sprint("p", rng.IntN(9)), []string{"a", "b"}[:rng.IntN(3)]
		return Edit{Shape: &Shape{Notes: notes, Name: &name, Tags: &tags, Lane: &LaneGrid{Grid: []music.Grid{"", "1/8t"}[rng.IntN(2)], Cells: rng.IntN(20)}}}
	default:
		e := Edit{Hits: &Hits{}}
		for range 1 + rng.IntN(4) {
			e.Hits.Put = append(e.Hits.Put, hit())
		}
		if len(p.Hits) > 0 {
			e.Hits.Remove = append(e.Hits.Remove, p.Hits[rng.IntN(len(p.Hits))].Key())
		}
		return e
	}
}

func TestApplyLeavesItsInputAlone(t *testing.T) {
	p := mustApply(t, empty(1), Edit{Hits: &Hits{Put: []Hit{{Note: 36, Tick: 0, Velocity: 100}}}})
	mustApply(t, p, Edit{Hits: &Hits{Put: []Hit{{Note: 36, Tick: 0, Velocity: 50}}}})
	if p.Hits[0].Velocity != 100 {
		t.Error("an edit changed the pattern it was applied to")
	}
}

func TestEditsOutOfRangeAreRefused(t *testing.T) {
	p := empty(1)
	for name, h := range map[string]Hit{"late": {Tick: p.LengthTicks(), Velocity: 1}, "early": {Tick: -481, Velocity: 1}, "silent": {Velocity: 0},
		"loud": {Velocity: 128}, "note": {Note: 128, Velocity: 1}, "split": {Velocity: 1, Split: 9}, "length": {Velocity: 1, Length: -1}} {
		if _, _, err := Apply(p, Edit{Hits: &Hits{Put: []Hit{h}}}); !errors.Is(err, ErrHit) {
			t.Errorf("%s: %v, want ErrHit", name, err)
		}
	}
	bars := 65
	if _, _, err := Apply(p, Edit{Shape: &Shape{Bars: &bars}}); !errors.Is(err, ErrPattern) {
		t.Errorf("65 bars: %v, want ErrPattern", err)
	}
	if _, _, err := Apply(p, Edit{Label: "melt"}); !errors.Is(err, ErrPattern) {
		t.Errorf("an unknown edit: %v, want ErrPattern", err)
	}
}

// At 82 BPM two strokes in a sixteenth are 91.46 ms apart and three 60.98 ms (arithmetic).
func TestSplitStrokes(t *testing.T) {
	for n, want := range map[int]float64{2: 91.46, 3: 60.98} {
		s := Hit{Velocity: 40, Split: n, Slope: 50}.Strokes(music.PPQ / 4)
		if got := music.Seconds(s[1].OffsetTicks-s[0].OffsetTicks, 82) * 1000; got < want-0.01 || got > want+0.01 {
			t.Errorf("%d strokes are %.2f ms apart, want %.2f", n, got, want)
		}
		if s[0].Velocity != 40 || s[1].Velocity != 90 || s[len(s)-1].Velocity > 127 {
			t.Errorf("velocities %v", s)
		}
	}
}

func TestLeanAndQuantise(t *testing.T) {
	p := mustApply(t, empty(1), Edit{Hits: &Hits{Put: []Hit{{Note: 38, Tick: 960 + 33, Velocity: 100}, {Note: 36, Tick: -20, Velocity: 90}}}})
	if got := p.Lean(p.Hits[1]); got != 33 {
		t.Errorf("lean %d, want 33", got)
	}
	half := mustApply(t, p, Edit{Quantise: &Quantise{About: About{Notes: []int{38}}, Strength: 50}})
	if half.Hits[1].Tick != 960+16 || half.Hits[0].Tick != -20 {
		t.Errorf("half strength: %+v", half.Hits)
	}
	if all := mustApply(t, p, Edit{Quantise: &Quantise{Strength: 100}}); all.Hits[0].Tick != 0 || all.Hits[1].Tick != 960 {
		t.Errorf("full strength: %+v", all.Hits)
	}
}

func TestDescribe(t *testing.T) {
	name := func(note int) string { return map[int]string{38: "Rope slap"}[note] }
	p := empty(2)
	say := func(e Edit) (s string) {
		next, c, err := Apply(p, e)
		if err != nil {
			t.Fatal(err)
		}
		p = next
		return c.Describe(p, name)
	}
	hit := Hit{Note: 38, Tick: 3840 + 2880 + 20, Velocity: 100}
	louder, split := hit, hit
	louder.Velocity = 112
	split.Velocity, split.Split = 112, 3
	for _, c := range []struct {
		e    Edit
		want string
	}{
		{Edit{Hits: &Hits{Put: []Hit{hit}}}, "Rope slap at 2.4"},
		{Edit{Hits: &Hits{Put: []Hit{louder}}}, "Rope slap at 2.4: velocity 112"},
		{Edit{Hits: &Hits{Put: []Hit{split}}}, "Split Rope slap at 2.4"},
		{Edit{Hits: &Hits{Remove: []Key{hit.Key()}}}, "Clear Rope slap at 2.4"},
		{Edit{Hits: &Hits{Put: []Hit{{Note: 50, Tick: 0, Velocity: 1}}}}, "note 50 at 1.1"},
	} {
		if got := say(c.e); got != c.want {
			t.Errorf("%q, want %q", got, c.want)
		}
	}
}
