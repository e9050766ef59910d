package hear

import (
	"math"
	"slices"
)

// Whether what keeps time in a recording is a hat or a ride is settled once for the whole of it: one stroke alone says too
// little.

// A closed hat has died away 93 ms after its attack; a ride has hardly begun to (common practice, no source: hats fall 60 dB
// in a tenth of a second or two, rides in one or several seconds).
const (
	diesDB  = 18
	ringsDB = 12
)

// fallDB is how far the top of the spectrum falls from an attack to 93 ms later; false when another stroke that is heard up
// there, so none of a kick or a tom alone, comes before that can be seen.
func fallDB(e Examined, outs [][NetOutput]float64, i int) (float64, bool) {
	const seenS = 0.142
	for k := i + 1; k < len(e.TimesS) && e.TimesS[k]-e.TimesS[i] < seenS; k++ {
		if o := outs[k]; max(o[FamilySnare], o[FamilyHat], o[FamilyCymbal]) > leastProbability {
			return 0, false
		}
	}
	sum := 0.0
	const from = 27 // about 5 kHz and up
	for b := from; b < patchBands; b++ {
		sum += 20 * float64(e.Patches[i][patchBands+b]-e.Patches[i][4*patchBands+b])
	}
	return sum / (patchBands - from), true
}

func settleTimekeeper(e Examined, outs [][NetOutput]float64) {
	var falls []float64
	hats, cymbals, strokes := 0.0, 0.0, 0.0
	for i, out := range outs {
		if max(out[FamilyHat], out[FamilyCymbal]) < 0.5 || out[FamilyCymbal] > 0.5 && out[outCrash] > 0.5 {
			continue
		}
		hats, cymbals, strokes = hats+out[FamilyHat], cymbals+out[FamilyCymbal], strokes+1
		if fall, ok := fallDB(e, outs, i); ok {
			falls = append(falls, fall)
		}
	}
	if len(falls) < 4 {
		return
	}
	middle := quantile(falls, 0.5)
	// only where the nets are of two minds: hiss and rooms keep hats from dying away, too
	const doubt = 0.1
	rings, dies := middle < ringsDB && cymbals > doubt*strokes, middle > diesDB && hats > doubt*strokes
	for i := range outs {
		out := &outs[i]
		fall, seen := fallDB(e, outs, i)
		swap := func() {
			out[FamilyHat], out[FamilyCymbal] = out[FamilyCymbal], out[FamilyHat]
			out[LevelOf(FamilyHat)], out[LevelOf(FamilyCymbal)] = out[LevelOf(FamilyCymbal)], out[LevelOf(FamilyHat)]
		}
		switch {
		case rings && out[FamilyHat] > out[FamilyCymbal] && (!seen || fall < diesDB):
			swap()
			out[outCrash] = min(out[outCrash], 0.4)
		case dies && out[FamilyCymbal] > out[FamilyHat] && out[outCrash] < 0.5 && seen && fall > diesDB:
			swap()
		}
	}
}

// settleKick looks at kicks under the snare: where nearly every main stroke of the snare has one, and each is less sure than
// the kicks that stand alone, they are the snare's own low body.
func settleKick(outs [][NetOutput]float64) {
	const (
		least       = 4    // main snares, and kicks alone
		nearlyEvery = 0.8  // of the main snares
		sureSnare   = 0.9  // probability
		mainDB      = 10.0 // under the loudest snare
		surer       = 1.5  // by how much, in log odds, most kicks alone are surer than most under the snare
	)
	loudest := math.Inf(-1)
	for _, out := range outs {
		if out[FamilySnare] > sureSnare {
			loudest = max(loudest, out[LevelOf(FamilySnare)])
		}
	}
	main := func(out [NetOutput]float64) bool {
		return out[FamilySnare] > sureSnare && 20*(loudest-out[LevelOf(FamilySnare)]) < mainDB
	}
	var under, alone []float64
	snares := 0
	for _, out := range outs {
		switch kick := out[FamilyKick] >= familyThreshold[FamilyKick]; {
		case main(out):
			snares++
			if kick {
				under = append(under, out[FamilyKick])
			}
		case kick && out[FamilySnare] < leastProbability:
			alone = append(alone, out[FamilyKick])
		}
	}
	if snares < least || len(alone) < least || float64(len(under)) < nearlyEvery*float64(snares) || logOdds(quantile(under, 0.9))+surer > logOdds(quantile(alone, 0.25)) {
		return
	}
	for i := range outs {
		if out := &outs[i]; main(*out) {
			out[FamilyKick] = min(out[FamilyKick], familyThreshold[FamilyKick]-0.05)
		}
	}
}

