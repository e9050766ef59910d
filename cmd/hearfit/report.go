package main

import (
	"fmt"
	"math"
	"strings"

	"hexachord/core/hear"
	"hexachord/core/net"
)

var familyNames = [hear.Families]string{"kick", "snare", "hat", "tom", "cymbal", "shaker"}

// report gives each family's F-measure at probability 0.5 on recordings that were not learnt from, and the mean error, in
// dB, of how much louder a stroke is than its drum usually is.
func report(n *net.Set, check []examined) string {
	var right, made, there [hear.Families]float64
	var levelErr, levels float64
	for _, x := range check {
		outs := hear.Judge(n, x.seen.Patches)
		for f := range hear.Families {
			var errs []float64
			mean := 0.0
			for i, y := range outs {
				t := x.targets[i][f]
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
					errs = append(errs, y[hear.LevelOf(f)]-float64(x.targets[i][hear.LevelOf(f)]))
					mean += errs[len(errs)-1]
				}
			}
			for _, e := range errs {
				levelErr += math.Abs(e-mean/float64(len(errs))) * 20
				levels++
			}
		}
	}
	var b strings.Builder
	for f, name := range familyNames {
		fmt.Fprintf(&b, "%s %.3f  ", name, 2*right[f]/math.Max(1, made[f]+there[f]))
	}
	fmt.Fprintf(&b, "level ±%.1f dB", levelErr/math.Max(1, levels))
	return b.String()
}
