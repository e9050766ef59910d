package hear

import (
	"math"

	"hexachord/core/spectrum"
)

// netMethod asks the nets about every onset.
type netMethod struct{ nets Nets }

// familyThreshold is the probability from which a family is heard. Shakers are much rarer in recordings than in the performances that were
// learnt from, and hats are like them.
var familyThreshold = [families]float64{0.5, 0.5, 0.5, 0.5, 0.5, 0.7}

// An attack that was no drum for sure is taken for its likeliest family all the same from lonelyProbability on, and one stronger than
// clearStrength (of the recording's typical one) from leastProbability on: a ghost that is doubtful can be dropped, one that is
// not there has to be found by ear.
const (
	lonelyProbability = 0.3
	clearStrength     = 0.3
	leastProbability  = 0.2
)

// familyNote is the General MIDI note a family is written as when its kind is the plain one.
var familyNote = [families]int{36, 38, 42, 45, 51, 70}

// How soon one drum can be struck again: no sooner than reStrikeS, and sooner than flamS only after a softer grace note (common
// practice, no source: flams lie 20 to 40 ms apart, the fastest double strokes 45).
const (
	reStrikeS = 0.018
	flamS     = 0.042
)

// Strokes implements Method.
func (m netMethod) Strokes(e Examined) []Stroke { return strokesOf(e, m.nets.Run(e)) }

// strokesOf makes strokes of the verdicts on e's onsets.
func strokesOf(e Examined, outs [][NetOutput]float64) []Stroke {
	settleTimekeeper(e, outs)
	settleKick(outs)
	settleUnderShaker(outs)
	settleUnnamed(e, outs)
	settleSoftHats(e, outs)
	var strokes []Stroke
	toms := tomNotes(e, outs)
	levels := levelsOf(e, outs)
	var last [families]int // index into strokes + 1
	for i, out := range outs {
		sure := certainty(e.onsets[i].riseDB)
		if e.onsets[i].growsDB > swellDB {
			sure *= swellSure
		}
		if e.onsets[i].moved {
			sure *= movedSure
		}
		if sure == 0 {
			continue
		}
		likeliest := 0
		for f := range families {
			if out[f] > out[likeliest] {
				likeliest = f
			}
		}
		for f := range families {
			p := out[f]
			// an attack was some drum, though it may be doubtful which
			some := f == likeliest && (p > lonelyProbability || p > leastProbability && e.onsets[i].strength > clearStrength)
			if p < familyThreshold[f] && !some {
				continue
			}
			note := familyNote[f]
			switch {
			case f == FamilySnare && out[outRim] > 0.5:
				note = 37
			case f == FamilySnare && out[outClap] > 0.5:
				note = 39
			case f == FamilyHat && out[outOpen] > 0.5:
				note = 46
			case f == FamilyCymbal && out[outCrash] > 0.5:
				note = 49
			case f == FamilyShaker && out[outTambourine] > 0.5:
				note = 54
			case f == FamilyTom:
				note = toms[i]
			}
			s := Stroke{Onset: i, Note: note, LevelDB: levels[i][f], Confidence: p * sure}
			s.Or, s.OrConfidence = runnerUp(out, f)
			if k := last[f] - 1; k >= 0 && e.TimesS[i]-e.TimesS[strokes[k].Onset] < flamS {
				before := &strokes[k]
				gap := e.TimesS[i] - e.TimesS[before.Onset]
				flam := gap >= reStrikeS && s.LevelDB > before.LevelDB && min(s.Confidence, before.Confidence) > 0.8
				switch {
				case flam: // a grace note before the stroke
				case s.LevelDB > before.LevelDB && s.Confidence > before.Confidence: // one stroke found twice, its beginning first
					*before = s
					continue
				default: // one stroke found twice, its ringing after
					before.Confidence = max(before.Confidence, s.Confidence)
					continue
				}
			}
			strokes = append(strokes, s)
			last[f] = len(strokes)
		}
	}
	for i := range strokes {
		s := &strokes[i]
		s.Confidence, s.OrConfidence = confidenceOf(s.Confidence), confidenceOf(s.OrConfidence)
	}
	return strokes
}

