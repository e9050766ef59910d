package play

import (
	"errors"
	"math"
	"testing"

	"hexachord/core/feel"
	"hexachord/core/pattern"
)

// A bounce whose tail is laid over its beginning is what is heard in the middle of many times through: stroke by stroke, with
// what rings longer than the loop, what is choked across its seam, and what leads into its first line. Cut, it is the ringing
// bounce without its tail.
func TestTailsOfABounce(t *testing.T) {
	table := Compile(testKit(), rate)
	v := voices(table, 5*rate) // five seconds, more than two times through
	p := onePattern(pattern.Hit{Note: 36, Tick: -40, Velocity: 100}, pattern.Hit{Note: 42, Tick: 240, Velocity: 80}, pattern.Hit{Note: 36, Tick: 1920, Velocity: 120},
		pattern.Hit{Note: 46, Tick: 3600, Velocity: 90})
	pass := Cues(p, feel.Straight, 120, table, nil)
	of := func(passes int, tail Tail) []float32 {
		t.Helper()
		b, err := NewBounce(pass, passes, rate, v, tail)
		if err != nil {
			t.Fatal(err)
		}
		return b.All().Channels[0]
	}
	loop := int(math.Round(pass.LengthS * rate))
	ring, cut, lap := of(1, TailRing), of(1, TailCut), of(1, TailLap)
	if len(cut) != loop || len(lap) != loop || len(ring) <= loop {
		t.Fatalf("%d frames cut, %d lapped, %d ringing; the loop has %d", len(cut), len(lap), len(ring), loop)
	}
	for i, x := range cut {
		if x != ring[i] {
			t.Fatalf("cut, frame %d is %v, not %v", i, x, ring[i])
		}
	}
	settled := of(8, TailRing)[5*loop : 6*loop]
	for i, x := range lap {
		if math.Abs(float64(x-settled[i])) > 1e-6 {
			t.Fatalf("lapped, frame %d is %v; played round and round it is %v", i, x, settled[i])
		}
	}
	if lap[0] == cut[0] {
		t.Error("nothing was laid over the beginning")
	}
	if two := of(2, TailLap); len(two) != 2*loop || math.Abs(float64(two[loop+99]-settled[99])) > 1e-6 {
		t.Error("two times through, the second is another")
	}
	if _, err := NewBounce(pass, 1, rate, v, "fade"); !errors.Is(err, ErrTail) {
		t.Errorf("an unknown tail: %v", err)
	}
}
