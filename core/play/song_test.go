package play

import (
	"fmt"
	"math"
	"testing"

	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/song"
)

// songKit has a pad on each note, its sound with as many takes as asked for.
func songKit(takes int, notes ...int) Table {
	var k kit.Kit
	for _, n := range notes {
		p := kit.NewPad(n)
		var all []kit.Take
		for i := range takes {
			all = append(all, kit.Take{Sample: fmt.Sprintf("%064x", 1000*n+i), Source: "x.wav", Shape: kit.Whole()})
		}
		l := kit.NewLayer(1, 127, all[0])
		l.Sounds[0].Takes = all
		p.Layers = []kit.Layer{l}
		k.Pads = append(k.Pads, p)
	}
	return Compile(k, 48000)
}

func beats(bars int, ticks ...int) pattern.Pattern {
	p := pattern.Pattern{Name: "p", Bars: bars, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}}
	for _, t := range ticks {
		p.Hits = append(p.Hits, pattern.Hit{Note: 36, Tick: t, Velocity: 100})
	}
	return p
}

// whenOf are the seconds at which a note sounds.
func whenOf(p Pass, note int) (at []float64) {
	for _, c := range p.Cues {
		if c.Note == note {
			at = append(at, c.AtS)
		}
	}
	return at
}

// A block plays as its pattern played round and round would: the same moments and the same takes in turn, through a steady tempo.
func TestABlockPlaysAsItsPatternDoes(t *testing.T) {
	p := beats(2, -20, 0, 900, 3840, 7200)
	p.Hits[2].Skip = 40
	f := feel.Feel{Swing: feel.Swing{Percent: 58, Grid: music.Sixteenths}, LaneLeanMS: map[int]float64{36: 11}}
	table := songKit(3, 36)
	clock := song.NewClock(song.Song{}, 97)
	got := Song(clock, []SongBlock{{Pattern: p, Feel: f, Table: table, FromTick: 0, ToTick: clock.Tick(8)}}, nil, clock.Tick(8))
	alone := Cues(p, f, 97, table, nil)
	var want []Cue
	for n := range 4 {
		for _, c := range alone.Cues {
			if alone.Sounds(c.When, n) {
				c.AtS += float64(n) * alone.LengthS
				want = append(want, c)
			}
		}
	}
	if len(got.Cues) != len(want) {
		t.Fatalf("%d cues, not %d", len(got.Cues), len(want))
	}
	voices := map[string]int{}
	for i, c := range got.Cues {
		if math.Abs(c.AtS-want[i].AtS) > 1e-9 || c.Turn != 0 {
			t.Errorf("cue %d at %.6f, not %.6f", i, c.AtS, want[i].AtS)
		}
		voices[c.Voice]++
	}
	if len(voices) != 3 {
		t.Errorf("takes in turn: %v", voices)
	}
	for v, n := range voices {
		if n < len(want)/3-1 || n > len(want)/3+2 {
			t.Errorf("the take %.8s sounds %d times of %d", v, n, len(want))
		}
	}
	if math.Abs(got.LengthS-8*4*60.0/97) > 1e-9 || len(got.Strokes) != len(want) {
		t.Errorf("%.3f s, %d strokes", got.LengthS, len(got.Strokes))
	}
}

// A hit on beat 4 of every other bar of an 8-bar loop is heard four times; through 64 bars 32 times, and all of them move when it does.
func TestALoopThroughASong(t *testing.T) {
	clock := song.NewClock(song.Song{}, 120)
	table := songKit(1, 36)
	count := func(p pattern.Pattern, bars int) []float64 {
		return whenOf(Song(clock, []SongBlock{{Pattern: p, Table: table, ToTick: clock.Tick(bars)}}, nil, clock.Tick(bars)), 36)
	}
	p := beats(8, 2880, 2880+2*3840, 2880+4*3840, 2880+6*3840)
	if n := len(count(p, 8)); n != 4 {
		t.Errorf("%d in 8 bars", n)
	}
	before := count(p, 64)
	p.Hits[0].Tick = 960
	after := count(p, 64)
	moved := 0
	for _, at := range after {
		if math.Abs(math.Mod(at, 16)-0.5) < 1e-9 {
			moved++
		}
	}
	if len(before) != 32 || len(after) != 32 || moved != 8 {
		t.Errorf("%d and %d in 64 bars, %d of them moved", len(before), len(after), moved)
	}
}

