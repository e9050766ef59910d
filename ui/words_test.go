package ui

import (
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// The window says one word for one thing: none of the words that docs/words.md has put others in the place of stands in what it shows.
func TestOneWordForOneThing(t *testing.T) {
	gone := []string{"Take away", "take away", "Bring in", "Bring them", "Turn over", "turned over", "no shadow", "Said by", "Chance another way", "> it follows",
		"% evener", "Add samples", "leaving ghosts", "%, leaving", "Duplicate", "Clone"}
	seen := 0
	err := filepath.WalkDir("src", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || filepath.Ext(path) != ".tsx" {
			return err
		}
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		seen++
		for i, line := range strings.Split(string(text), "\n") {
			if strings.HasPrefix(strings.TrimSpace(line), "//") {
				continue
			}
			for _, word := range gone {
				if strings.Contains(line, word) {
					t.Errorf("%s:%d says %q", path, i+1, word)
				}
			}
		}
		return nil
	})
	if err != nil || seen < 50 {
		t.Fatalf("%d files of the window were read: %v", seen, err)
	}
}
