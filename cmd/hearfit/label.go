package main

import (
	"math"

	"hexachord/core/hear"
	"hexachord/demo/breaks"
)

const (
	// hits this far from an onset belong to it
	reachS = 0.025
	// a hit this far under the loudest other within maskS could not be heard; it is neither right nor wrong
	maskedDB = 30.0
	maskS    = 0.05
)

var ignore = float32(math.NaN())

// label says which families and kinds are true of each onset, and how loud each family is.
func label(seen hear.Examined, truth []breaks.Hit) []target {
	ref := -100.0
	for _, h := range truth {
		ref = max(ref, h.LevelDB)
	}
	out := make([]target, len(seen.TimesS))
	for i := range out {
		for k := range out[i] {
			out[i][k] = ignore
		}
		for f := range hear.Families {
			out[i][f] = 0
		}
	}
	for _, h := range truth {
		at := nearest(seen.TimesS, h.TimeS)
		if at < 0 || math.Abs(seen.TimesS[at]-h.TimeS) > reachS {
			continue
		}
		t := &out[at]
		family, kind := hear.Family(h.Note)
		if family < 0 {
			continue
		}
		masked := false
		for _, o := range truth {
			masked = masked || math.Abs(o.TimeS-h.TimeS) < maskS && o.LevelDB-h.LevelDB > maskedDB
		}
		if masked || h.LevelDB < ref-48 {
			if t[family] == 0 {
				t[family] = ignore
			}
			continue
		}
		t[family] = 1
		level := float32((h.LevelDB - ref) / 20)
		if old := t[hear.LevelOf(family)]; !(old > level) {
			t[hear.LevelOf(family)] = level
			for k, v := range kind {
				t[k] = v
			}
		}
	}
	return out
}

func nearest(times []float64, t float64) int {
	best := -1
	for i, u := range times {
		if best < 0 || math.Abs(u-t) < math.Abs(times[best]-t) {
			best = i
		}
	}
	return best
}
