package e2e

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"sync"
	"testing"
	"time"

	_ "modernc.org/sqlite" // to look at the database from outside

	"hexachord/core/sound"
	"hexachord/format/wav"
)

// kills is how often the program is killed; HEXACHORD_KILLS=200 makes it the long way.
func kills(t *testing.T) int {
	if text := os.Getenv("HEXACHORD_KILLS"); text != "" {
		n, err := strconv.Atoi(text)
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	return 6
}

// worker does one kind of work in a project of its own and remembers what was acknowledged.
type worker struct {
	project  string
	edits    func(n int, p map[string]any) []any
	done     int // edits that were acknowledged
	revision float64
	tried    int
}

func send(ctx context.Context, method, url, contentType string, body []byte, into any) (int, error) {
	req, err := http.NewRequestWithContext(ctx, method, url, bytes.NewReader(body))
	if err != nil {
		return 0, err
	}
	req.Header.Set("Content-Type", contentType)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, err
	}
	defer res.Body.Close()
	data, err := io.ReadAll(res.Body)
	if err != nil {
		return 0, err
	}
	if res.StatusCode == http.StatusOK && into != nil {
		err = json.Unmarshal(data, into)
	}
	if res.StatusCode != http.StatusOK {
		err = fmt.Errorf("%d %s", res.StatusCode, data)
	}
	return res.StatusCode, err
}

func asFile(t *testing.T, name string, data []byte) (body []byte, contentType string) {
	var b bytes.Buffer
	m := multipart.NewWriter(&b)
	part, err := m.CreateFormFile("file", name)
	if err == nil {
		_, err = part.Write(data)
	}
	if err == nil {
		err = m.Close()
	}
	if err != nil {
		t.Fatal(err)
	}
	return b.Bytes(), m.FormDataContentType()
}

