package server

import (
	"bytes"
	"encoding/json"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"sync"
	"testing"
	"testing/fstest"

	"hexachord/core/view"
	"hexachord/service"
)

type door struct {
	t testing.TB
	*httptest.Server
	bench *service.Bench
	close func()
}

func open(t testing.TB) door { return openAt(t, t.TempDir()) }

func openAt(t testing.TB, dir string) door {
	t.Helper()
	b, err := service.Open(dir, service.Config{})
	if err != nil {
		t.Fatal(err)
	}
	_, h, err := New(b, Config{Addr: "127.0.0.1:0", UploadLimit: 4 << 20, Version: "test",
		UI: fstest.MapFS{"index.html": {Data: []byte("<title>Hexachord</title>")}, "assets/a.js": {Data: []byte("1")}}})
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewServer(h)
	d := door{t, s, b, sync.OnceFunc(func() {
		s.CloseClientConnections()
		s.Close()
		if err := b.Close(); err != nil {
			t.Error(err)
		}
	})}
	t.Cleanup(d.close)
	return d
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
	case json.RawMessage:
		r = bytes.NewReader(b)
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

func (d door) demo() (p view.Project) {
	d.t.Helper()
	if status, body := d.ask("POST", "/api/v1/projects", map[string]any{"name": "Lock Seven", "demo": true}, &p); status != 200 {
		d.t.Fatalf("%d %s", status, body)
	}
	return p
}
