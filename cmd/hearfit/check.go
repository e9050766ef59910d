package main

import (
	"context"
	"fmt"
	"log"
	"math"
	"sync"

	"hexachord/core/hear"
	"hexachord/core/sound"
	"hexachord/demo/breaks"
)

// tally counts what was heard rightly, heard at all, and there; by confidence, in tenths, what was right of how many.
type tally struct {
	right, heard, there [hear.Families]float64
	sureRight, sure     [10]int
	open                [2][2]float64 // hats found: truly closed or open, heard as closed or open
	levels              [hear.Families]levels
}

// levels adds up how well velocities are heard: the mean error of all hits found, and Pearson's r over those of performances in which strokes
// differ, each around its performance's mean.
type levels struct {
	off, of      float64
	xy, xx, yy   float64
	performances int
}

// leastSpread is the standard deviation of velocities from which on r says something.
const leastSpread = 12

// add takes one performance's hits of a family: true velocities and those heard.
func (l *levels) add(is, heard []float64) {
	mean := func(x []float64) (m float64) {
		for _, v := range x {
			m += v / float64(len(x))
		}
		return m
	}
	mi, mh := mean(is), mean(heard)
	var xy, xx, yy float64
	for k := range is {
		l.off += math.Abs(is[k] - heard[k])
		l.of++
		xy, xx, yy = xy+(is[k]-mi)*(heard[k]-mh), xx+(is[k]-mi)*(is[k]-mi), yy+(heard[k]-mh)*(heard[k]-mh)
	}
	if len(is) < 4 || math.Sqrt(xx/float64(len(is))) < leastSpread {
		return
	}
	l.xy, l.xx, l.yy, l.performances = l.xy+xy, l.xx+xx, l.yy+yy, l.performances+1
}

// checkHearing hears performances with the whole program, as convert would, and prints how much is right within 50 ms and
// how sure it was of that.
func checkHearing(count int, seed uint64, life breaks.Life) {
	var t tally
	var mu sync.Mutex
	perform(count, seed, life, func(_ int, audio sound.Buffer, truth []breaks.Hit) {
		h, err := hear.Listen(context.Background(), audio, hear.Options{})
		if err != nil {
			log.Fatal(err)
		}
		mu.Lock()
		defer mu.Unlock()
		t.add(h.Hits, truth)
	})
	var right, heard, there float64
	f := func(right, heard, there float64) float64 { return 2 * right / max(1, heard+there) }
	for k, name := range familyNames {
		fmt.Printf("%s %.3f  ", name, f(t.right[k], t.heard[k], t.there[k]))
		right, heard, there = right+t.right[k], heard+t.heard[k], there+t.there[k]
	}
	fmt.Printf("five %.3f\n", f(right, heard, there))
	shut, open := t.open[0], t.open[1]
	fmt.Printf("open hats: balanced %.3f, right %.3f of %.0f closed and %.0f open\n", (shut[0]/max(1, shut[0]+shut[1])+open[1]/max(1, open[0]+open[1]))/2,
		(shut[0]+open[1])/max(1, shut[0]+shut[1]+open[0]+open[1]), shut[0]+shut[1], open[0]+open[1])
	for k, l := range t.levels {
		if l.of > 0 {
			fmt.Printf("velocity of %s: off by %.1f; r %.3f in %d performances whose strokes differ\n", familyNames[k], l.off/l.of, l.xy/math.Sqrt(max(1e-9, l.xx*l.yy)), l.performances)
		}
	}
	for k, n := range t.sure {
		if n > 0 {
			fmt.Printf("confidence %.1f to %.1f: %5.1f %% right of %d\n", float64(k)/10, float64(k+1)/10, 100*float64(t.sureRight[k])/float64(n), n)
		}
	}
}

func index(yes bool) int {
	if yes {
		return 1
	}
	return 0
}

// add gives each true hit, one after another, the nearest hit heard of its family that none before it took.
func (t *tally) add(hits []hear.Hit, truth []breaks.Hit) {
	const reach = 0.05
	taken := make([]bool, len(hits))
	var is, as [hear.Families][]float64
	for _, s := range truth {
		family, _ := hear.Family(s.Note)
		if family < 0 {
			continue
		}
		t.there[family]++
		best := -1
		for i, h := range hits {
			of, _ := hear.Family(h.Note)
			off := math.Abs(h.TimeS - s.TimeS)
			if of == family && !taken[i] && off <= reach && (best < 0 || off < math.Abs(hits[best].TimeS-s.TimeS)) {
				best = i
			}
		}
		if best >= 0 {
			taken[best] = true
			t.right[family]++
			is[family], as[family] = append(is[family], float64(s.Velocity)), append(as[family], float64(hits[best].Velocity))
			if family == hear.FamilyHat {
				t.open[index(s.Note == 46)][index(hits[best].Note == 46)]++
			}
		}
	}
	for f := range is {
		t.levels[f].add(is[f], as[f])
	}
	for i, h := range hits {
		if family, _ := hear.Family(h.Note); family >= 0 {
			t.heard[family]++
		}
		tenth := min(9, int(h.Confidence*10))
		t.sure[tenth]++
		if taken[i] {
			t.sureRight[tenth]++
		}
	}
}
