package server

import (
	"fmt"
	"math"
	"net/http"
	"reflect"
	"strings"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/core/layout"
	"hexachord/core/project"
	"hexachord/core/shelf"
	"hexachord/core/sound"
	"hexachord/core/view"
	"hexachord/format/wav"
	"hexachord/service"
	"hexachord/store"
)

// strokes is a recording of n strokes half a second apart, as a file.
func strokes(t *testing.T, n int, hz float64) []byte {
	t.Helper()
	const rate = 44100
	b := sound.New(rate, 1, rate/4+n*rate/2)
	for k := range n {
		for i := range rate / 3 {
			b.Channels[0][rate/8+k*rate/2+i] = float32(0.7 * math.Exp(-float64(i)/1800) * math.Sin(2*math.Pi*hz*float64(i)/rate))
		}
	}
	data, err := wav.Encode(b, wav.PCM16)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

func (d door) bring(name string, data []byte) service.SampleReport {
	d.t.Helper()
	var reply importSamplesReply
	if status, body := d.ask("POST", "/api/v1/samples", file(d.t, name, data), &reply); status != 200 || len(reply.Reports) != 1 {
		d.t.Fatalf("%d %s", status, body)
	}
	return reply.Reports[0]
}

// A file comes to the shelf, is found, corrected, drawn, trimmed, snapped, heard and cut, and is never changed.
func TestASampleOnTheShelf(t *testing.T) {
	d := open(t)
	data := strokes(t, 6, 180)
	r := d.bring("quay/wet strokes.wav", data)
	if r.Status != "added" || r.Hash != store.HashOf(data) {
		t.Fatalf("%+v", r)
	}
	if again := d.bring("other name.wav", data); again.Status != "known" || !strings.Contains(again.Detail, "wet strokes") {
		t.Errorf("the same content again: %+v", again)
	}
	at := "/api/v1/samples/" + r.Hash
	var found shelf.Result
	d.ask("GET", "/api/v1/samples?text=WET+stro&folder=quay&sort=length", nil, &found)
	if found.Total != 1 || found.Items[0].Folder != "quay" || found.Items[0].Kind != "loop" || found.Items[0].Facts.Attacks != 6 {
		t.Errorf("found %+v", found)
	}
	var it shelf.Item
	d.ask("POST", at, map[string]any{"kind": "snare", "tags": []string{"rope"}}, &it)
	if it.Kind != "snare" || !it.Corrected || it.Confidence != 1 {
		t.Errorf("corrected %+v", it)
	}
	d.ask("GET", "/api/v1/samples?kind=snare&tag=rope", nil, &found)
	if found.Total != 1 {
		t.Error("not found by what a person said of it")
	}
	var w service.Wave
	d.ask("GET", at+"/wave?start=5000&end=30000&columns=100", nil, &w)
	if len(w.High) != 100 || w.StartFrame != 5000 || w.Frames != 44100/4+6*22050 {
		t.Errorf("drawn %+v", w)
	}
	var trim trimReply
	d.ask("GET", at+"/trim?belowDB=-40", nil, &trim)
	if trim.StartFrame < 44100/8 || trim.StartFrame > 44100/8+20 {
		t.Errorf("the dead air before the first stroke ends at %d", trim.StartFrame)
	}
	var snap snapReply
	d.ask("GET", fmt.Sprintf("%s/snap?frame=%d&to=attack", at, 44100/8+22050+700), nil, &snap)
	if diff := snap.Frame - (44100/8 + 22050); diff < -220 || diff > 220 {
		t.Errorf("the nearest attack is %d frames off", diff)
	}
	var cut cutReply
	d.ask("POST", at+"/cut", map[string]any{"strength": 0.3, "minGapMS": 90, "deadDB": -48}, &cut)
	if len(cut.Pieces) != 6 {
		t.Errorf("%d pieces", len(cut.Pieces))
	}
	var a auditionReply
	d.ask("GET", at+"/audition?rate=48000&bpm=90", nil, &a)
	if status, voice := d.ask("GET", "/api/v1/voices/"+a.Voice, nil, nil); status != 200 || !wav.Sniff(voice) || a.Gain <= 0 || a.Gain > 1.1 {
		t.Errorf("heard: %d, gain %g", status, a.Gain)
	}
	if status, part := d.ask("GET", at+"/part?start=5512&end=9000", nil, nil); status != 200 {
		t.Errorf("a part: %s", part)
	} else if b, info, err := wav.Decode(part); err != nil || info.Bits != 16 || b.Frames() != 9000-5512 {
		t.Errorf("a part of a 16-bit file: %+v %v", info, err)
	}
	for name, c := range map[string]struct {
		method, path string
		body         any
		status       int
		words        string
	}{
		"no such sample":    {"GET", "/api/v1/samples/" + strings.Repeat("0", 64), nil, 404, "not found"},
		"no such kind":      {"POST", at, map[string]any{"kind": "gong"}, 422, "not a kind"},
		"too many columns":  {"GET", at + "/wave?columns=99999", nil, 422, "4096"},
		"a loud threshold":  {"GET", at + "/trim?belowDB=3", nil, 422, "threshold"},
		"snapped to what":   {"GET", at + "/snap?frame=1&to=beat", nil, 422, "attack"},
		"an empty part":     {"GET", at + "/part?start=9000&end=5000", nil, 422, "no part"},
		"a part outside":    {"GET", at + "/part?start=-5&end=100", nil, 422, "no part"},
		"an odd rate":       {"GET", at + "/audition?rate=3", nil, 422, "sample rate"},
		"an odd tempo":      {"GET", at + "/audition?rate=44100&bpm=4000", nil, 422, "20 and 400"},
		"nothing brought":   {"POST", "/api/v1/samples", map[string]any{}, 400, "multipart"},
		"damaged zip":       {"POST", "/api/v1/kits", file(t, "k.zip", []byte("PK\x03\x04 no")), 422, "k.zip"},
		"an SFZ on its own": {"POST", "/api/v1/kits", file(t, "k.sfz", []byte("<region> sample=a.wav key=36")), 422, "none of its samples"},
	} {
		status, body := d.ask(c.method, c.path, c.body, nil)
		if status != c.status || !strings.Contains(string(body), c.words) {
			t.Errorf("%s: %d %s; want %d with %q", name, status, body, c.status, c.words)
		}
	}
}

// What is tried or planned keeps nothing; what is kept is one edit that undo takes back, and a stale revision is refused.
func TestTryingAndPlanningKeepNothing(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID
	r := d.bring("kick.wav", strokes(t, 1, 60))
	pad, _ := p.Kit.Pad(36)
	try := service.Edit{Edit: project.Edit{Kit: &project.KitEdit{Edit: kit.Edit{Op: kit.OpTry, Try: &kit.Try{Note: 36, Sample: r.Hash, Source: "kick.wav", Hear: "new", Match: true}}}}}
	var preview tryReply
	d.must("POST", at+"/try", map[string]any{"edits": []service.Edit{try}, "sounding": service.Sounding{Pattern: p.Patterns[0].ID, Rate: 44100}, "table": 44100}, &preview)
	voices := map[string]bool{}
	for _, sp := range preview.Table.Pads {
		if sp.Note == 36 {
			voices[sp.Layers[0].Takes[0].Voice] = true
		}
	}
	if len(voices) != 1 || preview.MatchDB == 0 {
		t.Errorf("%d voices on the pad, matched by %g dB", len(voices), preview.MatchDB)
	}
	layOut := service.Edit{Edit: project.Edit{LayOut: &project.LayOut{Parts: []project.SamplePart{{Hash: r.Hash}}, Options: layout.Options{By: layout.ByKind, How: map[int]kit.How{36: kit.AddLayer}}}}}
	var plan layout.Plan
	d.must("POST", at+"/layout/plan", layOut.LayOut, &plan)
	if len(plan.Rows) != 1 || plan.Rows[0].Lane.Note != 36 || len(plan.Rows[0].Pad.Layers) != len(pad.Layers)+1 || !plan.Rows[0].Full {
		t.Errorf("planned %+v", plan.Rows)
	}
	before, after := p, p
	d.must("GET", at, nil, &after)
	if after.Revision != p.Revision || !reflect.DeepEqual(after.Kit, p.Kit) {
		t.Error("trying or planning kept something")
	}
	d.edit(&p, "", layOut)
	if got, _ := p.Kit.Pad(36); len(got.Layers) != len(pad.Layers)+1 || p.Undo != "Lay out a sample" {
		t.Errorf("laid out: %q", p.Undo)
	}
	kitEdit := func(e kit.Edit) service.Edit { return service.Edit{Edit: project.Edit{Kit: &project.KitEdit{Edit: e}}} }
	stale := map[string]any{"revision": before.Revision, "edits": []service.Edit{kitEdit(kit.Edit{Op: kit.OpEven, Notes: []int{36}})}}
	if status, body := d.ask("POST", at+"/edits", stale, nil); status != http.StatusConflict || !strings.Contains(string(body), "Lay out a sample") {
		t.Errorf("an edit of a pad that was changed since: %d %s", status, body)
	}
	d.must("POST", at+"/undo", map[string]any{"revision": p.Revision}, nil)
	d.must("GET", at, nil, &p)
	if !reflect.DeepEqual(p.Kit, before.Kit) {
		t.Error("undo does not bring the kit back")
	}
	for name, e := range map[string]kit.Edit{
		"a sample that is not here": {Op: kit.OpPads, Put: []kit.Pad{{Note: 36, VelTrack: 100, Layers: []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: strings.Repeat("a", 64), Shape: kit.Whole()})}}}},
		"a pad that is not there":   {Op: kit.OpEven, Notes: []int{1}},
		"a level out of range":      {Op: kit.OpPads, Put: []kit.Pad{{Note: 36, Layers: []kit.Layer{}, LevelDB: 99}}},
		"no sound given":            {Op: kit.OpAdd, From: 36, How: kit.Stack},
	} {
		if status, body := d.refused(p, kitEdit(e)); status != 422 {
			t.Errorf("%s: %d %s", name, status, body)
		}
	}
}

