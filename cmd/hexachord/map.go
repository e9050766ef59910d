package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"hexachord/core/drummap"
	"hexachord/service"
)

func mapCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "map", Short: "Convert drum maps", Example: "  hexachord map convert gm --out gm.csv"}
	var out string
	var middleC int
	convert := &cobra.Command{
		Use: "convert IN --out OUT.midnam|OUT.csv",
		Example: `  hexachord map convert gm --out gm.csv
  hexachord map convert boathouse.csv --out boathouse.midnam
  hexachord map convert beat.mid --out lanes.csv`,
		Short: "Convert a map between MIDNAM and CSV; IN may be gm, or a MIDI file whose notes become lanes",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			m := drummap.GeneralMIDI()
			if args[0] != service.GMMapID {
				data, err := os.ReadFile(args[0])
				if err != nil {
					return err
				}
				if m, err = service.ReadMap(args[0], data, middleC); err != nil {
					return err
				}
			}
			_, data, lost, err := service.WriteMap(m, strings.TrimPrefix(strings.ToLower(filepath.Ext(out)), "."))
			if err != nil {
				return err
			}
			if err := os.WriteFile(out, data, 0o644); err != nil {
				return err
			}
			for _, l := range lost {
				fmt.Fprintln(cmd.ErrOrStderr(), "not carried:", l)
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s: %d lanes\n", out, len(m.Lanes))
			return nil
		},
	}
	convert.Flags().StringVar(&out, "out", "", "file to write, .midnam or .csv")
	convert.Flags().IntVar(&middleC, "middle-c", 4, "octave of middle C (note 60) in the names of a table: 3, 4 or 5")
	if err := convert.MarkFlagRequired("out"); err != nil {
		panic(err)
	}
	cmd.AddCommand(convert)
	return cmd
}
