// Package drummap names notes: lanes with roles, two-letter codes and colours, and the
// General MIDI percussion key map.
package drummap

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"
)

// Role says what a lane is for, whatever its name.
type Role string

// The roles, in score order from the top of the lane column to its foot.
const (
	Crash      Role = "crash"
	Cymbal     Role = "cymbal"
	Ride       Role = "ride"
	OpenHat    Role = "open hat"
	PedalHat   Role = "pedal hat"
	ClosedHat  Role = "closed hat"
	Shaker     Role = "shaker"
	Tambourine Role = "tambourine"
	Cowbell    Role = "cowbell"
	Percussion Role = "percussion"
	Other      Role = "other"
	Rim        Role = "rim"
	Clap       Role = "clap"
	HighTom    Role = "high tom"
	MidTom     Role = "mid tom"
	LowTom     Role = "low tom"
	Snare      Role = "snare"
	Kick       Role = "kick"
)

// Family is the colour family of a role. Colour means a drum; the fills follow Okabe and Ito's
// published palette for colour-blind readers.
type Family string

type roleFacts struct {
	family Family
	code   string
	note   int // the General MIDI note a lane of this role begins with
}

var roleOrder = []Role{Crash, Cymbal, Ride, OpenHat, PedalHat, ClosedHat, Shaker, Tambourine, Cowbell,
	Percussion, Other, Rim, Clap, HighTom, MidTom, LowTom, Snare, Kick}

var roles = map[Role]roleFacts{
	Crash: {"cym", "CR", 49}, Cymbal: {"cym", "CY", 55}, Ride: {"cym", "RD", 51},
	OpenHat: {"hat", "HO", 46}, PedalHat: {"hat", "HP", 44}, ClosedHat: {"hat", "HC", 42},
	Shaker: {"perc", "SH", 70}, Tambourine: {"perc", "TB", 54}, Cowbell: {"perc", "CB", 56},
	Percussion: {"perc", "PC", 73}, Other: {"other", "OT", 58},
	Rim: {"clap", "RM", 37}, Clap: {"clap", "CL", 39},
	HighTom: {"tom", "TH", 48}, MidTom: {"tom", "TM", 47}, LowTom: {"tom", "TL", 45},
	Snare: {"snare", "SN", 38}, Kick: {"kick", "KI", 36},
}

// Roles lists every role in score order, cymbals first and kick last.
func Roles() []Role { return append([]Role(nil), roleOrder...) }

// Valid reports whether r is one of the roles.
func (r Role) Valid() bool { _, ok := roles[r]; return ok }

// Family is the colour family of the role: kick, snare, clap, hat, tom, cym, perc or other.
func (r Role) Family() Family { return roles[r].family }

// Code is the two-letter code a lane of this role begins with.
func (r Role) Code() string { return roles[r].code }

// Note is the General MIDI note (0..127) a lane of this role begins with.
func (r Role) Note() int { return roles[r].note }

// Lane is one row of a drum map.
type Lane struct {
	Note  int    `json:"note" minimum:"0" maximum:"127"` // MIDI note, 0..127
	Name  string `json:"name"`
	Code  string `json:"code"`  // two letters, unique in the map
	Role  Role   `json:"role"`  // what the lane is for
	Color Family `json:"color"` // a colour family, or a colour of one's own as #rrggbb
	Shown bool   `json:"shown"`
}

// Map is a drum map: lanes in the order they are shown, top first.
type Map struct {
	Name  string `json:"name"`
	Lanes []Lane `json:"lanes"`
}

// ErrMap is wrapped by every fault Check finds.
var ErrMap = errors.New("the drum map cannot be used")

// MaxLanes is one lane for each MIDI note.
const MaxLanes = 128

// Check reports a fault that would make the map unusable: notes out of range or used twice,
// unknown roles, empty names, codes that are not unique.
func (m Map) Check() error {
	if m.Lanes == nil {
		return fmt.Errorf("%w: it does not say which lanes it has", ErrMap)
	}
	if len(m.Lanes) > MaxLanes {
		return fmt.Errorf("%w: %d lanes, at most %d fit", ErrMap, len(m.Lanes), MaxLanes)
	}
	notes, codes := map[int]string{}, map[string]string{}
	for i, l := range m.Lanes {
		switch {
		case l.Note < 0 || l.Note > 127:
			return fmt.Errorf("%w: lane %d (%s) has note %d; notes go from 0 to 127", ErrMap, i+1, l.Name, l.Note)
		case strings.TrimSpace(l.Name) == "":
			return fmt.Errorf("%w: lane %d has no name", ErrMap, i+1)
		case len(l.Name) > 100:
			return fmt.Errorf("%w: the name of note %d is longer than 100 characters", ErrMap, l.Note)
		case len([]rune(l.Code)) < 1 || len([]rune(l.Code)) > 2:
			return fmt.Errorf("%w: lane %q has the code %q; a code has two letters", ErrMap, l.Name, l.Code)
		case !l.Color.valid():
			return fmt.Errorf("%w: lane %q has the unknown colour %q", ErrMap, l.Name, l.Color)
		case !l.Role.Valid():
			return fmt.Errorf("%w: lane %q has the unknown role %q", ErrMap, l.Name, l.Role)
		case notes[l.Note] != "":
			return fmt.Errorf("%w: %q and %q both have note %d", ErrMap, notes[l.Note], l.Name, l.Note)
		case codes[l.Code] != "":
			return fmt.Errorf("%w: %q and %q both have the code %s", ErrMap, codes[l.Code], l.Name, l.Code)
		}
		notes[l.Note], codes[l.Code] = l.Name, l.Name
	}
	return nil
}

