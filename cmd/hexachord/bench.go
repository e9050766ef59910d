package main

import (
	"bytes"
	"errors"
	"fmt"
	"os"
	"time"

	"github.com/spf13/cobra"

	"hexachord/internal/measure"
)

func benchCommand() *cobra.Command {
	var only, write string
	cmd := &cobra.Command{
		Use: "bench",
		Example: `  hexachord bench
  hexachord bench --only hear
  hexachord bench --write docs/benchmarks.md`,
		Short: "Measure how quick the program is on this machine",
		Long: `Measures starting, opening, editing, playing and hearing on this machine, in a folder of its own that is removed
afterwards: your data is not touched. It takes a few minutes; let nothing else run beside it.
--write puts the table between the marks <!-- measured --> and <!-- /measured --> of a document.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) (err error) {
			if write != "" && only != "" {
				return errors.New("--write writes the whole table; leave --only out")
			}
			var document []byte
			if write != "" {
				if document, err = os.ReadFile(write); err != nil {
					return err
				}
				if _, err := measure.Put(string(document), ""); err != nil { // before the minutes, not after
					return fmt.Errorf("%s: %w", write, err)
				}
			}
			program, err := os.Executable()
			if err != nil {
				return err
			}
			dir, err := os.MkdirTemp("", "hexachord-bench-")
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
			head := fmt.Sprintf("%s, Hexachord %s: %s.", time.Now().Format("2 January 2006"), version, measure.Machine())
			out := cmd.OutOrStdout()
			fmt.Fprintln(out, head)
			var results []measure.Result
			groups := []measure.Group{measure.Bench(), measure.Sound()}
			if err := measure.All(cmd.Context(), &measure.Place{Dir: dir, Program: program}, groups, only, func(r measure.Result) {
				results = append(results, r)
				fmt.Fprintf(out, "%s: %s", r.Of, r.Got)
				if r.Goal != "" {
					fmt.Fprintf(out, "  (goal: %s)", r.Goal)
				}
				fmt.Fprintln(out)
			}); err != nil {
				return err
			}
			if len(results) == 0 {
				return fmt.Errorf("nothing that is measured has %q in its name", only)
			}
			if write == "" {
				return nil
			}
			var table bytes.Buffer
			measure.Table(&table, head, results)
			text, err := measure.Put(string(document), table.String())
			if err != nil {
				return err
			}
			return os.WriteFile(write, []byte(text), 0o644)
		},
	}
	cmd.Flags().StringVar(&only, "only", "", "only what has these words in its name")
	cmd.Flags().StringVar(&write, "write", "", "document to put the table in")
	return cmd
}
