package project

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/song"
)

// row writes a row of the song: each block as its pattern's name, its bars from and to, and what is trimmed off it.
func row(d *Draft, part string) string {
	var blocks []song.Block
	for _, b := range d.Blocks {
		if b.Value.Part == part {
			blocks = append(blocks, b.Value)
		}
	}
	slices.SortFunc(blocks, func(a, b song.Block) int { return a.Bar - b.Bar })
	var out []string
	for _, b := range blocks {
		pt, _ := d.Pattern(b.Pattern)
		s := fmt.Sprintf("%s %d-%d", pt.Name, b.Bar, b.End())
		if b.FromBar > 0 {
			s += fmt.Sprintf("+%d", b.FromBar)
		}
		out = append(out, s)
	}
	return strings.Join(out, ", ")
}

// otherPart adds a part called "other", under that ID.
func otherPart(t *testing.T, d *Draft) {
	t.Helper()
	if err := d.put(KindPart, "other", Part{Map: d.Map, Kit: d.Kit, Output: NewSettings().Output, LaneMuted: []int{}, LaneSolo: []int{}}); err != nil {
		t.Fatal(err)
	}
}

// sections writes the sections of a song, with their bars from and to.
func sections(d *Draft) string {
	all := slices.Clone(d.Sections)
	slices.SortFunc(all, func(a, b Stored[song.Section]) int { return a.Value.Bar - b.Value.Bar })
	var out []string
	for _, s := range all {
		out = append(out, fmt.Sprintf("%s %d-%d", s.Value.Name, s.Value.Bar, s.Value.End()))
	}
	return strings.Join(out, ", ")
}

func lay(t *testing.T, d *Draft, blocks ...song.Block) {
	t.Helper()
	var put []BlockPut
	for _, b := range blocks {
		put = append(put, BlockPut{Block: b})
	}
	apply(t, d, &SongEdit{Put: put})
}

func expect(t *testing.T, d *Draft, words, want string) {
	t.Helper()
	if got := row(d, ""); got != want {
		t.Errorf("%s: %s, not %s", words, got, want)
	}
}

func (d *Draft) blockAt(bar int) string {
	for _, b := range d.Blocks {
		if b.Value.Part == "" && b.Value.Bar <= bar && bar < b.Value.End() {
			return b.ID
		}
	}
	return ""
}

