package project

import (
	"testing"

	"hexachord/core/mix"
)

// Strips go along with a lane whose note changes, with a part that is copied, and go with one that is removed; an output that is removed gives
// its lanes to Main.
func TestStripsGoAlong(t *testing.T) {
	d, _ := played(t, 2)
	apply(t, d, &MixEdit{Outputs: []mix.Output{NewMixOutput()}})
	out := d.Result.ID
	apply(t, d, &MixEdit{Strips: map[string]*mix.Strip{":36": {LevelDB: -3, Output: out, Also: new(string)}, ":38": {Pan: 0.3, Also: &out}}})
	m := d.Map
	m.Lanes = append(m.Lanes[:0:0], m.Lanes...)
	for i := range m.Lanes {
		switch m.Lanes[i].Note {
		case 36:
			m.Lanes[i].Note = 38
		case 38:
			m.Lanes[i].Note = 36
		}
	}
	apply(t, d, &MapEdit{Map: m, Moves: map[int]int{36: 38, 38: 36}, Label: "swap"})
	if kick, snare := d.Mix.Strip("", 38), d.Mix.Strip("", 36); kick.LevelDB != -3 || snare.Pan != 0.3 {
		t.Errorf("swapped, they are %+v and %+v", kick, snare)
	}
	apply(t, d, &AddPart{Name: "two", CopyOf: new(string)})
	two := d.Result.ID
	if d.Mix.Strip(two, 38).LevelDB != -3 {
		t.Error("the copied part has no strips")
	}
	apply(t, d, &MixEdit{RemoveOutputs: []string{out}})
	if kick, snare := d.Mix.Strip("", 38), d.Mix.Strip("", 36); kick.Output != "" || kick.Also == nil || snare.Also != nil || len(d.Mix.Outputs) != 0 {
		t.Errorf("its output gone, they are %+v and %+v", kick, snare)
	}
	apply(t, d, &PartEdit{ID: two, Remove: true})
	if len(d.Mix.Strips) != 2 {
		t.Errorf("%d strips are left", len(d.Mix.Strips))
	}
	apply(t, d, &MixEdit{ByRole: true, Strips: map[string]*mix.Strip{":36": nil}, ShiftDB: -2})
	if hat := d.Mix.Strip("", 42); hat.LevelDB != -8 || d.Mix.Main.LevelDB != -2 || d.Mix.Room.ReturnDB != mix.NewRoom().ReturnDB-2 {
		t.Errorf("by role: hat %+v, Main %g dB, room %g dB", hat, d.Mix.Main.LevelDB, d.Mix.Room.ReturnDB)
	}
	apply(t, d, &MixEdit{Outputs: []mix.Output{NewMixOutput()}, Strips: map[string]*mix.Strip{":36": {Output: NewOutput, LevelDB: -1}}})
	if d.Mix.Strip("", 36).Output != d.Mix.Outputs[0].ID || d.Mix.Outputs[0].ID == NewOutput {
		t.Errorf("to a new output in one edit: %+v, %+v", d.Mix.Strip("", 36), d.Mix.Outputs)
	}
	if _, err := (&MixEdit{RemoveOutputs: []string{"?"}}).Apply(d); err == nil {
		t.Error("an output that is not there was removed")
	}
}
