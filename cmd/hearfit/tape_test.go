package main

import (
	"math"
	"math/rand/v2"
	"testing"

	"hexachord/core/hear"
	"hexachord/core/net"
)

// What the tape says of a weight's slope is what moving the weight a little does to the loss.
func TestSlopes(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	s := newSetParam(5, hear.NetOutput, rng)
	x := net.Matrix(7, 5)
	for i := range x.Data {
		x.Data[i] = float32(rng.NormFloat64())
	}
	ends := []int{4, 7}
	targets := make([]target, 7)
	for r := range targets {
		for k := range targets[r] {
			targets[r][k] = float32(rng.IntN(2))
			if rng.Float64() < 0.2 {
				targets[r][k] = ignore
			}
		}
	}
	loss := func() (float64, *tape) {
		tp := &tape{rng: rand.New(rand.NewPCG(5, 6))} // the same values are left out each time
		y := s.forward(tp, x, ends)
		return hearingLoss(y, targets, ends) / float64(len(targets)), tp
	}
	here, tp := loss()
	tp.backwards()
	// the slope over a step to both sides, and by how much the sides differ
	moved := func(v *float32, step float32) (slope, apart float64) {
		was := *v
		*v = was + step
		above, _ := loss()
		*v = was - step
		below, _ := loss()
		*v = was
		return (above - below) / (2 * float64(step)), math.Abs(above+below-2*here) / float64(step)
	}
	for n, p := range s.params() {
		checked := 0
		for tries := 0; checked < 3 && tries < 40; tries++ {
			i := rng.IntN(len(p.is))
			want, apart := moved(&p.is[i], 4e-3)
			nearer, _ := moved(&p.is[i], 2e-3)
			if math.Abs(want-nearer) > 1e-3 || apart > 3e-3 { // a rectified value passes 0 on the way, or stands at it: there is no one slope
				continue
			}
			checked++
			if slope := float64(p.slope[i]); math.Abs(slope-want) > 2e-3+0.05*math.Abs(want) {
				t.Errorf("weights %d at %d: slope %.5f, the loss moves by %.5f", n, i, slope, want)
			}
		}
		if checked < 3 {
			t.Errorf("weights %d: no slope to compare with", n)
		}
	}
}
