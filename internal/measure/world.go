package measure

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"path/filepath"
	"time"

	"hexachord/core/kit"
	"hexachord/core/pattern"
	"hexachord/core/project"
	"hexachord/core/shelf"
	"hexachord/core/song"
	"hexachord/server"
	"hexachord/service"
	"hexachord/ui"
)

// How much a bench has after years.
const (
	Patterns  = 999
	Kits      = 200
	Breaks    = 50
	SongBars  = 300
	SongParts = 3
	Samples   = 20_000
)

// Fill makes a bench of years: a project of 999 patterns of 64 hits, 3 parts, a song of 300 bars in each and 50 heard breaks, 200
// kept kits and a shelf of 20,000 samples. It returns the project. The shelf's samples have no audio of their own, and are there
// when the folder is opened again.
func Fill(ctx context.Context, b *service.Bench, patterns, kits, breaks, samples int) (id string, err error) {
	if id, err = b.NewDemoProject("Years"); err != nil {
		return "", err
	}
	p, err := b.Load(id)
	if err != nil {
		return "", err
	}
	part := ""
	do := func(edits ...project.Edit) error {
		asked := service.Edits{Part: part}
		for _, e := range edits {
			asked.Edits = append(asked.Edits, service.Edit{Edit: e})
		}
		done, _, err := b.Edit(ctx, id, p.Revision, asked)
		p = done.Project
		return err
	}
	for n := 1; n < SongParts; n++ {
		if err := do(project.Edit{AddPart: &project.AddPart{Name: fmt.Sprint("part ", n+1), CopyOf: new(string)}}); err != nil {
			return "", err
		}
	}
	of := map[string][]string{} // the patterns of each part
	for n, id := range p.PartIDs() {
		part = id
		var add []project.Edit
		for i := len(p.Patterns); i < patterns*(n+1)/SongParts; i++ {
			pt := pattern.Pattern{Bars: 1, Meter: p.Patterns[0].Value.Meter, Grid: "1/16"}
			for h := range 64 {
				pt.Hits = append(pt.Hits, pattern.Hit{Note: p.Map.Lanes[(h+i)%len(p.Map.Lanes)].Note, Tick: h / 4 * 240, Velocity: 30 + h})
			}
			pattern.SortHits(pt.Hits)
			add = append(add, project.Edit{AddPattern: &project.AddPattern{Name: fmt.Sprint("pattern ", i+1), Value: &pt}})
		}
		if err := do(add...); err != nil {
			return "", err
		}
	}
	part = ""
	for _, pt := range p.Patterns {
		if pt.Value.Bars == 1 {
			of[pt.Value.Part] = append(of[pt.Value.Part], pt.ID)
		}
	}
	remove := []string{}
	for _, block := range p.Blocks {
		remove = append(remove, block.ID)
	}
	var put []project.BlockPut
	for _, patterns := range of {
		for bar := range SongBars {
			put = append(put, project.BlockPut{Block: song.Block{Pattern: patterns[bar%len(patterns)], Bar: bar, Bars: 1}})
		}
	}
	if err := do(project.Edit{Song: &project.SongEdit{Remove: remove}}, project.Edit{Song: &project.SongEdit{Put: put}}); err != nil {
		return "", err
	}
	done, _, err := b.HearOwnBreak(ctx, id)
	if err != nil {
		return "", err
	}
	one := done.Project.Recordings[len(done.Project.Recordings)-1].Value
	if _, err := b.Store.Edit(id, done.Project.Revision, b, "", func(project.Project) project.Scope { return project.Scope{All: true} }, func(d *project.Draft) (string, error) {
		var errs []error
		for i := 1; i < breaks; i++ {
			r := one
			r.Name = fmt.Sprintf("break-%d.wav", i+1)
			_, err := d.AddRecording(r)
			errs = append(errs, err)
		}
		return "Breaks", errors.Join(errs...)
	}); err != nil {
		return "", err
	}
	for i := range kits {
		k := p.Kit
		k.Name = fmt.Sprintf("kit %d", i+1)
		k.Pads = append([]kit.Pad{}, k.Pads...)
		k.Pads[0].LevelDB = -float64(i) / 10
		if _, err := b.KeepKit(p.Map, k, false); err != nil {
			return "", err
		}
	}
	if err := b.DescribeMissing(ctx); err != nil {
		return "", err
	}
	shelved, err := b.FindSamples(shelf.Query{})
	if err != nil {
		return "", err
	}
	found := shelved.Items
	var more []shelf.Item
	for i := len(found); i < samples; i++ {
		it := found[i%len(found)].Item
		sum := sha256.Sum256(fmt.Append(nil, "sample ", i))
		it.Hash, it.Name, it.Folder = hex.EncodeToString(sum[:]), fmt.Sprintf("%s-%05d.wav", it.Kind, i), fmt.Sprintf("pack %d", i%40)
		likeness := append([]float32{}, it.Facts.Likeness...)
		for k := range likeness {
			likeness[k] += float32(i%97) / 97
		}
		it.Facts.Likeness = likeness
		more = append(more, it)
	}
	return id, b.PutSamples(more)
}

