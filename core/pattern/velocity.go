package pattern

import (
	"fmt"
	"math"
	"math/rand/v2"
)

// Velocity changes velocities.
type Velocity struct {
	About
	How string `json:"how" enum:"set,add,scale,compress,accent,random,even,line" required:"true"`
	// Amount is a velocity (set, even: what main strokes are brought to; line: where it begins), a difference (add, accent:
	// beats gain it, what lies between loses it), a percentage (scale; compress: towards the mean) or a range to each side
	// (random).
	Amount float64 `json:"amount" required:"true" minimum:"-1000" maximum:"1000"`
	Ghost  int     `json:"ghost,omitempty" minimum:"0" maximum:"127"` // even: strokes softer than this are left alone
	Seed   uint64  `json:"seed,omitempty"`                            // random
	// A line leads from Amount at FromTick to To at ToTick; Bend −1..1 makes it a curve that turns late (above 0) or early.
	To       float64 `json:"to,omitempty" minimum:"-1000" maximum:"1000"`
	FromTick int     `json:"fromTick,omitempty"`
	ToTick   int     `json:"toTick,omitempty"`
	Bend     float64 `json:"bend,omitempty" minimum:"-1" maximum:"1"`
}

// along is where a line stands at a tick.
func (s *Velocity) along(tick int) float64 {
	span := float64(s.ToTick - s.FromTick)
	if span <= 0 {
		return s.To
	}
	x := min(1, max(0, float64(tick-s.FromTick)/span))
	return s.Amount + (s.To-s.Amount)*math.Pow(x, math.Exp2(2*s.Bend))
}

func (s *Velocity) do(p Pattern) (Pattern, error) {
	if !(math.Abs(s.Amount) <= 1000 && math.Abs(s.To) <= 1000 && math.Abs(s.Bend) <= 1) {
		return p, fmt.Errorf("%w: what is to be done to the velocities is missing or out of range", ErrPattern)
	}
	beat := p.Meter.BeatTicks()
	about := p.about(s.About)
	sum, chosen := 0.0, 0
	for _, h := range p.Hits {
		if about(h) {
			sum += float64(h.Velocity)
			chosen++
		}
	}
	mean := sum / float64(max(1, chosen))
	rng := rand.New(rand.NewPCG(s.Seed, 0x76656c))
	of := map[string]func(h Hit, v float64) float64{
		"set":      func(Hit, float64) float64 { return s.Amount },
		"add":      func(_ Hit, v float64) float64 { return v + s.Amount },
		"scale":    func(_ Hit, v float64) float64 { return v * s.Amount / 100 },
		"compress": func(_ Hit, v float64) float64 { return v + (mean-v)*s.Amount/100 },
		"random":   func(_ Hit, v float64) float64 { return v + (2*rng.Float64()-1)*s.Amount },
		"accent": func(h Hit, v float64) float64 {
			if p.line(h)%beat == 0 {
				return v + s.Amount
			}
			return v - s.Amount
		},
		"even": func(_ Hit, v float64) float64 {
			if v < float64(s.Ghost) {
				return v
			}
			return s.Amount
		},
		"line": func(h Hit, v float64) float64 {
			if h.Tick < s.FromTick || h.Tick > s.ToTick {
				return v
			}
			return s.along(h.Tick)
		},
	}[s.How]
	if of == nil {
		return p, fmt.Errorf("%w: velocities cannot be changed by %q", ErrPattern, s.How)
	}
	p.Hits = p.mapped(s.About, func(h Hit) Hit {
		h.Velocity = clampVelocity(of(h, float64(h.Velocity)))
		return h
	})
	return p, nil
}

func (s *Velocity) describe(_ Pattern, lane func(int) string) string {
	return "Velocity of hits" + s.on(lane)
}

func clampVelocity(v float64) int { return min(127, max(1, int(math.Round(v)))) }
