package drummap

import (
	"math/rand/v2"
	"slices"
	"testing"
)

func TestCarryGoesByPersonRoleNameNote(t *testing.T) {
	lane := func(role Role, note int, name string) Lane {
		l := NewLane(role, note, name)
		l.Code = name[:2]
		return l
	}
	from := Map{Name: "from", Lanes: []Lane{lane(Ride, 51, "glass"), lane(Percussion, 73, "ratchet"), lane(Other, 58, "gulp"), lane(HighTom, 48, "small keg"),
		lane(ClosedHat, 42, "chain"), lane(Snare, 38, "slap"), lane(Kick, 36, "thump")}}
	to := Map{Name: "to", Lanes: []Lane{lane(Shaker, 58, "sieve"), lane(Cowbell, 56, "Ratchet"), lane(LowTom, 41, "drum"), lane(ClosedHat, 44, "hook"), lane(Snare, 40, "dust"), lane(Kick, 35, "drop")}}
	want := map[int]Link{36: {36, 35, ByRoleOf}, 38: {38, 40, ByRoleOf}, 42: {42, 44, ByRoleOf}, 73: {73, 56, ByNameOf}, 58: {58, 58, ByNoteOf},
		51: {51, -1, NoHome}, 48: {48, 41, ByPerson}, 44: {44, 44, ByNoteOf}, 99: {99, -1, NoHome}}
	got := Carry(from, to, []int{36, 44, 99}, map[int]int{48: 41, 36: 120})
	if len(got) != len(want) {
		t.Errorf("%d links, want %d", len(got), len(want))
	}
	for _, l := range got {
		if l != want[l.From] {
			t.Errorf("%+v, want %+v", l, want[l.From])
		}
	}
	count := map[string]int{}
	for _, d := range Compare(from, to) {
		count[d.What]++
	}
	if count["only a"] != 2 || count["note"] != 4 || count["role"] != 1 || count["only b"] != 1 {
		t.Errorf("compared: %v", count)
	}
}

// WCAG 2.2: black on white is 21:1, #777777 on white 4.48:1 (its understanding document's example). Okabe and Ito's
// published colours, and any other, get edges of 3:1 and letters of 4.5:1.
func TestSwatchesCanBeSeen(t *testing.T) {
	if c := Contrast("#000000", "#ffffff"); c != 21 {
		t.Errorf("black on white: %g", c)
	}
	if c := Contrast("#777777", "#ffffff"); c < 4.47 || c > 4.49 {
		t.Errorf("#777777 on white: %g", c)
	}
	for f, hex := range map[Family]string{"cym": "#e69f00", "clap": "#56b4e9", "hat": "#009e73", "snare": "#0072b2", "kick": "#d55e00", "tom": "#cc79a7"} {
		if got, _ := f.Hex(); got != hex {
			t.Errorf("%s is %s, Okabe and Ito print %s", f, got, hex)
		}
	}
	colours := append(Families(), "#ffffff", "#000000", "#808080", "#f3efe6", "#8a6fd1", "#ffff00")
	for _, f := range colours {
		s := SwatchOf(f)
		if Contrast(s.EdgeLight, paperLight) < 3 || Contrast(s.EdgeDark, paperDark) < 3 || Contrast(s.Fill, s.On) < 4.5 {
			t.Errorf("%s: edges %.1f and %.1f, letters %.1f", f, Contrast(s.EdgeLight, paperLight), Contrast(s.EdgeDark, paperDark), Contrast(s.Fill, s.On))
		}
	}
	if _, ok := Family("#12345g").Hex(); ok {
		t.Error("#12345g is no colour")
	}
}

func BenchmarkCarry(b *testing.B) {
	from, to := GeneralMIDI(), FullSet()
	for b.Loop() {
		Carry(from, to, nil, nil)
	}
}

// Several lanes of a role go to the other map's lanes of that role in their order from below, what is left over to the last.
func TestCarryKeepsLanesOfARoleApart(t *testing.T) {
	m := func(notes ...int) (m Map) {
		for _, n := range slices.Backward(notes) {
			m.Lanes = append(m.Lanes, NewLane(Snare, n, "snare"))
		}
		return m
	}
	got := map[int]int{}
	from, to := m(30, 31, 32), m(50, 51)
	slices.Reverse(to.Lanes)
	for _, l := range Carry(from, to, nil, nil) {
		got[l.From] = l.To
	}
	if got[30] != 50 || got[31] != 51 || got[32] != 51 {
		t.Errorf("three snares go to %v, want 50, 51, 51", got)
	}
}

// A map carried onto itself changes nothing, whatever its lanes; carried to a map that has the lane too, it stays.
func TestAMapCarriedOntoItselfChangesNothing(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 9))
	maps := []Map{FullSet(), GeneralMIDI()}
	for range 300 {
		m := Map{}
		for _, n := range rng.Perm(128)[:1+rng.IntN(40)] {
			m.Lanes = append(m.Lanes, NewLane(Roles()[rng.IntN(len(Roles()))], n, []string{"a", "b", "c"}[rng.IntN(3)]))
		}
		maps = append(maps, m)
	}
	for _, m := range maps {
		for _, l := range Carry(m, m, nil, nil) {
			if l.From != l.To {
				t.Fatalf("note %d goes to %d in a map carried onto itself: %+v", l.From, l.To, m.Lanes)
			}
		}
	}
	gm := GeneralMIDI()
	for _, l := range Carry(FullSet(), gm, nil, nil) {
		a, _ := FullSet().ByNote(l.From)
		if b, ok := gm.ByNote(l.From); ok && a.Role == b.Role && l.To != l.From {
			t.Errorf("%s on %d goes to %d though it is there with its role", a.Name, l.From, l.To)
		}
	}
}
