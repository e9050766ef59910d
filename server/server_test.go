package server

import (
	"archive/zip"
	"bufio"
	"bytes"
	"compress/gzip"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/view"
	"hexachord/demo"
	"hexachord/format/smf"
	"hexachord/format/wav"
	"hexachord/service"
)

func TestOnlyTheBenchsOwnPagesAreAnswered(t *testing.T) {
	d := open(t)
	for _, c := range []struct {
		headers []string
		want    int
	}{
		{nil, 200},
		{[]string{"Origin", d.URL}, 200},
		{[]string{"Host", "localhost:1"}, 200},
		{[]string{"Host", "LOCALHOST:1"}, 200},
		{[]string{"Sec-Fetch-Site", "same-origin"}, 200},
		{[]string{"Sec-Fetch-Site", "cross-site"}, 403},
		{[]string{"Sec-Fetch-Site", "same-site"}, 403},
		{[]string{"Host", "evil.example"}, 403},
		{[]string{"Host", "192.168.1.5:80"}, 403},
		{[]string{"Origin", "http://evil.example"}, 403},
		{[]string{"Origin", "null"}, 403},
	} {
		status, body := d.ask("GET", "/api/v1/projects", nil, nil, c.headers...)
		if status != c.want {
			t.Errorf("%v: %d %s, want %d", c.headers, status, body, c.want)
		}
	}
	for path, want := range map[string]int{"/": 200, "/any/face": 200, "/assets/a.js": 200, "/assets/gone.js": 404, "/api/v1/nothing": 404} {
		if status, _ := d.ask("GET", path, nil, nil); status != want {
			t.Errorf("%s: %d, want %d", path, status, want)
		}
	}
}

func TestErrorsAreProblemDetailsInWords(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID
	edit := func(revision int64, velocity int) map[string]any {
		return map[string]any{"revision": revision, "edits": []service.Edit{hits(p.Patterns[0].ID, pattern.Hit{Note: 36, Tick: 30, Velocity: velocity})}}
	}
	edits := at + "/edits"
	for name, c := range map[string]struct {
		method, path string
		body         any
		status       int
		say          string
	}{
		"stale":            {"POST", edits, edit(p.Revision+1, 100), 409, "changed elsewhere"},
		"velocity":         {"POST", edits, edit(p.Revision, 200), 422, "edits/0/pattern/edit/hits/put/0/velocity"},
		"no such project":  {"GET", "/api/v1/projects/NOPE", nil, 404, "not found"},
		"no such pattern":  {"GET", at + "/patterns/NOPE/pass?rate=44100", nil, 404, "pattern"},
		"nothing to undo":  {"POST", at + "/undo", map[string]any{"revision": p.Revision}, 409, "undo"},
		"tempo":            {"POST", edits, map[string]any{"revision": p.Revision, "edits": []any{map[string]any{"settings": map[string]any{"bpm": 9}}}}, 422, "settings/bpm"},
		"rate":             {"GET", at + "/table?rate=7", nil, 422, "rate"},
		"not JSON":         {"POST", at + "/undo", json.RawMessage("words"), 400, "cannot be read"},
		"unusable audio":   {"POST", at + "/recordings", file(t, "list.wav", []byte("bread, milk")), 422, "list.wav"},
		"too large":        {"POST", at + "/recordings", file(t, "big.wav", make([]byte, 5<<20)), 413, "--upload-limit"},
		"unusable MIDI":    {"POST", fmt.Sprintf("%s/midi?revision=%d", at, p.Revision), file(t, "x.mid", []byte("no")), 422, "x.mid"},
		"no file":          {"POST", fmt.Sprintf("%s/midi?revision=%d", at, p.Revision), map[string]any{}, 400, "multipart"},
		"unheard-of bits":  {"GET", at + "/patterns/" + p.Patterns[0].ID + "/wav?bits=12", nil, 422, "bits"},
		"too many passes":  {"GET", at + "/patterns/" + p.Patterns[0].ID + "/wav?passes=9999", nil, 422, "passes"},
		"an unknown voice": {"GET", "/api/v1/voices/00", nil, 404, "load the kit"},
	} {
		status, body := d.ask(c.method, c.path, c.body, nil)
		var got Problem
		if err := json.Unmarshal(body, &got); err != nil || status != c.status || got.Status != c.status || !strings.Contains(got.Title+" "+got.Detail, c.say) {
			t.Errorf("%s: %d %s; want %d with %q", name, status, body, c.status, c.say)
		}
	}
	var after view.Project
	d.ask("GET", at, nil, &after)
	if after.Revision != p.Revision {
		t.Error("a refused request changed the project")
	}
}

