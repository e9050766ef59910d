package main

import (
	"testing"

	"hexachord/core/shelf"
	"hexachord/demo"
	"hexachord/service"
	"hexachord/store"
)

// The demo's samples that the person threw away for good do not come again with the next start.
func TestTheDemoFillsTheShelfOnce(t *testing.T) {
	dir := t.TempDir()
	b, err := service.Open(dir, service.Config{})
	if err != nil {
		t.Fatal(err)
	}
	defer b.Close()
	fill := func() []string {
		t.Helper()
		if err := fillDemoShelf(t.Context(), b, dir); err != nil {
			t.Fatal(err)
		}
		loose, err := b.FindSamples(shelf.Query{Folder: demo.LooseFolder})
		if err != nil {
			t.Fatal(err)
		}
		var hashes []string
		for _, it := range loose.Items {
			hashes = append(hashes, it.Hash)
		}
		return hashes
	}
	hashes := fill()
	if len(hashes) == 0 {
		t.Fatal("the demo brings no samples")
	}
	if err := b.Trash(store.TrashSample, hashes...); err != nil {
		t.Fatal(err)
	}
	if again := fill(); len(again) != 0 {
		t.Errorf("%d of %d are back", len(again), len(hashes))
	}
}
