package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/demo"
	"hexachord/format/smf"
	"hexachord/format/wav"
	"hexachord/service"
)

type door struct {
	t testing.TB
	*httptest.Server
	bench *service.Bench
}

func open(t testing.TB) door {
	t.Helper()
	b, err := service.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	_, h, err := New(b, Config{Addr: "127.0.0.1:0", UploadLimit: 4 << 20, Version: "test",
		UI: fstest.MapFS{"index.html": {Data: []byte("<title>Hexachord</title>")}, "assets/a.js": {Data: []byte("1")}}})
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewServer(h)
	t.Cleanup(func() {
		s.Close()
		if err := b.Close(); err != nil {
			t.Error(err)
		}
	})
	return door{t, s, b}
}

// ask sends a request and reads a JSON reply into the value given; it returns the status and the body.
func (d door) ask(method, path string, body, into any, headers ...string) (int, []byte) {
	d.t.Helper()
	var r io.Reader
	contentType := "application/json"
	switch b := body.(type) {
	case nil:
	case *upload:
		r, contentType = &b.Buffer, b.contentType
	default:
		text, err := json.Marshal(b)
		if err != nil {
			d.t.Fatal(err)
		}
		r = bytes.NewReader(text)
	}
	req, err := http.NewRequest(method, d.URL+path, r)
	if err != nil {
		d.t.Fatal(err)
	}
	req.Header.Set("Content-Type", contentType)
	for i := 0; i+1 < len(headers); i += 2 {
		if headers[i] == "Host" {
			req.Host = headers[i+1]
		}
		req.Header.Set(headers[i], headers[i+1])
	}
	res, err := d.Client().Do(req)
	if err != nil {
		d.t.Fatal(err)
	}
	defer res.Body.Close()
	data, err := io.ReadAll(res.Body)
	if err != nil {
		d.t.Fatal(err)
	}
	if into != nil && res.StatusCode == http.StatusOK {
		if err := json.Unmarshal(data, into); err != nil {
			d.t.Fatalf("%s %s: %v in %s", method, path, err, data)
		}
	}
	return res.StatusCode, data
}

type upload struct {
	bytes.Buffer
	contentType string
}

