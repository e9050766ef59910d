package project

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/layout"
	"hexachord/core/mix"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/shelf"
	"hexachord/core/song"
	"hexachord/core/take"
)

// world knows every sample, and names documents one after another.
type world struct {
	prefix string
	n      *int
}

func (w world) NewID() string {
	*w.n++
	return fmt.Sprintf("%s%d", w.prefix, *w.n)
}
func (world) Sample(hash string) (shelf.Item, error) {
	return shelf.Item{Hash: hash, Name: hash + ".wav", Kind: "snare"}, nil
}
func (world) HasAudio(hash string) bool    { return hash != "gone" }
func (world) Loudness(hash string) float64 { return -float64(len(hash)) }
func (world) PeakDB(string) float64        { return -6 }

func newWorld(prefix string) world { return world{prefix, new(int)} }

// state is a project with a kit, two linked patterns and one alone, a recording and a groove.
func state(t testing.TB, w World) State {
	t.Helper()
	d := NewDraft(NewState("p", "Lock", 1, nil), w)
	k := kit.Kit{Name: "k", Pads: []kit.Pad{}}
	for _, n := range []int{36, 38, 42} {
		p := kit.NewPad(n)
		p.Layers = []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: "aa", Source: "a.wav", Shape: kit.Whole()})}
		k.Pads = append(k.Pads, p)
	}
	pt := pattern.Pattern{Name: "a", Bars: 2, Meter: music.CommonTime, Grid: music.Sixteenths, Link: "l",
		Hits: []pattern.Hit{{Note: 36, Tick: 0, Velocity: 100}, {Note: 38, Tick: 970, Velocity: 110}, {Note: 42, Tick: 1200, Velocity: 60}}}
	other, alone := pt, pt
	other.Name, alone.Name, alone.Link = "b", "c", ""
	heard := hear.Hearing{BPM: 100, Meter: music.CommonTime, Bars: 1, Hits: []hear.Hit{{TimeS: 0.1, Note: 36, Velocity: 100, Confidence: 0.9}, {TimeS: 0.7, Note: 38, Velocity: 90, Confidence: 0.3, Or: 42}}}
	g := feel.Groove{Name: "g", Meter: music.CommonTime, Grid: music.Sixteenths, Cells: make([]feel.GrooveCell, 16)}
	errs := []error{d.PutSettings(NewSettings()), d.PutMap(drummap.FullSet()), d.PutKit(k)}
	for _, p := range []pattern.Pattern{pt, other, alone} {
		_, err := d.AddPattern(p)
		errs = append(errs, err)
	}
	_, err := d.AddRecording(Recording{Name: "r.wav", Seconds: 3, Heard: heard})
	errs = append(errs, err)
	_, err = d.AddGroove(g)
	errs = append(errs, err)
	_, err = (&RecordPass{ID: firstPass, Pattern: d.Patterns[0].ID, Strikes: []take.Strike{{Note: 38, AtS: 2, Velocity: 80, From: "keys"}}}).Apply(d)
	errs = append(errs, err)
	errs = append(errs, err)
	_, err = (&AddPart{Name: "other", CopyOf: new(string)}).Apply(d)
	errs = append(errs, err)
	_, err = (&MixEdit{Outputs: []mix.Output{NewMixOutput()}}).Apply(d)
	errs = append(errs, err)
	_, err = (&SongEdit{Put: []BlockPut{{Block: song.Block{Pattern: d.Patterns[2].ID, Bars: 4}}, {Block: song.Block{Recording: d.Recordings[0].ID, Bar: 1, Bars: 2}}},
		Sections: []SectionPut{{Section: song.Section{Name: "all", Bars: 4}}}}).Apply(d)
	if err := errors.Join(append(errs, err)...); err != nil {
		t.Fatal(err)
	}
	return d.State
}

