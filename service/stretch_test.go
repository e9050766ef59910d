package service

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math"
	"reflect"
	"strings"
	"testing"
	"time"

	"hexachord/core/hear"
	"hexachord/core/mix"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/song"
	"hexachord/demo"
	"hexachord/format/smf"
	"hexachord/format/wav"
)

// fourBars is a song of four bars: two at 120, from the third on half as fast, a section over the last two.
func fourBars(t testing.TB, b *Bench) project.Project {
	t.Helper()
	p := emptySong(t, b)
	return b.lay(t, p, block(p.Patterns[0].ID, 0, 4), project.Edit{Song: &project.SongEdit{
		Song:     &song.Song{Tempos: []song.Tempo{{Bar: 0, BPM: 120}, {Bar: 2, BPM: 60}}, Meters: []song.Meter{}},
		Sections: []project.SectionPut{{Section: song.Section{Name: "slow half", Bar: 2, Bars: 2}}},
	}})
}

// Bars 2 and 3 of four, the first 2 s long and the second 4 s, are what the whole song has there, from 0 on.
func TestAStretchOfTheSong(t *testing.T) {
	b := open(t, t.TempDir())
	p := fourBars(t, b)
	whole, err := b.SongPass(p, 44100)
	if err != nil || math.Abs(whole.LengthS-12) > 1e-9 {
		t.Fatalf("the song lasts %.3f s, %v; want 12", whole.LengthS, err)
	}
	part, err := b.SoundSongStretch(p, SongStretch{FromBar: 1, ToBar: 3, Rate: 44100})
	if err != nil || math.Abs(part.LengthS-6) > 1e-9 {
		t.Fatalf("the stretch lasts %.3f s, %v; want 6", part.LengthS, err)
	}
	type stroke struct {
		at, note string
		velocity int
	}
	of := func(pass play.Pass, fromS, toS float64) (all []stroke) {
		for _, c := range pass.Cues {
			// what is struck a little before the stretch's first beat belongs to it
			if c.AtS >= fromS-0.02 && c.AtS < toS-0.02 {
				all = append(all, stroke{fmt.Sprintf("%.6f", c.AtS-fromS), fmt.Sprint(c.Note, c.Voice), c.Velocity})
			}
		}
		return all
	}
	want, got := of(whole, 2, 8), of(part, 0, 6)
	if len(want) < 8 || !reflect.DeepEqual(got, want) {
		t.Errorf("the stretch has %d cues, the song there %d:\n%v\n%v", len(got), len(want), got, want)
	}
	for _, c := range part.Cues {
		if c.AtS >= 6 {
			t.Errorf("a cue at %.3f s lies after the stretch", c.AtS)
		}
	}
	for _, none := range []SongStretch{{FromBar: 2, ToBar: 2, Rate: 44100}, {FromBar: 3, ToBar: 1, Rate: 44100}} {
		if _, err := b.SoundSongStretch(p, none); !errors.Is(err, ErrInput) {
			t.Errorf("bars %d to %d: %v", none.FromBar, none.ToBar, err)
		}
	}
}

// A bar of 4/4 lasts 2 s at 120 and 4 s at 60: the marks of an export stand there, in frames, and say where a section begins.
func TestMarksOfASong(t *testing.T) {
	b := open(t, t.TempDir())
	p := fourBars(t, b)
	m := songMarks(p, 0, 4, 48000)
	if want := []int{0, 96000, 192000, 384000}; !reflect.DeepEqual(m.Cues, want) {
		t.Errorf("bars at frames %v, want %v", m.Cues, want)
	}
	if want := []string{"bar 1", "bar 2", "bar 3: slow half", "bar 4"}; !reflect.DeepEqual(m.Names, want) {
		t.Errorf("called %q, want %q", m.Names, want)
	}
	if m = songMarks(p, 2, 4, 48000); !reflect.DeepEqual(m.Cues, []int{0, 192000}) {
		t.Errorf("of the second half: %v", m.Cues)
	}
}

// Patterns of other parts go round beside one for as long as it lasts, unless their part or their lane is muted; a pattern of the same part
// does not, and one that is gone sounds nothing.
func TestPatternsOfOtherPartsSoundBeside(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	first, other := "", p.Patterns[1].ID
	p = b.lay(t, p, project.Edit{AddPart: &project.AddPart{Name: "second", CopyOf: &first}})
	part := p.PartIDs()[1]
	inPart := func(p project.Project, e project.Edit) project.Project {
		t.Helper()
		done, _, err := b.Edit(t.Context(), p.ID, p.Revision, Edits{Edits: []Edit{{Edit: e}}, Part: part})
		if err != nil {
			t.Fatal(err)
		}
		return done.Project
	}
	p = inPart(p, project.Edit{AddPattern: &project.AddPattern{Name: "beside", Value: &pattern.Pattern{Name: "beside", Bars: 1, Meter: music.CommonTime, Grid: "1/16",
		Hits: []pattern.Hit{{Note: 36, Tick: 0, Velocity: 100}, {Note: 38, Tick: 960, Velocity: 100}}}}})
	beside := ""
	for _, o := range p.Patterns {
		if o.Value.Part == part {
			beside = o.ID
		}
	}
	if beside == "" {
		t.Fatal("the new part has no pattern")
	}
	cues := func(p project.Project, with ...string) int {
		t.Helper()
		s, err := b.Sound(p, Sounding{Pattern: p.Patterns[0].ID, Rate: 44100, With: with})
		if err != nil {
			t.Fatal(err)
		}
		return len(s.Pass.Cues)
	}
	alone, bars := cues(p), p.Patterns[0].Value.Bars
	if got := cues(p, beside); got != alone+2*bars {
		t.Errorf("%d cues with two more in each of %d bars, %d alone", got, bars, alone)
	}
	if got := cues(p, other); got != alone {
		t.Errorf("with a pattern of the same part: %d cues, %d alone", got, alone)
	}
	if got := cues(p, "gone"); got != alone {
		t.Errorf("with a pattern that is gone: %d cues, %d alone", got, alone)
	}
	mute := true
	muted := inPart(p, project.Edit{Part: &project.PartEdit{ID: part, Muted: &mute}})
	if got := cues(muted, beside); got != alone {
		t.Errorf("with the part muted: %d cues, %d alone", got, alone)
	}
}

