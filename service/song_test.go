package service

import (
	"context"
	"math"
	"testing"

	"hexachord/core/hear"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/song"
	"hexachord/demo"
)

func (b *Bench) lay(t testing.TB, p project.Project, edits ...project.Edit) project.Project {
	t.Helper()
	var all []Edit
	for _, e := range edits {
		all = append(all, Edit{Edit: e})
	}
	done, _, err := b.Edit(context.Background(), p.ID, p.Revision, Edits{Edits: all})
	if err != nil {
		t.Fatal(err)
	}
	return done.Project
}

// emptySong is the demo project without its song.
func emptySong(t testing.TB, b *Bench) project.Project {
	t.Helper()
	p := demoProject(t, b)
	var e project.SongEdit
	for _, o := range p.Blocks {
		e.Remove = append(e.Remove, o.ID)
	}
	for _, o := range p.Sections {
		e.RemoveSections = append(e.RemoveSections, o.ID)
	}
	return b.lay(t, p, project.Edit{Song: &e})
}

func block(pattern string, bar, bars int) project.Edit {
	return project.Edit{Song: &project.SongEdit{Put: []project.BlockPut{{Block: song.Block{Pattern: pattern, Bar: bar, Bars: bars}}}}}
}

// A song of one pattern, bounced, is what the pattern's bounce is, to the last bit where its sounds do not take turns; a muted lane and a muted
// part are left out; a block whose pattern is gone sounds nothing and the rest plays.
func TestASongIsBounced(t *testing.T) {
	b := open(t, t.TempDir())
	p := emptySong(t, b)
	id := p.Patterns[1].ID
	p = b.lay(t, p, block(id, 0, 4))
	got, err := b.BounceSong(p, 44100, 0, 0, play.TailCut)
	if err != nil {
		t.Fatal(err)
	}
	alone, err := b.Bounce(p, p.Patterns[1].Value, 44100, 2, play.TailCut)
	if err != nil {
		t.Fatal(err)
	}
	x, y := got.All(), alone.All()
	if x.Frames() != y.Frames() {
		t.Fatalf("%d frames, not %d", x.Frames(), y.Frames())
	}
	worst := 0.0
	for c := range x.Channels {
		for i := range x.Channels[c] {
			worst = max(worst, math.Abs(float64(x.Channels[c][i]-y.Channels[c][i])))
		}
	}
	if worst > 1e-6 {
		t.Errorf("the song differs from its pattern played twice by %g", worst)
	}
	loud := x.Peak()
	mute := true
	muted := b.lay(t, p, project.Edit{Part: &project.PartEdit{Muted: &mute}})
	silent, err := b.BounceSong(muted, 44100, 0, 0, play.TailCut)
	if err != nil || silent.All().Peak() != 0 || loud < 0.05 {
		t.Errorf("muted it is %g loud (%v), heard %g", silent.All().Peak(), err, loud)
	}
	gone := b.lay(t, p, block(p.Patterns[0].ID, 4, 2), project.Edit{RemovePattern: &project.RemovePattern{ID: p.Patterns[0].ID}})
	pass, err := b.SongPass(gone, 44100)
	if err != nil || len(pass.Cues) == 0 || math.Abs(pass.LengthS-6*4*60/p.Settings.BPM) > 1e-9 {
		t.Errorf("with a pattern gone: %d cues in %.2f s, %v", len(pass.Cues), pass.LengthS, err)
	}
	if _, err := b.BounceSong(emptySong(t, b), 44100, 0, 0, play.TailCut); err == nil {
		t.Error("an empty song was bounced")
	}
}

// withBreak is a project with the demo's break heard in it.
func withBreak(t testing.TB, b *Bench, p project.Project) (project.Project, string) {
	t.Helper()
	file, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	added, _, err := b.Hear(context.Background(), p.ID, "deck-break.wav", file.Data, "", hear.Options{})
	if err != nil {
		t.Fatal(err)
	}
	return added.Project, added.Project.Recordings[0].ID
}

// A recording runs along at the song's tempo: as long as its bars there, faded and cut where its block ends; free, it keeps its own.
func TestARecordingRunsAlong(t *testing.T) {
	b := open(t, t.TempDir())
	p := emptySong(t, b)
	p, rid := withBreak(t, b, p)
	lay := func(free bool) play.Pass {
		t.Helper()
		now := b.lay(t, p, project.Edit{Song: &project.SongEdit{Put: []project.BlockPut{{Block: song.Block{Recording: rid, Bar: 2, Bars: 2, Free: free, FadeOutS: 0.5, LevelDB: -6}}}}})
		pass, err := b.SongPass(now, 48000)
		if err != nil {
			t.Fatal(err)
		}
		p = now
		return pass
	}
	barS := 4 * 60 / p.Settings.BPM
	for _, free := range []bool{false, true} {
		pass := lay(free)
		if len(pass.Cues) != 1 || math.Abs(pass.Cues[0].AtS-2*barS) > 1e-9 || math.Abs(pass.Cues[0].HoldS-2*barS) > 1e-9 {
			t.Fatalf("free %v: %d cues, the first %+v", free, len(pass.Cues), pass.Cues[:min(1, len(pass.Cues))])
		}
		v, err := b.Voice(pass.Cues[0].Voice)
		if err != nil {
			t.Fatal(err)
		}
		if got := float64(v.Frames()) / 48000; math.Abs(got-2*barS) > 0.06 {
			t.Errorf("free %v: it lasts %.3f s in bars of %.3f", free, got, 2*barS)
		}
		if end := v.Region(v.Frames()-480, v.Frames()).Peak(); end > 0.1*v.Peak() {
			t.Errorf("free %v: it ends at %.3f of %.3f", free, end, v.Peak())
		}
	}
}

// A song of 2,000 blocks: one is moved.
func BenchmarkOneOfManyBlocks(b *testing.B) {
	bench := open(b, b.TempDir())
	p := emptySong(b, bench)
	p = bench.lay(b, p, project.Edit{AddPart: &project.AddPart{Name: "other"}})
	var put []project.BlockPut
	for i := range 2000 {
		put = append(put, project.BlockPut{Block: song.Block{Part: p.PartIDs()[i/1000], Pattern: p.Patterns[0].ID, Bar: i % 1000 * 2, Bars: 1}})
	}
	p = bench.lay(b, p, project.Edit{Song: &project.SongEdit{Put: put}})
	one := p.Blocks[1000]
	at := 0
	for b.Loop() {
		at = 1 - at
		moved := one.Value
		moved.Bar += at
		p = bench.lay(b, p, project.Edit{Song: &project.SongEdit{Put: []project.BlockPut{{ID: one.ID, Block: moved}}}})
	}
}
