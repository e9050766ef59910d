package layout

import (
	"context"
	"math"
	"reflect"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/kind"
	"hexachord/core/kit"
	"hexachord/core/sound"
)

func sample(name string, k kind.Kind, sure float64) Sample {
	return Sample{Take: kit.Take{Sample: name, Source: name, Shape: kit.Whole()}, Name: name, Kind: k, Confidence: sure}
}

// loudnesses are measured of samples by their names.
type loudnesses map[string]float64

func (l loudnesses) Loudness(s string) float64 { return l[s] }
func (loudnesses) PeakDB(string) float64       { return -6 }

// ears hear loudness by name, and likeness as one number a sample, far apart for different letters.
func ears(loud loudnesses) Ears {
	return Ears{loud, func(s string) []float32 { return []float32{float32(s[0])} }}
}

func TestSamplesGoToTheLanesOfTheirKind(t *testing.T) {
	m := drummap.FullSet()
	k := kit.Kit{Pads: []kit.Pad{{Note: 36, VelTrack: 100, Layers: []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: "old", Source: "k soft", Shape: kit.Whole()})}}}}
	loud := ears(loudnesses{"snare hard": -10, "snare soft": -30})
	in := []Sample{sample("k", "kick", 0.9), sample("snare hard", "snare", 0.9), sample("snare soft", "snare", 0.4), sample("hc", "closed hat", 0.9), sample("ho", "open hat", 0.9),
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
	if len(row[36].Pad.Layers) != 2 || !row[36].Full || len(row[38].Pad.Layers) != 2 || row[38].Pad.Layers[0].Sounds[0].Takes[0].Sample != "snare soft" {
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

// Two kicks are two drums and have two lanes; strokes of one drum, told by name or by sound, are its layers.
func TestEachDrumHasItsLane(t *testing.T) {
	plan := func(o Options, names ...string) Plan {
		t.Helper()
		var in []Sample
		for _, n := range names {
			s := sample(n, "kick", 0.9)
			s.Likeness = []float32{float32(n[0])}
			in = append(in, s)
		}
		o.By = ByKind
		p, err := Make(drummap.FullSet(), kit.Kit{}, in, o, ears(nil))
		if err != nil {
			t.Fatal(err)
		}
		if err := p.Map.Check(); err != nil {
			t.Error(err)
		}
		return p
	}
	lanes := func(p Plan) (out [][]int) {
		for _, r := range p.Rows {
			out = append(out, append([]int{r.Lane.Note, r.Beside}, r.Samples...))
		}
		return out
	}
	for _, c := range []struct {
		what  string
		o     Options
		names []string
		want  [][]int // note, note of the lane that had the kind, samples
	}{
		{"two kicks by name", Options{}, []string{"Kick Deep.wav", "Kick Tight.wav"}, [][]int{{36, -1, 0}, {35, 36, 1}}},
		{"one kick, soft and hard", Options{}, []string{"Kick Deep soft.wav", "Kick Deep hard.wav"}, [][]int{{36, -1, 0, 1}}},
		{"numbers, alike", Options{}, []string{"Kick 1.wav", "Kick 2.wav"}, [][]int{{36, -1, 0, 1}}},
		{"three of two kicks", Options{}, []string{"Kick A v1.wav", "Boom.wav", "Kick A v2.wav"}, [][]int{{36, -1, 0, 2}, {35, 36, 1}}},
		{"a person sends one to the snare", Options{Lane: map[int]int{1: 38}}, []string{"Kick 1.wav", "Kick 2.wav"}, [][]int{{36, -1, 0}, {38, -1, 1}}},
		{"a lane of its own", Options{Lane: map[int]int{1: OwnLane}}, []string{"Kick 1.wav", "Kick 2.wav"}, [][]int{{36, -1, 0}, {35, -1, 1}}},
		{"a note without a lane", Options{Lane: map[int]int{0: 99}}, []string{"Kick 1.wav"}, [][]int{{99, -1, 0}}},
	} {
		if got := lanes(plan(c.o, c.names...)); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %v, want %v", c.what, got, c.want)
		}
	}
	if p := plan(Options{Lane: map[int]int{0: LeftOut}}, "Kick 1.wav"); len(p.Rows) != 0 || len(p.Left) != 1 || p.Left[0].Why != "unwanted" {
		t.Errorf("left out: %+v", p)
	}
	// numbers, but sounding otherwise
	in := []Sample{sample("Kick 1.wav", "kick", 1), sample("Kick 2.wav", "kick", 1)}
	in[0].Likeness, in[1].Likeness = []float32{0}, []float32{1}
	if p, _ := Make(drummap.FullSet(), kit.Kit{}, in, Options{By: ByKind}, ears(nil)); len(p.Rows) != 2 {
		t.Errorf("two kicks by sound: %+v", lanes(p))
	}
	// a lane that sounds another kick keeps it alone
	full := kit.Kit{Pads: []kit.Pad{{Note: 36, Layers: []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: "zz", Source: "Hull thump 1.wav", Shape: kit.Whole()})}}}}
	p, err := Make(drummap.FullSet(), full, in[:1], Options{By: ByKind}, ears(nil))
	if err != nil || len(p.Rows) != 1 || !p.Rows[0].New || p.Rows[0].Beside != 36 || len(p.Rows[0].Pad.Layers) != 1 {
		t.Errorf("beside a kick that sounds: %+v %v", p.Rows, err)
	}
}

