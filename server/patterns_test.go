package server

import (
	"bytes"
	"fmt"
	"net/http"
	"reflect"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/pattern"
	"hexachord/core/project"
	"hexachord/core/ready"
	"hexachord/core/view"
	"hexachord/service"
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
	d.must(http.MethodPost, at+"/ready/hear", map[string]any{"take": take, "sounding": service.Sounding{Pattern: "any", Rate: 44100}}, &heard)
	if len(heard.Sounds.Pass.Cues) == 0 || len(heard.Laid.Missing) != 0 {
		t.Fatalf("heard: %d cues, missing %v", len(heard.Sounds.Pass.Cues), heard.Laid.Missing)
	}
	var after view.Project
	d.must(http.MethodGet, at, nil, &after)
	if after.Revision != p.Revision {
		t.Fatal("hearing it has changed the project")
	}
	now := p
	into := p.Patterns[1].ID
	d.edit(&now, "", service.Edit{Edit: project.Edit{TakeReady: &project.TakeReady{Name: "plain sail", Roles: []drummap.Role{drummap.Snare}, Into: into, FromBar: 1, ToBar: 2}}})
	ticks := func(p view.Project, bar, note int) (out []int) {
		for _, h := range p.Patterns[1].Value.Hits {
			if h.Note == note && h.Tick/3840 == bar {
				out = append(out, h.Tick%3840)
			}
		}
		return out
	}
	if got := fmt.Sprint(ticks(now, 1, 38)); got != "[960 2880]" {
		t.Errorf("bar 2 has its snares at %s", got)
	}
	for _, note := range []int{36, 42, 46} {
		if fmt.Sprint(ticks(now, 1, note)) != fmt.Sprint(ticks(p, 1, note)) || fmt.Sprint(ticks(now, 0, 38)) != fmt.Sprint(ticks(p, 0, 38)) {
			t.Errorf("note %d, or the bar before, has changed", note)
		}
	}
	for _, bad := range []project.TakeReady{{Name: "no such"}, {Name: "plain sail", Into: "nowhere", ToBar: 1}} {
		if status, _ := d.refused(now, service.Edit{Edit: project.Edit{TakeReady: &bad}}); status != http.StatusNotFound {
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
	kept := d.edit(&p, "", service.Edit{Edit: project.Edit{AddGroove: &project.AddGroove{Name: "quay", Groove: &g}}})
	id := kept.Results[0].ID
	status, data := d.ask(http.MethodGet, at+"/grooves/"+id+"/midi", nil, nil)
	if status != http.StatusOK {
		t.Fatal(status)
	}
	d.must(http.MethodPost, fmt.Sprintf("%s/grooves/midi?revision=%d", at, p.Revision), file(t, "quay.mid", data), nil)
	d.must(http.MethodGet, at, nil, &p)
	got := p.Grooves[1].Value
	for i, c := range got.Cells {
		want := g.Cells[i]
		if (c.Hits > 0) != (want.Hits > 0) || c.Hits > 0 && (c.LeanTicks != want.LeanTicks || c.Level != want.Level) {
			t.Errorf("cell %d came back as %+v, went out as %+v", i+1, c, want)
		}
	}
	if status, _ := d.refused(p, service.Edit{Edit: project.Edit{AddGroove: &project.AddGroove{Groove: &g}}}); status != http.StatusUnprocessableEntity {
		t.Errorf("a groove without a name: %d", status)
	}
	// heard before it is laid over, it sounds as it does afterwards, and not as it did before
	pid, use := p.Patterns[0].ID, feel.GrooveUse{Time: 100, Velocity: 50, NoSwing: true}
	var before, laid service.Sounds
	d.must(http.MethodGet, at+"/patterns/"+pid+"/pass?rate=44100", nil, &before)
	lay := service.Edit{Edit: project.Edit{AddGroove: &project.AddGroove{Name: "laid", Groove: &g, Over: pid, Use: &use}}}
	var heard tryReply
	try := map[string]any{"edits": []service.Edit{lay}, "sounding": service.Sounding{Pattern: pid, Rate: 44100}}
	d.must(http.MethodPost, at+"/try", try, &heard)
	d.edit(&p, "", lay)
	d.must(http.MethodGet, at+"/patterns/"+pid+"/pass?rate=44100", nil, &laid)
	if !reflect.DeepEqual(heard.Sounds.Pass.Cues, laid.Pass.Cues) || reflect.DeepEqual(laid.Pass.Cues, before.Pass.Cues) {
		t.Error("a groove that is heard before it is laid over sounds otherwise than afterwards, or not at all")
	}
	g.Cells[0].Level = -1
	if status, _ := d.ask(http.MethodPost, at+"/try", try, nil); status != http.StatusUnprocessableEntity {
		t.Errorf("a groove that cannot be: %d", status)
	}
	// removed, a feel that names it plays without it; undo brings it back
	d.edit(&p, "", service.Edit{Edit: project.Edit{RemoveGroove: &project.RemoveGroove{ID: id}}})
	if len(p.Grooves) != 2 {
		t.Errorf("%d grooves after one was removed", len(p.Grooves))
	}
	d.must(http.MethodPost, at+"/undo", map[string]any{"revision": p.Revision}, nil)
	d.must(http.MethodGet, at, nil, &p)
	if len(p.Grooves) != 3 || p.Grooves[0].ID != id {
		t.Errorf("%d grooves after undo", len(p.Grooves))
	}
}

// Linked copies mirror hits and bars, not names; two patterns are compared.
func TestLinkedCopiesMirror(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID + "/patterns"
	first := p.Patterns[0].ID
	copied := d.edit(&p, "", service.Edit{Edit: project.Edit{AddPattern: &project.AddPattern{Name: "mirror", CopyOf: first, Linked: true}}}).Results[0].ID
	edit := func(id string, e pattern.Edit) {
		d.edit(&p, "", service.Edit{Edit: project.Edit{Pattern: &project.PatternEdit{ID: id, Edit: e}}})
	}
	bars, name := 3, "other"
	edit(copied, pattern.Edit{Shape: &pattern.Shape{Bars: &bars, Name: &name}})
	edit(first, pattern.Edit{Double: &pattern.Double{}})
	if status, body := d.ask(http.MethodGet, at+"/"+copied+"/compare?with="+first, nil, nil); status != http.StatusOK {
		t.Fatalf("%d %s", status, body)
	}
	var now view.Project
	d.must(http.MethodGet, "/api/v1/projects/"+p.ID, nil, &now)
	a, b := now.Patterns[0].Value, now.Patterns[2].Value
	if a.Bars != 6 || b.Bars != 6 || a.Name == b.Name || len(pattern.Compare(a, b).Changed)+len(pattern.Compare(a, b).OnlyA) != 0 {
		t.Errorf("%q has %d bars, %q %d; %+v", a.Name, a.Bars, b.Name, b.Bars, pattern.Compare(a, b))
	}
	// unlinked, it stands alone
	none := ""
	edit(copied, pattern.Edit{Shape: &pattern.Shape{Link: &none}})
	edit(copied, pattern.Edit{Clear: &pattern.Clear{FromBar: 0, ToBar: 6}})
	d.must(http.MethodGet, "/api/v1/projects/"+p.ID, nil, &now)
	if len(now.Patterns[0].Value.Hits) == 0 || len(now.Patterns[2].Value.Hits) != 0 {
		t.Error("clearing an unlinked copy clears the other")
	}
}

// Every route's rules can be read out of the description, not only those that the other tests ask for.
func TestEveryRouteHasItsRules(t *testing.T) {
	s, _, err := New(nil, Config{Addr: "127.0.0.1:0", Version: "rules"})
	if err != nil {
		t.Fatal(err)
	}
	d, err := s.described()
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range s.routes {
		if _, err := d.rules.of(f.method, f.path); err != nil {
			t.Errorf("%s %s: %v", f.method, f.path, err)
		}
	}
	// a program that brings its description along goes by that
	again, _, err := New(nil, Config{Addr: "127.0.0.1:0", Version: "rules", Description: d.spec})
	if err != nil {
		t.Fatal(err)
	}
	if own, err := again.described(); err != nil || !bytes.Equal(own.spec, d.spec) {
		t.Errorf("the description brought along is not the one: %v", err)
	}
	if _, err := d.rules.of(http.MethodGet, "/nowhere"); err == nil {
		t.Error("rules of a route that is none")
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
	var edits []service.Edit
	for i := len(p.Patterns); i < 999; i++ {
		edits = append(edits, service.Edit{Edit: project.Edit{AddPattern: &project.AddPattern{Name: fmt.Sprint("pattern ", i), Value: &pt}}})
	}
	done, results, err := d.bench.Edit(d.t.Context(), p.ID, p.Revision, service.Edits{Edits: edits})
	if err != nil {
		d.t.Fatal(err)
	}
	return p.ID, done.Project.Revision, results[0].ID
}

func BenchmarkOpen999Patterns(b *testing.B) {
	d := open(b)
	id, _, _ := manyPatterns(d)
	for b.Loop() {
		d.must(http.MethodGet, "/api/v1/projects/"+id, nil, nil)
	}
}

func benchmarkAmong999(b *testing.B, edit func(i int, first string) service.Edit) {
	d := open(b)
	id, revision, first := manyPatterns(d)
	var had service.Sounds
	d.must(http.MethodGet, "/api/v1/projects/"+id+"/patterns/"+first+"/pass?rate=44100", nil, &had)
	sounding, sent := service.Sounding{Pattern: first, Rate: 44100, Have: had.ID}, 0
	for i := 0; b.Loop(); i++ {
		var r Changed
		_, body := d.ask(http.MethodPost, "/api/v1/projects/"+id+"/edits", map[string]any{"revision": revision, "sounding": sounding, "edits": []service.Edit{edit(i, first)}}, &r)
		revision, sounding.Have = r.Revision, r.Sounds.ID
		sent += len(body)
	}
	b.ReportMetric(float64(sent)/float64(b.N), "bytes/edit")
}

func BenchmarkEditAmong999Patterns(b *testing.B) {
	benchmarkAmong999(b, func(i int, first string) service.Edit {
		return hits(first, pattern.Hit{Note: 36, Tick: 30, Velocity: 1 + i%127})
	})
}

func BenchmarkMuteAmong999Patterns(b *testing.B) {
	benchmarkAmong999(b, func(i int, _ string) service.Edit {
		return service.Edit{Edit: project.Edit{Settings: &project.SettingsEdit{Muted: map[int]bool{36: i%2 == 0}}}}
	})
}
