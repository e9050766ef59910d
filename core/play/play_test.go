package play

import (
	"math"
	"slices"
	"testing"

	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/sound"
)

const rate = 48000

// a kit of constant sounds: what is heard is the gains, the cuts and the fades
func testKit() kit.Kit {
	layer := func(name string, lo, hi int) kit.Layer {
		return kit.NewLayer(lo, hi, kit.Take{Sample: name, Shape: kit.Whole()})
	}
	held := layer("held", 1, 127)
	held.Sounds[0].Takes[0].Shape.ReleaseMS = 20
	return kit.Kit{Pads: []kit.Pad{
		{Note: 36, VelTrack: 100, Layers: []kit.Layer{layer("soft", 1, 80), layer("hard", 81, 127)}},
		{Note: 42, VelTrack: 100, Choke: 1, SelfChoke: true, Layers: []kit.Layer{layer("closed", 1, 127)}},
		{Note: 46, VelTrack: 0, Choke: 1, Layers: []kit.Layer{layer("open", 1, 127)}},
		{Note: 50, VelTrack: 0, Held: true, Layers: []kit.Layer{held}},
	}}
}

func voices(t Table, frames int) map[string]Voice {
	out := map[string]Voice{}
	for _, spec := range t.Voices() {
		b := sound.New(rate, 1, frames)
		for i := range b.Channels[0] {
			b.Channels[0][i] = 1
		}
		out[spec.ID()] = Voice{Buffer: b}
	}
	return out
}

func onePattern(hits ...pattern.Hit) pattern.Pattern {
	pattern.SortHits(hits)
	return pattern.Pattern{Name: "p", Bars: 1, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: hits}
}

func pass(p pattern.Pattern, f feel.Feel) (Pass, Table) {
	t := Compile(testKit(), rate)
	return Cues(p, f, 120, t, nil), t
}

func TestVelocityFiresItsLayerWithItsGain(t *testing.T) {
	got, table := pass(onePattern(pattern.Hit{Note: 36, Velocity: 80}, pattern.Hit{Note: 36, Tick: 960, Velocity: 81}), feel.Straight)
	if len(got.Cues) != 2 || got.Cues[0].Layer != 0 || got.Cues[1].Layer != 1 {
		t.Fatalf("cues %+v", got.Cues)
	}
	if got.Cues[0].Voice != table.Pads[0].Layers[0].Takes[0].Voice {
		t.Error("the soft layer's voice was not meant")
	}
	want := math.Pow(80.0/127, 2) * math.Sqrt2 / 2
	if math.Abs(got.Cues[0].Left-want) > 1e-12 {
		t.Errorf("gain %g, want %g", got.Cues[0].Left, want)
	}
	if math.Abs(got.Cues[1].AtS-0.5) > 1e-12 || got.LengthS != 2 {
		t.Errorf("at %g in %g s, want 0.5 in 2", got.Cues[1].AtS, got.LengthS)
	}
}

func TestSwingSplitsAndSilence(t *testing.T) {
	swung := feel.Feel{Swing: feel.Swing{Percent: 200.0 / 3, Grid: music.Sixteenths}}
	got, _ := pass(onePattern(pattern.Hit{Note: 36, Tick: 240, Velocity: 100}, pattern.Hit{Note: 42, Velocity: 60, Split: 2, Slope: 10}, pattern.Hit{Note: 99, Velocity: 9}), swung)
	if got.Silent != 1 {
		t.Errorf("%d silent hits, want the one without a pad", got.Silent)
	}
	at := map[int][]float64{}
	for _, c := range got.Cues {
		at[c.Note] = append(at[c.Note], c.AtS*960*2) // in ticks
	}
	if math.Abs(at[36][0]-320) > 1e-6 {
		t.Errorf("the swung hit is at tick %g, want 320", at[36][0])
	}
	if math.Abs(at[42][1]-160) > 1e-6 { // the first cell of a swung pair is longer, and its split with it
		t.Errorf("the split's second stroke is at tick %g, want 160", at[42][1])
	}
	if muted := Cues(onePattern(pattern.Hit{Note: 36, Velocity: 9}), swung, 120, Compile(testKit(), rate), func(int) bool { return true }); len(muted.Cues) != 0 {
		t.Error("a muted lane sounds")
	}
}

