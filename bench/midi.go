package bench

import (
	"fmt"
	"math"
	"path/filepath"
	"sort"
	"strings"

	"hexachord/core/drummap"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/format/smf"
	"hexachord/store"
)

// MIDI writes a pattern as a type 1 file at 960 PPQ: tempo, meter, one named track a lane that has hits,
// channel 10. Splits are written as their strokes. Swing is a feel and is not written; a hit that leads
// into bar 1 is written at tick 0.
func MIDI(p store.Project, pt pattern.Pattern) []byte {
	f := smf.File{PPQ: music.PPQ, Meter: pt.Meter, Tempi: []smf.TempoChange{{BPM: p.Settings.BPM}}, EndsAt: pt.LengthTicks()}
	byNote := map[int][]smf.Note{}
	cell := pt.CellTicks()
	for _, h := range pt.Hits {
		strokes := h.Strokes(cell)
		length := h.Length / len(strokes)
		if length == 0 {
			length = min(music.PPQ/8, cell/len(strokes))
		}
		for _, s := range strokes {
			at := max(0, h.Tick+int(math.Round(s.OffsetTicks)))
			byNote[h.Note] = append(byNote[h.Note], smf.Note{Tick: at, Length: length, Channel: 10, Key: h.Note, Velocity: s.Velocity})
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

// Imported reports what came in from a MIDI file.
type Imported struct {
	PatternID string   `json:"patternId"`
	Hits      int      `json:"hits"`
	BPM       float64  `json:"bpm"`     // the file's first tempo, 0 when it has none; the project keeps its own
	Cut       int      `json:"cut"`     // notes after the longest pattern's end
	Doubled   int      `json:"doubled"` // notes on a note and tick that already had one; the harder stays
	NoLane    []NoLane `json:"noLane"`  // notes no lane of the map has; they are kept in the pattern
}

// NoLane counts the hits on one note that no lane has.
type NoLane struct {
	Note int    `json:"note"`
	Name string `json:"name"` // General MIDI name, "" when it has none
	Hits int    `json:"hits"`
}

// PatternFromMIDI reads the percussion of a MIDI file (channel 10; all channels when that is empty) as a pattern.
func PatternFromMIDI(name string, data []byte, m drummap.Map) (pattern.Pattern, Imported, error) {
	f, err := smf.Decode(data)
	if err != nil {
		return pattern.Pattern{}, Imported{}, fmt.Errorf("%s: %w", name, err)
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
		return pattern.Pattern{}, Imported{}, fmt.Errorf("%s: %w: it holds no notes", name, ErrInput)
	}
	in := Imported{NoLane: []NoLane{}}
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
		Bars: min(music.MaxBars, max(1, bars)), Hits: []pattern.Hit{}}
	at := map[pattern.Key]int{}
	homeless := map[int]int{}
	for _, n := range notes {
		h := pattern.Hit{Note: n.Key, Tick: int(math.Round(float64(n.Tick) * scale)), Velocity: n.Velocity,
			Length: min(p.LengthTicks(), int(math.Round(float64(n.Length)*scale)))}
		if h.Tick >= p.LengthTicks() {
			in.Cut++
			continue
		}
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
		in.NoLane = append(in.NoLane, NoLane{note, drummap.GMName(note), hits})
	}
	sort.Slice(in.NoLane, func(i, j int) bool { return in.NoLane[i].Note < in.NoLane[j].Note })
	in.Hits = len(p.Hits)
	return p, in, p.Check()
}

// ImportMIDI adds the pattern of a MIDI file to a project.
func (b *Bench) ImportMIDI(projectID string, revision int64, name string, data []byte) (Imported, int64, error) {
	p, err := b.Load(projectID)
	if err != nil {
		return Imported{}, revision, err
	}
	pt, in, err := PatternFromMIDI(name, data, p.Map)
	if err != nil {
		return in, revision, err
	}
	next, err := b.Edit(projectID, revision, func(tx *store.Tx) string {
		in.PatternID = tx.AddPattern(pt)
		return "Import " + filepath.Base(name)
	})
	return in, next, err
}
