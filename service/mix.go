package service

import (
	"fmt"
	"strconv"
	"sync"

	"hexachord/core/mix"
	"hexachord/core/music"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/sound"
	"hexachord/format/wav"
)

// desk is a project's mix at work for what is bounced; partOf is the part whose notes lie in a range of 128. Lanes are those that are wanted
// alone as well.
func desk(p project.Project, rate int, partOf func(n int) string, lanes []int) play.Desk {
	d := mix.NewDesk(p.Mix, p.Settings.BPM, rate)
	return play.Desk{Desk: d, Lanes: lanes, Sends: func(note int) []mix.Send {
		part := partOf(note / play.NotesAPart)
		if part == mix.Recordings {
			return d.Sends(part, 0)
		}
		return d.Sends(part, note%play.NotesAPart)
	}}
}

// songParts says whose notes are whose in what a song sounds.
func songParts(p project.Project) func(n int) string {
	parts := p.PartIDs()
	return func(n int) string {
		if n < len(parts) {
			return parts[n]
		}
		return mix.Recordings
	}
}

// Measured is how loud a song or a pattern is through the mix.
type Measured struct {
	Whole   mix.Loudness   `json:"whole"`
	Bars    []float64      `json:"bars"`    // of each bar, LUFS
	Outputs []mix.Loudness `json:"outputs"` // Main first
}

// measureRate is the sample rate loudness is measured at, Hz.
const measureRate = 44100

// Measure bounces a song, or with a pattern's ID that once through, and says how loud it is.
func (b *Bench) Measure(p project.Project, patternID string) (Measured, error) {
	var bounce *play.Bounce
	var err error
	var ends []float64 // of the bars, seconds
	if patternID == "" {
		bounce, err = b.BounceSong(p, measureRate, 0, 0, play.TailCut)
		clock := p.Clock()
		for bar := range p.SongEnd() {
			ends = append(ends, clock.Seconds(float64(clock.Tick(bar+1))))
		}
	} else {
		pt, notThere := p.Pattern(patternID)
		if notThere != nil {
			return Measured{}, notThere
		}
		bounce, err = b.Bounce(p, pt, measureRate, 1, play.TailCut)
		for bar := range pt.Bars {
			ends = append(ends, music.Seconds(float64((bar+1)*pt.Meter.BarTicks()), p.Settings.BPM))
		}
	}
	if err != nil {
		return Measured{}, err
	}
	out := Measured{Bars: []float64{}}
	whole := mix.NewMeter(measureRate)
	outputs := make([]*mix.Meter, len(p.Mix.All()))
	for i := range outputs {
		outputs[i] = mix.NewMeter(measureRate)
	}
	for {
		mixed, outs, _, ok := bounce.Blocks()
		if !ok {
			break
		}
		var all sync.WaitGroup
		all.Go(func() { whole.Write(mixed[0]) })
		for i := range outs {
			all.Go(func() { outputs[i].Write(outs[i]) })
		}
		all.Wait()
	}
	out.Whole = whole.Loudness()
	from := 0.0
	for _, to := range ends {
		out.Bars = append(out.Bars, whole.Between(from, to))
		from = to
	}
	for _, m := range outputs {
		out.Outputs = append(out.Outputs, m.Loudness())
	}
	return out, nil
}

// mostMatchDB is by how much what is compared is raised or lowered at most, dB.
const mostMatchDB = 24

// MixCompared is the mix without some of its processing, as loud as with it.
type MixCompared struct {
	Mix     mix.Mix `json:"mix"`
	MatchDB float64 `json:"matchDB"` // by how much it is raised for that, dB
}

// CompareMix makes the mix without the processing of an output (its number), or of all, as loud as it is with it in a song or a pattern.
func (b *Bench) CompareMix(p project.Project, patternID, output string) (MixCompared, error) {
	at, err := strconv.Atoi(output)
	if output != "all" && (err != nil || at < 0 || at >= len(p.Mix.All())) {
		return MixCompared{}, fmt.Errorf("the output: %w", project.ErrNotFound)
	}
	if !p.Mix.Treated(output) {
		return MixCompared{}, fmt.Errorf("%w: nothing is done to it, so with and without are the same; switch something on first", ErrInput)
	}
	off := p
	off.Mix = p.Mix.Without(output, 0)
	with, err := b.Measure(p, patternID)
	if err != nil {
		return MixCompared{}, err
	}
	without, err := b.Measure(off, patternID)
	if err != nil {
		return MixCompared{}, err
	}
	of := func(m Measured) float64 { return m.Whole.Integrated }
	if output != "all" {
		of = func(m Measured) float64 { return m.Outputs[at].Integrated }
	}
	match := 0.0
	if of(with) > mix.Quietest && of(without) > mix.Quietest {
		match = max(-mostMatchDB, min(mostMatchDB, of(with)-of(without)))
	}
	return MixCompared{p.Mix.Without(output, match), match}, nil
}

// RoomVoice is the response of a project's room at a sample rate, for the browser's player.
func RoomVoice(p project.Project, rate int) ([]byte, error) {
	out := sound.New(rate, 2, 0)
	for side, x := range p.Mix.Room.Response(rate) {
		for _, v := range x {
			out.Channels[side] = append(out.Channels[side], float32(v))
		}
	}
	return wav.Encode(out, wav.Float32)
}
