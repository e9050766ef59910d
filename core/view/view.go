// Package view finds what a window needs beside the documents of a project: lanes that are missing, faults of ladders,
// doubts, swatches, proposals, where a live strike falls; and what of all that an edit has changed.
package view

import (
	"math"
	"slices"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/project"
	"hexachord/core/song"
	"hexachord/core/take"
)

// Project is everything a window shows of a project.
type Project struct {
	ID         string                            `json:"id"`
	Name       string                            `json:"name"`  // "" as long as nobody named it
	Title      string                            `json:"title"` // what it is called then
	Revision   int64                             `json:"revision"`
	Settings   project.Settings                  `json:"settings"`
	Map        drummap.Map                       `json:"map"`
	Kit        kit.Kit                           `json:"kit"`
	Patterns   []project.Stored[pattern.Pattern] `json:"patterns"`
	Recordings []Recording                       `json:"recordings"`
	Grooves    []project.Stored[feel.Groove]     `json:"grooves"`
	Passes     []Pass                            `json:"passes"`
	Part       string                            `json:"part"`  // from which part it is seen, "" the first: whose map, kit and lanes these are
	Parts      []Part                            `json:"parts"` // the first, and those beside it
	Song       Song                              `json:"song"`
	Blocks     []project.Stored[song.Block]      `json:"blocks"` // of the song, by ID
	Mix        Mix                               `json:"mix"`
	Undo       string                            `json:"undo"` // what undo would take back, "" for nothing
	Redo       string                            `json:"redo"`
	Missing    []NoLane                          `json:"missing"`  // notes that patterns use and no lane has
	Swatches   []drummap.Swatch                  `json:"swatches"` // of the lane colours that are a person's own
	Ladders    []Ladder                          `json:"ladders"`  // what is wrong with pads' layers
	Codes      map[int]string                    `json:"codes"`    // for each lane (note) a two-letter code no other lane has
}

// Pass is a recorded pass as a window lists it.
type Pass struct {
	ID       string        `json:"id"`
	Pattern  string        `json:"pattern"` // its ID
	Hits     int           `json:"hits"`
	Notes    []int         `json:"notes"` // the lanes it was played on
	Keys     []pattern.Key `json:"keys"`  // the hits it wrote
	Replace  bool          `json:"replace"`
	Muted    bool          `json:"muted"`
	Quantise take.Quantise `json:"quantise"`
	// LeanMS is how far off the grid it was played in the mean, ms late (early below 0), and Softest and Hardest its velocities.
	LeanMS  float64 `json:"leanMS"`
	Softest int     `json:"softest"`
	Hardest int     `json:"hardest"`
}

func pass(p project.Project, s project.Stored[project.Pass]) Pass {
	v := Pass{ID: s.ID, Pattern: s.Value.Pattern, Hits: len(s.Value.Played), Notes: s.Value.Notes(), Keys: s.Value.Keys(), Replace: s.Value.Replace,
		Muted: s.Value.Muted, Quantise: s.Value.Quantise, Softest: 127}
	pt, err := p.Pattern(s.Value.Pattern)
	for _, played := range s.Value.Played {
		v.Softest, v.Hardest = min(v.Softest, played.Velocity), max(v.Hardest, played.Velocity)
		if err == nil {
			v.LeanMS += StrikeLean(p, pt, played.Note, music.Seconds(played.At, p.Settings.BPM)) / float64(len(s.Value.Played))
		}
	}
	return v
}

// Ladder are the velocities at which a pad's layers leave a gap, or lie over each other.
type Ladder struct {
	Note     int         `json:"note"`
	Gaps     []kit.Range `json:"gaps"`
	Overlaps []kit.Range `json:"overlaps"`
}

// NoLane is a note of which a pattern has hits and the map no lane.
type NoLane struct {
	Note     int      `json:"note"`
	Hits     int      `json:"hits"`
	Patterns []string `json:"patterns"` // their names
}

// Recording is a recording with its hits on the project's lanes.
type Recording struct {
	ID       string          `json:"id"`
	Name     string          `json:"name"`
	Audio    string          `json:"audio"` // SHA-256 of the file; the shelf has it as a sample
	Seconds  float64         `json:"seconds"`
	Heard    hear.Hearing    `json:"heard"`
	Lanes    []int           `json:"lanes"`    // for each hit the note of its lane, −1 when the map has none
	Doubtful []bool          `json:"doubtful"` // for each hit whether nobody is sure of it yet
	OrLanes  []int           `json:"orLanes"`  // for each hit the note of the other lane it may belong to, −1 for none
	EndS     float64         `json:"endS"`     // where the last bar ends
	Beats    []float64       `json:"beats"`    // when each beat begins, and the last one's end, seconds from the first frame
	Clean    []hear.Proposal `json:"clean"`    // what could be taken out
}

