package service

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"path/filepath"
	"strings"
	"testing"

	"hexachord/core/kit"
	"hexachord/core/project"
	"hexachord/core/shelf"
	"hexachord/store"
)

// Samples in the trash are off the shelf, and sound where they sounded; a restart does not bring them back, bringing the file
// again does; emptied, those go that nothing sounds: no project, no history, no kept kit.
func TestSamplesAreTrashed(t *testing.T) {
	dir := t.TempDir()
	b := open(t, dir)
	var files []SampleFile
	for i := range 6 {
		files = append(files, SampleFile{Name: fmt.Sprintf("s%d.wav", i), Data: stroke(t, 60+40*float64(i), 0.9)})
	}
	reports, err := b.ImportSamples(context.Background(), files)
	if err != nil {
		t.Fatal(err)
	}
	hash := func(i int) string { return reports[i].Hash }
	onPad := func(h string) kit.Kit {
		pad := kit.NewPad(36)
		pad.Layers = []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: h, Shape: kit.Whole()})}
		return kit.Kit{Name: "k", Pads: []kit.Pad{pad}}
	}
	id, err := b.NewProject("p")
	if err != nil {
		t.Fatal(err)
	}
	edit := func(h string) {
		t.Helper()
		p, _ := b.Load(id)
		if _, err := b.Store.Edit(id, p.Revision, b, "", func(project.Project) project.Scope { return project.Scope{All: true} }, func(d *project.Draft) (string, error) { return "Kit", d.PutKit(onPad(h)) }); err != nil {
			t.Fatal(err)
		}
	}
	edit(hash(0)) // the history's alone, once the next is put
	edit(hash(1)) // the project's
	p, _ := b.Load(id)
	if _, err := b.KeepKit(p.Map, onPad(hash(2)), false); err != nil {
		t.Fatal(err)
	}
	all := []string{hash(0), hash(1), hash(2), hash(3), hash(4)}
	if err := b.Trash(store.TrashSample, append(all, "nobody's")...); !errors.Is(err, store.ErrNotFound) {
		t.Fatalf("one that is not there: %v", err)
	}
	if r, err := b.FindSamples(shelf.Query{}); err != nil || r.All != 6 {
		t.Fatalf("all or none: %d are left", r.All)
	}
	if err := b.Trash(store.TrashSample, all...); err != nil {
		t.Fatal(err)
	}
	if err := b.Restore(store.TrashSample, hash(3)); err != nil {
		t.Fatal(err)
	}
	if err := b.Trash(store.TrashSample, hash(3)); err != nil {
		t.Fatal(err)
	}
	check := func(when string, onShelf, inTrash int) {
		t.Helper()
		trash, err := b.Trashes()
		if r, e := b.FindSamples(shelf.Query{}); errors.Join(err, e) != nil || r.All != onShelf || r.Total != onShelf || len(trash) != inTrash {
			t.Errorf("%s: %d of %d on the shelf, %d in the trash, %v", when, r.Total, r.All, len(trash), err)
		}
	}
	check("thrown away", 1, 5)
	if trash, _ := b.Trashes(); trash[0].What != store.TrashSample || trash[0].Name == "" || trash[0].Kind == "" {
		t.Errorf("%+v", trash[0])
	}
	if table, err := b.Table(p.Kit, 48000); err != nil || len(table.Voices()) != 1 {
		t.Errorf("what is in the trash does not sound: %+v %v", table.Voices(), err)
	}
	if it, err := b.Sample(hash(1)); err != nil || it.Name != "s1.wav" {
		t.Errorf("what is in the trash is not known: %+v %v", it, err)
	}

	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	b = open(t, dir)
	if err := b.DescribeMissing(context.Background()); err != nil {
		t.Fatal(err)
	}
	check("started again", 1, 5)

	again, err := b.ImportSamples(context.Background(), files[4:5])
	if err != nil || again[0].Status != "added" || again[0].Detail != "it was in the trash" {
		t.Errorf("brought again: %+v %v", again, err)
	}
	check("brought again", 2, 4)

	if err := b.EmptyTrash(); err != nil {
		t.Fatal(err)
	}
	check("emptied", 2, 3)
	for i := range 6 {
		if _, err := b.Decode(hash(i)); (err == nil) != (i != 3) {
			t.Errorf("audio of %d: %v", i, err)
		}
		if b.HasAudio(hash(i)) != (i != 3) {
			t.Errorf("the file of %d", i)
		}
	}
	if again, err := b.ImportSamples(context.Background(), files[3:4]); err != nil || again[0].Status != "added" || again[0].Detail != "" || !b.HasAudio(hash(3)) {
		t.Errorf("brought when it was gone: %+v %v", again, err)
	}
	if _, err := b.Undo(id, p.Revision); err != nil {
		t.Fatal(err)
	}
	if before, _ := b.Load(id); before.Kit.Pads[0].Layers[0].Sounds[0].Takes[0].Sample != hash(0) {
		t.Error("undo does not find what it sounded")
	}
	check("all again", 3, 3)
}

// A shelf that cannot be read says so to everyone who asks, and nothing of it is written over; the projects open all the same.
func TestAShelfThatCannotBeRead(t *testing.T) {
	dir := t.TempDir()
	b := open(t, dir)
	file := []SampleFile{{Name: "a.wav", Data: stroke(t, 100, 0.9)}}
	reports, err := b.ImportSamples(context.Background(), file)
	if err != nil {
		t.Fatal(err)
	}
	id, err := b.NewProject("p")
	if err := errors.Join(err, b.Close()); err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("sqlite", filepath.Join(dir, "hexachord.db"))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec("UPDATE samples SET item = ?", "{torn"); err != nil {
		t.Fatal(err)
	}
	b = open(t, dir)
	if _, err := b.Load(id); err != nil {
		t.Error(err)
	}
	if _, err := b.FindSamples(shelf.Query{}); err == nil || !strings.Contains(err.Error(), reports[0].Hash) {
		t.Errorf("looking for samples: %v", err)
	}
	if r, err := b.ImportSamples(context.Background(), file); err == nil && r[0].Status != "refused" {
		t.Errorf("bringing it again: %+v", r)
	}
	if err := b.DescribeMissing(context.Background()); err == nil {
		t.Error("described anew")
	}
	var item string
	if err := db.QueryRow("SELECT item FROM samples").Scan(&item); err != nil || item != "{torn" {
		t.Errorf("written over: %q %v", item, err)
	}
	if err := db.Close(); err != nil {
		t.Fatal(err)
	}
}
