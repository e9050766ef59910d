package server

import (
	"fmt"
	"math"
	"net/http"
	"testing"

	"hexachord/core/feel"
	"hexachord/core/hear"
	"hexachord/core/kind"
	"hexachord/core/project"
	"hexachord/core/view"
	"hexachord/demo"
	"hexachord/format/audio"
	"hexachord/service"
)

// withBreak is the demo project with the demo's recording heard through the API.
func withBreak(t *testing.T) (d door, p view.Project, at string) {
	t.Helper()
	d = open(t)
	p = d.demo()
	brk, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	var r Changed
	d.must(http.MethodPost, "/api/v1/projects/"+p.ID+"/recordings?ticket=a", file(t, brk.Name, brk.Data), &r)
	d.lead(&p, r)
	return d, p, "/api/v1/projects/" + p.ID + "/recordings/" + r.Results[0].ID
}

func sounding(r view.Recording) (n int) {
	for _, h := range r.Heard.Hits {
		if h.Sounds() {
			n++
		}
	}
	return n
}

// Hits are taken out, brought back by undo, moved to a lane and cleaned; faults are said and change nothing.
func TestHeardHitsAreChanged(t *testing.T) {
	d, p, _ := withBreak(t)
	id := p.Recordings[0].ID
	heard := func(e hear.Edit) service.Edit {
		return service.Edit{Edit: project.Edit{Heard: &project.HeardEdit{Recording: id, Edit: e, Label: "x"}}}
	}
	first := p
	all := sounding(p.Recordings[0])
	d.edit(&p, "", heard(hear.Edit{Op: "out", Hits: []int{0, 3}}))
	if sounding(p.Recordings[0]) != all-2 || len(p.Recordings[0].Heard.Hits) != len(first.Recordings[0].Heard.Hits) {
		t.Fatalf("%d of %d hits sound", sounding(p.Recordings[0]), all)
	}
	d.edit(&p, "", heard(hear.Edit{Op: "lane", Hits: []int{1}, Lane: 70}))
	if p.Recordings[0].Lanes[1] != 70 {
		t.Errorf("moved to lane %d", p.Recordings[0].Lanes[1])
	}
	d.edit(&p, "", heard(hear.Edit{Op: "clean", Hits: []int{}, Clean: &hear.Clean{How: "soft", Amount: 60}}))
	if sounding(p.Recordings[0]) >= all-2 {
		t.Errorf("after cleaning %d of %d sound", sounding(p.Recordings[0]), all)
	}
	var back Changed
	d.must(http.MethodPost, "/api/v1/projects/"+p.ID+"/undo", map[string]any{"revision": p.Revision}, &back)
	d.lead(&p, back)
	if sounding(p.Recordings[0]) != all-2 {
		t.Error("undo does not bring the soft ones back")
	}
	for _, bad := range []hear.Edit{{Op: "keep", Hits: []int{9999}}, {Op: "velocity", Hits: []int{0}, Velocity: 300}, {Op: "clean", Hits: []int{}}, {Op: "??", Hits: []int{0}}} {
		if status, _ := d.refused(p, heard(bad)); status != http.StatusUnprocessableEntity {
			t.Errorf("%+v: %d", bad, status)
		}
	}
	stale := map[string]any{"revision": first.Revision, "edits": []service.Edit{heard(hear.Edit{Op: "keep", Hits: []int{0}})}}
	if status, body := d.ask(http.MethodPost, "/api/v1/projects/"+p.ID+"/edits", stale, nil); status != http.StatusConflict {
		t.Errorf("what was changed since: %d %s", status, body)
	}
}