func text(t testing.TB, s State) string {
	t.Helper()
	b, err := json.Marshal(s.Project)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

// holds makes an edit and reports what must hold of any: the state before is untouched; refused, nothing has changed; else every
// document can be used, its kept form says the same as its value, and the changes taken back lead to the state before and done
// again to the one after.
func holds(t testing.TB, s State, w World, e Edit) State {
	t.Helper()
	before := text(t, s)
	d := NewDraft(s, w)
	label, err := e.Apply(d)
	if text(t, s) != before {
		t.Fatalf("%+v changed the project in its reader's hands", e)
	}
	if err != nil {
		return s
	}
	if len(d.Changes()) > 0 && label == "" {
		t.Fatalf("%+v has no words in the history", e)
	}
	for k, doc := range d.docs {
		if err := kinds[k.Kind].check(doc.Value); err != nil {
			t.Fatalf("%+v left a %s that cannot be used: %v", e, k.Kind, err)
		}
		again, err := Read(k, doc.Position, doc.Body)
		if err != nil {
			t.Fatal(err)
		}
		a, _ := json.Marshal(again.Value)
		b, _ := json.Marshal(doc.Value)
		if string(a) != string(b) {
			t.Fatalf("%+v: what is kept of a %s is not what it is:\n%s\n%s", e, k.Kind, a, b)
		}
	}
	kept, err := json.Marshal(d.Changes()) // as the history keeps them
	if err != nil {
		t.Fatal(err)
	}
	var changes []Change
	if err := json.Unmarshal(kept, &changes); err != nil {
		t.Fatal(err)
	}
	back, _, err := d.State.Replay(Inverted(changes))
	if err != nil {
		t.Fatal(err)
	}
	if text(t, back) != before {
		t.Fatalf("%+v taken back leads to\n%s\nnot to\n%s", e, text(t, back), before)
	}
	forth, _, err := back.Replay(changes)
	if err != nil {
		t.Fatal(err)
	}
	if text(t, forth) != text(t, d.State) {
		t.Fatalf("%+v done again leads elsewhere", e)
	}
	return d.State
}

// firstPass is the ID of the pass a project of these tests begins with.
const firstPass = "first-pass"

func edits(s State) []Edit {
	bpm, bars, name, yes := 101.0, 1, "n", true
	bar1 := 3
	own := feel.Straight
	pid, rid, gid := s.Patterns[0].ID, s.Recordings[0].ID, s.Grooves[0].ID
	m := drummap.FullSet()
	m.Lanes = slices.Clone(m.Lanes)
	m.Lanes[11].Note = 35
	of := func(e pattern.Edit) Edit { return Edit{Pattern: &PatternEdit{ID: pid, Edit: e}} }
	return []Edit{
		{Settings: &SettingsEdit{BPM: &bpm, Muted: map[int]bool{38: true}, Solo: map[int]bool{36: true}}},
		{Map: &MapEdit{Map: m, Moves: map[int]int{36: 35}, MoveHits: true, MoveSounds: true, Label: "x"}},
		{AddLane: &AddLane{Note: 99, Name: "deep kick"}},
		{AddLane: &AddLane{Name: "open hat", Find: true}},
		{MovePad: &MovePad{From: 38, To: 50, How: "move"}},
		{MovePad: &MovePad{From: 36, To: 43, How: "swap"}},
		{SpreadPad: &SpreadPad{Note: 36, Count: 3, Step: -1.5, Below: 1}},
		{Carry: &CarryRequest{From: drummap.FullSet(), To: drummap.GeneralMIDI(), Corrections: map[int]int{36: 35}}},
		{Carry: &CarryRequest{From: drummap.FullSet(), To: drummap.GeneralMIDI(), Copies: true, Patterns: []string{pid}}},
		{Kit: &KitEdit{kit.Edit{Op: kit.OpAdd, From: 90, How: kit.Replace, Takes: []kit.Take{{Sample: "bb", Source: "b.wav", Shape: kit.Whole()}}}}},
		{Kit: &KitEdit{kit.Edit{Op: kit.OpTry, Try: &kit.Try{Note: 36, Sample: "bbb", Source: "b.wav", Hear: "turn", Match: true}}}},
		{LayOut: &LayOut{Parts: []SamplePart{{Hash: "cc"}, {Hash: "dd", Kind: "kick", Confidence: 1}}, Options: layout.Options{By: layout.ByKind}}},
		of(pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{{Note: 36, Tick: 240, Velocity: 9}}}}),
		of(pattern.Edit{Shape: &pattern.Shape{Bars: &bars, Name: &name, Feel: &own}}),
		of(pattern.Edit{FillBar: &pattern.FillBar{Bar: 1, Seed: 3}}),
		{AddPattern: &AddPattern{Name: "d"}},
		{AddPattern: &AddPattern{Name: "e", CopyOf: s.Patterns[2].ID, Linked: true}},
		{RemovePattern: &RemovePattern{ID: pid}},
		{WriteFeel: &WriteFeel{Pattern: pid}},
		{TakeReady: &TakeReady{Name: "plain sail"}},
		{TakeReady: &TakeReady{Name: "plain sail", Into: pid, ToBar: 1}},
		{AddGroove: &AddGroove{Name: "h", PatternID: pid, Over: pid, Use: &feel.GrooveUse{Time: 50}}},
		{PutGroove: &PutGroove{ID: gid, Groove: func() feel.Groove { g := s.Grooves[0].Value; g.Name = "other"; return g }()}},
		{RemoveGroove: &RemoveGroove{ID: gid}},
		{Heard: &HeardEdit{Recording: rid, Edit: hear.Edit{Op: "other", Hits: []int{1}}, Label: "x"}},
		{Regrid: &Regrid{Recording: rid, Follow: &yes}},
		{Flip: &Flip{Recording: rid, Lane: 36}},
		{Keep: &Keep{Recording: rid, Grid: music.Sixteenths}},
		{RecordPass: &RecordPass{ID: "second-pass", Pattern: pid, Strikes: []take.Strike{{Note: 36, AtS: 1.3, Velocity: 99}, {Note: 42, AtS: 0.61, Velocity: 50, HeldS: 0.2}}}},
		{RecordPass: &RecordPass{ID: "third-pass", Pattern: pid, Replace: true, UpToS: 9, Strikes: []take.Strike{{Note: 36, AtS: 0.01, Velocity: 99}}, Quantise: take.Quantise{Strength: 100}}},
		{Pass: &PassEdit{ID: firstPass, Muted: &yes}},
		{Pass: &PassEdit{ID: firstPass, Quantise: &take.Quantise{Grid: "1/8", Strength: 100}}},
		{Pass: &PassEdit{ID: firstPass, Remove: true}},
		{Song: &SongEdit{Put: []BlockPut{{Block: song.Block{Pattern: pid, Bar: 1, Bars: 2}}, {Block: song.Block{Recording: rid, Bar: 2, Bars: 1}}}}},
		{Song: &SongEdit{Remove: []string{s.Blocks[0].ID}}},
		{Song: &SongEdit{Sections: []SectionPut{{Section: song.Section{Name: "verse", Bar: 3, Bars: 1}}}, Song: &song.Song{Tempos: []song.Tempo{{BPM: 90, Glide: true}, {Bar: 2, BPM: 99}}}}},
		{Block: &BlockEdit{ID: s.Blocks[0].ID, Fill: true, All: true}},
		{Block: &BlockEdit{ID: s.Blocks[0].ID, Own: true}},
		{Block: &BlockEdit{ID: s.Blocks[0].ID, Repeat: 1}},
		{Block: &BlockEdit{ID: s.Blocks[0].ID, Begin: &bar1, End: &bar1}},
		{Section: &SectionEdit{ID: s.Sections[0].ID, Do: "copy", ToBar: 1}},
		{Section: &SectionEdit{ID: s.Sections[0].ID, Do: "remove"}},
		{AddPart: &AddPart{Name: "two", CopyOf: new(string), Patterns: true}},
		{Part: &PartEdit{ID: s.Parts[0].ID, Muted: &yes, Name: &name}},
		{Part: &PartEdit{Solo: &yes}},
		{Part: &PartEdit{ID: s.Parts[0].ID, Move: -1}},
		{Part: &PartEdit{ID: s.Parts[0].ID, Remove: true}},
		{LayHeard: &LayHeard{Recording: rid, Bar: 1, Along: true}},
		{LayShape: &LayShape{Shape: "verse and chorus", Patterns: []string{pid, s.Patterns[1].ID}, Bar: 2}},
		{Mix: &MixEdit{Strips: map[string]*mix.Strip{":36": {LevelDB: -6, Output: s.Mix.Outputs[0].ID}}, Room: &mix.Room{SizeM: 9, LengthS: 1}}},
		{Mix: &MixEdit{ByRole: true, ShiftDB: -3}},
		{Mix: &MixEdit{RemoveOutputs: []string{s.Mix.Outputs[0].ID}}},
		{Perform: &Perform{Pattern: pid, Bar: 1, Bars: 7, Amount: 60, FillEvery: 4, Seed: 3}},
	}
}