// One a pad means one a pad: silent lanes from the foot, then fresh ones.
func TestPiecesGoOneAPad(t *testing.T) {
	m := drummap.FullSet()
	full := kit.Kit{Pads: []kit.Pad{{Note: 38, Layers: []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: "zz", Shape: kit.Whole()})}}}}
	var in []Sample
	for i := range 16 {
		s := sample("loop", "snare", 0.9)
		s.Take.Shape.StartFrame, s.Take.Shape.EndFrame = 100*i, 100*i+100
		in = append(in, s)
	}
	p, err := Make(m, full, in, Options{By: ByOrder}, ears(nil))
	if err != nil || len(p.Rows) != 16 || len(p.Map.Lanes) != 17 {
		t.Fatalf("%d rows, %d lanes, %v", len(p.Rows), len(p.Map.Lanes), err)
	}
	for _, r := range p.Rows {
		if r.Full || len(r.Samples) != 1 || len(r.Pad.Layers) != 1 {
			t.Errorf("on %s: %+v", r.Lane.Name, r)
		}
	}
	// by kind, the pieces of one recording are one drum's layers
	p, err = Make(m, kit.Kit{}, in, Options{By: ByKind}, ears(nil))
	if err != nil || len(p.Rows) != 1 || len(p.Rows[0].Pad.Layers) != 16 {
		t.Errorf("by kind: %d rows, %v", len(p.Rows), err)
	}
}

func TestDrumNames(t *testing.T) {
	for name, want := range map[string]string{"Plank snare v1.wav": "Plank snare", "Kick 01.wav": "Kick 01", "kick_soft_2.wav": "kick_soft_2", "Rope hard.wav": "Rope",
		"soft.wav": "soft", "Deep kick vel127 rr2.aif": "Deep kick", "snare.wav": "snare"} {
		if got := drumName(name); got != want {
			t.Errorf("%s is called %q, want %q", name, got, want)
		}
	}
}

// An instrument sampled note by note goes to the notes its names give; two strokes of one note are its layers.
func TestAnInstrumentGoesToItsNotes(t *testing.T) {
	for name, want := range map[string]int{"Marimba C4.wav": 60, "marimba_F#2_v1.wav": 42, "Log Drum Bb3 soft.wav": 58, "bell-072.wav": 72, "glass a-1.aif": 9, "D4 take 10.wav": 62} {
		if got, ok := pitchOf(name); !ok || got != want {
			t.Errorf("%s is on note %d %v, want %d", name, got, ok, want)
		}
	}
	for _, name := range []string{"kick.wav", "Abc4.wav", "take 1.wav", "loop 950.wav"} {
		if got, ok := pitchOf(name); ok {
			t.Errorf("%s is on note %d", name, got)
		}
	}
	in := []Sample{sample("Log C3.wav", "percussion", 0.5), sample("Log D3 soft.wav", "kick", 0.9), sample("Log D3 hard.wav", "kick", 0.9), sample("Log.wav", "kick", 0.9)}
	p, err := Make(drummap.FullSet(), kit.Kit{}, in, Options{By: ByPitch}, ears(loudnesses{"Log D3 hard.wav": -5, "Log D3 soft.wav": -20}))
	if err != nil {
		t.Fatal(err)
	}
	got := map[int]int{}
	for _, r := range p.Rows {
		got[r.Lane.Note] = len(r.Pad.Layers)
	}
	if !reflect.DeepEqual(got, map[int]int{48: 1, 50: 2}) || len(p.Left) != 1 || p.Left[0].Why != "name" {
		t.Errorf("layers by note %v, left %v", got, p.Left)
	}
}
