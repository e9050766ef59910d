package ui

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/shelf"
	"hexachord/core/song"
	"hexachord/core/take"
	"hexachord/core/view"
)

// replay is a call of one of the window's rules and what Go says comes out; Only names the fields that are compared.
type replay struct {
	Call string   `json:"call"`
	Args []any    `json:"args"`
	Want any      `json:"want"`
	Only []string `json:"only,omitempty"`
}

// run builds the window's rules and replays the cases by them under node.
func run(t *testing.T, cases []replay) {
	t.Helper()
	in, err := json.Marshal(cases)
	if err != nil {
		t.Fatal(err)
	}
	// inside the front end's folder, where its packages are found
	out, err := os.MkdirTemp("node_modules", ".replay-")
	if err != nil {
		t.Fatalf("the front end's packages are not installed; run make build first: %v", err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(out) })
	// read here too, so that a result kept from before is not taken for one of what they are now
	for _, name := range []string{"time", "patch", "foresee", "midiStream", "midiClock", "take", "liveGate", "songClock", "desk", "convolver", "loudness", "voices", "constants.gen"} {
		if _, err := os.ReadFile("src/model/" + name + ".ts"); err != nil {
			t.Fatal(err)
		}
	}
	script, err := os.ReadFile("testdata/replay.mjs")
	if err != nil {
		t.Fatal(err)
	}
	for name, text := range map[string][]byte{"replay.mjs": script, "cases.json": in} {
		if err := os.WriteFile(filepath.Join(out, name), text, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	node := exec.Command("node", filepath.Join(out, "replay.mjs"))
	var errs bytes.Buffer
	node.Stderr = &errs
	said, err := node.Output()
	if err != nil {
		t.Fatalf("%v\n%s", err, errs.String())
	}
	var reply struct {
		Cases  int
		Faults []string
	}
	if err := json.Unmarshal(said, &reply); err != nil {
		t.Fatalf("%v: %s", err, said)
	}
	for _, f := range reply.Faults {
		t.Error(f)
	}
	if reply.Cases != len(cases) {
		t.Errorf("%d of %d cases were replayed", reply.Cases, len(cases))
	}
}

// Where the window places marks at once it does as the core does.
func TestTheWindowsTimeIsTheCores(t *testing.T) {
	var cases []replay
	add := func(call string, want any, args ...any) {
		cases = append(cases, replay{Call: call, Args: args, Want: want})
	}
	meters := []music.Meter{music.CommonTime, {Beats: 6, Unit: 8}, {Beats: 7, Unit: 16}, {Beats: 5, Unit: 2}}
	for _, g := range music.Grids() {
		cell, err := g.Ticks()
		if err != nil {
			t.Fatal(err)
		}
		add("gridTicks", cell, g)
		for _, tick := range []int{-480, -121, -120, -119, 0, 59, 60, 119, 120, 121, 160, 239, 240, 320, 359, 360, 361, 3839} {
			add("nearestLine", music.NearestLine(tick, cell), tick, cell)
			for _, percent := range []float64{50, 58, 66.5, 75} {
				swing := feel.Swing{Percent: percent, Grid: g}
				for _, cell := range []int{120, 240, 320, 360, 960} {
					add("swingShift", feel.Feel{Swing: swing}.SwingShift(36, tick, cell), tick, swing, cell)
				}
			}
		}
		for _, m := range meters {
			p := pattern.Pattern{Name: "p", Bars: 3, Meter: m, Grid: music.Sixteenths, Hits: []pattern.Hit{},
				Lanes: map[int]pattern.LaneGrid{36: {Cells: 5}, 38: {Grid: g}, 42: {Grid: g, Cells: 4000}}}
			for _, note := range []int{36, 38, 42, 50} {
				add("cellOf", p.CellOf(note), p, note)
				add("loopOf", p.LoopOf(note), p, note)
			}
			add("beatTicks", m.BeatTicks(), p)
			add("barTicks", m.BarTicks(), p)
		}
	}
	for _, h := range []pattern.Hit{{Velocity: 100}, {Velocity: 100, Split: 4, Slope: 12}, {Velocity: 9, Split: 8, Slope: -3}} {
		var want []int
		for _, s := range h.Strokes(240) {
			want = append(want, s.Velocity)
		}
		add("strokes", want, h)
	}
	for octave := 3; octave <= 5; octave++ {
		add("setMiddleC", nil, octave)
		for n := range 128 {
			name := music.NoteName(n, octave)
			add("noteName", name, n)
			add("parseNote", n, name)
		}
		for _, text := range []string{"C2", "c#3", " Db3 ", "eb1", "gb4", "ab3", "BB2", "40", "0", "127", "128", "-1", "", "h3", "c", "c#", "c##3", "3c"} {
			var want any
			if n, err := music.ParseNote(text, octave); err == nil {
				want = n
			}
			add("parseNote", want, text)
		}
	}
	run(t, cases)
}

type world struct{ n *int }

func (w world) NewID() string {
	*w.n++
	return fmt.Sprint("id", *w.n)
}
func (world) Sample(hash string) (shelf.Item, error) { return shelf.Item{Hash: hash, Name: hash}, nil }
func (world) HasAudio(string) bool                   { return true }
func (world) Loudness(string) float64                { return -20 }
func (world) PeakDB(string) float64                  { return -6 }

func begun(t *testing.T, w project.World) project.State {
	t.Helper()
	d := project.NewDraft(project.NewState("p", "Lock", 1, nil), w)
	k := kit.Kit{Name: "k", Pads: []kit.Pad{}}
	for _, n := range []int{36, 38, 42} {
		p := kit.NewPad(n)
		p.Layers = []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: "aa", Source: "a.wav", Shape: kit.Whole()})}
		k.Pads = append(k.Pads, p)
	}
	err := d.PutSettings(project.NewSettings())
	for _, put := range []func() error{func() error { return d.PutMap(drummap.FullSet()) }, func() error { return d.PutKit(k) }} {
		if err == nil {
			err = put()
		}
	}
	for i := range 3 {
		if err == nil {
			_, err = d.AddPattern(pattern.Pattern{Name: fmt.Sprint("p", i), Bars: 2, Meter: music.CommonTime, Grid: music.Sixteenths,
				Hits: []pattern.Hit{{Note: 36, Velocity: 100}, {Note: 38, Tick: 970, Velocity: 110}, {Note: 99, Tick: 1200, Velocity: 60}}})
		}
	}
	if err != nil {
		t.Fatal(err)
	}
	return d.State
}

