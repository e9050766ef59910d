package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/play"
	"hexachord/core/sound"
	"hexachord/demo"
	"hexachord/service"
)

var errNothingToRender = errors.New("say what is to be played: --midi FILE.mid, or --bundle FILE.zip")

func renderCommand() *cobra.Command {
	var o struct {
		midi, kit, out string
		rate, bits     int
		bpm, swing     float64
		passes         int
		tail           string
		bundle, stems  string
		flac           bool
	}
	cmd := &cobra.Command{
		Use: "render --midi X.mid --kit FILE.sfz|FILE.zip|Boathouse --out OUT.wav | --bundle X.zip --out DIR",
		Example: `  hexachord render --midi beat.mid --kit Boathouse --out beat.wav
  hexachord render --bundle lock-seven.zip --out stems --stems lane --flac
  hexachord render --midi beat.mid --kit kit.sfz --out loop.wav --passes 4 --tail lap`,
		Short: "Play a MIDI file on a kit and write it as WAV",
		Long: `Plays the percussion of a MIDI file (channel 10; every channel when that is empty) on a kit,
at the file's first tempo, and writes the sound as WAV. Notes the kit has no pad for are
played by the pad of the same role, and named when there is none.

With --bundle it bounces the song of a project bundle through its mix, to files in a folder:
the mix, and with --stems every lane (before processing) or every output (after it).`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if o.rate < service.MinRate || o.rate > service.MaxRate {
				return service.ErrRate
			}
			if o.bundle != "" {
				return renderBundle(cmd.Context(), cmd, o.bundle, o.out, o.stems, service.Export{Rate: o.rate, Bits: o.bits, FLAC: o.flac, Tail: o.tail})
			}
			if o.midi == "" {
				return errNothingToRender
			}
			data, err := os.ReadFile(o.midi)
			if err != nil {
				return err
			}
			m, k, files, said, err := kitOf(o.kit)
			report(cmd, said)
			if err != nil {
				return err
			}
			p, in, err := service.PatternFromMIDI(filepath.Base(o.midi), data, m)
			if err != nil {
				return err
			}
			for i, h := range p.Hits {
				if _, ok := m.ByNote(h.Note); ok {
					continue
				}
				if l, ok := m.LaneFor(h.Note); ok {
					p.Hits[i].Note = l.Note
				}
			}
			if o.bpm == 0 {
				o.bpm = in.BPM
			}
			if o.bpm == 0 {
				o.bpm = 120 // SMF 1.0: a file without a tempo plays at 120
			}
			if err := music.CheckBPM(o.bpm); err != nil {
				return err
			}
			if o.passes < 1 || o.passes > service.MaxPasses {
				return fmt.Errorf("--passes %d is not between 1 and %d", o.passes, service.MaxPasses)
			}
			f := feel.Feel{Swing: feel.Swing{Percent: o.swing, Grid: music.Sixteenths}}
			if err := f.Check(); err != nil {
				return err
			}
			t := play.Compile(k, o.rate)
			voices := map[string]play.Voice{}
			for _, spec := range t.Voices() {
				voices[spec.ID()] = spec.Shape(files[spec.Sample].Buffer)
			}
			pass := play.Cues(p, f, o.bpm, t, nil)
			bounce, err := play.NewBounce(pass, o.passes, o.rate, voices, play.Tail(o.tail))
			if err != nil {
				return err
			}
			written, err := writeBounce(cmd.Context(), o.out, bounce, o.bits)
			if err != nil {
				return err
			}
			peak := sound.DB(written.Peak)
			fmt.Fprintf(cmd.OutOrStdout(), "%s: %d hits, %.2f s at %.2f BPM, peak %.1f dBFS\n", o.out, len(p.Hits), float64(bounce.Frames)/float64(bounce.Rate), o.bpm, peak)
			if pass.Silent > 0 {
				fmt.Fprintf(cmd.OutOrStdout(), "%d hits have no pad in this kit and are silent\n", pass.Silent)
			}
			if peak > 0 {
				fmt.Fprintln(cmd.OutOrStdout(), "it clips: write it with --bits 32, or lower the kit")
			}
			return nil
		},
	}
	fl := cmd.Flags()
	fl.StringVar(&o.midi, "midi", "", "MIDI file to play")
	fl.StringVar(&o.kit, "kit", demo.KitName, "kit to play it on: Boathouse, an SFZ file with its samples beside it, or a zip")
	fl.StringVar(&o.out, "out", "", "WAV file to write; with --bundle a folder")
	fl.StringVar(&o.bundle, "bundle", "", "project bundle to bounce")
	fl.StringVar(&o.stems, "stems", "", "of a bundle, a file each as well: lane or output")
	fl.BoolVar(&o.flac, "flac", false, "of a bundle, write FLAC")
	fl.IntVar(&o.rate, "rate", 44100, "sample rate in Hz")
	fl.IntVar(&o.bits, "bits", 24, "16, 24, or 32 for float")
	fl.Float64Var(&o.bpm, "bpm", 0, "tempo (default: the file's)")
	fl.Float64Var(&o.swing, "swing", 50, "swing of the sixteenths, 50 to 75 percent")
	fl.IntVar(&o.passes, "passes", 1, "how many times through")
	fl.StringVar(&o.tail, "tail", string(play.TailRing), "what still rings at the end: ring out, cut, or lap (laid over the beginning, for a loop without a seam)")
	if err := cmd.MarkFlagRequired("out"); err != nil {
		panic(err)
	}
	return cmd
}

// writeBounce writes a bounce to a file; one that cannot be written whole is not left.
func writeBounce(ctx context.Context, path string, bounce *play.Bounce, bits int) (w *service.Written, err error) {
	f, err := os.Create(path)
	if err != nil {
		return nil, err
	}
	defer func() {
		err = errors.Join(err, f.Close())
		if err != nil {
			err = errors.Join(err, os.Remove(path))
		}
	}()
	if w, err = service.WriteWAV(f, bounce, bits); err != nil {
		return nil, err
	}
	return w, w.Run(ctx)
}

// writeIfMissing makes a file unless it is there.
func writeIfMissing(path string, data func() ([]byte, error)) (made bool, err error) {
	if _, err := os.Stat(path); err == nil {
		return false, nil
	}
	content, err := data()
	if err != nil {
		return false, err
	}
	return true, os.WriteFile(path, content, 0o644)
}
