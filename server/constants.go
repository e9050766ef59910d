package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"

	"hexachord/core/drummap"
	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/mix"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/song"
	"hexachord/demo"
	"hexachord/service"
)

// Constants are what the front end needs of the core's fixed values, as a TypeScript module.
func Constants() ([]byte, error) {
	gridTicks := map[music.Grid]int{}
	var grids []music.Grid
	for _, g := range music.Grids() {
		t, err := g.Ticks()
		if err != nil {
			return nil, err
		}
		gridTicks[g] = t
		grids = append(grids, g)
	}
	names := map[int][]string{}
	for _, middleC := range []int{3, 4, 5} {
		for n := range 128 {
			names[middleC] = append(names[middleC], music.NoteName(n, middleC))
		}
	}
	bands := map[drummap.Role][2]float64{}
	for _, r := range drummap.Roles() {
		lo, hi := hear.BandFor(r.Note())
		bands[r] = [2]float64{lo, hi}
	}
	var out bytes.Buffer
	out.WriteString("// Written by `hexachord constants` from the core's values; not to be edited.\nimport type { MixOutput, Pad, Settings, Shape } from '../api/client';\n\n")
	for _, c := range []struct {
		name, words, typed string
		value              any
	}{
		{"PPQ", "ticks a quarter note", "", music.PPQ},
		{"maxBars", "bars a pattern can have", "", music.MaxBars},
		{"maxLead", "ticks a hit may lie before the first line", "", pattern.MaxLeadTicks},
		{"maxPasses", "times through that a bounce can have", "", 256},
		{"grids", "every grid, as the lists show them", "readonly string[]", grids},
		{"gridLengths", "ticks of a cell", "Readonly<Record<string, number>>", gridTicks},
		{"noteNames", "names of the notes, by the octave in which middle C is counted", "Readonly<Record<number, readonly string[]>>", names},
		{"roles", "what a lane can be for", "readonly string[]", drummap.Roles()},
		{"unnamedKits", "what a kit is called that has no name of its own yet", "readonly string[]", []string{project.NoKit, project.EmptyKit, demo.KitName}},
		{"unnamedMaps", "what a map is called that takes its kit's name", "readonly string[]", []string{project.NoKit, drummap.FullSet().Name}},
		{"noKit", "title of the fault of a file without a kit", "", noKit},
		{"noBundle", "title of the fault of a file without a project", "", noBundle},
		{"recordingNote", "note of the cue that sounds a recording", "", play.RecordingNote},
		{"notesAPart", "by how much the notes of one part of a song stand above those of the part before it", "", play.NotesAPart},
		{"recordingsStrip", "the part under which the strip of the recordings in a song is kept, on note 0", "", mix.Recordings},
		{"newMixOutput", "an output that does nothing", "MixOutput", project.NewMixOutput()},
		{"newOutput", "in a strip of an edit, the output that the same edit adds", "", project.NewOutput},
		{"mostOutputs", "how many outputs there can be, Main among them", "", mix.MaxOutputs},
		{"exportNames", "how exported files are named when nothing else is said", "", service.NamesUsual},
		{"nameWords", "words that names of exported files may hold", "readonly string[]", service.NameWords},
		{"ear", "which way of hearing there is now", "", hear.Ear},
		{"clickNote", "note of the cues that click", "", play.ClickNote},
		{"listenBands", "where a lane of a role is listened for first, Hz", "Readonly<Record<string, readonly [number, number]>>", bands},
		{"againDB", "by how much the level rises again when a drum is struck while it rings, dB", "", hear.AgainDB},
		{"lookS", "for how long a live stroke is listened to before it sounds, seconds", "", hear.LookS},
		{"risesS", "for how long a live stroke may go on rising, seconds", "", hear.RisesS},
		{"beginsUnder", "how far under full scale the hardest stroke is thought to lie before any was heard, dB", "", hear.BeginsUnder},
		{"shapes", "ready structures of a song", "readonly { name: string; words: string; uses: number; stretches: unknown }[]", song.Shapes()},
		{"scales", "the scales along which one sound is played", "readonly string[]", music.Scales()},
		{"mostTune", "how far a hit may be tuned, cents each way", "", pattern.MostTune},
		{"sureBar", "how sure the bars of a grid that follows are when not in doubt, of 1", "", hear.SureBar},
		{"chokeFadeS", "how long a choked sound takes to fade, seconds", "", play.ChokeFadeS},
		{"newPad", "a pad without sounds", "Pad", kit.NewPad(0)},
		{"wholeShape", "a sample as it is", "Shape", kit.Whole()},
		{"newSettings", "what a project begins with", "Settings", project.NewSettings()},
	} {
		text, err := json.Marshal(c.value)
		if err != nil {
			return nil, err
		}
		typed := ""
		if c.typed != "" {
			typed = ": " + c.typed
		}
		fmt.Fprintf(&out, "/** %s */\nexport const %s%s = %s;\n", c.words, c.name, typed, text)
	}
	return slices.Clip(out.Bytes()), nil
}
