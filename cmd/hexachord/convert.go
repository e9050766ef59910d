package main

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"runtime/debug"
	"sort"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"hexachord/core/drummap"
	"hexachord/core/hear"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/format/audio"
	"hexachord/format/smf"
	"hexachord/service"
)

// small is the size of a recording, in bytes, under which memory is not worth time.
const small = 8 << 20

func convertCommand() *cobra.Command {
	var o struct {
		out, json, quantise, method string
		bars                        int
		bpm, strength               float64
		only, band, channel         string
		open, close                 float64
		gap, meter                  string
		drums                       bool
	}
	cmd := &cobra.Command{
		Use: "convert BREAK",
		Example: `  hexachord convert deck-break.wav --out deck-break.mid
  hexachord convert deck-break.wav --out tight.mid --quantise 1/16 --strength 80
  hexachord convert kick-microphone.wav --out kick.mid --only kick
  hexachord convert kick-microphone.wav --out kick.mid --only kick --band 30:150 --open -18 --close -20 --gap 60ms`,
		Short: "Hear the hits of a recorded break and write them as MIDI",
		Long: `Hears which drums were struck in a recording, when and how hard, and writes them as
General MIDI percussion (channel 10). Tick 0 is the first sample of the file; the tempo
is the tempo heard. Times are kept as played unless --quantise is given.

With --only one drum is written. With --band, --open, --close or --gap it is heard by a gate on its band alone: levels are dB
under the band's loudest moment; what is not given is suggested by the recording's own levels.`,
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
			if o.bars < 0 || o.bars > hear.MaxBars {
				return fmt.Errorf("--bars %d is not between 1 and %d", o.bars, hear.MaxBars)
			}
			// what has no effect without another is a slip, not to be passed over
			for _, needs := range []struct{ option, without string }{{"band", "only"}, {"open", "only"}, {"close", "only"}, {"gap", "only"}, {"strength", "quantise"}} {
				if cmd.Flags().Changed(needs.option) && !cmd.Flags().Changed(needs.without) {
					return fmt.Errorf("--%s has no effect without --%s; give both, or neither", needs.option, needs.without)
				}
			}
			var meter music.Meter
			if o.meter != "" {
				var err error
				if meter, err = music.ParseMeter(o.meter); err != nil {
					return err
				}
			}
			gap, err := milliseconds(o.gap)
			if err != nil {
				return err
			}
			data, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			name := filepath.Base(args[0])
			tidyBy := 40 // minutes of audio are held: tidy sooner
			if len(data) < small {
				tidyBy = 400
			}
			defer debug.SetGCPercent(debug.SetGCPercent(tidyBy))
			decoded, err := audio.Decode(data, service.Limits)
			if err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
			heard, err := hear.Listen(cmd.Context(), decoded.Buffer, hear.Options{Method: o.method, BPM: o.bpm, Bars: o.bars, Meter: meter, Channel: hear.Channel(o.channel), Drums: o.drums, InPlace: true})
			if err != nil {
				return fmt.Errorf("%s: %w", name, err)
			}
			if o.only != "" {
				gated := false
				var l hear.Listener
				for _, flag := range []string{"band", "open", "close", "gap"} {
					gated = gated || cmd.Flags().Changed(flag)
				}
				if o.band != "" {
					if _, err := fmt.Sscanf(o.band, "%g:%g", &l.LoHz, &l.HiHz); err != nil {
						return fmt.Errorf("--band %q is not like 30:150, in Hz", o.band)
					}
				}
				l.OpenDB, l.CloseDB, l.GapMS = o.open, o.close, gap
				if heard, err = heard.Only(decoded.Buffer, o.only, gated, l); err != nil {
					return fmt.Errorf("%s: %w", name, err)
				}
			}
			if ext := strings.ToLower(filepath.Ext(o.out)); ext != ".mid" && ext != ".midi" {
				fmt.Fprintf(cmd.ErrOrStderr(), "note: %s is a MIDI file, whatever it is called\n", o.out)
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
	f.StringVar(&o.meter, "meter", "", "meter, as 7/8 (default: found)")
	f.IntVar(&o.bars, "bars", 0, "how many bars the recording has (default: found)")
	f.Float64Var(&o.bpm, "bpm", 0, "tempo in quarter notes a minute (default: found)")
	f.StringVar(&o.quantise, "quantise", "", "move hits towards this grid: 1/4 to 1/64, with t for triplet or d for dotted")
	f.Float64Var(&o.strength, "strength", 100, "how far to quantise, in percent")
	f.StringVar(&o.method, "method", hear.DefaultMethod, "method of hearing: "+strings.Join(hear.Methods(), " or "))
	f.BoolVar(&o.drums, "drums", false, "hear through other music: what is held, as basses and voices are, is left out first")
	f.StringVar(&o.only, "only", "", "write one drum alone: "+strings.Join(hear.FamilyNames[:], ", "))
	f.StringVar(&o.band, "band", "", "with --only: the band to hear it in, as 30:150 in Hz")
	f.Float64Var(&o.open, "open", 0, "with --only: the gate opens at this level, dB under the band's loudest moment (default: suggested)")
	f.Float64Var(&o.close, "close", 0, "with --only: and closes under this one")
	f.StringVar(&o.gap, "gap", "", "with --only: no second hit within this time, as 60ms or 60")
	f.StringVar(&o.channel, "channel", "", "listen to left, right, mid or side alone")
	if err := cmd.MarkFlagRequired("out"); err != nil {
		panic(err)
	}
	return cmd
}

// milliseconds reads a time with a unit, or in milliseconds without one; "" is 0.
func milliseconds(text string) (float64, error) {
	if text == "" {
		return 0, nil
	}
	if v, err := strconv.ParseFloat(text, 64); err == nil && v >= 0 {
		return v, nil
	}
	d, err := time.ParseDuration(text)
	if err != nil || d < 0 {
		return 0, fmt.Errorf("--gap %q is not a time like 60ms", text)
	}
	return float64(d) / float64(time.Millisecond), nil
}

// heardFile lays the hits on the file's own time: tick 0 is its first sample. Quantised, those of a player who moves lie on the bars
// that follow him, at the mean tempo.
func heardFile(h hear.Hearing, durationS float64, quantiseTicks int, strength float64) smf.File {
	f := smf.File{PPQ: music.PPQ, Meter: h.Meter, Tempi: []smf.TempoChange{{Tick: 0, BPM: h.BPM}},
		EndsAt: music.Ticks(durationS, h.BPM)}
	barOne := music.Ticks(h.BarOneS, h.BPM)
	if h.Moves && quantiseTicks > 0 {
		h = h.Follow()
	}
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
			fromOne := int(math.Round(h.TickAt(hit.TimeS)))
			tick = max(0, barOne+pattern.QuantiseTick(fromOne, quantiseTicks, strength))
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
	if h.Moves {
		b.WriteString("  the player moves: no steady tempo holds these hits, this one is the mean; on Break the grid can follow\n")
	}
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
