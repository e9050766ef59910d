// Package sound holds audio as numbers: buffers, resampling, fades, levels and dither.
package sound

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
)

// Buffer is PCM audio: one slice of float32 a channel, all of one length, full scale ±1.
type Buffer struct {
	Rate     int // frames a second
	Channels [][]float32
}

// MinRate and MaxRate bound the sample rates the bench works with, in Hz.
const (
	MinRate = 1000
	MaxRate = 768_000
)

// MaxSamples bounds what a compressed file may unpack to, in samples of all channels together (2 GB).
const MaxSamples = 500_000_000

// ErrAudio is wrapped by every fault found in audio data.
var ErrAudio = errors.New("not usable as audio")

// ErrTooLong is audio that lasts longer than the caller allows.
var ErrTooLong = fmt.Errorf("%w: it is too long", ErrAudio)

// New makes silence: frames long, with channels channels.
func New(rate, channels, frames int) Buffer {
	b := Buffer{Rate: rate, Channels: make([][]float32, channels)}
	for c := range b.Channels {
		b.Channels[c] = make([]float32, frames)
	}
	return b
}

// Marks are places a file's maker left in it.
type Marks struct {
	Cues  []int    // frames, ascending
	Names []string // of the cues, where they have any; written only
	Text  string   // what is said of the sound; written only
	Loops []Loop   // parts meant to repeat
}

// Loop is a part of a sound that is meant to repeat: StartFrame ≤ frame < EndFrame.
type Loop struct {
	StartFrame int `json:"startFrame"`
	EndFrame   int `json:"endFrame"`
}

// Within leaves out marks that do not lie in a sound of that many frames.
func (m Marks) Within(frames int) Marks {
	m.Cues = slices.DeleteFunc(slices.Clone(m.Cues), func(f int) bool { return f < 0 || f >= frames })
	slices.Sort(m.Cues)
	m.Loops = slices.DeleteFunc(slices.Clone(m.Loops), func(l Loop) bool {
		return l.StartFrame < 0 || l.EndFrame <= l.StartFrame || l.EndFrame > frames
	})
	return m
}

// Bytes is how much memory the frames take.
func (b Buffer) Bytes() int64 {
	var n int64
	for _, ch := range b.Channels {
		n += int64(4 * len(ch))
	}
	return n
}

// Frames is the buffer's length in frames.
func (b Buffer) Frames() int {
	if len(b.Channels) == 0 {
		return 0
	}
	return len(b.Channels[0])
}

// Seconds is the buffer's length in seconds.
func (b Buffer) Seconds() float64 { return float64(b.Frames()) / float64(b.Rate) }

// Clone copies the buffer and its audio.
func (b Buffer) Clone() Buffer {
	out := Buffer{Rate: b.Rate, Channels: make([][]float32, len(b.Channels))}
	for c := range b.Channels {
		out.Channels[c] = append([]float32(nil), b.Channels[c]...)
	}
	return out
}

// Region is the part from startFrame up to endFrame (0 = the end), sharing the audio.
func (b Buffer) Region(startFrame, endFrame int) Buffer {
	n := b.Frames()
	if endFrame <= 0 || endFrame > n {
		endFrame = n
	}
	startFrame = min(max(0, startFrame), endFrame)
	out := Buffer{Rate: b.Rate, Channels: make([][]float32, len(b.Channels))}
	for c := range b.Channels {
		out.Channels[c] = b.Channels[c][startFrame:endFrame]
	}
	return out
}

// Mono mixes all channels to one, each at 1/channels.
func (b Buffer) Mono() []float32 {
	if len(b.Channels) == 1 {
		return b.Channels[0]
	}
	out := make([]float32, b.Frames())
	g := 1 / float32(len(b.Channels))
	for _, ch := range b.Channels {
		for i, v := range ch {
			out[i] += v * g
		}
	}
	return out
}

// Audible finds the first frame that reaches a level and the frame after the last that does; 0 and 0 when none does.
func (b Buffer) Audible(level float64) (startFrame, endFrame int) {
	startFrame = b.Frames()
	for _, ch := range b.Channels {
		for i, v := range ch {
			if math.Abs(float64(v)) >= level {
				startFrame = min(startFrame, i)
				break
			}
		}
		for i := len(ch) - 1; i >= endFrame; i-- {
			if math.Abs(float64(ch[i])) >= level {
				endFrame = i + 1
				break
			}
		}
	}
	if endFrame == 0 {
		return 0, 0
	}
	return startFrame, endFrame
}

