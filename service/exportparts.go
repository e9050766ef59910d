package service

import (
	"archive/zip"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"

	"hexachord/core/drummap"
	"hexachord/core/mix"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/song"
	"hexachord/core/sound"
	"hexachord/format/smf"
)

// soundingLane is a lane that sounds in what is exported.
type soundingLane struct {
	part, code, name, partName string
	note                       int // raised by the part's number
	lane                       drummap.Lane
	outputs                    []int
}

func (l soundingLane) words() map[string]string {
	return map[string]string{"code": l.code, "what": l.name, "part": l.partName, "note": fmt.Sprint(l.lane.Note)}
}

// sounding are the lanes that have hits in what is exported and are heard, in the order they are shown.
func (w *exportWork) sounding() ([]soundingLane, error) {
	hits := map[string]map[int]bool{} // by part
	add := func(pt pattern.Pattern, leftOut []int) {
		if hits[pt.Part] == nil {
			hits[pt.Part] = map[int]bool{}
		}
		for _, h := range pt.Hits {
			if !slices.Contains(leftOut, h.Note) {
				hits[pt.Part][h.Note] = true
			}
		}
	}
	recordings := false
	if w.e.Of == "pattern" {
		pt, err := w.p.Pattern(w.e.Pattern)
		if err != nil {
			return nil, err
		}
		add(pt, nil)
	} else {
		for _, b := range w.p.Blocks {
			if b.Value.Muted {
				continue
			}
			recordings = recordings || b.Value.Recording != ""
			if pt, err := w.p.Pattern(b.Value.Pattern); err == nil {
				add(pt, b.Value.LeftOut)
				for _, id := range w.p.LayersOf(pt.Part) {
					add(w.p.Layered(pt, b.Value.LeftOut, id), nil)
				}
			}
		}
	}
	var out []soundingLane
	for n, id := range w.p.PartIDs() {
		of := w.p.In(id)
		if of.Settings.Output.To == "midi" || w.e.Of == "song" && !w.p.Heard(id) {
			continue
		}
		name, raised := "", 0
		if len(w.p.Parts) > 0 {
			name = of.PartName()
		}
		if w.e.Of == "song" {
			raised = n * play.NotesAPart
		}
		for _, l := range of.Map.Lanes {
			if hits[id][l.Note] && !of.Settings.Silent(l.Note) {
				out = append(out, soundingLane{part: id, code: l.Code, name: l.Name, partName: name, note: raised + l.Note, lane: l, outputs: w.p.Mix.OutputsOf(id, l.Note)})
			}
		}
	}
	if recordings {
		out = append(out, soundingLane{part: mix.Recordings, code: "REC", name: "recordings", note: songRecordings * play.NotesAPart, outputs: w.p.Mix.OutputsOf(mix.Recordings, 0)})
	}
	return out, nil
}

func codesOf(lanes []soundingLane, output int) (codes []string) {
	for _, l := range lanes {
		if slices.Contains(l.outputs, output) {
			codes = append(codes, l.code)
		}
	}
	return codes
}

// songMarks mark each bar of a stretch of the song, sections by their names.
func songMarks(p project.Project, from, to, rate int) sound.Marks {
	clock := p.Clock()
	m := sound.Marks{Text: tempoText(p)}
	begins := clock.Seconds(float64(clock.Tick(from)))
	for bar := from; bar < to; bar++ {
		m.Cues = append(m.Cues, int((clock.Seconds(float64(clock.Tick(bar)))-begins)*float64(rate)+0.5))
		name := fmt.Sprintf("bar %d", bar+1)
		if s, ok := p.SectionOf(bar); ok && s.Bar == bar {
			name += ": " + s.Name
		}
		m.Names = append(m.Names, name)
	}
	return m
}

func patternMarks(p project.Project, pt pattern.Pattern, passes, rate int) sound.Marks {
	m := sound.Marks{Text: tempoText(p)}
	clock := song.NewClock(song.Song{}, p.Settings.BPM)
	for bar := range pt.Bars * passes {
		m.Cues = append(m.Cues, int(clock.Seconds(float64(bar*pt.Meter.BarTicks()))*float64(rate)+0.5))
		m.Names = append(m.Names, fmt.Sprintf("bar %d", bar+1))
	}
	return m
}

func tempoText(p project.Project) string { return fmt.Sprintf("%g BPM", p.Settings.BPM) }

// midiFile is a MIDI file of an export, and the words it is named by.
type midiFile struct {
	words map[string]string
	data  []byte
}

// midiFiles are the MIDI files of an export: one, or one a lane, those of parts that play to MIDI too.
func (w *exportWork) midiFiles() ([]midiFile, error) {
	if w.e.MIDI == "" {
		return nil, nil
	}
	p := w.p
	if w.e.Straight {
		p = p.Straight()
	}
	if w.e.Of == "pattern" { // as a song of one block
		pt, err := p.Pattern(w.e.Pattern)
		if err != nil {
			return nil, err
		}
		p.Blocks = []project.Stored[song.Block]{{ID: "b", Value: song.Block{Part: pt.Part, Pattern: w.e.Pattern, Bars: pt.Bars * max(1, w.e.Passes)}}}
		p.Sections, p.Song = nil, song.Song{Meters: []song.Meter{{Meter: pt.Meter}}}
	}
	f, err := w.b.songSMF(p)
	if err != nil {
		return nil, err
	}
	parts := p.PartIDs()
	var out []midiFile
	whole := smf.Track{Name: p.Title()}
	for _, t := range f.tracks {
		of := p.In(parts[t.note/play.NotesAPart])
		l, known := of.Map.ByNote(t.note % play.NotesAPart)
		track := smf.Track{Name: t.Name, Notes: slices.Clone(t.Notes)}
		if known && w.e.GM {
			for i := range track.Notes {
				track.Notes[i].Key = l.Role.Note()
			}
		}
		switch w.e.MIDI {
		case "files":
			one := f.File
			one.Tracks = []smf.Track{track}
			words := map[string]string{"what": t.Name, "code": l.Code, "note": fmt.Sprint(t.note % play.NotesAPart)}
			if len(parts) > 1 {
				words["part"] = of.PartName()
			}
			out = append(out, midiFile{words, smf.Encode(one)})
		case "one":
			whole.Notes = append(whole.Notes, track.Notes...)
		default:
			f.Tracks = append(f.Tracks, track)
		}
	}
	if w.e.MIDI == "files" {
		return out, nil
	}
	if w.e.MIDI == "one" {
		slices.SortStableFunc(whole.Notes, func(a, b smf.Note) int { return a.Tick - b.Tick })
		f.Tracks = []smf.Track{whole}
	}
	return []midiFile{{map[string]string{"what": "all"}, smf.Encode(f.File)}}, nil
}

// zipFiles writes the files of an export as one zip, block by block.
func zipFiles(out io.Writer, s ExportState) error {
	z := zip.NewWriter(out)
	for _, f := range s.Files {
		if !f.Done {
			continue
		}
		h := &zip.FileHeader{Name: f.Name, Method: zip.Store, Modified: s.At}
		w, err := z.CreateHeader(h)
		if err != nil {
			return err
		}
		in, err := os.Open(filepath.Join(s.Folder, f.Name))
		if err != nil {
			return err
		}
		_, err = io.Copy(w, in)
		_ = in.Close()
		if err != nil {
			return err
		}
	}
	return z.Close()
}