// A block takes the place of what it is laid over, and no other row's; one that moves makes room for itself only where it comes to lie.
func TestBlocksGiveWay(t *testing.T) {
	d, id := played(t, 2)
	otherPart(t, d)
	lay(t, d, song.Block{Pattern: id, Bars: 8})
	apply(t, d, &AddPattern{Name: "b", Bars: 1})
	b := d.Result.ID
	apply(t, d, InPart{"other", &AddPattern{Name: "c", Bars: 1}})
	lay(t, d, song.Block{Part: "?", Pattern: d.Result.ID, Bar: 1, Bars: 9}) // its row is its pattern's part's
	lay(t, d, song.Block{Pattern: b, Bar: 3, Bars: 2})
	expect(t, d, "laid in the middle", "a 0-3, b 3-5, a 5-8+5")
	if got := row(d, "other"); got != "c 1-10" {
		t.Errorf("the other row: %s", got)
	}
	moving := d.blockAt(3)
	at, _ := d.Block(moving)
	at.Bar = 6
	apply(t, d, &SongEdit{Put: []BlockPut{{ID: moving, Block: at}}})
	expect(t, d, "moved", "a 0-3, a 5-6+5, b 6-8")
	lay(t, d, song.Block{Pattern: id, Bars: 6}, song.Block{Pattern: b, Bar: 4, Bars: 4})
	expect(t, d, "two of one edit that overlap", "a 0-4, b 4-8")
	first, second := d.blockAt(0), d.blockAt(4)
	one, _ := d.Block(first)
	two, _ := d.Block(second)
	one.Bar, two.Bar = one.Bar+1, two.Bar+1
	apply(t, d, &SongEdit{Put: []BlockPut{{ID: first, Block: one}, {ID: second, Block: two}}})
	expect(t, d, "two moved together", "a 1-5, b 5-9")
	apply(t, d, &SongEdit{Put: []BlockPut{{Block: song.Block{Pattern: b, Bar: 9, Bars: 1}, Own: true}, {Block: song.Block{Pattern: b, Bar: 10, Bars: 1}, Own: true}}})
	expect(t, d, "copied with a pattern of their own", "a 1-5, b 5-9, b own 9-10, b own 10-11")
	apply(t, d, &SongEdit{Remove: []string{d.blockAt(9), d.blockAt(10)}})
	lay(t, d, song.Block{Pattern: id, Bars: 10})
	expect(t, d, "laid over all", "a 0-10")
	whole := d.blockAt(0)
	at, _ = d.Block(whole)
	at.Bar, at.Bars, at.FromBar = 2, 6, 2
	apply(t, d, &SongEdit{Put: []BlockPut{{ID: whole, Block: at}}})
	expect(t, d, "trimmed at both ends", "a 2-8+2")
	apply(t, d, &BlockEdit{ID: whole, SplitAt: bars(4)})
	expect(t, d, "split", "a 2-4+2, a 4-8+4")
	apply(t, d, &BlockEdit{ID: whole, Repeat: 2})
	expect(t, d, "twice more", "a 2-8+2")
	apply(t, d, &BlockEdit{ID: whole, Begin: bars(0), End: bars(3)})
	expect(t, d, "trimmed", "a 0-3")
	for range 2 {
		apply(t, d, &BlockEdit{ID: whole, Repeat: -1})
	}
	expect(t, d, "less than once", "a 0-1")
	if _, err := (&BlockEdit{ID: whole, SplitAt: bars(1)}).Apply(d); err == nil {
		t.Error("a block was split at its end")
	}
	for words, bad := range map[string]*SongEdit{
		"a pattern that is not there": {Put: []BlockPut{{Block: song.Block{Pattern: "?", Bars: 1}}}},
		"no bars":                     {Put: []BlockPut{{Block: song.Block{Pattern: id}}}},
		"a block that is not there":   {Remove: []string{"?"}},
		"tempi out of order":          {Song: &song.Song{Tempos: []song.Tempo{{Bar: 2, BPM: 90}, {Bar: 1, BPM: 90}}}},
	} {
		if _, err := bad.Apply(NewDraft(d.State, d.World)); err == nil {
			t.Errorf("%s was done", words)
		}
	}
}

func bars(bar int) *int { return &bar }

// By hand: heard 0.1 s behind its grid at 100 BPM, a stroke falls on the bar when the recording is laid 0.1 s earlier as it sounds: at 80 BPM it is
// 1.25 times as long, free it is not. Where nothing was heard near the bar, that is said.
func TestAnAttackIsLaidOnTheBar(t *testing.T) {
	w := newWorld("id")
	d := NewDraft(state(t, w), w)
	bpm := 80.0
	apply(t, d, &SettingsEdit{BPM: &bpm})
	id := d.Blocks[slices.IndexFunc(d.Blocks, func(b Stored[song.Block]) bool { return b.Value.Recording != "" })].ID
	for _, c := range []struct {
		free  bool
		later float64
	}{{false, -0.125}, {true, -0.1}} {
		b, _ := d.Block(id)
		b.Free = c.free
		apply(t, d, &SongEdit{Put: []BlockPut{{ID: id, Block: b}}})
		apply(t, d, &BlockEdit{ID: id, Attack: true})
		if b, _ = d.Block(id); math.Abs(b.NudgeS-c.later) > 1e-6 {
			t.Errorf("free %v: %g s later, not %g", c.free, b.NudgeS, c.later)
		}
	}
	b, _ := d.Block(id)
	b.FromBar = 1
	apply(t, d, &SongEdit{Put: []BlockPut{{ID: id, Block: b}}})
	if _, err := (&BlockEdit{ID: id, Attack: true}).Apply(d); err == nil {
		t.Error("an attack was found where nothing was heard")
	}
}

// A section with a name takes the bars of others, which keep what is left of them on either side.
func TestSectionsGiveWay(t *testing.T) {
	d, _ := played(t, 2)
	put := func(id, name string, bar, bars int) {
		apply(t, d, &SongEdit{Sections: []SectionPut{{ID: id, Section: song.Section{Name: name, Bar: bar, Bars: bars}}}})
	}
	put("", "one", 0, 8)
	put("", "two", 3, 2)
	if got := sections(d); got != "one 0-3, two 3-5, one 5-8" {
		t.Errorf("in the middle: %s", got)
	}
	id := d.Sections[slices.IndexFunc(d.Sections, func(s Stored[song.Section]) bool { return s.Value.Name == "two" })].ID
	put(id, "two", 2, 6)
	if got := sections(d); got != "one 0-2, two 2-8" {
		t.Errorf("made longer: %s", got)
	}
}

