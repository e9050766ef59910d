package hear_test

import (
	"context"
	"errors"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"hexachord/core/hear"
	"hexachord/core/music"
	"hexachord/core/sound"
)

func drumNote(h hear.Hit) int {
	if h.Lane != nil {
		return *h.Lane
	}
	return h.Note
}

func reviewed() hear.Hearing {
	return hear.Hearing{BPM: 120, Bars: 2, Meter: music.CommonTime, Hits: []hear.Hit{
		{TimeS: 0, Note: 36, Velocity: 120, Confidence: 0.99},
		{TimeS: 0.5, Note: 38, Velocity: 110, Confidence: 0.4, Or: 39, OrConfidence: 0.35},
		{TimeS: 0.52, Note: 38, Velocity: 40, Confidence: 0.9},
		{TimeS: 0.755, Note: 38, Velocity: 30, Confidence: 0.9},
		{TimeS: 1.06, Note: 42, Velocity: 20, Confidence: 0.5},
	}}
}

func apply(t *testing.T, h hear.Hearing, e hear.Edit) hear.Hearing {
	t.Helper()
	next, err := h.Apply(e, drumNote)
	if err != nil {
		t.Fatal(err)
	}
	return next
}

// A doubtful hit is kept, moved to the other drum with one edit, or taken out and brought back; what is out makes no hit
// of the pattern, and what it was heard as is never lost.
func TestDoubtsAreReviewed(t *testing.T) {
	h := reviewed()
	kept := apply(t, h, hear.Edit{Op: "keep", Hits: []int{1}})
	if !h.Hits[1].Doubtful() || kept.Hits[1].Doubtful() || kept.Hits[1].Confidence != 0.4 {
		t.Errorf("kept: %+v", kept.Hits[1])
	}
	other := apply(t, h, hear.Edit{Op: "other", Hits: []int{1}})
	if o := other.Hits[1]; o.Note != 39 || o.Or != 38 || o.Doubtful() {
		t.Errorf("the other drum: %+v", o)
	}
	moved := apply(t, h, hear.Edit{Op: "lane", Hits: []int{1}, Lane: 61})
	if drumNote(moved.Hits[1]) != 61 || moved.Hits[1].Note != 38 {
		t.Errorf("moved to a lane: %+v", moved.Hits[1])
	}
	out := apply(t, h, hear.Edit{Op: "out", Hits: []int{1, 4}})
	lane := func(h hear.Hit) (int, bool) { return drumNote(h), true }
	p, _, _, err := out.Pattern("p", music.Sixteenths, 0, lane)
	if err != nil || len(p.Hits) != 3 || len(out.Hits) != 5 {
		t.Errorf("%d of %d hits are kept, %v", len(p.Hits), len(out.Hits), err)
	}
	if back := apply(t, out, hear.Edit{Op: "back", Hits: []int{1, 4}}); !slices.EqualFunc(back.Hits, h.Hits, func(a, b hear.Hit) bool { return a == b }) {
		t.Error("brought back, they are not as they were")
	}
	for _, bad := range []hear.Edit{{Op: "keep", Hits: []int{5}}, {Op: "other", Hits: []int{0}}, {Op: "velocity", Hits: []int{0}}, {Op: "paint", Hits: []int{0}}, {Op: "clean"}} {
		if _, err := h.Apply(bad, drumNote); !errors.Is(err, hear.ErrEdit) {
			t.Errorf("%+v: %v", bad, err)
		}
	}
}

func TestCleaning(t *testing.T) {
	h := reviewed()
	velocities := func(h hear.Hearing) (v []int) {
		for _, hit := range h.Hits {
			v = append(v, hit.Velocity)
		}
		return v
	}
	even := apply(t, h, hear.Edit{Op: "clean", Hits: []int{1, 2, 3}, Clean: &hear.Clean{How: "even", Amount: 112, Ghost: 45}})
	if got := velocities(even); !slices.Equal(got, []int{120, 112, 40, 30, 20}) {
		t.Errorf("main strokes to 112, ghosts left: %v", got)
	}
	gap := apply(t, h, hear.Edit{Op: "clean", Clean: &hear.Clean{How: "close", Amount: 45}})
	if gap.Hits[2].State != hear.Out || gap.Hits[1].State == hear.Out || gap.Hits[3].State == hear.Out {
		t.Errorf("of two snares 20 ms apart the harder stays: %+v", gap.Hits)
	}
	soft := apply(t, h, hear.Edit{Op: "clean", Hits: []int{4}, Clean: &hear.Clean{How: "soft", Amount: 25}})
	if soft.Hits[4].State != hear.Out || soft.Hits[3].State == hear.Out {
		t.Errorf("hats under 25: %+v", soft.Hits)
	}
	found := map[string][]int{}
	for _, p := range h.Proposals(drumNote) {
		found[p.Name] = p.Hits
	}
	if !slices.Equal(found["Too close together"], []int{2}) || !slices.Equal(found["Very soft"], []int{4}) || !slices.Equal(found["Alone off the grid"], []int{4}) {
		t.Errorf("proposed: %v", found)
	}
}

