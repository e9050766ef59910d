package service

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/song"
	"hexachord/format/smf"
)

// SongPass finds what the whole song of a project sounds, muted lanes included; it is kept until the project changes.
func (b *Bench) SongPass(p project.Project, rate int) (play.Pass, error) {
	key := fmt.Sprintf("%s %d %d", p.ID, p.Revision, rate)
	if pass, ok := b.songs.Get(key); ok {
		return pass, nil
	}
	pass, err := b.compileSong(p, rate)
	if err == nil {
		b.songs.Add(key, pass)
	}
	return pass, err
}

func (b *Bench) compileSong(p project.Project, rate int) (play.Pass, error) {
	tables := map[string]play.Table{}
	numbers := map[string]int{}
	for n, id := range p.PartIDs() {
		of := p.In(id)
		numbers[id] = n
		t, err := b.partTable(of, rate)
		if err != nil {
			return play.Pass{}, err
		}
		tables[id] = t
	}
	clock := p.Clock()
	var blocks []play.SongBlock
	var sounds []play.SongSound
	for _, s := range p.Blocks {
		block := s.Value
		from, to := clock.Tick(block.Bar), clock.Tick(block.End())
		if block.Muted {
			continue
		}
		if block.Recording != "" {
			sound, ok, err := b.songRecording(p, block, clock, rate)
			if err != nil {
				return play.Pass{}, err
			}
			if ok {
				sounds = append(sounds, sound)
			}
			continue
		}
		pt, err := p.Pattern(block.Pattern)
		if err != nil {
			continue // its pattern is gone: the window says so, the rest plays
		}
		f := p.FeelOf(pt)
		if section, ok := p.SectionOf(block.Bar); ok && section.Feel != nil && pt.Feel == nil {
			pt.Feel = section.Feel
			f = p.FeelOf(pt)
		}
		blocks = append(blocks, play.SongBlock{Pattern: pt, Feel: f, Table: tables[block.Part], Part: numbers[block.Part], FromTick: from, ToTick: to,
			Trimmed: block.FromBar % pt.Bars * pt.Meter.BarTicks(), LeftOut: block.LeftOut})
		for _, id := range p.LayersOf(block.Part) {
			layer := blocks[len(blocks)-1]
			layer.Pattern, layer.Table, layer.Part, layer.LeftOut = p.Layered(pt, block.LeftOut, id), tables[id], numbers[id], nil
			blocks = append(blocks, layer)
		}
	}
	pass := play.Song(clock, blocks, sounds, clock.Tick(p.SongEnd()))
	return pass, b.remember(pass.Tuned...)
}

// SongStretch are some bars of a project's song as a pass of their own, also of one that is only tried; muted lanes and parts are in it.
type SongStretch struct {
	FromBar int `json:"fromBar" minimum:"0" maximum:"1999"`
	ToBar   int `json:"toBar" required:"true" minimum:"1" maximum:"2000"`
	Rate    int `json:"rate" required:"true" minimum:"8000" maximum:"192000"`
}

// SoundSongStretch finds what some bars of a project's song sound, from their beginning.
func (b *Bench) SoundSongStretch(p project.Project, s SongStretch) (play.Pass, error) {
	if s.ToBar <= s.FromBar {
		return play.Pass{}, fmt.Errorf("%w: bars %d to %d are none", ErrInput, s.FromBar+1, s.ToBar)
	}
	pass, err := b.compileSong(p, s.Rate)
	if err != nil {
		return pass, err
	}
	clock := p.Clock()
	fromS, toS := clock.Seconds(float64(clock.Tick(s.FromBar))), clock.Seconds(float64(clock.Tick(s.ToBar)))
	pass = pass.Between(fromS, toS)
	pass.Cues, pass.Strokes = slices.Clone(pass.Cues), slices.Clone(pass.Strokes)
	for i := range pass.Cues {
		pass.Cues[i].AtS -= fromS
	}
	for i := range pass.Strokes {
		pass.Strokes[i].AtS -= fromS
	}
	pass.LengthS = toS - fromS
	return pass, nil
}

