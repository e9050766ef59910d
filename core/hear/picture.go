package hear

import (
	"math"

	"hexachord/core/drummap"
	"hexachord/core/sound"
	"hexachord/core/spectrum"
)

// Picture is a recording drawn small: for each of equal stretches of time, the lowest and highest sample and
// how much of it lies in each role's band.
type Picture struct {
	Low    []float32                  `json:"low"`    // −1..0
	High   []float32                  `json:"high"`   // 0..1
	Energy map[drummap.Role][]float32 `json:"energy"` // 0..1, relative to the band's own loudest
}

// bandHz are the bands in which the roles' energy is shown.
var bandHz = map[drummap.Role][2]float64{
	drummap.Kick: {35, 110}, drummap.Snare: {180, 2400}, drummap.Rim: {800, 4000}, drummap.Clap: {900, 3500},
	drummap.ClosedHat: {6000, 14000}, drummap.PedalHat: {4000, 9000}, drummap.OpenHat: {5000, 13000},
	drummap.LowTom: {70, 160}, drummap.MidTom: {100, 220}, drummap.HighTom: {130, 320},
	drummap.Crash: {2500, 15000}, drummap.Ride: {3000, 12000}, drummap.Cymbal: {2500, 15000},
	drummap.Shaker: {4000, 12000}, drummap.Tambourine: {4000, 12000}, drummap.Cowbell: {500, 3000},
	drummap.Percussion: {300, 4000}, drummap.Other: {100, 4000},
}

// Draw makes a picture of the stretch from startS to endS in columns columns.
func Draw(b sound.Buffer, startS, endS float64, columns int) Picture {
	mono := sound.Buffer{Rate: b.Rate, Channels: [][]float32{b.Mono()}}
	if b.Rate != AnalysisRate {
		mono = mono.Resample(AnalysisRate, 1)
	}
	x := mono.Channels[0]
	p := Picture{Low: make([]float32, columns), High: make([]float32, columns), Energy: map[drummap.Role][]float32{}}
	for role := range bandHz {
		p.Energy[role] = make([]float32, columns)
	}
	sp := spectrum.New(1024)
	at := func(col int) int {
		return int((startS + (endS-startS)*float64(col)/float64(columns)) * AnalysisRate)
	}
	for c := range columns {
		from, to := min(len(x), max(0, at(c))), min(len(x), max(0, at(c+1)))
		for _, v := range x[from:to] {
			p.Low[c], p.High[c] = min(p.Low[c], v), max(p.High[c], v)
		}
		power := sp.At(x, (at(c)+at(c+1))/2-256)
		for role, band := range bandHz {
			sum := 0.0
			for k := int(band[0] * 1024 / AnalysisRate); k <= int(band[1]*1024/AnalysisRate); k++ {
				sum += power[k]
			}
			p.Energy[role][c] = float32(math.Sqrt(sum))
		}
	}
	for _, e := range p.Energy {
		top := float32(1e-6)
		for _, v := range e {
			top = max(top, v)
		}
		for i := range e {
			e[i] /= top
		}
	}
	return p
}
