package play

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"
	"sync"

	"hexachord/core/mix"
	"hexachord/core/sound"
)

// MaxBounceS is how long a bounce may be without its tail, seconds.
const MaxBounceS = 3600

// ErrTooLong is a bounce that is refused before anything of it is made.
var ErrTooLong = errors.New("a bounce lasts an hour at most")

// Tail is what becomes of what still rings at a bounce's end.
type Tail string

const (
	TailRing Tail = "ring" // it rings out after the end
	TailCut  Tail = "cut"  // the bounce ends with its last bar
	TailLap  Tail = "lap"  // it lies over the beginning: what is heard when the bounce is played round and round, without a seam
)

// Tails are all of them.
var Tails = []Tail{TailRing, TailCut, TailLap}

// ErrTail is a tail that is none.
var ErrTail = errors.New("a bounce's tail is ring, cut or lap")

// Bounce mixes the cues of passes times through a pass, to stereo at the rate its voices were made for, block by block. A cue
// that leads into the first pass plays at its start, or with TailLap at the end, where it leads into the next time through.
// What it makes is the same for the same input, to the last bit, whatever the blocks.
type Bounce struct {
	Rate   int
	Frames int // in all
	pass   Pass
	voices map[string]Voice
	// voices as they are summed
	widened map[string]*wideVoice
	events  []started
	next    int   // the first event that has not begun
	going   []int // events that sound
	at      int   // frame the next block begins at
	// desk is what the sound goes through on its way, sends where each note goes: to the desk's buses and, with stems, to one of its lane's own
	desk  *mix.Desk
	sends map[int][]mix.Send
	lanes []int // notes of the lanes' buses, which come after the desk's
	buses [][2][]float64
	mixed [2][]float64 // what the desk made and nobody took yet
	taken int          // frames of it that were
}

// started is a cue placed on the bounce's time line.
type started struct {
	cue        int // place in the pass
	n          int // which time through
	frame      int
	cutFrame   int // where the cut begins; maxInt when nothing cuts it
	fadeFrames int
}

// Desk is what a bounce goes through: where a note goes, and which lanes are wanted alone as well, before the outputs' processing.
type Desk struct {
	*mix.Desk
	Sends func(note int) []mix.Send
	Lanes []int // their notes
}

// NewBounce prepares a bounce; ErrTooLong when it would last too long, ErrTail for an unknown tail. Without a desk everything goes to the
// mix as it is.
func NewBounce(pass Pass, passes, rate int, voices map[string]Voice, tail Tail, through ...Desk) (*Bounce, error) {
	if !slices.Contains(Tails, tail) {
		return nil, fmt.Errorf("%w, not %q", ErrTail, tail)
	}
	if s := pass.LengthS * float64(passes); !(s <= MaxBounceS) {
		return nil, fmt.Errorf("%w; this one would last %.0f minutes: choose fewer passes", ErrTooLong, s/60)
	}
	b := &Bounce{Rate: rate, pass: pass, voices: voices, widened: map[string]*wideVoice{}}
	b.Frames = int(math.Round(pass.LengthS * float64(passes) * float64(rate)))
	before, rings := 0, 0
	if len(through) > 0 {
		b.patch(through[0])
		rings = b.desk.Rings()
	} else {
		b.patch(Desk{mix.NewDesk(mix.New(), 120, rate), func(int) []mix.Send { return []mix.Send{{Sides: [2]float64{1, 1}}} }, nil})
	}
	if tail == TailLap {
		before = b.roundsThatRing(passes, rings)
	}
	b.place(passes, before, tail == TailLap)
	b.chokeAll()
	switch tail {
	case TailRing:
		for _, e := range b.events {
			b.Frames = max(b.Frames, b.end(e))
		}
		b.Frames += rings
	case TailLap: // what has died away before the beginning
		b.events = slices.DeleteFunc(b.events, func(e started) bool { return b.end(e)+rings <= 0 })
		if b.desk.Stateful() { // what comes before is heard by the desk
			b.at = -(before*b.Frames + mix.Quantum - 1) / mix.Quantum * mix.Quantum // in whole blocks, as the desk takes them
		}
	}
	return b, nil
}

// roundsThatRing is how many times through before the one that is written may still be heard in it. Sounds that nothing ends
// count as the longest of those that end.
func (b *Bounce) roundsThatRing(passes, rings int) int {
	longest := 0
	for _, c := range b.pass.Cues {
		longest = max(longest, b.voices[c.Voice].Frames()+int((c.HoldS+c.ReleaseS)*float64(b.Rate)))
	}
	for _, t := range b.pass.Turns {
		for _, take := range t.Takes {
			longest = max(longest, b.voices[take.Voice].Frames())
		}
	}
	return min(1000/passes+1, 1+(longest+rings)/max(1, b.Frames))
}

