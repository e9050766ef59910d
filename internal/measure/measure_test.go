package measure

import (
	"bytes"
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"hexachord/core/shelf"
	"hexachord/service"
)

// A bench of years holds what it was given, opened again: every pattern, kit, break, sample and bar of the song, which plays whole.
func TestABenchOfYearsOpensWhole(t *testing.T) {
	dir := t.TempDir()
	b, err := service.Open(dir, service.Config{})
	if err != nil {
		t.Fatal(err)
	}
	id, err := Fill(t.Context(), b, 60, 12, 6, 2000)
	if err := errors.Join(err, b.Close()); err != nil {
		t.Fatal(err)
	}
	if b, err = service.Open(dir, service.Config{}); err != nil {
		t.Fatal(err)
	}
	defer b.Close()
	p, err := b.Load(id)
	if err != nil {
		t.Fatal(err)
	}
	kits, _ := b.Kits()
	if len(p.Patterns) != 60 || len(p.Blocks) != SongBars*SongParts || len(p.Recordings) != 6 || len(p.PartIDs()) != SongParts || len(kits) != 12 {
		t.Errorf("%d patterns, %d blocks, %d recordings, %d parts, %d kits", len(p.Patterns), len(p.Blocks), len(p.Recordings), len(p.PartIDs()), len(kits))
	}
	if r, err := b.FindSamples(shelf.Query{Folder: "pack 7", Limit: 10}); err != nil || r.All != 2000 || r.Total < 45 || r.Total > 50 || len(r.Items) != 10 || len(r.Items[0].Facts.Likeness) == 0 {
		t.Errorf("%d samples, %d of a folder", r.All, r.Total)
	}
	pass, err := b.SongPass(p, 48000)
	if want := SongBars * 4 * 60 / p.Settings.BPM; err != nil || pass.LengthS < want-1e-6 || pass.LengthS > want+1e-6 {
		t.Errorf("the song lasts %.3f s, %.3f wanted: %v", pass.LengthS, want, err)
	}
	if last := pass.Cues[len(pass.Cues)-1].AtS; last < pass.LengthS-3 || len(pass.Cues) < 30*SongBars*SongParts {
		t.Errorf("%d cues, the last at %.1f s", len(pass.Cues), last)
	}
}

// What is measured is told as it comes, a fault beside the rest, and the table takes the place of the one before it and of nothing else.
func TestTheTableTakesItsPlace(t *testing.T) {
	groups := []Group{
		{"Hearing", []Measure{{Of: "a break", Goal: "1 s", Run: func(context.Context, *Place) (string, error) { return "2 s", nil }}}},
		{"Other", []Measure{
			{Of: "hearing too", Run: func(context.Context, *Place) (string, error) { return "", errors.New("no\near") }},
			{Of: "left out", Run: func(context.Context, *Place) (string, error) { t.Error("measured"); return "", nil }},
		}},
	}
	var results []Result
	if err := All(t.Context(), &Place{}, groups, "HEARING", func(r Result) { results = append(results, r) }); err != nil || len(results) != 2 {
		t.Fatalf("%d results: %v", len(results), err)
	}
	var table bytes.Buffer
	Table(&table, "Today.", results)
	document, err := Put("before\n<!-- measured -->\nold | 1\n<!-- /measured -->\nafter\n", table.String())
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"before\n<!-- measured -->\nToday.\n", "**Hearing**", "| a break | 1 s | 2 s |", "| hearing too |  | failed: no ear |", "<!-- /measured -->\nafter\n"} {
		if !strings.Contains(document, want) {
			t.Errorf("%q is not in\n%s", want, document)
		}
	}
	if strings.Contains(document, "old") {
		t.Error("the old table is still there")
	}
	if again, err := Put(document, table.String()); err != nil || again != document {
		t.Errorf("put once more it changes: %v", err)
	}
	if _, err := Put("no marks", table.String()); err == nil {
		t.Error("a document without marks")
	}
	if first, second := short(1234*time.Millisecond), short(1500*time.Microsecond); first != "1.23 s" || second != "1.5 ms" {
		t.Errorf("%s %s", first, second)
	}
}
