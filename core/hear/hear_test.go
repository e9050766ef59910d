package hear_test

import (
	"context"
	"errors"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"testing"

	"hexachord/core/hear"
	"hexachord/core/music"
	"hexachord/core/sound"
	"hexachord/demo"
	"hexachord/demo/breaks"
	"hexachord/format/audio"
)

func deckBreak(t testing.TB) (sound.Buffer, []breaks.Hit, []byte) {
	t.Helper()
	file, truth, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	d, err := audio.Decode(file.Data, audio.Limits{Seconds: 60, Channels: 2})
	if err != nil {
		t.Fatal(err)
	}
	return d.Buffer, truth, file.Data
}

func listen(t testing.TB, b sound.Buffer, o hear.Options) hear.Hearing {
	t.Helper()
	h, err := hear.Listen(context.Background(), b, o)
	if err != nil {
		t.Fatal(err)
	}
	return h
}

// fMeasure matches predicted to true times one to one, in order, within reach.
func fMeasure(got, want []float64, reachS float64) float64 {
	hits, i, j := 0.0, 0, 0
	for i < len(got) && j < len(want) {
		switch d := got[i] - want[j]; {
		case math.Abs(d) <= reachS:
			hits++
			i, j = i+1, j+1
		case d < 0:
			i++
		default:
			j++
		}
	}
	return 2 * hits / float64(max(1, len(got)+len(want)))
}

func timesOf[H any](hits []H, of func(H) (float64, int), family int) (times []float64) {
	for _, h := range hits {
		at, note := of(h)
		if f, _ := hear.Family(note); family >= 0 && f != family {
			continue
		}
		if n := len(times); n == 0 || at-times[n-1] > 0.03 {
			times = append(times, at)
		}
	}
	return times
}

func heardHit(h hear.Hit) (float64, int)  { return h.TimeS, h.Note }
func trueHit(h breaks.Hit) (float64, int) { return h.TimeS, h.Note }

