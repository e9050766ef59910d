package drummap

import (
	"slices"
	"strings"
)

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

// Carry matches every lane of one map, and every other note in notes, to a lane of another: as corrected, by the same note
// with the same role, by role, by name, by note. Several lanes of a role go to the other map's lanes of that role in the
// order of their notes, what is left over to the last of them. A role that the other map lacks goes by role of the same
// family only where one is a kind of the other (a cymbal to a crash). A map carried onto itself changes nothing.
// corrections gives notes a person chose, −1 for none.
func Carry(from, to Map, notes []int, corrections map[int]int) []Link {
	c := carrying{to: to, links: map[int]Link{}, homes: map[Role][]int{}, taken: map[int]bool{}}
	for _, l := range to.Lanes {
		c.homes[l.Role] = append(c.homes[l.Role], l.Note)
	}
	for _, homes := range c.homes {
		slices.Sort(homes)
	}
	lanes := slices.Clone(from.Lanes)
	slices.Reverse(lanes) // from the kick up, as they are told
	byNote := slices.Clone(lanes)
	slices.SortStableFunc(byNote, func(a, b Lane) int { return a.Note - b.Note })
	corrected := func(l Lane) (int, Why) {
		n, ok := corrections[l.Note]
		if _, there := to.ByNote(n); ok && (there || n == -1) {
			return n, ByPerson
		}
		return -1, NoHome
	}
	same := func(l Lane) (int, Why) {
		if at, ok := to.ByNote(l.Note); ok && at.Role == l.Role {
			return l.Note, ByRoleOf
		}
		return -1, NoHome
	}
	// each way for all lanes before the next, so that what fits best is not taken by what fits less
	for _, way := range []way{corrected, same, c.byRole} {
		for _, l := range byNote {
			c.link(l, way)
		}
	}
	for _, l := range byNote {
		c.link(l, c.byName, c.byNote)
	}
	var out []Link
	seen := map[int]bool{}
	add := func(note int) {
		if seen[note] {
			return
		}
		seen[note] = true
		link, ok := c.links[note]
		if !ok {
			link = Link{note, -1, NoHome}
		}
		out = append(out, link)
	}
	for _, l := range lanes {
		add(l.Note)
	}
	for _, n := range notes {
		if _, ok := from.ByNote(n); !ok {
			c.link(Lane{Note: n}, corrected, c.byNote)
		}
		add(n)
	}
	return out
}

// carrying is a map being matched to another.
type carrying struct {
	to    Map
	links map[int]Link
	homes map[Role][]int // notes of the other map's lanes, ascending
	taken map[int]bool
}

// way finds the note a lane goes to, or NoHome.
type way func(Lane) (int, Why)

// link takes the first way that leads somewhere, when none has yet.
func (c *carrying) link(l Lane, ways ...way) {
	for _, w := range ways {
		if _, done := c.links[l.Note]; done {
			return
		}
		if n, why := w(l); why != NoHome {
			c.links[l.Note] = Link{l.Note, n, why}
			c.taken[n] = true
		}
	}
}

func (c *carrying) byRole(l Lane) (int, Why) {
	if l.Role == Other || l.Role == Percussion {
		return -1, NoHome
	}
	for _, r := range append([]Role{l.Role}, nearRoles[l.Role]...) {
		homes := c.homes[r]
		if len(homes) == 0 {
			continue
		}
		for _, n := range homes {
			if !c.taken[n] {
				return n, ByRoleOf
			}
		}
		return homes[len(homes)-1], ByRoleOf
	}
	return -1, NoHome
}

func (c *carrying) byName(l Lane) (int, Why) {
	for _, o := range c.to.Lanes {
		if strings.EqualFold(strings.TrimSpace(o.Name), strings.TrimSpace(l.Name)) {
			return o.Note, ByNameOf
		}
	}
	return -1, NoHome
}

func (c *carrying) byNote(l Lane) (int, Why) {
	if _, ok := c.to.ByNote(l.Note); ok {
		return l.Note, ByNoteOf
	}
	return -1, NoHome
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
