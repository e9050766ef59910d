package server

import (
	"fmt"
	"net/http"
	"reflect"
	"testing"

	"hexachord/core/feel"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/ready"
	"hexachord/store"
)

func (d door) must(method, path string, body, into any) {
	d.t.Helper()
	if status, reply := d.ask(method, path, body, into); status != http.StatusOK {
		d.t.Fatalf("%s %s: %d %s", method, path, status, reply)
	}
}

// Hearing a ready pattern changes nothing; taking one lane of it keeps the pattern's others; one that is not there, and a
// lane that is not, are said.
func TestReadyPatternsAreHeardAndTaken(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID
	var all struct{ Patterns []ready.Pattern }
	d.must(http.MethodGet, "/api/v1/ready", nil, &all)
	if len(all.Patterns) < 60 {
		t.Fatalf("%d ready patterns", len(all.Patterns))
	}
	take := map[string]any{"name": "plain sail", "roles": []string{"snare"}, "into": p.Patterns[1].ID, "fromBar": 1, "toBar": 2}
	var heard readyHeard
	d.must(http.MethodPost, at+"/ready/hear?rate=44100", map[string]any{"take": take}, &heard)
	if len(heard.Pass.Cues) == 0 || len(heard.Laid.Missing) != 0 {
		t.Fatalf("heard: %d cues, missing %v", len(heard.Pass.Cues), heard.Laid.Missing)
	}
	var after Project
	d.must(http.MethodGet, at, nil, &after)
	if after.Revision != p.Revision {
		t.Fatal("hearing it has changed the project")
	}
	var reply newPatternReply
	d.must(http.MethodPost, at+"/ready/take", map[string]any{"revision": p.Revision, "take": take}, &reply)
	ticks := func(p Project, bar, note int) (out []int) {
		for _, h := range p.Patterns[1].Value.Hits {
			if h.Note == note && h.Tick/3840 == bar {
				out = append(out, h.Tick%3840)
			}
		}
		return out
	}
	now := reply.Project
	if got := fmt.Sprint(ticks(now, 1, 38)); got != "[960 2880]" {
		t.Errorf("bar 2 has its snares at %s", got)
	}
	for _, note := range []int{36, 42, 46} {
		if fmt.Sprint(ticks(now, 1, note)) != fmt.Sprint(ticks(p, 1, note)) || fmt.Sprint(ticks(now, 0, 38)) != fmt.Sprint(ticks(p, 0, 38)) {
			t.Errorf("note %d, or the bar before, has changed", note)
		}
	}
	for _, bad := range []map[string]any{{"name": "no such"}, {"name": "plain sail", "into": "nowhere", "toBar": 1}} {
		if status, _ := d.ask(http.MethodPost, at+"/ready/take", map[string]any{"revision": now.Revision, "take": bad}, nil); status != http.StatusNotFound {
			t.Errorf("%v: %d", bad, status)
		}
	}
}

// A groove goes out as a MIDI file and comes back the same: leans, accents and counts as MIDI can say them.
func TestGroovesGoOutAndComeBack(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID
	g := feel.Groove{Name: "quay", Meter: p.Patterns[0].Value.Meter, Grid: "1/16", Cells: make([]feel.GrooveCell, 16)}
	for i := range g.Cells {
		g.Cells[i] = feel.GrooveCell{Level: 1}
	}
	g.Cells[0] = feel.GrooveCell{LeanTicks: 9, Level: 1.25, Hits: 4}
	g.Cells[5] = feel.GrooveCell{LeanTicks: -22, Level: 0.75, Hits: 2}
	var kept grooveReply
	d.must(http.MethodPost, at+"/grooves", map[string]any{"revision": p.Revision, "name": "quay", "groove": g}, &kept)
	status, data := d.ask(http.MethodGet, at+"/grooves/"+kept.GrooveID+"/midi", nil, nil)
	if status != http.StatusOK {
		t.Fatal(status)
	}
	var back grooveReply
	d.must(http.MethodPost, fmt.Sprintf("%s/grooves/midi?revision=%d", at, kept.Project.Revision), file(t, "quay.mid", data), &back)
	got := back.Project.Grooves[1].Value
	for i, c := range got.Cells {
		want := g.Cells[i]
		if (c.Hits > 0) != (want.Hits > 0) || c.Hits > 0 && (c.LeanTicks != want.LeanTicks || c.Level != want.Level) {
			t.Errorf("cell %d came back as %+v, went out as %+v", i+1, c, want)
		}
	}
	if status, _ := d.ask(http.MethodPost, at+"/grooves", map[string]any{"revision": back.Project.Revision, "name": "", "groove": g}, nil); status != http.StatusUnprocessableEntity {
		t.Errorf("a groove without a name: %d", status)
	}
	// heard before it is laid over, it sounds as it does afterwards, and not as it did before
	pid, use := p.Patterns[0].ID, feel.GrooveUse{Time: 100, Velocity: 50, NoSwing: true}
	var before, heard, laid play.Pass
	felt := at + "/patterns/" + pid + "/felt?rate=44100"
	d.must(http.MethodGet, at+"/patterns/"+pid+"/pass?rate=44100", nil, &before)
	d.must(http.MethodPost, felt, map[string]any{"groove": g, "use": use}, &heard)
	f := back.Project.Settings.Feel
	if own := back.Project.Patterns[0].Value.Feel; own != nil {
		f = *own
	}
	f.Groove = use
	f.Groove.ID = kept.GrooveID
	d.must(http.MethodPost, at+"/patterns/"+pid+"/edits?rate=44100", map[string]any{"revision": back.Project.Revision, "edit": map[string]any{"op": "shape", "feel": f, "label": "lay"}}, nil)
	d.must(http.MethodGet, at+"/patterns/"+pid+"/pass?rate=44100", nil, &laid)
	if !reflect.DeepEqual(heard.Cues, laid.Cues) || reflect.DeepEqual(heard.Cues, before.Cues) {
		t.Error("a groove that is heard before it is laid over sounds otherwise than afterwards, or not at all")
	}
	g.Cells[0].Level = -1
	if status, _ := d.ask(http.MethodPost, felt, map[string]any{"groove": g, "use": use}, nil); status != http.StatusUnprocessableEntity {
		t.Errorf("a groove that cannot be: %d", status)
	}
	d.must(http.MethodGet, at, nil, &back.Project)
	// deleted, a feel that names it plays without it; undo brings it back
	var gone Project
	d.must(http.MethodDelete, fmt.Sprintf("%s/grooves/%s?revision=%d", at, kept.GrooveID, back.Project.Revision), nil, &gone)
	d.must(http.MethodPost, at+"/undo", map[string]any{"revision": gone.Revision}, &gone)
	if len(gone.Grooves) != 2 {
		t.Errorf("%d grooves after undo", len(gone.Grooves))
	}
}

