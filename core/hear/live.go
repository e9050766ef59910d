package hear

import (
	"math"

	"hexachord/core/sound"
)

// LiveStrike is a stroke heard while the input plays.
type LiveStrike struct {
	Frame    int `json:"frame"` // at which the gate opened, counted from the first that was fed
	Velocity int `json:"velocity"`
}

// Live is a listener that hears an input as it comes, as a drum trigger does. What comes later is not known: its thresholds are dB under
// full scale, and a stroke is as loud as it gets within LookS after the gate has opened.
type Live struct {
	of            Listener
	rate          float64
	filters       []sound.Biquad
	rise, fall    float64
	level, lowest float64 // linear; the lowest since the last stroke
	loudest       float64 // of all strokes so far
	open          bool
	frame, last   int
	opening       int     // frame at which the stroke under way opened the gate; −1: none
	top           float64 // how loud that has got
}

// LookS is for how long a live stroke is listened to before it sounds, seconds.
const LookS = 0.004

// BeginsUnder is how far under full scale the hardest stroke is thought to lie before any was heard, dB.
const BeginsUnder = 18

// NewLive begins to listen at a sample rate; ErrListener.
func NewLive(l Listener, rate int) (*Live, error) {
	if err := l.Check(); err != nil {
		return nil, err
	}
	return &Live{of: l, rate: float64(rate), filters: bandFilters(l.LoHz, l.HiHz, rate), opening: -1, last: math.MinInt / 2,
		rise:    1 - math.Exp(-1/(math.Max(0.0005, 0.05/l.LoHz)*float64(rate))), // quick: what follows is not waited for
		fall:    1 - math.Exp(-1/(0.03*float64(rate))),
		loudest: amplitude(max(-BeginsUnder, l.OpenDB))}, nil
}

// RisesS is for how long a stroke may go on rising, seconds.
const RisesS = 0.025

func amplitude(db float64) float64 { return math.Pow(10, db/20) }

// Feed takes what came in next, one channel, and gives the strokes that are heard in it.
func (v *Live) Feed(block []float32) []LiveStrike {
	strikes := []LiveStrike{}
	opens, closes, again := amplitude(v.of.OpenDB), amplitude(v.of.CloseDB), amplitude(AgainDB)
	for _, x := range block {
		y := float64(x)
		for f := range v.filters {
			y = v.filters[f].Next(y)
		}
		y = math.Abs(y)
		if y > v.level {
			v.level += (y - v.level) * v.rise
		} else {
			v.level += (y - v.level) * v.fall
		}
		if float64(v.frame-v.last) < max(v.of.GapMS/1000, RisesS)*v.rate { // a stroke still swells
			v.lowest = v.level
		}
		v.lowest = min(v.lowest, v.level)
		switch {
		case v.of.Off:
		case v.opening >= 0:
			v.top = max(v.top, v.level)
			if float64(v.frame-v.opening) >= LookS*v.rate {
				v.loudest = max(v.loudest, v.top)
				strikes = append(strikes, LiveStrike{v.opening, min(127, max(1, int(math.Round(127*math.Sqrt(v.top/v.loudest)))))})
				v.last, v.opening = v.opening, -1
			}
		case v.level >= opens && (!v.open || v.level >= v.lowest*again) && float64(v.frame-v.last) >= v.of.GapMS/1000*v.rate:
			v.open, v.opening, v.top = true, v.frame, v.level
		case v.open && v.level < closes:
			v.open = false
		}
		v.frame++
	}
	return strikes
}