// A hearing that is cancelled says so and leaves the project as it was; afterwards the ticket is free.
func TestAHearingIsCancelled(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	file, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	buf, _, err := wav.Decode(file.Data)
	if err != nil {
		t.Fatal(err)
	}
	long := buf.Clone()
	for long.Seconds() < 60 { // long enough to be caught
		for c := range long.Channels {
			long.Channels[c] = append(long.Channels[c], buf.Channels[c]...)
		}
	}
	data, err := wav.Encode(long, wav.PCM16)
	if err != nil {
		t.Fatal(err)
	}
	done := make(chan error)
	go func() {
		_, _, err := b.Hear(context.Background(), p.ID, "long.wav", data, "ticket", hear.Options{})
		done <- err
	}()
	for {
		if _, ok := b.Progress("ticket"); ok {
			break
		}
		time.Sleep(time.Millisecond)
	}
	b.CancelHearing("another") // none of its
	b.CancelHearing("ticket")
	if err := <-done; !errors.Is(err, context.Canceled) {
		t.Errorf("cancelled, it says %v", err)
	}
	if now := load(t, b, p.ID); now.Revision != p.Revision || len(now.Recordings) != len(p.Recordings) {
		t.Errorf("cancelled, the project went from revision %d with %d recordings to %d with %d", p.Revision, len(p.Recordings), now.Revision, len(now.Recordings))
	}
	if _, ok := b.Progress("ticket"); ok {
		t.Error("the ticket is still held")
	}
}

// A map can be read from what a MIDI file plays: a track of one note names it, others are named by General MIDI, and what has no name
// there by its number; the highest stands first.
func TestAMapFromAMIDIFile(t *testing.T) {
	note := func(key int) smf.Note { return smf.Note{Length: 10, Channel: 10, Key: key, Velocity: 100} }
	data := smf.Encode(smf.File{PPQ: 480, Meter: music.CommonTime, Tempi: []smf.TempoChange{{BPM: 120}}, Tracks: []smf.Track{
		{Name: "Gran cassa", Notes: []smf.Note{note(36)}}, {Name: "kit", Notes: []smf.Note{note(38), note(100), note(36)}}}})
	m, err := ReadMap("verse two.mid", data, 3)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, l := range m.Lanes {
		got = append(got, fmt.Sprint(l.Note, " ", l.Name))
	}
	if want := []string{"100 note 100", "38 Acoustic Snare", "36 Gran cassa"}; !reflect.DeepEqual(got, want) || m.Name != "verse two" {
		t.Errorf("map %q: %q, want %q", m.Name, got, want)
	}
	for name, data := range map[string][]byte{"map.txt": data, "broken.mid": data[:20], "broken.midnam": []byte("<"), "broken.csv": []byte("\"")} {
		if _, err := ReadMap(name, data, 3); err == nil {
			t.Errorf("%s was read", name)
		}
	}
}

// A map can be made from what lies on a kit's pads: a lane for each pad that has a sound, called as the sound is.
func TestAMapFromTheKit(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	m := b.MapFromKit(p)
	pads := p.Kit.WithSounds()
	if len(m.Lanes) == 0 || len(m.Lanes) != len(pads.Pads) {
		t.Fatalf("%d lanes for %d pads with sounds", len(m.Lanes), len(pads.Pads))
	}
	if err := m.Check(); err != nil {
		t.Error(err)
	}
	kick, ok := m.ByNote(36)
	if !ok || !strings.Contains(strings.ToLower(kick.Name), "kick") || kick.Role.Note() != 36 {
		t.Errorf("note 36 is %+v", kick)
	}
}

// The window is given the room's response as it is computed, both sides of it.
func TestTheRoomsVoice(t *testing.T) {
	p := project.Project{}
	p.Mix.Room = mix.NewRoom()
	data, err := RoomVoice(p, 44100)
	if err != nil {
		t.Fatal(err)
	}
	got, info, err := wav.Decode(bytes.Clone(data))
	if err != nil || !info.Float || got.Rate != 44100 || len(got.Channels) != 2 {
		t.Fatalf("%d channels at %d, float %v, %v", len(got.Channels), got.Rate, info.Float, err)
	}
	for side, want := range p.Mix.Room.Response(44100) {
		if len(want) == 0 || got.Frames() != len(want) {
			t.Fatalf("%d frames of %d", got.Frames(), len(want))
		}
		for i, v := range want {
			if got.Channels[side][i] != float32(v) {
				t.Fatalf("side %d, frame %d: %g, not %g", side, i, got.Channels[side][i], v)
			}
		}
	}
}