func TestEditPlayAndTakeAway(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID
	pat := at + "/patterns/" + p.Patterns[0].ID
	var table play.Table
	d.ask("GET", at+"/table?rate=48000", nil, &table)
	voices := map[string]bool{}
	for _, pad := range table.Pads {
		for _, l := range pad.Layers {
			for _, take := range l.Takes {
				voices[take.Voice] = true
			}
		}
	}
	var had service.Sounds
	d.must("GET", pat+"/pass?rate=48000", nil, &had)
	reply := d.edit(&p, "", hits(p.Patterns[0].ID, pattern.Hit{Note: 36, Tick: 480, Velocity: 77}), service.Sounding{Pattern: p.Patterns[0].ID, Rate: 48000, Have: had.ID})
	if reply.Undo != "Hull thump at 1.1" || reply.Sounds == nil || reply.Sounds.Delta == nil {
		t.Fatalf("%+v", reply)
	}
	pass := reply.Sounds.Delta.Of(*had.Pass)
	found := false
	for _, c := range pass.Cues {
		found = found || c.Note == 36 && c.Velocity == 77
		if !voices[c.Voice] {
			t.Fatalf("a cue names the voice %s, which the table does not have", c.Voice)
		}
	}
	if !found {
		t.Error("the hit just set makes no cue")
	}
	var whole service.Sounds
	d.must("GET", pat+"/pass?rate=48000", nil, &whole)
	if !reflect.DeepEqual(*whole.Pass, pass) {
		t.Error("what differs does not lead to what the pattern sounds")
	}
	if _, data := d.ask("GET", "/api/v1/voices/"+pass.Cues[0].Voice, nil, nil); !wav.Sniff(data) {
		t.Error("a voice is a WAV file")
	}
	_, mid := d.ask("GET", pat+"/midi", nil, nil)
	if f, err := smf.Decode(mid); err != nil || f.PPQ != 960 || f.Tracks[1].Notes[0].Channel != 10 || f.Tracks[1].Name != "Tin roof" {
		t.Errorf("MIDI: %v", err)
	}
	for _, bits := range []int{16, 24, 32} {
		_, data := d.ask("GET", fmt.Sprintf("%s/wav?rate=96000&bits=%d&passes=2", pat, bits), nil, nil)
		if b, info, err := wav.Decode(data); err != nil || b.Rate != 96000 || info.Bits != bits || b.Peak() < 0.05 {
			t.Errorf("WAV of %d bits: %v %.200s", bits, err, data)
		}
	}
}

func TestARecordingIsHeardRegriddedAndKept(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID
	rec, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	var added Changed
	if status, body := d.ask("POST", at+"/recordings?ticket=a", file(t, rec.Name, rec.Data), &added); status != 200 {
		t.Fatalf("%d %s", status, body)
	}
	d.must("GET", at, nil, &p)
	r := p.Recordings[0]
	if added.Results[0].ID != r.ID {
		t.Errorf("the reply names the recording %q, it is %q", added.Results[0].ID, r.ID)
	}
	for i, lane := range r.Lanes {
		if lane < 0 {
			t.Errorf("hit %d on note %d has no lane", i, r.Heard.Hits[i].Note)
		}
	}
	at += "/recordings/" + r.ID
	var pass play.Pass
	d.ask("GET", at+"/pass?rate=44100", nil, &pass)
	if !slices.ContainsFunc(pass.Cues, func(c play.Cue) bool { return c.Note == play.RecordingNote && c.AtS == 0 }) {
		t.Error("the recording itself is not among what its pass sounds")
	}
	d.edit(&p, "", service.Edit{Edit: project.Edit{Regrid: &project.Regrid{Recording: r.ID, BPM: 46.85, Bars: 2}}})
	if p.Recordings[0].Heard.Bars != 2 {
		t.Fatalf("%d bars", p.Recordings[0].Heard.Bars)
	}
	kept := d.edit(&p, "", service.Edit{Edit: project.Edit{Keep: &project.Keep{Recording: r.ID, Name: "kept", Grid: "1/16"}}})
	if n := len(p.Patterns); n != 3 || p.Patterns[2].Value.Bars != 2 || kept.Results[0].Kept.Hits < 50 || kept.Results[0].ID != p.Patterns[2].ID || p.Undo != "Keep deck-break.wav as pattern" {
		t.Errorf("%d patterns, kept %+v, undo %q", n, kept.Results[0], p.Undo)
	}
}

