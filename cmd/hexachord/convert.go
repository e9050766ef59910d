package main

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"sort"
	"strings"

	"github.com/spf13/cobra"

	"hexachord/bench"
	"hexachord/core/drummap"
	"hexachord/core/hear"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/format/audio"
	"hexachord/format/smf"
)

func convertCommand() *cobra.Command {
	var o struct {
		out, json, quantise, method string
		bars                        int
		bpm, strength               float64
	}
	cmd := &cobra.Command{
		Use:   "convert BREAK",
		Short: "Hear the hits of a recorded break and write them as MIDI",
		Long: `Hears which drums were struck in a recording, when and how hard, and writes them as
General MIDI percussion (channel 10). Tick 0 is the first sample of the file; the tempo
is the tempo heard. Times are kept as played unless --quantise is given.

  hexachord convert deck-break.wav --out deck-break.mid
  hexachord convert deck-break.wav --out tight.mid --quantise 1/16 --strength 80`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			var quantiseTicks int
			if o.quantise != "" {
				var err error
				if quantiseTicks, err = music.Grid(o.quantise).Ticks(); err != nil {
					return err
				}
			}
			if !(o.strength >= 0 && o.strength <= 100) {
				return fmt.Errorf("--strength %g is not between 0 and 100", o.strength)
			}
			if o.bars < 0 || o.bars > music.MaxBars {
				return fmt.Errorf("--bars %d is not between 1 and %d", o.bars, music.MaxBars)
			}
			data, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			name := filepath.Base(args[0])
			decoded, err := audio.Decode(data, bench.Limits)
			if err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
			heard, err := hear.Listen(cmd.Context(), decoded.Buffer, hear.Options{Method: o.method, BPM: o.bpm, Bars: o.bars})
			if err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
			if err := os.WriteFile(o.out, smf.Encode(heardFile(heard, decoded.Seconds(), quantiseTicks, o.strength)), 0o644); err != nil {
				return err
			}
			if o.json != "" {
				text, err := json.MarshalIndent(heard, "", " ")
				if err != nil {
					return err
				}
				if err := os.WriteFile(o.json, append(text, '\n'), 0o644); err != nil {
					return err
				}
			}
			fmt.Fprint(cmd.OutOrStdout(), describe(name, heard))
			return nil
		},
	}
	f := cmd.Flags()
	f.StringVar(&o.out, "out", "", "MIDI file to write")
	f.StringVar(&o.json, "json", "", "also write everything heard, with confidence, as JSON")
	f.IntVar(&o.bars, "bars", 0, "how many bars the recording has (default: found)")
	f.Float64Var(&o.bpm, "bpm", 0, "tempo in quarter notes a minute (default: found)")
	f.StringVar(&o.quantise, "quantise", "", "move hits towards this grid: 1/4 to 1/64, with t for triplet or d for dotted")
	f.Float64Var(&o.strength, "strength", 100, "how far to quantise, in percent")
	f.StringVar(&o.method, "method", hear.DefaultMethod, "method of hearing: "+strings.Join(hear.Methods(), " or "))
	if err := cmd.MarkFlagRequired("out"); err != nil {
		panic(err)
	}
	return cmd
}

// heardFile lays the hits on the file's own time: tick 0 is its first sample.
func heardFile(h hear.Hearing, durationS float64, quantiseTicks int, strength float64) smf.File {
	f := smf.File{PPQ: music.PPQ, Meter: h.Meter, Tempi: []smf.TempoChange{{Tick: 0, BPM: h.BPM}},
		EndsAt: music.Ticks(durationS, h.BPM)}
	barOne := music.Ticks(h.BarOneS, h.BPM)
	byNote := map[int]*smf.Track{}
	var notes []int
	for _, hit := range h.Hits {
		t := byNote[hit.Note]
		if t == nil {
			t = &smf.Track{Name: drummap.GMName(hit.Note)}
			byNote[hit.Note] = t
			notes = append(notes, hit.Note)
		}
		tick := music.Ticks(hit.TimeS, h.BPM)
		if quantiseTicks > 0 {
			tick = max(0, barOne+pattern.QuantiseTick(tick-barOne, quantiseTicks, strength))
		}
		t.Notes = append(t.Notes, smf.Note{Tick: tick, Length: music.PPQ / 8, Channel: 10, Key: hit.Note, Velocity: hit.Velocity})
	}
	sort.Ints(notes)
	for _, n := range notes {
		f.Tracks = append(f.Tracks, *byNote[n])
	}
	return f
}

func describe(name string, h hear.Hearing) string {
	var b strings.Builder
	count := map[int]int{}
	doubtful := 0
	for _, hit := range h.Hits {
		count[hit.Note]++
		if hit.Confidence < hear.Doubtful {
			doubtful++
		}
	}
	plural := "s"
	if h.Bars == 1 {
		plural = ""
	}
	fmt.Fprintf(&b, "%s: %.2f BPM, %s, %d bar%s, bar 1 at %.3f s\n", name, math.Round(h.BPM*100)/100, h.Meter, h.Bars, plural, h.BarOneS)
	notes := make([]int, 0, len(count))
	for n := range count {
		notes = append(notes, n)
	}
	sort.Ints(notes)
	for _, n := range notes {
		fmt.Fprintf(&b, "%5d  %d · %s\n", count[n], n, drummap.GMName(n))
	}
	fmt.Fprintf(&b, "%5d  hits in all, %d doubtful\n", len(h.Hits), doubtful)
	return b.String()
}