// A player who slows down: pinned to his bar lines, every stroke on a beat lies on its tick, and a lean inside the bar
// survives; a bar line dragged to where no bar can be is refused.
func TestTheGridFollowsADrummerWhoDrifts(t *testing.T) {
	h := hear.Hearing{BPM: 120, Bars: 3, Meter: music.CommonTime}
	barS, at := 2.0, 0.0
	for range 4 {
		for beat := range 4 {
			if at < 6.5 {
				h.Hits = append(h.Hits, hear.Hit{TimeS: at + barS*float64(beat)/4, Note: []int{36, 38}[beat%2], Velocity: 120, Confidence: 1})
			}
		}
		h.Hits = append(h.Hits, hear.Hit{TimeS: at + barS*5/16 + 0.02, Note: 42, Velocity: 60, Confidence: 1})
		at += barS
		barS *= 1.02
	}
	steady := h.TickAt(4.1208)
	if math.Abs(steady-2*3840) < 50 {
		t.Fatalf("the third bar begins at tick %.0f of the steady grid already", steady)
	}
	f := h.Follow()
	for bar, want := range []float64{0, 2, 4.04, 6.1208} {
		if got := f.TimeAt(float64(bar * 3840)); math.Abs(got-want) > 1e-6 {
			t.Errorf("bar %d is pinned to %.4f s, played at %.4f", bar+1, got, want)
		}
	}
	for _, hit := range f.Hits[:12] {
		tick := f.TickAt(hit.TimeS)
		if lean := tick - math.Round(tick/240)*240; hit.Note != 42 && math.Abs(lean) > 0.5 || hit.Note == 42 && math.Abs(lean-0.02/barOf(hit.TimeS)*3840) > 1 {
			t.Errorf("%.3f s on note %d leans %.1f ticks", hit.TimeS, hit.Note, lean)
		}
	}
	if back := f.TimeAt(f.TickAt(3.21)); math.Abs(back-3.21) > 1e-9 {
		t.Errorf("there and back: %g", back)
	}
	pins := slices.Clone(f.Pins)
	pins[1].TimeS = 3.9
	if _, err := f.Pinned(pins); !errors.Is(err, hear.ErrEdit) {
		t.Errorf("a bar of %.1f s: %v", 0.14, err)
	}
	if again, err := f.Pinned(nil); err != nil || again.TickAt(2) != 3840 {
		t.Errorf("steady again: %v", err)
	}
}

func barOf(t float64) float64 {
	for _, b := range [][2]float64{{2, 2}, {4.04, 2.04}, {1e9, 2.0808}} {
		if t < b[0] {
			return b[1]
		}
	}
	return 0
}

// bursts is a 100 Hz tone struck at times with amplitudes, under noise: what a gate must hear is known.
func bursts(rate int, seconds float64, times, amps []float64) sound.Buffer {
	rng := rand.New(rand.NewPCG(4, 4))
	b := sound.New(rate, 1, int(seconds*float64(rate)))
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(rng.NormFloat64() * 0.002)
	}
	for n, t := range times {
		for i := range rate / 4 {
			k := int(t*float64(rate)) + i
			if k < b.Frames() {
				b.Channels[0][k] += float32(amps[n] * math.Sin(2*math.Pi*100*float64(i)/float64(rate)) * math.Exp(-float64(i)/float64(rate)*30))
			}
		}
	}
	return b
}