// The grid follows, is steady again, and a bar line where no bar can be is refused; beats come along with it.
func TestTheGridOfARecording(t *testing.T) {
	d, p, _ := withBreak(t)
	id := p.Recordings[0].ID
	grid := func(g project.Regrid) service.Edit {
		g.Recording = id
		return service.Edit{Edit: project.Edit{Regrid: &g}}
	}
	yes, no := true, false
	d.edit(&p, "", grid(project.Regrid{Follow: &yes}))
	r := p.Recordings[0]
	if len(r.Heard.Pins) != 5 || len(r.Beats) != 17 {
		t.Fatalf("%d pins, %d beats", len(r.Heard.Pins), len(r.Beats))
	}
	for i := 1; i < len(r.Beats); i++ {
		if step := r.Beats[i] - r.Beats[i-1]; math.Abs(step-60/demo.BreakBPM) > 0.03 {
			t.Errorf("beat %d lasts %.3f s", i, step)
		}
	}
	pin := r.Heard.Pins[2]
	pin.TimeS += 0.02
	d.edit(&p, "", grid(project.Regrid{Pin: &pin}))
	if got := p.Recordings[0].Beats; math.Abs(got[8]-pin.TimeS) > 1e-9 || got[4] != r.Beats[4] || got[12] != r.Beats[12] {
		t.Errorf("bar 3 begins at %.3f, put at %.3f; bars 2 and 4 at %.3f and %.3f, were at %.3f and %.3f", got[8], pin.TimeS, got[4], got[12], r.Beats[4], r.Beats[12])
	}
	pin.TimeS = r.Heard.Pins[1].TimeS + 0.1
	if status, body := d.refused(p, grid(project.Regrid{Pin: &pin})); status != http.StatusUnprocessableEntity {
		t.Errorf("a bar of 0.1 s: %d %s", status, body)
	}
	d.edit(&p, "", grid(project.Regrid{Follow: &no}))
	if len(p.Recordings[0].Heard.Pins) != 0 {
		t.Error("it still follows")
	}
	// one bar line moved on the steady grid leaves the others where they lay; the first one moves them all
	was := p.Recordings[0].Beats
	d.edit(&p, "", grid(project.Regrid{Pin: &hear.Pin{Tick: 2 * 3840, TimeS: was[8] + 0.03}}))
	if is := p.Recordings[0].Beats; math.Abs(is[8]-was[8]-0.03) > 1e-9 || math.Abs(is[4]-was[4]) > 1e-9 || math.Abs(is[12]-was[12]) > 1e-9 {
		t.Errorf("bars 2, 3, 4 lie at %.3f %.3f %.3f, lay at %.3f %.3f %.3f", is[4], is[8], is[12], was[4], was[8], was[12])
	}
	d.edit(&p, "", grid(project.Regrid{Follow: &no}))
	d.edit(&p, "", grid(project.Regrid{Pin: &hear.Pin{TimeS: was[0] + 0.03}}))
	if is := p.Recordings[0].Beats; math.Abs(is[0]-was[0]-0.03) > 1e-9 || math.Abs(is[12]-was[12]-0.03) > 1e-9 {
		t.Errorf("bar 1 moved by 0.03 s leaves bar 4 at %.3f, was %.3f", is[12], was[12])
	}
}