// Every text, list, number and object that a request may bring has a bound, and no object takes fields nobody named.
func TestEverythingARequestBringsIsBounded(t *testing.T) {
	spec, err := OpenAPI("test")
	if err != nil {
		t.Fatal(err)
	}
	var doc map[string]any
	if err := json.Unmarshal(spec, &doc); err != nil {
		t.Fatal(err)
	}
	if v, _ := doc["openapi"].(string); !strings.HasPrefix(v, "3.1") {
		t.Errorf("OpenAPI %s, 3.1 is meant", v)
	}
	seen, schemas := map[string]bool{}, 0
	var look func(at string, v any)
	look = func(at string, v any) {
		s, ok := v.(map[string]any)
		if !ok {
			return
		}
		has := func(keys ...string) bool {
			return slices.ContainsFunc(keys, func(k string) bool { return s[k] != nil })
		}
		if ref, ok := s["$ref"].(string); ok && !seen[ref] {
			seen[ref] = true
			name := strings.TrimPrefix(ref, "#/components/schemas/")
			look(name, doc["components"].(map[string]any)["schemas"].(map[string]any)[name])
		}
		kinds := fmt.Sprint(s["type"])
		schemas++
		for kind, bounds := range map[string][]string{"string": {"maxLength", "enum"}, "array": {"maxItems"}, "object": {"maxProperties", "additionalProperties"}} {
			if strings.Contains(kinds, kind) && !has(bounds...) {
				t.Errorf("%s: a %s without a bound", at, kind)
			}
		}
		if (strings.Contains(kinds, "integer") || strings.Contains(kinds, "number")) && !(has("enum") || has("minimum", "exclusiveMinimum") && has("maximum", "exclusiveMaximum")) {
			t.Errorf("%s: a number without bounds", at)
		}
		look(at+"[]", s["items"])
		look(at+"{}", s["additionalProperties"])
		props, _ := s["properties"].(map[string]any)
		for name, p := range props {
			look(at+"."+name, p)
		}
	}
	operations := 0
	for path, item := range doc["paths"].(map[string]any) {
		for method, op := range item.(map[string]any) {
			operations++
			o := op.(map[string]any)
			params, _ := o["parameters"].([]any)
			for _, p := range params {
				look(method+" "+path+"?", p.(map[string]any)["schema"])
			}
			if body, ok := o["requestBody"].(map[string]any); ok {
				for _, c := range body["content"].(map[string]any) {
					look(method+" "+path, c.(map[string]any)["schema"])
				}
			}
		}
	}
	if operations < 40 || schemas < 200 {
		t.Errorf("%d operations and %d schemas looked at", operations, schemas)
	}
}

// What the description does not allow is refused before anything is changed: unknown fields, a map without lanes, sizes and
// numbers out of range, rates that are not made.
func TestLimitsAreEnforced(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := "/api/v1/projects/" + p.ID
	edits := func(e string) string { return fmt.Sprintf(`{"revision":%d,"edits":[%s]}`, p.Revision, e) }
	pid := p.Patterns[0].ID
	for name, c := range map[string]struct {
		method, path, body, say string
	}{
		"a rate that is not made":  {"GET", at + "/patterns/" + pid + "/wav?rate=12345", "", "rate"},
		"a parameter unknown":      {"GET", at + "/table?rate=48000&colour=red", "", "colour"},
		"a parameter missing":      {"GET", at + "/table", "", "rate"},
		"a word for a number":      {"GET", at + "/table?rate=fast", "", "rate"},
		"a field unknown":          {"POST", at + "/edits", edits(`{"settings":{"tempo":3}}`), "tempo"},
		"a map without lanes":      {"POST", at + "/edits", edits(`{"map":{"label":"x"}}`), "map"},
		"no edits":                 {"POST", at + "/edits", fmt.Sprintf(`{"revision":%d}`, p.Revision), "edits"},
		"an empty body":            {"POST", at + "/edits", "", "revision"},
		"two things in one edit":   {"POST", at + "/edits", edits(`{"settings":{"bpm":90},"removePattern":{"id":"` + pid + `"}}`), "one thing"},
		"nothing in an edit":       {"POST", at + "/edits", edits(`{}`), "does not say"},
		"a bar beyond all numbers": {"POST", at + "/edits", edits(`{"pattern":{"id":"` + pid + `","edit":{"clear":{"fromBar":4611686018427387904,"toBar":2}}}}`), "fromBar"},
		"a label of 5 MB":          {"POST", at + "/edits", fmt.Sprintf(`{"revision":%d,"label":%q,"edits":[{"settings":{"bpm":90}}]}`, p.Revision, strings.Repeat("x", 5<<20)), "label"},
		"lanes that are not there": {"POST", at + "/edits", edits(`{"settings":{"muted":{"128":true}}}`), "128"},
	} {
		status, body := d.ask(c.method, c.path, json.RawMessage(c.body), nil)
		if status != 422 && status != 400 || !strings.Contains(string(body), c.say) {
			t.Errorf("%s: %d %.300s; want it refused with %q", name, status, body, c.say)
		}
		if strings.Contains(string(body), "goroutine") || strings.Contains(string(body), "code=") {
			t.Errorf("%s: the reply carries the program's inside: %.300s", name, body)
		}
	}
	var after view.Project
	d.must("GET", at, nil, &after)
	if !reflect.DeepEqual(after, p) {
		t.Error("a refused request changed the project")
	}
}

