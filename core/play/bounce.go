package play

import (
	"math"
	"sort"

	"hexachord/core/sound"
)

// started is a cue placed on the bounce's time line.
type started struct {
	cue        Cue
	frame      int
	cutFrame   int // where the cut begins; maxInt when nothing cuts it
	fadeFrames int
}

// Bounce mixes the cues of passes times through, plus the ringing tail, to stereo at the rate the
// voices were made for. A cue that leads into the first pass plays at its start. The result is the
// same for the same input, to the last bit.
func Bounce(pass Pass, passes, rate int, voices map[string]Voice) sound.Buffer {
	events := place(pass, passes, rate)
	chokeAll(events, rate)
	frames := int(math.Round(pass.LengthS * float64(passes) * float64(rate)))
	for _, e := range events {
		end := saturatingAdd(e.cutFrame, e.fadeFrames)
		if v := voices[e.cue.Voice]; v.LoopEnd == 0 || end == math.MaxInt { // nothing ends a loop that is not held
			end = min(end, e.frame+v.Frames())
		}
		frames = max(frames, end)
	}
	sum := [2][]float64{make([]float64, frames), make([]float64, frames)}
	for _, e := range events {
		v, ok := voices[e.cue.Voice]
		if !ok || len(v.Channels) == 0 {
			continue
		}
		for side, gain := range [2]float64{e.cue.Left, e.cue.Right} {
			mixOne(sum[side], v, min(side, len(v.Channels)-1), e, gain)
		}
	}
	out := sound.New(rate, 2, frames)
	for side := range sum {
		for i, s := range sum[side] {
			out.Channels[side][i] = float32(s)
		}
	}
	return out
}

func mixOne(dst []float64, v Voice, channel int, e started, gain float64) {
	src := v.Channels[channel]
	at := dst[e.frame:]
	loop := v.LoopEnd - v.LoopStart
	for i, k := 0, 0; i < len(at); i, k = i+1, k+1 {
		if loop > 0 && k >= v.LoopEnd {
			k -= loop
		}
		if k >= len(src) {
			return
		}
		g := gain
		if past := i + e.frame - e.cutFrame; past >= 0 {
			if past >= e.fadeFrames {
				return
			}
			g *= 1 - float64(past)/float64(e.fadeFrames)
		}
		at[i] += float64(src[k]) * g
	}
}

func place(pass Pass, passes, rate int) []started {
	events := make([]started, 0, len(pass.Cues)*passes)
	for n := range passes {
		for _, c := range pass.Cues {
			if !pass.Sounds(c.When, n) {
				continue
			}
			at := max(0, float64(n)*pass.LengthS+c.AtS)
			e := started{cue: pass.Take(c, n), frame: int(math.Round(at * float64(rate))), cutFrame: math.MaxInt}
			if c.HoldS > 0 {
				e.cutFrame = e.frame + int(math.Round(c.HoldS*float64(rate)))
				e.fadeFrames = int(math.Round(c.ReleaseS * float64(rate)))
			}
			events = append(events, e)
		}
	}
	sort.SliceStable(events, func(i, j int) bool { return events[i].frame < events[j].frame })
	return events
}

// chokeAll finds, for every event, where a later stroke cuts it. Voices of one pad that start in one frame are one
// stroke and do not cut each other.
func chokeAll(events []started, rate int) {
	fade := int(math.Round(ChokeFadeS * float64(rate)))
	ringing := []int{}
	for i := range events {
		c, frame := events[i].cue, events[i].frame
		if c.Choke == 0 && c.CutBy == 0 && !c.SelfChoke {
			continue
		}
		keep := ringing[:0]
		for _, j := range ringing {
			old := &events[j]
			if old.cutFrame <= frame {
				continue // already gone or going
			}
			if c.cuts(old.cue, old.frame == frame) {
				old.cutFrame, old.fadeFrames = frame, fade
				continue
			}
			keep = append(keep, j)
		}
		ringing = append(keep, i)
	}
}

// cuts reports whether a stroke ends an earlier one, or one that began with it.
func (c Cue) cuts(earlier Cue, together bool) bool {
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
