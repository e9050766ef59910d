package main

import (
	"bytes"
	"os"
	"strings"
	"testing"
)

// The list is of what is shipped now, and every licence in it lets the program be handed on as it is.
func TestTheListIsTrue(t *testing.T) {
	var b bytes.Buffer
	if err := write(&b, "../.."); err != nil {
		t.Fatal(err)
	}
	kept, err := os.ReadFile("../../docs/licences.md")
	if err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(kept, b.Bytes()) {
		t.Error("docs/licences.md is not what is shipped; write it with `go run ./cmd/licences > docs/licences.md`")
	}
	free := map[string]bool{"MIT": true, "BSD-2-Clause": true, "BSD-3-Clause": true, "Apache-2.0": true, "ISC": true, "MPL-2.0": true, "Unlicense": true, "CC0-1.0": true,
		"OFL-1.1": true, "0BSD": true}
	rows := 0
	for line := range strings.SplitSeq(b.String(), "\n") {
		cols := strings.Split(line, " | ")
		if len(cols) != 3 || strings.HasPrefix(line, "| name") || strings.HasPrefix(line, "| ---") {
			continue
		}
		rows++
		if l := strings.TrimSuffix(cols[2], " |"); !free[l] {
			t.Errorf("%s: %s", cols[0], l)
		}
	}
	if rows < 40 {
		t.Errorf("%d pieces", rows)
	}
}
