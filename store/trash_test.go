package store

import (
	"errors"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/core/project"
)

func newProject(t *testing.T, s *Store, name string) string {
	t.Helper()
	id, err := s.CreateProject(name, world{}, func(d *project.Draft) error {
		return errors.Join(d.PutSettings(project.NewSettings()), d.PutMap(drummap.FullSet()), d.PutKit(kit.Kit{Name: "k", Pads: []kit.Pad{}}))
	})
	if err != nil {
		t.Fatal(err)
	}
	return id
}

func tempo(t *testing.T, s *Store, id string, bpm float64) {
	t.Helper()
	p, err := s.Load(id)
	if err != nil {
		t.Fatal(err)
	}
	_, err = s.Edit(id, p.Revision, world{}, "", everything, func(d *project.Draft) (string, error) {
		settings := d.Settings
		settings.BPM = bpm
		return "Tempo", d.PutSettings(settings)
	})
	if err != nil {
		t.Fatal(err)
	}
}

// What is thrown away is out of sight and out of reach, comes back whole with its history, and goes for good only when the
// trash is emptied.
func TestTheTrashKeepsProjectsWhole(t *testing.T) {
	s := openAt(t, t.TempDir())
	id, stays := newProject(t, s, "Weir"), newProject(t, s, "stays")
	tempo(t, s, id, 101)
	p, _ := s.Load(id)
	if err := s.Trash(TrashProject, id); err != nil {
		t.Fatal(err)
	}
	if all, _ := s.Projects(); len(all) != 1 || all[0].ID != stays {
		t.Errorf("listed: %+v", all)
	}
	if _, err := s.Load(id); !errors.Is(err, ErrTrashed) {
		t.Errorf("loading from the trash: %v", err)
	}
	_, err := s.Edit(id, p.Revision, world{}, "", everything, func(d *project.Draft) (string, error) { return "x", d.PutMap(drummap.GeneralMIDI()) })
	if !errors.Is(err, ErrTrashed) {
		t.Errorf("editing in the trash: %v", err)
	}
	if err := s.Trash(TrashProject, id); !errors.Is(err, ErrNotFound) {
		t.Errorf("thrown away twice: %v", err)
	}
	in, err := s.Trashes()
	if err != nil || len(in) != 1 || in[0].Name != "Weir" || in[0].What != TrashProject || len(in[0].Map.Lanes) != 12 {
		t.Fatalf("%+v %v", in, err)
	}
	if err := s.Restore(TrashProject, id); err != nil {
		t.Fatal(err)
	}
	if p, err := s.Load(id); err != nil || p.Settings.BPM != 101 || p.Undo != "Tempo" {
		t.Errorf("restored: %g BPM, undo %q, %v", p.Settings.BPM, p.Undo, err)
	}
	if err := s.Trash(TrashProject, id); err != nil {
		t.Fatal(err)
	}
	if _, err := s.EmptyTrash(); err != nil {
		t.Fatal(err)
	}
	if err := s.Restore(TrashProject, id); !errors.Is(err, ErrNotFound) {
		t.Errorf("restored after emptying: %v", err)
	}
	var left int64
	for _, table := range []string{"documents", "history"} {
		if s.read.Table(table).Where("project_id = ?", id).Count(&left); left != 0 {
			t.Errorf("%d %s are left of a project that is gone", left, table)
		}
	}
	if _, err := s.Load(stays); err != nil {
		t.Error(err)
	}
	if err := s.Trash("pattern", stays); !errors.Is(err, ErrNotFound) {
		t.Errorf("something that has no trash: %v", err)
	}
}

// A kit that comes out of the trash does not take its name from one that has it by now.
func TestKitsComeBackBesideTheirNames(t *testing.T) {
	s := openAt(t, t.TempDir())
	k := kit.Kit{Name: "Lock", Pads: []kit.Pad{kit.NewPad(36)}}
	old, _ := s.KeepKit(drummap.FullSet(), k, false)
	if err := s.Trash(TrashKit, old); err != nil {
		t.Fatal(err)
	}
	if _, err := s.KeptKit(old); !errors.Is(err, ErrNotFound) {
		t.Errorf("a kit in the trash: %v", err)
	}
	k.Pads = append(k.Pads, kit.NewPad(38))
	fresh, err := s.KeepKit(drummap.FullSet(), k, false)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.DescribeKit(fresh, "Lock", "for the weir"); err != nil {
		t.Fatal(err)
	}
	if err := s.Restore(TrashKit, old); err != nil {
		t.Fatal(err)
	}
	kits, _ := s.Kits()
	if len(kits) != 2 || kits[0].ID != fresh || kits[0].Earlier || kits[0].Description != "for the weir" || !kits[1].Earlier {
		t.Errorf("%+v", kits)
	}
	// a name goes to all its states, and is not taken from another kit
	other, _ := s.KeepKit(drummap.FullSet(), kit.Kit{Name: "Other", Pads: []kit.Pad{}}, false)
	if err := s.DescribeKit(other, "Lock", ""); !errors.Is(err, ErrTaken) {
		t.Errorf("a name that is taken: %v", err)
	}
	if err := s.DescribeKit(fresh, "Weir", "x"); err != nil {
		t.Fatal(err)
	}
	for _, k := range func() []KeptKit { all, _ := s.Kits(); return all }() {
		if k.ID != other && (k.Name != "Weir" || k.Kit.Name != "Weir") {
			t.Errorf("%q holds %q", k.Name, k.Kit.Name)
		}
	}
}

// A copy is a project of its own, with everything but the history.
func TestADuplicateIsItsOwn(t *testing.T) {
	s := openAt(t, t.TempDir())
	id := newProject(t, s, "Weir")
	tempo(t, s, id, 101)
	copied, err := s.DuplicateProject(id, "Weir, copy")
	if err != nil {
		t.Fatal(err)
	}
	tempo(t, s, copied, 77)
	a, _ := s.Load(id)
	b, _ := s.Load(copied)
	if a.Settings.BPM != 101 || b.Settings.BPM != 77 || b.Name != "Weir, copy" || len(b.Map.Lanes) != 12 {
		t.Errorf("%g and %g BPM, %q", a.Settings.BPM, b.Settings.BPM, b.Name)
	}
	if _, err := s.Undo(copied, b.Revision); err != nil {
		t.Fatal(err)
	}
	b, _ = s.Load(copied)
	if _, err := s.Undo(copied, b.Revision); !errors.Is(err, ErrNoUndo) {
		t.Errorf("the copy's history goes back before it: %v", err)
	}
	if err := s.RenameProject(copied, "Weir songs"); err != nil {
		t.Fatal(err)
	}
	if b, _ = s.Load(copied); b.Name != "Weir songs" || b.Settings.BPM != 101 {
		t.Errorf("renamed: %q, %g BPM", b.Name, b.Settings.BPM)
	}
	if err := s.RenameProject("nobody", "x"); !errors.Is(err, ErrNotFound) {
		t.Errorf("renaming nothing: %v", err)
	}
}
