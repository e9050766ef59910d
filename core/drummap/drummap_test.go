package drummap

import (
	"errors"
	"testing"
)

// Spot values of the General MIDI Level 1 percussion key map (MIDI Association).
func TestGeneralMIDI(t *testing.T) {
	m := GeneralMIDI()
	if len(m.Lanes) != 47 {
		t.Fatalf("%d lanes, the key map has 47", len(m.Lanes))
	}
	if err := m.Check(); err != nil {
		t.Fatal(err)
	}
	for note, want := range map[int]string{35: "Acoustic Bass Drum", 36: "Bass Drum 1", 38: "Acoustic Snare", 42: "Closed Hi Hat",
		44: "Pedal Hi-Hat", 46: "Open Hi-Hat", 49: "Crash Cymbal 1", 51: "Ride Cymbal 1", 56: "Cowbell", 70: "Maracas", 81: "Open Triangle"} {
		if got := GMName(note); got != want {
			t.Errorf("note %d is %q, want %q", note, got, want)
		}
	}
	if GMName(34) != "" || GMName(82) != "" {
		t.Error("notes outside 35 to 81 have no General MIDI name")
	}
}

func TestLaneForGoesByRoleThenStandInThenNote(t *testing.T) {
	full := FullSet()
	for gm, want := range map[int]int{35: 36, 36: 36, 40: 38, 42: 42, 44: 44, 46: 46, 41: 45, 47: 45, 48: 48, 57: 49, 52: 49, 59: 51, 82: 0} {
		l, ok := full.LaneFor(gm)
		if want == 0 {
			if ok {
				t.Errorf("note %d has a home on %q; it should have none", gm, l.Name)
			}
			continue
		}
		if !ok || l.Note != want {
			t.Errorf("note %d goes to %d (%v), want %d", gm, l.Note, ok, want)
		}
	}
	few := Map{Lanes: []Lane{NewLane(ClosedHat, 42, "hat"), NewLane(Kick, 36, "kick")}}
	if l, ok := few.LaneFor(46); !ok || l.Note != 42 {
		t.Errorf("an open hat without its lane goes to %d (%v), want the closed hat's", l.Note, ok)
	}
	if _, ok := few.LaneFor(38); ok {
		t.Error("a snare has no home in a map without one")
	}
}

func TestCheckFindsWhatCannotBeUsed(t *testing.T) {
	lane := NewLane(Kick, 36, "kick")
	for name, m := range map[string]Map{
		"a note twice":      {Lanes: []Lane{lane, {Note: 36, Name: "other", Code: "XX", Role: Other}}},
		"a code twice":      {Lanes: []Lane{lane, {Note: 37, Name: "other", Code: "KI", Role: Other}}},
		"no name":           {Lanes: []Lane{{Note: 1, Name: " ", Role: Other}}},
		"note out of range": {Lanes: []Lane{{Note: 128, Name: "x", Role: Other}}},
		"unknown role":      {Lanes: []Lane{{Note: 1, Name: "x", Role: "gong"}}},
	} {
		if err := m.Check(); !errors.Is(err, ErrMap) {
			t.Errorf("%s: %v, want ErrMap", name, err)
		}
	}
}

func TestEveryRoleHasItsOwnNoteAndCode(t *testing.T) {
	m := Map{}
	for _, r := range Roles() {
		m.Lanes = append(m.Lanes, NewLane(r, r.Note(), string(r)))
	}
	if err := m.Check(); err != nil {
		t.Error(err)
	}
}

// A code says one drum: those of General MIDI are unique, the role's own where the role's own note is, and none that is
// proposed or built in says another role.
func TestCodesDoNotMislead(t *testing.T) {
	of := map[string]Role{}
	for _, r := range Roles() {
		of[r.Code()] = r
	}
	m := GeneralMIDI()
	if err := m.Check(); err != nil {
		t.Fatal(err)
	}
	for _, l := range m.Lanes {
		if r, ok := of[l.Code]; ok && r != l.Role {
			t.Errorf("%s has the code %s, which says %s", l.Name, l.Code, r)
		}
	}
	for note, code := range map[int]string{36: "KI", 38: "SN", 39: "CL", 42: "HC", 46: "HO", 49: "CR", 51: "RD"} {
		if l, _ := m.ByNote(note); l.Code != code {
			t.Errorf("%s has the code %s, want %s", l.Name, l.Code, code)
		}
	}
	for _, name := range []string{"Hand Clap", "Tall Hull", "Rope Dunk", "Clap"} {
		if r, ok := of[(Map{}).ProposeCode(name)]; ok {
			t.Errorf("%s is proposed the code of %s", name, r)
		}
	}
}

func TestFreeNoteIsTheRolesOwnFirst(t *testing.T) {
	m := Map{Lanes: []Lane{NewLane(Snare, 38, "one"), NewLane(Clap, 39, "two"), NewLane(Snare, 40, "three")}}
	for _, c := range []struct {
		role Role
		want int
		why  string
	}{{Kick, 36, "its own"}, {Clap, 40 + 1, "next that is no role's own"}, {Snare, 41, "both of General MIDI's are taken"}} {
		if n, ok := m.FreeNote(c.role); n != c.want || !ok {
			t.Errorf("another %s goes to %d, want %d: %s", c.role, n, c.want, c.why)
		}
	}
	m.Lanes = append(m.Lanes, NewLane(Kick, 36, "four"))
	if n, _ := m.FreeNote(Kick); n != 35 {
		t.Errorf("a second kick goes to %d, General MIDI has 35", n)
	}
	if n, _ := (Map{Lanes: []Lane{NewLane(Rim, 37, "stick")}}).FreeNote(Rim); n != 40 {
		t.Errorf("a second rim goes to %d; 38 and 39 are the snare's and the clap's own", n)
	}
	all := Map{}
	for n := range 128 {
		all.Lanes = append(all.Lanes, NewLane(Other, n, "x"))
	}
	if _, ok := all.FreeNote(Kick); ok {
		t.Error("a note is free where all are taken")
	}
}
