package demo

import (
	"fmt"
	"math/rand/v2"

	"hexachord/core/sound"
	"hexachord/demo/breaks"
	"hexachord/demo/drums"
	"hexachord/format/wav"
)

// LooseFolder is where the demo shelf's loose samples come from.
const LooseFolder = "weigh house"

// loose lists samples found about a weigh house, by the General MIDI note of what they sound like.
var loose = []struct {
	name  string
	note  int
	takes int
}{
	{"platform-drop", 36, 3}, {"sack-thud", 36, 2}, {"gate-boom", 36, 1}, {"flour-dust-snare", 38, 3}, {"plank-crack", 38, 2}, {"wet-rope-slap", 38, 3},
	{"tally-stick", 37, 3}, {"ledger-slap", 39, 3}, {"hook-rattle", 42, 3}, {"chain-tick", 42, 2}, {"feed-sack-long", 46, 2}, {"pulley-hiss", 46, 1},
	{"empty-drum", 45, 2}, {"oil-barrel", 41, 2}, {"milk-churn", 48, 2}, {"loft-bell", 49, 1}, {"scale-pan", 51, 2}, {"grain-sieve", 70, 3},
	{"counterweight", 56, 2}, {"tally-scrape", 73, 2}, {"key-ring", 54, 2}, {"door-knock", 76, 2}, {"tub-palm", 63, 3}, {"boat-whistle", 72, 1},
}

// Loose makes the loose samples of the demo shelf, two recordings to cut from among them.
func Loose() ([]File, error) {
	rng := rand.New(rand.NewPCG(7, 1817))
	var out []File
	add := func(name string, b sound.Buffer, peak float64) error {
		normalise(b, peak)
		b.Dither(24, 3)
		data, err := wav.Encode(b, wav.PCM24)
		out = append(out, File{name + ".wav", data})
		return err
	}
	var walk []breaks.Stroke
	var pieces []*breaks.Piece
	for _, l := range loose {
		var d drums.Drum
		if l.note >= 54 && l.note != 55 {
			d = breaks.RandomPercussion(l.note, rng)
		} else {
			d = breaks.RandomDrum(l.note, rng)
		}
		d.Seconds = min(d.Seconds, 1.6)
		for n := range l.takes {
			name := l.name
			if l.takes > 1 {
				name = fmt.Sprintf("%s-%d", l.name, n+1)
			}
			strength := 0.55 + 0.4*float64(n+1)/float64(l.takes)
			b := sound.Buffer{Rate: kitRate, Channels: [][]float32{d.Stroke(strength, rng.Uint64(), kitRate)}}
			if err := add(name, b, 0.35+0.5*strength); err != nil {
				return nil, err
			}
		}
		if len(pieces) < 20 {
			pieces = append(pieces, &breaks.Piece{Note: l.note*100 + len(pieces), Drum: d, LevelDB: -3})
			walk = append(walk, breaks.Stroke{TimeS: 0.4 + 0.85*float64(len(walk)), Note: l.note*100 + len(pieces) - 1, Velocity: 100 + rng.IntN(27)})
		}
	}
	quay, _ := breaks.Render(pieces, breaks.Performance{BPM: 90, Beats: 4, Bars: 8, DurationS: 17.5, Strokes: walk, Free: true},
		breaks.Room{Wet: 0.05, DecayS: 0.3, DampHz: 6000, HissDB: -72, LowHz: 20, HighHz: 20000, PeakDB: -1}, 11)
	if err := add("quay-walk", quay, 0.9); err != nil {
		return nil, err
	}
	notes := []int{36, 38, 42, 46}
	loop, _ := breaks.Render(breaks.RandomKit(notes, rng), breaks.RandomPerformance(notes, 2, rng),
		breaks.Room{Wet: 0.1, DecayS: 0.4, DampHz: 5000, HissDB: -70, LowHz: 25, HighHz: 18000, PeakDB: -1, Stereo: true}, 12)
	return out, add("weigh-house-loop", loop, 0.9)
}