// The demo's recording is a performance on other sounds than any the recogniser learnt from, with known hits.
func TestTheDemoBreakIsHeard(t *testing.T) {
	b, truth, data := deckBreak(t)
	h := listen(t, b, hear.Options{})
	for _, c := range []struct {
		name   string
		family int
		least  float64
	}{{"any drum", -1, 0.95}, {"kick", hear.FamilyKick, 0.9}, {"snare", hear.FamilySnare, 0.85}, {"hat", hear.FamilyHat, 0.8}} {
		got, want := timesOf(h.Hits, heardHit, c.family), timesOf(truth, trueHit, c.family)
		if f := fMeasure(got, want, 0.02); f < c.least {
			t.Errorf("%s: F %.3f at ±20 ms (%d heard, %d true), at least %.2f is meant", c.name, f, len(got), len(want), c.least)
		}
	}
	if math.Abs(h.BPM/demo.BreakBPM-1) > 0.01 || h.Bars != demo.BreakBars || h.Meter != music.CommonTime || h.BarOneS > 0.03 {
		t.Errorf("heard %.2f BPM, %s, %d bars from %.3f s; played %.1f, 4/4, %d from 0", h.BPM, h.Meter, h.Bars, h.BarOneS, demo.BreakBPM, demo.BreakBars)
	}
	// ghosts stay ghosts
	for _, s := range truth {
		for _, g := range h.Hits {
			if s.Note == 38 && g.Note == 38 && math.Abs(s.TimeS-g.TimeS) < 0.02 && s.Velocity < 50 && g.Velocity > 90 {
				t.Errorf("the ghost snare at %.2f s (velocity %d) is heard as %d", s.TimeS, s.Velocity, g.Velocity)
			}
		}
	}
	// a general onset detector on the same file (aubio, spectral flux): finding the strokes at all must not be worse
	path := filepath.Join(t.TempDir(), "break.wav")
	if err := os.WriteFile(path, data, 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("aubioonset", "-O", "specflux", "-t", "0.3", "-i", path).Output()
	if err != nil {
		t.Fatalf("aubioonset: %v (make test installs it)", err)
	}
	var aubio []float64
	for _, line := range strings.Fields(string(out)) {
		at, err := strconv.ParseFloat(line, 64)
		if err != nil {
			t.Fatal(err)
		}
		aubio = append(aubio, at)
	}
	want := timesOf(truth, trueHit, -1)
	ours, theirs := fMeasure(timesOf(h.Hits, heardHit, -1), want, 0.02), fMeasure(aubio, want, 0.02)
	t.Logf("any-drum onsets at ±20 ms: F %.3f, aubio %.3f", ours, theirs)
	if ours < theirs {
		t.Errorf("aubio finds the strokes better: F %.3f to %.3f", theirs, ours)
	}
}

func TestHearingIsTheSameEachTimeAndMethodsDiffer(t *testing.T) {
	b, truth, _ := deckBreak(t)
	first := listen(t, b, hear.Options{})
	if !reflect.DeepEqual(first, listen(t, b, hear.Options{Method: "net"})) {
		t.Error("the same recording is heard differently")
	}
	snares := func(h hear.Hearing) float64 {
		return fMeasure(timesOf(h.Hits, heardHit, hear.FamilySnare), timesOf(truth, trueHit, hear.FamilySnare), 0.05)
	}
	if net, bands := snares(first), snares(listen(t, b, hear.Options{Method: "bands"})); net <= bands {
		t.Errorf("snares: the net's F %.2f is no better than the bands' %.2f", net, bands)
	}
}

// An offset from zero is no sound: the same is heard without it, and the recording stays as it is unless it may be changed.
func TestAnOffsetFromZeroIsNotHeard(t *testing.T) {
	plain, _, _ := deckBreak(t)
	plain = sound.Buffer{Rate: plain.Rate, Channels: [][]float32{plain.Mono()}}
	moved := plain.Clone()
	for i := range moved.Channels[0] {
		moved.Channels[0][i] += 0.02
	}
	kept := moved.Clone()
	hearing := func(b sound.Buffer, inPlace bool) []hear.Hit {
		return listen(t, b, hear.Options{InPlace: inPlace}).Hits
	}
	want := hearing(plain, false)
	if got := hearing(moved, false); len(got) != len(want) {
		t.Errorf("%d hits with an offset, %d without", len(got), len(want))
	}
	if !slices.Equal(moved.Channels[0], kept.Channels[0]) {
		t.Error("hearing changed the recording")
	}
	got := hearing(moved, true)
	if len(got) != len(want) {
		t.Errorf("%d hits heard in place, %d otherwise", len(got), len(want))
	}
	mean := 0.0
	for _, v := range moved.Channels[0] {
		mean += float64(v) / float64(moved.Frames())
	}
	if math.Abs(mean) > 1e-4 {
		t.Errorf("heard in place, the recording lies around %g", mean)
	}
}

func TestTheUsersWordOnTheGridCounts(t *testing.T) {
	b, _, _ := deckBreak(t)
	if h := listen(t, b, hear.Options{BPM: 46.85}); h.BPM != 46.85 || h.Bars != 2 {
		t.Errorf("told 46.85 BPM: %.2f, %d bars", h.BPM, h.Bars)
	}
	if h := listen(t, b, hear.Options{Bars: 8}); h.Bars != 8 || math.Abs(h.BPM/(2*demo.BreakBPM)-1) > 0.02 {
		t.Errorf("told 8 bars: %.2f BPM, %d bars", h.BPM, h.Bars)
	}
	if _, err := hear.Listen(context.Background(), b, hear.Options{BPM: 1000}); !errors.Is(err, music.ErrTempo) {
		t.Errorf("1000 BPM: %v, want ErrTempo", err)
	}
}

func TestWhatCannotBeHeardIsSaid(t *testing.T) {
	ctx := context.Background()
	noise := sound.New(44100, 1, 44100)
	for i := range noise.Channels[0] {
		noise.Channels[0][i] = float32(i*7919%1000)/1000 - 0.5
	}
	if _, err := hear.Listen(ctx, sound.New(44100, 2, 44100), hear.Options{}); !errors.Is(err, hear.ErrSilent) {
		t.Errorf("silence: %v", err)
	}
	if _, err := hear.Listen(ctx, noise.Region(0, 441), hear.Options{}); !errors.Is(err, hear.ErrShort) {
		t.Errorf("10 ms: %v", err)
	}
	if _, err := hear.Listen(ctx, noise, hear.Options{Method: "crystal ball"}); !errors.Is(err, hear.ErrMethod) {
		t.Errorf("an unknown method: %v", err)
	}
	stopped, stop := context.WithCancel(ctx)
	stop()
	if _, err := hear.Listen(stopped, noise, hear.Options{}); !errors.Is(err, context.Canceled) {
		t.Errorf("a stopped hearing: %v", err)
	}
}

func TestKeepingAsPlayedAndQuantised(t *testing.T) {
	h := hear.Hearing{BPM: 120, Bars: 1, Meter: music.CommonTime, BarOneS: 0.1, Hits: []hear.Hit{
		{TimeS: 0.1 + 0.02, Note: 36, Velocity: 100}, {TimeS: 0.1 + 0.49, Note: 38, Velocity: 90},
		{TimeS: 0.1 + 0.491, Note: 40, Velocity: 99}, {TimeS: 0.6, Note: 75, Velocity: 80}, {TimeS: 9, Note: 36, Velocity: 1}}}
	lane := func(h hear.Hit) (int, bool) {
		if h.Note == 40 {
			return 38, true
		}
		return h.Note, h.Note != 75
	}
	p, homeless, outside, err := h.Pattern("kept", "1/16", 0, lane)
	if err != nil || homeless != 1 || outside != 1 || len(p.Hits) != 3 {
		t.Fatalf("%+v, %d homeless, %d outside, %v", p.Hits, homeless, outside, err)
	}
	if p.Hits[0].Tick != 38 || p.Hits[1].Tick != 941 {
		t.Errorf("as played: ticks %d %d, want 38 (20 ms) and 941 (490 ms)", p.Hits[0].Tick, p.Hits[1].Tick)
	}
	if p, _, _, err = h.Pattern("kept", "1/16", 100, lane); err != nil || len(p.Hits) != 2 || p.Hits[1].Tick != 960 || p.Hits[1].Velocity != 99 {
		t.Errorf("quantised, two strokes of one lane on one line become the harder: %+v, %v", p.Hits, err)
	}
}

func BenchmarkListen(b *testing.B) {
	audio, _, _ := deckBreak(b)
	eight := audio.Region(0, 8*audio.Rate)
	b.ReportMetric(eight.Seconds(), "audio-s")
	for b.Loop() {
		listen(b, eight, hear.Options{})
	}
}
