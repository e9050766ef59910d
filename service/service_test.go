package service

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"reflect"
	"sync"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/hear"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/sound"
	"hexachord/demo"
	"hexachord/format/smf"
	"hexachord/store"
)

func open(t testing.TB, dir string) *Bench {
	t.Helper()
	b, err := Open(dir, Config{})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := b.Close(); err != nil {
			t.Error(err)
		}
	})
	return b
}

func demoProject(t testing.TB, b *Bench) project.Project {
	t.Helper()
	id, err := b.NewDemoProject("Lock Seven")
	if err != nil {
		t.Fatal(err)
	}
	return load(t, b, id)
}

func load(t testing.TB, b *Bench, id string) project.Project {
	t.Helper()
	p, err := b.Load(id)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func put(note, tick, velocity int) pattern.Edit {
	return pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{{Note: note, Tick: tick, Velocity: velocity}}}}
}

// edit makes one edit.
func (b *Bench) edit(id string, revision int64, e Edit) (store.Done, error) {
	done, _, err := b.Edit(context.Background(), id, revision, Edits{Edits: []Edit{e}})
	return done, err
}

// ofPattern edits a pattern.
func ofPattern(id string, e pattern.Edit) Edit {
	return Edit{Edit: project.Edit{Pattern: &project.PatternEdit{ID: id, Edit: e}}}
}