// Kits are kept, listed, taken, exported with what the format loses said, and imported.
func TestKitsAtTheDoor(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID
	var saved keptKitReply
	if status, body := d.ask("POST", at+"/kit/save", map[string]any{"name": "My house"}, &saved); status != 200 {
		t.Fatalf("%s", body)
	}
	if status, _ := d.ask("POST", at+"/kit/save", map[string]any{"name": "  "}, nil); status != 422 {
		t.Errorf("a kit without a name: %d", status)
	}
	next := p
	d.edit(&next, "", service.Edit{TakeKit: &service.TakeKit{Kit: "empty"}})
	if len(next.Kit.Pads) != 0 || next.Map.Name != "Full set" {
		t.Errorf("empty: %+v", next.Kit)
	}
	d.edit(&next, "", service.Edit{TakeKit: &service.TakeKit{Kit: saved.ID}})
	if next.Kit.Name != "My house" || len(next.Kit.Pads) != len(p.Kit.Pads) {
		t.Errorf("taken: %+v", next.Kit.Name)
	}
	if status, _ := d.refused(next, service.Edit{TakeKit: &service.TakeKit{Kit: "nothing"}}); status != 404 {
		t.Errorf("a kit that is not there: %d", status)
	}
	pad := next.Kit.Pads[0].Clone()
	pad.Layers[0].Sounds[0].Takes[0].Shape.FadeOutMS = 30
	d.edit(&next, "", service.Edit{Edit: project.Edit{Kit: &project.KitEdit{Edit: kit.Edit{Op: kit.OpPads, Put: []kit.Pad{pad}, Label: "Fade"}}}})
	var lost lostReply
	d.ask("GET", at+"/kit/lost?as=sfz", nil, &lost)
	if len(lost.Lost) != 1 || !strings.Contains(lost.Lost[0], "fades") {
		t.Errorf("lost: %q", lost.Lost)
	}
	for _, as := range []string{"sfz", "bundle"} {
		status, zip := d.ask("GET", at+"/kit/export?as="+as, nil, nil)
		var in keptKitReply
		if s, body := d.ask("POST", "/api/v1/kits", file(t, "k.zip", zip), &in); status != 200 || s != 200 || in.ID == "" {
			t.Errorf("%s: %d %d %s", as, status, s, body)
		}
	}
	if status, _ := d.ask("GET", at+"/kit/export?as=tape", nil, nil); status != 422 {
		t.Errorf("an export nobody knows: %d", status)
	}
	var all keptReply
	d.ask("GET", "/api/v1/kits", nil, &all)
	if len(all.Kits) < 3 {
		t.Errorf("%d kits are listed", len(all.Kits))
	}
}

