package play

import (
	"math"
	"testing"

	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/pattern"
	"hexachord/core/sound"
)

// crossings counts how often a sound goes up through zero.
func crossings(x []float32) (n int) {
	for i := 1; i < len(x); i++ {
		if x[i-1] < 0 && x[i] >= 0 {
			n++
		}
	}
	return n
}

// A hit with a tune of its own sounds so much higher or lower, added to its pad's; others of the lane stay; each tune has voices of its own,
// which the table does not have.
func TestHitsHaveATuneOfTheirOwn(t *testing.T) {
	k := kit.Kit{Name: "k", Pads: []kit.Pad{kit.NewPad(36)}}
	k.Pads[0].Semitones = 2
	k.Pads[0].Layers = []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: "a", Source: "a.wav", Shape: kit.Whole()})}
	table := Compile(k, 48000)
	tone := sound.New(48000, 1, 48000)
	for i := range tone.Channels[0] {
		tone.Channels[0][i] = float32(0.5 * math.Sin(2*math.Pi*220*float64(i)/48000))
	}
	p := onePattern(pattern.Hit{Note: 36, Tick: 0, Velocity: 127, Tune: 1200}, pattern.Hit{Note: 36, Tick: 960, Velocity: 127}, pattern.Hit{Note: 36, Tick: 1920, Velocity: 127, Tune: -700},
		pattern.Hit{Note: 36, Tick: 2880, Velocity: 127, Tune: 1200})
	pass := Cues(p, feel.Straight, 60, table, nil)
	if len(pass.Tuned) != 2 || len(pass.Cues) != 4 || pass.Cues[0].Voice != pass.Cues[3].Voice || pass.Cues[1].Voice != table.Pads[0].Layers[0].Takes[0].Voice {
		t.Fatalf("%d tuned voices for %+v", len(pass.Tuned), pass.Cues)
	}
	byID := map[string]VoiceSpec{}
	for _, v := range append(table.Voices(), pass.Tuned...) {
		byID[v.ID()] = v
	}
	for i, cents := range []float64{1200, 0, -700, 1200} {
		v := byID[pass.Cues[i].Voice].Shape(tone)
		want := 220 * math.Exp2((200+cents)/1200)
		if hz := float64(crossings(v.Channels[0][:12000])) * 4; math.Abs(hz-want) > 5 {
			t.Errorf("hit %d sounds at %.0f Hz, not %.1f", i+1, hz, want)
		}
	}
	if (pattern.Pattern{Bars: 1, Meter: p.Meter, Grid: p.Grid, Hits: []pattern.Hit{{Note: 36, Velocity: 1, Tune: 2401}}}).Check() == nil {
		t.Error("tuned beyond two octaves")
	}
}
