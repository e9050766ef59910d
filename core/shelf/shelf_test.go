package shelf

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"hexachord/core/kind"
)

func filled(n int) *Shelf {
	rng := rand.New(rand.NewPCG(1, 2))
	kinds := kind.Heard()
	s := New()
	for i := range n {
		it := Item{Hash: fmt.Sprintf("%064d", i), Name: fmt.Sprintf("%s-%05d.wav", []string{"rope", "plank", "keg"}[i%3], i),
			Folder: fmt.Sprintf("pack %d/dry", i%40), Kind: kinds[i%len(kinds)], Tags: []string{[]string{"wood", "wet"}[i%2]}}
		it.Facts.Seconds, it.Facts.BrightnessHz, it.Facts.Loudness = rng.Float64()*3, rng.Float64()*9000, -rng.Float64()*40
		for range 52 {
			it.Facts.Likeness = append(it.Facts.Likeness, rng.Float32())
		}
		s.Put(it)
	}
	return s
}

func TestFind(t *testing.T) {
	s := filled(600)
	all := s.Find(Query{})
	if all.Total != 600 || len(all.Kinds) != len(kind.Heard()) || all.Tags[0].Count != 300 || len(all.Folders) != 40 {
		t.Errorf("all: %d, %d kinds, tags %v, %d folders", all.Total, len(all.Kinds), all.Tags, len(all.Folders))
	}
	if r := s.Find(Query{Text: "ROPE 0000"}); r.Total != 4 { // 00000, 00003, 00006, 00009
		t.Errorf("words: %d", r.Total)
	}
	if r := s.Find(Query{Kind: "kick", Tag: "wet", Folder: "pack 3", MaxSeconds: 2.99}); r.Total == 0 {
		t.Error("facets together find nothing")
	} else {
		for _, f := range r.Items {
			if f.Kind != "kick" || f.Tags[0] != "wet" || f.Folder != "pack 3/dry" || f.Facts.Seconds > 2.99 {
				t.Errorf("found %+v", f.Item)
			}
		}
	}
	for sort, before := range map[Sort]func(a, b Found) bool{
		ByLength:     func(a, b Found) bool { return a.Facts.Seconds <= b.Facts.Seconds },
		ByLoudness:   func(a, b Found) bool { return a.Facts.Loudness >= b.Facts.Loudness },
		ByBrightness: func(a, b Found) bool { return a.Facts.BrightnessHz <= b.Facts.BrightnessHz },
		ByName:       func(a, b Found) bool { return a.Name <= b.Name },
	} {
		r := s.Find(Query{Sort: sort, Offset: 100, Limit: 50})
		for i := 1; i < len(r.Items); i++ {
			if !before(r.Items[i-1], r.Items[i]) {
				t.Errorf("by %s: out of order at %d", sort, i)
			}
		}
	}
	like := fmt.Sprintf("%064d", 77)
	r := s.Find(Query{Like: like, Sort: ByLikeness, Limit: 10})
	if r.Items[0].Hash != like || r.Items[0].Likeness != 1 || r.Items[9].Likeness > r.Items[1].Likeness {
		t.Errorf("most alike first: %v", r.Items[0].Likeness)
	}
	if r := s.Find(Query{Used: map[string]bool{like: true}}); r.Total != 1 {
		t.Errorf("used: %d", r.Total)
	}
}

func BenchmarkFind20000(b *testing.B) {
	s := filled(20_000)
	for name, q := range map[string]Query{"words": {Text: "rope 1", Sort: ByName, Limit: 100}, "likeness": {Like: fmt.Sprintf("%064d", 7), Sort: ByLikeness, Limit: 100}} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				s.Find(q)
			}
		})
	}
}

// What is in the trash is not found and not counted, but known; what is removed leaves the others in their places.
func TestTrashedAndRemoved(t *testing.T) {
	s := filled(30)
	hash := func(i int) string { return fmt.Sprintf("%064d", i) }
	s.Trash(hash(3), true)
	s.Trash(hash(4), true)
	s.Trash("nobody's", true)
	r := s.Find(Query{})
	if r.Total != 28 || r.All != 28 || s.Find(Query{Used: map[string]bool{hash(3): true}}).Total != 0 {
		t.Errorf("%d found of %d", r.Total, r.All)
	}
	if _, ok := s.Get(hash(3)); !ok || !s.Trashed(hash(3)) || s.Trashed(hash(5)) {
		t.Error("what is in the trash is not known any more")
	}
	s.Trash(hash(3), false)
	s.Remove(hash(4))
	s.Remove(hash(4))
	s.Remove(hash(29)) // the last
	for i := range 30 {
		it, ok := s.Get(hash(i))
		if gone := i == 4 || i == 29; ok == gone || ok && it.Hash != hash(i) {
			t.Errorf("%d: %v %q", i, ok, it.Hash)
		}
	}
	if r := s.Find(Query{}); r.Total != 28 || r.All != 28 {
		t.Errorf("%d found of %d", r.Total, r.All)
	}
}