// Undo reaches back over a restart to the very beginning, and redo forward again.
func TestUndoOutlivesARestart(t *testing.T) {
	dir := t.TempDir()
	b, err := Open(dir, Config{})
	if err != nil {
		t.Fatal(err)
	}
	id, err := b.NewDemoProject("Lock Seven")
	if err != nil {
		t.Fatal(err)
	}
	start := load(t, b, id)
	var states []project.Project
	for i := range 25 {
		p := load(t, b, id)
		states = append(states, p)
		switch i {
		case 7:
			_, err = b.edit(id, p.Revision, Edit{TakeKit: &TakeKit{"empty"}})
		case 11:
			_, err = b.edit(id, p.Revision, Edit{Edit: project.Edit{RemovePattern: &project.RemovePattern{ID: p.Patterns[0].ID}}})
		case 13:
			bpm := 140.0
			_, err = b.edit(id, p.Revision, Edit{Edit: project.Edit{Settings: &project.SettingsEdit{BPM: &bpm}}})
		default:
			_, err = b.edit(id, p.Revision, ofPattern(p.Patterns[len(p.Patterns)-1].ID, put(40+i, i*10, 64)))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	end := load(t, b, id)
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	b = open(t, dir)
	content := func(p project.Project) project.Project {
		p.Revision, p.Undo, p.Redo = 0, "", ""
		return p
	}
	for i := len(states) - 1; i >= 0; i-- {
		if _, err := b.Undo(id, load(t, b, id).Revision); err != nil {
			t.Fatal(err)
		}
		if got := load(t, b, id); !reflect.DeepEqual(content(got), content(states[i])) {
			t.Fatalf("undo to before edit %d differs", i)
		}
	}
	if p := load(t, b, id); p.Undo != "" || !reflect.DeepEqual(content(p), content(start)) {
		t.Error("the beginning is not what it was")
	}
	if _, err := b.Undo(id, load(t, b, id).Revision); !errors.Is(err, store.ErrNoUndo) {
		t.Errorf("undo before the beginning: %v", err)
	}
	for range states {
		if _, err := b.Redo(id, load(t, b, id).Revision); err != nil {
			t.Fatal(err)
		}
	}
	if p := load(t, b, id); !reflect.DeepEqual(content(p), content(end)) {
		t.Error("redone, the end is not what it was")
	}
}

// Of edits of one cell made at once on the same revision exactly one is taken; the others are told.
func TestAStaleRevisionIsRefused(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	errs := make([]error, 8)
	var wg sync.WaitGroup
	for i := range errs {
		wg.Add(1)
		go func() {
			defer wg.Done()
			_, errs[i] = b.edit(p.ID, p.Revision, ofPattern(p.Patterns[0].ID, put(60, 0, 100+i)))
		}()
	}
	wg.Wait()
	taken := 0
	for _, err := range errs {
		switch {
		case err == nil:
			taken++
		case !errors.Is(err, store.ErrStale):
			t.Errorf("refused with %v, want ErrStale", err)
		}
	}
	after := load(t, b, p.ID)
	if taken != 1 || after.Revision != p.Revision+1 || len(after.Patterns[0].Value.Hits) != len(p.Patterns[0].Value.Hits)+1 {
		t.Errorf("%d edits taken, revision %d → %d", taken, p.Revision, after.Revision)
	}
}

func TestARefusedEditChangesNothing(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	if _, err := b.edit(p.ID, p.Revision, ofPattern(p.Patterns[0].ID, put(36, 0, 200))); !errors.Is(err, pattern.ErrHit) {
		t.Errorf("velocity 200: %v", err)
	}
	if _, _, err := b.ImportMIDI(p.ID, p.Revision, "x.mid", []byte("MThd")); !errors.Is(err, smf.ErrNotMIDI) {
		t.Errorf("half a MIDI file: %v", err)
	}
	if _, _, err := b.Hear(t.Context(), p.ID, "x.wav", []byte("words"), "", hear.Options{}); !errors.Is(err, sound.ErrAudio) {
		t.Errorf("words as a recording: %v", err)
	}
	if got := load(t, b, p.ID); !reflect.DeepEqual(got, p) {
		t.Error("the project was changed")
	}
}

// A pattern goes out as MIDI and comes back with the same hits, but for what MIDI cannot say: splits are strokes.
func TestMIDIRoundTrip(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	ferry := p.Patterns[1].Value
	_, results, err := b.ImportMIDI(p.ID, p.Revision, "night ferry.mid", MIDI(p, ferry, false))
	if err != nil {
		t.Fatal(err)
	}
	in := results[0]
	got, err := load(t, b, p.ID).Pattern(in.ID)
	if err != nil {
		t.Fatal(err)
	}
	strokes := map[pattern.Key]int{}
	for _, h := range ferry.Hits {
		for _, s := range h.Strokes(240) {
			strokes[pattern.Key{Note: h.Note, Tick: h.Tick + int(s.OffsetTicks)}] = s.Velocity
		}
	}
	if len(got.Hits) != len(strokes) || got.Bars != 2 || len(in.NoLane) != 0 {
		t.Fatalf("%d hits in %d bars, want %d in 2; %v without lane", len(got.Hits), got.Bars, len(strokes), in.NoLane)
	}
	for _, h := range got.Hits {
		if strokes[h.Key()] != h.Velocity {
			t.Errorf("hit %+v, want velocity %d", h, strokes[h.Key()])
		}
	}
	stray := smf.Encode(smf.File{PPQ: 480, Meter: ferry.Meter, EndsAt: 1920, Tracks: []smf.Track{{Notes: []smf.Note{{Tick: 480, Length: 10, Channel: 10, Key: 81, Velocity: 9}}}}})
	_, results, err = b.ImportMIDI(p.ID, load(t, b, p.ID).Revision, "stray.mid", stray)
	if in = results[0]; err != nil || len(in.NoLane) != 1 || in.NoLane[0] != (project.NoLane{Note: 81, Name: "Open Triangle", Hits: 1}) {
		t.Errorf("a note without a lane is reported: %+v, %v", in, err)
	}
}

func TestADamagedOrNewerDataFolderIsSaid(t *testing.T) {
	dir := t.TempDir()
	if err := os.WriteFile(filepath.Join(dir, "hexachord.db"), []byte("this is not a database, it is a note to myself"), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := Open(dir, Config{}); err == nil {
		t.Error("a file that is no database was opened")
	}
}

// The demo world does not clip, and is the same each time it is made.
func TestTheDemoPatternsHaveHeadroom(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	for _, pt := range p.Patterns {
		mix, err := b.Bounce(p, pt.Value, 44100, 2, play.TailRing)
		if err != nil {
			t.Fatal(err)
		}
		if db := sound.DB(mix.All().Peak()); db > 0 || db < -20 {
			t.Errorf("%s peaks at %.1f dBFS", pt.Value.Name, db)
		}
	}
	first, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	if again, _, err := demo.DeckBreak(); err != nil || !reflect.DeepEqual(first, again) {
		t.Error("the demo's recording differs from one making to the next")
	}
}

func BenchmarkBounceTowpath(b *testing.B) {
	bn := open(b, b.TempDir())
	p := demoProject(b, bn)
	mix, err := bn.Bounce(p, p.Patterns[0].Value, 44100, 8, play.TailRing)
	if err != nil {
		b.Fatal(err)
	}
	t, err := bn.Table(p.Kit, 44100)
	if err != nil {
		b.Fatal(err)
	}
	if _, err := bn.shapeAll(t); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		again, err := bn.Bounce(p, p.Patterns[0].Value, 44100, 8, play.TailRing)
		if err != nil {
			b.Fatal(err)
		}
		for again.Block(bounceBlock).Frames() > 0 {
		}
	}
	b.ReportMetric(float64(mix.Frames)/44100*float64(b.N)/b.Elapsed().Seconds(), "x-realtime")
}

func BenchmarkEditPattern(b *testing.B) {
	bn := open(b, b.TempDir())
	p := demoProject(b, bn)
	revision := p.Revision
	for i := 0; b.Loop(); i++ {
		done, err := bn.edit(p.ID, revision, ofPattern(p.Patterns[0].ID, put(36, 30, 1+i%127)))
		if err != nil {
			b.Fatal(err)
		}
		revision = done.Project.Revision
	}
}

// Jumping in the history is undoing or redoing up to there.
func TestJumpingInTheHistory(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	id, states := p.ID, []project.Project{p}
	for i := range 5 {
		if _, err := b.edit(id, p.Revision, ofPattern(p.Patterns[0].ID, pattern.Edit{Fill: &pattern.Fill{About: pattern.About{Notes: []int{36 + i}}, Every: 2 + i, Velocity: 90}})); err != nil {
			t.Fatal(err)
		}
		p = load(t, b, id)
		states = append(states, p)
	}
	for _, to := range []int64{2, 5, 0, 4} {
		if _, err := b.JumpTo(id, p.Revision, to); err != nil {
			t.Fatal(err)
		}
		p = load(t, b, id)
		if !reflect.DeepEqual(p.Patterns, states[to].Patterns) {
			t.Errorf("after edit %d the patterns are others", to)
		}
	}
	h, err := b.History(id, 0)
	if err != nil || len(h) != 5 || !h[0].Undone || h[1].Undone || h[1].Number != 4 {
		t.Errorf("%+v %v", h, err)
	}
	if _, err := b.JumpTo(id, p.Revision, 9); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("an edit that never was: %v", err)
	}
}

// A lane given another note stays muted and leaning.
func TestALaneKeepsItsSettingsOnAnotherNote(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	set := p.Settings
	set.Muted, set.Solo, set.Feel.LaneLeanMS = []int{38, 42}, []int{36}, map[int]float64{42: 12, 38: -4, 36: 3}
	mute := func(notes []int) map[int]bool {
		out := map[int]bool{}
		for _, n := range notes {
			out[n] = true
		}
		return out
	}
	done, err := b.edit(p.ID, p.Revision, Edit{Edit: project.Edit{Settings: &project.SettingsEdit{Muted: mute(set.Muted), Solo: mute(set.Solo), Feel: &set.Feel}}})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.edit(p.ID, done.Project.Revision, Edit{Edit: project.Edit{Map: &project.MapEdit{Map: p.Map, Moves: map[int]int{42: 36, 36: 42}, Label: "swap"}}}); err != nil {
		t.Fatal(err)
	}
	got := load(t, b, p.ID).Settings
	if !reflect.DeepEqual(got.Muted, []int{38, 36}) || !reflect.DeepEqual(got.Solo, []int{42}) || !reflect.DeepEqual(got.Feel.LaneLeanMS, map[int]float64{36: 12, 38: -4, 42: 3}) {
		t.Errorf("%+v", got)
	}
}

// Carrying 200 patterns of 500 hits to another map, in core.
func BenchmarkCarry200Patterns(b *testing.B) {
	p := pattern.Pattern{Name: "p", Bars: 16, Meter: music.CommonTime, Grid: music.Sixteenths}
	for i := range 500 {
		p.Hits = append(p.Hits, pattern.Hit{Note: 35 + i%40, Tick: i * 100, Velocity: 90})
	}
	pattern.SortHits(p.Hits)
	for b.Loop() {
		moves := map[int]int{}
		for _, l := range drummap.Carry(drummap.GeneralMIDI(), drummap.FullSet(), nil, nil) {
			if l.To >= 0 {
				moves[l.From] = l.To
			}
		}
		for range 200 {
			if _, _, err := pattern.Apply(p, pattern.Edit{Renote: &pattern.Renote{Moves: moves}}); err != nil {
				b.Fatal(err)
			}
		}
	}
}
