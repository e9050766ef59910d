package hear

import (
	"math"
	"math/rand/v2"
	"testing"

	"hexachord/core/music"
)

// movingPlayer strikes a bar of 16 sixteenths over and over while the tempo moves; it gives back where the bars begin.
func movingPlayer(bars int, spreadS float64, bpmAt func(bar float64) float64) (hits []Hit, lines []float64) {
	chance := rand.New(rand.NewPCG(11, 3))
	at := 0.05
	for bar := range bars {
		lines = append(lines, at)
		for c := range 16 {
			t := max(0, at+spreadS*chance.NormFloat64())
			put := func(note, velocity int) {
				hits = append(hits, Hit{TimeS: t, Note: note, Velocity: velocity, Confidence: 0.9})
			}
			switch c {
			case 0, 7, 10:
				put(36, 112)
			case 4, 12:
				put(38, 110)
			case 9, 15:
				put(38, 35)
			}
			if c%2 == 0 {
				put(42, 75)
			}
			at += 15 / bpmAt(float64(bar)+float64(c)/16)
		}
	}
	return hits, append(lines, at)
}

func TestAPlayerWhoMovesIsFollowed(t *testing.T) {
	for name, c := range map[string]struct {
		bpmAt   func(bar float64) float64
		withinS float64
	}{
		"steady":          {func(float64) float64 { return 100 }, 0.012},
		"rushes 8 %":      {func(b float64) float64 { return 100 * (1 + 0.08*b/16) }, 0.02},
		"drags 8 %":       {func(b float64) float64 { return 100 * (1 - 0.08*b/16) }, 0.02},
		"92 to 109 to 92": {func(b float64) float64 { return 100.5 - 8.5*math.Cos(2*math.Pi*b/16) }, 0.0375},
	} {
		hits, lines := movingPlayer(16, 0.004, c.bpmAt)
		for _, bpm := range []float64{c.bpmAt(0), c.bpmAt(8), 60 * 64 / (lines[16] - lines[0])} {
			h := Hearing{BPM: bpm, Meter: music.CommonTime, Bars: 15, BarOneS: lines[0], Hits: hits}
			f := h.Follow()
			if f.Bars != 16 || len(f.Pins) != 17 {
				t.Errorf("%s, from %.1f BPM: %d bars, %d pins", name, bpm, f.Bars, len(f.Pins))
				continue
			}
			worst := 0.0
			for i, line := range lines[:16] {
				worst = max(worst, math.Abs(f.Pins[i].TimeS-line))
				if f.Pins[i].Sure < SureBar {
					t.Errorf("%s, from %.1f BPM: bar %d is in doubt (%.2f)", name, bpm, i+1, f.Pins[i].Sure)
				}
			}
			if worst > c.withinS {
				t.Errorf("%s, from %.1f BPM: a bar line %.0f ms off, %.0f ms are allowed", name, bpm, 1000*worst, 1000*c.withinS)
			}
		}
	}
}

// One who moves so much that no steady grid holds his strokes is told from one who does not; the tempo is the mean then, at the
// octave one counts.
func TestWhetherThePlayerMoves(t *testing.T) {
	for name, c := range map[string]struct {
		bpmAt func(bar float64) float64
		moves bool
	}{
		"steady":          {func(float64) float64 { return 100 }, false},
		"rushes 8 %":      {func(b float64) float64 { return 100 * (1 + 0.08*b/16) }, true},
		"92 to 109 to 92": {func(b float64) float64 { return 100.5 - 8.5*math.Cos(2*math.Pi*b/16) }, true},
	} {
		hits, lines := movingPlayer(16, 0.004, c.bpmAt)
		h := Hearing{Hits: hits}
		if err := h.findGrid(lines[16], 0, 0); err != nil {
			t.Fatal(err)
		}
		mean := 60 * 64 / (lines[16] - lines[0])
		if h.Moves != c.moves || h.Bars != 16 || math.Abs(h.BPM/mean-1) > 0.01 || h.Meter != music.CommonTime || !c.moves && math.Abs(h.BarOneS-lines[0]) > 0.01 {
			t.Errorf("%s: moves %v, %d bars of %v at %.2f BPM; the mean is %.2f", name, h.Moves, h.Bars, h.Meter, h.BPM, mean)
		}
	}
}

// A player of sixteen bars, about 40 s, followed.
func BenchmarkFollow(b *testing.B) {
	hits, lines := movingPlayer(16, 0.004, func(bar float64) float64 { return 100.5 - 8.5*math.Cos(2*math.Pi*bar/16) })
	h := Hearing{BPM: 100, Meter: music.CommonTime, Bars: 16, BarOneS: lines[0], Hits: hits}
	for b.Loop() {
		h.Follow()
	}
}
