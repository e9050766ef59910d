package play

import (
	"encoding/json"
	"errors"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"

	"hexachord/core/feel"
	"hexachord/core/pattern"
	"hexachord/core/sound"
)

// bounced is a whole bounce.
func bounced(pass Pass, passes, rate int, voices map[string]Voice) sound.Buffer {
	b, err := NewBounce(pass, passes, rate, voices, TailRing)
	if err != nil {
		panic(err)
	}
	return b.All()
}

// A bounce is the same to the last bit whatever the blocks it is made in, choked, held, looped and cut as it may be.
func TestABounceIsTheSameInAnyBlocks(t *testing.T) {
	table := Compile(testKit(), rate)
	pass := Cues(onePattern(pattern.Hit{Note: 36, Tick: 0, Velocity: 100}, pattern.Hit{Note: 42, Tick: 240, Velocity: 80}, pattern.Hit{Note: 46, Tick: 480, Velocity: 90},
		pattern.Hit{Note: 42, Tick: 720, Velocity: 70, Split: 3}), feel.Straight, 133, table, nil)
	v := voices(table, rate/3)
	whole := bounced(pass, 3, rate, v)
	for _, block := range []int{1, 7, 128, 4096} {
		b, err := NewBounce(pass, 3, rate, v, TailRing)
		if err != nil {
			t.Fatal(err)
		}
		var got []float32
		for part := b.Block(block); part.Frames() > 0; part = b.Block(block) {
			got = append(got, part.Channels[1]...)
		}
		if !slices.Equal(got, whole.Channels[1]) {
			t.Errorf("in blocks of %d frames it is another", block)
		}
	}
	if _, err := NewBounce(pass, 256*60, rate, v, TailRing); !errors.Is(err, ErrTooLong) {
		t.Errorf("hours of it: %v", err)
	}
}

// What differs between two passes leads from one to the other, also over JSON, whatever was edited; passes that are the same
// differ in nothing, and an edit of one hit among a thousand is short.
func TestWhatDiffersLeadsFromPassToPass(t *testing.T) {
	table := Compile(testKit(), rate)
	rng := rand.New(rand.NewPCG(8, 9))
	p := onePattern()
	p.Bars = 8
	for i := range 1000 {
		p.Hits = append(p.Hits, pattern.Hit{Note: []int{36, 42, 46}[i%3], Tick: i / 3 * 90, Velocity: 1 + rng.IntN(127)})
	}
	pattern.SortHits(p.Hits)
	f := feel.Straight
	old := Cues(p, f, 120, table, nil)
	for n := range 60 {
		i := rng.IntN(len(p.Hits))
		next := p
		next.Hits = slices.Clone(p.Hits)
		bpm := 120.0
		switch n % 6 {
		case 0:
			next.Hits = slices.Delete(next.Hits, i, i+1)
		case 1:
			next.Hits[i].Velocity = 1 + rng.IntN(127)
		case 2:
			next.Hits[i].Skip = rng.IntN(100)
		case 3:
			next.Lanes = map[int]pattern.LaneGrid{42: {Cells: 3 + n%7}}
		case 4:
			bpm = 90
		case 5:
			next.Hits[i].Pan = rng.IntN(100)
		}
		is := Cues(next, f, bpm, table, nil)
		d := Difference(old, is)
		text, err := json.Marshal(d)
		if err != nil {
			t.Fatal(err)
		}
		var back Delta
		if err := json.Unmarshal(text, &back); err != nil {
			t.Fatal(err)
		}
		if d.Small(is) && !reflect.DeepEqual(back.Of(old), is) {
			t.Fatalf("edit %d: what differs does not lead there", n)
		}
		if n%6 < 2 && (!d.Small(is) || len(text) > 2000) {
			t.Errorf("edit %d of one hit takes %d bytes", n, len(text))
		}
		if !Difference(is, is).Empty() || d.Empty() != reflect.DeepEqual(old, is) {
			t.Errorf("edit %d: same or not is said wrongly", n)
		}
	}
}
