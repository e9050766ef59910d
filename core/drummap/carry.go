package drummap

import "strings"

// Why says what a lane was matched by.
type Why string

// What lanes are matched by, in order of trust; NoHome is a lane that found none.
const (
	ByPerson Why = "you"
	ByRoleOf Why = "role"
	ByNameOf Why = "name"
	ByNoteOf Why = "note"
	NoHome   Why = "none"
)

// Link says where the hits of a note go when patterns are carried to another map.
type Link struct {
	From int `json:"from"` // note in the old map
	To   int `json:"to"`   // note in the new map; −1 for none, and the hits stay where they are
	Why  Why `json:"why"`
}

// Carry matches every lane of one map, and every other note in notes, to a lane of another: as corrected, by role, by
// name, by note. Several lanes of a role go to the other map's lanes of that role in their order, what is left over to
// the last of them. A role that the other map lacks goes by role of the same family only where one is a kind of the
// other (a cymbal to a crash). corrections gives notes a person chose, −1 for none.
func Carry(from, to Map, notes []int, corrections map[int]int) []Link {
	byRole := map[Role][]int{}
	for _, l := range to.Lanes {
		byRole[l.Role] = append(byRole[l.Role], l.Note)
	}
	used := map[Role]int{}
	var out []Link
	seen := map[int]bool{}
	add := func(note int, lane Lane, known bool) {
		if seen[note] {
			return
		}
		seen[note] = true
		link := Link{From: note, To: -1, Why: NoHome}
		defer func() { out = append(out, link) }()
		if n, ok := corrections[note]; ok {
			if _, there := to.ByNote(n); there || n == -1 {
				link.To, link.Why = n, ByPerson
				return
			}
		}
		if known && lane.Role != Other && lane.Role != Percussion {
			for _, r := range append([]Role{lane.Role}, nearRoles[lane.Role]...) {
				if homes := byRole[r]; len(homes) > 0 {
					link.To, link.Why = homes[min(used[r], len(homes)-1)], ByRoleOf
					used[r]++
					return
				}
			}
		}
		if known {
			for _, l := range to.Lanes {
				if strings.EqualFold(strings.TrimSpace(l.Name), strings.TrimSpace(lane.Name)) {
					link.To, link.Why = l.Note, ByNameOf
					return
				}
			}
		}
		if _, ok := to.ByNote(note); ok {
			link.To, link.Why = note, ByNoteOf
		}
	}
	for i := len(from.Lanes) - 1; i >= 0; i-- { // from the kick up, so that the main drums choose first
		add(from.Lanes[i].Note, from.Lanes[i], true)
	}
	for _, n := range notes {
		add(n, Lane{}, false)
	}
	return out
}

// nearRoles are roles that will do where a map has no lane of a role.
var nearRoles = map[Role][]Role{Cymbal: {Crash}, Crash: {Cymbal}, PedalHat: {ClosedHat}, MidTom: {HighTom, LowTom}, HighTom: {MidTom}, LowTom: {MidTom}}

// NearRoles are the roles that will do in place of one, the nearest first.
func NearRoles(r Role) []Role { return nearRoles[r] }

// Difference is one line of two maps compared.
type Difference struct {
	A    int    `json:"a"` // note in the first map, −1 for none
	B    int    `json:"b"` // note in the second, −1 for none
	What string `json:"what" enum:"same,note,role,name,only a,only b"`
}

// Compare tells how two maps differ, lane by lane, matched as Carry does.
func Compare(a, b Map) []Difference {
	var out []Difference
	have := map[int]bool{}
	for _, k := range Carry(a, b, nil, nil) {
		la, _ := a.ByNote(k.From)
		lb, ok := b.ByNote(k.To)
		d := Difference{A: k.From, B: k.To, What: "same"}
		switch {
		case !ok:
			d.What = "only a"
		case k.From != k.To:
			d.What = "note"
		case la.Role != lb.Role:
			d.What = "role"
		case la.Name != lb.Name:
			d.What = "name"
		}
		have[k.To] = true
		out = append(out, d)
	}
	for _, l := range b.Lanes {
		if !have[l.Note] {
			out = append(out, Difference{A: -1, B: l.Note, What: "only b"})
		}
	}
	return out
}
