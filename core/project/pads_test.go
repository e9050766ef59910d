package project

import (
	"reflect"
	"testing"

	"hexachord/core/kit"
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
	if label, err := (&SpreadPad{Note: 38, Count: 1}).Apply(d); err != nil || label != "Duplicate snare" || len(d.Map.Lanes) != before+1 {
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
