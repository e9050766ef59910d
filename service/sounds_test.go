package service

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"hexachord/core/kind"
	"hexachord/core/kit"
	"hexachord/core/layout"
	"hexachord/core/project"
	"hexachord/core/shelf"
	"hexachord/core/sound"
	"hexachord/format/wav"
)

func stroke(t testing.TB, hz, level float64) []byte {
	t.Helper()
	b := sound.New(44100, 1, 11025)
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(level * math.Exp(-float64(i)/2500) * math.Sin(2*math.Pi*hz*float64(i)/44100))
	}
	data, err := wav.Encode(b, wav.PCM24)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

func zipped(t *testing.T, files map[string][]byte) []byte {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for name, data := range files {
		f, err := w.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := f.Write(data); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// What can be used is taken in once, what cannot is reported, and nothing leads out of a zip.
func TestImportTakesWhatItCan(t *testing.T) {
	b := open(t, t.TempDir())
	snare := stroke(t, 190, 0.5)
	bomb := make([]byte, 80<<20)
	reports, err := b.ImportSamples(context.Background(), []SampleFile{
		{Name: "snare 1.wav", Folder: "pack", Data: snare},
		{Name: "list.wav", Data: []byte("bread, milk")},
		{Name: "more.zip", Data: zipped(t, map[string][]byte{"kicks/kick.wav": stroke(t, 60, 0.9), "same.wav": snare, "../../evil.wav": stroke(t, 70, 0.9), "zeros.wav": bomb})},
	})
	if err != nil {
		t.Fatal(err)
	}
	by := map[string]SampleReport{}
	for _, r := range reports {
		by[filepath.Base(r.File)] = r
	}
	if r := by["snare 1.wav"]; r.Status != "added" || r.Kind != "snare" {
		t.Errorf("snare: %+v", r)
	}
	if r := by["same.wav"]; r.Status != "known" && by["snare 1.wav"].Status != "known" {
		t.Errorf("the same content again: %+v", r)
	}
	if r := by["list.wav"]; r.Status != "refused" || !strings.Contains(r.Detail, "not usable as audio") {
		t.Errorf("text: %+v", r)
	}
	if r := by["evil.wav"]; r.Status != "refused" || !strings.Contains(r.Detail, "leads out") {
		t.Errorf("a path out of the zip: %+v", r)
	}
	if r := by["zeros.wav"]; r.Status != "refused" || !strings.Contains(r.Detail, "unpacks to more") {
		t.Errorf("a zip bomb: %+v", r)
	}
	r, err := b.FindSamples(shelf.Query{Folder: "more"})
	if err != nil || r.All != 2 || r.Total != 1 || r.Items[0].Folder != "more/kicks" || r.Items[0].Kind != "kick" {
		t.Errorf("on the shelf: %+v", r)
	}
	said := kind.Kind("clap")
	if it, err := b.CorrectSample(by["snare 1.wav"].Hash, &said, []string{" Wet ", "wet", "rope"}); err != nil || it.Kind != "clap" || !reflect.DeepEqual(it.Tags, []string{"wet", "rope"}) {
		t.Errorf("corrected: %+v %v", it, err)
	}
	none := kind.Kind("")
	if it, _ := b.CorrectSample(by["snare 1.wav"].Hash, &none, nil); it.Kind != "snare" || it.Corrected {
		t.Errorf("left to name and sound again: %+v", it)
	}
	if items, _, err := b.Samples(); err != nil || len(items) != 2 || len(items[0].Facts.Likeness) == 0 {
		t.Errorf("kept: %d %v", len(items), err)
	}
}

// A kit goes away as a bundle and as SFZ and comes back the same; a kit that was there stays listed.
func TestKitsGoAwayAndComeBack(t *testing.T) {
	b := open(t, t.TempDir())
	id, err := b.NewDemoProject("p")
	if err != nil {
		t.Fatal(err)
	}
	p := load(t, b, id)
	other := open(t, t.TempDir())
	for _, as := range []string{"bundle", "sfz"} {
		_, data, lost, err := b.ExportKit(p.Map, p.Kit, as)
		if err != nil {
			t.Fatal(err)
		}
		kid, said, err := other.ImportKit(context.Background(), "Boathouse.zip", data, nil)
		if err != nil || len(said) > 0 {
			t.Fatalf("%s: %v %q (lost %q)", as, err, said, lost)
		}
		k, err := other.KeptKit(kid)
		if err != nil {
			t.Fatal(err)
		}
		if as == "bundle" && (!reflect.DeepEqual(k.Kit, p.Kit) || !reflect.DeepEqual(k.Map, p.Map)) {
			t.Error("a bundle comes back another")
		}
		for _, pad := range p.Kit.Pads {
			back, ok := k.Kit.Pad(pad.Note)
			if !ok || len(back.Layers) != len(pad.Layers) || back.Layers[0].Hi != pad.Layers[0].Hi || back.Choke != pad.Choke ||
				back.Layers[0].Sounds[0].Takes[0].Sample != pad.Layers[0].Sounds[0].Takes[0].Sample {
				t.Errorf("%s: note %d comes back %+v", as, pad.Note, back)
			}
		}
	}
	next, err := b.edit(id, p.Revision, Edit{TakeKit: &TakeKit{"empty"}})
	if err != nil {
		t.Fatal(err)
	}
	kits, _ := b.Kits()
	if len(kits) != 1 || !kits[0].Earlier || !reflect.DeepEqual(kits[0].Kit, p.Kit) {
		t.Errorf("the kit that was there: %+v", kits)
	}
	if _, err := b.edit(id, next.Project.Revision, Edit{TakeKit: &TakeKit{kits[0].ID}}); err != nil {
		t.Fatal(err)
	}
	if got := load(t, b, id); !reflect.DeepEqual(got.Kit, p.Kit) {
		t.Error("taken again, it is another")
	}
}

// A damaged bundle and an SFZ file with missing samples: the rest comes in, and it is said what did not.
func TestDamagedKits(t *testing.T) {
	b := open(t, t.TempDir())
	for name, data := range map[string][]byte{"x.zip": []byte("PK\x03\x04 nothing"), "y.zip": zipped(t, map[string][]byte{"readme.txt": []byte("hi")}), "z.sfz": []byte("<region>")} {
		if _, _, err := b.ImportKit(context.Background(), name, data, FilesBeside(t.TempDir())); err == nil {
			t.Errorf("%s was taken", name)
		}
	}
	dir := t.TempDir()
	if err := os.WriteFile(filepath.Join(dir, "a.wav"), stroke(t, 100, 0.5), 0o600); err != nil {
		t.Fatal(err)
	}
	id, said, err := b.ImportKit(context.Background(), "k.sfz", []byte("<region> key=36 sample=a.wav\n<region> key=38 sample=gone.wav\n<region> key=40 sample=../../etc/passwd"), FilesBeside(dir))
	if err != nil || len(said) != 2 {
		t.Fatalf("%v %q", err, said)
	}
	if k, _ := b.KeptKit(id); len(k.Kit.Pads) != 1 {
		t.Errorf("%+v", k.Kit)
	}
}

func TestSamplesAreLaidOutInOneEditThatUndoTakesBack(t *testing.T) {
	b := open(t, t.TempDir())
	id, err := b.NewDemoProject("p")
	if err != nil {
		t.Fatal(err)
	}
	var parts []project.SamplePart
	for i, name := range []string{"snare soft.wav", "snare hard.wav", "kick.wav"} {
		reports, err := b.ImportSamples(context.Background(), []SampleFile{{Name: name, Data: stroke(t, 80+50*float64(i), 0.3+0.2*float64(i))}})
		if err != nil {
			t.Fatal(err)
		}
		parts = append(parts, project.SamplePart{Hash: reports[0].Hash})
	}
	p := load(t, b, id)
	next, err := b.edit(id, p.Revision, Edit{Edit: project.Edit{LayOut: &project.LayOut{Parts: parts, Options: layout.Options{By: layout.ByName, How: map[int]kit.How{38: kit.Replace}}}}})
	if err != nil {
		t.Fatal(err)
	}
	got := load(t, b, id)
	if snare, _ := got.Kit.Pad(38); len(snare.Layers) != 2 || snare.Layers[0].Sounds[0].Takes[0].Source != "snare soft.wav" {
		t.Errorf("two snares, the softer first: %+v", snare.Layers)
	}
	if _, err := b.Undo(id, next.Project.Revision); err != nil {
		t.Fatal(err)
	}
	if back := load(t, b, id); !reflect.DeepEqual(back.Kit, p.Kit) {
		t.Error("undo does not bring the kit back")
	}
	name, data, err := b.RegionWAV(parts[0].Hash, 100, 400)
	cut, info, derr := wav.Decode(data)
	whole, _ := b.Decode(parts[0].Hash)
	if err != nil || derr != nil || info.Bits != 24 || cut.Frames() != 300 || cut.Rate != 44100 || cut.Channels[0][7] != whole.Channels[0][107] || !strings.HasSuffix(name, ".wav") {
		t.Errorf("a part as WAV: %s %v %v %+v", name, err, derr, info)
	}
}

func BenchmarkImport(b *testing.B) {
	x, err := Open(b.TempDir(), Config{})
	if err != nil {
		b.Fatal(err)
	}
	defer func() { _ = x.Close() }()
	n := 0
	for b.Loop() {
		var files []SampleFile
		for range 40 {
			n++
			files = append(files, SampleFile{Name: fmt.Sprintf("%d.wav", n), Data: stroke(b, 60+float64(n)*0.1, 0.5)})
		}
		if _, err := x.ImportSamples(context.Background(), files); err != nil {
			b.Fatal(err)
		}
	}
	b.ReportMetric(float64(n)/b.Elapsed().Seconds(), "samples/s")
}