// The networks are surer on drums they have never met than they are right. What they say becomes a confidence by a line through these
// points, set on performances on a soundfont that nothing was learnt from: of hits of .9 and more 97 % are to be right, and those under
// Doubtful are to hold half of all that are wrong.
var confidencePoints = [][2]float64{{0, 0}, {0.5, 0.42}, {0.72, 0.6}, {0.9, 0.78}, {0.984, 0.9}, {1, 1}}

// confidenceOf leads from a probability to a confidence; it keeps the order.
func confidenceOf(p float64) float64 {
	for k := 1; k < len(confidencePoints); k++ {
		a, b := confidencePoints[k-1], confidencePoints[k]
		if p <= b[0] {
			return a[1] + (p-a[0])/(b[0]-a[0])*(b[1]-a[1])
		}
	}
	return 1
}

// A sound that hardly rises was no stroke, whatever it is like: steady tones, hiss and speech rise by chance alone.
const (
	leastRiseDB = 1
	fullRiseDB  = 6
)

// What goes on growing for 30 ms swells, as a voice does; a drum is loudest at once, a brushed or a large one soon.
const (
	swellDB   = 5
	swellSure = 0.6
	movedSure = 0.9 // what was sought in the wrong place first stands among other sounds
)

// certainty is how much a rise is to be believed: 0 is not at all.
func certainty(riseDB float64) float64 {
	if riseDB < leastRiseDB {
		return 0
	}
	return min(1, 0.4+0.6*(riseDB-leastRiseDB)/(fullRiseDB-leastRiseDB))
}

// runnerUp is the likeliest other family that was not itself heard.
func runnerUp(out [NetOutput]float64, heard int) (note int, confidence float64) {
	for f := range families {
		if f != heard && out[f] < familyThreshold[f] && out[f] > max(0.15, confidence) {
			note, confidence = familyNote[f], out[f]
		}
	}
	return note, confidence
}

// tomNotes tells the toms apart by pitch: the lowest clear peak of the spectrum after the attack.
func tomNotes(e Examined, outs [][NetOutput]float64) map[int]int {
	notes := map[int]int{}
	sp := spectrum.New(4096)
	for i, out := range outs {
		if out[FamilyTom] < leastProbability {
			continue
		}
		power := sp.At(e.mono, int(e.TimesS[i]*AnalysisRate)+200)
		const lo, hi = 55 * 4096 / AnalysisRate, 330 * 4096 / AnalysisRate
		best, bestHz := 0.0, 0.0
		for k := lo; k <= hi; k++ {
			if v := power[k]; v > best {
				best, bestHz = v, float64(k)*AnalysisRate/4096
			}
		}
		switch {
		case bestHz < 110:
			notes[i] = 45
		case bestHz < 150:
			notes[i] = 47
		default:
			notes[i] = 50
		}
	}
	return notes
}

// bandMethod is the plain reference: the rise of three bands decides.
type bandMethod struct{}

// Strokes implements Method.
func (bandMethod) Strokes(e Examined) []Stroke {
	type band struct{ note, from, to int }
	bands := [3]band{{36, 0, 3}, {38, 5, 20}, {42, 28, 40}} // of the patch's 40 mel bands
	var strokes []Stroke
	levels := make([][3]float64, len(e.Patches))
	rises := make([][3]float64, len(e.Patches))
	var top [3]float64
	for i, p := range e.Patches {
		for b, r := range bands {
			var before, after float64
			for k := r.from; k < r.to; k++ {
				before += math.Pow(10, 2*float64(p[k]))
				after += math.Pow(10, 2*float64(p[patchBands+k]))
			}
			levels[i][b] = 10 * math.Log10(after+1e-9)
			rises[i][b] = levels[i][b] - 10*math.Log10(before+1e-9)
			if i == 0 || levels[i][b] > top[b] {
				top[b] = levels[i][b]
			}
		}
	}
	for i := range levels {
		for b, r := range bands {
			if under := top[b] - levels[i][b]; under < 16 && rises[i][b] > 5 {
				sure := 1 / (1 + math.Exp(-(16-under+rises[i][b]-5)/8))
				strokes = append(strokes, Stroke{Onset: i, Note: r.note, LevelDB: levels[i][b], Confidence: sure})
			}
		}
	}
	return strokes
}
