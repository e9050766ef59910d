package hear

import (
	"math"

	"hexachord/core/net"
)

// The second look judges each onset again beside what the first look found in the whole recording: what this
// recording's own kicks, snares, hats, toms and cymbals are like, and what its neighbours are. A hat that
// was taken for a snare once differs from the mean snare and is like the mean hat.

// memberBands are the values of a patch that a family's mean is made of: the attack and what rings after it.
const memberBands = 3*patchBands + lowBands

// SecondSize is the number of values the second look is given for an onset.
const SecondSize = ownSize + NetOutput + families*(memberBands+2) + 2*(families+1)

func member(patch []float32, k int) float32 {
	switch {
	case k < patchBands: // at the attack
		return patch[patchBands+k]
	case k < 2*patchBands: // 46 ms later
		return patch[2*patchBands+k]
	case k < 3*patchBands: // the rise over what rang before
		return patch[k-patchBands] - patch[k-2*patchBands]
	}
	return patch[lowAt+k-3*patchBands]
}

// SecondLook describes every onset for the second net, from its patches and the first net's outputs.
func SecondLook(e Examined, first [][NetOutput]float64) [][]float32 {
	var means [families][memberBands]float32
	var mass [families]float64
	for f := range families {
		var sums [memberBands]float64
		for i, p := range e.Patches {
			w := first[i][f] * first[i][f]
			mass[f] += w
			for k := range sums {
				sums[k] += w * float64(member(p, k))
			}
		}
		for k := range sums {
			means[f][k] = float32(sums[k] / (mass[f] + 0.1))
		}
	}
	out := make([][]float32, len(e.Patches))
	for i, p := range e.Patches {
		v := make([]float32, 0, SecondSize)
		v = append(v, p[:ownSize]...)
		for _, o := range first[i] {
			v = append(v, float32(o))
		}
		for f := range families {
			distance := 0.0
			for k := range memberBands {
				d := member(p, k) - means[f][k]
				distance += float64(d * d)
				v = append(v, means[f][k])
			}
			v = append(v, float32(math.Sqrt(distance/memberBands)), float32(math.Log1p(mass[f])))
		}
		for _, other := range [2]int{i - 1, i + 1} {
			if other < 0 || other >= len(first) {
				v = append(v, make([]float32, families+1)...)
				continue
			}
			for f := range families {
				v = append(v, float32(first[other][f]))
			}
			v = append(v, float32(math.Min(0.5, math.Abs(e.TimesS[other]-e.TimesS[i]))))
		}
		out[i] = v
	}
	return out
}

// Looks are the networks of a first and a second look.
type Looks struct{ First, Second *net.Net }

// Nets are looks learnt from unlike performances; what they say is averaged.
type Nets []Looks

// Run gives the verdict on every onset.
func (n Nets) Run(e Examined) [][NetOutput]float64 {
	mean := make([][NetOutput]float64, len(e.Patches))
	for _, l := range n {
		outs := JudgeAll(l.Second, SecondLook(e, JudgeAll(l.First, e.Patches)))
		for i, out := range outs {
			for k, v := range out {
				mean[i][k] += v / float64(len(n))
			}
		}
	}
	return mean
}
