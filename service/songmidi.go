package service

import (
	"cmp"
	"fmt"
	"math"
	"path/filepath"
	"slices"
	"strings"

	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/project"
	"hexachord/core/song"
	"hexachord/format/smf"
	"hexachord/store"
)

// SongFromMIDI reads a MIDI file as a whole song: its percussion (channel 10) first, then its other channels, each an instrument; its tempi
// and meters at the bars they stand at.
func SongFromMIDI(name string, data []byte) (project.LaySong, error) {
	f, err := smf.Decode(data)
	if err != nil {
		return project.LaySong{}, fmt.Errorf("%s: %w", name, err)
	}
	scale := float64(music.PPQ) / float64(f.PPQ)
	at := func(tick int) int { return int(math.Round(float64(tick) * scale)) }
	out := project.LaySong{Name: strings.TrimSuffix(filepath.Base(name), filepath.Ext(name)), BPM: 120, Song: song.Song{Tempos: []song.Tempo{}, Meters: []song.Meter{}}}
	out.Song.Meters = append(out.Song.Meters, song.Meter{Meter: f.Meter})
	clock := song.NewClock(out.Song, 120)
	for _, m := range f.Meters { // each says where the bars after it begin
		bar := clock.Bar(at(m.Tick))
		if last := &out.Song.Meters[len(out.Song.Meters)-1]; last.Bar == bar {
			last.Meter = m.Meter
		} else if bar > last.Bar {
			out.Song.Meters = append(out.Song.Meters, song.Meter{Bar: bar, Meter: m.Meter})
		}
		clock = song.NewClock(out.Song, 120)
	}
	for i, t := range f.Tempi {
		bpm := math.Round(min(400, max(20, t.BPM))*100) / 100
		if i == 0 {
			out.BPM = bpm
		}
		bar := clock.Bar(at(t.Tick))
		if n := len(out.Song.Tempos); n > 0 && out.Song.Tempos[n-1].Bar == bar {
			continue // within a bar the first counts
		} else if n > 0 && out.Song.Tempos[n-1].BPM == bpm {
			continue
		}
		out.Song.Tempos = append(out.Song.Tempos, song.Tempo{Bar: bar, BPM: bpm})
	}
	byChannel := map[int]*project.Laid{}
	last := 0
	for _, t := range f.Tracks {
		for _, n := range t.Notes {
			in := byChannel[n.Channel]
			if in == nil {
				in = &project.Laid{Name: cmp.Or(t.Name, fmt.Sprintf("channel %d", n.Channel)), Channel: n.Channel}
				byChannel[n.Channel] = in
			}
			last = max(last, at(n.Tick))
			in.Hits = append(in.Hits, pattern.Hit{Note: n.Key, Tick: at(n.Tick), Velocity: n.Velocity, Length: min(64*music.PPQ, at(n.Length))})
		}
	}
	if len(byChannel) == 0 {
		return out, fmt.Errorf("%s: %w: it holds no notes", name, ErrInput)
	}
	for _, in := range byChannel {
		if in.Channel == 10 {
			in.Name = out.Name
		}
		out.Instruments = append(out.Instruments, *in)
	}
	slices.SortFunc(out.Instruments, func(a, b project.Laid) int {
		return cmp.Or(cmp.Compare(percussionFirst(a), percussionFirst(b)), cmp.Compare(a.Channel, b.Channel))
	})
	out.Bars = min(song.MaxBars, clock.Bar(last+music.PPQ/16)+1)
	return out, nil
}

// SongPlan is what importing a MIDI file as a song would come to.
type SongPlan struct {
	Name        string   `json:"name"`
	Bars        int      `json:"bars"`
	Patterns    int      `json:"patterns"` // equal bars share one
	Hits        int      `json:"hits"`
	Instruments []string `json:"instruments"`
	Tempi       int      `json:"tempi"`
	Meters      int      `json:"meters"`
	TakesTempo  bool     `json:"takesTempo"` // the song is empty, and takes them
}

// PlanSongMIDI says what importing a MIDI file as a song would come to; nothing is kept.
func (b *Bench) PlanSongMIDI(projectID, name string, data []byte, bar int) (SongPlan, error) {
	lay, err := SongFromMIDI(name, data)
	if err != nil {
		return SongPlan{}, err
	}
	lay.Bar = bar
	state, err := b.State(projectID)
	if err != nil {
		return SongPlan{}, err
	}
	d := project.NewDraft(state, b)
	if _, err := lay.Apply(d); err != nil {
		return SongPlan{}, err
	}
	plan := SongPlan{Name: lay.Name, Bars: lay.Bars, Patterns: d.Result.Patterns, Hits: d.Result.Hits, Tempi: len(lay.Song.Tempos), Meters: len(lay.Song.Meters),
		TakesTempo: d.Result.TookTempo}
	for _, in := range lay.Instruments {
		plan.Instruments = append(plan.Instruments, in.Name)
	}
	return plan, nil
}

// ImportSongMIDI lays a MIDI file on the song, from a bar on.
func (b *Bench) ImportSongMIDI(projectID string, revision int64, name string, data []byte, bar int) (store.Done, []project.Result, error) {
	lay, err := SongFromMIDI(name, data)
	if err != nil {
		return store.Done{}, nil, err
	}
	lay.Bar = bar
	return b.do(projectID, revision, "", &lay)
}

func percussionFirst(l project.Laid) int {
	if l.Channel == 10 {
		return 0
	}
	return 1
}
