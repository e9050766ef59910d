package kit

import "testing"

// heard has the loudness of made-up samples in LU; all peak at −40 dBFS but the thin one, which has no more room than 2 dB.
type heard struct{}

func (heard) Loudness(sample string) float64 {
	return map[string]float64{"soft": -30, "thin": -30, "loud": -10, "silent": -90, "a": -30, "b": -20, "c": -10, "d": -25}[sample]
}

func (heard) PeakDB(sample string) float64 {
	if sample == "thin" {
		return -2
	}
	return -40
}

var loudOf = heard{}

func tried(t *testing.T, hear string, match bool, sample string) Layer {
	t.Helper()
	old := Take{Sample: "loud", Shape: Whole()}
	old.Shape.GainDB = -3
	k := Kit{Pads: []Pad{{Note: 38, Layers: []Layer{NewLayer(1, 80, Take{Sample: "other"}), NewLayer(81, 127, old)}}}}
	p := k.Tried(Try{Note: 38, Layer: 1, Sample: sample, Hear: hear, Match: match}, loudOf)
	if p.Layers[0].Sounds[0].Takes[0].Sample != "other" || k.Pads[0].Layers[1].Sounds[0].Takes[0].Sample != "loud" {
		t.Fatal("another layer, or the kit itself, was changed")
	}
	return p.Layers[1]
}

// A sample at −30 stands in for one at −10 that is turned down 3 dB: it is raised by 17. 24 dB is the most.
func TestATriedSampleIsMatchedInLoudness(t *testing.T) {
	for _, c := range []struct {
		sample string
		match  bool
		want   float64
	}{{"soft", true, 17}, {"soft", false, 0}, {"silent", true, 24}, {"loud", true, -3}, {"thin", true, 2}} {
		got := tried(t, "new", c.match, c.sample).Sounds[0].Takes[0]
		if got.Sample != c.sample || got.Shape.GainDB != c.want {
			t.Errorf("%s, matched %v: %+g dB, want %+g", got.Sample, c.match, got.Shape.GainDB, c.want)
		}
	}
}

func TestATriedSampleIsHeardBesideOrInTurn(t *testing.T) {
	if l := tried(t, "old", true, "soft"); len(l.Sounds) != 1 || l.Sounds[0].Takes[0].Sample != "loud" {
		t.Errorf("the old alone: %+v", l.Sounds)
	}
	if l := tried(t, "both", true, "soft"); len(l.Sounds) != 2 || l.Sounds[0].Takes[0].Sample != "loud" || l.Sounds[1].Takes[0].Sample != "soft" {
		t.Errorf("both: %+v", l.Sounds)
	}
	if l := tried(t, "turn", true, "soft"); l.Order != InTurn || len(l.Sounds[0].Takes) != 2 || l.Sounds[0].Takes[0].Sample != "soft" {
		t.Errorf("in turn: %+v", l)
	}
	empty := Kit{}.Tried(Try{Note: 40, Sample: "soft", Hear: "new", Match: true}, loudOf)
	if len(empty.Layers) != 1 || empty.Layers[0].Lo != 1 || empty.Layers[0].Hi != 127 || empty.Layers[0].Sounds[0].Takes[0].Shape.GainDB != 0 {
		t.Errorf("on a pad without sounds: %+v", empty)
	}
}

// Tried for the whole pad a sample stands in for every layer, and is matched to the hardest.
func TestASampleIsTriedForTheWholePad(t *testing.T) {
	k := Kit{Pads: []Pad{{Note: 38, Layers: []Layer{NewLayer(1, 80, Take{Sample: "soft"}), NewLayer(81, 127, Take{Sample: "loud"})}}}}
	try := Try{Note: 38, Layer: 0, Sample: "silent", Hear: "new", Match: true, Whole: true}
	p := k.Tried(try, loudOf)
	if len(p.Layers) != 1 || p.Layers[0].Lo != 1 || p.Layers[0].Hi != 127 || p.Layers[0].Sounds[0].Takes[0].Shape.GainDB != 24 {
		t.Errorf("alone: %+v", p.Layers)
	}
	try.Hear, try.Sample = "both", "soft"
	p = k.Tried(try, loudOf)
	if len(p.Layers) != 2 || len(p.Layers[0].Sounds) != 2 || len(p.Layers[1].Sounds) != 2 || p.Layers[0].Sounds[1].Takes[0].Shape.GainDB != 20 {
		t.Errorf("with every layer: %+v", p.Layers)
	}
	try.Hear = "old"
	if p = k.Tried(try, loudOf); len(p.Layers) != 2 || len(p.Layers[0].Sounds) != 1 {
		t.Errorf("the old alone: %+v", p.Layers)
	}
}
