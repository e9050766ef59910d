package service

import (
	"context"
	"math"

	"hexachord/core/hear"
	"hexachord/core/music"
)

// Tempo is what is heard of a recording's time.
type Tempo struct {
	BPM     float64     `json:"bpm"` // 0: none was heard
	Meter   music.Meter `json:"meter"`
	BarOneS float64     `json:"barOneS"` // where bar 1 begins, seconds
	Seconds float64     `json:"seconds"` // how long the recording is
}

// loopShare is how near to a whole number of beats a recording's length lies, in beats, when it is taken for a loop that was cut
// so.
const loopShare = 0.12

// TempoOf hears the tempo of a sample. A loop cut to whole beats has the tempo of its length, which is more exact.
func (b *Bench) TempoOf(ctx context.Context, hash string) (Tempo, error) {
	buf, err := b.Decode(hash)
	if err != nil {
		return Tempo{}, err
	}
	h, err := hear.Listen(ctx, buf, hear.Options{})
	if err != nil {
		return Tempo{}, err
	}
	t := Tempo{BPM: h.BPM, Meter: h.Meter, BarOneS: h.BarOneS, Seconds: buf.Seconds()}
	if beats := t.Seconds * t.BPM / 60; t.BPM > 0 && t.BarOneS < 0.05 && beats >= 1 && math.Abs(beats-math.Round(beats)) < loopShare {
		t.BPM, t.BarOneS = math.Round(beats)/t.Seconds*60, 0
	}
	return t, nil
}
