package song

import (
	"math"
	"sort"

	"hexachord/core/music"
)

// Clock leads from a song's bars to ticks and to seconds, and back.
type Clock struct {
	bars   []int     // tick at which each bar begins, one more than there are bars
	meters []Meter   // by bar
	spans  []stretch // of one tempo, or of one glide
}

// stretch is a stretch of the song in which the tempo is steady, or changes steadily in BPM over ticks.
type stretch struct {
	tick     int
	atS      float64
	from, to float64 // BPM at its beginning and end
	ticks    float64 // its length; +Inf for the last
}

// NewClock is the clock of a song at a project's tempo.
func NewClock(s Song, bpm float64) Clock {
	c := Clock{bars: make([]int, 1, MaxBars+1), meters: s.Meters}
	for bar := range MaxBars {
		c.bars = append(c.bars, c.bars[bar]+c.MeterAt(bar).BarTicks())
	}
	tempos := s.Tempos
	if len(tempos) == 0 || tempos[0].Bar > 0 {
		tempos = append([]Tempo{{BPM: bpm}}, tempos...)
	}
	atS := 0.0
	for i, t := range tempos {
		p := stretch{tick: c.bars[t.Bar], atS: atS, from: t.BPM, to: t.BPM, ticks: math.Inf(1)}
		if i+1 < len(tempos) {
			p.ticks = float64(c.bars[tempos[i+1].Bar] - p.tick)
			if t.Glide {
				p.to = tempos[i+1].BPM
			}
			atS += p.seconds(p.ticks)
		}
		c.spans = append(c.spans, p)
	}
	return c
}

// seconds from the stretch's beginning to a tick of it: at a steady tempo 60·t/(PPQ·BPM); in a glide the integral of that over
// BPM(t) = from + (to−from)·t/ticks, which is 60·ticks/(PPQ·(to−from)) · ln(BPM(t)/from).
func (p stretch) seconds(ticks float64) float64 {
	if p.from == p.to {
		return music.Seconds(ticks, p.from)
	}
	slope := (p.to - p.from) / p.ticks
	return 60 / (music.PPQ * slope) * math.Log1p(slope*ticks/p.from)
}

// ticksAt is the other way round.
func (p stretch) ticksAt(seconds float64) float64 {
	if p.from == p.to {
		return seconds / music.SecondsPerTick(p.from)
	}
	slope := (p.to - p.from) / p.ticks
	return p.from / slope * math.Expm1(seconds*music.PPQ*slope/60)
}

// MeterAt is the meter of a bar.
func (c Clock) MeterAt(bar int) music.Meter {
	i := sort.Search(len(c.meters), func(i int) bool { return c.meters[i].Bar > bar })
	if i == 0 {
		return music.CommonTime
	}
	return c.meters[i-1].Meter
}

// Tick is the tick at which a bar begins; a bar beyond MaxBars is that.
func (c Clock) Tick(bar int) int { return c.bars[max(0, min(bar, MaxBars))] }

// Bar is the bar in which a tick lies.
func (c Clock) Bar(tick int) int {
	return max(0, sort.Search(len(c.bars), func(i int) bool { return c.bars[i] > tick })-1)
}

// Seconds is when a tick sounds, from the song's beginning; before it the first tempo holds.
func (c Clock) Seconds(tick float64) float64 {
	p := c.spans[max(0, sort.Search(len(c.spans), func(i int) bool { return float64(c.spans[i].tick) > tick })-1)]
	return p.atS + p.seconds(tick-float64(p.tick))
}

// Ticks is the tick that sounds at a moment, seconds.
func (c Clock) Ticks(seconds float64) float64 {
	p := c.spans[max(0, sort.Search(len(c.spans), func(i int) bool { return c.spans[i].atS > seconds })-1)]
	return float64(p.tick) + p.ticksAt(seconds-p.atS)
}

// BPM is the tempo at a tick.
func (c Clock) BPM(tick float64) float64 {
	p := c.spans[max(0, sort.Search(len(c.spans), func(i int) bool { return float64(c.spans[i].tick) > tick })-1)]
	if p.from == p.to {
		return p.from
	}
	return p.from + (p.to-p.from)*max(0, min(1, (tick-float64(p.tick))/p.ticks))
}
