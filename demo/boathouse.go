// Package demo makes the demo world: the kit Boathouse, struck in a canal boathouse, the project Lock Seven
// with its patterns, and a recorded break. All audio is synthesised here, the same on every machine.
package demo

import (
	"fmt"

	"hexachord/core/drummap"
	"hexachord/core/kit"
	"hexachord/core/sound"
	"hexachord/demo/drums"
	"hexachord/format/wav"
)

// KitName is the demo kit's name, ProjectName the demo project's.
const (
	KitName     = "Boathouse"
	ProjectName = "Lock Seven"
)

const kitRate = 44100

// File is an audio file made here.
type File struct {
	Name string
	Data []byte
}

type piece struct {
	role    drummap.Role
	name    string
	file    string
	drum    drums.Drum
	layers  []int // lowest velocity of each layer, softest first
	levelDB float64
	pan     float64
	choke   int
}

var (
	fourLayers  = []int{1, 41, 81, 101}
	threeLayers = []int{1, 51, 96}
	twoLayers   = []int{1, 75}
)

// pieces lists Boathouse from the top of the lane column to its foot.
func pieces() []piece {
	chain := drums.Metal{LoHz: 3100, HiHz: 14500, Partials: 26, Ring: 0.34, Wash: 0.72, WashLoHz: 6200, Seed: 71}
	closed, pedal, open := chain, chain, chain
	closed.DecayS, closed.WashDecayS = 0.085, 0.07
	pedal.DecayS, pedal.WashDecayS, pedal.AttackS, pedal.Wash, pedal.WashLoHz = 0.07, 0.075, 0.004, 0.5, 4200
	open.DecayS, open.WashDecayS = 0.95, 0.7
	return []piece{
		{drummap.Crash, "Tin roof", "tin-roof", drums.Metal{LoHz: 340, HiHz: 14000, Partials: 56, DecayS: 2.4, Ring: 0.45, Wash: 0.8,
			WashLoHz: 1900, WashDecayS: 1.9, AttackS: 0.004, Seed: 72}.Drum(), twoLayers, -9, -0.35, 0},
		{drummap.Ride, "Lantern glass", "lantern-glass", drums.Metal{LoHz: 620, HiHz: 12500, Partials: 40, DecayS: 1.9, Ring: 0.2, Wash: 0.16,
			WashLoHz: 5200, WashDecayS: 0.9, Ping: 0.55, PingHz: 1730, Seed: 73}.Drum(), twoLayers, -12, 0.35, 0},
		{drummap.OpenHat, "Chain drop", "chain-drop", open.Drum(), twoLayers, -11, 0.2, 1},
		{drummap.PedalHat, "Chain step", "chain-step", pedal.Drum(), twoLayers, -14, 0.2, 1},
		{drummap.ClosedHat, "Chain shaker", "chain-shaker", closed.Drum(), threeLayers, -11, 0.2, 1},
		{drummap.Shaker, "Winch ratchet", "winch-ratchet", drums.Shaker{LoHz: 3900, AttackS: 0.014, DecayS: 0.075}.Drum(), twoLayers, -13, -0.4, 0},
		{drummap.Rim, "Rowlock tick", "rowlock-tick", drums.Rim{Hz: 840, DecayS: 0.055, Click: 0.4}.Drum(), twoLayers, -9, -0.12, 0},
		{drummap.Clap, "Oar clap", "oar-clap", drums.Clap{CentreHz: 1250, Width: 1.9, DecayS: 0.19, Bursts: []float64{0.009, 0.019, 0.027}}.Drum(), twoLayers, -8, 0.1, 0},
		{drummap.HighTom, "Small keg", "small-keg", drums.Tom{Hz: 168, Bend: 0.16, DecayS: 0.55, Slap: 0.3, Body: 0.9}.Drum(), twoLayers, -7, 0.3, 0},
		{drummap.LowTom, "Large keg", "large-keg", drums.Tom{Hz: 98, Bend: 0.2, DecayS: 0.75, Slap: 0.26, Body: 0.95}.Drum(), twoLayers, -6, -0.25, 0},
		{drummap.Snare, "Rope slap", "rope-slap", drums.Snare{Hz: 192, Bend: 0.09, DecayS: 0.2, Body: 0.62, Wires: 0.62, WireLoHz: 1100,
			WireHiHz: 10500, WireDecayS: 0.21, Snap: 0.42, Drive: 0.15}.Drum(), fourLayers, -5, 0, 0},
		{drummap.Kick, "Hull thump", "hull-thump", drums.Kick{Hz: 49, Sweep: 1.9, SweepS: 0.016, DecayS: 0.42, Click: 0.34, ClickHz: 2900,
			Shell: 0.16, Air: 0.2, Drive: 0.22}.Drum(), threeLayers, -3, 0, 0},
	}
}

// Boathouse makes the demo kit: its drum map, its pads, and the audio files the pads' samples name. The
// samples' names are handed out by store, which is called once for each file and returns its hash.
func Boathouse(store func(File) (hash string, err error)) (drummap.Map, kit.Kit, error) {
	m, k := drummap.Map{Name: KitName}, kit.Kit{Name: KitName}
	for _, p := range pieces() {
		m.Lanes = append(m.Lanes, drummap.NewLane(p.role, p.role.Note(), p.name))
		pad := kit.Pad{Note: p.role.Note(), LevelDB: p.levelDB, Pan: p.pan, Choke: p.choke, VelTrack: 100, SelfChoke: p.choke != 0}
		for i, lo := range p.layers {
			hi := 127
			if i+1 < len(p.layers) {
				hi = p.layers[i+1] - 1
			}
			file := File{Name: fmt.Sprintf("%s-%d.wav", p.file, i+1)}
			// each layer is struck as hard as the middle of its range and brought to one level: softer
			// layers differ in tone, the velocity curve makes them quieter
			audio := p.drum.Stroke(float64(lo+hi)/254, uint64(p.role.Note()*16+i), kitRate)
			b := sound.Buffer{Rate: kitRate, Channels: [][]float32{audio}}
			normalise(b, 0.9)
			b.Dither(24, 1)
			var err error
			if file.Data, err = wav.Encode(b, wav.PCM24); err != nil {
				return m, k, err
			}
			hash, err := store(file)
			if err != nil {
				return m, k, err
			}
			pad.Layers = append(pad.Layers, kit.NewLayer(lo, hi, kit.Take{Sample: hash, Source: file.Name, Shape: kit.Whole()}))
		}
		k.Pads = append(k.Pads, pad)
	}
	return m, k, nil
}

func normalise(b sound.Buffer, peak float64) {
	g := float32(peak / b.Peak())
	for _, ch := range b.Channels {
		for i := range ch {
			ch[i] *= g
		}
	}
}
