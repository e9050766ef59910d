package service

import (
	"fmt"
	"math"
	"path/filepath"
	"sort"
	"strings"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/format/smf"
	"hexachord/store"
)

// MIDI writes a pattern as a type 1 file at 960 PPQ: tempo, meter, one named track a lane that has hits,
// channel 10. Splits are written as their strokes; a hit that leads into bar 1 is written at tick 0. As written, the feel
// is left out; sounding, the notes lie and are struck as the first pass plays them.
func MIDI(p project.Project, pt pattern.Pattern, sounding bool) []byte {
	f := smf.File{PPQ: music.PPQ, Meter: pt.Meter, Tempi: []smf.TempoChange{{BPM: p.Settings.BPM}}, EndsAt: pt.LengthTicks()}
	byNote := map[int][]smf.Note{}
	note := func(key, tick, length, velocity int) {
		byNote[key] = append(byNote[key], smf.Note{Tick: max(0, tick), Length: length, Channel: 10, Key: key, Velocity: velocity})
	}
	if sounding {
		pass := play.Cues(pt, p.FeelOf(pt), p.Settings.BPM, play.Table{}, nil)
		for _, s := range pass.Strokes {
			if pass.Sounds(s.When, 0) {
				note(s.Note, music.Ticks(s.AtS, p.Settings.BPM), max(1, music.Ticks(s.LengthS, p.Settings.BPM)), s.Velocity)
			}
		}
	} else {
		for _, h := range pt.Hits {
			cell := pt.CellOf(h.Note)
			strokes := h.Strokes(cell)
			length := h.Length / len(strokes)
			if length == 0 {
				length = min(music.PPQ/8, cell/len(strokes))
			}
			for _, s := range strokes {
				note(h.Note, h.Tick+int(math.Round(s.OffsetTicks)), length, s.Velocity)
			}
		}
	}
	add := func(note int, name string) {
		if notes := byNote[note]; len(notes) > 0 {
			f.Tracks = append(f.Tracks, smf.Track{Name: name, Notes: notes})
			delete(byNote, note)
		}
	}
	for _, l := range p.Map.Lanes {
		add(l.Note, l.Name)
	}
	var rest []int
	for n := range byNote {
		rest = append(rest, n)
	}
	sort.Ints(rest)
	for _, n := range rest {
		add(n, fmt.Sprintf("note %d", n))
	}
	return smf.Encode(f)
}

// PatternFromMIDI reads the percussion of a MIDI file (channel 10; all channels when that is empty) as a pattern, which may be
// longer than one that is kept (pattern.Split).
func PatternFromMIDI(name string, data []byte, m drummap.Map) (pattern.Pattern, project.Result, error) {
	f, err := smf.Decode(data)
	if err != nil {
		return pattern.Pattern{}, project.Result{}, fmt.Errorf("%s: %w", name, err)
	}
	var notes []smf.Note
	for _, only10 := range []bool{true, false} {
		for _, t := range f.Tracks {
			for _, n := range t.Notes {
				if n.Channel == 10 || !only10 {
					notes = append(notes, n)
				}
			}
		}
		if len(notes) > 0 {
			break
		}
	}
	if len(notes) == 0 {
		return pattern.Pattern{}, project.Result{}, fmt.Errorf("%s: %w: it holds no notes", name, ErrInput)
	}
	in := project.Result{}
	if len(f.Tempi) > 0 {
		in.BPM = f.Tempi[0].BPM
	}
	scale := float64(music.PPQ) / float64(f.PPQ)
	last := 0
	for _, n := range notes {
		last = max(last, n.Tick)
	}
	bar := f.Meter.BarTicks()
	bars := (int(float64(max(last+1, f.EndsAt))*scale) + bar - 1) / bar
	p := pattern.Pattern{Name: strings.TrimSuffix(filepath.Base(name), filepath.Ext(name)), Meter: f.Meter, Grid: music.Sixteenths,
		Bars: max(1, bars), Hits: []pattern.Hit{}}
	at := map[pattern.Key]int{}
	homeless := map[int]int{}
	for _, n := range notes {
		h := pattern.Hit{Note: n.Key, Tick: int(math.Round(float64(n.Tick) * scale)), Velocity: n.Velocity,
			Length: min(p.LengthTicks(), int(math.Round(float64(n.Length)*scale)))}
		if k, ok := at[h.Key()]; ok {
			in.Doubled++
			p.Hits[k].Velocity = max(p.Hits[k].Velocity, h.Velocity)
			continue
		}
		at[h.Key()] = len(p.Hits)
		p.Hits = append(p.Hits, h)
		if _, ok := m.ByNote(n.Key); !ok {
			homeless[n.Key]++
		}
	}
	pattern.SortHits(p.Hits)
	for note, hits := range homeless {
		in.NoLane = append(in.NoLane, project.NoLane{Note: note, Name: drummap.GMName(note), Hits: hits})
	}
	sort.Slice(in.NoLane, func(i, j int) bool { return in.NoLane[i].Note < in.NoLane[j].Note })
	in.Hits = len(p.Hits)
	for _, part := range pattern.Split(p, music.MaxBars) { // it is kept so
		if err := part.Check(); err != nil {
			return p, in, err
		}
	}
	return p, in, nil
}