// world is a filled bench that answers.
type world struct {
	bench     *service.Bench
	id        string
	address   string
	opening   time.Duration // from its folder to its first answer
	stop      context.CancelFunc
	stopped   chan error
	reference project.Project
}

// years is the bench with much in it, made when it is first asked for.
func (at *Place) years(ctx context.Context) (*world, error) {
	if at.world != nil {
		return at.world, nil
	}
	dir := filepath.Join(at.Dir, "years")
	b, err := service.Open(dir, service.Config{})
	if err != nil {
		return nil, err
	}
	id, err := Fill(ctx, b, Patterns, Kits, Breaks, Samples)
	if err := errors.Join(err, b.Close()); err != nil {
		return nil, err
	}
	begin := time.Now()
	w := &world{id: id, stopped: make(chan error, 1)}
	if w.bench, err = service.Open(dir, service.Config{}); err != nil {
		return nil, err
	}
	ctx, w.stop = context.WithCancel(ctx)
	description, err := fs.ReadFile(ui.Files(), "openapi.json")
	if err != nil { // built without its front end
		description = nil
	}
	ready := make(chan string, 1) // host:port
	go func() {
		w.stopped <- server.Run(ctx, w.bench, server.Config{Addr: "127.0.0.1:0", UploadLimit: 1 << 30, UI: ui.Files(), Version: "bench", Description: description, Started: func(a string) { ready <- a }})
	}()
	select {
	case w.address = <-ready:
	case err := <-w.stopped:
		return nil, errors.Join(err, w.bench.Close())
	}
	at.world = w
	if _, err = w.get("/api/v1/projects/" + id); err != nil {
		return nil, err
	}
	w.opening = time.Since(begin)
	w.reference, err = w.bench.Load(id)
	return w, err
}

// demo is a bench of its own with the demo's project.
func (at *Place) demo(name string) (*service.Bench, project.Project, error) {
	b, err := service.Open(filepath.Join(at.Dir, name), service.Config{})
	if err != nil {
		return nil, project.Project{}, err
	}
	id, err := b.NewDemoProject(name)
	if err != nil {
		return nil, project.Project{}, errors.Join(err, b.Close())
	}
	p, err := b.Load(id)
	if err != nil {
		return nil, p, errors.Join(err, b.Close())
	}
	return b, p, nil
}

func (at *Place) close() {
	if at.world == nil {
		return
	}
	at.world.stop()
	<-at.world.stopped
	_ = at.world.bench.Close()
	at.world = nil
}

// get asks for an address of the bench and returns how many bytes came.
func (w *world) get(path string) (int, error) { return w.ask(http.MethodGet, path, nil, nil) }

// ask asks the bench as a window does, and reads what it answers into reply.
func (w *world) ask(method, path string, body, reply any) (int, error) {
	text, err := json.Marshal(body)
	if err != nil {
		return 0, err
	}
	req, err := http.NewRequest(method, "http://"+w.address+path, bytes.NewReader(text))
	if err != nil {
		return 0, err
	}
	req.Header.Set("Content-Type", "application/json")
	r, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, err
	}
	defer r.Body.Close()
	got, err := io.ReadAll(r.Body)
	if err == nil && r.StatusCode != http.StatusOK {
		err = fmt.Errorf("%s %s: %s: %.200s", method, path, r.Status, got)
	}
	if err == nil && reply != nil {
		err = json.Unmarshal(got, reply)
	}
	return len(got), err
}
