package pattern

import (
	"math/rand/v2"
	"reflect"
	"testing"

	"hexachord/core/music"
)

// Two changes together lead where they lead one after the other, and back, whatever came, went and came again.
func TestTwoChangesTogether(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 8))
	p := Pattern{Name: "p", Bars: 1, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []Hit{{Note: 36, Velocity: 1}}}
	for range 300 {
		start := p
		var all Change
		for i := range 4 {
			e := Edit{Hits: &Hits{}}
			for range 3 {
				h := Hit{Note: 36 + rng.IntN(2), Tick: 240 * rng.IntN(3), Velocity: 1 + rng.IntN(3)}
				if rng.IntN(2) == 0 {
					e.Hits.Remove = append(e.Hits.Remove, h.Key())
				} else {
					e.Hits.Put = append(e.Hits.Put, h)
				}
			}
			next, c, err := Apply(p, e)
			if err != nil {
				t.Fatal(err)
			}
			if p = next; i == 0 {
				all = c
			} else {
				all = all.Then(c)
			}
		}
		if got := Redo(start, all); !reflect.DeepEqual(got.Hits, p.Hits) {
			t.Fatalf("together they lead to %+v, one by one to %+v", got.Hits, p.Hits)
		}
		if got := Redo(p, all.Inverse()); !reflect.DeepEqual(got.Hits, start.Hits) {
			t.Fatalf("back they lead to %+v, not %+v", got.Hits, start.Hits)
		}
	}
}
