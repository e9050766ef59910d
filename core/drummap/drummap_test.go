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