// some is an edit as it may come, and which parts of the project the window foresees of it.
func some(rng *rand.Rand, s project.State) (project.Edit, []string) {
	ids := s.Patterns
	id := ids[rng.IntN(len(ids))].ID
	of := func(e pattern.Edit) project.Edit { return project.Edit{Pattern: &project.PatternEdit{ID: id, Edit: e}} }
	note := []int{36, 38, 42, 99}[rng.IntN(4)]
	name, color, bpm := fmt.Sprint("n", rng.IntN(9)), "#335577", 60+rng.Float64()*100
	grid := music.Grid("1/8t")
	switch rng.IntN(16) {
	case 13, 14:
		block := song.Block{Pattern: id, Bar: rng.IntN(12), Bars: 1 + rng.IntN(6)}
		return project.Edit{Song: &project.SongEdit{Put: []project.BlockPut{{Block: block}}}}, nil
	case 15:
		if n := len(s.Blocks); n > 0 {
			return project.Edit{Song: &project.SongEdit{Remove: []string{s.Blocks[rng.IntN(n)].ID}}}, nil
		}
		return project.Edit{Song: &project.SongEdit{Sections: []project.SectionPut{{Section: song.Section{Name: name, Bar: rng.IntN(9), Bars: 2}}}}}, nil
	case 10:
		passID := fmt.Sprint("pass-number-", rng.Uint64())
		return project.Edit{RecordPass: &project.RecordPass{ID: passID, Pattern: id, Strikes: []take.Strike{{Note: note, AtS: 4 * rng.Float64(), Velocity: 90}}}}, nil
	case 11, 12:
		if n := len(s.Passes); n > 0 {
			of := s.Passes[rng.IntN(n)]
			if muted := !of.Value.Muted; rng.IntN(3) > 0 {
				return project.Edit{Pass: &project.PassEdit{ID: of.ID, Muted: &muted}}, nil
			}
			return project.Edit{Pass: &project.PassEdit{ID: of.ID, Remove: true}}, nil
		}
		fallthrough
	case 0:
		return project.Edit{Settings: &project.SettingsEdit{BPM: &bpm, Muted: map[int]bool{note: rng.IntN(2) == 0, 36: true}, Solo: map[int]bool{42: rng.IntN(2) == 0}}}, []string{"settings"}
	case 1:
		m := s.Map
		m.Lanes = append([]drummap.Lane(nil), m.Lanes...)
		m.Lanes[0].Name = name
		return project.Edit{Map: &project.MapEdit{Map: m, Label: "x"}}, []string{"map"}
	case 2:
		p := kit.NewPad(note)
		p.Layers = []kit.Layer{kit.NewLayer(1, 1+rng.IntN(126), kit.Take{Sample: "bb", Source: "b.wav", Shape: kit.Whole()})}
		return project.Edit{Kit: &project.KitEdit{Edit: kit.Edit{Op: kit.OpPads, Put: []kit.Pad{p}, Remove: []int{36}}}}, []string{"kit"}
	case 3:
		if len(ids) > 2 {
			return project.Edit{RemovePattern: &project.RemovePattern{ID: id}}, []string{"patterns"}
		}
		return project.Edit{AddPattern: &project.AddPattern{Name: name, CopyOf: id}}, nil
	case 4:
		return of(pattern.Edit{Shape: &pattern.Shape{Name: &name, Color: &color, Grid: &grid}}), []string{"patterns"}
	case 5:
		return of(pattern.Edit{Reverse: &pattern.Reverse{}}), nil
	case 6:
		return of(pattern.Edit{Fill: &pattern.Fill{About: pattern.About{Notes: []int{note}}, Every: 1 + rng.IntN(4), Velocity: 90}}), nil
	default:
		e := pattern.Edit{Hits: &pattern.Hits{}}
		for range 1 + rng.IntN(4) {
			e.Hits.Put = append(e.Hits.Put, pattern.Hit{Note: note, Tick: rng.IntN(32) * 240, Velocity: 1 + rng.IntN(127)})
		}
		value := s.Project.Patterns[0].Value
		if p, err := s.Pattern(id); err == nil {
			value = p
		}
		for _, h := range value.Hits {
			if rng.IntN(4) == 0 {
				e.Hits.Remove = append(e.Hits.Remove, h.Key())
			}
		}
		return of(e), []string{"patterns"}
	}
}

