package play

import (
	"errors"
	"fmt"
	"math"
	"sort"

	"hexachord/core/sound"
)

// MaxBounceS is how long a bounce may be without its tail, seconds.
const MaxBounceS = 3600

// ErrTooLong is a bounce that is refused before anything of it is made.
var ErrTooLong = errors.New("a bounce lasts an hour at most")

// Bounce mixes the cues of passes times through a pass, plus the ringing tail, to stereo at the rate its voices were made
// for, block by block. A cue that leads into the first pass plays at its start. What it makes is the same for the same input, to
// the last bit, whatever the blocks.
type Bounce struct {
	Rate   int
	Frames int // in all
	pass   Pass
	voices map[string]Voice
	events []started
	next   int   // the first event that has not begun
	going  []int // events that sound
	at     int   // frame the next block begins at
	sum    [2][]float64
}

// started is a cue placed on the bounce's time line.
type started struct {
	cue        int // place in the pass
	n          int // which time through
	frame      int
	cutFrame   int // where the cut begins; maxInt when nothing cuts it
	fadeFrames int
}

// NewBounce prepares a bounce; ErrTooLong when it would last too long.
func NewBounce(pass Pass, passes, rate int, voices map[string]Voice) (*Bounce, error) {
	if s := pass.LengthS * float64(passes); !(s <= MaxBounceS) {
		return nil, fmt.Errorf("%w; this one would last %.0f minutes: choose fewer passes", ErrTooLong, s/60)
	}
	b := &Bounce{Rate: rate, pass: pass, voices: voices}
	b.place(passes)
	b.chokeAll()
	b.Frames = int(math.Round(pass.LengthS * float64(passes) * float64(rate)))
	for _, e := range b.events {
		b.Frames = max(b.Frames, b.end(e))
	}
	return b, nil
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
	from := b.at
	to := min(b.Frames, from+frames)
	b.at = to
	for side := range b.sum {
		if cap(b.sum[side]) < to-from {
			b.sum[side] = make([]float64, to-from)
		}
		b.sum[side] = b.sum[side][:to-from]
		clear(b.sum[side])
	}
	for ; b.next < len(b.events) && b.events[b.next].frame < to; b.next++ {
		b.going = append(b.going, b.next)
	}
	still := b.going[:0]
	for _, i := range b.going { // in the order they began, so that sums are the same for any block
		e := b.events[i]
		c := b.cue(e)
		v, ok := b.voices[c.Voice]
		if !ok || len(v.Channels) == 0 {
			continue
		}
		for side, gain := range [2]float64{c.Left, c.Right} {
			mixOne(b.sum[side], from, v, min(side, len(v.Channels)-1), e, gain)
		}
		if b.end(e) > to {
			still = append(still, i)
		}
	}
	b.going = still
	out := sound.New(b.Rate, 2, to-from)
	for side := range b.sum {
		for i, s := range b.sum[side] {
			out.Channels[side][i] = float32(s)
		}
	}
	return out
}

// All mixes the whole bounce at once.
func (b *Bounce) All() sound.Buffer { return b.Block(b.Frames) }

// mixOne adds an event's part of the block that begins at frame from.
func mixOne(dst []float64, from int, v Voice, channel int, e started, gain float64) {
	src := v.Channels[channel]
	loop := v.LoopEnd - v.LoopStart
	i := max(0, e.frame-from)
	if k := i + from - e.frame; v.LoopEnd == 0 && k < len(src) { // the plain part: nothing loops, nothing is cut yet
		n := min(len(dst)-i, len(src)-k)
		if e.cutFrame != math.MaxInt {
			n = min(n, e.cutFrame-from-i)
		}
		if n > 0 {
			part, into := src[k:k+n], dst[i:i+n]
			for j, x := range part {
				into[j] += float64(x) * gain
			}
			i += n
		}
	}
	for ; i < len(dst); i++ {
		k := i + from - e.frame
		if loop > 0 && k >= v.LoopEnd {
			k = v.LoopStart + (k-v.LoopStart)%loop
		}
		if k >= len(src) {
			return
		}
		g := gain
		if past := i + from - e.cutFrame; past >= 0 {
			if past >= e.fadeFrames {
				return
			}
			g *= 1 - float64(past)/float64(e.fadeFrames)
		}
		dst[i] += float64(src[k]) * g
	}
}

func (b *Bounce) place(passes int) {
	b.events = make([]started, 0, len(b.pass.Cues)*passes)
	for n := range passes {
		for i, c := range b.pass.Cues {
			if !b.pass.Sounds(c.When, n) {
				continue
			}
			at := max(0, float64(n)*b.pass.LengthS+c.AtS)
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
