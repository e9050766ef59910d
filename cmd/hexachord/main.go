// Command hexachord is a beat programmer's bench: it serves the bench to the browser, and converts and
// renders without one.
package main

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"runtime/debug"
	"syscall"

	"github.com/spf13/cobra"
)

// version is set by the build.
var version = "development"

// described is set by the build when the front end that it puts in holds the API's description, made from the same sources.
var described string

func rootCommand() *cobra.Command {
	root := &cobra.Command{
		Use:   "hexachord",
		Short: "A beat programmer's bench",
		Long: `Hexachord maps a kit's pieces to named, colour-coded drum maps, programs step and
piano-roll patterns against the kit, and turns recorded breaks into hits that sound the kit.

  hexachord demo                           try it: a bench with the kit Boathouse, beats and a break to hear
  hexachord serve                          your own bench, kept in your data folder
  hexachord convert break.wav --out b.mid  hear the hits of a recording
  hexachord render --midi b.mid --kit Boathouse --out b.wav`,
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.AddCommand(demoCommand(), serveCommand(), passphraseCommand(), backupCommand(), restoreCommand(), benchCommand(), convertCommand(), renderCommand(), kindCommand(), kitCommand(), bundleCommand(), mapCommand(), versionCommand(), openapiCommand(), constantsCommand())
	return root
}

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := rootCommand().ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "hexachord:", err)
		os.Exit(1)
	}
}

func versionCommand() *cobra.Command {
	return &cobra.Command{
		Use:     "version",
		Example: `  hexachord version`,
		Short:   "Print the version",
		Args:    cobra.NoArgs,
		Run: func(cmd *cobra.Command, _ []string) {
			goVersion := ""
			if info, ok := debug.ReadBuildInfo(); ok {
				goVersion = " (" + info.GoVersion + ")"
			}
			fmt.Fprintln(cmd.OutOrStdout(), "hexachord", version+goVersion)
		},
	}
}
