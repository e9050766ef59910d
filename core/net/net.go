// Package net runs small feed-forward networks whose weights were learnt elsewhere.
package net

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"

	"gonum.org/v1/gonum/blas"
	"gonum.org/v1/gonum/blas/blas32"
)

// Net is a feed-forward network: fully connected layers with rectified linear units between them. Its
// weights are learnt from sounds our own code synthesises, by the command in cmd/hearfit, from a seed.
type Net struct {
	Layers []Layer
	Mean   []float32 // of each input
	Scale  []float32 // 1/deviation of each input
}

// Layer maps In values to Out: W is Out×In, row by row.
type Layer struct {
	In, Out int
	W, B    []float32
}

// Run computes the last layer's outputs.
func (n *Net) Run(input []float32) []float32 {
	v := make([]float32, len(input))
	for i, x := range input {
		v[i] = (x - n.Mean[i]) * n.Scale[i]
	}
	for k, l := range n.Layers {
		next := append([]float32(nil), l.B...)
		blas32.Gemv(blas.NoTrans, 1, blas32.General{Rows: l.Out, Cols: l.In, Stride: l.In, Data: l.W},
			blas32.Vector{N: l.In, Inc: 1, Data: v}, 1, blas32.Vector{N: l.Out, Inc: 1, Data: next})
		if k < len(n.Layers)-1 {
			for o, y := range next {
				next[o] = max(0, y)
			}
		}
		v = next
	}
	return v
}

// Encode appends the net to b, weights rounded to 16 bits by a scale for each row.
func (n *Net) Encode(b *bytes.Buffer) {
	put := func(v any) { _ = binary.Write(b, binary.LittleEndian, v) } // a bytes.Buffer never fails
	put(uint32(len(n.Mean)))
	put(n.Mean)
	put(n.Scale)
	put(uint32(len(n.Layers)))
	for _, l := range n.Layers {
		l.encode(b)
	}
}

func (l Layer) encode(b *bytes.Buffer) {
	put := func(v any) { _ = binary.Write(b, binary.LittleEndian, v) } // a bytes.Buffer never fails
	put([2]uint32{uint32(l.In), uint32(l.Out)})
	put(l.B)
	for o := range l.Out {
		row := l.W[o*l.In : (o+1)*l.In]
		top := float32(1e-9)
		for _, w := range row {
			top = max(top, max(w, -w))
		}
		put(top)
		for _, w := range row {
			put(int16(math.Round(float64(w / top * 32767))))
		}
	}
}

func decodeLayer(r *bytes.Reader) (Layer, error) {
	var err error
	get := func(v any) {
		if err == nil {
			err = binary.Read(r, binary.LittleEndian, v)
		}
	}
	var size [2]uint32
	get(&size)
	if err != nil || uint64(size[0])*uint64(size[1]) > 1<<24 {
		return Layer{}, fmt.Errorf("%w: they are damaged", ErrWeights)
	}
	l := Layer{In: int(size[0]), Out: int(size[1]), W: make([]float32, size[0]*size[1]), B: make([]float32, size[1])}
	get(l.B)
	row := make([]byte, 4+2*l.In) // its scale, and its weights
	for o := 0; o < l.Out && err == nil; o++ {
		_, err = io.ReadFull(r, row)
		scale := math.Float32frombits(binary.LittleEndian.Uint32(row)) / 32767
		to := l.W[o*l.In : (o+1)*l.In]
		for i := range to {
			to[i] = float32(int16(binary.LittleEndian.Uint16(row[4+2*i:]))) * scale
		}
	}
	if err != nil {
		return l, fmt.Errorf("%w: they are damaged: %w", ErrWeights, err)
	}
	return l, nil
}

// ErrWeights is returned for weights that do not fit the program.
var ErrWeights = errors.New("the net's weights do not fit this program; make them anew with cmd/hearfit")

// Decode reads what Encode wrote; the net must take that many inputs.
func Decode(r *bytes.Reader, inputs int) (*Net, error) {
	var err error
	get := func(v any) {
		if err == nil {
			err = binary.Read(r, binary.LittleEndian, v)
		}
	}
	var stored, layers uint32
	get(&stored)
	if err != nil || int(stored) != inputs {
		return nil, fmt.Errorf("%w (%d inputs, %d needed)", ErrWeights, stored, inputs)
	}
	n := &Net{Mean: make([]float32, inputs), Scale: make([]float32, inputs)}
	get(n.Mean)
	get(n.Scale)
	get(&layers)
	if err != nil {
		return nil, fmt.Errorf("%w: they are damaged: %w", ErrWeights, err)
	}
	for range min(layers, 8) {
		l, err := decodeLayer(r)
		if err != nil {
			return nil, err
		}
		n.Layers = append(n.Layers, l)
	}
	return n, nil
}