// The program is killed at random moments while edits of every kind of document, samples, bundles, recorded passes and exports come in. After
// each start, which needs no help: every acknowledged edit is there, the database is sound, undo and redo work, no file is half there.
func TestNothingAcknowledgedIsLostWhenItIsKilled(t *testing.T) {
	dir := t.TempDir()
	b := start(t, dir)
	rng := rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 1)) // any moment
	newProject := func() (id string) {
		var p struct{ ID string }
		b.post("api/v1/projects", map[string]any{"name": "work", "demo": true}, &p)
		return p.ID
	}
	firstPattern := func(p map[string]any) string { return p["patterns"].([]any)[0].(map[string]any)["id"].(string) }
	workers := []*worker{
		{edits: func(n int, _ map[string]any) []any {
			return []any{map[string]any{"settings": map[string]any{"bpm": 60 + float64(n%600)/4}}}
		}},
		{edits: func(n int, p map[string]any) []any {
			return []any{map[string]any{"pattern": map[string]any{"id": firstPattern(p), "edit": map[string]any{
				"hits": map[string]any{"put": []any{map[string]any{"note": 38, "tick": n % 3800, "velocity": 1 + n%127, "length": 0, "split": 1, "slope": 0}}}}}}}
		}},
		{edits: func(n int, p map[string]any) []any {
			m := p["map"].(map[string]any)
			m["lanes"].([]any)[0].(map[string]any)["name"] = fmt.Sprint("lane ", n)
			return []any{map[string]any{"map": map[string]any{"map": m, "label": "x"}}}
		}},
		{edits: func(n int, _ map[string]any) []any {
			return []any{map[string]any{"mix": map[string]any{"shift": float64(n%2)*2 - 1, "label": "x"}}}
		}},
		{edits: func(n int, p map[string]any) []any {
			return []any{map[string]any{"recordPass": map[string]any{"id": fmt.Sprintf("pass-%08d", n/10), "pattern": firstPattern(p), "quantise": map[string]any{},
				"strikes": []any{map[string]any{"note": 36, "at": float64(n%40) * 0.05, "velocity": 100}}}}}
		}},
	}
	for _, w := range workers {
		w.project = newProject()
	}
	bundle, err := os.ReadFile("../service/testdata/project-bundle-1.zip")
	if err != nil {
		t.Fatal(err)
	}
	type kept struct {
		sync.Mutex
		samples, projects []string
	}
	var acknowledged kept
	fresh := 0

	for round := range kills(t) {
		ctx, stop := context.WithCancel(t.Context())
		var wg sync.WaitGroup
		for _, w := range workers {
			var p map[string]any
			b.getJSON("api/v1/projects/"+w.project, &p)
			w.revision = p["revision"].(float64)
			wg.Go(func() {
				for ctx.Err() == nil {
					w.tried = w.done + 1
					body, err := json.Marshal(map[string]any{"revision": w.revision, "label": fmt.Sprint("edit ", w.tried), "edits": w.edits(w.tried, p)})
					if err != nil {
						t.Error(err)
						return
					}
					var c struct{ Revision float64 }
					status, err := send(ctx, http.MethodPost, b.address+"api/v1/projects/"+w.project+"/edits", "application/json", body, &c)
					if err != nil {
						if status != 0 {
							t.Errorf("an edit is refused: %v", err)
						}
						return // it may have been made or not
					}
					w.done, w.revision = w.tried, c.Revision
				}
			})
		}
		wg.Go(func() { // samples
			for ctx.Err() == nil {
				fresh++
				x := make([]float32, 2000)
				for i := range x {
					x[i] = float32(i*fresh%977)/977 - 0.5
				}
				data, err := wav.Encode(sound.Buffer{Rate: 44100, Channels: [][]float32{x}}, wav.PCM16)
				if err != nil {
					t.Error(err)
					return
				}
				body, contentType := asFile(t, fmt.Sprintf("sample-%d.wav", fresh), data)
				var r struct{ Reports []struct{ Hash string } }
				if _, err := send(ctx, http.MethodPost, b.address+"api/v1/samples", contentType, body, &r); err != nil {
					return
				}
				acknowledged.Lock()
				for _, s := range r.Reports {
					acknowledged.samples = append(acknowledged.samples, s.Hash)
				}
				acknowledged.Unlock()
			}
		})
		wg.Go(func() { // bundles, and an export of what they hold
			for ctx.Err() == nil {
				body, contentType := asFile(t, "work.zip", bundle)
				var r struct{ ID string }
				if _, err := send(ctx, http.MethodPost, b.address+"api/v1/projects/import", contentType, body, &r); err != nil {
					return
				}
				acknowledged.Lock()
				acknowledged.projects = append(acknowledged.projects, r.ID)
				acknowledged.Unlock()
				_, _ = send(ctx, http.MethodPost, b.address+"api/v1/projects/"+r.ID+"/exports", "application/json", []byte(`{"of":"pattern","mix":true,"rate":44100,"bits":16}`), nil) // it is cut off
			}
		})
		time.Sleep(time.Duration(30+rng.IntN(500)) * time.Millisecond)
		if err := b.cmd.Process.Kill(); err != nil {
			t.Fatal(err)
		}
		_ = b.cmd.Wait() // it was killed
		stop()
		wg.Wait()
		soundDatabase(t, dir)
		b = start(t, dir)
		for k, w := range workers {
			var p struct {
				Revision float64
				Undo     string
				Settings struct{ BPM float64 }
			}
			at := "api/v1/projects/" + w.project
			b.getJSON(at, &p)
			is := 0
			if p.Undo != "" { // none: it was killed before the first edit was made
				if _, err := fmt.Sscanf(p.Undo, "edit %d", &is); err != nil {
					t.Errorf("round %d, work %d: the last step is %q", round, k, p.Undo)
				}
			}
			if is != w.done && is != w.tried || p.Revision < w.revision {
				t.Errorf("round %d, work %d: acknowledged were edit %d and revision %g; there are edit %d and revision %g", round, k, w.done, w.revision, is, p.Revision)
			}
			if k == 0 && is > 0 && p.Settings.BPM != 60+float64(is%600)/4 {
				t.Errorf("round %d: the tempo of edit %d is %g", round, is, p.Settings.BPM)
			}
			w.done = is
			if is == 0 {
				continue
			}
			before := documents(b.get(at))
			var c struct{ Revision float64 }
			b.post(at+"/undo", map[string]any{"revision": p.Revision}, &c)
			b.post(at+"/redo", map[string]any{"revision": c.Revision}, nil)
			if after := documents(b.get(at)); after != before {
				t.Errorf("round %d, work %d: undone and done again it is another", round, k)
			}
		}
		for _, hash := range acknowledged.samples {
			b.get("api/v1/samples/" + hash)
		}
		for _, id := range acknowledged.projects {
			b.get("api/v1/projects/" + id)
		}
		if left, _ := filepath.Glob(filepath.Join(dir, "audio", "*", "new-*")); len(left) > 0 {
			t.Errorf("round %d: %v is left half written", round, left)
		}
	}
	total := 0
	for _, w := range workers {
		total += w.done
	}
	t.Logf("%d kills: %d edits, %d samples and %d bundles were acknowledged and are there", kills(t), total, len(acknowledged.samples), len(acknowledged.projects))
	if total == 0 {
		t.Error("nothing was done")
	}
}

// documents are the parts of a project's reply that do not change by undoing and doing again.
func documents(reply []byte) string {
	var p map[string]json.RawMessage
	if err := json.Unmarshal(reply, &p); err != nil {
		return err.Error()
	}
	return string(p["patterns"]) + string(p["map"]) + string(p["settings"]) + string(p["mix"]) + string(p["passes"])
}

// soundDatabase checks a copy of the database as the kill left it, its log with it.
func soundDatabase(t *testing.T, dir string) {
	t.Helper()
	at := t.TempDir()
	for _, end := range []string{"", "-wal"} {
		data, err := os.ReadFile(filepath.Join(dir, "hexachord.db"+end))
		if os.IsNotExist(err) {
			continue
		}
		if err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(at, "hexachord.db"+end), data, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	db, err := sql.Open("sqlite", filepath.Join(at, "hexachord.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	var said string
	if err := db.QueryRow("pragma integrity_check").Scan(&said); err != nil || said != "ok" {
		t.Errorf("the database is not sound: %s %v", said, err)
	}
}
