package kit

import "testing"

// loudness in LU of made-up samples
func loudOf(sample string) float64 {
	return map[string]float64{"soft": -30, "loud": -10, "silent": -90}[sample]
}

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
	}{{"soft", true, 17}, {"soft", false, 0}, {"silent", true, 24}, {"loud", true, -3}} {
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
