package net

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"

	"gonum.org/v1/gonum/blas"
	"gonum.org/v1/gonum/blas/blas32"
)

// Set is a network that judges every member of a set beside all the others: each is encoded by itself, then blocks of
// self-attention (Vaswani et al. 2017, normalised before each step as in Xiong et al. 2020) let those that are alike find
// each other. The order of the members says nothing.
type Set struct {
	Mean, Scale []float32 // of each input: mean, 1/deviation
	Near, Far   Layer     // the encoder; rectified between
	Blocks      []Block
	Norm        Norm
	Head        Layer
}

// Heads is how many comparisons a block makes at once.
const Heads = 4

// Block is one step of attention and of thought.
type Block struct {
	Before       Norm
	Ask, Answer  Layer // D → 3·D (what is sought, offered, told), and D → D
	Then         Norm
	Wide, Narrow Layer // D → 2·D, rectified, → D
}

// Norm brings each row to mean 0 and deviation 1, then to gains and biases of its own.
type Norm struct{ Gain, Bias []float32 }

// Epsilon keeps the deviation of a Norm above 0.
const Epsilon = 1e-5

// Of is rows normalised, in a new matrix.
func (n Norm) Of(x blas32.General) blas32.General {
	y := Matrix(x.Rows, x.Cols)
	for r := range x.Rows {
		in, out := Row(x, r), Row(y, r)
		mean, spread := Moments(in)
		for i, v := range in {
			out[i] = (v-mean)/spread*n.Gain[i] + n.Bias[i]
		}
	}
	return y
}

// Moments are the mean of a row and its deviation, kept above 0.
func Moments(row []float32) (mean, deviation float32) {
	var sum, squares float64
	for _, v := range row {
		sum += float64(v)
	}
	m := sum / float64(len(row))
	for _, v := range row {
		squares += (float64(v) - m) * (float64(v) - m)
	}
	return float32(m), float32(math.Sqrt(squares/float64(len(row)) + Epsilon))
}

// Matrix is an empty matrix.
func Matrix(rows, cols int) blas32.General {
	return blas32.General{Rows: rows, Cols: cols, Stride: max(1, cols), Data: make([]float32, rows*cols)}
}

// Row is one row of a matrix.
func Row(m blas32.General, r int) []float32 { return m.Data[r*m.Stride : r*m.Stride+m.Cols] }

// Weights is a layer's W as a matrix.
func (l Layer) Weights() blas32.General {
	return blas32.General{Rows: l.Out, Cols: l.In, Stride: l.In, Data: l.W}
}

// rowsAtOnce many rows stay near the processor while the weights pass by.
const rowsAtOnce = 32

// Of is what the layer makes of rows, in a new matrix.
func (l Layer) Of(x blas32.General) blas32.General {
	y := Matrix(x.Rows, l.Out)
	blas := blas32.Implementation()
	// whole rows at a time: gonum's product of matrices cuts them into pieces of 64
	for from := 0; from < x.Rows; from += rowsAtOnce {
		for o := range l.Out {
			weights := l.W[o*l.In : (o+1)*l.In]
			for r := from; r < min(x.Rows, from+rowsAtOnce); r++ {
				y.Data[r*y.Stride+o] = l.B[o] + blas.Sdot(l.In, x.Data[r*x.Stride:], 1, weights, 1)
			}
		}
	}
	return y
}

// Part is a piece of a matrix, which shares its values.
func Part(m blas32.General, row, rows, col, cols int) blas32.General {
	return blas32.General{Rows: rows, Cols: cols, Stride: m.Stride, Data: m.Data[row*m.Stride+col : (row+rows-1)*m.Stride+col+cols]}
}

// Attend compares the rows from to to of what a block asks with each other, head by head: out gains what they tell each other,
// weights (Heads of them) how much each listens to each.
func Attend(asked, out blas32.General, from, to int) (weights []blas32.General) {
	d, n := out.Cols, to-from
	each := d / Heads
	for h := range Heads {
		q, k, v := Part(asked, from, n, h*each, each), Part(asked, from, n, d+h*each, each), Part(asked, from, n, 2*d+h*each, each)
		w := Matrix(n, n)
		blas32.Gemm(blas.NoTrans, blas.Trans, float32(1/math.Sqrt(float64(each))), q, k, 0, w)
		for r := range n {
			soften(Row(w, r))
		}
		blas32.Gemm(blas.NoTrans, blas.NoTrans, 1, w, v, 0, Part(out, from, n, h*each, each))
		weights = append(weights, w)
	}
	return weights
}

