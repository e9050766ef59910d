package mix

import (
	"math"
	"sync"
)

// Quantum is how many frames a desk takes at a time; only what ends a bounce is shorter.
const Quantum = 8192

// Send is where a lane's sound goes, and by which factors on the left and the right.
type Send struct {
	Bus   int
	Sides [2]float64
}

// Desk is a mix at work at a sample rate. Its buses are the outputs, Main first, then the room and the delay.
type Desk struct {
	mix    Mix
	chains []chain
	room   *convolver
	delay  [2]*delayLine
	rings  int // frames that may follow the last sound
}

// chain is an output at work.
type chain struct {
	Output
	gate *gate
	comp *compressor
	sat  *Saturation
	eq   []*section
	gain float64
}

// NewDesk sets a mix up; the delay goes by bpm.
func NewDesk(m Mix, bpm float64, rate int) *Desk {
	d := &Desk{mix: m}
	for _, o := range m.All() {
		c := chain{Output: o, gain: linear(o.LevelDB)}
		if !m.Dry {
			if o.Gate.On {
				g := newGate(o.Gate, rate)
				c.gate = &g
			}
			if o.Compressor.On {
				k := newCompressor(o.Compressor, rate)
				c.comp = &k
			}
			if o.Saturation.On && o.Saturation.steepness() >= 1e-6 {
				c.sat = &o.Saturation
			}
			if o.Equaliser.On {
				for _, b := range o.Equaliser.Sections(rate) {
					c.eq = append(c.eq, &section{Biquad: b})
				}
			}
		}
		d.chains = append(d.chains, c)
	}
	if m.Dry {
		return d
	}
	for _, s := range m.Strips {
		if s.Room != nil && d.room == nil {
			response := m.Room.Response(rate)
			d.room = newConvolver(response, Quantum)
			d.rings = max(d.rings, len(response[0]))
		}
		if s.Delay != nil && d.delay[0] == nil {
			for side := range d.delay {
				d.delay[side] = newDelayLine(m.Delay, bpm, rate)
			}
			times := 1.0
			if m.Delay.Feedback > 0 {
				times += math.Ceil(-3 / math.Log10(m.Delay.Feedback)) // until a repeat is 60 dB down
			}
			d.rings = max(d.rings, int(min(30*float64(rate), times*float64(m.Delay.Frames(bpm, rate)))))
		}
	}
	return d
}

// Buses is how many there are.
func (d *Desk) Buses() int { return len(d.chains) + 2 }

// Stateful reports whether what comes out depends on what went in before.
func (d *Desk) Stateful() bool {
	if d.room != nil || d.delay[0] != nil {
		return true
	}
	for _, c := range d.chains {
		if c.gate != nil || c.comp != nil || len(c.eq) > 0 {
			return true
		}
	}
	return false
}

// Rings is how many frames may follow the last sound that is sent to a space.
func (d *Desk) Rings() int { return d.rings }

// Sends are where a lane goes. A lane of no strip goes to Main as it is.
func (d *Desk) Sends(part string, note int) []Send {
	s := d.mix.Strip(part, note)
	sides := s.sides()
	var out []Send
	for _, bus := range d.mix.OutputsOf(part, note) {
		out = append(out, Send{bus, sides})
	}
	if d.mix.Dry {
		return out
	}
	for i, db := range []*float64{s.Room, s.Delay} {
		if db != nil {
			g := linear(*db)
			out = append(out, Send{len(d.chains) + i, [2]float64{sides[0] * g, sides[1] * g}})
		}
	}
	return out
}

// idle reports whether a bus is one of the two spaces, and nothing is sent there.
func (d *Desk) idle(bus int) bool {
	return bus == len(d.chains) && d.room == nil || bus == len(d.chains)+1 && d.delay[0] == nil
}

// Process makes of what goes into the buses what comes out of them, in their place, and returns the mix: every output and both spaces,
// added up. Blocks are Quantum frames long but the last.
func (d *Desk) Process(buses [][2][]float64) [2][]float64 {
	var all sync.WaitGroup
	for i := range d.chains {
		all.Go(func() { d.chains[i].run(buses[i]) })
	}
	n := len(d.chains)
	if d.room != nil {
		all.Go(func() {
			d.room.run(buses[n])
			louder(buses[n], linear(d.mix.Room.ReturnDB))
		})
	}
	if d.delay[0] != nil {
		all.Go(func() {
			for side, line := range d.delay {
				line.run(buses[n+1][side])
			}
			louder(buses[n+1], linear(d.mix.Delay.ReturnDB))
		})
	}
	all.Wait()
	var mix [2][]float64
	for side := range mix {
		mix[side] = append(make([]float64, 0, len(buses[0][side])), buses[0][side]...)
		for n, b := range buses[1:] {
			if d.idle(n + 1) {
				continue
			}
			for i, v := range b[side] {
				mix[side][i] += v
			}
		}
	}
	return mix
}

func louder(x [2][]float64, g float64) {
	if g == 1 {
		return
	}
	for side := range x {
		for i := range x[side] {
			x[side][i] *= g
		}
	}
}

func (c *chain) run(x [2][]float64) {
	l, r := x[0], x[1]
	if c.Mono {
		for i := range l {
			m := (l[i] + r[i]) / 2
			l[i], r[i] = m, m
		}
	}
	if c.gate != nil {
		c.gate.run(l, r)
	}
	if c.comp != nil {
		c.comp.run(l, r)
	}
	if c.sat != nil {
		g := c.sat.steepness()
		top := 1 / math.Tanh(g)
		for side := range x {
			for i, v := range x[side] {
				if v != 0 {
					x[side][i] = math.Tanh(g*v) * top
				}
			}
		}
	}
	for _, f := range c.eq {
		f.both(l, r)
	}
	gain := c.gain
	if c.Muted {
		gain = 0
	}
	louder(x, gain)
}
