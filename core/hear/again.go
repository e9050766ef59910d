package hear

import (
	"math"
	"sort"
)

// A recording that was heard before may be heard again, by better ears or through other music. What the person said of the hits,
// and the grid, are carried over: nobody corrects a break twice.

// againS is how far apart the same stroke may have been found two times.
const againS = 0.03

// Changes says what hearing again changed, by hit.
type Changes struct {
	// Same are the hits (places in the new list) that were there before on the same drum.
	Same []int `json:"same"`
	// Other are those that were there before on another drum, New those that were not there.
	Other []int `json:"other"`
	New   []int `json:"new"`
	// Gone are the hits (places in the old list) that are not there any more; none of them was the person's.
	Gone []int `json:"gone"`
	// Carried are the hits (places in the new list) that the person had judged, moved or added.
	Carried []int `json:"carried"`
}

// Again is what was heard again, with h's corrections and grid carried over. A hit that the person judged, moved, put on a lane or
// added stays as it was, wherever it lies; what was heard again in its place gives way to it. So does a velocity that the person
// set: of hearings by ears of before Ear 1, which do not say so, every velocity is kept where the same drum was found again.
func (h Hearing) Again(again Hearing) Hearing {
	out := again
	out.BPM, out.Meter, out.Bars, out.BarOneS, out.GridErrorMS, out.Moves, out.Pins = h.BPM, h.Meter, h.Bars, h.BarOneS, h.GridErrorMS, h.Moves, h.Pins
	out.Listeners, out.Flipped = h.Listeners, h.Flipped
	if h.First != nil { // what lanes hear by themselves is not the networks'
		out.First = again.Hits
	}
	out.Hits = append([]Hit(nil), again.Hits...)
	pairs := pairUp(h.Hits, again.Hits)
	for i, was := range h.Hits {
		now, there := pairs[i]
		switch {
		case there && corrected(was):
			out.Hits[now] = was
		case there:
			if hit := &out.Hits[now]; was.Set || h.Ear == 0 && was.Note == hit.Note {
				hit.Velocity, hit.Set = was.Velocity, was.Set
			}
		case corrected(was):
			out.Hits = append(out.Hits, was)
		}
	}
	out.Hits = inTime(out.Hits)
	return out
}

// ChangesTo says what changed from h to what was heard again.
func (h Hearing) ChangesTo(again Hearing) Changes {
	var c Changes
	pairs := pairUp(h.Hits, again.Hits)
	from := map[int]int{} // new → old
	for old := range h.Hits {
		if now, there := pairs[old]; there {
			from[now] = old
		} else {
			c.Gone = append(c.Gone, old)
		}
	}
	for i, hit := range again.Hits {
		old, there := from[i]
		switch {
		case !there:
			c.New = append(c.New, i)
		case corrected(h.Hits[old]):
			c.Carried = append(c.Carried, i)
		case h.Hits[old].Note == hit.Note:
			c.Same = append(c.Same, i)
		default:
			c.Other = append(c.Other, i)
		}
	}
	return c
}

// corrected reports whether a hit is what the person made of it.
func corrected(h Hit) bool { return h.State != Heard || h.Lane != nil || h.FromS != nil }

// pairUp finds, for hits of one hearing, the same strokes in another: nearest first, of the same drum before another of its family
// before any other, each once. A hit that the person moved is looked for where it was heard, then where it is.
func pairUp(old, now []Hit) map[int]int {
	type pair struct {
		old, now int
		cost     float64
	}
	var all []pair
	near := func(i int, atS, worse float64) {
		a := old[i]
		from := sort.Search(len(now), func(j int) bool { return now[j].TimeS >= atS-againS })
		for j := from; j < len(now) && now[j].TimeS <= atS+againS; j++ {
			cost := math.Abs(now[j].TimeS-atS) + worse
			fa, _ := Family(a.Note)
			fb, _ := Family(now[j].Note)
			switch {
			case a.Note == now[j].Note:
			case fa == fb:
				cost += againS
			default:
				cost += 2 * againS
			}
			all = append(all, pair{i, j, cost})
		}
	}
	for i, a := range old {
		if a.FromS == nil {
			near(i, a.TimeS, 0)
			continue
		}
		near(i, *a.FromS, 0)
		near(i, a.TimeS, 3*againS)
	}
	sort.SliceStable(all, func(i, j int) bool { return all[i].cost < all[j].cost })
	pairs, taken := map[int]int{}, map[int]bool{}
	for _, p := range all {
		if _, there := pairs[p.old]; !there && !taken[p.now] {
			pairs[p.old], taken[p.now] = p.now, true
		}
	}
	return pairs
}
