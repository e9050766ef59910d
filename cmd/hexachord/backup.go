package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/adrg/xdg"
	"github.com/spf13/cobra"

	"hexachord/store"
)

func backupCommand() *cobra.Command {
	var data string
	cmd := &cobra.Command{
		Use: "backup FILE.zip",
		Example: `  hexachord backup saturday.zip
  hexachord backup saturday.zip --data ./bench`,
		Short: "Write everything a data folder holds to one file, while the bench runs",
		Long: `Writes the database, as it is at one moment, and every audio file to a zip. The bench may run and be
edited meanwhile. "hexachord restore" makes a data folder of it again.`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) (err error) {
			part := args[0] + ".part"
			f, err := os.OpenFile(part, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
			if err != nil {
				return err
			}
			b, err := store.Backup(data, f)
			if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
				return errors.Join(err, os.Remove(part))
			}
			if err := os.Rename(part, args[0]); err != nil {
				return err
			}
			sayBacked(cmd.OutOrStdout(), args[0], b)
			for _, name := range b.Missing {
				fmt.Fprintf(cmd.ErrOrStderr(), "the audio of %s is missing from the data folder and from the backup\n", name)
			}
			return nil
		},
	}
	dataFlag(cmd, &data)
	return cmd
}

func sayBacked(out io.Writer, of string, b store.Backed) {
	fmt.Fprintf(out, "%s: the database and %d audio files, %.1f MB\n", of, b.Audio, float64(b.Bytes)/1e6)
}

func dataFlag(cmd *cobra.Command, data *string) {
	cmd.Flags().StringVar(data, "data", filepath.Join(xdg.DataHome, "hexachord", "bench"), "folder that keeps projects and audio")
}

func restoreCommand() *cobra.Command {
	var data string
	var newest bool
	cmd := &cobra.Command{
		Use: "restore [FILE.zip]",
		Example: `  hexachord restore saturday.zip --data ./bench-of-saturday
  hexachord restore --newest --data ./bench`,
		Short: "Make a data folder of a backup, or bring back the newest copy of a damaged database",
		Long: `With a file: makes a new data folder of a backup, once all of it is checked.
With --newest: puts the newest copy of the database that can be read (one a day and one before each
update are kept in the folder "copies") in the place of the one that is there, which is put aside.`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if newest == (len(args) == 1) {
				return errors.New("name a backup, or say --newest")
			}
			if newest {
				from, aside, err := store.BringBack(data, time.Now())
				if err != nil {
					return err
				}
				fmt.Fprintf(cmd.OutOrStdout(), "The database of %s is in its place again; what was there is put aside as %s.\n", from.Day, aside)
				return nil
			}
			b, err := store.RestoreBackup(args[0], data)
			if err != nil {
				return err
			}
			sayBacked(cmd.OutOrStdout(), data, b)
			return nil
		},
	}
	dataFlag(cmd, &data)
	cmd.Flags().BoolVar(&newest, "newest", false, "bring back the newest copy that can be read")
	return cmd
}