// A section that moves plays at the tempo and in the meter it had, and what comes after it at its own.
func TestASectionTakesItsTimes(t *testing.T) {
	d, id := played(t, 2)
	lay(t, d, song.Block{Pattern: id, Bars: 12})
	seven := music.Meter{Beats: 7, Unit: 8}
	apply(t, d, &SongEdit{
		Sections: []SectionPut{{Section: song.Section{Name: "one", Bars: 4}}, {Section: song.Section{Name: "two", Bar: 4, Bars: 4}}},
		Song:     &song.Song{Tempos: []song.Tempo{{Bar: 2, BPM: 90, Glide: true}, {Bar: 4, BPM: 140}, {Bar: 8, BPM: 80}}, Meters: []song.Meter{{Bar: 4, Meter: seven}, {Bar: 8, Meter: music.CommonTime}}},
	})
	two := d.Sections[slices.IndexFunc(d.Sections, func(s Stored[song.Section]) bool { return s.Value.Name == "two" })].ID
	at := func(bar int) string {
		c := d.Clock()
		return fmt.Sprintf("%.4g %d/%d", c.BPM(float64(c.Tick(bar))), c.MeterAt(bar).Beats, c.MeterAt(bar).Unit)
	}
	was := map[int]string{0: at(0), 4: at(4), 7: at(7), 8: at(8)}
	apply(t, d, &SectionEdit{ID: two, Do: "move", ToBar: 0})
	for to, from := range map[int]int{0: 4, 3: 7, 4: 0, 8: 8} {
		if at(to) != was[from] {
			t.Errorf("bar %d, which was %d, plays at %s, not %s", to+1, from+1, at(to), was[from])
		}
	}
	apply(t, d, &SectionEdit{ID: d.Sections[0].ID, Do: "copy", ToBar: 12})
	if err := d.Song.Check(); err != nil {
		t.Error(err)
	}
	if at(12) != at(d.Sections[0].Value.Bar) {
		t.Errorf("the copy plays at %s", at(12))
	}
}

// A fill takes the last bar of a block and leaves the bars before it to the pattern they share with others; all blocks of a pattern that end
// alike share one fill. A copy of its own changes in its block alone.
func TestTheLastBarBecomesAFill(t *testing.T) {
	d, id := played(t, 2, pattern.Hit{Note: 36, Velocity: 100}, pattern.Hit{Note: 36, Tick: 3840, Velocity: 100}, pattern.Hit{Note: 42, Tick: 7200, Velocity: 80})
	lay(t, d, song.Block{Pattern: id, Bars: 8}, song.Block{Pattern: id, Bar: 8, Bars: 4}, song.Block{Pattern: id, Bar: 12, Bars: 3})
	apply(t, d, &BlockEdit{ID: d.blockAt(0), Fill: true, Seed: 4})
	expect(t, d, "of one block", "a 0-6, a fill 6-8, a 8-12, a 12-15")
	fill, _ := d.Pattern(d.Blocks[slices.IndexFunc(d.Blocks, func(b Stored[song.Block]) bool { return b.Value.Bar == 6 })].Value.Pattern)
	whole, _ := d.Pattern(id)
	first, rest := 0, 0
	for _, h := range fill.Hits {
		if h.Tick < 3840 {
			first++
		} else {
			rest++
		}
	}
	if first != 1 || rest < 4 || len(whole.Hits) != 3 {
		t.Errorf("%d hits before the fill's bar, %d in it; the pattern has %d", first, rest, len(whole.Hits))
	}
	apply(t, d, &BlockEdit{ID: d.blockAt(8), Fill: true, All: true, Seed: 5})
	expect(t, d, "of all its kind", "a 0-4, a fill 2 4-6, a fill 6-8, a 8-10, a fill 2 10-12, a 12-14, a fill 3 14-15")
	apply(t, d, &BlockEdit{ID: d.blockAt(8), Own: true})
	expect(t, d, "its own", "a 0-4, a fill 2 4-6, a fill 6-8, a own 8-10, a fill 2 10-12, a 12-14, a fill 3 14-15")
	apply(t, d, &BlockEdit{ID: d.blockAt(0), Vary: true, Seed: 1})
	expect(t, d, "varied", "a 0-2, a varied 2-4, a fill 2 4-6, a fill 6-8, a own 8-10, a fill 2 10-12, a 12-14, a fill 3 14-15")
	if _, err := (&BlockEdit{ID: d.blockAt(0)}).Apply(d); err == nil {
		t.Error("nothing was asked for and done")
	}
}

