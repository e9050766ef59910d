package kind

import (
	"bytes"
	_ "embed"
	"math"
	"slices"
	"sync"

	"hexachord/core/net"
	"hexachord/core/sound"
)

//go:embed net.bin
var netBytes []byte

var loaded = sync.OnceValue(func() *net.Net {
	n, err := net.Decode(bytes.NewReader(netBytes), Inputs)
	if err != nil {
		panic(err) // the weights are part of the program
	}
	return n
})

// Toms are told apart by pitch; the limits are ours, between usual tunings (common practice, no source).
const (
	lowTomHz  = 110
	highTomHz = 155
)

// BySound hears what a sample is: its facts, and the kinds it may be, likeliest first.
func BySound(b sound.Buffer) (Facts, []Guess) {
	f, in := Look(b)
	if f.PeakDB <= -120 {
		return f, []Guess{{Other, 1}}
	}
	return f, guesses(f, Softmax(loaded().Run(in)))
}

// guesses orders what the net says, likeliest first, and tells loops and toms.
func guesses(f Facts, p []float64) []Guess {
	out := make([]Guess, 0, len(heard)+1)
	loop := loopChance(f)
	for i, k := range heard {
		if k == "mid tom" {
			switch {
			case f.PitchHz < lowTomHz:
				k = "low tom"
			case f.PitchHz > highTomHz:
				k = "high tom"
			}
		}
		out = append(out, Guess{k, p[i] * (1 - loop)})
	}
	out = append(out, Guess{Loop, loop})
	sortGuesses(out)
	return out
}

// loopChance grows with how many strokes there are and how long they go on.
func loopChance(f Facts) float64 {
	if f.soundsS < 0.9 {
		return 0
	}
	return 1 / (1 + math.Exp(-1.6*(float64(f.Attacks)-3.5)))
}

// Softmax turns a net's outputs into shares that add up to 1.
func Softmax(y []float32) []float64 {
	out := make([]float64, len(y))
	sum := 0.0
	for i, v := range y {
		out[i] = math.Exp(float64(v - slices.Max(y)))
		sum += out[i]
	}
	for i := range out {
		out[i] /= sum
	}
	return out
}