// patch connects the desk.
func (b *Bounce) patch(d Desk) {
	b.desk, b.lanes, b.sends = d.Desk, d.Lanes, map[int][]mix.Send{}
	b.buses = make([][2][]float64, d.Buses()+len(d.Lanes))
	for _, c := range b.pass.Cues {
		if _, ok := b.sends[c.Note]; ok {
			continue
		}
		sends := d.Sends(c.Note)
		if i := slices.Index(d.Lanes, c.Note); i >= 0 && len(sends) > 0 {
			sends = append(sends, mix.Send{Bus: d.Buses() + i, Sides: sends[0].Sides})
		}
		b.sends[c.Note] = sends
	}
}

// end is the frame after an event's last.
func (b *Bounce) end(e started) int {
	end := saturatingAdd(e.cutFrame, e.fadeFrames)
	v, ok := b.voices[b.cue(e).Voice]
	if !ok || len(v.Channels) == 0 {
		return e.frame
	}
	if v.LoopEnd == 0 || end == math.MaxInt { // nothing ends a loop that is not held
		end = min(end, e.frame+v.Frames())
	}
	return end
}

func (b *Bounce) cue(e started) Cue { return b.pass.Take(b.pass.Cues[e.cue], e.n) }

// Block mixes what follows, frames frames or what is left: an empty buffer at the end. The buffer is the caller's until
// the next call.
func (b *Bounce) Block(frames int) sound.Buffer {
	out := sound.New(b.Rate, 2, 0)
	for frames > 0 {
		if b.taken == len(b.mixed[0]) && !b.quantum() {
			break
		}
		n := min(frames, len(b.mixed[0])-b.taken)
		for side := range out.Channels {
			out.Channels[side] = append32(out.Channels[side], b.mixed[side][b.taken:b.taken+n])
		}
		b.taken += n
		frames -= n
	}
	return out
}

// Blocks are what one quantum of a bounce comes to: the mix, each of the desk's outputs after its processing, and each lane that was wanted
// alone. They are the caller's until the next call; ok is false at the end.
func (b *Bounce) Blocks() (mixed, outputs, lanes [][2][]float64, ok bool) {
	if !b.quantum() {
		return nil, nil, nil, false
	}
	b.taken = len(b.mixed[0])
	n := b.desk.Buses()
	return [][2][]float64{b.mixed}, b.buses[:n-2], b.buses[n:], true
}

func append32(dst []float32, src []float64) []float32 {
	dst = slices.Grow(dst, len(src))
	for _, v := range src {
		dst = append(dst, float32(v))
	}
	return dst
}

// quantum mixes the next frames, as many as the desk takes; false at the end. What comes before frame 0 is heard by the desk alone.
func (b *Bounce) quantum() bool {
	for b.at < b.Frames {
		from := b.at
		to := min(b.Frames, from+mix.Quantum)
		if from < 0 {
			to = min(to, 0)
		}
		b.at = to
		b.fill(from, to)
		mixed := b.desk.Process(b.buses[:b.desk.Buses()])
		if from >= 0 {
			b.mixed, b.taken = mixed, 0
			return true
		}
	}
	return false
}

// part is a sound that is summed into a bus.
type part struct {
	started
	*wideVoice
	sides [2]float64 // by how much
}

// wideVoice is a voice in the numbers that are summed, so that each is brought to them once.
type wideVoice struct {
	channels           [][]float64
	loopStart, loopEnd int
}

func (b *Bounce) wide(id string) *wideVoice {
	if w, ok := b.widened[id]; ok {
		return w
	}
	w := &wideVoice{}
	if v, ok := b.voices[id]; ok && len(v.Channels) > 0 {
		w.loopStart, w.loopEnd = v.LoopStart, v.LoopEnd
		for _, ch := range v.Channels {
			x := make([]float64, len(ch))
			for i, s := range ch {
				x[i] = float64(s)
			}
			w.channels = append(w.channels, x)
		}
	}
	b.widened[id] = w
	return w
}

// fill sums what sounds between two frames into the buses; each is summed by itself, in two halves, in the order in which sounds began.
func (b *Bounce) fill(from, to int) {
	for ; b.next < len(b.events) && b.events[b.next].frame < to; b.next++ {
		b.going = append(b.going, b.next)
	}
	parts := make([][]part, len(b.buses))
	still := b.going[:0]
	for _, i := range b.going {
		e := b.events[i]
		c := b.cue(e)
		v := b.wide(c.Voice)
		if len(v.channels) == 0 {
			continue
		}
		for _, s := range b.sends[c.Note] {
			parts[s.Bus] = append(parts[s.Bus], part{e, v, [2]float64{c.Left * s.Sides[0], c.Right * s.Sides[1]}})
		}
		if b.end(e) > to {
			still = append(still, i)
		}
	}
	b.going = still
	var all sync.WaitGroup
	half := (to - from + 1) / 2
	for bus := range b.buses {
		for side := range 2 {
			sum := slices.Grow(b.buses[bus][side][:0], to-from)[:to-from]
			clear(sum)
			b.buses[bus][side] = sum
		}
		if len(parts[bus]) == 0 {
			continue
		}
		l, r := b.buses[bus][0], b.buses[bus][1]
		for _, span := range [2][2]int{{0, half}, {half, to - from}} {
			all.Go(func() {
				for _, p := range parts[bus] {
					p.mix(l[span[0]:span[1]], r[span[0]:span[1]], from+span[0])
				}
			})
		}
	}
	all.Wait()
}

