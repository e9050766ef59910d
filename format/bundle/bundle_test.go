package bundle

import (
	"bytes"
	"encoding/json"
	"errors"
	"reflect"
	"strings"
	"testing"
	"time"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/format/archive"
)

const sum = "2cf24dba5fb0a30e26e83b2ac5b9e29e1b161e5c1fa7425e73043362938b9824" // SHA-256 of "hello" (a value known everywhere)

// day is when the test's bundles are made.
var day = time.Date(2026, 3, 1, 12, 0, 0, 0, time.UTC)

func small(t testing.TB) []byte {
	t.Helper()
	k := kit.Kit{Name: "Quay", Pads: []kit.Pad{kit.NewPad(36)}}
	k.Pads[0].Layers = []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: sum, Source: "a.wav", Shape: kit.Whole()})}
	data, err := Write(drummap.FullSet(), k, func(hash string) (string, []byte, error) { return `..\a/b:"c".wav`, []byte("hello"), nil }, day)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

func open(t testing.TB, data []byte) []archive.Entry {
	t.Helper()
	files, err := archive.Open(data, archive.Usual)
	if err != nil {
		t.Fatal(err)
	}
	return files
}

// A kit goes out and comes back with its audio, whatever its samples were called; the zip is the same each time.
func TestAKitGoesOutAndComesBack(t *testing.T) {
	data := small(t)
	if !bytes.Equal(data, small(t)) {
		t.Error("written twice, the bundle is another")
	}
	man, err := Read(open(t, data))
	if err != nil {
		t.Fatal(err)
	}
	if man.Kit.Name != "Quay" || !reflect.DeepEqual(man.Map, drummap.FullSet()) || len(man.Samples) != 1 || strings.ContainsAny(man.Samples[0].File[len("audio/"):], `\/:"`) {
		t.Errorf("%+v", man)
	}
	if audio, err := man.Samples[0].Audio(open(t, data)); err != nil || string(audio) != "hello" {
		t.Errorf("%q %v", audio, err)
	}
}

// A sample that is another than the manifest says, a manifest of a newer version, one that is too large, and none at all are
// told apart.
func TestDamagedBundlesAreToldApart(t *testing.T) {
	man, err := Read(open(t, small(t)))
	if err != nil {
		t.Fatal(err)
	}
	with := func(change func(*Manifest), pad int, audio string) []byte {
		m := man
		m.Samples = append([]Sample(nil), man.Samples...)
		change(&m)
		text, err := json.Marshal(m)
		if err != nil {
			t.Fatal(err)
		}
		w := archive.NewWriter(day)
		w.Add(ManifestName, append(text, bytes.Repeat([]byte(" "), pad)...), false)
		w.Add(m.Samples[0].File, []byte(audio), false)
		data, err := w.Bytes()
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	same := func(*Manifest) {}
	for name, c := range map[string]struct {
		data []byte
		say  string
	}{
		"a newer version": {with(func(m *Manifest) { m.Version = 9 }, 0, "hello"), "newer"},
		"another format":  {with(func(m *Manifest) { m.Format = "shopping" }, 0, "hello"), "not a kit's manifest"},
		"59 MB of JSON":   {with(same, 59<<20, "hello"), "59 MB"},
	} {
		if _, err := Read(open(t, c.data)); !errors.Is(err, ErrBundle) || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := man.Samples[0].Audio(open(t, with(same, 0, "hullo"))); !errors.Is(err, ErrBundle) {
		t.Errorf("another sample: %v", err)
	}
	if _, err := Read(nil); !errors.Is(err, ErrBundle) {
		t.Errorf("no manifest: %v", err)
	}
}

// FuzzRead: whatever the bytes, a bundle is refused, or gives a map and a kit that can be used and audio that is what it says.
func FuzzRead(f *testing.F) {
	f.Add(small(f))
	f.Fuzz(func(t *testing.T, data []byte) {
		files, err := archive.Open(data, archive.Limits{Files: 100, FileBytes: 1 << 20, TotalBytes: 4 << 20})
		if err != nil {
			return
		}
		man, err := Read(files)
		if err != nil {
			return
		}
		if err := errors.Join(man.Map.Check(), man.Kit.Check()); err != nil {
			t.Fatalf("a kit that cannot be used: %v", err)
		}
		for _, s := range man.Samples {
			_, _ = s.Audio(files)
		}
	})
}
