package hear

import (
	"math"
	"math/rand/v2"
	"testing"
)

// verdicts makes outputs of (kick, snare, snare's level in dB) for as many onsets.
func verdicts(all ...[3]float64) (outs [][NetOutput]float64) {
	for _, v := range all {
		var out [NetOutput]float64
		out[FamilyKick], out[FamilySnare], out[LevelOf(FamilySnare)] = v[0], v[1], v[2]/20
		outs = append(outs, out)
	}
	return outs
}

// An attack that was sought in the wrong place is moved to where the sound rises; not where another lies, not in hiss alone, and not to the end of
// a recording that breaks off.
func TestAttacksAreMovedToWhereTheSoundRises(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 8))
	x := make([]float32, AnalysisRate)
	for i := range x {
		x[i] = float32(0.001 * rng.NormFloat64())
		if since := float64(i)/AnalysisRate - 0.5; since >= 0 {
			x[i] += float32(0.3 * rng.NormFloat64() * math.Exp(-since/0.03))
		}
	}
	whole := x[:AnalysisRate-3000]
	for _, c := range []struct {
		name string
		x    []float32
		at   []float64
		want float64 // where the last of them lies afterwards
	}{
		{"too early", whole, []float64{0.486}, 0.5},
		{"too late", whole, []float64{0.514}, 0.5},
		{"where it is", whole, []float64{0.5}, 0.5},
		{"in hiss", whole, []float64{0.2}, 0.2},
		{"beside another", whole, []float64{0.5, 0.519}, 0.519},
		{"before the end", x[:AnalysisRate/2+200], []float64{0.493}, 0.493},
	} {
		var onsets []onset
		for _, at := range c.at {
			onsets = append(onsets, onset{timeS: at})
		}
		newRiser(c.x, onsets, 1e-9).rises(onsets)
		if last := onsets[len(onsets)-1]; math.Abs(last.timeS-c.want) > 0.0025 {
			t.Errorf("%s: it lies at %.4f s, want %.4f (rises %.1f dB)", c.name, last.timeS, c.want, last.riseDB)
		} else if c.want == 0.5 && last.riseDB < fullRiseDB {
			t.Errorf("%s: it rises %.1f dB", c.name, last.riseDB)
		}
	}
}

// A kick under every backbeat that is less sure than the kicks alone is the snare's body; a kick that is as sure, or under
// some backbeats only, was struck; ghosts have no say.
func TestKicksUnderTheSnare(t *testing.T) {
	alone, ghost := [3]float64{0.99, 0, 0}, [3]float64{0, 0.97, -24}
	for _, c := range []struct {
		name string
		back [4]float64 // kick under each backbeat
		kept int
	}{
		{"the snare's body", [4]float64{0.8, 0.76, 0.83, 0.79}, 0},
		{"kicks as sure as those alone", [4]float64{0.98, 0.99, 0.97, 0.99}, 4},
		{"under two of four", [4]float64{0.8, 0.01, 0.83, 0.02}, 2},
	} {
		var all [][3]float64
		for _, k := range c.back {
			all = append(all, alone, ghost, [3]float64{k, 0.99, -3})
		}
		outs := verdicts(all...)
		settleKick(outs)
		kept := 0
		for i, out := range outs {
			kick := out[FamilyKick] >= familyThreshold[FamilyKick]
			if i%3 == 0 && !kick {
				t.Errorf("%s: the kick alone at %d is gone", c.name, i)
			}
			if i%3 == 2 && kick {
				kept++
			}
		}
		if kept != c.kept {
			t.Errorf("%s: %d kicks under the snare are kept, want %d", c.name, kept, c.kept)
		}
	}
}

// A shaker hides hats: where every other of its strokes has something of a hat and the others nothing, those are hats, under a kick too; where
// all have as much, or as little, none are.
func TestHatsUnderAShaker(t *testing.T) {
	for _, c := range []struct {
		name      string
		even, odd float64 // probability of a hat
		kicks     bool    // every fourth stroke
		hats      int
	}{
		{"hats with every other", 0.2, 0.01, false, 8},
		{"hats with every other, some under kicks", 0.2, 0.01, true, 8},
		{"no hats at all", 0.02, 0.01, false, 0},
		{"something of a hat in all", 0.25, 0.15, false, 0},
		{"hardly anything in either", 0.03, 0.001, false, 0},
		{"every other is hardly more of a hat", 0.12, 0.06, false, 0},
		{"heard anyway", 0.9, 0.01, false, 8},
	} {
		outs := make([][NetOutput]float64, 16)
		for i := range outs {
			outs[i][FamilyShaker], outs[i][FamilyHat] = 0.97, []float64{c.even, c.odd}[i%2]
			if c.kicks && i%4 == 0 {
				outs[i][FamilyKick] = 0.99
			}
		}
		snare := [NetOutput]float64{FamilySnare: 0.99, FamilyHat: 0.3, FamilyShaker: 0.97} // what a hat would be here is not known
		outs = append(outs, snare)
		settleUnderShaker(outs)
		hats := 0
		for i, out := range outs {
			if out[FamilyHat] < familyThreshold[FamilyHat] {
				continue
			}
			hats++
			if i%2 == 1 || i == 16 {
				t.Errorf("%s: stroke %d is a hat", c.name, i)
			}
		}
		if hats != c.hats {
			t.Errorf("%s: %d hats, want %d", c.name, hats, c.hats)
		}
	}
}

