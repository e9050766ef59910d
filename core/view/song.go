package view

import (
	"cmp"
	"fmt"
	"slices"

	"hexachord/core/music"
	"hexachord/core/project"
	"hexachord/core/song"
)

// Song is a song as a window shows it, beside its blocks.
type Song struct {
	song.Song
	Sections []project.Stored[song.Section] `json:"sections"` // by their bars
	End      int                            `json:"end"`      // the bar after the last
	// Bars are the bars up to the end, and where that is: when each begins.
	Bars []SongBar `json:"bars"`
	// Faults are what is wrong with blocks, by their IDs; the rest plays.
	Faults map[string]string `json:"faults"`
}

// SongBar is where a bar of the song begins.
type SongBar struct {
	Tick int     `json:"tick"`
	AtS  float64 `json:"at"`
	BPM  float64 `json:"bpm"`
}

// SongOf is the song beside its blocks.
func SongOf(p project.Project) Song {
	v := Song{Song: p.Song, Sections: slices.Clone(p.Sections), End: p.SongEnd(), Faults: map[string]string{}}
	v.Tempos, v.Meters = append([]song.Tempo{}, v.Tempos...), append([]song.Meter{}, v.Meters...)
	slices.SortStableFunc(v.Sections, func(a, b project.Stored[song.Section]) int {
		return cmp.Or(cmp.Compare(a.Value.Bar, b.Value.Bar), cmp.Compare(a.ID, b.ID))
	})
	clock := p.Clock()
	for bar := range v.End + 1 {
		tick := clock.Tick(bar)
		v.Bars = append(v.Bars, SongBar{tick, clock.Seconds(float64(tick)), clock.BPM(float64(tick))})
	}
	meters := make(map[string]music.Meter, len(p.Patterns)) // by pattern
	for _, pt := range p.Patterns {
		meters[pt.ID] = pt.Value.Meter
	}
	for _, s := range p.Blocks {
		if words := fault(p, meters, clock, s.Value); words != "" {
			v.Faults[s.ID] = words
		}
	}
	return v
}

// fault says what is wrong with a block, "" for nothing.
func fault(p project.Project, meters map[string]music.Meter, clock song.Clock, b song.Block) string {
	if b.Recording != "" {
		if _, err := p.Recording(b.Recording); err != nil {
			return "its recording is gone"
		}
		return ""
	}
	meter, ok := meters[b.Pattern]
	if !ok {
		return "its pattern is gone"
	}
	length := clock.Tick(b.End()) - clock.Tick(b.Bar) + b.FromBar*meter.BarTicks()
	if length%meter.BarTicks() != 0 {
		m := clock.MeterAt(b.Bar)
		return fmt.Sprintf("a pattern in %d/%d is cut by bars of %d/%d", meter.Beats, meter.Unit, m.Beats, m.Unit)
	}
	return ""
}

// blocksOf are the song's blocks by ID.
func blocksOf(p project.Project) []project.Stored[song.Block] {
	out := append([]project.Stored[song.Block]{}, p.Blocks...)
	slices.SortFunc(out, func(a, b project.Stored[song.Block]) int { return cmp.Compare(a.ID, b.ID) })
	return out
}

// patchSong finds what of the song changed: the blocks that came or changed, those that went, and the rest where something of it did.
func (out *Patch) patchSong(p project.Project, changes []project.Change) {
	touched := map[string]bool{}
	rest := false
	see := func(k project.Key, shaped bool) {
		switch k.Kind {
		case project.KindBlock:
			touched[k.ID], rest = true, true
		case project.KindSong, project.KindSection, project.KindSettings, project.KindRecording:
			rest = true
		case project.KindPattern:
			rest = rest || shaped && len(p.Blocks) > 0
		}
	}
	for _, c := range changes {
		see(c.Key(), c.Pattern == nil || !c.Pattern.SameSettings())
	}
	if len(touched) > 0 {
		for _, b := range blocksOf(p) {
			if touched[b.ID] {
				out.Blocks = append(out.Blocks, b)
				delete(touched, b.ID)
			}
		}
	}
	for id := range touched {
		out.BlocksGone = append(out.BlocksGone, id)
	}
	slices.Sort(out.BlocksGone)
	if rest {
		s := SongOf(p)
		out.Song = &s
	}
}
