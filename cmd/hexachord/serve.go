package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path/filepath"
	"strings"

	"github.com/adrg/xdg"
	"github.com/spf13/cobra"

	"hexachord/core/shelf"
	"hexachord/demo"
	"hexachord/server"
	"hexachord/service"
	"hexachord/ui"
)

type serveOptions struct {
	addr, data  string
	uploadLimit int64 // MB
	audioCache  int64 // MB
}

func (o *serveOptions) flags(cmd *cobra.Command, folder string) {
	f := cmd.Flags()
	f.StringVar(&o.addr, "addr", "127.0.0.1:8460", "address to serve on; port 0 takes a free one")
	f.StringVar(&o.data, "data", filepath.Join(xdg.DataHome, "hexachord", folder), "folder that keeps projects and audio")
	f.Int64Var(&o.uploadLimit, "upload-limit", 200, "largest file that can be brought in, in MB")
	f.Int64Var(&o.audioCache, "audio-cache", service.DefaultAudioCache>>20, "memory for decoded audio, in MB")
}

func serveCommand() *cobra.Command {
	var o serveOptions
	cmd := &cobra.Command{
		Use: "serve",
		Example: `  hexachord serve
  hexachord serve --addr 127.0.0.1:8460 --data ./bench`,
		Short: "Serve the bench to the browser",
		Long: `Serves the bench on this machine. Open the address it prints in a browser.
On another address than 127.0.0.1 (--addr 0.0.0.0:8460) it asks for the passphrase that
` + "`hexachord passphrase`" + ` sets. What goes between is not encrypted: across a network that is not yours,
put it behind a proxy that speaks HTTPS.
Everything is kept in the data folder; stop with Ctrl+C.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd.Context(), cmd.OutOrStdout(), o, false)
		},
	}
	o.flags(cmd, "bench")
	return cmd
}

func demoCommand() *cobra.Command {
	var o serveOptions
	cmd := &cobra.Command{
		Use:     "demo",
		Example: `  hexachord demo`,
		Short:   "Serve a bench with the demo world",
		Long: `Serves a bench whose data folder holds the project Lock Seven with the kit Boathouse,
made at the first start, and writes the recording deck-break.wav into that folder, ready to be
dropped on Break.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd.Context(), cmd.OutOrStdout(), o, true)
		},
	}
	o.flags(cmd, "demo")
	return cmd
}

func serve(ctx context.Context, out io.Writer, o serveOptions, withDemo bool) (err error) {
	if o.uploadLimit < 1 || o.uploadLimit > 4096 {
		return fmt.Errorf("--upload-limit %d is not between 1 and 4096 MB", o.uploadLimit)
	}
	if o.audioCache < 1 || o.audioCache > 1<<20 {
		return fmt.Errorf("--audio-cache %d is not between 1 and %d MB", o.audioCache, 1<<20)
	}
	b, err := service.Open(o.data, service.Config{AudioCache: o.audioCache << 20})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, b.Close()) }()
	if withDemo {
		if err := setUpDemo(b, o.data, out); err != nil {
			return fmt.Errorf("the demo world cannot be made: %w", err)
		}
	}
	// sounds are described beside serving: the first window does not wait for the shelf
	ctx, stop := context.WithCancel(ctx)
	describing := make(chan error, 1)
	go func() {
		err := b.DescribeMissing(ctx)
		if err == nil && withDemo {
			err = fillDemoShelf(ctx, b, o.data)
		}
		describing <- err
	}()
	copied := make(chan error, 1)
	go func() { copied <- b.KeepCopies(ctx) }()
	defer func() {
		stop()
		if e := <-copied; e != nil && !errors.Is(e, context.Canceled) {
			err = errors.Join(err, e)
		}
		if e := <-describing; e != nil && !errors.Is(e, context.Canceled) {
			err = errors.Join(err, e)
		}
	}()
	config := server.Config{Addr: o.addr, UploadLimit: o.uploadLimit << 20, UI: ui.Files(), Version: version,
		Started: func(address string) {
			fmt.Fprintf(out, "Hexachord is ready: %s\n", strings.Join(server.Addresses(address), "\n  and at: "))
			fmt.Fprintf(out, "Its data is kept in %s. Stop with Ctrl+C.\n", o.data)
		}}
	if described != "" {
		if config.Description, err = fs.ReadFile(ui.Files(), "openapi.json"); err != nil {
			return fmt.Errorf("the program was not built whole: %w", err)
		}
	}
	has, err := service.HasPassphrase(o.data)
	if err != nil {
		return err
	}
	if has {
		config.Passing = func(passphrase string) (bool, error) { return service.IsPassphrase(o.data, passphrase) }
	}
	if err := server.Run(ctx, b, config); errors.Is(err, server.ErrNoPassphrase) {
		return fmt.Errorf("%w (its data folder: --data %s)", err, o.data)
	} else if err != nil {
		return err
	}
	return nil
}

// fillDemoShelf puts the demo's loose samples on the shelf, once: those that the person threw away do not come again.
func fillDemoShelf(ctx context.Context, b *service.Bench, dir string) error {
	_, err := writeIfMissing(filepath.Join(dir, "demo-samples.txt"), func() ([]byte, error) {
		loose, err := b.FindSamples(shelf.Query{Folder: demo.LooseFolder})
		if err == nil && loose.Total == 0 {
			err = b.FillDemoShelf(ctx)
		}
		return []byte("The demo's samples have been put on the shelf; without this file they are put there again.\n"), err
	})
	return err
}

func setUpDemo(b *service.Bench, dir string, out io.Writer) error {
	projects, err := b.Projects()
	if err != nil {
		return err
	}
	if len(projects) == 0 {
		if _, err := b.NewDemoProject(demo.ProjectName); err != nil {
			return err
		}
	}
	path := filepath.Join(dir, demo.BreakName)
	made, err := writeIfMissing(path, func() ([]byte, error) {
		f, _, err := demo.DeckBreak()
		return f.Data, err
	})
	if made {
		fmt.Fprintf(out, "A recorded break to try is in %s\n", path)
	}
	return err
}
