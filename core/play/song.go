package play

import (
	"cmp"
	"fmt"
	"slices"
	"sort"

	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/song"
)

// SongBlock is a pattern as it plays in a song, from one of its ticks to another.
type SongBlock struct {
	Pattern pattern.Pattern
	Feel    feel.Feel
	Table   Table
	// Part numbers the part it belongs to, from 0: its notes and choke groups are its own.
	Part             int
	FromTick, ToTick int // of the song
	Trimmed          int // ticks off the pattern's beginning, the first time through
	LeftOut          []int
}

// SongSound is a sound of its own in a song, as a recording is: it begins at a tick, at the gain given, and is cut at another.
type SongSound struct {
	Voice            string
	FromTick, ToTick int
	LaterS           float64
	Part             int // whose mute it obeys
}

// NotesAPart is by how much the notes of one part in a song stand above those of the part before it.
const NotesAPart = 128

// SongNote is the note of a song's part as its player tells it apart.
func SongNote(part, note int) int { return part*NotesAPart + note }

// leads is how far before a line a hit may stand and still be that line's, ticks: a 1/64.
const leads = music.PPQ / 16

// songPass is a pattern's pass as a song plays it, with how often each of its sounds that have several takes was struck so far.
type songPass struct {
	Pass
	struck []*int
}

// songPasses are the passes that were compiled for one song.
type songPasses struct {
	made   map[passKey]songPass
	struck map[string]*int // by part, note and first take
}

// passKey says what made a pass: the first block that plays so, and the tempo.
type passKey struct {
	which int
	bpm   float64
}

func (m songPasses) of(b SongBlock, k passKey) songPass {
	p, ok := m.made[k]
	if ok {
		return p
	}
	p.Pass = Cues(b.Pattern, b.Feel, k.bpm, b.Table, func(note int) bool { return slices.Contains(b.LeftOut, note) })
	notes := make([]int, len(p.Turns))
	for _, c := range p.Cues {
		if c.Turn > 0 {
			notes[c.Turn-1] = c.Note
		}
	}
	for i, t := range p.Turns {
		key := fmt.Sprint(b.Part, " ", notes[i], " ", t.Takes[0].Voice)
		if m.struck[key] == nil {
			m.struck[key] = new(int)
		}
		p.struck = append(p.struck, m.struck[key])
	}
	m.made[k] = p
	return p
}

