package hear

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"hexachord/core/music"
)

// Pin holds a tick of the grid to a moment of the recording. A grid with pins follows a drummer who drifts; between
// two pins time runs evenly, before the first and after the last at their pace, so that what the player did inside the
// bar survives.
type Pin struct {
	Tick  int     `json:"tick"` // from bar 1
	TimeS float64 `json:"time"`
}

// TickAt is the tick, from bar 1, at a moment of the recording.
func (h Hearing) TickAt(timeS float64) float64 {
	perTick := music.SecondsPerTick(h.BPM)
	if len(h.Pins) < 2 {
		return (timeS - h.BarOneS) / perTick
	}
	i := sort.Search(len(h.Pins), func(i int) bool { return h.Pins[i].TimeS > timeS })
	a, b := h.around(i)
	return float64(a.Tick) + (timeS-a.TimeS)*float64(b.Tick-a.Tick)/(b.TimeS-a.TimeS)
}

// TimeAt is the moment of the recording at a tick from bar 1.
func (h Hearing) TimeAt(tick float64) float64 {
	if len(h.Pins) < 2 {
		return h.BarOneS + tick*music.SecondsPerTick(h.BPM)
	}
	i := sort.Search(len(h.Pins), func(i int) bool { return float64(h.Pins[i].Tick) > tick })
	a, b := h.around(i)
	return a.TimeS + (tick-float64(a.Tick))*(b.TimeS-a.TimeS)/float64(b.Tick-a.Tick)
}

// around are the pins between which place i lies, the outermost two beyond the ends.
func (h Hearing) around(i int) (a, b Pin) {
	i = min(len(h.Pins)-1, max(1, i))
	return h.Pins[i-1], h.Pins[i]
}

// Follow pins every bar line, and the last bar's end, to the stroke that is nearest to where the bar before leads it to
// expect it: within an eighth of a beat, low and loud strokes before others.
func (h Hearing) Follow() Hearing {
	bar := h.Meter.BarTicks()
	barS := music.Seconds(float64(bar), h.BPM)
	reach := barS / float64(h.Meter.Beats) / 8
	ps := pulses(sounding(h.Hits))
	expected := h.BarOneS
	pins := []Pin{}
	for n := 0; n <= h.Bars; n++ {
		at, best := expected, 0.0
		for _, p := range ps {
			off := math.Abs(p.timeS - expected)
			if off > reach {
				continue
			}
			if w := (p.weight + p.low) * (1 - 0.7*off/reach); w > best {
				at, best = p.timeS, w
			}
		}
		if n > 0 { // the next bar is expected to take as long as this one
			barS = at - pins[n-1].TimeS
		}
		pins = append(pins, Pin{n * bar, at})
		expected = at + barS
	}
	h.Pins = pins
	return h
}

func sounding(hits []Hit) (out []Hit) {
	for _, h := range hits {
		if h.Sounds() {
			out = append(out, h)
		}
	}
	return out
}

// Pin puts one beat line onto a moment of the recording. A steady grid is first pinned at every bar line as it lies, so that
// the other bars stay; there the first bar line moves the whole grid instead. Errors: as Pinned.
func (h Hearing) Pin(tick int, timeS float64) (Hearing, error) {
	if len(h.Pins) < 2 && tick == 0 {
		return h.Regrid(0, 0, &timeS)
	}
	var pins []Pin
	if len(h.Pins) < 2 {
		bar := h.Meter.BarTicks()
		for n := 0; n <= h.Bars; n++ {
			pins = append(pins, Pin{n * bar, h.TimeAt(float64(n * bar))})
		}
	} else {
		pins = append(pins, h.Pins...)
	}
	pins = slices.DeleteFunc(pins, func(p Pin) bool { return p.Tick == tick })
	return h.Pinned(append(pins, Pin{tick, timeS}))
}

// Pinned is the hearing with pins of the person's; none, or one, makes the grid steady again. Pins must go on in time, no
// bar less than half and none more than twice as long as the tempo says.
func (h Hearing) Pinned(pins []Pin) (Hearing, error) {
	if len(pins) < 2 {
		h.Pins = nil
		return h, nil
	}
	pins = append([]Pin(nil), pins...)
	sort.Slice(pins, func(i, j int) bool { return pins[i].Tick < pins[j].Tick })
	for i := 1; i < len(pins); i++ {
		ticks, span := pins[i].Tick-pins[i-1].Tick, pins[i].TimeS-pins[i-1].TimeS
		steady := music.Seconds(float64(ticks), h.BPM)
		if ticks <= 0 || !(span > steady/2 && span < steady*2) {
			return h, fmt.Errorf("%w: the bar line at %.2f s would make a bar less than half or more than twice as long as the tempo says; correct the tempo first", ErrEdit, pins[i].TimeS)
		}
	}
	h.Pins = pins
	h.BarOneS = max(0, pins[0].TimeS-music.Seconds(float64(pins[0].Tick), h.BPM))
	return h, nil
}
