package hear

import "math"

// How loud a drum was struck is what is left for it once the drums that sound with it are explained: the amplitude spectrum of
// each attack, over what rang before, is taken apart into this recording's own drums (non-negative, by the multiplicative
// rule of Lee and Seung 1999 for the generalised Kullback-Leibler divergence; templates are kept as they are).

// pieceBands are the values of a patch that levels are measured on: the attack and the piece 23 ms later.
const pieceBands = 2 * patchBands

// attackOf is the amplitude spectrum of an attack over what rang before.
func attackOf(patch []float32) (a [pieceBands]float64) {
	power := func(v float32) float64 { return math.Pow(10, 2*(float64(v)-1)) - 1e-6 }
	for b := range patchBands {
		was := max(0, power(patch[b]))
		a[b] = math.Sqrt(max(0, power(patch[patchBands+b])-0.6*was)) + 1e-4
		a[patchBands+b] = math.Sqrt(max(0, power(patch[2*patchBands+b])-0.5*was)) + 1e-4
	}
	return a
}

// levelsOf gives each onset's level of each family, dB against that family's mean stroke; outs are the verdicts.
func levelsOf(e Examined, outs [][NetOutput]float64) [][families]float64 {
	attacks := make([][pieceBands]float64, len(outs))
	for i := range outs {
		attacks[i] = attackOf(e.Patches[i])
	}
	var templates [families][pieceBands]float64
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
	levels, trust := make([][families]float64, len(outs)), make([][families]float64, len(outs))
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
			level, share := own(f, attacks[i], templates, active, gains)
			levels[i][f], trust[i][f] = 20*math.Log10(level+1e-6), share
		}
	}
	// what little is left under a louder drum says little: such a stroke is taken to be about as loud as its drum usually is
	for f := range families {
		var clear, all []float64
		for i, out := range outs {
			if out[f] < familyThreshold[f] {
				continue
			}
			all = append(all, levels[i][f])
			if trust[i][f] > 0.7 {
				clear = append(clear, levels[i][f])
			}
		}
		if len(clear) < 3 {
			clear = all
		}
		usual := quantile(clear, 0.5)
		for i := range levels {
			if trust[i][f] > 0 {
				levels[i][f] = usual + (levels[i][f]-usual)*trust[i][f]
			}
		}
	}
	return levels
}

// explain finds how much of each active template an attack is made of.
func explain(attack [pieceBands]float64, templates [families][pieceBands]float64, active []int) []float64 {
	gains := make([]float64, len(active))
	size := 0.0
	for _, v := range attack {
		size += v
	}
	for k := range gains {
		gains[k] = size / float64(len(active))
	}
	for range 40 {
		var model [pieceBands]float64
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

// hatBands is from which band on a hat is measured: about 5 kHz, where drums with heads have little.
const hatBands = 27

// own is what of an attack is left for one drum when the others are taken away, weighed where that drum is strongest
// against them, and which share of what was there that is.
func own(f int, attack [pieceBands]float64, templates [families][pieceBands]float64, active []int, gains []float64) (level, share float64) {
	sum, weight, whole := 0.0, 0.0, 0.0
	for b, v := range attack {
		others, all := 0.0, 1e-6
		for k, g := range active {
			all += templates[g][b]
			if g != f {
				others += gains[k] * templates[g][b]
			}
		}
		if f == FamilyHat && b%patchBands < hatBands {
			continue
		}
		w := templates[f][b] * templates[f][b] / all
		sum += w * max(0.1*v, v-others)
		whole += w * v
		weight += w
	}
	return sum / (weight + 1e-9), sum / (whole + 1e-9)
}