// What a reply says has changed leads the window to the project as it is now; what the window shows before is, for the edits it
// foresees, what the core then says.
func TestPatchesAndWhatIsForeseen(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 7))
	w := world{new(int)}
	s := begun(t, w)
	var cases []replay
	parts := []string{"settings", "map", "kit", "patterns", "recordings", "grooves", "passes", "missing", "swatches", "ladders", "codes"}
	pick := func(p project.Project, of []string) map[string]json.RawMessage {
		b, err := json.Marshal(view.Of(p))
		if err != nil {
			t.Fatal(err)
		}
		var all, some map[string]json.RawMessage = nil, map[string]json.RawMessage{}
		if err := json.Unmarshal(b, &all); err != nil {
			t.Fatal(err)
		}
		for _, k := range of {
			some[k] = all[k]
		}
		return some
	}
	foreseen := map[string]int{}
	for range 300 {
		e, seen := some(rng, s)
		d := project.NewDraft(s, w)
		if _, err := e.Apply(d); err != nil {
			t.Fatal(err)
		}
		before := view.Of(s.Project)
		cases = append(cases, replay{Call: "withPatch", Args: []any{before, view.PatchOf(d.State.Project, nil, d.Changes())}, Want: pick(d.State.Project, parts), Only: parts})
		if seen != nil {
			cases = append(cases, replay{Call: "foresee", Args: []any{before, e}, Want: pick(d.State.Project, seen), Only: seen})
			foreseen[seen[0]]++
		}
		s = d.State
	}
	for _, part := range []string{"settings", "map", "kit", "patterns"} {
		if foreseen[part] < 5 {
			t.Errorf("only %d edits that the window foresees change the %s", foreseen[part], part)
		}
	}
	run(t, cases)
}