// together adds what patterns of other parts sound while one pattern is played once through. A pattern that is gone sounds nothing.
func (b *Bench) together(p project.Project, pass play.Pass, pt pattern.Pattern, others []string, rate int) (play.Pass, error) {
	clock := song.NewClock(song.Song{}, p.Settings.BPM)
	var blocks []play.SongBlock
	for n, id := range p.PartIDs() {
		if id == pt.Part {
			continue
		}
		of := p.In(id)
		for _, other := range others {
			o, err := p.Pattern(other)
			if err != nil || o.Part != id || !p.Heard(id) {
				continue
			}
			t, err := b.partTable(of, rate)
			if err != nil {
				return pass, err
			}
			block := play.SongBlock{Pattern: o, Feel: p.FeelOf(o), Table: t, Part: n + 1, ToTick: pt.LengthTicks()}
			for _, l := range of.Map.Lanes {
				if of.Settings.Silent(l.Note) {
					block.LeftOut = append(block.LeftOut, l.Note)
				}
			}
			blocks = append(blocks, block)
		}
		if slices.Contains(p.LayersOf(pt.Part), id) && p.Heard(id) {
			t, err := b.partTable(of, rate)
			if err != nil {
				return pass, err
			}
			layered := p.Layered(pt, nil, id)
			blocks = append(blocks, play.SongBlock{Pattern: layered, Feel: p.FeelOf(pt), Table: t, Part: n + 1, ToTick: pt.LengthTicks()})
		}
	}
	if len(blocks) == 0 {
		return pass, nil
	}
	beside := play.Song(clock, blocks, nil, pt.LengthTicks())
	pass = pass.Beside(beside)
	return pass, b.remember(beside.Tuned...)
}

// partTable is the kit of the part a project is seen from, compiled; empty where its sounds are elsewhere.
func (b *Bench) partTable(of project.Project, rate int) (play.Table, error) {
	if of.Settings.Output.To == "midi" {
		return play.Table{Rate: rate}, nil
	}
	return b.Table(of.Kit, rate)
}

// songRecordings is the part that recordings are counted as, after all others.
const songRecordings = 63

// songRecording is a recording as it is laid in a song: its bars at the length of the song's, or from there on at its own tempo.
func (b *Bench) songRecording(p project.Project, block song.Block, clock song.Clock, rate int) (play.SongSound, bool, error) {
	r, err := p.Recording(block.Recording)
	if err != nil {
		return play.SongSound{}, false, nil // it is gone: the window says so
	}
	buf, err := b.Decode(r.Audio)
	if err != nil {
		return play.SongSound{}, false, nil
	}
	barTicks := r.Heard.Meter.BarTicks()
	fromS := r.Heard.TimeAt(float64(block.FromBar * barTicks))
	s := play.SongSound{FromTick: clock.Tick(block.Bar), ToTick: clock.Tick(block.End()), LaterS: block.NudgeS, Part: songRecordings}
	songS := clock.Seconds(float64(s.ToTick)) - clock.Seconds(float64(s.FromTick))
	toS := fromS + songS
	form := kit.Whole()
	spec := play.VoiceSpec{Sample: r.Audio, Rate: rate}
	stretch := p.Stretch(block, r)
	if !block.Free {
		toS = r.Heard.TimeAt(float64((block.FromBar + block.Bars) * barTicks))
		if stretch != 1 {
			spec.Stretch = stretch
		}
	}
	// laid later, what comes before its bar is heard in the bar, so that an attack ahead of the grid is not cut
	before := max(0, min(s.LaterS/stretch, fromS))
	fromS -= before
	s.LaterS -= before * stretch
	form.StartFrame = max(0, int(fromS*float64(buf.Rate)))
	form.EndFrame = min(buf.Frames(), int(toS*float64(buf.Rate)))
	if form.EndFrame-form.StartFrame < 2 {
		return s, false, nil
	}
	form.GainDB, form.FadeInMS, form.FadeOutMS = block.LevelDB, block.FadeInS*1000, block.FadeOutS*1000
	spec.Form = form
	s.Voice = spec.ID()
	return s, true, b.remember(spec)
}

// glideStep is how often the tempo of a glide is written to a MIDI file, ticks: every eighth note.
const glideStep = music.PPQ / 2

// SongMIDI writes a song as a Standard MIDI File: its tempi and meters, and a track a lane, with what is laid over its patterns. A glide is
// written in steps that take as long as it does.
func (b *Bench) SongMIDI(p project.Project) ([]byte, error) {
	f, err := b.songSMF(p)
	if err != nil {
		return nil, err
	}
	for _, t := range f.tracks {
		f.File.Tracks = append(f.File.Tracks, t.Track)
	}
	return smf.Encode(f.File), nil
}

