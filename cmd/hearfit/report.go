package main

import (
	"fmt"
	"math"
	"strings"

	"hexachord/core/hear"
	"hexachord/core/net"
)

// report gives each family's F-measure at probability 0.5 and the levels' mean error in dB on examples
// that were not learnt from.
func report(n *net.Net, check []example) string {
	var right, made, there [hear.Families]float64
	var levelErr, levels float64
	for _, e := range check {
		y := hear.Judge(n, e.input)
		for f := range hear.Families {
			t := e.target[f]
			if t != t {
				continue
			}
			said := y[f] >= 0.5
			if said && t == 1 {
				right[f]++
			}
			if said {
				made[f]++
			}
			if t == 1 {
				there[f]++
				levelErr += math.Abs(y[hear.LevelOf(f)]-float64(e.target[hear.LevelOf(f)])) * 20
				levels++
			}
		}
	}
	var b strings.Builder
	for f, name := range []string{"kick", "snare", "hat", "tom", "cymbal"} {
		fmt.Fprintf(&b, "%s %.3f  ", name, 2*right[f]/math.Max(1, made[f]+there[f]))
	}
	fmt.Fprintf(&b, "level ±%.1f dB", levelErr/math.Max(1, levels))
	return b.String()
}
