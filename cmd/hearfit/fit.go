package main

import (
	"log"
	"math"
	"math/rand/v2"

	"gonum.org/v1/gonum/blas"
	"gonum.org/v1/gonum/blas/blas32"

	"hexachord/core/net"
)

const (
	batch      = 256
	peakRate   = 1.5e-3
	inputNoise = 0.15 // deviations
	dropInput  = 0.05
	dropHidden = 0.25
	weightLoss = 1e-4
)

// layer is a fully connected layer with what Adam (Kingma and Ba 2015) remembers.
type layer struct {
	w, b       blas32.General // b is 1×out
	gw, gb     blas32.General
	mw, vw     []float32
	mb, vb     []float32
	in, out    blas32.General // the last batch's input and output
	mask, back blas32.General
}

func mat(r, c int) blas32.General {
	return blas32.General{Rows: r, Cols: c, Stride: c, Data: make([]float32, r*c)}
}

func newLayer(in, out int, rng *rand.Rand) *layer {
	l := &layer{w: mat(out, in), b: mat(1, out), gw: mat(out, in), gb: mat(1, out), out: mat(batch, out), mask: mat(batch, out), back: mat(batch, in),
		mw: make([]float32, in*out), vw: make([]float32, in*out), mb: make([]float32, out), vb: make([]float32, out)}
	for i := range l.w.Data {
		l.w.Data[i] = float32(rng.NormFloat64() * math.Sqrt(2/float64(in)))
	}
	return l
}

func (l *layer) forward(x blas32.General, last bool, drop float64, rng *rand.Rand) blas32.General {
	l.in = x
	blas32.Gemm(blas.NoTrans, blas.Trans, 1, x, l.w, 0, l.out)
	for r := range batch {
		row := l.out.Data[r*l.out.Stride : r*l.out.Stride+l.out.Cols]
		m := l.mask.Data[r*l.mask.Stride:]
		for i := range row {
			row[i] += l.b.Data[i]
			m[i] = 1
			if last {
				continue
			}
			if row[i] < 0 || drop > 0 && rng.Float64() < drop {
				row[i], m[i] = 0, 0
			} else if drop > 0 {
				m[i] = float32(1 / (1 - drop))
				row[i] *= m[i]
			}
		}
	}
	return l.out
}

// backward takes the loss's slope by this layer's output and returns it by its input.
func (l *layer) backward(grad blas32.General) blas32.General {
	for i := range grad.Data {
		grad.Data[i] *= l.mask.Data[i]
	}
	blas32.Gemm(blas.Trans, blas.NoTrans, 1, grad, l.in, 0, l.gw)
	for o := range l.gb.Data {
		l.gb.Data[o] = 0
	}
	for r := range batch {
		for o, g := range grad.Data[r*grad.Stride : r*grad.Stride+grad.Cols] {
			l.gb.Data[o] += g
		}
	}
	blas32.Gemm(blas.NoTrans, blas.NoTrans, 1, grad, l.w, 0, l.back)
	return l.back
}

func adam(w, g, m, v []float32, rate, decay float64, step int) {
	const b1, b2 = 0.9, 0.999
	c1, c2 := 1-math.Pow(b1, float64(step)), 1-math.Pow(b2, float64(step))
	for i, gi := range g {
		m[i] = b1*m[i] + (1-b1)*gi
		v[i] = b2*v[i] + (1-b2)*gi*gi
		w[i] -= float32(rate * (float64(m[i])/c1/(math.Sqrt(float64(v[i])/c2)+1e-8) + decay*float64(w[i])))
	}
}

// task is what a net is to learn: how many units between inputs and outputs, how many outputs, the loss of an example's outputs and its slope by each, and
// what to say of a net after an epoch.
type task struct {
	hidden  int
	outputs int
	slope   func(y, target, grad []float32) (loss float64)
	report  func(n *net.Net, check []example) string
}

// fit learns from learn and reports on check after each epoch.
func (t task) fit(learn, check []example, epochs int, seed uint64) *net.Net {
	rng := rand.New(rand.NewPCG(seed, 0x666974))
	n := &net.Net{}
	var all [][]float32
	for _, e := range learn {
		all = append(all, e.input)
	}
	n.Mean, n.Scale = moments(all)
	var layers []*layer
	inputs := len(n.Mean)
	size := inputs
	for _, h := range []int{t.hidden, t.outputs} {
		layers = append(layers, newLayer(size, h, rng))
		size = h
	}
	x, grad := mat(batch, inputs), mat(batch, t.outputs)
	steps := len(learn) / batch * epochs
	step := 0
	order := rng.Perm(len(learn))
	for epoch := range epochs {
		rng.Shuffle(len(order), func(i, j int) { order[i], order[j] = order[j], order[i] })
		loss := 0.0
		for from := 0; from+batch <= len(order); from += batch {
			step++
			for r := range batch {
				row := x.Data[r*x.Stride : (r+1)*x.Stride]
				for i, v := range learn[order[from+r]].input {
					row[i] = (v-n.Mean[i])*n.Scale[i] + float32(rng.NormFloat64()*inputNoise)
					if rng.Float64() < dropInput {
						row[i] = 0
					}
				}
			}
			y := x
			for k, l := range layers {
				y = l.forward(y, k == len(layers)-1, dropHidden, rng)
			}
			for r := range batch {
				loss += t.slope(y.Data[r*y.Stride:(r+1)*y.Stride], learn[order[from+r]].target, grad.Data[r*grad.Stride:(r+1)*grad.Stride])
			}
			g := grad
			for k := len(layers) - 1; k >= 0; k-- {
				g = layers[k].backward(g)
			}
			rate := peakRate * math.Min(1, float64(step)/200) * 0.5 * (1 + math.Cos(math.Pi*float64(step)/float64(steps)))
			for _, l := range layers {
				adam(l.w.Data, l.gw.Data, l.mw, l.vw, rate, weightLoss, step)
				adam(l.b.Data, l.gb.Data, l.mb, l.vb, rate, 0, step)
			}
		}
		n.Layers = nil
		for _, l := range layers {
			n.Layers = append(n.Layers, net.Layer{In: l.w.Cols, Out: l.w.Rows, W: l.w.Data, B: l.b.Data})
		}
		log.Printf("epoch %2d  loss %.4f  %s", epoch+1, loss/float64(len(order)), t.report(n, check))
	}
	return n
}

// moments are each input's mean and 1/deviation.
func moments(all [][]float32) (mean, scale []float32) {
	mean, scale = make([]float32, len(all[0])), make([]float32, len(all[0]))
	for i := range mean {
		var s, q float64
		for _, x := range all {
			v := float64(x[i])
			s, q = s+v, q+v*v
		}
		n := float64(len(all))
		mean[i] = float32(s / n)
		scale[i] = float32(1 / math.Sqrt(math.Max(1e-4, q/n-s/n*s/n)))
	}
	return mean, scale
}