// Open and close thresholds make a gate with hysteresis; the gap lets no second hit through; the suggested thresholds lie
// between strokes and bleed 15 dB below (synthesised here, so that the truth is exact).
func TestAListenerHearsItsBand(t *testing.T) {
	times, amps := []float64{0.5, 1, 1.5, 2, 2.5, 3}, []float64{0.8, 0.14, 0.7, 0.14, 0.8, 0.13}
	b := bursts(44100, 4, times, amps)
	v := hear.LevelsOf(b.Channels[0], b.Rate, 40, 200)
	open, close := v.Suggest()
	if open < -15 || open > -1 || close >= open {
		t.Fatalf("suggested %g and %g dB; strokes lie at 0, bleed at −15", open, close)
	}
	l := hear.Listener{LoHz: 40, HiHz: 200, OpenDB: open, CloseDB: close, GapMS: 60}
	heard := l.Strikes(v)
	if len(heard) != 3 {
		t.Fatalf("heard %+v", heard)
	}
	for i, s := range heard {
		if d := s.TimeS - times[2*i]; math.Abs(d) > 0.005 {
			t.Errorf("stroke %d is %.1f ms off", i+1, 1000*d)
		}
	}
	l.OpenDB, l.CloseDB = -24, -30
	if n := len(l.Strikes(v)); n != 6 {
		t.Errorf("opened wider it hears %d of 6", n)
	}
	l.GapMS = 700
	if n := len(l.Strikes(v)); n != 3 {
		t.Errorf("with a gap of 700 ms it hears %d", n)
	}
	l.Off = true
	if n := len(l.Strikes(v)); n != 0 {
		t.Errorf("off, it hears %d", n)
	}
	for _, bad := range []hear.Listener{{LoHz: 100, HiHz: 90, OpenDB: -10, CloseDB: -20}, {LoHz: 40, HiHz: 200, OpenDB: -20, CloseDB: -10}, {LoHz: math.NaN(), HiHz: 200}} {
		if err := bad.Check(); !errors.Is(err, hear.ErrListener) {
			t.Errorf("%+v: %v", bad, err)
		}
	}
	// heard again by itself, a lane keeps what the person said of its hits
	h := hear.Hearing{Hits: []hear.Hit{{TimeS: 0.501, Note: 36, Velocity: 90, Confidence: 0.3, State: hear.Kept}, {TimeS: 0.75, Note: 38, Velocity: 80, Confidence: 1}}}
	h.First = h.Hits
	again := h.Rehear(36, 36, heard, drumNote)
	if len(again.Hits) != 4 || again.Hits[0].State != hear.Kept || again.Hits[1].Note != 38 || !again.Hits[2].Doubtful() {
		t.Errorf("heard again: %+v", again.Hits)
	}
	if back := again.HeardFirst(36, drumNote); len(back.Hits) != 2 {
		t.Errorf("as first heard: %+v", back.Hits)
	}
}

// A sound laid upside down under a stroke takes its low end away; turned over it adds. Two equal waves add 6.02 dB.
func TestReinforcingKeepsTheLowEnd(t *testing.T) {
	rec := bursts(44100, 2, []float64{0.5, 1.2}, []float64{0.5, 0.5})
	same := bursts(44100, 0.4, []float64{0}, []float64{0.5})
	upside := same.Region(0, same.Frames())
	upside.Channels = [][]float32{slices.Clone(same.Channels[0])}
	for i := range upside.Channels[0] {
		upside.Channels[0][i] *= -1
	}
	times := []float64{0.5 + float64(hear.AttackFrame(same))/44100, 1.2 + float64(hear.AttackFrame(same))/44100}
	r := hear.Reinforce(rec, same, times, []float64{1, 1})
	if math.Abs(r.AfterDB-r.BeforeDB-6.02) > 0.2 || r.Flip {
		t.Errorf("in phase: %+v", r)
	}
	if r = hear.Reinforce(rec, upside, times, []float64{1, 1}); r.AfterDB > r.BeforeDB-10 || !r.Flip || math.Abs(r.FlippedDB-r.BeforeDB-6.02) > 0.2 {
		t.Errorf("upside down: %+v", r)
	}
}

// The cleanest strokes become samples: alone before strokes that fall together, softest first, never a doubtful one.
func TestCutsTakeTheCleanestStrokes(t *testing.T) {
	b := bursts(48000, 4, []float64{0.5, 1, 2, 3}, []float64{0.1, 0.7, 0.8, 0.75})
	h := hear.Hearing{Hits: []hear.Hit{{TimeS: 0.5, Note: 36, Confidence: 1}, {TimeS: 1, Note: 36, Confidence: 1}, {TimeS: 1.05, Note: 42, Confidence: 1},
		{TimeS: 2, Note: 36, Confidence: 1}, {TimeS: 3, Note: 36, Confidence: 0.2}}}
	cuts := h.Cuts(b, drumNote, nil)[36]
	if len(cuts) != 2 || cuts[0].Hit != 0 || cuts[1].Hit != 3 {
		t.Fatalf("cut: %+v", cuts)
	}
	if c := cuts[1]; c.StartFrame != 48000*2-48 || c.EndFrame > 48000*3 || c.EndFrame < c.StartFrame+48000/10 {
		t.Errorf("frames %d to %d", c.StartFrame, c.EndFrame)
	}
}

// A stroke chosen by ear goes before a cleaner one of its loudness, also when it was doubtful; the other layers stay.
func TestCutsTakeWhatWasChosenByEar(t *testing.T) {
	b := bursts(48000, 4, []float64{0.5, 1, 2, 3}, []float64{0.1, 0.7, 0.8, 0.75})
	h := hear.Hearing{Hits: []hear.Hit{{TimeS: 0.5, Note: 36, Confidence: 1}, {TimeS: 1, Note: 36, Confidence: 1}, {TimeS: 2, Note: 36, Confidence: 1},
		{TimeS: 3, Note: 36, Confidence: 0.2}}}
	for _, want := range []int{1, 2, 3} {
		if cuts := h.Cuts(b, drumNote, []int{want})[36]; len(cuts) != 2 || cuts[0].Hit != 0 || cuts[1].Hit != want {
			t.Errorf("with %d chosen: %+v", want, cuts)
		}
	}
}

