package song

import "hexachord/core/drummap"

// Stretch is a section of a ready shape: which of the patterns given plays (0 the first), for how many bars, and how it ends.
type Stretch struct {
	Name string `json:"name"`
	Uses int    `json:"uses"`
	Bars int    `json:"bars"`
	Fill bool   `json:"fill"`
	// Only are the roles that play in it; none: all.
	Only []drummap.Role `json:"only,omitempty"`
}

// Shape is a ready structure of a song, to begin from.
type Shape struct {
	Name      string    `json:"name"`
	Words     string    `json:"words"`
	Uses      int       `json:"uses"` // how many patterns it is made of, when there are so many
	Stretches []Stretch `json:"stretches"`
}

var (
	pulse = []drummap.Role{drummap.ClosedHat, drummap.PedalHat, drummap.OpenHat, drummap.Ride, drummap.Shaker, drummap.Tambourine, drummap.Percussion}
	floor = append([]drummap.Role{drummap.Kick}, pulse...)
)

// Shapes are ready structures of our own (common practice, no source).
func Shapes() []Shape {
	return []Shape{
		{"verse and chorus", "two patterns take turns, a fill into each change", 2, []Stretch{{"opening", 0, 4, false, floor}, {"verse", 0, 8, true, nil}, {"chorus", 1, 8, true, nil},
			{"verse again", 0, 8, true, nil}, {"chorus again", 1, 8, false, nil}, {"end", 0, 4, false, floor}}},
		{"long build", "lanes come in one family after another", 1, []Stretch{{"pulse", 0, 8, false, pulse}, {"floor", 0, 8, true, floor}, {"rising", 0, 8, true, nil}, {"full", 0, 8, true, nil}}},
		{"loop with variations", "one pattern, something new every four bars", 3, []Stretch{{"as it is", 0, 4, false, nil}, {"filled", 0, 4, true, nil}, {"another", 1, 4, false, nil},
			{"and back", 0, 4, true, nil}, {"a third", 2, 4, false, nil}, {"last", 0, 4, true, nil}}},
		{"call and answer", "two bars ask, two answer", 2, []Stretch{{"call", 0, 2, false, nil}, {"answer", 1, 2, false, nil}, {"call 2", 0, 2, false, nil}, {"answer 2", 1, 2, true, nil},
			{"call 3", 0, 2, false, nil}, {"answer 3", 1, 2, false, nil}, {"call 4", 0, 2, false, nil}, {"end", 1, 2, true, nil}}},
	}
}