// What is long is packed on the way when the asker can unpack it; sounds and events are sent as they are.
func TestLongRepliesArePacked(t *testing.T) {
	d := open(t)
	p := d.demo()
	at := d.URL + "/api/v1/projects/" + p.ID
	for path, packed := range map[string]bool{"": true, "/table?rate=48000": true, "/patterns/" + p.Patterns[0].ID + "/wav": false} {
		req, err := http.NewRequest("GET", at+path, nil)
		if err != nil {
			t.Fatal(err)
		}
		req.Header.Set("Accept-Encoding", "gzip")
		res, err := d.Client().Do(req)
		if err != nil {
			t.Fatal(err)
		}
		if res.Body.Close(); (res.Header.Get("Content-Encoding") == "gzip") != packed {
			t.Errorf("%q: packed as %q", path, res.Header.Get("Content-Encoding"))
		}
	}
}

// A script that lies there packed is sent so to askers that can unpack it, and as it is to others; a style without a packed copy is packed on
// the way; a packed copy is nothing to ask for that the page names.
func TestScriptsThatLieThereArePacked(t *testing.T) {
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	script := ""
	for i := range 1000 { // still long when it is packed
		script += fmt.Sprintf("let bench%d = %d;\n", i*i, i*i*i)
	}
	if _, err := z.Write([]byte(script)); err != nil || z.Close() != nil {
		t.Fatal(err)
	}
	lies := packed.Bytes()
	b, err := service.Open(t.TempDir(), service.Config{})
	if err != nil {
		t.Fatal(err)
	}
	defer b.Close()
	_, door, err := New(b, Config{Addr: "127.0.0.1:0", UI: fstest.MapFS{"index.html": {Data: []byte("<!doctype html>")},
		"assets/a.js": {Data: []byte(script)}, "assets/a.js.gz": {Data: lies}, "assets/b.css": {Data: []byte(strings.Repeat("a{b:c}", 500))}}})
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		path, accept, encoding, kind string
		body                         []byte
	}{
		{"/assets/a.js", "br, gzip", "gzip", "text/javascript", lies},
		{"/assets/a.js", "", "", "text/javascript", []byte(script)},
		{"/assets/b.css", "gzip", "gzip", "text/css", nil},
		{"/assets/c.js", "gzip", "", "", nil},
	} {
		r := httptest.NewRequest(http.MethodGet, "http://127.0.0.1"+c.path, nil)
		r.Header.Set("Accept-Encoding", c.accept)
		w := httptest.NewRecorder()
		door.ServeHTTP(w, r)
		h := w.Result().Header
		if c.kind == "" {
			if w.Code != http.StatusNotFound {
				t.Errorf("%s: %d", c.path, w.Code)
			}
			continue
		}
		if w.Code != http.StatusOK || h.Get("Content-Encoding") != c.encoding || !strings.HasPrefix(h.Get("Content-Type"), c.kind) || !strings.Contains(h.Get("Cache-Control"), "immutable") {
			t.Errorf("%s for %q: %d %v", c.path, c.accept, w.Code, h)
		}
		if c.body != nil && !bytes.Equal(w.Body.Bytes(), c.body) {
			t.Errorf("%s for %q: %d bytes, not the %d that lie there", c.path, c.accept, w.Body.Len(), len(c.body))
		}
		if !strings.Contains(h.Get("Vary"), "Accept-Encoding") {
			t.Errorf("%s for %q: a store in between is not told that it varies", c.path, c.accept)
		}
	}
}

