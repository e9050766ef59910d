package hear

import (
	"bytes"
	_ "embed"
	"io"
	"math"
	"sync"

	"hexachord/core/net"
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

//go:embed net.bin
var netBytes []byte

var loadedNets = sync.OnceValue(func() Nets {
	n, err := DecodeNets(netBytes)
	if err != nil {
		panic(err) // the weights are part of the program
	}
	return n
})

// Judge runs a net on one patch: probabilities for the families and kinds, levels after them.
func Judge(n *net.Net, patch []float32) [NetOutput]float64 {
	var out [NetOutput]float64
	for i, v := range n.Run(patch) {
		out[i] = float64(v)
		if i < outLevel {
			out[i] = 1 / (1 + math.Exp(-out[i]))
		}
	}
	return out
}

// JudgeAll is Judge for every patch.
func JudgeAll(n *net.Net, patches [][]float32) [][NetOutput]float64 {
	outs := make([][NetOutput]float64, len(patches))
	inParts(len(patches), func(from, to int) {
		for i := from; i < to; i++ {
			outs[i] = Judge(n, patches[i])
		}
	})
	return outs
}

const netMagic = "HXN3"

// Encode writes the nets.
func (n Nets) Encode() []byte {
	var b bytes.Buffer
	b.WriteString(netMagic)
	b.WriteByte(byte(len(n)))
	for _, l := range n {
		l.First.Encode(&b)
		l.Second.Encode(&b)
	}
	return b.Bytes()
}

// DecodeNets reads what Encode wrote.
func DecodeNets(data []byte) (Nets, error) {
	r := bytes.NewReader(data)
	head := make([]byte, len(netMagic)+1)
	if _, err := io.ReadFull(r, head); err != nil || string(head[:len(netMagic)]) != netMagic {
		return nil, net.ErrWeights
	}
	var n Nets
	for range head[len(netMagic)] {
		first, err := net.Decode(r, PatchSize)
		if err != nil {
			return nil, err
		}
		second, err := net.Decode(r, SecondSize)
		if err != nil {
			return nil, err
		}
		n = append(n, Looks{first, second})
	}
	return n, nil
}
