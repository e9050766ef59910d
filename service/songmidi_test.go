package service

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"hexachord/core/music"
	"hexachord/format/smf"
)

// A MIDI file of eight bars in 4/4 and 7/8 with a change of tempo, percussion and a bass: equal bars become one pattern, the bass a part of its
// own on its channel, its tempi and meters those of the song; and the song that is written again sounds at the same moments.
func TestASongComesFromMIDIAndGoesAgain(t *testing.T) {
	b := open(t, t.TempDir())
	p := emptySong(t, b)
	f := smf.File{PPQ: 480, Meter: music.CommonTime, Tempi: []smf.TempoChange{{BPM: 100}, {Tick: 4 * 1920, BPM: 125}},
		Meters: []smf.MeterChange{{Tick: 6 * 1920, Meter: music.Meter{Beats: 7, Unit: 8}}}, EndsAt: 6*1920 + 2*1680}
	drums, bass := smf.Track{Name: "drums"}, smf.Track{Name: "bass"}
	for bar := range 8 {
		at := min(bar, 6)*1920 + max(0, bar-6)*1680
		drums.Notes = append(drums.Notes, smf.Note{Tick: at, Length: 10, Channel: 10, Key: 36, Velocity: 100}, smf.Note{Tick: at + 960, Length: 10, Channel: 10, Key: 38, Velocity: 90})
		if bar == 3 {
			drums.Notes = append(drums.Notes, smf.Note{Tick: at + 1680, Length: 10, Channel: 10, Key: 38, Velocity: 60})
		}
		if bar%2 == 0 {
			bass.Notes = append(bass.Notes, smf.Note{Tick: at, Length: 400, Channel: 2, Key: 40, Velocity: 80})
		}
	}
	f.Tracks = []smf.Track{bass, drums}
	data := smf.Encode(f)
	plan, err := b.PlanSongMIDI(p.ID, "whole.mid", data, 0)
	if err != nil || plan.Bars != 8 || fmt.Sprint(plan.Instruments) != "[whole bass]" || plan.Tempi != 2 || plan.Meters != 2 || !plan.TakesTempo || plan.Hits != 17+4 {
		t.Fatalf("planned %+v, %v", plan, err)
	}
	// of the drums: the bar, that with a stroke more, and the bar in 7/8; of the bass: with and without, and both in 7/8
	if plan.Patterns != 3+4 {
		t.Errorf("%d patterns", plan.Patterns)
	}
	if again, _ := b.Load(p.ID); again.Revision != p.Revision {
		t.Error("planning changed the project")
	}
	done, _, err := b.ImportSongMIDI(p.ID, p.Revision, "whole.mid", data, 0)
	if err != nil {
		t.Fatal(err)
	}
	now := done.Project
	if len(now.Parts) != 1 || now.In(now.Parts[0].ID).Settings.Output.Channel != 2 || now.SongEnd() != 8 || len(now.Song.Tempos) != 2 || now.Song.Tempos[1].Bar != 4 {
		t.Errorf("imported: %d parts, %d bars, %+v", len(now.Parts), now.SongEnd(), now.Song)
	}
	written, err := b.SongMIDI(now)
	if err != nil {
		t.Fatal(err)
	}
	back, err := smf.Decode(written)
	if err != nil {
		t.Fatal(err)
	}
	if len(back.Meters) != 1 || back.Meters[0].Tick != 6*3840 || back.Meters[0].Meter.Beats != 7 || len(back.Tempi) != 2 || math.Abs(back.Tempi[1].BPM-125) > 1e-3 || back.Tempi[1].Tick != 4*3840 {
		t.Errorf("written again: %+v %+v", back.Meters, back.Tempi)
	}
	counts := map[int]int{}
	for _, track := range back.Tracks {
		for _, n := range track.Notes {
			counts[n.Channel]++
			if n.Channel == 2 && !strings.HasPrefix(track.Name, "bass") {
				t.Errorf("the bass is called %q", track.Name)
			}
		}
	}
	if counts[10] != 17 || counts[2] != 4 {
		t.Errorf("notes by channel: %v", counts)
	}
	if _, err := b.PlanSongMIDI(p.ID, "x.mid", []byte("MThd"), 0); err == nil {
		t.Error("a file that ends too early was taken")
	}
	if _, err := b.PlanSongMIDI(p.ID, "x.mid", smf.Encode(smf.File{PPQ: 96, Meter: music.CommonTime}), 0); err == nil {
		t.Error("a file without notes was taken")
	}
}