// NearestZero is the frame nearest to one from which the first channel crosses zero: the frame after a change of
// sign, or one of silence.
func (b Buffer) NearestZero(frame int) int {
	n := b.Frames()
	if n == 0 {
		return 0
	}
	frame = min(max(0, frame), n-1)
	x := b.Channels[0]
	at := func(i int) bool { return i == 0 || x[i] == 0 || (x[i-1] < 0) != (x[i] < 0) }
	for d := range n {
		if i := frame - d; i >= 0 && at(i) {
			return i
		}
		if i := frame + d; i < n && at(i) {
			return i
		}
	}
	return frame
}

// Clean replaces values that are not finite numbers by silence and reports how many there were.
func (b Buffer) Clean() (bad int) {
	for _, ch := range b.Channels {
		for i, v := range ch {
			if v-v != 0 { // not a number, or infinite
				ch[i] = 0
				bad++
			}
		}
	}
	return bad
}

// Under says whether no sample is as far from zero as level.
func (b Buffer) Under(level float32) bool {
	for _, ch := range b.Channels {
		for _, v := range ch {
			if v >= level || v <= -level {
				return false
			}
		}
	}
	return true
}

// Peak is the largest absolute sample value.
func (b Buffer) Peak() float64 {
	var p float32
	for _, ch := range b.Channels {
		for _, v := range ch {
			if v < 0 {
				v = -v
			}
			if v > p { // the builtin max, which minds NaN and the sign of 0, takes five times as long
				p = v
			}
		}
	}
	return float64(p)
}

// DB converts an amplitude to decibels; silence is −∞.
func DB(amplitude float64) float64 { return 20 * math.Log10(amplitude) }

// FadeIn and FadeOut ramp the buffer's first or last frames linearly, in place.
func (b Buffer) FadeIn(frames int) {
	frames = min(frames, b.Frames())
	for _, ch := range b.Channels {
		for i := range frames {
			ch[i] *= float32(i) / float32(frames)
		}
	}
}

// FadeOut ramps the last frames down to silence, in place. curve gives the gain for the share of the fade that is
// left, 0..1; nil is a straight line.
func (b Buffer) FadeOut(frames int, curve func(left float64) float64) {
	n := b.Frames()
	frames = min(frames, n)
	for _, ch := range b.Channels {
		for i := range frames {
			g := float64(i) / float64(frames)
			if curve != nil {
				g = curve(g)
			}
			ch[n-1-i] *= float32(g)
		}
	}
}

// Reversed is the audio from its end to its start.
func (b Buffer) Reversed() Buffer {
	out := b.Clone()
	for _, ch := range out.Channels {
		slices.Reverse(ch)
	}
	return out
}

// Then is the audio followed by more of the same rate and channels.
func (b Buffer) Then(more Buffer) Buffer {
	out := Buffer{Rate: b.Rate, Channels: make([][]float32, len(b.Channels))}
	for c := range b.Channels {
		out.Channels[c] = append(slices.Clone(b.Channels[c]), more.Channels[c]...)
	}
	return out
}

// Dither adds the noise of a Ditherer to a whole buffer, in place, channel after channel from one source.
func (b Buffer) Dither(bits int, seed uint64) {
	d := NewDitherer(bits, 1, seed)
	for _, ch := range b.Channels {
		d.Dither(Buffer{Rate: b.Rate, Channels: [][]float32{ch}})
	}
}

// Ditherer adds triangular noise of one step to each side (TPDF) before samples are cut to a number of bits, so that what is cut
// off is noise and not distortion: Lipshitz, Wannamaker and Vanderkooy, "Quantization and Dither: A Theoretical Survey" (1992), from
// memory. Digital silence stays silent; the noise is the same for the same seed, whatever the blocks.
type Ditherer struct {
	lsb float64
	rng []*rand.PCG
}

// NewDitherer makes the noise of a seed for so many channels.
func NewDitherer(bits, channels int, seed uint64) Ditherer {
	d := Ditherer{lsb: math.Exp2(-float64(bits - 1))}
	for c := range channels {
		d.rng = append(d.rng, rand.NewPCG(seed+uint64(c), 0x6865786163686f72))
	}
	return d
}

// Dither adds the noise to the next frames.
func (d Ditherer) Dither(b Buffer) {
	for c, ch := range b.Channels {
		rng, step := d.rng[c], d.lsb/(1<<32)
		for i, v := range ch {
			if v != 0 { // the two halves of one number are the two evenly spread ones whose difference is triangular
				n := rng.Uint64()
				ch[i] = v + float32(float64(int64(n>>32)-int64(n&math.MaxUint32))*step)
			}
		}
	}
}