// Clear attacks without a name that ring on are open hats or rides by what all of them are the likelier; what dies away, hardly rises, swells,
// has a name or comes seldom stays as it is.
func TestAttacksWithoutAName(t *testing.T) {
	for _, c := range []struct {
		name          string
		count         int
		falls         float64
		of            onset
		hat, cymbal   float64
		hats, cymbals int
	}{
		{"they ring", 6, 2, onset{strength: 1, riseDB: 18}, 0.09, 0.02, 6, 0},
		{"like a ride", 6, 2, onset{strength: 1, riseDB: 18}, 0.02, 0.12, 0, 6},
		{"they die away", 6, 25, onset{strength: 1, riseDB: 18}, 0.09, 0.02, 0, 0},
		{"they hardly rise", 6, 2, onset{strength: 1, riseDB: 8}, 0.09, 0.02, 0, 0},
		{"they are weak", 6, 2, onset{strength: 0.1, riseDB: 18}, 0.09, 0.02, 0, 0},
		{"they swell", 6, 2, onset{strength: 1, riseDB: 18, growsDB: 9}, 0.09, 0.02, 0, 0},
		{"three of them", 3, 2, onset{strength: 1, riseDB: 18}, 0.09, 0.02, 0, 0},
		{"they have a name", 6, 2, onset{strength: 1, riseDB: 18}, 0.35, 0.02, 0, 0},
	} {
		var e Examined
		var outs [][NetOutput]float64
		for i := range c.count {
			patch := make([]float32, PatchSize)
			for b := range patchBands {
				patch[4*patchBands+b] = patch[patchBands+b] - float32(c.falls/20)
			}
			e.Patches, e.onsets, e.TimesS = append(e.Patches, patch), append(e.onsets, c.of), append(e.TimesS, float64(i)*0.5)
			outs = append(outs, [NetOutput]float64{FamilyHat: c.hat, FamilyCymbal: c.cymbal})
		}
		settleUnnamed(e, outs)
		hats, cymbals := 0, 0
		for _, out := range outs {
			if out[FamilyHat] >= familyThreshold[FamilyHat] && out[outOpen] > 0.5 {
				hats++
			}
			if out[FamilyCymbal] >= familyThreshold[FamilyCymbal] {
				cymbals++
			}
		}
		if hats != c.hats || cymbals != c.cymbals {
			t.Errorf("%s: %d open hats and %d cymbals, want %d and %d", c.name, hats, cymbals, c.hats, c.cymbals)
		}
	}
}

// In a recording with many hats beyond doubt a clear attack that is a hat at likeliest, though hardly likely, is one, doubtful; not where hats are
// few, where it hardly rises or is weak, or where another drum is likelier.
func TestSoftHatsAmongMany(t *testing.T) {
	clear := onset{strength: 0.4, riseDB: 12}
	for _, c := range []struct {
		name       string
		sure       int
		of         onset
		hat, snare float64
		heard      bool
	}{
		{"among many", 10, clear, 0.1, 0.02, true},
		{"among few", 5, clear, 0.1, 0.02, false},
		{"it hardly rises", 10, onset{strength: 0.4, riseDB: 6}, 0.1, 0.02, false},
		{"it is weak", 10, onset{strength: 0.1, riseDB: 12}, 0.1, 0.02, false},
		{"a snare is likelier", 10, clear, 0.1, 0.12, false},
		{"nothing says hat", 10, clear, 0.03, 0.02, false},
	} {
		var e Examined
		var outs [][NetOutput]float64
		add := func(o onset, hat, snare float64) {
			o.timeS = float64(len(outs)) * 0.25
			e.TimesS, e.onsets, e.Patches = append(e.TimesS, o.timeS), append(e.onsets, o), append(e.Patches, make([]float32, PatchSize))
			outs = append(outs, [NetOutput]float64{FamilyHat: hat, FamilySnare: snare})
		}
		for range c.sure {
			add(onset{strength: 1, riseDB: 20}, 0.98, 0.01)
		}
		add(c.of, c.hat, c.snare)
		strokes := strokesOf(e, outs)
		last := strokes[len(strokes)-1]
		if heard := last.Onset == c.sure && last.Note == 42; heard != c.heard {
			t.Errorf("%s: %d strokes, the last %+v", c.name, len(strokes), last)
		} else if heard && last.Confidence >= Doubtful {
			t.Errorf("%s: it is sure at %.2f", c.name, last.Confidence)
		}
	}
}

