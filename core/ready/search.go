package ready

import (
	"slices"
	"strings"

	"hexachord/core/drummap"
)

// Query says which ready patterns are looked for. Zero values leave a side open.
type Query struct {
	Text   string // every word must occur in name, family, words or roles
	Family string
	BPM    float64               // only those that lie well at this tempo
	Roles  map[drummap.Role]bool // only those that need no other roles, when not nil
}

// Search lists the ready patterns that fit, in the order they were written.
func Search(q Query) []Pattern {
	words := strings.Fields(strings.ToLower(q.Text))
	out := []Pattern{}
	for _, p := range All() {
		about := strings.ToLower(p.Name + " " + p.Family + " " + p.Words)
		lacks := false
		for _, r := range p.Roles {
			about += " " + string(r)
			lacks = lacks || q.Roles != nil && !q.Roles[r]
		}
		if lacks || q.Family != "" && p.Family != q.Family || q.BPM > 0 && (q.BPM < p.LoBPM || q.BPM > p.HiBPM) ||
			slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(about, w) }) {
			continue
		}
		out = append(out, p)
	}
	return out
}

// Families are the families of the ready patterns, in the order they were written.
func Families() (out []string) {
	for _, p := range All() {
		if !slices.Contains(out, p.Family) {
			out = append(out, p.Family)
		}
	}
	return out
}