// Of is a project as a window shows it.
func Of(p project.Project) Project {
	v := Project{ID: p.ID, Name: p.Name, Title: p.Title(), Revision: p.Revision, Settings: p.Settings, Map: p.Map, Kit: p.Kit, Patterns: p.Patterns,
		Grooves: p.Grooves, Undo: p.Undo, Redo: p.Redo, Missing: missing(p), Swatches: swatches(p.Map), Ladders: ladders(p.Kit), Codes: codes(p.Map),
		Recordings: []Recording{}, Passes: []Pass{}, Part: p.Part, Parts: partsOf(p), Song: SongOf(p), Blocks: blocksOf(p), Mix: mixOf(p)}
	for _, s := range p.Passes {
		v.Passes = append(v.Passes, pass(p, s))
	}
	for _, r := range p.Recordings {
		v.Recordings = append(v.Recordings, RecordingOf(p, r))
	}
	return v
}

// Part is a part as a window lists it.
type Part struct {
	ID string `json:"id"` // "" is the first
	project.PartFacts
	Title  string         `json:"title"` // its name, or its kit's
	Kit    string         `json:"kit"`
	Output project.Output `json:"output"`
	Layers *string        `json:"layers,omitempty"` // the part whose patterns it plays too
	Heard  bool           `json:"heard"`            // neither muted nor beside one that is soloed
	// Silent are the notes of its lanes that are not heard.
	Silent []int          `json:"silent"`
	Lanes  []drummap.Lane `json:"lanes"`
}

func partsOf(p project.Project) []Part {
	var out []Part
	for _, id := range p.PartIDs() {
		of := p.In(id)
		v := Part{ID: id, PartFacts: of.Facts(), Title: of.PartName(), Kit: of.Kit.Name, Output: of.Settings.Output, Heard: p.Heard(id), Silent: []int{}, Lanes: of.Map.Lanes}
		for _, s := range p.Parts {
			if s.ID == id {
				v.Layers = s.Value.Layers
			}
		}
		for _, l := range of.Map.Lanes {
			if !v.Heard || of.Settings.Silent(l.Note) {
				v.Silent = append(v.Silent, l.Note)
			}
		}
		out = append(out, v)
	}
	return out
}

func ladders(k kit.Kit) []Ladder {
	out := []Ladder{}
	for _, pad := range k.Pads {
		if gaps, overlaps := pad.Ladder(); len(pad.Layers) > 0 && len(gaps)+len(overlaps) > 0 {
			out = append(out, Ladder{pad.Note, append([]kit.Range{}, gaps...), append([]kit.Range{}, overlaps...)})
		}
	}
	return out
}

func swatches(m drummap.Map) []drummap.Swatch {
	out := []drummap.Swatch{}
	own := map[drummap.Family]bool{}
	for _, l := range m.Lanes {
		if l.Color.Custom() && !own[l.Color] {
			own[l.Color] = true
			out = append(out, drummap.SwatchOf(l.Color))
		}
	}
	return out
}

// RecordingOf is a recording as a window shows it, with p's lanes.
func RecordingOf(p project.Project, r project.Stored[project.Recording]) Recording {
	h := r.Value.Heard
	v := Recording{ID: r.ID, Name: r.Value.Name, Audio: r.Value.Audio, Seconds: r.Value.Seconds, Heard: h, Lanes: []int{}, Doubtful: []bool{},
		OrLanes: []int{}, EndS: h.EndS(), Beats: []float64{}, Clean: h.Proposals(p.LaneOf)}
	for n := 0; n <= h.Bars*h.Meter.Beats; n++ {
		v.Beats = append(v.Beats, h.TimeAt(float64(n*h.Meter.BeatTicks())))
	}
	for _, hit := range h.Hits {
		other := -1
		if l, ok := p.Map.LaneFor(hit.Or); ok && hit.Or > 0 {
			other = l.Note
		}
		v.Lanes = append(v.Lanes, p.LaneOf(hit))
		v.Doubtful = append(v.Doubtful, hit.Doubtful())
		v.OrLanes = append(v.OrLanes, other)
	}
	return v
}