// What was settled to be a hat is as loud as its attack looks, whatever the nets say of it; what they heard is as loud as they say. An attack
// that was moved is less sure than one that was not.
func TestWhatWasSettledIsAsLoudAsItLooks(t *testing.T) {
	var e Examined
	var outs [][NetOutput]float64
	add := func(o onset, hat, bands float64) {
		patch := make([]float32, PatchSize)
		for b := range patchBands {
			patch[b], patch[patchBands+b] = -2, float32(1+bands/20)
		}
		o.timeS = float64(len(outs)) * 0.25
		e.TimesS, e.onsets, e.Patches = append(e.TimesS, o.timeS), append(e.onsets, o), append(e.Patches, patch)
		outs = append(outs, [NetOutput]float64{FamilyHat: hat})
	}
	for range 9 {
		add(onset{strength: 1, riseDB: 20}, 0.98, 0)
	}
	add(onset{strength: 1, riseDB: 20, moved: true}, 0.98, -12)
	add(onset{strength: 0.4, riseDB: 12}, 0.1, -12)
	strokes := strokesOf(e, outs)
	if len(strokes) != 11 {
		t.Fatalf("%d strokes", len(strokes))
	}
	plain, moved, settled := strokes[0], strokes[9], strokes[10]
	if math.Abs(moved.LevelDB-plain.LevelDB) > 0.1 {
		t.Errorf("nets say the same of two, and they are %.1f and %.1f dB", plain.LevelDB, moved.LevelDB)
	}
	if softer := plain.LevelDB - settled.LevelDB; softer < 8 || softer > 16 {
		t.Errorf("what looks 12 dB softer is %.1f dB softer", softer)
	}
	if moved.Confidence > plain.Confidence-0.02 {
		t.Errorf("moved it is sure at %.3f, otherwise at %.3f", moved.Confidence, plain.Confidence)
	}
}

// What keeps time and hardly falls is a ride, what dies at once a hat, where the nets are of two minds; a kick between two
// strokes hides nothing of it, a snare does.
func TestTheTimekeeper(t *testing.T) {
	recording := func(fallDB float64, between int) (Examined, [][NetOutput]float64) {
		var e Examined
		var outs [][NetOutput]float64
		for i := range 8 {
			patch := make([]float32, PatchSize)
			for b := range patchBands {
				patch[patchBands+b], patch[4*patchBands+b] = 0, float32(-fallDB/20)
			}
			var out, other [NetOutput]float64
			out[FamilyHat], out[FamilyCymbal] = 0.55, 0.45
			if fallDB > diesDB {
				out[FamilyHat], out[FamilyCymbal] = 0.45, 0.55
			}
			other[between] = 0.99
			e.TimesS = append(e.TimesS, float64(i)*0.2, float64(i)*0.2+0.1)
			e.Patches = append(e.Patches, patch, make([]float32, PatchSize))
			outs = append(outs, out, other)
		}
		return e, outs
	}
	for _, c := range []struct {
		name          string
		falls         float64
		between, want int
	}{
		{"rings, kicks between", 3, FamilyKick, FamilyCymbal},
		{"dies, kicks between", 30, FamilyKick, FamilyHat},
		{"rings, snares between: not seen, as the nets said", 3, FamilySnare, FamilyHat},
	} {
		e, outs := recording(c.falls, c.between)
		settleTimekeeper(e, outs)
		for i := 0; i < 14; i += 2 { // the last one is followed by nothing
			if got := outs[i]; got[c.want] != math.Max(got[FamilyHat], got[FamilyCymbal]) {
				t.Errorf("%s: stroke %d is hat %.2f, cymbal %.2f", c.name, i, got[FamilyHat], got[FamilyCymbal])
			}
		}
	}
}

// One beat line is moved: a steady grid keeps its other bars, the first line takes all along, what cannot be is refused.
func TestPinningALine(t *testing.T) {
	h := Hearing{BPM: 120, Bars: 4, BarOneS: 0.5}
	h.Meter.Beats, h.Meter.Unit = 4, 4
	bar := h.Meter.BarTicks()
	one, err := h.Pin(2*bar, 4.55)
	if err != nil || len(one.Pins) != 5 || math.Abs(one.TimeAt(float64(2*bar))-4.55) > 1e-9 || math.Abs(one.TimeAt(float64(bar))-2.5) > 1e-9 || math.Abs(one.TimeAt(float64(3*bar))-6.5) > 1e-9 {
		t.Errorf("bar 3 moved: %+v, %v", one.Pins, err)
	}
	if again, err := one.Pin(2*bar, 4.5); err != nil || len(again.Pins) != 5 || math.Abs(again.TimeAt(float64(2*bar))-4.5) > 1e-9 {
		t.Errorf("moved back: %+v, %v", again.Pins, err)
	}
	if beat, err := one.Pin(2*bar+bar/4, 5.0); err != nil || len(beat.Pins) != 6 {
		t.Errorf("a beat inside the bar: %+v, %v", beat.Pins, err)
	}
	if all, err := h.Pin(0, 0.6); err != nil || len(all.Pins) != 0 || math.Abs(all.BarOneS-0.6) > 1e-9 {
		t.Errorf("bar 1 moved: %+v, %v", all, err)
	}
	if _, err := h.Pin(2*bar, 2.6); err == nil {
		t.Error("a bar of a tenth of a second is taken")
	}
}
