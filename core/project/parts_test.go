package project

import (
	"encoding/json"
	"slices"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/core/pattern"
	"hexachord/core/song"
)

// twoParts is a draft whose first part has a pattern, and a second that plays to a MIDI output.
func twoParts(t *testing.T) (d *Draft, first, second string) {
	t.Helper()
	d, first = played(t, 1, pattern.Hit{Note: 36, Velocity: 100})
	apply(t, d, &AddPart{Name: "outboard", Output: &Output{To: "midi", Port: ReceiverPort, Channel: 4}})
	return d, first, d.Result.ID
}

// What is done in one part leaves the other as it is: lanes, kit, mutes, hits that go along with a note, and new patterns.
func TestPartsKeepToThemselves(t *testing.T) {
	d, first, second := twoParts(t)
	in := func(s Step) { t.Helper(); apply(t, d, InPart{second, s}) }
	in(&AddPattern{Name: "b", Bars: 1})
	other := d.Result.ID
	in(&PatternEdit{ID: other, Edit: pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{{Note: 36, Velocity: 90}}}}})
	lanes := d.In(second).Map
	lanes.Lanes = slices.Clone(lanes.Lanes)
	for i := range lanes.Lanes {
		if lanes.Lanes[i].Note == 36 {
			lanes.Lanes[i].Note = 24
		}
	}
	in(&MapEdit{Map: lanes, Moves: map[int]int{36: 24}, MoveHits: true, Label: "x"})
	in(&SettingsEdit{Muted: map[int]bool{38: true}})
	pad := kit.NewPad(40)
	in(&KitEdit{kit.Edit{Op: kit.OpPads, Put: []kit.Pad{pad}}})
	if got := ticks(t, d, first, 36); len(got) != 1 || len(ticks(t, d, other, 24)) != 1 {
		t.Errorf("hits of the first part %v, of the second on its new note %v", got, ticks(t, d, other, 24))
	}
	if _, ok := d.Map.ByNote(24); ok || len(d.Settings.Muted) != 0 || len(d.Kit.Pads) != 0 || d.Part != "" {
		t.Errorf("the first part was changed: muted %v, %d pads", d.Settings.Muted, len(d.Kit.Pads))
	}
	own := d.In(second)
	if !own.Settings.Silent(38) || own.Settings.Output.Channel != 4 || len(own.Kit.Pads) != 1 || own.PartName() != "outboard" || own.Settings.BPM != d.Settings.BPM {
		t.Errorf("the second: %+v", own.Settings)
	}
	if pt, _ := d.Pattern(other); pt.Part != second {
		t.Errorf("the new pattern belongs to %q", pt.Part)
	}
	if _, err := (InPart{"?", &AddPattern{Name: "c"}}).Apply(d); err == nil {
		t.Error("something was done in a part that is not there")
	}
}

// Muted and soloed parts; one that is removed takes its patterns and blocks along and no others.
func TestPartsAreHeardAndRemoved(t *testing.T) {
	d, first, second := twoParts(t)
	apply(t, d, InPart{second, &AddPattern{Name: "b", Bars: 1}})
	other := d.Result.ID
	apply(t, d, &SongEdit{Put: []BlockPut{{Block: song.Block{Pattern: first, Bars: 2}}, {Block: song.Block{Part: second, Pattern: other, Bars: 2}}}})
	yes, no := true, false
	hears := func(a, b bool) {
		t.Helper()
		if d.Heard("") != a || d.Heard(second) != b {
			t.Errorf("heard: %v and %v, not %v and %v", d.Heard(""), d.Heard(second), a, b)
		}
	}
	hears(true, true)
	apply(t, d, &PartEdit{ID: second, Solo: &yes})
	hears(false, true)
	apply(t, d, &PartEdit{ID: second, Muted: &yes})
	hears(false, false)
	apply(t, d, &PartEdit{ID: second, Solo: &no})
	apply(t, d, &PartEdit{Muted: &yes})
	hears(false, false)
	apply(t, d, &PartEdit{ID: second, Move: -1})
	apply(t, d, &AddPart{Name: "third"})
	third := d.Result.ID
	apply(t, d, &PartEdit{ID: third, Move: -1})
	if got := d.PartIDs(); !slices.Equal(got, []string{second, third, ""}) || d.In("").Map.Name != d.first.lanes.Name {
		t.Errorf("the parts stand as %v", got)
	}
	apply(t, d, &PartEdit{ID: third, Remove: true})
	apply(t, d, &PartEdit{ID: second, Remove: true})
	if len(d.Patterns) != 1 || len(d.Blocks) != 1 || len(d.Parts) != 0 || d.Blocks[0].Value.Part != "" {
		t.Errorf("%d patterns, %d blocks, %d parts are left", len(d.Patterns), len(d.Blocks), len(d.Parts))
	}
	for words, bad := range map[string]Step{"the first part": &PartEdit{Remove: true}, "a part that is not there": &PartEdit{ID: "?", Muted: &yes}} {
		if _, err := bad.Apply(d); err == nil {
			t.Errorf("%s was removed or changed", words)
		}
	}
}

// A part that layers another plays its hits on its own lanes of the same roles, and nothing of roles it has no lane of.
func TestAPartLayersAnother(t *testing.T) {
	d, first, second := twoParts(t)
	m := d.In(second).Map
	kick, _ := m.ByRole("kick")
	for i := range m.Lanes {
		if m.Lanes[i].Note == kick.Note {
			m.Lanes = slices.Clone(m.Lanes)
			m.Lanes[i].Note = 20
		}
	}
	m.Lanes = slices.DeleteFunc(m.Lanes, func(l drummap.Lane) bool { return l.Role == "snare" })
	apply(t, d, InPart{second, &MapEdit{Map: m, Label: "x"}})
	apply(t, d, &PatternEdit{ID: first, Edit: pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{{Note: 38, Tick: 960, Velocity: 90}, {Note: 42, Tick: 480, Velocity: 70}}}}})
	of := ""
	apply(t, d, &PartEdit{ID: second, Layers: &of})
	if got := d.LayersOf(""); len(got) != 1 || got[0] != second {
		t.Fatalf("the first part is layered by %v", got)
	}
	pt, _ := d.Pattern(first)
	got := d.Layered(pt, []int{42}, second)
	if len(got.Hits) != 1 || got.Hits[0].Note != 20 || got.Part != second {
		t.Errorf("it plays %+v", got.Hits)
	}
	apply(t, d, &PartEdit{ID: second, Layers: &second})
	if len(d.LayersOf("")) != 0 {
		t.Error("it still layers it")
	}
	if _, err := (&PartEdit{ID: second, Layers: &[]string{"?"}[0]}).Apply(d); err == nil {
		t.Error("a part that is not there is layered")
	}
}

// Settings of before have no word of parts and are written again as they were.
func TestSettingsWithoutPartsStayAsTheyWere(t *testing.T) {
	body := `{"bpm":92,"feel":{"swing":{"percent":50,"grid":"1/16"},"humanise":{"timeMS":0,"velocity":0,"seed":0},"groove":{"id":"","time":0,"velocity":0,"noSwing":false}},` +
		`"muted":[],"solo":[],"output":{"to":"kit","port":"receiver","channel":10}}`
	doc, err := Read(Key{KindSettings, only}, 1, []byte(body))
	if err != nil {
		t.Fatal(err)
	}
	if again, _ := json.Marshal(doc.Value); string(again) != body {
		t.Errorf("written again as %s", again)
	}
}