// Maps are edited with hits and sounds along, kept, read, compared and carried; faults change nothing.
func TestMapsAtTheDoor(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID
	on := func(p view.Project, note int) (n int) {
		for _, h := range p.Patterns[0].Value.Hits {
			if h.Note == note {
				n++
			}
		}
		return n
	}
	kicks := on(p, 36)
	m := p.Map
	m.Lanes = append([]drummap.Lane(nil), m.Lanes...)
	m.Lanes[11].Note, m.Lanes[11].Color = 35, "#8a6fd1"
	next := p
	edit := service.Edit{Edit: project.Edit{Map: &project.MapEdit{Map: m, Moves: map[int]int{36: 35}, MoveHits: true, MoveSounds: true, Label: "Kick on 35"}}}
	d.edit(&next, "", edit)
	if _, sounds := next.Kit.Pad(35); on(next, 35) != kicks || !sounds || next.Undo != "Kick on 35" || len(next.Swatches) != 1 || len(next.Missing) != 0 {
		t.Errorf("%d hits on 35, sounds %v, missing %v", on(next, 35), sounds, next.Missing)
	}
	if status, _ := d.ask("POST", at+"/edits", map[string]any{"revision": p.Revision, "edits": []service.Edit{edit}}, nil); status != http.StatusConflict {
		t.Errorf("a stale edit of the map: %d", status)
	}
	twice := m
	twice.Lanes = append(append([]drummap.Lane(nil), m.Lanes...), m.Lanes[0])
	for name, e := range map[string]project.MapEdit{"a note twice": {Map: twice}, "a note outside": {Map: m, Moves: map[int]int{36: 200}}} {
		if status, body := d.refused(next, service.Edit{Edit: project.Edit{Map: &e}}); status != 422 {
			t.Errorf("%s: %d %s", name, status, body)
		}
	}
	var saved savedMapReply
	d.ask("POST", "/api/v1/maps", map[string]any{"map": m, "description": "for the other kit"}, &saved)
	var maps mapsReply
	d.ask("POST", "/api/v1/maps/"+saved.ID, map[string]any{"default": true, "earlier": false}, &maps)
	if len(maps.Maps) != 3 || !maps.Maps[0].Default || maps.Maps[0].Description == "" {
		t.Errorf("kept maps: %+v", maps.Maps)
	}
	d.edit(&next, "", service.Edit{TakeKit: &service.TakeKit{Kit: "empty"}})
	if !reflect.DeepEqual(next.Map, m) {
		t.Errorf("new lanes do not begin with the default map: %s", next.Map.Name)
	}
	var read mapReply
	d.ask("POST", "/api/v1/maps/read?middleC=3", file(t, "other.csv", []byte("note,name,role\nC1,Drop,kick\nD1,Dust,snare\n")), &read)
	if len(read.Map.Lanes) != 2 || read.Map.Lanes[0].Note != 36 {
		t.Fatalf("read %+v", read.Map)
	}
	if status, body := d.ask("POST", "/api/v1/maps/read", file(t, "x.txt", []byte("?")), nil); status != 422 || !strings.Contains(string(body), ".midnam, .csv or .mid") {
		t.Errorf("a file of another kind: %d %s", status, body)
	}
	carry := project.CarryRequest{From: m, To: read.Map, Patterns: []string{p.Patterns[0].ID}, Corrections: map[int]int{42: 38}, Remember: true, Copies: true}
	var plan project.CarryPlan
	d.ask("POST", at+"/carry/plan", map[string]any{"carry": carry}, &plan)
	if plan.Hits[35] != kicks || plan.Patterns[0].Carried != kicks+on(p, 38)+on(p, 42) {
		t.Errorf("planned %+v", plan.Patterns)
	}
	d.edit(&next, "", service.Edit{Edit: project.Edit{Carry: &carry}})
	if copied := next.Patterns[len(next.Patterns)-1].Value; len(next.Patterns) != 3 || !strings.HasSuffix(copied.Name, " other") || on(next, 35) != kicks {
		t.Errorf("copies: %d patterns, the last %q", len(next.Patterns), copied.Name)
	}
	carry.Corrections = nil
	d.ask("POST", at+"/carry/plan", map[string]any{"carry": carry}, &plan)
	for _, l := range plan.Links {
		if l.From == 42 && (l.To != 38 || l.Why != drummap.ByPerson) {
			t.Errorf("a correction is not remembered: %+v", l)
		}
	}
	for _, as := range []string{"midnam", "csv"} {
		if status, body := d.ask("GET", at+"/map/export?as="+as, nil, nil); status != 200 || len(body) < 100 {
			t.Errorf("%s: %d", as, status)
		}
	}
	var compared compareReply
	d.ask("POST", "/api/v1/maps/compare", map[string]any{"a": m, "b": m}, &compared)
	for _, c := range compared.Differences {
		if c.What != "same" {
			t.Errorf("a map differs from itself: %+v", c)
		}
	}
}

