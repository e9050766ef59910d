package main

import (
	"math"
	"math/rand/v2"

	"gonum.org/v1/gonum/blas"
	"gonum.org/v1/gonum/blas/blas32"

	"hexachord/core/net"
)

// value is a matrix on the way from inputs to the loss, and the loss's slope by it.
type value struct{ is, slope blas32.General }

// tape remembers what was computed, so that slopes can be taken backwards (reverse accumulation).
type tape struct {
	back []func()
	rng  *rand.Rand
}

func (t *tape) made(is blas32.General, back func(v value)) value {
	v := value{is, net.Matrix(is.Rows, is.Cols)}
	t.back = append(t.back, func() { back(v) })
	return v
}

// backwards takes the slopes, from the last value made to the first.
func (t *tape) backwards() {
	for i := len(t.back) - 1; i >= 0; i-- {
		t.back[i]()
	}
}

// param is weights that are learnt, and what Adam (Kingma and Ba 2015) remembers of them.
type param struct {
	is, slope, mean, square []float32
	decays                  bool
}

func newParam(is []float32, decays bool) *param {
	return &param{is, make([]float32, len(is)), make([]float32, len(is)), make([]float32, len(is)), decays}
}

// layerParam is a layer that is learnt.
type layerParam struct {
	net.Layer
	w, b *param
}

func newLayerParam(in, out int, rng *rand.Rand) *layerParam {
	l := &layerParam{Layer: net.Layer{In: in, Out: out, W: make([]float32, in*out), B: make([]float32, out)}}
	for i := range l.W {
		l.W[i] = float32((2*rng.Float64() - 1) / math.Sqrt(float64(in)))
	}
	l.w, l.b = newParam(l.W, true), newParam(l.B, false)
	return l
}

func (t *tape) layer(x value, l *layerParam) value {
	is := net.Matrix(x.is.Rows, l.Out)
	for r := range is.Rows {
		copy(net.Row(is, r), l.B)
	}
	blas32.Gemm(blas.NoTrans, blas.Trans, 1, x.is, l.Weights(), 1, is) // all at once, for a library of products; Layer.Of goes row by row
	return t.made(is, func(y value) {
		slope := l.Weights()
		slope.Data = l.w.slope
		blas32.Gemm(blas.Trans, blas.NoTrans, 1, y.slope, x.is, 1, slope)
		for r := range y.slope.Rows {
			for i, g := range net.Row(y.slope, r) {
				l.b.slope[i] += g
			}
		}
		blas32.Gemm(blas.NoTrans, blas.NoTrans, 1, y.slope, l.Weights(), 1, x.slope)
	})
}

func (t *tape) rectified(x value) value {
	is := net.Matrix(x.is.Rows, x.is.Cols)
	copy(is.Data, x.is.Data)
	net.Rectify(is)
	return t.made(is, func(y value) {
		for i, v := range y.is.Data {
			if v > 0 {
				x.slope.Data[i] += y.slope.Data[i]
			}
		}
	})
}

// dropped leaves out a share of the values at random (dropout).
func (t *tape) dropped(x value, share float64) value {
	is := net.Matrix(x.is.Rows, x.is.Cols)
	keep := make([]float32, len(is.Data))
	cut, up := uint32(share*(1<<32)), float32(1/(1-share))
	for i, v := range x.is.Data {
		if t.rng.Uint32() >= cut {
			keep[i] = up
			is.Data[i] = v * up
		}
	}
	return t.made(is, func(y value) {
		for i, k := range keep {
			x.slope.Data[i] += k * y.slope.Data[i]
		}
	})
}

func (t *tape) sum(a, b value) value {
	is := net.Matrix(a.is.Rows, a.is.Cols)
	copy(is.Data, a.is.Data)
	net.Add(is, b.is)
	return t.made(is, func(y value) {
		net.Add(a.slope, y.slope)
		net.Add(b.slope, y.slope)
	})
}

type normParam struct {
	net.Norm
	gain, bias *param
}

func newNormParam(d int) *normParam {
	n := &normParam{Norm: net.Norm{Gain: make([]float32, d), Bias: make([]float32, d)}}
	for i := range n.Gain {
		n.Gain[i] = 1
	}
	n.gain, n.bias = newParam(n.Gain, false), newParam(n.Bias, false)
	return n
}

func (t *tape) norm(x value, n *normParam) value {
	return t.made(n.Of(x.is), func(y value) {
		d := float32(x.is.Cols)
		for r := range x.is.Rows {
			in, slope, back := net.Row(x.is, r), net.Row(y.slope, r), net.Row(x.slope, r)
			mean, spread := net.Moments(in)
			var sum, along float32
			for i, g := range slope {
				z := (in[i] - mean) / spread
				n.gain.slope[i] += g * z
				n.bias.slope[i] += g
				sum += g * n.Gain[i]
				along += g * n.Gain[i] * z
			}
			for i, g := range slope {
				z := (in[i] - mean) / spread
				back[i] += (g*n.Gain[i] - sum/d - z*along/d) / spread
			}
		}
	})
}

// attended lets the members of each set (rows from one end to the next) tell each other.
func (t *tape) attended(asked value, ends []int) value {
	d := asked.is.Cols / 3
	is := net.Matrix(asked.is.Rows, d)
	var shares [][]blas32.General
	from := 0
	for _, to := range ends {
		shares = append(shares, net.Attend(asked.is, is, from, to))
		from = to
	}
	return t.made(is, func(y value) {
		each := d / net.Heads
		scale := float32(1 / math.Sqrt(float64(each)))
		from := 0
		for s, to := range ends {
			n := to - from
			for h := range net.Heads {
				part := func(m blas32.General, which int) blas32.General { return net.Part(m, from, n, which*d+h*each, each) }
				w, g := shares[s][h], part(y.slope, 0)
				by := net.Matrix(n, n)
				blas32.Gemm(blas.NoTrans, blas.Trans, 1, g, part(asked.is, 2), 0, by)
				blas32.Gemm(blas.Trans, blas.NoTrans, 1, w, g, 1, part(asked.slope, 2))
				for r := range n { // through the softmax
					row, share := net.Row(by, r), net.Row(w, r)
					dot := float32(0)
					for i, v := range row {
						dot += v * share[i]
					}
					for i, v := range row {
						row[i] = share[i] * (v - dot)
					}
				}
				blas32.Gemm(blas.NoTrans, blas.NoTrans, scale, by, part(asked.is, 1), 1, part(asked.slope, 0))
				blas32.Gemm(blas.Trans, blas.NoTrans, scale, by, part(asked.is, 0), 1, part(asked.slope, 1))
			}
			from = to
		}
	})
}