func TestClosedHatChokesTheOpenOneInFiveMilliseconds(t *testing.T) {
	p, table := pass(onePattern(pattern.Hit{Note: 46, Velocity: 100}, pattern.Hit{Note: 42, Tick: 960, Velocity: 127}), feel.Straight)
	out := bounced(p, 1, rate, voices(table, rate))
	centre := float32(math.Sqrt2 / 2)
	at := func(s float64) float32 { return out.Channels[0][int(math.Round(s*rate))] }
	if got := at(0.4999); math.Abs(float64(got-centre)) > 1e-6 {
		t.Errorf("before the closed hat the open one is at %g, want %g", got, centre)
	}
	if got := at(0.5025); math.Abs(float64(got-centre*1.5)) > 0.01 {
		t.Errorf("half way through the fade both make %g, want %g", got, centre*1.5)
	}
	if got := at(0.506); math.Abs(float64(got-centre)) > 1e-6 {
		t.Errorf("after 5 ms only the closed hat sounds: %g, want %g", got, centre)
	}
}

func TestHeldStopsThroughItsReleaseAndOneShotRingsOn(t *testing.T) {
	p, table := pass(onePattern(pattern.Hit{Note: 50, Velocity: 100, Length: 480}), feel.Straight)
	out := bounced(p, 1, rate, voices(table, 4*rate))
	if out.Channels[0][int(0.249*rate)] == 0 || out.Channels[0][int(0.26*rate)] == 0 || out.Channels[0][int(0.271*rate)] != 0 {
		t.Error("a held pad of an eighth at 120 BPM sounds 250 ms and releases for 20")
	}
	p, table = pass(onePattern(pattern.Hit{Note: 36, Velocity: 127, Length: 480}), feel.Straight)
	if out = bounced(p, 1, rate, voices(table, 3*rate)); out.Frames() != 3*rate {
		t.Errorf("a one-shot of 3 s was cut to %d frames", out.Frames())
	}
}

func TestAHitBeforeTheFirstLineLeadsInButNotOnTheFirstPass(t *testing.T) {
	p, table := pass(onePattern(pattern.Hit{Note: 36, Tick: -96, Velocity: 127}), feel.Straight)
	out := bounced(p, 2, rate, voices(table, 10))
	second := int(math.Round((2 - 0.05) * rate))
	if out.Channels[0][0] == 0 || out.Channels[0][second] == 0 || out.Channels[0][second-1] != 0 {
		t.Error("the hit sounds at 0 on the first pass and 50 ms before the second")
	}
}

func TestBounceIsTheSumOfItsStemsAndTheSameEachTime(t *testing.T) {
	hits := []pattern.Hit{{Note: 36, Velocity: 99}, {Note: 42, Tick: 100, Velocity: 80}, {Note: 36, Tick: 700, Velocity: 70}}
	whole, table := pass(onePattern(hits...), feel.Straight)
	v := voices(table, 20000)
	mix, again := bounced(whole, 2, rate, v), bounced(whole, 2, rate, v)
	only := func(note int) sound.Buffer {
		return bounced(Cues(onePattern(hits...), feel.Straight, 120, table, func(n int) bool { return n != note }), 2, rate, v)
	}
	a, b := only(36), only(42)
	at := func(b sound.Buffer, i int) float32 {
		if i < b.Frames() {
			return b.Channels[0][i]
		}
		return 0
	}
	for i, m := range mix.Channels[0] {
		if m != again.Channels[0][i] {
			t.Fatal("two bounces of the same differ")
		}
		if d := math.Abs(float64(m - at(a, i) - at(b, i))); d > 1e-6 {
			t.Fatalf("frame %d: mix %g, stems %g + %g", i, m, at(a, i), at(b, i))
		}
	}
}

func TestVoicesAreNamedByWhatMadeThem(t *testing.T) {
	a := VoiceSpec{Sample: "x", Rate: rate}
	b := a
	b.Semitones = 0.01
	if a.ID() != (VoiceSpec{Sample: "x", Rate: rate}).ID() || a.ID() == b.ID() {
		t.Error("equal specs have one name, others another")
	}
	loud := sound.New(rate, 3, 1000)
	for _, ch := range loud.Channels {
		for i := range ch {
			ch[i] = 1
		}
	}
	v := VoiceSpec{Form: kit.Shape{StartFrame: 100, EndFrame: 600, SustainPct: 100}, Rate: rate}.Shape(loud)
	if len(v.Channels) != 1 || v.Frames() != 500 {
		t.Fatalf("%d channels of %d frames", len(v.Channels), v.Frames())
	}
	ms := rate / 1000
	if v.Channels[0][0] != 0 || v.Channels[0][ms+1] != 1 || v.Channels[0][499] != 0 {
		t.Error("a region that does not begin or end at a zero crossing is faded over 1 ms")
	}
}