// songFile is a song as MIDI, its tracks by the notes they are of, raised by their parts.
type songFile struct {
	smf.File
	tracks []noteTrack
}

type noteTrack struct {
	smf.Track
	note int
}

func (b *Bench) songSMF(p project.Project) (songFile, error) {
	pass, err := b.compileSong(p, 44100)
	if err != nil {
		return songFile{}, err
	}
	clock := p.Clock()
	f := songFile{File: smf.File{PPQ: music.PPQ, Meter: clock.MeterAt(0), EndsAt: clock.Tick(p.SongEnd())}}
	for _, m := range p.Song.Meters {
		if m.Bar > 0 {
			f.Meters = append(f.Meters, smf.MeterChange{Tick: clock.Tick(m.Bar), Meter: m.Meter})
		}
	}
	was := 0.0
	for tick := 0; tick == 0 || tick < f.EndsAt; {
		next := tick + glideStep
		if bar := clock.Tick(clock.Bar(tick) + 1); bar < next { // tempi stand at bars
			next = bar
		}
		bpm := float64(next-tick) * 60 / (music.PPQ * (clock.Seconds(float64(next)) - clock.Seconds(float64(tick))))
		if math.Abs(bpm-was) > 1e-6 {
			f.Tempi = append(f.Tempi, smf.TempoChange{Tick: tick, BPM: bpm})
			was = bpm
		}
		tick = next
	}
	byNote := map[int][]smf.Note{}
	var channels []int
	for _, id := range p.PartIDs() {
		channels = append(channels, p.In(id).Settings.Output.Channel)
	}
	for _, s := range pass.Strokes {
		tick := math.Round(clock.Ticks(s.AtS))
		length := math.Round(clock.Ticks(s.AtS+s.LengthS) - tick)
		byNote[s.Note] = append(byNote[s.Note], smf.Note{Tick: max(0, int(tick)), Length: max(1, int(length)), Channel: channels[s.Note/play.NotesAPart], Key: s.Note & 127, Velocity: s.Velocity})
	}
	parts := p.PartIDs()
	for _, note := range slices.Sorted(maps.Keys(byNote)) {
		name := fmt.Sprintf("note %d", note&127)
		of := p.In(parts[note/play.NotesAPart])
		if l, ok := of.Map.ByNote(note & 127); ok {
			name = l.Name
		}
		if len(parts) > 1 {
			name = of.PartName() + ": " + name
		}
		f.tracks = append(f.tracks, noteTrack{smf.Track{Name: name, Notes: byNote[note]}, note})
	}
	return f, nil
}

// BounceSong prepares a bounce of a project's song, or of some of its bars, through its mix, muted lanes left out; bars 0 and 0 are all. Lanes
// are the notes, raised by their parts, of those that are wanted alone as well.
func (b *Bench) BounceSong(p project.Project, rate, fromBar, toBar int, tail play.Tail, lanes ...int) (*play.Bounce, error) {
	pass, err := b.SongPass(p, rate)
	if err != nil {
		return nil, err
	}
	if p.SongEnd() == 0 {
		return nil, fmt.Errorf("%w: the song is empty; lay a pattern on it first", ErrInput)
	}
	clock := p.Clock()
	if toBar <= fromBar {
		fromBar, toBar = 0, p.SongEnd()
	}
	fromS, toS := clock.Seconds(float64(clock.Tick(fromBar))), clock.Seconds(float64(clock.Tick(toBar)))
	whole := pass
	pass = pass.Between(fromS-0.05, toS)
	if fromBar == 0 {
		pass = whole.Between(math.Inf(-1), toS)
	}
	parts := p.PartIDs()
	cues := make([]play.Cue, 0, len(pass.Cues))
	voices := map[string]play.Voice{}
	for _, c := range pass.Cues {
		if n := c.Note / play.NotesAPart; n < len(parts) && (!p.Heard(parts[n]) || p.In(parts[n]).Settings.Silent(c.Note%play.NotesAPart)) {
			continue
		}
		c.AtS -= fromS
		cues = append(cues, c)
		if _, ok := voices[c.Voice]; !ok {
			if voices[c.Voice], err = b.Voice(c.Voice); err != nil {
				return nil, err
			}
		}
	}
	pass.Cues, pass.LengthS = cues, toS-fromS
	return play.NewBounce(pass, 1, rate, voices, tail, desk(p, rate, songParts(p), lanes))
}