// Trimmed, cut, left out: what of a pattern lies within its block sounds; what leads into the first of it does, what leads into what comes
// after does not.
func TestOnlyWhatLiesInABlockSounds(t *testing.T) {
	clock := song.NewClock(song.Song{}, 60) // a beat a second, a bar four
	table := songKit(1, 36, 38)
	p := beats(2, -20, 960, 3820, 4800, 7660)
	p.Hits = append(p.Hits, pattern.Hit{Note: 38, Tick: 0, Velocity: 90})
	block := SongBlock{Pattern: p, Table: table, FromTick: clock.Tick(2), ToTick: clock.Tick(5), Trimmed: 3840, LeftOut: []int{38}}
	got := Song(clock, []SongBlock{block}, nil, clock.Tick(6))
	// bar 3 is the pattern's second, bars 4 and 5 are both of it: the second's last hit leads into what is beyond the third bar played
	want := []float64{8 - 20.0/960, 9, 12 - 20.0/960, 12 - 20.0/960, 13, 16 - 20.0/960, 17, 20 - 20.0/960}
	at := whenOf(got, 36)
	if len(whenOf(got, 38)) != 0 {
		t.Error("the lane left out sounds")
	}
	if len(at) != len(want) {
		t.Fatalf("at %v, not %v", at, want)
	}
	for i := range want {
		if math.Abs(at[i]-want[i]) > 1e-9 {
			t.Errorf("hit %d at %.4f s, not %.4f", i, at[i], want[i])
		}
	}
	block.ToTick, block.Trimmed = clock.Tick(3), 0
	if got := whenOf(Song(clock, []SongBlock{block}, nil, clock.Tick(6)), 36); len(got) != 2 {
		t.Errorf("of the first bar alone: %v", got)
	}
	if s := got.Between(9, 13); len(s.Cues) != 3 || s.LengthS != got.LengthS {
		t.Errorf("between two moments: %+v", s.Cues)
	}
}

// Through a glide every hit sounds where the song's clock has its tick; two parts neither share notes nor choke each other.
func TestPartsAndGlides(t *testing.T) {
	clock := song.NewClock(song.Song{Tempos: []song.Tempo{{BPM: 90, Glide: true}, {Bar: 4, BPM: 120}}}, 92)
	table := songKit(1, 36)
	for i := range table.Pads {
		table.Pads[i].Choke, table.Pads[i].CutBy = 2, 2
	}
	p := beats(4, 0, 960, 3840, 9600)
	got := Song(clock, []SongBlock{{Pattern: p, Table: table, ToTick: clock.Tick(4)}, {Pattern: p, Table: table, Part: 1, ToTick: clock.Tick(4)}}, nil, clock.Tick(4))
	for part := range 2 {
		at := whenOf(got, SongNote(part, 36))
		for i, h := range p.Hits {
			if len(at) != 4 || math.Abs(at[i]-clock.Seconds(float64(h.Tick))) > 1e-6 {
				t.Errorf("part %d: %v", part, at)
				break
			}
		}
	}
	chokes := map[int]bool{}
	for _, c := range got.Cues {
		chokes[c.Choke] = true
	}
	if len(chokes) != 2 {
		t.Errorf("choke groups %v", chokes)
	}
}

// threeParts is a song of so many bars: 3 parts of 13 lanes, sixteenths throughout.
func threeParts(clock song.Clock, bars int) (blocks []SongBlock) {
	for part := range 3 {
		var notes []int
		for n := range 13 {
			notes = append(notes, 36+n)
		}
		table := songKit(2, notes...)
		p := beats(2)
		for i := range 96 {
			p.Hits = append(p.Hits, pattern.Hit{Note: 36 + i%13, Tick: i * 80, Velocity: 60 + i%60})
		}
		for bar := 0; bar < bars; bar += 4 {
			blocks = append(blocks, SongBlock{Pattern: p, Table: table, Part: part, FromTick: clock.Tick(bar), ToTick: clock.Tick(bar + 4)})
		}
	}
	return blocks
}

// 300 bars, 3 parts, 39 lanes.
func BenchmarkSong(b *testing.B) {
	clock := song.NewClock(song.Song{}, 92)
	blocks := threeParts(clock, 300)
	for b.Loop() {
		Song(clock, blocks, nil, clock.Tick(300))
	}
}
