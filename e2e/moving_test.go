package e2e

import (
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"hexachord/demo/breaks"
	"hexachord/demo/drums"
	"hexachord/format/smf"
	"hexachord/format/wav"
)

// movingBreak is a recording of sixteen bars of a player between 92 and 109 BPM, and where its bars begin.
func movingBreak(t *testing.T) (path string, lines []float64) {
	t.Helper()
	rng := rand.New(rand.NewPCG(21, 4))
	p := breaks.Performance{BPM: 100, Beats: 4, Bars: 16}
	at := 0.05
	for bar := range 16 {
		lines = append(lines, at)
		for step := range 16 {
			strike := func(note, velocity int) {
				p.Strokes = append(p.Strokes, breaks.Stroke{TimeS: at + 0.004*rng.NormFloat64(), Note: note, Velocity: velocity + int(4*rng.NormFloat64())})
			}
			switch step {
			case 0, 7, 10:
				strike(36, 112)
			case 4, 12:
				strike(38, 110)
			case 9, 15:
				strike(38, 40)
			}
			if step%2 == 0 {
				strike(42, 75)
			}
			at += 15 / (100.5 - 8.5*math.Cos(2*math.Pi*(float64(bar)+float64(step)/16)/16))
		}
	}
	p.DurationS = at
	kit := []*breaks.Piece{
		{Note: 36, Drum: drums.Kick{Hz: 58, Sweep: 1.2, SweepS: 0.014, DecayS: 0.24, Click: 0.5, ClickHz: 2400, Shell: 0.3, Air: 0.3}.Drum()},
		{Note: 38, LevelDB: -1, Drum: drums.Snare{Hz: 214, Bend: 0.05, DecayS: 0.15, Body: 0.5, Wires: 0.75, WireLoHz: 1500, WireHiHz: 12000, WireDecayS: 0.16, Snap: 0.5}.Drum()},
		{Note: 42, LevelDB: -5, Drum: drums.Metal{LoHz: 2300, HiHz: 13000, Partials: 30, Ring: 0.4, Wash: 0.6, WashLoHz: 5100, DecayS: 0.1, WashDecayS: 0.08, Seed: 8}.Drum()},
	}
	audio, _ := breaks.Render(kit, p, breaks.Room{Wet: 0.1, DecayS: 0.4, DampHz: 6000, HissDB: -62, PeakDB: -1}, 5)
	data, err := wav.Encode(audio, wav.PCM16)
	if err != nil {
		t.Fatal(err)
	}
	path = filepath.Join(t.TempDir(), "moving.wav")
	if err := os.WriteFile(path, data, 0o600); err != nil {
		t.Fatal(err)
	}
	return path, lines
}

// A player who moves is said to; followed with one press, every bar begins within a sixteenth of where he begins it.
func TestAMovingPlayerIsSaidAndFollowed(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	path, lines := movingBreak(t)
	w.key("3")
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="recording-file"]`), []string{path}))
	w.until("heard hits on the lanes", `document.querySelectorAll('[data-heard]').length>10&&document.querySelector('[data-id="hearing"]')===null`)
	w.until("that the player moves", `document.querySelector('[data-id="player-moves"]')!==null`)
	w.fits("a moving player")
	w.shoot("moving")
	w.click(`[data-id="player-moves"]`)
	w.until("it follows, and says no more", `document.querySelector('[data-id="player-moves"]')===null`)
	w.saved()
	w.shoot("followed")
	pins := b.recordingOf(id).Heard.Pins
	if len(pins) != 17 {
		t.Fatalf("%d bar lines are pinned, 17 are meant", len(pins))
	}
	for i, line := range lines {
		if off := math.Abs(pins[i].Time - line); off > 15.0/109 || pins[i].Tick != i*3840 {
			t.Errorf("bar %d is pinned %.0f ms off, at tick %d", i+1, 1000*off, pins[i].Tick)
		}
	}
}

// Quantised, a player who moves lies on his own sixteenths: the kicks where he meant them in every bar.
func TestAMovingPlayerIsQuantised(t *testing.T) {
	path, _ := movingBreak(t)
	mid := filepath.Join(t.TempDir(), "out.mid")
	said, ok := run(t, "convert", path, "--out", mid, "--quantise", "1/16")
	if !ok || !strings.Contains(said, "the player moves") {
		t.Fatalf("%s", said)
	}
	data, err := os.ReadFile(mid)
	if err != nil {
		t.Fatal(err)
	}
	f, err := smf.Decode(data)
	if err != nil {
		t.Fatal(err)
	}
	meant, kicks := 0, 0
	for _, track := range f.Tracks {
		var first *int
		for _, n := range track.Notes {
			if n.Key != 36 {
				continue
			}
			if first == nil {
				first = &n.Tick
			}
			kicks++
			switch ((n.Tick - *first) % 3840) / 240 {
			case 0, 7, 10:
				meant++
			}
		}
	}
	if kicks < 44 || meant < kicks-2 {
		t.Errorf("%d of %d kicks lie where they were meant, 48 were played", meant, kicks)
	}
}