// A section moves, is copied and goes with all that is in it, on every row; what comes after closes up or makes room, tempi and meters with it.
func TestSectionsMoveWhole(t *testing.T) {
	build := func() (*Draft, string) {
		d, id := played(t, 2)
		otherPart(t, d)
		apply(t, d, &AddPattern{Name: "b", Bars: 1})
		b := d.Result.ID
		apply(t, d, InPart{"other", &AddPattern{Name: "b", Bars: 1}})
		lay(t, d, song.Block{Pattern: id, Bars: 4}, song.Block{Pattern: b, Bar: 4, Bars: 4}, song.Block{Pattern: d.Result.ID, Bar: 2, Bars: 8})
		apply(t, d, &SongEdit{Sections: []SectionPut{{Section: song.Section{Name: "one", Bars: 4}}, {Section: song.Section{Name: "two", Bar: 4, Bars: 4}}},
			Song: &song.Song{Tempos: []song.Tempo{{Bar: 0, BPM: 100}, {Bar: 4, BPM: 110}}}})
		return d, d.Sections[1].ID
	}
	for _, c := range []struct {
		do                    string
		to                    int
		row, other, sections  string
		tempi                 int
		lastTempoBar, songEnd int
	}{
		{"move", 0, "b 0-4, a 4-8", "b 0-4+2, b 6-8, b 8-10+6", "two 0-4, one 4-8", 3, 8, 10},
		{"copy", 8, "a 0-4, b 4-8, b 8-12", "b 2-8, b 8-12+2, b 12-14+6", "one 0-4, two 4-8, two 8-12", 2, 4, 14},
		{"remove", 0, "a 0-4", "b 2-4, b 4-6+6", "one 0-4", 2, 4, 6},
		{"move", 6, "a 0-4, b 4-8", "b 2-10", "one 0-4, two 4-8", 2, 4, 10},
	} {
		d, id := build()
		apply(t, d, &SectionEdit{ID: id, Do: c.do, ToBar: c.to})
		expect(t, d, c.do, c.row)
		if got := row(d, "other"); got != c.other {
			t.Errorf("%s: the other row %s, not %s", c.do, got, c.other)
		}
		if got := sections(d); got != c.sections {
			t.Errorf("%s: sections %s, not %s", c.do, got, c.sections)
		}
		if n := d.Song.Tempos; len(n) != c.tempi || n[len(n)-1].Bar != c.lastTempoBar || d.SongEnd() != c.songEnd {
			t.Errorf("%s: tempi %+v, it ends at bar %d", c.do, n, d.SongEnd())
		}
	}
}

// One pass is heard in the place of another in one step, and only the bars that are punched in are recorded.
func TestPassesAreSwappedAndPunched(t *testing.T) {
	d, id := played(t, 2)
	apply(t, d, &RecordPass{ID: "pass-one", Pattern: id, Strikes: strikes(36, 0.5, 2.5), InBar: 1, OutBar: 2})
	if got := ticks(t, d, id, 36); len(got) != 1 || got[0] != 4800 {
		t.Errorf("punched: %v", got)
	}
	yes := true
	apply(t, d, &PassEdit{ID: "pass-one", Muted: &yes})
	apply(t, d, &RecordPass{ID: "pass-two", Pattern: id, Strikes: strikes(36, 3)})
	for _, want := range []int{4800, 5760, 4800} {
		apply(t, d, &PassEdit{ID: "pass-two", Swap: "pass-one"})
		if got := ticks(t, d, id, 36); len(got) != 1 || got[0] != want {
			t.Errorf("swapped: %v, not %d", got, want)
		}
	}
	apply(t, d, &PassEdit{ID: "pass-two", Muted: &[]bool{false}[0]})
	if _, err := (&PassEdit{ID: "pass-two", Swap: "pass-one"}).Apply(d); err == nil {
		t.Error("two passes that are both heard were swapped")
	}
}
