package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"hexachord/core/kind"
	"hexachord/format/audio"
	"hexachord/service"
)

func kindCommand() *cobra.Command {
	var soundOnly bool
	cmd := &cobra.Command{
		Use: "kind FILE...",
		Example: `  hexachord kind loose/*.wav
  hexachord kind --sound 01.wav 02.wav`,
		Short: "Tell what samples are: kick, snare, closed hat, loop …",
		Long: `Tells what each sample is from its name and its sound: file, kind and confidence (0 to 1), parted by tabs.
A file that is no usable audio is reported, and the others are still told.`,
		Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			var faults []error
			for _, path := range args {
				data, err := os.ReadFile(path)
				if err != nil {
					faults = append(faults, err)
					continue
				}
				d, err := audio.Decode(data, service.Limits)
				if err != nil {
					faults = append(faults, fmt.Errorf("%s: %w", path, err))
					continue
				}
				_, guesses := kind.BySound(d.Buffer)
				if !soundOnly {
					guesses = kind.Judge(filepath.Base(path), filepath.Base(filepath.Dir(path)), guesses)
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%s\t%s\t%.2f\n", path, guesses[0].Kind, guesses[0].Confidence)
			}
			return errors.Join(faults...)
		},
	}
	cmd.Flags().BoolVar(&soundOnly, "sound", false, "go by the sound alone, not by the name")
	return cmd
}