// Bytes of a cable become what MIDI 1.0 says they mean (MMA, The Complete MIDI 1.0 Detailed Specification, 1996: running status, a note-on of
// velocity 0, real-time bytes between others, song position as 14 bits with the lower seven first; all from memory).
func TestMIDIBytes(t *testing.T) {
	on := func(channel, note, velocity int) any {
		return map[string]any{"kind": "on", "channel": channel, "note": note, "velocity": velocity}
	}
	off := func(channel, note int) any { return map[string]any{"kind": "off", "channel": channel, "note": note} }
	clock := map[string]any{"kind": "clock"}
	var cases []replay
	for _, c := range []struct {
		parts [][]int
		want  []any
	}{
		{[][]int{{0x99, 36, 100}}, []any{on(10, 36, 100)}},
		{[][]int{{0x99, 36, 0}}, []any{off(10, 36)}},
		{[][]int{{0x80, 38, 64}}, []any{off(1, 38)}},
		{[][]int{{0x90, 36, 1, 38, 2, 36, 0}}, []any{on(1, 36, 1), on(1, 38, 2), off(1, 36)}},
		{[][]int{{0x9f, 36}, {100, 37}, {5}}, []any{on(16, 36, 100), on(16, 37, 5)}},
		{[][]int{{0x99, 0xf8, 36, 0xf8, 100}}, []any{clock, clock, on(10, 36, 100)}},
		{[][]int{{0xfa, 0xfb, 0xfc}}, []any{map[string]any{"kind": "start"}, map[string]any{"kind": "continue"}, map[string]any{"kind": "stop"}}},
		{[][]int{{0xf2, 0x10, 0x02}, {0x99, 36, 1}}, []any{map[string]any{"kind": "position", "sixteenths": 2*128 + 16}, on(10, 36, 1)}},
		{[][]int{{0xc9, 5, 0x99, 36, 9}, {0xb9, 1, 2}, {0xe0, 0, 64}}, []any{on(10, 36, 9)}},
		{[][]int{{0xf0, 1, 2, 3, 0xf7, 0x99, 40, 7}}, []any{on(10, 40, 7)}},
		{[][]int{{36, 100, 0x99, 300, -1, 36, 100, 0xf5, 36, 100}}, []any{on(10, 36, 100)}},
	} {
		cases = append(cases, replay{Call: "midiMessages", Args: []any{c.parts}, Want: c.want})
	}
	run(t, cases)
}

// Which time through what is played belongs to, and what an input's gate hears as it comes, are the core's.
func TestTheWindowPlaysInAsTheCore(t *testing.T) {
	var cases []replay
	rng := rand.New(rand.NewPCG(14, 9))
	for range 200 {
		p := pattern.Pattern{Bars: 1 + rng.IntN(8), Meter: music.CommonTime, Grid: music.Sixteenths, Lanes: map[int]pattern.LaneGrid{42: {Grid: "1/8t"}}}
		l := take.Loop{BPM: 60 + 140*rng.Float64(), Pattern: p}
		note, since := []int{38, 42}[rng.IntN(2)], 40*rng.Float64()-0.5
		lengthS, cellS := music.Seconds(float64(p.LengthTicks()), l.BPM), music.Seconds(float64(p.CellOf(note)), l.BPM)
		cases = append(cases, replay{Call: "through", Args: []any{since, lengthS, cellS}, Want: l.Through(note, since)})
	}
	const rate = 16000
	input := make([]float32, rate)
	for i := range input {
		input[i] = float32(0.002 * rng.NormFloat64())
		for k, at := range []int{800, 4000, 7000, 7900, 12000} {
			if t := float64(i-at) / rate; t >= 0 {
				loud := []float64{0.8, 0.2, 0.5, 0.6, 0.05}[k] * math.Exp(-t/0.05)
				input[i] += float32(loud * (math.Sin(2*math.Pi*85*t) + 0.3*rng.NormFloat64()))
			}
		}
	}
	heard := 0
	for _, l := range []hear.Listener{
		{LoHz: 40, HiHz: 130, OpenDB: -28, CloseDB: -36, GapMS: 45},
		{LoHz: 180, HiHz: 2400, OpenDB: -40, CloseDB: -46, GapMS: 20},
		{LoHz: 3000, HiHz: 12000, OpenDB: -36, CloseDB: -40, GapMS: 0},
		{LoHz: 40, HiHz: 130, OpenDB: -28, CloseDB: -36, Off: true},
	} {
		live, err := hear.NewLive(l, rate)
		if err != nil {
			t.Fatal(err)
		}
		want := live.Feed(input)
		heard += len(want)
		cases = append(cases, replay{Call: "heardLive", Args: []any{l, rate, input}, Want: want})
	}
	if heard < 8 {
		t.Errorf("only %d strokes were heard in all", heard)
	}
	run(t, cases)
}