// GrooveMIDI writes a groove as one bar of a MIDI file: in each cell that hits spoke of, a rim stroke where and as hard as
// the groove has it (80 is its mean).
func GrooveMIDI(g feel.Groove) []byte {
	cell, _ := g.Grid.Ticks()
	track := smf.Track{Name: g.Name}
	for i, c := range g.Cells {
		if c.Hits > 0 {
			track.Notes = append(track.Notes, smf.Note{Tick: max(0, i*cell+int(math.Round(c.LeanTicks))), Length: cell / 2, Channel: 10, Key: 37,
				Velocity: min(127, max(1, int(math.Round(80*c.Level))))})
		}
	}
	return smf.Encode(smf.File{PPQ: music.PPQ, Meter: g.Meter, Tempi: []smf.TempoChange{{BPM: 120}}, EndsAt: g.Meter.BarTicks(), Tracks: []smf.Track{track}})
}

// ImportGroove keeps the groove of a MIDI file's percussion.
func (b *Bench) ImportGroove(projectID string, revision int64, name string, data []byte) (store.Done, []project.Result, error) {
	p, err := b.Load(projectID)
	if err != nil {
		return store.Done{}, nil, err
	}
	pt, _, err := PatternFromMIDI(name, data, p.Map)
	if err != nil {
		return store.Done{}, nil, err
	}
	g, err := feel.TakeGroove(pt.Name, project.Played(pt), pt.Meter, pt.Grid)
	if err != nil {
		return store.Done{}, nil, err
	}
	return b.do(projectID, revision, "", &project.AddGroove{Name: pt.Name, Groove: &g, Label: "Import groove " + filepath.Base(name)})
}

// ImportMIDI adds the pattern of a MIDI file to a project, a longer one as several. A project without any hit takes its tempo, too.
func (b *Bench) ImportMIDI(projectID string, revision int64, name string, data []byte) (store.Done, []project.Result, error) {
	p, err := b.Load(projectID)
	if err != nil {
		return store.Done{}, nil, err
	}
	pt, in, err := PatternFromMIDI(name, data, p.Map)
	if err != nil {
		return store.Done{}, nil, err
	}
	var steps []project.Step
	row := pattern.Split(pt, music.MaxBars)
	for i := range row {
		steps = append(steps, &project.AddPattern{Name: row[i].Name, Value: &row[i]})
	}
	beat := false
	for _, other := range p.Patterns {
		beat = beat || len(other.Value.Hits) > 0
	}
	if in.TookTempo = !beat && music.CheckBPM(in.BPM) == nil; in.TookTempo {
		steps = append(steps, &project.SettingsEdit{BPM: &in.BPM})
	}
	done, results, err := b.do(projectID, revision, "Import "+filepath.Base(name), steps...)
	if err == nil {
		in.ID, in.Patterns = results[0].ID, len(row)
		results = []project.Result{in}
	}
	return done, results, err
}
