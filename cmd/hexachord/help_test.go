package main

import (
	"strings"
	"testing"

	"github.com/spf13/cobra"
)

// Every command that a person may give says how it is given: a word on what it does and an example that begins with it and names
// only flags it has.
func TestEveryCommandHasAnExample(t *testing.T) {
	var walk func(c *cobra.Command)
	walk = func(c *cobra.Command) {
		for _, sub := range c.Commands() {
			walk(sub)
		}
		if c.Hidden || !c.HasParent() || c.Name() == "help" || c.Name() == "completion" || c.Parent().Name() == "completion" {
			return
		}
		if c.Short == "" || c.Example == "" {
			t.Errorf("%s: %q, example %q", c.CommandPath(), c.Short, c.Example)
		}
		for line := range strings.Lines(c.Example) {
			words := strings.Fields(line)
			given, rest, err := rootCommand().Find(words[1:])
			if words[0] != "hexachord" || err != nil || !strings.HasPrefix(given.CommandPath(), c.CommandPath()) {
				t.Errorf("%s has the example %q: %v", c.CommandPath(), line, err)
				continue
			}
			for _, w := range rest {
				if name, is := strings.CutPrefix(w, "--"); is && given.Flag(name) == nil {
					t.Errorf("%q names --%s, which is no flag of it", line, name)
				}
			}
		}
	}
	walk(rootCommand())
}
