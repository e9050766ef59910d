package service

import (
	"context"
	"math"
	"testing"

	"hexachord/core/hear"
	"hexachord/core/layout"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/sound"
	"hexachord/demo"
)

// A recording cut to pieces, one a pad, comes with a pattern that plays them as it did: bounced, its strokes lie where they lay,
// and it is as loud.
func TestPiecesPlayAsTheLoopDid(t *testing.T) {
	b := open(t, t.TempDir())
	file, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	reports, err := b.ImportSamples(context.Background(), []SampleFile{{Name: "deck-break.wav", Data: file.Data}})
	if err != nil {
		t.Fatal(err)
	}
	hash := reports[0].Hash
	id, err := b.NewProject("")
	if err != nil {
		t.Fatal(err)
	}
	whole, err := b.Decode(hash)
	if err != nil {
		t.Fatal(err)
	}
	loop := whole.Region(0, int(60/demo.BreakBPM*8*float64(whole.Rate))) // two bars
	pieces, err := layout.Cut(context.Background(), loop, layout.CutOptions{Strength: 0.2, MinGapS: 0.06, DeadDB: -70})
	if err != nil || len(pieces) < 8 {
		t.Fatalf("%d pieces, %v", len(pieces), err)
	}
	tempo, err := b.TempoOf(context.Background(), hash)
	if err != nil || math.Abs(tempo.BPM-demo.BreakBPM) > 0.1 {
		t.Fatalf("%+v %v, %g BPM are played", tempo, err, demo.BreakBPM)
	}
	var parts []project.SamplePart
	for _, p := range pieces {
		parts = append(parts, project.SamplePart{Hash: hash, StartFrame: p.StartFrame, EndFrame: p.EndFrame, Kind: p.Guess.Kind, Confidence: 1})
	}
	p, _ := b.Load(id)
	layOut := &project.LayOut{Parts: parts, Options: layout.Options{By: layout.ByOrder}, Name: "deck break",
		Loop: &project.LoopPattern{Name: "as it was", BPM: tempo.BPM, Meter: tempo.Meter, StartS: tempo.BarOneS, Seconds: loop.Seconds(), TakeTempo: true}}
	done, _, err := b.Edit(context.Background(), id, p.Revision, Edits{Edits: []Edit{{Edit: project.Edit{LayOut: layOut}}}})
	if err != nil {
		t.Fatal(err)
	}
	pt := done.Project.Patterns[len(done.Project.Patterns)-1].Value
	if len(pt.Hits) != len(pieces) || pt.Bars != 2 || done.Project.Settings.BPM != tempo.BPM || done.Project.Kit.Name != "deck break" {
		t.Fatalf("%d hits of %d pieces, %d bars, %g BPM, the kit %q", len(pt.Hits), len(pieces), pt.Bars, done.Project.Settings.BPM, done.Project.Kit.Name)
	}
	notes := map[int]bool{}
	for _, h := range pt.Hits {
		notes[h.Note] = true
	}
	if len(notes) != len(pieces) {
		t.Errorf("%d pieces on %d pads", len(pieces), len(notes))
	}
	bounce, err := b.Bounce(done.Project, pt, 44100, 1, play.TailRing)
	if err != nil {
		t.Fatal(err)
	}
	sounds := sound.New(44100, 2, 0)
	for part := bounce.Block(bounceBlock); part.Frames() > 0; part = bounce.Block(bounceBlock) {
		for c := range sounds.Channels {
			sounds.Channels[c] = append(sounds.Channels[c], part.Channels[c]...)
		}
	}
	was, err := hear.Attacks(context.Background(), loop, 0.3, 0.06)
	if err != nil {
		t.Fatal(err)
	}
	is, err := hear.Attacks(context.Background(), sounds, 0.3, 0.06)
	if err != nil {
		t.Fatal(err)
	}
	off := 0
	for _, a := range was {
		near := math.Inf(1)
		for _, c := range is {
			near = math.Min(near, math.Abs(c.TimeS-(a.TimeS-tempo.BarOneS)))
		}
		if near > 0.004 {
			off++
		}
	}
	if off > len(was)/20 {
		t.Errorf("%d of %d strokes do not lie where they lay", off, len(was))
	}
	// a pad in the middle sounds 3 dB down on each side (equal-power pan), nothing else changes the level
	if d := 20 * math.Log10(sounds.Peak()/loop.Peak()); math.Abs(d+3.01) > 0.3 {
		t.Errorf("the pattern peaks %.2f dB over the recording, −3.01 is meant", d)
	}
}