// Takes sound in turn through the passes, at random never twice running, and the same each time.
func TestTakesFollowEachOther(t *testing.T) {
	take := func(name string) kit.Take { return kit.Take{Sample: name, Shape: kit.Whole()} }
	pad := kit.Pad{Note: 38, VelTrack: 100, Layers: []kit.Layer{kit.NewLayer(1, 127, take("a"), take("b"), take("c"))}}
	played := func(passes int) (names []string) {
		table := Compile(kit.Kit{Pads: []kit.Pad{pad}}, rate)
		sample := map[string]string{}
		for _, v := range table.Voices() {
			sample[v.ID()] = v.Sample
		}
		p := Cues(onePattern(pattern.Hit{Note: 38, Velocity: 9}, pattern.Hit{Note: 38, Tick: 960, Velocity: 99}), feel.Straight, 120, table, nil)
		for n := range passes {
			for _, c := range p.Cues {
				names = append(names, sample[p.Take(c, n).Voice])
			}
		}
		return names
	}
	if got := played(3); !slices.Equal(got, []string{"a", "b", "c", "a", "b", "c"}) {
		t.Errorf("three takes in turn over three passes of two strokes: %v", got)
	}
	pad.Layers[0].Order = kit.Random
	got := played(100)
	count := map[string]int{}
	for i, name := range got {
		count[name]++
		if i > 0 && got[i-1] == name {
			t.Fatalf("take %s sounds twice running at stroke %d", name, i)
		}
	}
	if count["a"] < 40 || count["b"] < 40 || count["c"] < 40 || !slices.Equal(got, played(100)) {
		t.Errorf("200 strokes at random: %v, or another order the second time", count)
	}
}

// Attack 10 ms, decay 20 ms to 50 %: by hand 0.5 at 5 ms, 1 at 10 ms, 0.75 at 20 ms, 0.5 from 30 ms on.
func TestEnvelopeByWorkedExample(t *testing.T) {
	flat := sound.New(rate, 1, rate/10)
	for i := range flat.Channels[0] {
		flat.Channels[0][i] = 1
	}
	form := kit.Whole()
	form.AttackMS, form.DecayMS, form.SustainPct = 10, 20, 50
	v := VoiceSpec{Form: form, Rate: rate}.Shape(flat)
	for ms, want := range map[int]float64{5: 0.5, 10: 1, 20: 0.75, 30: 0.5, 60: 0.5} {
		if got := float64(v.Channels[0][ms*rate/1000]); math.Abs(got-want) > 1e-6 {
			t.Errorf("at %d ms the gain is %g, want %g", ms, got, want)
		}
	}
	form = kit.Whole()
	form.FadeOutMS, form.Curve, form.Reverse, form.StartFrame = 50, kit.Falling, true, rate/20
	v = VoiceSpec{Form: form, Rate: rate}.Shape(flat)
	if n := v.Frames(); n != rate/20 || math.Abs(float64(v.Channels[0][n/2])-0.25) > 0.001 {
		t.Errorf("half way down a falling fade of %d frames the gain is %g, want ¼", n, v.Channels[0][n/2])
	}
}

// A held pad repeats its loop for as long as it is held, without a seam, and then releases.
func TestALoopGoesOnWhileHeld(t *testing.T) {
	saw := sound.New(rate, 1, 1000)
	for i := range saw.Channels[0] {
		saw.Channels[0][i] = float32(i%100) / 100
	}
	form := kit.Whole()
	form.Loop, form.LoopStart, form.LoopEnd, form.DecayMS, form.SustainPct = true, 200, 300, 100, 50
	pad := kit.Pad{Note: 50, Held: true, Layers: []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: "x", Shape: form})}}
	table := Compile(kit.Kit{Pads: []kit.Pad{pad}}, rate)
	spec := table.Voices()[0]
	v := spec.Shape(saw)
	if v.LoopEnd-v.LoopStart != 100 || v.LoopStart < rate/10 || v.Frames() != v.LoopEnd {
		t.Fatalf("the loop is %d to %d of %d; 100 frames after the decay are meant", v.LoopStart, v.LoopEnd, v.Frames())
	}
	p := Cues(onePattern(pattern.Hit{Note: 50, Velocity: 127, Length: 960}), feel.Straight, 120, table, nil)
	out := bounced(p, 1, rate, map[string]Voice{spec.ID(): v})
	for _, at := range []int{rate / 5, rate/2 - 10} {
		if got, want := float64(out.Channels[0][at]), float64(at%100)/100*0.5*math.Sqrt2/2; math.Abs(got-want) > 1e-6 {
			t.Errorf("frame %d of the held loop is %g, want %g", at, got, want)
		}
	}
	if out.Channels[0][rate/2+int(ChokeFadeS*rate)+1] != 0 {
		t.Error("the loop goes on after it is let go")
	}
	pad.Held = false
	if v := Compile(kit.Kit{Pads: []kit.Pad{pad}}, rate).Voices()[0].Shape(saw); v.LoopEnd != 0 || v.Frames() != 1000 {
		t.Error("a one-shot pad plays its region once")
	}
}