// The history is listed and jumped in.
func TestHistoryAtTheDoor(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID
	tempo := func(bpm float64) service.Edit {
		return service.Edit{Edit: project.Edit{Settings: &project.SettingsEdit{BPM: &bpm}}}
	}
	for _, bpm := range []float64{100, 110, 120} {
		d.edit(&p, fmt.Sprintf("Tempo %g", bpm), tempo(bpm))
	}
	var h historyReply
	d.must("GET", at+"/history", nil, &h)
	if len(h.Entries) != 3 || h.Entries[0].Label != "Tempo 120" {
		t.Fatalf("%+v", h)
	}
	d.must("GET", at+"/history?before=2", nil, &h)
	if len(h.Entries) != 1 || h.Entries[0].Number != 1 {
		t.Errorf("before the second edit: %+v", h)
	}
	var c Changed
	d.must("POST", at+"/history", map[string]any{"revision": p.Revision, "number": 1}, &c)
	d.lead(&p, c)
	if p.Settings.BPM != 100 || p.Redo != "Tempo 110" {
		t.Errorf("after the first edit: %g, %q", p.Settings.BPM, p.Redo)
	}
	if status, _ := d.ask("POST", at+"/history", map[string]any{"revision": p.Revision - 1, "number": 3}, nil); status != http.StatusConflict {
		t.Errorf("a stale jump: %d", status)
	}
	if status, _ := d.ask("POST", at+"/history", map[string]any{"revision": p.Revision, "number": 77}, nil); status != 404 {
		t.Errorf("a jump to nowhere: %d", status)
	}
	out := project.Output{To: "moon", Channel: 10}
	if status, body := d.refused(p, service.Edit{Edit: project.Edit{Settings: &project.SettingsEdit{Output: &out}}}); status != 422 || !strings.Contains(string(body), "settings/output/to") {
		t.Errorf("a part that plays to the moon: %d %s", status, body)
	}
}