func TestOneChannelIsListenedTo(t *testing.T) {
	b := sound.Buffer{Rate: 8000, Channels: [][]float32{{1, 1}, {0, 1}}}
	for c, want := range map[hear.Channel][]float32{hear.Both: {0.5, 1}, hear.Left: {1, 1}, hear.Right: {0, 1}, hear.Mid: {0.5, 1}, hear.Side: {0.5, 0}} {
		if got, err := c.Of(b); err != nil || !slices.Equal(got.Channels[0], want) {
			t.Errorf("%q: %v, %v", c, got.Channels, err)
		}
	}
	if _, err := hear.Channel("rear").Of(b); !errors.Is(err, hear.ErrChannel) {
		t.Error(err)
	}
	same := sound.Buffer{Rate: 44100, Channels: [][]float32{bursts(44100, 1, []float64{0.2}, []float64{0.8}).Channels[0]}}
	same.Channels = append(same.Channels, same.Channels[0])
	if _, err := hear.Listen(context.Background(), same, hear.Options{Channel: hear.Side}); !errors.Is(err, hear.ErrSilent) {
		t.Errorf("what both sides share has no side: %v", err)
	}
}

// No drums, one stroke, damage and odd rates give a sensible answer or a clear sentence, never sure hits that nobody played.
func TestOddRecordings(t *testing.T) {
	sine := func(rate int, hz float64) sound.Buffer {
		b := sound.New(rate, 1, rate*3)
		for i := range b.Channels[0] {
			b.Channels[0][i] = float32(0.5 * math.Sin(2*math.Pi*hz*float64(i)/float64(rate)))
		}
		return b
	}
	sure := func(b sound.Buffer) (n int) {
		t.Helper()
		h, err := hear.Listen(context.Background(), b, hear.Options{})
		if err != nil {
			t.Fatal(err)
		}
		for _, hit := range h.Hits {
			if hit.Confidence >= 0.8 && hit.TimeS > 0.1 { // the tone's own beginning is an attack
				n++
			}
		}
		return n
	}
	for name, b := range map[string]sound.Buffer{"a sine": sine(44100, 440), "a low sine": sine(44100, 60), "8 kHz": sine(8000, 300), "192 kHz": sine(192000, 300)} {
		if n := sure(b); n > 0 {
			t.Errorf("%s: %d sure hits", name, n)
		}
	}
	if n := sure(speechLike()); n > 1 {
		t.Errorf("speech-like noise: %d sure hits in 4 s", n)
	}
	one := bursts(44100, 2, []float64{0.7}, []float64{0.9})
	h := listen(t, one, hear.Options{})
	if len(h.Hits) == 0 || math.Abs(h.Hits[0].TimeS-0.7) > 0.01 || h.Bars < 1 {
		t.Errorf("one hit: %+v", h)
	}
	brk, truth, _ := deckBreak(t)
	clipped := sound.Buffer{Rate: brk.Rate, Channels: [][]float32{brk.Mono()}}
	for i, v := range clipped.Channels[0] {
		clipped.Channels[0][i] = min(0.3, max(-0.3, v)) + 0.2 // clipped, and off centre
	}
	got := listen(t, clipped, hear.Options{})
	if f := fMeasure(timesOf(got.Hits, heardHit, -1), timesOf(truth, trueHit, -1), 0.02); f < 0.9 {
		t.Errorf("clipped and with a DC offset: F %.3f", f)
	}
}

// speechLike is a hum and hiss that swell at the pace of syllables, in a telephone's band.
func speechLike() sound.Buffer {
	rng := rand.New(rand.NewPCG(1, 1))
	b := sound.New(44100, 1, 44100*4)
	lo, hi := sound.LowPass(3500, 44100), sound.HighPass(200, 44100)
	for i := range b.Channels[0] {
		s := float64(i) / 44100
		swell := math.Pow(0.5-0.5*math.Cos(2*math.Pi*(3.7*s+0.6*math.Sin(2*math.Pi*0.9*s))), 2)
		voice := 0.0
		for k := 1; k < 12; k++ {
			voice += math.Sin(2*math.Pi*(120+20*math.Sin(2*math.Pi*0.7*s))*float64(k)*s) / float64(k)
		}
		b.Channels[0][i] = float32(swell * lo.Next(hi.Next(0.3*rng.NormFloat64()+0.15*voice)))
	}
	return b
}