// followed is what the window makes of MIDI clocks: the least-squares line, its memory growing to 144 clocks.
func followed(times []float64) (out []float64, bpm float64) {
	at, period := 0.0, 0.0
	for i, t := range times {
		if n := float64(min(144, i+1)); i == 0 {
			at = t
		} else {
			off := t - at - period
			at, period = at+period+2*(2*n-1)/(n*(n+1))*off, period+6/(n*(n+1))*off
		}
		out = append(out, at)
	}
	return out, 60000 / (period * 24)
}

// A clock that comes up to 3 ms early or late is followed, after a bar, to within 1 ms of where it was meant, and its tempo to half a
// percent; the window does so as is said here.
func TestMIDIClockIsFollowed(t *testing.T) {
	rng := rand.New(rand.NewPCG(24, 96))
	var cases []replay
	for _, bpm := range []float64{60, 92, 128, 174} {
		period := 60000 / (bpm * 24)
		var times []float64
		for i := range 24 * 32 {
			times = append(times, 5000+float64(i)*period+6*rng.Float64()-3)
		}
		meant, last := followed(times)
		round := func(x float64) float64 { return math.Round(x*1e4) / 1e4 }
		var want []float64
		for _, at := range meant {
			want = append(want, round(at))
		}
		cases = append(cases, replay{Call: "followed", Args: []any{times}, Want: map[string]any{"times": want, "bpm": round(last)}})
		worst := 0.0
		for i, at := range meant[96:] {
			worst = max(worst, math.Abs(at-5000-float64(96+i)*period))
		}
		if worst > 1 {
			t.Errorf("at %g BPM a smoothed clock is %.2f ms off", bpm, worst)
		}
		if math.Abs(last-bpm) > bpm/200 {
			t.Errorf("at %g BPM the tempo is taken for %.2f", bpm, last)
		}
	}
	run(t, cases)
}

// What differs between two passes leads the player from one to the other.
func TestDifferencesOfPasses(t *testing.T) {
	rng := rand.New(rand.NewPCG(11, 2))
	k := kit.Kit{Name: "k"}
	for _, n := range []int{36, 38, 42} {
		p := kit.NewPad(n)
		p.Layers = []kit.Layer{kit.NewLayer(1, 127, kit.Take{Sample: fmt.Sprint("s", n), Shape: kit.Whole()}, kit.Take{Sample: "t", Shape: kit.Whole()})}
		k.Pads = append(k.Pads, p)
	}
	table := play.Compile(k, 48000)
	next := func(was pattern.Pattern) pattern.Pattern {
		h := pattern.Hit{Note: []int{36, 38, 42}[rng.IntN(3)], Tick: rng.IntN(16) * 240, Velocity: 1 + rng.IntN(127), Split: rng.IntN(4), Skip: rng.IntN(2) * 30}
		if h.Split == 1 {
			h.Split = 0
		}
		p, _, err := pattern.Apply(was, pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{h}}})
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	p := pattern.Pattern{Name: "p", Bars: 1, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}}
	for range 8 {
		p = next(p)
	}
	var cases []replay
	was := play.Cues(p, feel.Straight, 120, table, nil)
	for i := range 200 {
		p = next(p)
		is := play.Cues(p, feel.Straight, 100+float64(i/20), table, nil)
		if len(is.Turns) == len(was.Turns) { // else it is sent whole
			cases = append(cases, replay{Call: "withDelta", Args: []any{was, play.Difference(was, is)}, Want: is})
		}
		was = is
	}
	if len(cases) < 150 {
		t.Errorf("only %d passes differ by a delta", len(cases))
	}
	run(t, cases)
}