// Every edit of every kind of document holds what must hold of any, alone and one after another; and Edit knows no part that is
// not tried here.
func TestEveryEditIsUndoneExactly(t *testing.T) {
	w := newWorld("id")
	s := state(t, w)
	tried := map[string]bool{}
	for _, e := range edits(s) {
		v := reflect.ValueOf(e)
		for i := range v.NumField() {
			if !v.Field(i).IsNil() {
				tried[v.Type().Field(i).Name] = true
			}
		}
		after := holds(t, s, w, e)
		if text(t, after) == text(t, s) {
			t.Errorf("%+v changes nothing", e)
		}
	}
	for i := range reflect.TypeFor[Edit]().NumField() {
		if name := reflect.TypeFor[Edit]().Field(i).Name; !tried[name] {
			t.Errorf("no edit of %s is tried", name)
		}
	}
	rng := rand.New(rand.NewPCG(4, 4))
	for range 300 {
		if _, err := s.Pass(firstPass); err != nil || len(s.Patterns) < 3 || len(s.Grooves) == 0 || len(s.Blocks) == 0 || len(s.Parts) == 0 || len(s.Sections) == 0 || len(s.Mix.Outputs) == 0 || s.Patterns[0].Value.Name == "c" {
			s = state(t, w)
		}
		all := edits(s)
		s = holds(t, s, w, all[rng.IntN(len(all))])
	}
}