// Every file of an export comes whole, one by one and as a zip, to askers that unpack what is packed on the way.
func TestFilesOfAnExportComeWhole(t *testing.T) {
	d := open(t)
	p := d.demo()
	var state service.ExportState
	d.must(http.MethodPost, "/api/v1/projects/"+p.ID+"/exports", service.Export{Of: "song", Mix: true, MIDI: "tracks", Rate: 44100, Bits: 16}, &state)
	for end := time.Now().Add(time.Minute); !state.Done && state.Error == "" && time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		d.must(http.MethodGet, "/api/v1/exports/"+state.ID, nil, &state)
	}
	if len(state.Files) != 2 {
		t.Fatalf("%+v", state)
	}
	get := func(path string) []byte {
		res, err := d.Client().Get(d.URL + "/api/v1/exports/" + state.ID + path)
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		data, err := io.ReadAll(res.Body)
		if err != nil || res.StatusCode != http.StatusOK {
			t.Errorf("%s: %s, %d bytes, %v", path, res.Status, len(data), err)
		}
		return data
	}
	for i, f := range state.Files {
		want, err := os.ReadFile(filepath.Join(state.Folder, f.Name))
		if got := get(fmt.Sprint("/files/", i)); err != nil || !bytes.Equal(got, want) {
			t.Errorf("%s: %d bytes of %d: %v", f.Name, len(got), len(want), err)
		}
	}
	all := get("/zip")
	if z, err := zip.NewReader(bytes.NewReader(all), int64(len(all))); err != nil || len(z.File) != 2 {
		t.Errorf("the zip: %v", err)
	}
}

// Events are for projects there are, and say what changed: a window that applies them is where one that loads anew is.
func TestEventsSayWhatChanged(t *testing.T) {
	d := open(t)
	p := d.demo()
	if status, _ := d.ask("GET", "/api/v1/projects/NOPE/events", nil, nil); status != 404 {
		t.Errorf("events of no project: %d", status)
	}
	res, err := d.Client().Get(d.URL + "/api/v1/projects/" + p.ID + "/events")
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	lines := bufio.NewScanner(res.Body)
	lines.Buffer(nil, 1<<20)
	other := p
	for n := range 3 {
		d.edit(&p, "", hits(p.Patterns[0].ID, pattern.Hit{Note: 60 + n, Tick: 30, Velocity: 100}))
		for lines.Scan() && !strings.HasPrefix(lines.Text(), "data: ") {
		}
		var c Changed
		if err := json.Unmarshal([]byte(strings.TrimPrefix(lines.Text(), "data: ")), &c); err != nil {
			t.Fatalf("%v in %q", err, lines.Text())
		}
		if c.From != other.Revision {
			t.Fatalf("an event leads from revision %d, the window is at %d", c.From, other.Revision)
		}
		d.lead(&other, c)
	}
}

// A voice's address answers after a restart as before.
func TestVoicesAnswerAfterARestart(t *testing.T) {
	dir := t.TempDir()
	d := openAt(t, dir)
	p := d.demo()
	var table play.Table
	d.must("GET", "/api/v1/projects/"+p.ID+"/table?rate=48000", nil, &table)
	voice := "/api/v1/voices/" + table.Pads[0].Layers[0].Takes[0].Voice
	_, before := d.ask("GET", voice, nil, nil)
	d.close()
	d = openAt(t, dir)
	if status, after := d.ask("GET", voice, nil, nil); status != 200 || !bytes.Equal(before, after) {
		t.Errorf("after a restart: %d, %d bytes where %d were", status, len(after), len(before))
	}
}

// Fifty that edit one project at once, each going by what it last heard: no edit is lost, none is silently dropped, and none
// waits long (the time is logged, not judged).
func TestFiftyClientsAtOnce(t *testing.T) {
	d := open(t)
	p := d.demo()
	const clients, each = 50, 10
	took := make([][]time.Duration, clients)
	var wg sync.WaitGroup
	for c := range clients {
		wg.Go(func() {
			revision := p.Revision
			for n := range each {
				begin := time.Now()
				var r Changed
				status, body := d.ask("POST", "/api/v1/projects/"+p.ID+"/edits",
					map[string]any{"revision": revision, "edits": []service.Edit{hits(p.Patterns[0].ID, pattern.Hit{Note: c, Tick: 7 + n*13, Velocity: 100})}}, &r)
				took[c] = append(took[c], time.Since(begin))
				if status != 200 {
					t.Errorf("client %d, edit %d: %d %s", c, n, status, body)
					return
				}
				revision = r.Revision
			}
		})
	}
	wg.Wait()
	var now view.Project
	d.must("GET", "/api/v1/projects/"+p.ID, nil, &now)
	if got := len(now.Patterns[0].Value.Hits) - len(p.Patterns[0].Value.Hits); got != clients*each {
		t.Errorf("%d edits of %d are there", got, clients*each)
	}
	all := slices.Sorted(slices.Values(slices.Concat(took...)))
	t.Logf("an edit of 50 clients at once: median %v, 99th percentile %v", all[len(all)/2], all[len(all)*99/100])
}