// settleUnderShaker looks at hats struck together with a shaker, which hides them: where the strokes of the shaker fall into two groups
// of which only one has something of a hat, there are hats in that one.
func settleUnderShaker(outs [][NetOutput]float64) {
	const (
		least   = 4    // strokes in each group
		apart   = 2.0  // of the groups' means, log odds
		nothing = 0.1  // probability of a hat, under which strokes of the shaker alone have it
		some    = 0.04 // and over which those with a hat have it
	)
	heard := func(out [NetOutput]float64, f int) bool { return out[f] >= familyThreshold[f] }
	shaken := func(out [NetOutput]float64) bool {
		return heard(out, FamilyShaker) && !heard(out, FamilyCymbal) && !heard(out, FamilySnare)
	}
	var odds []float64 // of strokes that no drum covers
	for _, out := range outs {
		if shaken(out) && !heard(out, FamilyKick) {
			odds = append(odds, logOdds(out[FamilyHat]))
		}
	}
	border, low, high, ok := twoGroups(odds, least)
	if !ok || high-low < apart || low > logOdds(nothing) || high < logOdds(some) {
		return
	}
	for i, out := range outs {
		if shaken(out) && logOdds(out[FamilyHat]) > border {
			outs[i][FamilyHat] = max(out[FamilyHat], familyThreshold[FamilyHat])
		}
	}
}

// settleUnnamed looks at clear attacks that no network names. Those that come again and again and hardly fall at the top are open hats or rides
// all the same, whichever is the likelier for all of them together, though doubtful: what anybody hears is not to be lost.
func settleUnnamed(e Examined, outs [][NetOutput]float64) {
	const (
		least = 4    // of them
		clear = 12.0 // dB by which the attack rises
	)
	var unnamed []int
	hats, cymbals := 0.0, 0.0
	for i, out := range outs {
		if o := e.onsets[i]; o.strength < clearStrength || o.riseDB < clear || o.growsDB > swellDB || slices.Max(out[:families]) > leastProbability {
			continue
		}
		if fall, seen := fallDB(e, outs, i); !seen || fall > ringsDB {
			continue
		}
		unnamed, hats, cymbals = append(unnamed, i), hats+out[FamilyHat], cymbals+out[FamilyCymbal]
	}
	if len(unnamed) < least {
		return
	}
	for _, i := range unnamed {
		if hats >= cymbals {
			outs[i][FamilyHat], outs[i][outOpen] = familyThreshold[FamilyHat], max(outs[i][outOpen], 0.51)
		} else {
			outs[i][FamilyCymbal] = familyThreshold[FamilyCymbal]
		}
	}
}

// settleSoftHats looks at attacks of which a hat is the likeliest, though hardly likely, in a recording with many hats beyond doubt: where they rise
// clearly, as what rings of other drums does not, they are soft hats among the others.
func settleSoftHats(e Examined, outs [][NetOutput]float64) {
	const (
		many, sure = 8, 0.9
		least      = 0.05 // probability
		strength   = 0.25
		riseDB     = 9
	)
	hats := 0
	for _, out := range outs {
		if out[FamilyHat] > sure {
			hats++
		}
	}
	if hats < many {
		return
	}
	for i, out := range outs {
		likeliest := slices.Max(out[:families])
		if o := e.onsets[i]; likeliest == out[FamilyHat] && likeliest > least && likeliest <= leastProbability && o.strength > strength && o.riseDB > riseDB {
			outs[i][FamilyHat] = familyThreshold[FamilyHat]
		}
	}
}

// twoGroups parts values where the spread within both parts is least (Otsu 1979), each of at least so many: the border between them and
// their means.
func twoGroups(values []float64, least int) (border, low, high float64, ok bool) {
	v := slices.Sorted(slices.Values(values))
	widest, sum, total := math.Inf(-1), 0.0, 0.0
	for _, x := range v {
		total += x
	}
	for k := 1; k < len(v); k++ {
		sum += v[k-1]
		a, b := sum/float64(k), (total-sum)/float64(len(v)-k)
		if between := float64(k*(len(v)-k)) * (b - a) * (b - a); k >= least && len(v)-k >= least && between > widest {
			widest, border, low, high, ok = between, (v[k-1]+v[k])/2, a, b, true
		}
	}
	return border, low, high, ok
}

// logOdds is ln(p/(1−p)), held within ±7: what is all but certain differs by what the networks round.
func logOdds(p float64) float64 {
	const least = 1e-3
	p = min(1-least, max(least, p))
	return math.Log(p / (1 - p))
}