// All mixes the whole bounce at once.
func (b *Bounce) All() sound.Buffer { return b.Block(b.Frames) }

// mix adds a sound's part of the block that begins at frame from to both sides.
func (p part) mix(l, r []float64, from int) {
	left, right := p.channels[0], p.channels[min(1, len(p.channels)-1)]
	i := max(0, p.frame-from)
	if k := i + from - p.frame; p.loopEnd == 0 && k < len(left) { // the plain part: nothing loops, nothing is cut yet
		n := min(len(l)-i, len(left)-k)
		if p.cutFrame != math.MaxInt {
			n = min(n, p.cutFrame-from-i)
		}
		if n > 0 {
			if len(p.channels) == 1 {
				addOne(l[i:i+n], r[i:i+n], left[k:k+n], p.sides[0], p.sides[1])
			} else {
				add(l[i:i+n], left[k:k+n], p.sides[0])
				add(r[i:i+n], right[k:k+n], p.sides[1])
			}
			i += n
		}
	}
	loop := p.loopEnd - p.loopStart
	for ; i < len(l); i++ {
		k := i + from - p.frame
		if loop > 0 && k >= p.loopEnd {
			k = p.loopStart + (k-p.loopStart)%loop
		}
		if k >= len(left) {
			return
		}
		g := 1.0
		if past := i + from - p.cutFrame; past >= 0 {
			if past >= p.fadeFrames {
				return
			}
			g = 1 - float64(past)/float64(p.fadeFrames)
		}
		l[i] += left[k] * (p.sides[0] * g)
		r[i] += right[k] * (p.sides[1] * g)
	}
}

func add(dst, src []float64, gain float64) {
	src = src[:len(dst)]
	for i := range dst {
		dst[i] += src[i] * gain
	}
}

// addOne adds one channel to both sides.
func addOne(l, r, src []float64, left, right float64) {
	r, src = r[:len(l)], src[:len(l)]
	for i, x := range src {
		l[i] += x * left
		r[i] += x * right
	}
}

// place puts cues on the time line: as many rounds of passes before frame 0 as asked for, the round that is written, and in a
// loop what leads into the next.
func (b *Bounce) place(passes, before int, loop bool) {
	b.events = make([]started, 0, len(b.pass.Cues)*passes*(1+before))
	first, last := -before*passes, passes-1
	if loop {
		last++
	}
	for time := first; time <= last; time++ {
		n := (time + (1+before)*passes) % passes
		for i, c := range b.pass.Cues {
			if !b.pass.Sounds(c.When, n) {
				continue
			}
			at := float64(time)*b.pass.LengthS + c.AtS
			if !loop {
				at = max(0, at)
			}
			e := started{cue: i, n: n, frame: int(math.Round(at * float64(b.Rate))), cutFrame: math.MaxInt}
			if c.HoldS > 0 {
				e.cutFrame = e.frame + int(math.Round(c.HoldS*float64(b.Rate)))
				e.fadeFrames = int(math.Round(c.ReleaseS * float64(b.Rate)))
			}
			b.events = append(b.events, e)
		}
	}
	sort.SliceStable(b.events, func(i, j int) bool { return b.events[i].frame < b.events[j].frame })
}

// chokeAll finds, for every event, where a later stroke cuts it. Voices of one pad that start in one frame are one
// stroke and do not cut each other.
func (b *Bounce) chokeAll() {
	fade := int(math.Round(ChokeFadeS * float64(b.Rate)))
	ringing := []int{}
	for i := range b.events {
		c, frame := &b.pass.Cues[b.events[i].cue], b.events[i].frame
		if c.Choke == 0 && c.CutBy == 0 && !c.SelfChoke {
			continue
		}
		keep := ringing[:0]
		for _, j := range ringing {
			old := &b.events[j]
			if old.cutFrame <= frame {
				continue // already gone or going
			}
			if c.cuts(b.pass.Cues[old.cue], old.frame == frame) {
				old.cutFrame, old.fadeFrames = frame, fade
				continue
			}
			keep = append(keep, j)
		}
		ringing = append(keep, i)
	}
}

// cuts reports whether a stroke ends an earlier one, or one that began with it.
func (c *Cue) cuts(earlier Cue, together bool) bool {
	if c.Note == earlier.Note {
		return c.SelfChoke && !together
	}
	return c.Choke != 0 && c.Choke == earlier.CutBy
}

func saturatingAdd(a, b int) int {
	if a > math.MaxInt-b {
		return math.MaxInt
	}
	return a + b
}