// A pad may be cut by another group than its own: here the open hat by the closed one, but not the other way round.
func TestCuttingCanGoOneWay(t *testing.T) {
	layer := func(name string) []kit.Layer {
		return []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: name, Shape: kit.Whole()})}
	}
	k := kit.Kit{Pads: []kit.Pad{{Note: 42, Choke: 1, CutBy: 3, Layers: layer("closed")}, {Note: 46, Choke: 2, CutBy: 1, Layers: layer("open")}}}
	table := Compile(k, rate)
	level := func(first, second int) float32 { // while both could sound
		p := Cues(onePattern(pattern.Hit{Note: first, Velocity: 127}, pattern.Hit{Note: second, Tick: 960, Velocity: 127}), feel.Straight, 120, table, nil)
		return bounced(p, 1, rate, voices(table, rate)).Channels[0][rate/2+rate/10]
	}
	one := float32(math.Sqrt2 / 2)
	if got := level(46, 42); math.Abs(float64(got-one)) > 1e-6 {
		t.Errorf("the open hat rings on through the closed one: %g", got)
	}
	if got := level(42, 46); math.Abs(float64(got-2*one)) > 1e-6 {
		t.Errorf("the open hat cuts the closed one: %g", got)
	}
}

// Stacked sounds start together, each with its level, pan and tune; one that is off is silent. Overlaps crossfade.
func TestStacksAndBlends(t *testing.T) {
	take := kit.Take{Sample: "x", Shape: kit.Whole()}
	l := kit.NewLayer(1, 127, take)
	l.Sounds = append(l.Sounds, kit.Sound{LevelDB: -6, Pan: -1, Semitones: 7, Takes: []kit.Take{take}}, kit.Sound{Off: true, Takes: []kit.Take{take}})
	p := Cues(onePattern(pattern.Hit{Note: 38, Velocity: 127}), feel.Straight, 120, Compile(kit.Kit{Pads: []kit.Pad{{Note: 38, VelTrack: 100, Layers: []kit.Layer{l}}}}, rate), nil)
	if len(p.Cues) != 2 || p.Cues[0].AtS != p.Cues[1].AtS || p.Cues[0].Voice == p.Cues[1].Voice {
		t.Fatalf("cues %+v", p.Cues)
	}
	if c := p.Cues[1]; math.Abs(c.Left-math.Pow(10, -6.0/20)) > 1e-9 || c.Right > 1e-9 {
		t.Errorf("hard left at −6 dB: %g and %g", c.Left, c.Right)
	}
	// tuned +7 semitones it plays 1.498 times as fast
	b := sound.New(rate, 1, 14983)
	fast := VoiceSpec{Form: kit.Whole(), Semitones: 7, Rate: rate}.Shape(b)
	if n := fast.Frames(); n < 9999 || n > 10001 {
		t.Errorf("14,983 frames tuned up seven semitones last %d, want 10,000", n)
	}
	pad := kit.Pad{Note: 40, Crossfade: true, Layers: []kit.Layer{kit.NewLayer(1, 90, take), kit.NewLayer(50, 127, take)}}
	table := Compile(kit.Kit{Pads: []kit.Pad{pad}}, rate)
	both := Cues(onePattern(pattern.Hit{Note: 40, Velocity: 70}), feel.Straight, 120, table, nil).Cues
	if len(both) != 2 || math.Abs(both[0].Left*both[0].Left+both[1].Left*both[1].Left-0.5) > 1e-9 {
		t.Errorf("blended: %+v", both)
	}
}

// What an instrument that only receives MIDI plays: every stroke, kit or no kit, swung and split.
func TestStrokesForMIDI(t *testing.T) {
	swung := feel.Feel{Swing: feel.Swing{Percent: 200.0 / 3, Grid: music.Sixteenths}}
	p := Cues(onePattern(pattern.Hit{Note: 99, Tick: 240, Velocity: 80, Length: 480}, pattern.Hit{Note: 36, Velocity: 60, Split: 3, Slope: 10}), swung, 120, Compile(testKit(), rate), nil)
	var got [][2]int
	for _, s := range p.Strokes {
		got = append(got, [2]int{s.Note, s.Velocity})
	}
	if !slices.Equal(got, [][2]int{{36, 60}, {36, 70}, {36, 80}, {99, 80}}) {
		t.Fatalf("strokes %v", got)
	}
	if last := p.Strokes[3]; math.Abs(last.AtS-music.Seconds(320, 120)) > 1e-9 || math.Abs(last.LengthS-0.25) > 1e-9 {
		t.Errorf("the swung stroke %+v, want at tick 320 for half a beat", last)
	}
}
