package layout

import (
	"context"
	"math"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/kind"
	"hexachord/core/kit"
	"hexachord/core/sound"
)

func sample(name string, k kind.Kind, sure float64) Sample {
	return Sample{Take: kit.Take{Sample: name, Source: name, Shape: kit.Whole()}, Name: name, Kind: k, Confidence: sure}
}

func TestSamplesGoToTheLanesOfTheirKind(t *testing.T) {
	m := drummap.FullSet()
	k := kit.Kit{Pads: []kit.Pad{{Note: 36, VelTrack: 100, Layers: []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: "old", Shape: kit.Whole()})}}}}
	loud := func(s string) float64 { return map[string]float64{"s1": -10, "s2": -30}[s] }
	in := []Sample{sample("k", "kick", 0.9), sample("s1", "snare", 0.9), sample("s2", "snare", 0.4), sample("hc", "closed hat", 0.9), sample("ho", "open hat", 0.9),
		sample("bell", "cowbell", 0.9), sample("old", "kick", 1), sample("l", "loop", 1), sample("mt", "mid tom", 1)}
	p, err := Make(m, k, in, Options{By: ByKind}, loud)
	if err != nil {
		t.Fatal(err)
	}
	row := map[int]Row{}
	for _, r := range p.Rows {
		row[r.Lane.Note] = r
	}
	// kick on 36, snare 38, closed hat 42 … (General MIDI); two snares from soft to loud
	if len(row[36].Pad.Layers) != 2 || !row[36].Full || len(row[38].Pad.Layers) != 2 || row[38].Pad.Layers[0].Sounds[0].Takes[0].Sample != "s2" {
		t.Errorf("kick %+v, snare %+v", row[36].Pad.Layers, row[38].Pad.Layers)
	}
	if row[42].Pad.Choke == 0 || row[42].Pad.Choke != row[46].Pad.Choke {
		t.Error("an open hat beside a closed one is in its choke group")
	}
	if !row[56].New || len(p.Map.Lanes) != 13 || row[48].Samples[0] != 8 {
		t.Errorf("a cowbell needs a lane, a mid tom goes to a tom's: %d lanes", len(p.Map.Lanes))
	}
	if len(p.Left) != 2 || p.Left[0].Why != "same" || p.Left[1].Why != "loop" || len(p.Doubtful) != 1 || p.Doubtful[0] != 2 {
		t.Errorf("left %v, doubtful %v", p.Left, p.Doubtful)
	}
	if len(m.Lanes) != 12 || len(k.Pads) != 1 {
		t.Error("planning changed what it planned for")
	}
	p, err = Make(m, k, in[:3], Options{By: ByKind, How: map[int]kit.How{36: kit.Replace}, Kinds: map[int]kind.Kind{2: "clap"}}, loud)
	if err != nil || len(p.Rows) != 3 || p.Rows[0].Pad.Layers[0].Sounds[0].Takes[0].Sample != "k" || p.Rows[2].Lane.Role != drummap.Clap || len(p.Doubtful) != 0 {
		t.Errorf("as a person decides: %+v %v", p.Rows, err)
	}
	p, _ = Make(m, kit.Kit{}, in[:3], Options{By: ByOrder}, loud)
	if p.Rows[0].Lane.Role != drummap.Kick || p.Rows[1].Lane.Role != drummap.Snare || p.Rows[2].Lane.Role != drummap.LowTom {
		t.Error("in order, from the foot of the map")
	}
}

// Strokes half a second apart, dying away in 200 ms: cut at each, ended where it is quiet.
func TestCutFindsThePieces(t *testing.T) {
	const rate = 48000
	b := sound.New(rate, 1, 3*rate)
	for n := range 5 {
		for i := range rate / 4 {
			b.Channels[0][rate/4+n*rate/2+i] = float32(math.Exp(-float64(i)/2000) * math.Sin(float64(i)*0.4))
		}
	}
	pieces, err := Cut(context.Background(), b, CutOptions{Strength: 0.3, MinGapS: 0.09, DeadDB: -48})
	if err != nil || len(pieces) != 5 {
		t.Fatalf("%d pieces, %v", len(pieces), err)
	}
	for n, p := range pieces {
		want := rate/4 + n*rate/2
		if d := p.StartFrame - want; d < -rate/200 || d > rate/200 || p.EndFrame-want > rate/4 || p.EndFrame-want < rate/10 {
			t.Errorf("piece %d goes from %d to %d, the stroke begins at %d", n, p.StartFrame, p.EndFrame, want)
		}
	}
	pieces, _ = Cut(context.Background(), b, CutOptions{DeadDB: -48, Marks: []int{0, rate, 2 * rate}})
	if len(pieces) != 3 || pieces[1].StartFrame != rate {
		t.Errorf("at the marks given: %+v", pieces)
	}
}