func missing(p project.Project) []NoLane {
	out := []NoLane{}
	var has [128]bool
	for _, l := range p.Map.Lanes {
		has[l.Note&127] = true
	}
	at := map[int]int{} // note → place in out
	for _, pt := range p.Patterns {
		if pt.Value.Part != p.Part {
			continue
		}
		for _, h := range pt.Value.Hits {
			if has[h.Note&127] {
				continue
			}
			k, ok := at[h.Note]
			if !ok {
				k = len(out)
				at[h.Note] = k
				out = append(out, NoLane{Note: h.Note})
			}
			m := &out[k]
			m.Hits++
			if n := len(m.Patterns); n == 0 || m.Patterns[n-1] != pt.Value.Name {
				m.Patterns = append(m.Patterns, pt.Value.Name)
			}
		}
	}
	return out
}

// codes propose, for each lane, a code that no other lane has.
func codes(m drummap.Map) map[int]string {
	out := make(map[int]string, len(m.Lanes))
	for i, l := range m.Lanes {
		others := drummap.Map{Lanes: slices.Delete(slices.Clone(m.Lanes), i, i+1)}
		out[l.Note] = others.ProposeCode(l.Name)
	}
	return out
}

// Patch is what an edit changed of what a window shows; what is nil or empty stays.
type Patch struct {
	Title    string                            `json:"title,omitempty"` // when it may have changed
	Settings *project.Settings                 `json:"settings,omitempty"`
	Map      *drummap.Map                      `json:"map,omitempty"`
	Kit      *kit.Kit                          `json:"kit,omitempty"`
	Patterns []project.Stored[pattern.Pattern] `json:"patterns,omitempty"` // new ones, and those that are sent whole
	Edited   []EditedPattern                   `json:"edited,omitempty"`
	// PatternIDs are the patterns there are now in their order, when one came or went.
	PatternIDs []string                       `json:"patternIds,omitempty"`
	Recordings *[]Recording                   `json:"recordings,omitempty"`
	Grooves    *[]project.Stored[feel.Groove] `json:"grooves,omitempty"`
	Passes     []Pass                         `json:"passes,omitempty"`  // those that came or changed
	PassIDs    *[]string                      `json:"passIds,omitempty"` // all there are now in their order, when one came or went
	Parts      *[]Part                        `json:"parts,omitempty"`
	Song       *Song                          `json:"song,omitempty"`
	Blocks     []project.Stored[song.Block]   `json:"blocks,omitempty"` // those that came or changed
	BlocksGone []string                       `json:"blocksGone,omitempty"`
	Mix        *Mix                           `json:"mix,omitempty"`
	Missing    *[]NoLane                      `json:"missing,omitempty"`
	Swatches   *[]drummap.Swatch              `json:"swatches,omitempty"`
	Ladders    *[]Ladder                      `json:"ladders,omitempty"`
	Codes      map[int]string                 `json:"codes,omitempty"`
}

// EditedPattern is what changed in a pattern.
type EditedPattern struct {
	ID       string            `json:"id"`
	Remove   []pattern.Key     `json:"remove,omitempty"`
	Put      []pattern.Hit     `json:"put,omitempty"`
	Settings *pattern.Settings `json:"settings,omitempty"`
}

