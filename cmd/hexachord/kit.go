package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/adrg/xdg"
	"github.com/spf13/cobra"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/demo"
	"hexachord/format/audio"
	"hexachord/service"
	"hexachord/store"
)

// ships reports whether a name means the kit that ships; demo is what it was called here before.
func ships(name string) bool { return strings.EqualFold(name, demo.KitName) || name == "demo" }

func kitCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "kit",
		Example: `  hexachord kit import boathouse.sfz
  hexachord kit list
  hexachord kit export Boathouse --as sfz --out boathouse.zip`,
		Short: "Import and export kits: SFZ and kit bundles",
	}
	var dir string
	cmd.PersistentFlags().StringVar(&dir, "data", filepath.Join(xdg.DataHome, "hexachord", "bench"), "folder that keeps projects and audio")
	cmd.AddCommand(kitImportCommand(&dir), kitExportCommand(&dir), kitListCommand(&dir))
	return cmd
}

func kitImportCommand(dir *string) *cobra.Command {
	return &cobra.Command{
		Use: "import FILE.sfz|FILE.zip",
		Example: `  hexachord kit import boathouse.sfz
  hexachord kit import boathouse.zip --data ./bench`,
		Short: "Keep a kit: an SFZ file with the samples beside it, a zip of one, or a kit bundle",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			data, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			return withBench(*dir, func(b *service.Bench) error {
				id, said, err := b.ImportKit(cmd.Context(), filepath.Base(args[0]), data, service.FilesBeside(filepath.Dir(args[0])))
				report(cmd, said)
				if err != nil {
					return err
				}
				k, err := b.KeptKit(id)
				if err != nil {
					return err
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%s: %d pads, %d samples\n", k.Name, len(k.Kit.Pads), len(k.Kit.Samples()))
				return nil
			})
		},
	}
}

// withBench does something with an open data folder.
func withBench(dir string, do func(b *service.Bench) error) (err error) {
	b, err := service.Open(dir, service.Config{})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, b.Close()) }()
	return do(b)
}

// report prints what was left out or plays otherwise.
func report(cmd *cobra.Command, said []string) {
	for _, s := range said {
		fmt.Fprintln(cmd.ErrOrStderr(), "note:", s)
	}
}

func kitExportCommand(dir *string) *cobra.Command {
	var as, out string
	cmd := &cobra.Command{
		Use: "export NAME --as sfz|bundle --out FILE.zip",
		Example: `  hexachord kit export Boathouse --as sfz --out boathouse.zip
  hexachord kit export "my kit" --as bundle --out my-kit.zip`,
		Short: "Write a kept kit, or the kit that ships (Boathouse), with its samples",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return withBench(*dir, func(b *service.Bench) error {
				m, k, err := findKit(b, args[0])
				if err != nil {
					return err
				}
				_, data, lost, err := b.ExportKit(m, k, as)
				if err != nil {
					return err
				}
				if err := os.WriteFile(out, data, 0o644); err != nil {
					return err
				}
				for _, l := range lost {
					fmt.Fprintln(cmd.ErrOrStderr(), "not carried:", l)
				}
				fmt.Fprintf(cmd.OutOrStdout(), "%s: %s, %d pads, %d samples\n", out, k.Name, len(k.Pads), len(k.Samples()))
				return nil
			})
		},
	}
	cmd.Flags().StringVar(&as, "as", "bundle", "sfz or bundle")
	cmd.Flags().StringVar(&out, "out", "", "zip file to write")
	if err := cmd.MarkFlagRequired("out"); err != nil {
		panic(err)
	}
	return cmd
}

func kitListCommand(dir *string) *cobra.Command {
	return &cobra.Command{
		Use:     "list",
		Example: `  hexachord kit list`,
		Short:   "List the kept kits",
		Args:    cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return withBench(*dir, func(b *service.Bench) error {
				kits, err := b.Kits()
				for _, k := range kits {
					if !k.Earlier {
						fmt.Fprintf(cmd.OutOrStdout(), "%s\t%d pads\t%s\n", k.Name, len(k.Kit.Pads), k.SavedAt.Format("2006-01-02 15:04"))
					}
				}
				return err
			})
		},
	}
}

// findKit finds a kept kit by its name, or makes the one that ships.
func findKit(b *service.Bench, name string) (drummap.Map, kit.Kit, error) {
	kits, err := b.Kits()
	if err != nil {
		return drummap.Map{}, kit.Kit{}, err
	}
	var names []string
	for _, k := range kits {
		if k.Name == name && !k.Earlier {
			return k.Map, k.Kit, nil
		}
		if !k.Earlier {
			names = append(names, k.Name)
		}
	}
	if ships(name) {
		return b.Boathouse()
	}
	if !slices.Contains(names, demo.KitName) {
		names = append(names, demo.KitName)
	}
	return drummap.Map{}, kit.Kit{}, fmt.Errorf("the kit %q: %w; there are: %s", name, store.ErrNotFound, strings.Join(names, ", "))
}

// kitOf reads the kit a rendering is asked for, without a data folder: the one that ships, or a file. files holds its
// samples' audio.
func kitOf(name string) (m drummap.Map, k kit.Kit, files map[string]audio.Decoded, said []string, err error) {
	files = map[string]audio.Decoded{}
	take := func(f service.SampleFile) (string, audio.Decoded, error) {
		d, err := audio.Decode(f.Data, service.Limits)
		if err != nil {
			return "", d, err
		}
		hash := store.HashOf(f.Data)
		files[hash] = d
		return hash, d, nil
	}
	if ships(name) {
		m, k, err = demo.Boathouse(func(f demo.File) (string, error) {
			hash, _, err := take(service.SampleFile{Name: f.Name, Data: f.Data})
			return hash, err
		})
		return m, k, files, nil, err
	}
	if ext := strings.ToLower(filepath.Ext(name)); ext != ".sfz" && ext != ".zip" {
		return m, k, nil, nil, fmt.Errorf("there is no kit %q; name an .sfz or .zip file, or %q for the kit that ships", name, demo.KitName)
	}
	data, err := os.ReadFile(name)
	if err != nil {
		return m, k, nil, nil, err
	}
	m, k, said, err = service.ReadKit(filepath.Base(name), data, take, service.FilesBeside(filepath.Dir(name)))
	return m, k, files, said, err
}