// Listening, channels, groove, layer and flipping answer, and say what is wrong with what is asked.
func TestWhatIsMadeOfARecording(t *testing.T) {
	d, p, at := withBreak(t)
	var l service.Listening
	d.must(http.MethodPost, at+"/listen", map[string]any{"lane": 38, "columns": 64}, &l)
	if len(l.Levels) != 64 || len(l.Strikes) == 0 || l.Listener.OpenDB != l.OpenDB {
		t.Errorf("%d levels, %d strikes, opens at %g, suggested %g", len(l.Levels), len(l.Strikes), l.Listener.OpenDB, l.OpenDB)
	}
	for name, bad := range map[string]map[string]any{
		"no such lane":      {"lane": 99, "columns": 64},
		"too many columns":  {"lane": 38, "columns": 1 << 20},
		"a band of nothing": {"lane": 38, "listener": hear.Listener{LoHz: 500, HiHz: 400, OpenDB: -10, CloseDB: -20}, "columns": 64},
	} {
		if status, body := d.ask(http.MethodPost, at+"/listen", bad, nil); status != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d %s", name, status, body)
		}
	}
	id := p.Recordings[0].ID
	d.edit(&p, "", service.Edit{Again: &service.Again{Recording: id, Channel: hear.Left}})
	if h := p.Recordings[0].Heard; h.Channel != hear.Left || len(h.Hits) < 40 {
		t.Errorf("left: %q, %d hits", h.Channel, len(h.Hits))
	}
	if status, _ := d.refused(p, service.Edit{Again: &service.Again{Recording: id, Channel: "rear"}}); status != http.StatusUnprocessableEntity {
		t.Errorf("the rear channel: %d", status)
	}
	var g feel.Groove
	d.must(http.MethodGet, at+"/groove?grid=1/16&lane=-1", nil, &g)
	if len(g.Cells) != 16 || g.Cells[0].Hits < 6 {
		t.Errorf("the groove: %+v", g)
	}
	if status, _ := d.ask(http.MethodGet, at+"/groove?grid=1/16&lane=70", nil, nil); status != http.StatusUnprocessableEntity {
		t.Errorf("a groove of no hits: %d", status)
	}
	status, data := d.ask(http.MethodGet, at+"/layer?lane=36,38", nil, nil)
	dec, err := audio.Decode(data, audio.Limits{Seconds: 60, Channels: 2})
	if status != http.StatusOK || err != nil || dec.Seconds() < p.Recordings[0].Seconds-0.01 || dec.Peak() == 0 {
		t.Errorf("the layer: %d, %v, %.2f s", status, err, dec.Seconds())
	}
	if status, _ := d.ask(http.MethodGet, at+"/layer?lane=kick", nil, nil); status != http.StatusBadRequest {
		t.Errorf("a lane by name: %d", status)
	}
	// one lane of both: its drum's band of the recording against the kit's kicks alone, level with it once raised
	var c service.Compared
	d.must(http.MethodGet, at+"/compare?lane=36", nil, &c)
	if lo, hi := hear.BandFor(36); c.LoHz != lo || c.HiHz != hi {
		t.Errorf("the kick is heard in %g to %g Hz", c.LoHz, c.HiHz)
	}
	brk, _, _ := demo.DeckBreak()
	recording, err := audio.Decode(brk.Data, audio.Limits{Seconds: 60, Channels: 2})
	if err != nil {
		t.Fatal(err)
	}
	_, data = d.ask(http.MethodGet, at+"/layer?lane=36", nil, nil)
	kicks, err := audio.Decode(data, audio.Limits{Seconds: 60, Channels: 2})
	if err != nil {
		t.Fatal(err)
	}
	for _, ch := range kicks.Channels {
		for i := range ch {
			ch[i] *= float32(math.Pow(10, c.MatchDB/20))
		}
	}
	if a, b := kind.Loudness(hear.BandOnly(recording.Buffer, c.LoHz, c.HiHz)), kind.Loudness(kicks.Buffer); math.Abs(a-b) > 0.3 {
		t.Errorf("the kick's band is at %.2f LUFS, the kit's kicks are brought to %.2f", a, b)
	}
	if status, _ := d.ask(http.MethodGet, at+"/compare?lane=3", nil, nil); status != http.StatusUnprocessableEntity {
		t.Errorf("a lane that is not there: %d", status)
	}
	var before, after reinforceReply
	d.must(http.MethodGet, at+"/reinforce", nil, &before)
	d.edit(&p, "", service.Edit{Edit: project.Edit{Flip: &project.Flip{Recording: id, Lane: 36}}})
	d.must(http.MethodGet, at+"/reinforce", nil, &after)
	for i, x := range after.Lanes {
		if x.Flipped != (x.Note == 36) || math.Abs(x.AfterDB-before.Lanes[i].AfterDB) > 0.01 {
			t.Errorf("note %d: turned over %v, %.2f dB before, %.2f after", x.Note, x.Flipped, before.Lanes[i].AfterDB, x.AfterDB)
		}
	}
	var pass struct {
		Cues []struct {
			Note int
			Left float64
		}
	}
	d.must(http.MethodGet, fmt.Sprintf("%s/pass?rate=44100", at), nil, &pass)
	for _, c := range pass.Cues {
		if (c.Left < 0) != (c.Note == 36) {
			t.Errorf("note %d plays at %g", c.Note, c.Left)
		}
	}
}
