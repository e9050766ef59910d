package play

import (
	"math"
	"math/rand/v2"
	"strings"

	"hexachord/core/pattern"
)

// laned is a pattern whose lanes may have lengths of their own.
type laned struct{ pattern.Pattern }

// sounding is a place in the pass at which a hit is played, and in which passes ("" = all).
type sounding struct {
	tick int
	when string
}

// mostPasses bounds after how many passes lanes of unlike lengths meet again; lanes that would need more begin again with
// every pass. chancePasses is how many passes chance is drawn for before it repeats.
const (
	mostPasses   = 64
	chancePasses = 64
)

// soundings lists where and in which passes a hit is played: a lane shorter than the pattern runs on through the passes,
// and a hit left to chance sounds in its share of them, the same ones each time for the same seed.
func (p laned) soundings(h pattern.Hit, seed uint32) []sounding {
	if h.Skip >= 100 {
		return nil
	}
	length, loop := p.LengthTicks(), p.LoopOf(h.Note)
	if h.Tick >= loop {
		return nil
	}
	cycle := 1
	if loop < length {
		if cycle = loop / gcd(length, loop); cycle > mostPasses {
			cycle = 1
		}
	}
	passes := cycle
	if h.Skip > 0 {
		passes = cycle * ((chancePasses + cycle - 1) / cycle)
	}
	if passes == 1 && loop == length {
		return []sounding{{h.Tick, ""}}
	}
	var chance []bool
	if h.Skip > 0 {
		chance = chances(h, seed, passes)
	}
	at := map[int][]byte{}
	var order []int
	for n := range passes {
		if chance != nil && !chance[n] {
			continue
		}
		offset := n % cycle * length % loop
		lead := min(0, h.Tick) // a hit that leads into the lane leads into the pass
		for tick := h.Tick - offset; tick < length+lead; tick += loop {
			if tick < lead {
				continue
			}
			bits, ok := at[tick]
			if !ok {
				bits = []byte(strings.Repeat("0", passes))
				at[tick] = bits
				order = append(order, tick)
			}
			bits[n] = '1'
		}
	}
	out := make([]sounding, 0, len(order))
	for _, tick := range order {
		when := string(at[tick])
		if !strings.Contains(when, "0") {
			when = ""
		}
		out = append(out, sounding{tick, when})
	}
	return out
}

// chances draws in which of the passes a hit sounds: exactly its share of them, shuffled.
func chances(h pattern.Hit, seed uint32, passes int) []bool {
	out := make([]bool, passes)
	for i := range int(math.Round(float64(passes) * float64(100-h.Skip) / 100)) {
		out[i] = true
	}
	rng := rand.New(rand.NewPCG(uint64(seed), uint64(h.Note)<<40|uint64(uint32(h.Tick))))
	rng.Shuffle(passes, func(i, j int) { out[i], out[j] = out[j], out[i] })
	return out
}

func gcd(a, b int) int {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// panned moves a cue to a side by its Pan, by the equal-power law: at the end of its way one channel is silent.
func (c *Cue) panned() {
	if c.Pan == 0 {
		return
	}
	power, to := math.Hypot(c.Left, c.Right), math.Pi/2
	if c.Pan < 0 {
		to = 0
	}
	angle := math.Atan2(c.Right, c.Left)
	angle += (to - angle) * math.Abs(c.Pan) / 100
	c.Left, c.Right = power*math.Cos(angle), power*math.Sin(angle)
}