// Scopes say truly what edits touch: of two edits made on one state whose scopes the other's changes do not touch, either order
// leads to the same project.
func TestEditsOfDifferentScopesCommute(t *testing.T) {
	w := newWorld("id")
	s := state(t, w)
	all := edits(s)
	free := 0
	for i, a := range all {
		for j, b := range all {
			first, second := NewDraft(s, newWorld("a")), NewDraft(s, newWorld("b")) // documents are named alike in either order
			if _, err := a.Apply(first); err != nil {
				continue
			}
			if _, err := b.Apply(second); err != nil {
				continue
			}
			touches := func(scope Scope, changes []Change) bool { return slices.ContainsFunc(changes, scope.Touches) }
			if i == j || touches(b.Scope(s.Project), first.Changes()) || touches(a.Scope(s.Project), second.Changes()) {
				continue
			}
			free++
			first.World, second.World = newWorld("b"), newWorld("a")
			_, errA := b.Apply(first)
			_, errB := a.Apply(second)
			if errA != nil || errB != nil {
				t.Errorf("%s and %s are said not to touch each other, and do: %v, %v", a.name(), b.name(), errA, errB)
				continue
			}
			one, two := content(t, first.State), content(t, second.State)
			if one != two {
				t.Errorf("%s and %s are said not to touch each other, and lead to different projects", a.name(), b.name())
			}
		}
	}
	if free < 100 {
		t.Errorf("only %d pairs of edits do not touch each other", free)
	}
}

// name is the part of an edit that is given, as JSON.
func (e Edit) name() string {
	text, err := json.Marshal(e)
	if err != nil {
		return err.Error()
	}
	return string(text[:min(len(text), 120)])
}

// content is what a project holds, whatever the names and the order of documents that came.
func content(t *testing.T, s State) string {
	var all []string
	for _, d := range s.docs {
		all = append(all, string(d.Kind)+string(d.Body))
	}
	slices.Sort(all)
	return strings.Join(all, "\n")
}

// FuzzEdits: whatever is asked for, what must hold of any edit holds.
func FuzzEdits(f *testing.F) {
	for _, e := range edits(state(f, newWorld("id"))) {
		text, err := json.Marshal(e)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		var e Edit
		if json.Unmarshal(data, &e) != nil {
			return
		}
		w := newWorld("id")
		holds(t, state(t, w), w, e)
	})
}

// Patterns keep the order in which they were made, whatever their IDs, edited, taken away and brought back.
func TestPatternsKeepTheirOrder(t *testing.T) {
	names := func(s State) (out []string) {
		for _, p := range s.Patterns {
			if p.Value.Part == "" {
				out = append(out, p.Value.Name)
			}
		}
		return out
	}
	w := newWorld("z")
	s := state(t, w)
	*w.n = 0
	w.prefix = "a" // IDs that would come first by name
	d := NewDraft(s, w)
	p := s.Patterns[0].Value
	p.Name, p.Link = "d", ""
	if _, err := d.AddPattern(p); err != nil {
		t.Fatal(err)
	}
	want := []string{"a", "b", "c", "d"}
	if got := names(d.State); !slices.Equal(got, want) {
		t.Fatalf("a pattern that was added: %v", got)
	}
	s = d.State
	d = NewDraft(s, w)
	if err := d.Remove(KindPattern, s.Patterns[1].ID); err != nil {
		t.Fatal(err)
	}
	if got := names(d.State); !slices.Equal(got, []string{"a", "c", "d"}) {
		t.Errorf("one taken away: %v", got)
	}
	back, _, err := d.State.Replay(Inverted(d.Changes()))
	if err != nil {
		t.Fatal(err)
	}
	if got := names(back); !slices.Equal(got, want) {
		t.Errorf("brought back: %v", got)
	}
	d = NewDraft(back, w)
	if _, _, err := d.EditPattern(back.Patterns[3].ID, pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{{Note: 40, Velocity: 9}}}}); err != nil {
		t.Fatal(err)
	}
	if got := names(d.State); !slices.Equal(got, want) {
		t.Errorf("one edited: %v", got)
	}
}
