// Package shelf finds samples: by words, kind, tag, source and length, and by how they sound.
package shelf

import (
	"cmp"
	"slices"
	"strings"

	"hexachord/core/kind"
	"hexachord/core/sound"
)

// Item is a sample on the shelf.
type Item struct {
	Hash       string       `json:"hash"`   // SHA-256 of the file
	Name       string       `json:"name"`   // the file's name
	Folder     string       `json:"folder"` // where it came from, parts parted by /
	Kind       kind.Kind    `json:"kind"`
	Confidence float64      `json:"confidence"` // 0..1; 1 when a person said so
	Guesses    []kind.Guess `json:"guesses"`    // by name and sound, likeliest first
	Corrected  bool         `json:"corrected"`  // a person said what it is
	Tags       []string     `json:"tags"`
	Format     string       `json:"format"`
	Bits       int          `json:"bits"`
	Float      bool         `json:"float"`
	Rate       int          `json:"rate"`
	Channels   int          `json:"channels"`
	Frames     int          `json:"frames"`
	Facts      kind.Facts   `json:"facts"`
	Cues       []int        `json:"cues"` // frames of the cue points in the file
	Loops      []sound.Loop `json:"loops"`
}

// Sort says in which order samples are found.
type Sort string

// The orders.
const (
	ByName       Sort = "name"
	ByBrightness Sort = "brightness" // dullest first
	ByLength     Sort = "length"
	ByLoudness   Sort = "loudness" // loudest first
	ByLikeness   Sort = "likeness" // to Query.Like
)

// Query says what is looked for. Zero values leave a side open.
type Query struct {
	Text       string // every word must occur in name, folder, kind or tags
	Kind       kind.Kind
	Tag        string
	Folder     string // this folder and those in it
	MaxSeconds float64
	Used       map[string]bool // only these, when not nil
	Sort       Sort
	Like       string // hash of the sample to compare with
	Offset     int
	Limit      int
}

// Found is a sample that was looked for.
type Found struct {
	Item
	Likeness float64 `json:"likeness"` // to the sample compared with, 0..1
}

// Facet is a value with how many of the samples found have it.
type Facet struct {
	Value string `json:"value"`
	Count int    `json:"count"`
}

// Result is what was found.
type Result struct {
	Items   []Found `json:"items"` // from Offset, at most Limit
	Total   int     `json:"total"`
	All     int     `json:"all"` // samples on the shelf
	Kinds   []Facet `json:"kinds"`
	Tags    []Facet `json:"tags"`
	Folders []Facet `json:"folders"` // the outermost
}

// Shelf holds samples to be found. It is not safe for writing beside other calls.
type Shelf struct {
	items []Item
	words []string // beside items: what Text is looked for in
	at    map[string]int
	gone  map[string]bool // in the trash
}

// New is an empty shelf.
func New() *Shelf { return &Shelf{at: map[string]int{}, gone: map[string]bool{}} }

// Put adds an item or replaces the one of its hash.
func (s *Shelf) Put(it Item) {
	words := strings.ToLower(strings.Join(append([]string{it.Name, it.Folder, string(it.Kind)}, it.Tags...), "\n"))
	if i, ok := s.at[it.Hash]; ok {
		s.items[i], s.words[i] = it, words
		return
	}
	s.at[it.Hash] = len(s.items)
	s.items, s.words = append(s.items, it), append(s.words, words)
}

// Trash says that a sample is in the trash, or is not: Get knows it still, Find passes it over.
func (s *Shelf) Trash(hash string, in bool) {
	if _, ok := s.at[hash]; ok && in {
		s.gone[hash] = true
	} else {
		delete(s.gone, hash)
	}
}

// Trashed reports whether a sample is in the trash.
func (s *Shelf) Trashed(hash string) bool { return s.gone[hash] }

