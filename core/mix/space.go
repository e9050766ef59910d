package mix

import (
	"errors"
	"math"

	"hexachord/core/fourier"
	"hexachord/core/music"
)

// Room is the one room lanes are sent to: convolution with a response that is synthesised.
type Room struct {
	SizeM    float64 `json:"size" minimum:"3" maximum:"60"`    // metres to the first wall and back: when the first echo comes
	LengthS  float64 `json:"length" minimum:"0.2" maximum:"4"` // until it has died away by 60 dB
	Tone     float64 `json:"tone" minimum:"-1" maximum:"1"`    // −1 dark: highs die four times as fast; 1 bright: as slowly as lows
	ReturnDB float64 `json:"return" minimum:"-60" maximum:"12"`
}

// NewRoom is a small wooden room.
func NewRoom() Room { return Room{SizeM: 6, LengthS: 0.9, Tone: -0.3, ReturnDB: -9} }

func (r Room) check() error {
	return errors.Join(within("a room's size in m", r.SizeM, 3, 60), within("a room's length in s", r.LengthS, 0.2, 4), within("a room's tone", r.Tone, -1, 1), within("a room's return in dB", r.ReturnDB, -60, 12))
}

const (
	soundMPerS  = 343.0
	roomSplitHz = 1500.0 // between what counts as low and high
	earlyEchoes = 7
)

// noise is a deterministic sequence of numbers from −1 to 1 (splitmix64: Steele, Lea and Flood 2014).
type noise uint64

func (n *noise) next() float64 {
	*n += 0x9e3779b97f4a7c15
	z := uint64(*n)
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	z ^= z >> 31
	return float64(int64(z>>11))/(1<<52) - 1
}

// Response is the room's impulse response, left and right, of energy 1 each: a few echoes off the walls, then noise that dies away, its highs
// sooner than its lows. The same room gives the same numbers.
func (r Room) Response(rate int) [2][]float64 {
	first := r.SizeM / soundMPerS
	frames := int(math.Ceil((first + r.LengthS) * float64(rate)))
	var out [2][]float64
	for side := range out {
		rng := noise(uint64(side)*7919 + 1)
		x := make([]float64, frames)
		for i := range earlyEchoes {
			at := first * (1 + 0.37*float64(i) + 0.11*(1+rng.next()))
			if f := int(at * float64(rate)); f < frames {
				x[f] += 0.9 / (1 + float64(i)) * math.Copysign(1, rng.next())
			}
		}
		lowFall := math.Pow(10, -3/(r.LengthS*float64(rate)))
		highFall := math.Pow(10, -3/(r.LengthS*math.Pow(2, r.Tone-1)*float64(rate)))
		a := math.Exp(-2 * math.Pi * roomSplitHz / float64(rate))
		low, lowGain, highGain := 0.0, 0.25, 0.25
		begins := int(1.5 * first * float64(rate))
		for i := begins; i < frames; i++ {
			n := rng.next()
			low = a*low + (1-a)*n
			grows := min(1, float64(i-begins)/(0.02*float64(rate)))
			x[i] += grows * (2*low*lowGain + (n-low)*highGain)
			lowGain *= lowFall
			highGain *= highFall
		}
		sum := 0.0
		for i, v := range x {
			if left := frames - i; left < frames/10 {
				v *= float64(left) / float64(frames/10)
				x[i] = v
			}
			sum += v * v
		}
		for i := range x {
			x[i] /= math.Sqrt(sum)
		}
		out[side] = x
	}
	return out
}

// Delay repeats what is sent to it, a note value apart.
type Delay struct {
	Grid     music.Grid `json:"grid"`
	Feedback float64    `json:"feedback" minimum:"0" maximum:"0.95"` // how much of each repeat is in the next
	ToneHz   float64    `json:"tone" minimum:"200" maximum:"20000"`  // repeats lose what lies above
	ReturnDB float64    `json:"return" minimum:"-60" maximum:"12"`
}

// NewDelay is dotted eighths.
func NewDelay() Delay { return Delay{Grid: "1/8d", Feedback: 0.32, ToneHz: 6000, ReturnDB: -9} }

func (d Delay) check() error {
	_, err := d.Grid.Ticks()
	return errors.Join(err, within("a delay's feedback", d.Feedback, 0, 0.95), within("a delay's tone in Hz", d.ToneHz, 200, 20000), within("a delay's return in dB", d.ReturnDB, -60, 12))
}

