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
	outShaker     // a shaker, or what is played as one
	outRim        // a snare-family stroke is on the rim
	outClap       // a snare-family stroke is a clap
	outOpen       // a hat is open, or half open
	outCrash      // a cymbal is a crash, not a ride
	outTambourine // a shaker is a tambourine
	outLevel      // a level for each family follows
	NetOutput     = outLevel + families
)

const families = 6

//go:embed net.bin
var netBytes []byte

var loadedNets = sync.OnceValue(func() Nets {
	n, err := DecodeNets(netBytes)
	if err != nil {
		panic(err) // the weights are part of the program
	}
	return n
})

// Nets judge onsets beside each other; what they say is averaged.
type Nets []*net.Set

// beside is how many onsets at most are judged beside each other; a recording with more is judged in parts of equal length.
const beside = 128

// Judge runs one net over a recording's onsets: probabilities for the families and kinds, levels after them.
func Judge(n *net.Set, patches [][]float32) [][NetOutput]float64 {
	outs := make([][NetOutput]float64, len(patches))
	parts := (len(patches) + beside - 1) / beside
	var wg sync.WaitGroup
	for p := range parts {
		from, to := len(patches)*p/parts, len(patches)*(p+1)/parts
		wg.Go(func() {
			for i, row := range n.Run(patches[from:to]) {
				for k, v := range row {
					outs[from+i][k] = float64(v)
					if k < outLevel {
						outs[from+i][k] = 1 / (1 + math.Exp(-float64(v)))
					}
				}
			}
		})
	}
	wg.Wait()
	return outs
}

// Run gives the verdict on every onset.
func (n Nets) Run(e Examined) [][NetOutput]float64 {
	mean := make([][NetOutput]float64, len(e.Patches))
	for _, one := range n {
		for i, out := range Judge(one, e.Patches) {
			for k, v := range out {
				mean[i][k] += v / float64(len(n))
			}
		}
	}
	return mean
}

const netMagic = "HXN5"

// Encode writes the nets.
func (n Nets) Encode() []byte {
	var b bytes.Buffer
	b.WriteString(netMagic)
	b.WriteByte(byte(len(n)))
	for _, one := range n {
		one.Encode(&b)
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
		one, err := net.DecodeSet(r, PatchSize, NetOutput)
		if err != nil {
			return nil, err
		}
		n = append(n, one)
	}
	return n, nil
}