// ByNote finds the lane of a note.
func (m Map) ByNote(note int) (Lane, bool) {
	for _, l := range m.Lanes {
		if l.Note == note {
			return l, true
		}
	}
	return Lane{}, false
}

// ByRole finds the first lane that has one of the roles, in the order they are asked for.
func (m Map) ByRole(want ...Role) (Lane, bool) {
	for _, r := range want {
		for _, l := range m.Lanes {
			if l.Role == r {
				return l, true
			}
		}
	}
	return Lane{}, false
}

// HasCode reports whether a lane has the two-letter code.
func (m Map) HasCode(code string) bool {
	for _, l := range m.Lanes {
		if l.Code == code {
			return true
		}
	}
	return false
}

// NewLane makes a shown lane with the role's own code and family.
func NewLane(role Role, note int, name string) Lane {
	return Lane{Note: note, Name: name, Code: role.Code(), Role: role, Color: role.Family(), Shown: true}
}

// Named is a lane for a note of which a name is known, and a role when role is not "": else the note's General MIDI
// role. Its code is the role's own when no lane of m has it.
func (m Map) Named(note int, name string, role Role) Lane {
	if !role.Valid() {
		role = GMRole(note)
	}
	l := NewLane(role, note, name)
	if role == Other || role == Percussion || m.HasCode(l.Code) {
		l.Code = m.ProposeCode(name)
	}
	return l
}

// FullSet is the map an empty kit begins with: twelve roles in score order at their General MIDI notes.
func FullSet() Map {
	m := Map{Name: "Full set"}
	for _, r := range []Role{Crash, Ride, OpenHat, PedalHat, ClosedHat, Shaker, Rim, Clap, HighTom, LowTom, Snare, Kick} {
		m.Lanes = append(m.Lanes, NewLane(r, r.Note(), string(r)))
	}
	return m
}

// With is the map with a lane more, in score order: over the first lane whose role comes later, where the others keep that order.
func (m Map) With(l Lane) Map {
	at := len(m.Lanes)
	for i, other := range m.Lanes {
		if slices.Index(roleOrder, other.Role) > slices.Index(roleOrder, l.Role) {
			at = i
			break
		}
	}
	m.Lanes = slices.Insert(slices.Clone(m.Lanes), at, l)
	return m
}

// FreeNote finds a note for a lane of a role that no lane has: the role's own, another that General MIDI gives the role, the
// next above its own that is no other role's own, any; ok is false when all are taken.
func (m Map) FreeNote(role Role) (note int, ok bool) {
	free := func(n int) bool {
		_, taken := m.ByNote(n)
		return !taken
	}
	own := map[int]bool{}
	for _, r := range roleOrder {
		own[r.Note()] = true
	}
	var tries []int
	if role != Other && role != Percussion {
		for n := FirstGMNote; n <= LastGMNote; n++ {
			if GMRole(n) == role {
				tries = append(tries, n)
			}
		}
	}
	tries = append([]int{role.Note()}, tries...)
	for d := 1; d < 128; d++ {
		if n := (role.Note() + d) % 128; !own[n] {
			tries = append(tries, n)
		}
	}
	for n := range 128 {
		tries = append(tries, n)
	}
	for _, n := range tries {
		if free(n) {
			return n, true
		}
	}
	return 0, false
}

// ProposeCode proposes a two-letter code for a name that no lane of the map has yet and that no role has: initials of
// two words, else the first two letters, else the first letter with a digit.
func (m Map) ProposeCode(name string) string {
	taken := map[string]bool{}
	for _, r := range roleOrder {
		taken[r.Code()] = true // a clap by hand is not HC, the closed hat
	}
	for _, l := range m.Lanes {
		taken[l.Code] = true
	}
	letters := func(s string) []rune {
		var out []rune
		for _, r := range strings.ToUpper(s) {
			if unicode.IsLetter(r) || unicode.IsDigit(r) {
				out = append(out, r)
			}
		}
		return out
	}
	var tries []string
	if words := strings.Fields(name); len(words) > 1 {
		a, b := letters(words[0]), letters(words[1])
		if len(a) > 0 && len(b) > 0 {
			tries = append(tries, string(a[0])+string(b[0]))
		}
	}
	all := letters(name)
	for i := 1; i < len(all); i++ {
		tries = append(tries, string(all[0])+string(all[i]))
	}
	first := "X"
	if len(all) > 0 {
		first = string(all[0])
	}
	for _, c := range first + "ABCDEFGHIJKLMNOPQRSTUVWXYZ" {
		for d := '0'; d <= '9'; d++ {
			tries = append(tries, string(c)+string(d))
		}
	}
	for _, c := range tries {
		if !taken[c] {
			return c
		}
	}
	return "??"
}