func file(t testing.TB, name string, data []byte) *upload {
	t.Helper()
	u := &upload{}
	w := multipart.NewWriter(&u.Buffer)
	part, err := w.CreateFormFile("file", name)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := part.Write(data); err != nil {
		t.Fatal(err)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	u.contentType = w.FormDataContentType()
	return u
}

func (d door) demo() (p Project) {
	d.t.Helper()
	if status, body := d.ask("POST", "/api/v1/projects", map[string]any{"name": "Lock Seven", "demo": true}, &p); status != 200 {
		d.t.Fatalf("%d %s", status, body)
	}
	return p
}

func TestOnlyTheBenchsOwnPagesAreAnswered(t *testing.T) {
	d := open(t)
	for _, c := range []struct {
		headers []string
		want    int
	}{
		{nil, 200},
		{[]string{"Origin", d.URL}, 200},
		{[]string{"Host", "localhost:1"}, 200},
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
		return map[string]any{"revision": revision, "edit": map[string]any{"op": "hits", "put": []pattern.Hit{{Note: 36, Tick: 30, Velocity: velocity}}}}
	}
	edits := at + "/patterns/" + p.Patterns[0].ID + "/edits?rate=44100"
	for name, c := range map[string]struct {
		method, path string
		body         any
		status       int
		say          string
	}{
		"stale":            {"POST", edits, edit(p.Revision-1, 100), 409, "changed elsewhere"},
		"velocity":         {"POST", edits, edit(p.Revision, 200), 422, "between 1 and 127"},
		"no such project":  {"GET", "/api/v1/projects/NOPE", nil, 404, "not found"},
		"no such pattern":  {"GET", at + "/patterns/NOPE/pass?rate=44100", nil, 404, "pattern"},
		"nothing to undo":  {"POST", at + "/undo", map[string]any{"revision": p.Revision}, 409, "undo"},
		"tempo":            {"POST", at + "/settings", map[string]any{"revision": p.Revision, "bpm": 9, "label": "x"}, 422, "20 and 400"},
		"rate":             {"GET", at + "/table?rate=7", nil, 422, "sample rate"},
		"not JSON":         {"POST", at + "/undo", "words", 400, "cannot be read"},
		"unusable audio":   {"POST", at + "/recordings", file(t, "list.wav", []byte("bread, milk")), 422, "list.wav"},
		"too large":        {"POST", at + "/recordings", file(t, "big.wav", make([]byte, 5<<20)), 413, "--upload-limit"},
		"unusable MIDI":    {"POST", fmt.Sprintf("%s/midi?revision=%d", at, p.Revision), file(t, "x.mid", []byte("no")), 422, "x.mid"},
		"no file":          {"POST", fmt.Sprintf("%s/midi?revision=%d", at, p.Revision), map[string]any{}, 400, "multipart"},
		"unheard-of bits":  {"GET", at + "/patterns/" + p.Patterns[0].ID + "/wav?bits=12", nil, 422, "16, 24 or 32"},
		"too many passes":  {"GET", at + "/patterns/" + p.Patterns[0].ID + "/wav?passes=9999", nil, 422, "passes"},
		"an unknown voice": {"GET", "/api/v1/voices/00", nil, 404, "load the kit"},
	} {
		status, body := d.ask(c.method, c.path, c.body, nil)
		var got Problem
		if err := json.Unmarshal(body, &got); err != nil || status != c.status || got.Status != c.status || !strings.Contains(got.Title+" "+got.Detail, c.say) {
			t.Errorf("%s: %d %s; want %d with %q", name, status, body, c.status, c.say)
		}
	}
	var after Project
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
	var reply patternReply
	status, body := d.ask("POST", pat+"/edits?rate=48000", map[string]any{"revision": p.Revision,
		"edit": map[string]any{"op": "hits", "put": []pattern.Hit{{Note: 36, Tick: 480, Velocity: 77}}}}, &reply)
	if status != 200 || reply.Revision != p.Revision+1 || reply.Undo != "Hull thump at 1.1" {
		t.Fatalf("%d %s", status, body)
	}
	found := false
	for _, c := range reply.Pass.Cues {
		found = found || c.Note == 36 && c.Velocity == 77
		if !voices[c.Voice] {
			t.Fatalf("a cue names the voice %s, which the table does not have", c.Voice)
		}
	}
	if !found {
		t.Error("the hit just set makes no cue")
	}
	if _, data := d.ask("GET", "/api/v1/voices/"+reply.Pass.Cues[0].Voice, nil, nil); !wav.Sniff(data) {
		t.Error("a voice is a WAV file")
	}
	_, mid := d.ask("GET", pat+"/midi", nil, nil)
	if f, err := smf.Decode(mid); err != nil || f.PPQ != 960 || f.Tracks[1].Notes[0].Channel != 10 || f.Tracks[1].Name != "Tin roof" {
		t.Errorf("MIDI: %v", err)
	}
	for _, bits := range []int{16, 24, 32} {
		_, data := d.ask("GET", fmt.Sprintf("%s/wav?rate=96000&bits=%d", pat, bits), nil, nil)
		if b, info, err := wav.Decode(data); err != nil || b.Rate != 96000 || info.Bits != bits || b.Peak() < 0.05 {
			t.Errorf("WAV of %d bits: %v", bits, err)
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
	var added recordingReply
	if status, body := d.ask("POST", at+"/recordings?ticket=a", file(t, rec.Name, rec.Data), &added); status != 200 {
		t.Fatalf("%d %s", status, body)
	}
	r := added.Project.Recordings[0]
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
	var p2 Project
	if status, body := d.ask("POST", at+"/grid", map[string]any{"revision": added.Project.Revision, "bpm": 46.85, "bars": 2}, &p2); status != 200 || p2.Recordings[0].Heard.Bars != 2 {
		t.Fatalf("%d %s", status, body)
	}
	var kept keepReply
	if status, body := d.ask("POST", at+"/keep", map[string]any{"revision": p2.Revision, "name": "kept", "grid": "1/16", "strength": 0}, &kept); status != 200 {
		t.Fatalf("%d %s", status, body)
	}
	if n := len(kept.Project.Patterns); n != 3 || kept.Project.Patterns[2].Value.Bars != 2 || kept.Kept.Hits < 50 || kept.Project.Undo != "Keep deck-break.wav as pattern" {
		t.Errorf("%d patterns, kept %+v, undo %q", n, kept.Kept, kept.Project.Undo)
	}
}

func TestOpenAPIDescribesEveryRoute(t *testing.T) {
	spec, err := OpenAPI("test")
	if err != nil {
		t.Fatal(err)
	}
	var doc struct {
		OpenAPI string
		Paths   map[string]map[string]struct {
			OperationID string
			Responses   map[string]any
		}
	}
	if err := json.Unmarshal(spec, &doc); err != nil {
		t.Fatal(err)
	}
	if !strings.HasPrefix(doc.OpenAPI, "3.1") {
		t.Errorf("OpenAPI %s, 3.1 is meant", doc.OpenAPI)
	}
	s, _, err := New(nil, Config{})
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range s.routes {
		op, ok := doc.Paths[openAPIPath(r.path)][strings.ToLower(r.method)]
		if !ok || op.OperationID != r.id || op.Responses["200"] == nil || op.Responses["default"] == nil {
			t.Errorf("%s %s is described as %+v", r.method, r.path, op)
		}
	}
}