// Remove forgets a sample.
func (s *Shelf) Remove(hash string) {
	i, ok := s.at[hash]
	if !ok {
		return
	}
	last := len(s.items) - 1
	s.items[i], s.words[i] = s.items[last], s.words[last]
	s.at[s.items[i].Hash] = i
	s.items, s.words = s.items[:last], s.words[:last]
	delete(s.at, hash)
	delete(s.gone, hash)
}

// Get finds a sample by its hash.
func (s *Shelf) Get(hash string) (Item, bool) {
	i, ok := s.at[hash]
	if !ok {
		return Item{}, false
	}
	return s.items[i], true
}

// Find looks for samples.
func (s *Shelf) Find(q Query) Result {
	r := Result{Items: []Found{}, All: len(s.items) - len(s.gone)}
	wanted := strings.Fields(strings.ToLower(q.Text))
	like, compare := s.Get(q.Like)
	kinds, tags, folders := map[string]int{}, map[string]int{}, map[string]int{}
	var hits []int
	for i := range s.items {
		it := &s.items[i]
		if s.gone[it.Hash] || !containsAll(s.words[i], wanted) || q.MaxSeconds > 0 && it.Facts.Seconds > q.MaxSeconds || q.Used != nil && !q.Used[it.Hash] ||
			q.Tag != "" && !slices.Contains(it.Tags, q.Tag) || q.Folder != "" && it.Folder != q.Folder && !strings.HasPrefix(it.Folder, q.Folder+"/") {
			continue
		}
		kinds[string(it.Kind)]++ // other kinds stay countable when one is chosen
		if q.Kind != "" && it.Kind != q.Kind {
			continue
		}
		for _, t := range it.Tags {
			tags[t]++
		}
		top, _, _ := strings.Cut(it.Folder, "/")
		folders[top]++
		hits = append(hits, i)
	}
	alike := map[int]float64{}
	if compare {
		for _, i := range hits {
			alike[i] = kind.Alike(like.Facts.Likeness, s.items[i].Facts.Likeness)
		}
	}
	s.order(hits, q.Sort, alike)
	r.Total = len(hits)
	from := min(max(0, q.Offset), len(hits))
	to := len(hits)
	if q.Limit > 0 {
		to = min(to, from+q.Limit)
	}
	for _, i := range hits[from:to] {
		r.Items = append(r.Items, Found{s.items[i], alike[i]})
	}
	r.Kinds, r.Tags, r.Folders = facets(kinds), facets(tags), facets(folders)
	return r
}

func (s *Shelf) order(hits []int, by Sort, alike map[int]float64) {
	items := s.items
	name := func(a, b int) int {
		return cmp.Or(strings.Compare(items[a].Name, items[b].Name), strings.Compare(items[a].Folder, items[b].Folder))
	}
	first := map[Sort]func(a, b int) int{
		ByBrightness: func(a, b int) int { return cmp.Compare(items[a].Facts.BrightnessHz, items[b].Facts.BrightnessHz) },
		ByLength:     func(a, b int) int { return cmp.Compare(items[a].Facts.Seconds, items[b].Facts.Seconds) },
		ByLoudness:   func(a, b int) int { return cmp.Compare(items[b].Facts.Loudness, items[a].Facts.Loudness) },
		ByLikeness:   func(a, b int) int { return cmp.Compare(alike[b], alike[a]) },
	}[by]
	slices.SortFunc(hits, func(a, b int) int {
		if first != nil {
			if c := first(a, b); c != 0 {
				return c
			}
		}
		return name(a, b)
	})
}

func containsAll(text string, words []string) bool {
	for _, w := range words {
		if !strings.Contains(text, w) {
			return false
		}
	}
	return true
}

// facets are counts, most first.
func facets(count map[string]int) []Facet {
	out := []Facet{}
	for v, n := range count {
		out = append(out, Facet{v, n})
	}
	slices.SortFunc(out, func(a, b Facet) int { return cmp.Or(b.Count-a.Count, strings.Compare(a.Value, b.Value)) })
	return out
}