// Frames from one repeat to the next.
func (d Delay) Frames(bpm float64, rate int) int {
	ticks, err := d.Grid.Ticks()
	if err != nil {
		return 1
	}
	return max(1, int(math.Round(music.Seconds(float64(ticks), bpm)*float64(rate))))
}

// convolver convolves blocks of a fixed size with a response for each side, cut into pieces of that size, by their spectra (overlap-save). The
// left is the real part of what is transformed, the right the imaginary one, so that one transform does for both.
type convolver struct {
	size   int
	plan   *fourier.Plan
	pieces [2][][]complex128 // the lower halves of the spectra of the responses' pieces
	past   [2][][]complex128 // those of the last blocks, the newest at "at"
	at     int
	last   []complex128 // the last block
	in     []complex128 // what is transformed
	freq   []complex128
	out    []complex128
	sum    [2][]complex128
}

func newConvolver(response [2][]float64, size int) *convolver {
	n := 2 * size
	c := &convolver{size: size, plan: fourier.NewPlan(n), last: make([]complex128, size), in: make([]complex128, n), freq: make([]complex128, n), out: make([]complex128, n)}
	for from := 0; from < len(response[0]); from += size {
		clear(c.in)
		for i := from; i < min(len(response[0]), from+size); i++ {
			c.in[i-from] = complex(response[0][i], response[1][i])
		}
		l, r := make([]complex128, size+1), make([]complex128, size+1)
		c.spectra(l, r)
		c.pieces[0], c.pieces[1] = append(c.pieces[0], l), append(c.pieces[1], r)
		for side := range c.past {
			c.past[side] = append(c.past[side], make([]complex128, size+1))
		}
	}
	for side := range c.sum {
		c.sum[side] = make([]complex128, size+1)
	}
	return c
}

// spectra are the lower halves of the spectra of the real and the imaginary part of in, which is used up.
func (c *convolver) spectra(l, r []complex128) {
	n := 2 * c.size
	c.plan.Forward(c.freq, c.in)
	for k := range l {
		a, b := c.freq[k], c.freq[(n-k)%n]
		l[k] = complex((real(a)+real(b))/2, (imag(a)-imag(b))/2)
		r[k] = complex((imag(a)+imag(b))/2, (real(b)-real(a))/2)
	}
}

// run replaces a block by what the room makes of it, and of what came before.
func (c *convolver) run(x [2][]float64) {
	copy(c.in, c.last)
	clear(c.last)
	for i := range x[0] {
		c.last[i] = complex(x[0][i], x[1][i])
	}
	copy(c.in[c.size:], c.last)
	pieces := len(c.pieces[0])
	c.at = (c.at + pieces - 1) % pieces
	c.spectra(c.past[0][c.at], c.past[1][c.at])
	for side, sum := range c.sum {
		clear(sum)
		for p, piece := range c.pieces[side] {
			past := c.past[side][(c.at+p)%pieces]
			for k, v := range piece {
				w := past[k]
				sum[k] += complex(real(v)*real(w)-imag(v)*imag(w), real(v)*imag(w)+imag(v)*real(w))
			}
		}
	}
	n := 2 * c.size
	for k := range c.sum[0] {
		// back by the same transform: real and imaginary parts change places before and after
		l, r := c.sum[0][k], c.sum[1][k]
		c.freq[k] = complex(imag(l)+real(r), real(l)-imag(r))
		if k > 0 && k < c.size {
			c.freq[n-k] = complex(real(r)-imag(l), real(l)+imag(r))
		}
	}
	c.plan.Forward(c.out, c.freq)
	for i := range x[0] {
		v := c.out[c.size+i]
		x[0][i], x[1][i] = imag(v)/float64(n), real(v)/float64(n)
	}
}

// delayLine repeats one side.
type delayLine struct {
	line     []float64
	at       int
	feedback float64
	a, low   float64
}

func newDelayLine(d Delay, bpm float64, rate int) *delayLine {
	return &delayLine{line: make([]float64, d.Frames(bpm, rate)), feedback: d.Feedback, a: math.Exp(-2 * math.Pi * min(d.ToneHz, 0.49*float64(rate)) / float64(rate))}
}

func (d *delayLine) run(x []float64) {
	for i, v := range x {
		y := d.line[d.at]
		if d.low = d.a*d.low + (1-d.a)*y; math.Abs(d.low) < rest {
			d.low = 0
		}
		d.line[d.at] = v + d.feedback*d.low
		if d.at++; d.at == len(d.line) {
			d.at = 0
		}
		x[i] = d.low
	}
}
