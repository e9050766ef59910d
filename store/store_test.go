package store

import (
	"encoding/json"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/kit"
)

// A data folder from when a layer had one sample is carried forward, its history too.
func TestOldKitsAreCarriedForward(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	id, err := s.CreateProject(Project{Name: "old", Settings: NewSettings(), Map: drummap.FullSet(), Kit: kit.Kit{Name: "Old", Pads: []kit.Pad{}}})
	if err != nil {
		t.Fatal(err)
	}
	const oldKit = `{"name":"Old","pads":[{"note":38,"layers":[{"lo":1,"hi":127,"sample":"ab","source":"a.wav","startFrame":5,"endFrame":90,"levelDB":-3,"semitones":2}],` +
		`"levelDB":-1,"pan":0.5,"semitones":0,"held":true,"releaseMS":40,"choke":2,"selfChoke":true,"velTrack":90}]}`
	changes, _ := json.Marshal([]change{{Kind: kindKit, ID: only, Before: json.RawMessage(oldKit), After: json.RawMessage(`{"name":"Old","pads":[]}`)}})
	for _, err := range []error{
		s.db.Model(&documentRow{}).Where("kind = ?", kindKit).Update("body", []byte(oldKit)).Error,
		s.db.Omit("Project").Create(&historyRow{ProjectID: id, Number: 1, Label: "Empty the kit", Changes: changes}).Error,
		s.db.Model(&projectRow{}).Where("id = ?", id).Update("history_at", 1).Error,
		s.db.Model(&schemaRow{}).Where("id = 1").Update("version", 1).Error, s.db.Migrator().DropTable(&sampleRow{}, &kitRow{}), s.Close()} {
		if err != nil {
			t.Fatal(err)
		}
	}
	if s, err = Open(dir); err != nil {
		t.Fatal(err)
	}
	defer func() { _ = s.Close() }()
	want := func(when string) Project {
		p, err := s.Load(id)
		if err != nil {
			t.Fatal(err)
		}
		pad, _ := p.Kit.Pad(38)
		if len(pad.Layers) != 1 || pad.Choke != 2 || pad.VelTrack != 90 || !pad.Held {
			t.Fatalf("%s: %+v", when, pad)
		}
		sound := pad.Layers[0].Sounds[0]
		take := sound.Takes[0]
		if sound.LevelDB != -3 || sound.Semitones != 2 || take.Sample != "ab" || take.Shape.StartFrame != 5 || take.Shape.EndFrame != 90 || take.Shape.ReleaseMS != 40 || p.Kit.Check() != nil {
			t.Errorf("%s: %+v", when, sound)
		}
		return p
	}
	p := want("carried forward")
	if _, err := s.Undo(id, p.Revision); err != nil {
		t.Fatal(err)
	}
	want("after undo")
	if _, err := s.Samples(); err != nil {
		t.Error(err)
	}
}

func TestKeptKitsLoseNothing(t *testing.T) {
	s, err := Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = s.Close() }()
	k := kit.Kit{Name: "Lock", Pads: []kit.Pad{kit.NewPad(36)}}
	first, _ := s.KeepKit(drummap.FullSet(), k, false)
	k.Pads = append(k.Pads, kit.NewPad(38))
	if _, err := s.KeepKit(drummap.FullSet(), k, false); err != nil {
		t.Fatal(err)
	}
	if again, _ := s.KeepKit(drummap.FullSet(), k, true); again == "" {
		t.Error("a kit put aside that is kept already is not kept twice")
	}
	kits, err := s.Kits()
	if err != nil || len(kits) != 2 || kits[0].Earlier || len(kits[0].Kit.Pads) != 2 || !kits[1].Earlier || kits[1].ID != first {
		t.Errorf("%+v %v", kits, err)
	}
}
