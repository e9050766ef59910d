package service

import (
	"context"
	"errors"
	"strings"
	"testing"

	"hexachord/core/drummap"
	"hexachord/demo"
)

// An SFZ kit whose samples' names say nothing has lanes named by role: by General MIDI, unless a sound is surely another drum;
// its files may come loose, with folders in their names and in another case than the map writes.
func TestAnSFZKitOfFilesHasLanesByRole(t *testing.T) {
	b := open(t, t.TempDir())
	sounds := map[string][]byte{}
	if _, _, err := demo.Boathouse(func(f demo.File) (string, error) { sounds[f.Name] = f.Data; return f.Name, nil }); err != nil {
		t.Fatal(err)
	}
	sound := func(part string) []byte {
		for name, data := range sounds {
			if strings.HasPrefix(name, part) {
				return data
			}
		}
		t.Fatal(part)
		return nil
	}
	files := []SampleFile{
		{Name: "S1.WAV", Folder: "Quay/wav", Data: sound("hull-thump-1")},
		{Name: "s2.wav", Folder: "Quay/wav", Data: sound("hull-thump-2")},
		{Name: "s3.wav", Folder: "Quay/wav", Data: sound("rope-slap-4")},
		{Name: "bright clap.wav", Folder: "Quay/wav", Data: sound("oar-clap")},
		{Name: "quay.sfz", Folder: "Quay", Data: []byte("<region> key=36 sample=wav/s1.wav\n<region> key=35 sample=wav/s2.wav\n" +
			"<region> key=100 sample=wav/s3.wav\n<region> key=41 sample=wav/bright clap.wav\n<region> key=43 sample=../../other/x.wav")},
	}
	k, beside, err := KitIn(files)
	if err != nil || k.Name != "quay.sfz" {
		t.Fatalf("the kit is %q, %v", k.Name, err)
	}
	id, said, err := b.ImportKit(context.Background(), k.Name, k.Data, beside)
	if err != nil || len(said) != 1 {
		t.Fatalf("%v %q", err, said)
	}
	kept, err := b.KeptKit(id)
	if err != nil {
		t.Fatal(err)
	}
	for note, want := range map[int]struct {
		name string
		role drummap.Role
	}{36: {"kick", drummap.Kick}, 35: {"kick 2", drummap.Kick}, 100: {"snare", drummap.Snare}, 41: {"bright clap", drummap.Clap}} {
		if l, _ := kept.Map.ByNote(note); l.Name != want.name || l.Role != want.role {
			t.Errorf("note %d is %q, a %s; %q, a %s is meant", note, l.Name, l.Role, want.name, want.role)
		}
	}
	if err := kept.Map.Check(); err != nil {
		t.Error(err)
	}
	if _, _, err := KitIn(files[:2]); !errors.Is(err, ErrNoKit) {
		t.Errorf("no kit among samples: %v", err)
	}
}
