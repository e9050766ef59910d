package hear_test

import (
	"context"
	"math"
	"testing"

	"hexachord/core/hear"
	"hexachord/core/layout"
	"hexachord/core/sound"
)

// A loop trimmed to its first stroke, or a little into it, begins with a hit: heard, on an attack, and cut as a piece.
func TestATightLoopBeginsWithAStroke(t *testing.T) {
	b, truth, _ := deckBreak(t)
	first, next := truth[0].TimeS, 0.0
	for _, h := range truth {
		if h.TimeS > first+0.05 {
			next = h.TimeS
			break
		}
	}
	for _, leadMS := range []float64{-10, -6, -3, 0, 1, 2, 4, 5, 10, 30} {
		// frames of silence before the stroke, or how far the trim reaches into it
		from := int((first - leadMS/1000) * float64(b.Rate))
		cut := b.Region(max(0, from), b.Frames())
		if from < 0 {
			lead := sound.New(b.Rate, len(b.Channels), -from)
			for c := range cut.Channels {
				cut.Channels[c] = append(lead.Channels[c], cut.Channels[c]...)
			}
		}
		at := math.Max(0, leadMS/1000)
		attacks, err := hear.Attacks(context.Background(), cut, 0.1, 0.05)
		if err != nil || len(attacks) == 0 || math.Abs(attacks[0].TimeS-at) > 0.005 {
			t.Errorf("lead %g ms: the first attack of %d is at %+v, %.3f s is meant (%v)", leadMS, len(attacks), attacks[:min(1, len(attacks))], at, err)
		}
		h := listen(t, cut, hear.Options{})
		if len(h.Hits) == 0 || math.Abs(h.Hits[0].TimeS-at) > 0.01 {
			t.Errorf("lead %g ms: the first hit is heard at %.3f s, the stroke lies at %.3f and the next at %.3f", leadMS, h.Hits[0].TimeS, at, next-first+leadMS/1000)
		}
		pieces, err := layout.Cut(context.Background(), cut, layout.CutOptions{Strength: 0.3, MinGapS: 0.09, DeadDB: -48})
		if err != nil || len(pieces) == 0 || pieces[0].StartFrame > int((at+0.005)*float64(b.Rate)) {
			t.Errorf("lead %g ms: of %d pieces the first begins at frame %d (%v)", leadMS, len(pieces), pieces[0].StartFrame, err)
		}
	}
}

// A recording cut off in the middle of what dies away begins with no hit.
func TestATailIsNoFirstStroke(t *testing.T) {
	b, truth, _ := deckBreak(t)
	wrong, tried := 0, 0
	for i, h := range truth[:len(truth)-1] {
		if truth[i+1].TimeS-h.TimeS < 0.14 {
			continue
		}
		tried++
		cut := b.Region(int((h.TimeS+0.09)*float64(b.Rate)), b.Frames())
		if heard := listen(t, cut, hear.Options{}); len(heard.Hits) > 0 && heard.Hits[0].TimeS < 0.02 {
			wrong++
		}
		if tried == 8 {
			break
		}
	}
	t.Logf("%d of %d tails heard as strokes", wrong, tried)
	if tried < 4 || wrong > 3*tried/8 {
		t.Errorf("%d of %d tails are heard as strokes", wrong, tried)
	}
}