// Linked copies mirror hits and bars, not names; two patterns are compared.
func TestLinkedCopiesMirror(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID + "/patterns"
	var copied newPatternReply
	d.must(http.MethodPost, at, map[string]any{"revision": p.Revision, "name": "mirror", "bars": 1, "copyOf": p.Patterns[0].ID, "linked": true}, &copied)
	edit := func(id string, revision int64, e pattern.Edit) (r patternReply) {
		d.must(http.MethodPost, at+"/"+id+"/edits?rate=44100", map[string]any{"revision": revision, "edit": e}, &r)
		return r
	}
	bars, name := 3, "other"
	r := edit(copied.PatternID, copied.Project.Revision, pattern.Edit{Op: pattern.OpShape, Bars: &bars, Name: &name})
	r = edit(p.Patterns[0].ID, r.Revision, pattern.Edit{Op: pattern.OpDouble})
	if status, body := d.ask(http.MethodGet, at+"/"+copied.PatternID+"/compare?with="+p.Patterns[0].ID, nil, nil); status != http.StatusOK {
		t.Fatalf("%d %s", status, body)
	}
	var now Project
	d.must(http.MethodGet, "/api/v1/projects/"+p.ID, nil, &now)
	a, b := now.Patterns[0].Value, now.Patterns[2].Value
	if a.Bars != 6 || b.Bars != 6 || a.Name == b.Name || len(pattern.Compare(a, b).Changed)+len(pattern.Compare(a, b).OnlyA) != 0 {
		t.Errorf("%q has %d bars, %q %d; %+v", a.Name, a.Bars, b.Name, b.Bars, pattern.Compare(a, b))
	}
	// unlinked, it stands alone
	none := ""
	r = edit(copied.PatternID, r.Revision, pattern.Edit{Op: pattern.OpShape, Link: &none})
	edit(copied.PatternID, r.Revision, pattern.Edit{Op: pattern.OpClear, FromBar: 0, ToBar: 6})
	d.must(http.MethodGet, "/api/v1/projects/"+p.ID, nil, &now)
	if len(now.Patterns[0].Value.Hits) == 0 || len(now.Patterns[2].Value.Hits) != 0 {
		t.Error("clearing an unlinked copy clears the other")
	}
}

// manyPatterns is a project of 999 patterns of 64 hits.
func manyPatterns(d door) (id string, revision int64, pattern0 string) {
	d.t.Helper()
	p := d.demo()
	pt := pattern.Pattern{Bars: 1, Meter: p.Patterns[0].Value.Meter, Grid: "1/16"}
	for i := range 64 {
		pt.Hits = append(pt.Hits, pattern.Hit{Note: 36 + i%4, Tick: i / 4 * 240, Velocity: 30 + i})
	}
	revision, err := d.bench.Edit(p.ID, p.Revision, func(tx *store.Tx) string {
		for i := len(p.Patterns); i < 999; i++ {
			pt.Name = fmt.Sprint("pattern ", i)
			pattern0 = tx.AddPattern(pt)
		}
		return "Many patterns"
	})
	if err != nil {
		d.t.Fatal(err)
	}
	return p.ID, revision, pattern0
}

func BenchmarkOpen999Patterns(b *testing.B) {
	d := open(b)
	id, _, _ := manyPatterns(d)
	for b.Loop() {
		d.must(http.MethodGet, "/api/v1/projects/"+id, nil, nil)
	}
}

func BenchmarkEditAmong999Patterns(b *testing.B) {
	d := open(b)
	id, revision, first := manyPatterns(d)
	for i := 0; b.Loop(); i++ {
		var r struct{ Revision int64 }
		e := pattern.Edit{Op: pattern.OpHits, Put: []pattern.Hit{{Note: 36, Tick: 30, Velocity: 1 + i%127}}}
		d.must(http.MethodPost, "/api/v1/projects/"+id+"/patterns/"+first+"/edits?rate=44100", map[string]any{"revision": revision, "edit": e}, &r)
		revision = r.Revision
	}
}

func BenchmarkMuteAmong999Patterns(b *testing.B) {
	d := open(b)
	id, revision, _ := manyPatterns(d)
	for i := 0; b.Loop(); i++ {
		var r struct{ Revision int64 }
		d.must(http.MethodPost, "/api/v1/projects/"+id+"/settings", map[string]any{"revision": revision, "muted": []int{36 + i%2}, "label": "Mute"}, &r)
		revision = r.Revision
	}
}
