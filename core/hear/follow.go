package hear

import (
	"fmt"
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
	// Sure is how well the strokes of the bar that begins here lie on its beats, 0..1; below SureBar the bar is in doubt. 0 where
	// nothing is struck, or where it is the person's word.
	Sure float64 `json:"sure,omitempty" minimum:"0" maximum:"1"`
}

// SureBar is what a bar's strokes must reach, of 1, for the bar not to be in doubt.
const SureBar = 0.6

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
			pins = append(pins, Pin{Tick: n * bar, TimeS: h.TimeAt(float64(n * bar))})
		}
	} else {
		pins = append(pins, h.Pins...)
	}
	pins = slices.DeleteFunc(pins, func(p Pin) bool { return p.Tick == tick })
	return h.Pinned(append(pins, Pin{Tick: tick, TimeS: timeS}))
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