// soften makes shares of 1 of a row (softmax).
func soften(row []float32) {
	top := row[0]
	for _, v := range row {
		top = max(top, v)
	}
	sum := float32(0)
	for i, v := range row {
		row[i] = float32(math.Exp(float64(v - top)))
		sum += row[i]
	}
	for i := range row {
		row[i] /= sum
	}
}

// Rectify sets what is below 0 to 0.
func Rectify(m blas32.General) {
	for i, v := range m.Data {
		m.Data[i] = max(0, v)
	}
}

// Add adds b to a.
func Add(a, b blas32.General) {
	for i, v := range b.Data {
		a.Data[i] += v
	}
}

// Scaled is the members' inputs as the network takes them.
func (s *Set) Scaled(members [][]float32) blas32.General {
	x := Matrix(len(members), len(s.Mean))
	for r, m := range members {
		row := Row(x, r)
		for i, v := range m {
			row[i] = (v - s.Mean[i]) * s.Scale[i]
		}
	}
	return x
}

// Run judges the members of one set: a row of outputs for each.
func (s *Set) Run(members [][]float32) [][]float32 {
	if len(members) == 0 {
		return nil
	}
	near := s.Near.Of(s.Scaled(members))
	Rectify(near)
	x := s.Far.Of(near)
	for _, b := range s.Blocks {
		told := Matrix(x.Rows, x.Cols)
		Attend(b.Ask.Of(b.Before.Of(x)), told, 0, x.Rows)
		Add(x, b.Answer.Of(told))
		wide := b.Wide.Of(b.Then.Of(x))
		Rectify(wide)
		Add(x, b.Narrow.Of(wide))
	}
	y := s.Head.Of(s.Norm.Of(x))
	out := make([][]float32, len(members))
	for r := range out {
		out[r] = Row(y, r)
	}
	return out
}

// layers are all the layers, in the order they are stored.
func (s *Set) layers() (all []*Layer) {
	all = append(all, &s.Near, &s.Far)
	for i := range s.Blocks {
		b := &s.Blocks[i]
		all = append(all, &b.Ask, &b.Answer, &b.Wide, &b.Narrow)
	}
	return append(all, &s.Head)
}

func (s *Set) norms() (all []*Norm) {
	for i := range s.Blocks {
		all = append(all, &s.Blocks[i].Before, &s.Blocks[i].Then)
	}
	return append(all, &s.Norm)
}

// Encode appends the network to b, weights rounded as those of Net.
func (s *Set) Encode(b *bytes.Buffer) {
	put := func(v any) { _ = binary.Write(b, binary.LittleEndian, v) } // a bytes.Buffer never fails
	put([2]uint32{uint32(len(s.Mean)), uint32(len(s.Blocks))})
	put(s.Mean)
	put(s.Scale)
	for _, l := range s.layers() {
		l.encode(b)
	}
	for _, n := range s.norms() {
		put(n.Gain)
		put(n.Bias)
	}
}

// DecodeSet reads what Encode wrote; the network must take that many inputs and give that many outputs.
func DecodeSet(r *bytes.Reader, inputs, outputs int) (*Set, error) {
	var head [2]uint32
	if err := binary.Read(r, binary.LittleEndian, &head); err != nil || int(head[0]) != inputs || head[1] > 8 {
		return nil, fmt.Errorf("%w (%d inputs, %d needed)", ErrWeights, head[0], inputs)
	}
	s := &Set{Mean: make([]float32, inputs), Scale: make([]float32, inputs), Blocks: make([]Block, head[1])}
	values := func(all ...[]float32) error {
		for _, v := range all {
			if err := binary.Read(r, binary.LittleEndian, v); err != nil {
				return fmt.Errorf("%w: they are damaged: %w", ErrWeights, err)
			}
		}
		return nil
	}
	if err := values(s.Mean, s.Scale); err != nil {
		return nil, err
	}
	for _, l := range s.layers() {
		var err error
		if *l, err = decodeLayer(r); err != nil {
			return nil, err
		}
	}
	d := s.Far.Out
	for _, n := range s.norms() {
		n.Gain, n.Bias = make([]float32, d), make([]float32, d)
		if err := values(n.Gain, n.Bias); err != nil {
			return nil, err
		}
	}
	fits := s.Near.In == inputs && s.Far.In == s.Near.Out && d%Heads == 0 && s.Head.In == d && s.Head.Out == outputs
	for _, b := range s.Blocks {
		fits = fits && b.Ask.In == d && b.Ask.Out == 3*d && b.Answer.In == d && b.Answer.Out == d && b.Wide.In == d && b.Narrow.In == b.Wide.Out && b.Narrow.Out == d
	}
	if !fits {
		return nil, fmt.Errorf("%w: its layers do not fit each other", ErrWeights)
	}
	return s, nil
}
