package net

import (
	"bytes"
	"errors"
	"math"
	"math/rand/v2"
	"testing"
)

func randomSet(rng *rand.Rand, inputs, d, outputs int) *Set {
	layer := func(in, out int) Layer {
		l := Layer{In: in, Out: out, W: make([]float32, in*out), B: make([]float32, out)}
		for i := range l.W {
			l.W[i] = float32(rng.NormFloat64() / math.Sqrt(float64(in)))
		}
		return l
	}
	norm := func() Norm {
		n := Norm{make([]float32, d), make([]float32, d)}
		for i := range n.Gain {
			n.Gain[i], n.Bias[i] = 1+0.1*rng.Float32(), rng.Float32()
		}
		return n
	}
	s := &Set{Mean: make([]float32, inputs), Scale: make([]float32, inputs), Near: layer(inputs, 12), Far: layer(12, d), Norm: norm(), Head: layer(d, outputs)}
	for i := range s.Scale {
		s.Scale[i] = 1 + rng.Float32()
	}
	for range 2 {
		s.Blocks = append(s.Blocks, Block{norm(), layer(d, 3*d), layer(d, d), norm(), layer(d, 2*d), layer(2*d, d)})
	}
	return s
}

// Attention by hand: with one value a head (Vaswani et al. 2017, equation 1), softmax(q·k/√1)·v.
func TestAttend(t *testing.T) {
	asked, out := Matrix(2, 3*Heads), Matrix(2, Heads)
	q, k, v := [2]float64{1, 2}, [2]float64{0.5, -1}, [2]float64{3, 7}
	for r := range 2 {
		for h := range Heads {
			row := Row(asked, r)
			row[h], row[Heads+h], row[2*Heads+h] = float32(q[r]), float32(k[r]), float32(v[r])
		}
	}
	Attend(asked, out, 0, 2)
	for r := range 2 {
		a, b := math.Exp(q[r]*k[0]), math.Exp(q[r]*k[1])
		want := (a*v[0] + b*v[1]) / (a + b)
		for h, got := range Row(out, r) {
			if math.Abs(float64(got)-want) > 1e-5 {
				t.Errorf("member %d, head %d is told %g, want %g", r, h, got, want)
			}
		}
	}
}

// The order of the members says nothing, other members do, and weights that are stored say what they said.
func TestSet(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	s := randomSet(rng, 7, 8, 3)
	var members [][]float32
	for range 6 {
		m := make([]float32, 7)
		for i := range m {
			m[i] = float32(rng.NormFloat64())
		}
		members = append(members, m)
	}
	as := s.Run(members)
	backwards := make([][]float32, 6)
	for i, m := range members {
		backwards[5-i] = m
	}
	far := func(a, b []float32) (d float64) {
		for i := range a {
			d = max(d, math.Abs(float64(a[i]-b[i])))
		}
		return d
	}
	for i, row := range s.Run(backwards) {
		if far(row, as[5-i]) > 1e-4 {
			t.Errorf("backwards, member %d: %v, was %v", 5-i, row, as[5-i])
		}
	}
	if alone := s.Run(members[:1])[0]; far(alone, as[0]) < 1e-3 {
		t.Error("a member is judged alike with and without the others")
	}
	var b bytes.Buffer
	s.Encode(&b)
	back, err := DecodeSet(bytes.NewReader(b.Bytes()), 7, 3)
	if err != nil {
		t.Fatal(err)
	}
	for i, row := range back.Run(members) {
		if far(row, as[i]) > 2e-3 {
			t.Errorf("stored, member %d: %v, was %v", i, row, as[i])
		}
	}
	for n := 0; n < b.Len(); n += 13 {
		if _, err := DecodeSet(bytes.NewReader(b.Bytes()[:n]), 7, 3); !errors.Is(err, ErrWeights) {
			t.Fatalf("cut at %d of %d bytes: %v", n, b.Len(), err)
		}
	}
	if _, err := DecodeSet(bytes.NewReader(b.Bytes()), 7, 4); !errors.Is(err, ErrWeights) {
		t.Errorf("another number of outputs: %v", err)
	}
}