// PatchOf finds what changed of a project: others is what was changed before changes, since the window last saw it; those
// documents are sent whole.
func PatchOf(p project.Project, others, changes []project.Change) Patch {
	var out Patch
	whole := map[project.Key]bool{}
	touched := map[project.Kind]bool{}
	listChanged := false
	for _, c := range others {
		whole[c.Key()] = true
		touched[c.Kind] = true
		listChanged = listChanged || c.Kind == project.KindPattern && c.Pattern == nil
	}
	deltas := map[string][]pattern.Change{}
	for _, c := range changes {
		touched[c.Kind] = true
		if c.Kind == project.KindPattern {
			if c.Pattern == nil {
				whole[c.Key()] = true
				listChanged = true
			} else if !whole[c.Key()] {
				deltas[c.ID] = append(deltas[c.ID], *c.Pattern)
			}
		}
	}
	for _, pt := range p.Patterns {
		k := project.Key{Kind: project.KindPattern, ID: pt.ID}
		edited := merged(pt.ID, pt.Value, deltas[pt.ID])
		switch {
		case whole[k], len(edited.Remove)+len(edited.Put) > len(pt.Value.Hits)+16:
			out.Patterns = append(out.Patterns, pt)
		case len(deltas[pt.ID]) > 0:
			out.Edited = append(out.Edited, edited)
		}
		if listChanged {
			out.PatternIDs = append(out.PatternIDs, pt.ID)
		}
	}
	if listChanged && out.PatternIDs == nil {
		out.PatternIDs = []string{""} // none is left
	}
	out.Passes, out.PassIDs = passesOf(p, others, changes)
	out.patchSong(p, slices.Concat(others, changes))
	if p.Name == "" || p.Name == project.Unnamed {
		out.Title = p.Title()
	}
	if touched[project.KindPart] { // which may be the one it is seen from
		for _, k := range []project.Kind{project.KindSettings, project.KindMap, project.KindKit} {
			touched[k] = true
		}
	}
	if touched[project.KindSettings] {
		out.Settings = &p.Settings
	}
	if touched[project.KindPart] || touched[project.KindSettings] || touched[project.KindKit] || touched[project.KindMap] {
		parts := partsOf(p)
		out.Parts = &parts
	}
	if touched[project.KindMap] {
		out.Map = &p.Map
		s := swatches(p.Map)
		out.Swatches, out.Codes = &s, codes(p.Map)
	}
	if touched[project.KindKit] {
		out.Kit = &p.Kit
		l := ladders(p.Kit)
		out.Ladders = &l
	}
	if touched[project.KindRecording] || touched[project.KindMap] {
		rs := []Recording{}
		for _, r := range p.Recordings {
			rs = append(rs, RecordingOf(p, r))
		}
		out.Recordings = &rs
	}
	if touched[project.KindGroove] {
		out.Grooves = &p.Grooves
	}
	if touched[project.KindMix] || touched[project.KindMap] || touched[project.KindPart] {
		m := mixOf(p)
		out.Mix = &m
	}
	if touched[project.KindPattern] || touched[project.KindMap] {
		m := missing(p)
		out.Missing = &m
	}
	return out
}

// passesOf are the passes that came or changed, and the list of all when one came or went.
func passesOf(p project.Project, others, changes []project.Change) (changed []Pass, ids *[]string) {
	touched := map[string]bool{}
	shaped := map[string]bool{} // patterns whose lines lie elsewhere: where passes were played is told anew
	all, everywhere := false, false
	for _, c := range others {
		if c.Kind == project.KindPass {
			touched[c.ID], all = true, true
		}
	}
	for _, c := range slices.Concat(others, changes) {
		everywhere = everywhere || c.Kind == project.KindSettings || c.Kind == project.KindGroove
		if c.Kind == project.KindPattern && (c.Pattern == nil || !c.Pattern.SameSettings()) {
			shaped[c.ID] = true
		}
		if c.Kind == project.KindPass {
			touched[c.ID] = true
			all = all || c.Before == nil || c.After == nil
		}
	}
	if all {
		ids = &[]string{}
	}
	for _, s := range p.Passes {
		if touched[s.ID] || everywhere || shaped[s.Value.Pattern] {
			changed = append(changed, pass(p, s))
		}
		if all {
			*ids = append(*ids, s.ID)
		}
	}
	return changed, ids
}

// merged puts changes of one pattern together: what is in it now of what came, and what is not of what went.
func merged(id string, now pattern.Pattern, changes []pattern.Change) EditedPattern {
	e := EditedPattern{ID: id}
	seen := map[pattern.Key]bool{}
	settings := false
	for _, c := range changes {
		settings = settings || !c.SameSettings()
		for _, hits := range [][]pattern.Hit{c.Removed, c.Added} {
			for _, h := range hits {
				k := h.Key()
				if seen[k] {
					continue
				}
				seen[k] = true
				if is, ok := now.At(k); ok {
					e.Put = append(e.Put, is)
				} else {
					e.Remove = append(e.Remove, k)
				}
			}
		}
	}
	if settings {
		s := now.Settings()
		e.Settings = &s
	}
	return e
}

// StrikeLean is how far a strike on a lane falls from the nearest line of the lane's grid, ms: early below 0. atS is where in the
// pass it fell. The lane's share of swing and groove and its own lean are part of where its lines lie; what chance adds is not.
func StrikeLean(p project.Project, pt pattern.Pattern, note int, atS float64) float64 {
	f, bpm, cell := p.FeelOf(pt), p.Settings.BPM, pt.CellOf(note)
	tick := atS / music.SecondsPerTick(bpm)
	best := math.Inf(1)
	for _, line := range []int{-1, 0, 1} {
		at := music.NearestLine(int(math.Round(tick)), cell) + line*cell
		sounds := float64(at) + f.Shift(note, at, cell) + f.LaneLeanMS[note]/1000/music.SecondsPerTick(bpm)
		if off := tick - sounds; math.Abs(off) < math.Abs(best) {
			best = off
		}
	}
	return 1000 * music.Seconds(best, bpm)
}
