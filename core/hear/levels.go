package hear

import "math"

// How loud a drum was struck is said by two that err differently, and their mean is taken. One is the net. The other looks
// where the drum is strongest against those that sound with it: the amplitude spectrum of each attack, over what rang before,
// is taken apart into this recording's own drums (non-negative, by the multiplicative rule of Lee and Seung 1999 for the
// generalised Kullback-Leibler divergence; templates are kept as they are), and each band counts by the drum's share in it. Of a kick,
// which hardly anything sounds with so low, a third is added: the plain level of its body. Hats, half of which ring into the next or are another
// sound when they are open, and toms, of which no two are alike, have no attack of their own to look for: the net says it alone, and more of it, for it
// says too little of the range between soft and hard.

// netRange is by how much the net's range of hats and toms is widened: found on performances by drums it was not taught on, 150 of TimGM6mb's.
const netRange = 1.6

// attackOf is the amplitude spectrum of an attack over what rang before.
func attackOf(patch []float32) (a [patchBands]float64) {
	power := func(v float32) float64 { return math.Pow(10, 2*(float64(v)-1)) - 1e-6 }
	for b := range patchBands {
		was, is := max(0, power(patch[b])), max(0, power(patch[patchBands+b]))
		a[b] = math.Sqrt(max(0.02*is, is-0.6*was)) + 1e-4
	}
	return a
}

// levelsOf gives each onset's level of each family, dB against that family's mean stroke; outs are the verdicts.
func levelsOf(e Examined, outs [][NetOutput]float64) [][families]float64 {
	attacks := make([][patchBands]float64, len(outs))
	for i := range outs {
		attacks[i] = attackOf(e.Patches[i])
	}
	var templates [families][patchBands]float64
	var known [families]bool
	for f := range families {
		mass := 0.0
		for i, out := range outs {
			if out[f] < familyThreshold[f] {
				continue
			}
			w := out[f] * out[f]
			for g := range families { // strokes that stand alone say most
				if g != f {
					w *= 1 - 0.95*out[g]
				}
			}
			size := 0.0
			for _, v := range attacks[i] {
				size += v
			}
			for b, v := range attacks[i] {
				templates[f][b] += w * v / size
			}
			mass += w
		}
		if known[f] = mass > 0; known[f] {
			for b := range templates[f] {
				templates[f][b] /= mass
			}
		}
	}
	levels := make([][families]float64, len(outs))
	for i, out := range outs {
		var active []int
		for f := range families {
			if known[f] && out[f] > leastProbability {
				active = append(active, f)
			}
			levels[i][f] = -60
		}
		gains := explain(attacks[i], templates, active)
		for _, f := range active {
			levels[i][f] = 20 * math.Log10(own(f, attacks[i], templates, active, gains)+1e-6)
		}
	}
	for f := range families {
		var net, seen, body, n float64
		for i, out := range outs {
			if known[f] && out[f] > familyThreshold[f] {
				net, seen, body, n = net+20*out[LevelOf(f)], seen+levels[i][f], body+bodyDB(e.Patches[i]), n+1
			}
		}
		for i, out := range outs {
			if n == 0 || out[f] <= leastProbability {
				continue
			}
			says, looks := 20*out[LevelOf(f)]-net/n, levels[i][f]-seen/n
			switch f {
			case FamilyKick:
				levels[i][f] = (says + looks + bodyDB(e.Patches[i]) - body/n) / 3
			case FamilyHat, FamilyTom:
				levels[i][f] = netRange * says
				if out[f] == familyThreshold[f] { // settled so: nets that did not hear it do not know how loud it is
					levels[i][f] = looks
				}
			default:
				levels[i][f] = (says + looks) / 2
			}
		}
	}
	return levels
}

// explain finds how much of each active template an attack is made of.
func explain(attack [patchBands]float64, templates [families][patchBands]float64, active []int) []float64 {
	gains := make([]float64, len(active))
	size := 0.0
	for _, v := range attack {
		size += v
	}
	for k := range gains {
		gains[k] = size / float64(len(active))
	}
	for range 40 {
		var model [patchBands]float64
		for k, f := range active {
			for b := range model {
				model[b] += gains[k] * templates[f][b]
			}
		}
		for k, f := range active {
			up := 0.0
			for b, v := range attack {
				up += templates[f][b] * v / (model[b] + 1e-9)
			}
			gains[k] *= up // a template's own values sum to 1
		}
	}
	return gains
}

// own is how loud one drum is in an attack, against its mean stroke, seen where it has the greatest share of what sounds.
func own(f int, attack [patchBands]float64, templates [families][patchBands]float64, active []int, gains []float64) float64 {
	sum, whole := 0.0, 1e-9
	for b, v := range attack {
		mine, all := 0.0, 1e-9
		for k, g := range active {
			all += gains[k] * templates[g][b]
			if g == f {
				mine = gains[k] * templates[g][b]
			}
		}
		w := mine / all * templates[f][b]
		sum += w * v
		whole += w * templates[f][b]
	}
	return sum / whole
}

// bodyDB is the level of an attack's lowest octaves, 30 to some 200 Hz, dB.
func bodyDB(patch []float32) float64 {
	const bands = 8
	sum := 1e-9
	for _, v := range patch[lowAt : lowAt+bands] {
		sum += max(0, math.Pow(10, 2*(float64(v)-1))-1e-6)
	}
	return 10 * math.Log10(sum)
}
