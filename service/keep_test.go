package service

import (
	"context"
	"math"
	"testing"

	"hexachord/core/hear"
	"hexachord/core/music"
	"hexachord/core/project"
	"hexachord/demo"
	"hexachord/format/smf"
)

// A take kept as played sounds as it was played, whatever tempo and swing the project had: every stroke within a millisecond of
// where it was heard.
func TestAsPlayedPlaysAsPlayed(t *testing.T) {
	b := open(t, t.TempDir())
	id, err := b.NewDemoProject("p") // 92 BPM, swung
	if err != nil {
		t.Fatal(err)
	}
	file, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	p, _ := b.Load(id)
	added, _, err := b.Hear(context.Background(), id, "deck-break.wav", file.Data, "", hear.Options{})
	if err != nil {
		t.Fatal(err)
	}
	r := added.Project.Recordings[0]
	// as if it had been heard at another tempo than the project's, and with bars that follow the player
	for _, follow := range []bool{false, true} {
		heard := r.Value.Heard
		heard.BPM = demo.BreakBPM + 12
		heard.Bars = 10
		if follow {
			heard = heard.Follow()
		}
		p, _ = b.Load(id)
		keep := &project.Keep{Recording: r.ID, Name: "kept", Grid: music.Sixteenths, TakeTempo: true, Section: 2}
		done, results, err := b.do(id, p.Revision, "", &project.PutHeard{Recording: r.ID, Heard: heard, Label: "x"}, keep)
		if err != nil {
			t.Fatal(err)
		}
		kept := results[1].Kept
		row := done.Project.Patterns[len(done.Project.Patterns)-kept.Patterns:]
		var at []float64
		offset := 0.0
		for _, pt := range row {
			pass, err := b.Pass(done.Project, pt.Value, 44100)
			if err != nil {
				t.Fatal(err)
			}
			for _, s := range pass.Strokes {
				at = append(at, offset+s.AtS)
			}
			offset += pass.LengthS
		}
		n, worst := 0, 0.0
		for _, h := range heard.Hits {
			if _, lane := done.Project.Map.ByNote(done.Project.LaneOf(h)); !h.Sounds() || !lane || h.TimeS < heard.BarOneS-0.2 {
				continue
			}
			near := math.Inf(1)
			for _, a := range at {
				near = math.Min(near, math.Abs(a-(h.TimeS-heard.BarOneS)))
			}
			n++
			worst = math.Max(worst, near)
		}
		if n < 50 || worst > 0.001 || kept.Outside > 0 || kept.Patterns < 4 || done.Project.Settings.BPM != heard.BPM {
			t.Errorf("following %v: of %d strokes the farthest lies %.2f ms off; %+v, %g BPM", follow, n, worst*1000, kept, done.Project.Settings.BPM)
		}
	}
}

// A take of a hundred bars and a MIDI file of a hundred bars are kept whole, as patterns of at most 64 bars.
func TestNothingIsCutOffAtBar64(t *testing.T) {
	heard := hear.Hearing{BPM: 120, Meter: music.CommonTime, Bars: 100}
	for i := range 100 {
		heard.Hits = append(heard.Hits, hear.Hit{TimeS: float64(i) * 2, Note: 36, Velocity: 100, Confidence: 1})
	}
	heard.Hits = append(heard.Hits, hear.Hit{TimeS: 64*2 - 0.02, Note: 38, Velocity: 90, Confidence: 1}) // leads into the second part
	row, homeless, outside, err := heard.Sections("take", music.Sixteenths, 0, func(h hear.Hit) (int, bool) { return h.Note, true }, 64)
	if err != nil || homeless+outside > 0 || len(row) != 2 || row[0].Bars != 64 || row[1].Bars != 36 || row[1].Name != "take 2" {
		t.Fatalf("%d parts, %d outside, %v", len(row), outside, err)
	}
	if len(row[0].Hits) != 64 || len(row[1].Hits) != 37 || row[1].Hits[0].Note != 38 || row[1].Hits[0].Tick != -music.Ticks(0.02, 120) {
		t.Errorf("%d and %d hits, the second begins with %+v", len(row[0].Hits), len(row[1].Hits), row[1].Hits[0])
	}

	f := smf.File{PPQ: music.PPQ, Meter: music.CommonTime, Tempi: []smf.TempoChange{{BPM: 101.5}}, Tracks: []smf.Track{{}}}
	for i := range 100 {
		f.Tracks[0].Notes = append(f.Tracks[0].Notes, smf.Note{Tick: i * 4 * music.PPQ, Length: 100, Key: 36, Velocity: 100, Channel: 10})
	}
	b := open(t, t.TempDir())
	id, err := b.NewProject("")
	if err != nil {
		t.Fatal(err)
	}
	p, _ := b.Load(id)
	done, results, err := b.ImportMIDI(id, p.Revision, "long.mid", smf.Encode(f))
	if err != nil {
		t.Fatal(err)
	}
	hits := 0
	for _, pt := range done.Project.Patterns {
		hits += len(pt.Value.Hits)
	}
	if hits != 100 || results[0].Patterns != 2 || !results[0].TookTempo || math.Abs(done.Project.Settings.BPM-101.5) > 0.01 {
		t.Errorf("%d notes came, %+v, %g BPM", hits, results[0], done.Project.Settings.BPM)
	}
	// a project with a beat keeps its tempo
	done, results, err = b.ImportMIDI(id, done.Project.Revision, "again.mid", smf.Encode(smf.File{PPQ: music.PPQ, Meter: music.CommonTime, Tempi: []smf.TempoChange{{BPM: 70}}, Tracks: f.Tracks}))
	if err != nil || results[0].TookTempo || math.Abs(done.Project.Settings.BPM-101.5) > 0.01 {
		t.Errorf("%+v, %g BPM, %v", results, done.Project.Settings.BPM, err)
	}
}
