package demo

import (
	"hexachord/core/drummap"
	"hexachord/core/project"
	"hexachord/core/song"
)

// Song lays 24 bars in five sections from towpath and night ferry, whose IDs are given, on the lanes of the demo's map.
func Song(lanes drummap.Map, towpath, ferry string) *project.SongEdit {
	without := func(roles ...drummap.Role) (notes []int) {
		for _, r := range roles {
			if l, ok := lanes.ByRole(r); ok {
				notes = append(notes, l.Note)
			}
		}
		return notes
	}
	begin := without(drummap.Snare, drummap.Clap, drummap.HighTom, drummap.LowTom, drummap.Crash)
	var put []project.BlockPut
	lay := func(pattern string, bar, bars int, leftOut []int) {
		put = append(put, project.BlockPut{Block: song.Block{Pattern: pattern, Bar: bar, Bars: bars, LeftOut: leftOut}})
	}
	lay(towpath, 0, 2, append(without(drummap.Rim, drummap.OpenHat), begin...))
	lay(towpath, 2, 2, begin)
	lay(towpath, 4, 6, without(drummap.HighTom, drummap.LowTom, drummap.Crash))
	lay(towpath, 10, 2, nil)
	lay(ferry, 12, 4, nil)
	lay(towpath, 16, 4, without(drummap.HighTom, drummap.LowTom))
	lay(ferry, 20, 2, without(drummap.ClosedHat, drummap.Clap))
	lay(towpath, 22, 2, without(drummap.ClosedHat, drummap.OpenHat))
	var sections []project.SectionPut
	for _, s := range []song.Section{{Name: "lower gate", Bars: 4}, {Name: "rising", Bar: 4, Bars: 8}, {Name: "basin", Bar: 12, Bars: 4}, {Name: "full", Bar: 16, Bars: 4}, {Name: "upper gate", Bar: 20, Bars: 4}} {
		sections = append(sections, project.SectionPut{Section: s})
	}
	return &project.SongEdit{Put: put, Sections: sections}
}
