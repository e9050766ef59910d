package hear

import (
	"bytes"
	_ "embed"
	"encoding/binary"
	"fmt"
	"math"
	"sync"
)

// The outputs of the net. The first families are judged independently (several drums sound at once), the
// kinds after them only inside their family; levels are in units of 20 dB.
const (
	outKick = iota
	outSnare
	outHat
	outTom
	outCymbal
	outRim    // a snare-family stroke is on the rim
	outClap   // a snare-family stroke is a clap
	outOpen   // a hat is open
	outCrash  // a cymbal is a crash, not a ride
	outLevel  // five levels, one a family, follow
	NetOutput = outLevel + families
)

const families = 5

// Net is a feed-forward network: fully connected layers with rectified linear units between them. Its
// weights are learnt from synthesised breaks by the command in cmd/hearfit, from a seed.
type Net struct {
	Layers []NetLayer
	Mean   []float32 // of each input
	Scale  []float32 // 1/deviation of each input
}

// NetLayer maps In values to Out: W is Out×In, row by row.
type NetLayer struct {
	In, Out int
	W, B    []float32
}

//go:embed net.bin
var netBytes []byte

var loadedNets = sync.OnceValue(func() Nets {
	n, err := DecodeNets(netBytes)
	if err != nil {
		panic(err) // the weights are part of the program
	}
	return n
})

// Run computes the outputs for one patch: probabilities for the families and kinds, levels after them.
func (n *Net) Run(patch []float32) [NetOutput]float64 {
	v := make([]float32, len(patch))
	for i, x := range patch {
		v[i] = (x - n.Mean[i]) * n.Scale[i]
	}
	for k, l := range n.Layers {
		next := make([]float32, l.Out)
		for o := range next {
			w := l.W[o*l.In : (o+1)*l.In]
			var s0, s1, s2, s3 float32
			i := 0
			for ; i+4 <= len(w); i += 4 {
				s0 += w[i] * v[i]
				s1 += w[i+1] * v[i+1]
				s2 += w[i+2] * v[i+2]
				s3 += w[i+3] * v[i+3]
			}
			for ; i < len(w); i++ {
				s0 += w[i] * v[i]
			}
			next[o] = s0 + s1 + s2 + s3 + l.B[o]
			if k < len(n.Layers)-1 && next[o] < 0 {
				next[o] = 0
			}
		}
		v = next
	}
	var out [NetOutput]float64
	for i := range out {
		out[i] = float64(v[i])
		if i < outLevel {
			out[i] = 1 / (1 + math.Exp(-out[i]))
		}
	}
	return out
}

const netMagic = "HXN2"

// Encode writes both nets, weights rounded to 16 bits by a scale for each row.
func (n Nets) Encode() []byte {
	var b bytes.Buffer
	b.WriteString(netMagic)
	n.First.encode(&b)
	n.Second.encode(&b)
	return b.Bytes()
}

func (n *Net) encode(b *bytes.Buffer) {
	put := func(v any) { _ = binary.Write(b, binary.LittleEndian, v) } // a bytes.Buffer never fails
	put(uint32(len(n.Mean)))
	put(n.Mean)
	put(n.Scale)
	put(uint32(len(n.Layers)))
	for _, l := range n.Layers {
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
}

// DecodeNets reads what Encode wrote.
func DecodeNets(data []byte) (Nets, error) {
	r := bytes.NewReader(data)
	magic := make([]byte, len(netMagic))
	if _, err := r.Read(magic); err != nil || string(magic) != netMagic {
		return Nets{}, fmt.Errorf("hear: these are not the weights of this program's nets; make them with cmd/hearfit")
	}
	first, err := decodeNet(r, PatchSize)
	if err != nil {
		return Nets{}, err
	}
	second, err := decodeNet(r, SecondSize)
	return Nets{first, second}, err
}

func decodeNet(r *bytes.Reader, inputs int) (*Net, error) {
	var err error
	get := func(v any) {
		if err == nil {
			err = binary.Read(r, binary.LittleEndian, v)
		}
	}
	var stored, layers uint32
	get(&stored)
	if err != nil || int(stored) != inputs {
		return nil, fmt.Errorf("hear: the net's weights do not fit this program (%d inputs, %d needed); make them anew with cmd/hearfit", stored, inputs)
	}
	n := &Net{Mean: make([]float32, inputs), Scale: make([]float32, inputs)}
	get(n.Mean)
	get(n.Scale)
	get(&layers)
	for range min(layers, 8) {
		var size [2]uint32
		get(&size)
		if err != nil || size[0]*size[1] > 1<<24 {
			return nil, fmt.Errorf("hear: the net's weights are damaged")
		}
		l := NetLayer{In: int(size[0]), Out: int(size[1]), W: make([]float32, size[0]*size[1]), B: make([]float32, size[1])}
		get(l.B)
		row := make([]int16, l.In)
		for o := range l.Out {
			var top float32
			get(&top)
			get(row)
			for i, q := range row {
				l.W[o*l.In+i] = float32(q) / 32767 * top
			}
		}
		n.Layers = append(n.Layers, l)
	}
	if err != nil {
		return nil, fmt.Errorf("hear: the net's weights are damaged: %w", err)
	}
	return n, nil
}
