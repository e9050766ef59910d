package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"github.com/adrg/xdg"
	"github.com/spf13/cobra"

	"hexachord/service"
)

func bundleCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "bundle",
		Example: `  hexachord bundle export "Lock Seven" --out lock-seven.zip
  hexachord bundle check lock-seven.zip
  hexachord bundle import lock-seven.zip --data ./bench`,
		Short: "Export, check and open project bundles: a project with all its sounds in one zip",
	}
	var dir string
	cmd.PersistentFlags().StringVar(&dir, "data", filepath.Join(xdg.DataHome, "hexachord", "bench"), "folder that keeps projects and audio")
	cmd.AddCommand(bundleExportCommand(&dir), bundleImportCommand(&dir), bundleCheckCommand())
	return cmd
}

func bundleExportCommand(dir *string) *cobra.Command {
	var out string
	cmd := &cobra.Command{
		Use:     "export PROJECT --out FILE.zip",
		Example: `  hexachord bundle export "Lock Seven" --out lock-seven.zip`,
		Short:   "Write a project, by its name or ID, with everything it needs",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return withBench(*dir, func(b *service.Bench) error {
				cards, err := b.ProjectCards()
				if err != nil {
					return err
				}
				for _, c := range cards {
					if c.ID != args[0] && c.Title != args[0] {
						continue
					}
					state, err := b.State(c.ID)
					if err != nil {
						return err
					}
					data, err := b.ProjectBundle(state)
					if err != nil {
						return err
					}
					fmt.Fprintf(cmd.OutOrStdout(), "%s: %s, %d patterns, %d MB\n", out, c.Title, len(state.Patterns), 1+len(data)>>20)
					return os.WriteFile(out, data, 0o644)
				}
				return fmt.Errorf("there is no project called %q in %s", args[0], *dir)
			})
		},
	}
	cmd.Flags().StringVar(&out, "out", "", "zip file to write")
	if err := cmd.MarkFlagRequired("out"); err != nil {
		panic(err)
	}
	return cmd
}

func bundleImportCommand(dir *string) *cobra.Command {
	return &cobra.Command{
		Use:     "import FILE.zip",
		Example: `  hexachord bundle import lock-seven.zip --data ./bench`,
		Short:   "Open a bundle as a new project; nothing that is there is changed",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			data, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			return withBench(*dir, func(b *service.Bench) error {
				id, said, err := b.ImportProject(cmd.Context(), data)
				report(cmd, said)
				if err != nil {
					return err
				}
				p, err := b.Load(id)
				if err != nil {
					return err
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%s: %d patterns, %d blocks, as project %s\n", p.Title(), len(p.Patterns), len(p.Blocks), id)
				return nil
			})
		},
	}
}

// errDamagedBundle ends the check of a bundle that is not whole.
var errDamagedBundle = errors.New("the bundle is damaged; what is named is lost, the rest can be opened")

func bundleCheckCommand() *cobra.Command {
	return &cobra.Command{
		Use:     "check FILE.zip",
		Example: `  hexachord bundle check lock-seven.zip`,
		Short:   "Say whether a bundle is whole: every document read, every sound checked by its hash",
		Args:    cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			data, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			name, said, err := service.CheckBundle(data)
			report(cmd, said)
			if err != nil {
				return err
			}
			if len(said) > 0 {
				return errDamagedBundle
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s: whole\n", name)
			return nil
		},
	}
}

// renderBundle bounces the song of a bundle, or where there is none its first pattern, to files in a folder.
func renderBundle(ctx context.Context, cmd *cobra.Command, file, folder, stems string, e service.Export) (err error) {
	if !slices.Contains([]string{"", "lane", "output"}, stems) {
		return fmt.Errorf("--stems %s: it is lane or output", stems)
	}
	data, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	dir, err := os.MkdirTemp("", "hexachord-")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
	return withBench(dir, func(b *service.Bench) error {
		id, said, err := b.ImportProject(ctx, data)
		report(cmd, said)
		if err != nil {
			return err
		}
		p, err := b.Load(id)
		if err != nil {
			return err
		}
		e.Of, e.Mix, e.Lanes, e.Outputs, e.Markers = "song", true, stems == "lane", stems == "output", true
		if p.SongEnd() == 0 {
			e.Of, e.Pattern = "pattern", p.Patterns[0].ID
		}
		if err := os.MkdirAll(folder, 0o755); err != nil {
			return err
		}
		made, err := b.ExportTo(ctx, id, e, folder)
		if err != nil {
			return err
		}
		for _, f := range made.Files {
			fmt.Fprintf(cmd.OutOrStdout(), "%s: %.2f s, peak %.1f dBFS, %.1f LUFS\n", filepath.Join(folder, f.Name), made.Seconds, f.PeakDB, f.Integrated)
			if f.PeakDB > 0 && e.Bits < 32 {
				fmt.Fprintf(cmd.OutOrStdout(), "it clips by %.1f dB: lower the mix, or write it with --bits 32\n", f.PeakDB)
			}
		}
		return nil
	})
}