// Song finds what a whole song sounds. Its cues and strokes are in time order, each with the take that sounds; ends is the tick at which
// the song ends. What feel leans by is in ms at the tempo of the moment.
func Song(clock song.Clock, blocks []SongBlock, sounds []SongSound, ends int) Pass {
	out := Pass{LengthS: clock.Seconds(float64(ends)), Cues: []Cue{}, Turns: []Turn{}, Strokes: []Stroke{}, Whens: []string{}}
	inOrder := make([]int, len(blocks))
	for i := range inOrder {
		inOrder[i] = i
	}
	slices.SortStableFunc(inOrder, func(i, j int) int { return blocks[i].FromTick - blocks[j].FromTick })
	passes := songPasses{map[passKey]songPass{}, map[string]*int{}}
	seen := map[int]int{} // times through each pattern so far, for what is left to chance
	tuned := map[string]bool{}
	same := map[string]int{} // blocks that play alike share their passes
	for _, i := range inOrder {
		b := blocks[i]
		alike := fmt.Sprintf("%d %p %d %v %v", b.Part, b.Pattern.Hits, len(b.Pattern.Hits), b.Feel, b.LeftOut)
		which, ok := same[alike]
		if !ok {
			which = i
			same[alike] = i
		}
		length := b.Pattern.LengthTicks()
		for begin := b.FromTick - b.Trimmed; begin < b.ToTick; begin += length {
			if begin+length <= b.FromTick {
				continue
			}
			bpm := clock.BPM(float64(max(begin, b.FromTick)))
			p := passes.of(b, passKey{which, bpm})
			n := seen[which]
			seen[which]++
			if n == 0 {
				for _, v := range p.Tuned {
					if id := v.ID(); !tuned[id] {
						tuned[id] = true
						out.Tuned = append(out.Tuned, v)
					}
				}
			}
			// in the song: the tick of what sounds some seconds into the pass; false when it is trimmed off
			at := func(seconds float64) (float64, bool) {
				tick := float64(begin) + seconds/music.SecondsPerTick(bpm)
				line := tick + leads
				return tick, (begin >= b.FromTick || line >= float64(b.FromTick)) && (begin+length <= b.ToTick || line < float64(b.ToTick))
			}
			for _, c := range p.Cues {
				tick, in := at(c.AtS)
				if !in || !p.Sounds(c.When, n) {
					continue
				}
				if c.Turn > 0 {
					t, struck := &p.Turns[c.Turn-1], p.struck[c.Turn-1]
					take := t.Takes[t.Order[*struck%len(t.Order)]]
					*struck++
					c.Voice, c.Left, c.Right = take.Voice, take.Left*c.Gain, take.Right*c.Gain
					c.panned()
				}
				c.AtS = clock.Seconds(tick)
				c.Note, c.Turn, c.Stroke, c.When = SongNote(b.Part, c.Note), 0, 0, 0
				if c.Choke != 0 {
					c.Choke = SongNote(b.Part, c.Choke)
				}
				if c.CutBy != 0 {
					c.CutBy = SongNote(b.Part, c.CutBy)
				}
				out.Cues = append(out.Cues, c)
			}
			for _, s := range p.Strokes {
				if tick, in := at(s.AtS); in && p.Sounds(s.When, n) {
					s.AtS, s.Note, s.When = clock.Seconds(tick), SongNote(b.Part, s.Note), 0
					out.Strokes = append(out.Strokes, s)
				}
			}
		}
	}
	for _, s := range sounds {
		from, to := clock.Seconds(float64(s.FromTick))+s.LaterS, clock.Seconds(float64(s.ToTick))
		out.Cues = append(out.Cues, Cue{AtS: from, Voice: s.Voice, Left: 1, Right: 1, Gain: 1, Note: SongNote(s.Part, 0), Velocity: 127,
			HoldS: max(0.01, to-from), ReleaseS: ChokeFadeS})
	}
	out.Cues = inTime(out.Cues, func(c *Cue) float64 { return c.AtS })
	out.Strokes = inTime(out.Strokes, func(s *Stroke) float64 { return s.AtS })
	return out
}

// Beside is the pass with another's cues and strokes, whose takes are chosen, in their places.
func (p Pass) Beside(o Pass) Pass {
	p.Cues = inTime(slices.Concat(p.Cues, o.Cues), func(c *Cue) float64 { return c.AtS })
	p.Strokes = inTime(slices.Concat(p.Strokes, o.Strokes), func(s *Stroke) float64 { return s.AtS })
	return p
}

// inTime puts things in time order, those of one moment as they came; it moves each of them once.
func inTime[T any](of []T, at func(*T) float64) []T {
	type place struct {
		at float64
		i  int
	}
	order := make([]place, len(of))
	for i := range of {
		order[i] = place{at(&of[i]), i}
	}
	slices.SortFunc(order, func(a, b place) int { return cmp.Or(cmp.Compare(a.at, b.at), cmp.Compare(a.i, b.i)) })
	out := make([]T, len(of))
	for i, o := range order {
		out[i] = of[o.i]
	}
	return out
}

// Between is what of a pass begins at or after one moment and before another, seconds.
func (p Pass) Between(fromS, toS float64) Pass {
	cut := func(n int, at func(int) float64) (int, int) {
		return sort.Search(n, func(i int) bool { return at(i) >= fromS }), sort.Search(n, func(i int) bool { return at(i) >= toS })
	}
	a, b := cut(len(p.Cues), func(i int) float64 { return p.Cues[i].AtS })
	p.Cues = p.Cues[a:b]
	a, b = cut(len(p.Strokes), func(i int) float64 { return p.Strokes[i].AtS })
	p.Strokes = p.Strokes[a:b]
	return p
}
