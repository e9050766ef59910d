package project

import (
	"reflect"
	"testing"

	"hexachord/core/kit"
	"hexachord/core/layout"
	"hexachord/core/music"
)

// A pad is copied, moved or swapped with all its settings, and its lane stays.
func TestPadsAreThings(t *testing.T) {
	base := NewDraft(state(t, newWorld("a")), newWorld("b"))
	pad, _ := base.Kit.Pad(38)
	pad.LevelDB, pad.Choke, pad.Held = -7, 3, true
	if err := base.PutKit(base.Kit.Put(pad)); err != nil {
		t.Fatal(err)
	}
	kick, _ := base.Kit.Pad(36)
	for _, c := range []struct {
		how      string
		on38     bool
		snareAt  int
		kickBack bool
	}{{"copy", true, 36, false}, {"move", false, 36, false}, {"swap", true, 36, true}} {
		d := NewDraft(base.State, newWorld("c"))
		if _, err := (&MovePad{From: 38, To: 36, How: c.how}).Apply(d); err != nil {
			t.Fatal(err)
		}
		got, _ := d.Kit.Pad(c.snareAt)
		want := pad
		want.Note = 36
		if !reflect.DeepEqual(got, want) {
			t.Errorf("%s: the pad came as %+v", c.how, got)
		}
		left, there := d.Kit.Pad(38)
		if there != c.on38 {
			t.Errorf("%s: a pad on 38 is %v", c.how, there)
		}
		if c.kickBack {
			k := kick
			k.Note = 38
			if !reflect.DeepEqual(left, k) {
				t.Errorf("swapped: %+v", left)
			}
		}
		if len(d.Map.Lanes) != len(base.Map.Lanes) {
			t.Error("lanes changed")
		}
	}
	d := NewDraft(base.State, newWorld("c"))
	if _, err := (&MovePad{From: 38, To: 70, How: "swap"}).Apply(d); err != nil {
		t.Fatal(err)
	}
	if _, there := d.Kit.Pad(38); there {
		t.Error("swapped with nothing it is still there")
	}
	for _, bad := range []MovePad{{From: 1, To: 2, How: "copy"}, {From: 38, To: 38, How: "copy"}, {From: 38, To: 36, How: "turn"}} {
		if _, err := bad.Apply(NewDraft(base.State, newWorld("c"))); err == nil {
			t.Errorf("%+v was done", bad)
		}
	}
}

// One sound over six notes in one edit: its own, two below and three above, each a step from the next, every one with a lane.
func TestAPadIsSpreadOverNotes(t *testing.T) {
	d := NewDraft(state(t, newWorld("a")), newWorld("b"))
	before := len(d.Map.Lanes)
	label, err := (&SpreadPad{Note: 36, Count: 5, Step: 2, Below: 2}).Apply(d)
	if err != nil {
		t.Fatal(err)
	}
	if len(d.Map.Lanes) != before+5 || label != "Spread kick over 6 notes" {
		t.Errorf("%d lanes, %q", len(d.Map.Lanes), label)
	}
	if err := d.Map.Check(); err != nil {
		t.Error(err)
	}
	tunes := map[float64]int{}
	kick, _ := d.Kit.Pad(36)
	for _, l := range d.Map.Lanes {
		if p, _ := d.Kit.Pad(l.Note); l.Role == "kick" {
			tunes[p.Semitones]++
			if !reflect.DeepEqual(p.Layers, kick.Layers) {
				t.Errorf("%s sounds otherwise", l.Name)
			}
		}
	}
	if !reflect.DeepEqual(tunes, map[float64]int{-4: 1, -2: 1, 0: 1, 2: 1, 4: 1, 6: 1}) {
		t.Errorf("tuned %v", tunes)
	}
	d = NewDraft(state(t, newWorld("a")), newWorld("b"))
	if label, err := (&SpreadPad{Note: 38, Count: 1}).Apply(d); err != nil || label != "Copy snare to a lane of its own" || len(d.Map.Lanes) != before+1 {
		t.Errorf("%q %v", label, err)
	}
	for _, bad := range []SpreadPad{{Note: 39, Count: 1}, {Note: 36, Count: 40, Step: 2}, {Note: 36, Count: 1, Below: 2}, {Note: 36, Count: 64, Step: -24}} {
		if _, err := bad.Apply(NewDraft(state(t, newWorld("a")), newWorld("b"))); err == nil {
			t.Errorf("%+v was done", bad)
		}
	}
	// a clap is stacked on several pads, every layer, at once
	d = NewDraft(state(t, newWorld("a")), newWorld("b"))
	add := KitEdit{kit.Edit{Op: kit.OpAdd, From: 36, Notes: []int{38}, How: kit.Stack, Layer: -1, Takes: []kit.Take{{Sample: "bb", Shape: kit.Whole()}}}}
	if _, err := add.Apply(d); err != nil {
		t.Fatal(err)
	}
	for _, note := range []int{36, 38} {
		if p, _ := d.Kit.Pad(note); len(p.Layers[0].Sounds) != 2 {
			t.Errorf("note %d: %+v", note, p.Layers)
		}
	}
}

// A pattern of pieces has its bar 1 where the recording has it, ends with whole bars, and leaves out what lies before.
func TestALoopsPatternBeginsAtBarOne(t *testing.T) {
	d := NewDraft(state(t, newWorld("a")), newWorld("b"))
	var parts []SamplePart
	for _, start := range []int{0, 22050, 44100, 66150, 110250} { // the world's samples have no rate: 1 frame a second
		parts = append(parts, SamplePart{Hash: "aa", StartFrame: start / 22050, EndFrame: start/22050 + 1, Kind: "kick", Confidence: 1})
	}
	loop := &LoopPattern{Name: "a", BPM: 60, Meter: music.CommonTime, StartS: 1, Seconds: 6}
	if _, err := (&LayOut{Parts: parts, Options: layout.Options{By: layout.ByOrder}, Loop: loop}).Apply(d); err != nil {
		t.Fatal(err)
	}
	pt := d.Patterns[len(d.Patterns)-1].Value
	var ticks []int
	for _, h := range pt.Hits {
		ticks = append(ticks, h.Tick)
	}
	if pt.Bars != 2 || pt.Name != "a 2" || !reflect.DeepEqual(ticks, []int{0, music.PPQ, 2 * music.PPQ, 4 * music.PPQ}) {
		t.Errorf("%q, %d bars, hits at %v", pt.Name, pt.Bars, ticks)
	}
	if d.Settings.BPM == 60 {
		t.Error("the tempo was taken unasked")
	}
}
