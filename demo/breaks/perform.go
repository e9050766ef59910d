package breaks

import (
	"math/rand/v2"
)

// KitNotes chooses which pieces a random kit has: always kick, snare and hats, often more.
func KitNotes(rng *rand.Rand) []int {
	d := dice{rng}
	notes := []int{36, 38, closedHat, openHat}
	for _, extra := range []struct {
		note int
		p    float64
	}{{pedalHat, 0.3}, {37, 0.35}, {39, 0.35}, {41, 0.3}, {45, 0.5}, {47, 0.3}, {50, 0.5}, {49, 0.6}, {57, 0.3}, {55, 0.15}, {51, 0.6}, {53, 0.15}, {70, 0.15}, {56, 0.1}, {63, 0.1}, {40, 0.15}} {
		if d.chance(extra.p) {
			notes = append(notes, extra.note)
		}
	}
	return notes
}

// RandomPerformance plays a groove made of common parts (backbeat, ghosts, eighth and sixteenth hats or
// ride, open off-beats, a fill) on the kit's notes, with a player's timing and loudness. One in four is
// no groove at all, so that nothing can be learnt from where in the bar a stroke lies.
func RandomPerformance(notes []int, bars int, rng *rand.Rand) Performance {
	d := dice{rng}
	has := map[int]bool{}
	for _, n := range notes {
		has[n] = true
	}
	beats := 4
	cells := 4 // a beat
	switch {
	case d.chance(0.1):
		beats = 3
	case d.chance(0.12):
		cells = 6 // two dotted halves of a 6/8 beat pair
	}
	p := Performance{BPM: d.exp(66, 178), Beats: beats, Bars: bars, LeadS: 0.02 * d.Float64()}
	beatS := 60 / p.BPM
	cell := beatS / float64(cells)
	barS := beatS * float64(beats)
	swing := 0.0
	if d.chance(0.3) {
		swing = d.between(0, 0.33) * cell
	}
	jitter := d.between(0.0005, 0.009)
	late := map[int]float64{}
	strike := func(at float64, note, velocity int) {
		if !has[note] {
			return
		}
		if _, ok := late[note]; !ok {
			late[note] = d.between(-0.006, 0.006)
		}
		v := min(127, max(6, velocity+int(rng.NormFloat64()*7)))
		p.Strokes = append(p.Strokes, Stroke{max(0.001, p.LeadS+at+late[note]+rng.NormFloat64()*jitter), note, v})
	}
	p.DurationS, p.Cells = p.LeadS+barS*float64(p.Bars), cells
	if p.Free = d.chance(0.25); p.Free {
		for n := 0; n < int(p.DurationS*d.between(3, 9)); n++ {
			at := p.DurationS * d.Float64()
			for range 1 + d.IntN(3) {
				strike(at, notes[d.IntN(len(notes))], int(d.between(15, 127)))
			}
		}
		return p
	}
	main := closedHat
	if has[51] && d.chance(0.35) {
		main = 51
	} else if has[70] && d.chance(0.2) {
		main = 70
	}
	density := []int{cells, cells / 2, 1}[d.IntN(3)] // cells between main strokes
	if d.chance(0.4) {
		density = cells / 2
	}
	back := 38
	if has[37] && d.chance(0.2) {
		back = 37
	} else if has[39] && d.chance(0.2) {
		back = 39
	} else if has[40] && d.chance(0.3) {
		back = 40
	}
	layered := has[39] && back == 38 && d.chance(0.25)
	ghosts, openP, kickP := d.between(0, 0.35), d.between(0, 0.25), d.between(0.1, 0.35)
	half := d.chance(0.15)
	crashes := 0.0 // on any beat
	if d.chance(0.2) {
		crashes = d.between(0.05, 0.4)
	}
	doubleKick := d.chance(0.12)
	total := beats * cells
	kickAt := make([]bool, total)
	for i := range kickAt {
		kickAt[i] = i == 0 || d.chance(kickP*[]float64{1, 0.45}[i%2])
	}
	for bar := range p.Bars {
		fillFrom := total
		if bar == p.Bars-1 && d.chance(0.4) {
			fillFrom = total - cells*(1+d.IntN(2))
		}
		if bar == 0 && d.chance(0.4) {
			strike(0, 49, 110)
		}
		for i := range total {
			at := float64(bar)*barS + float64(i)*cell
			if i%2 == 1 {
				at += swing
			}
			beat := i / cells
			if i >= fillFrom {
				toms := []int{50, 47, 45, 41, 38, 36}
				for range 1 + d.IntN(2) {
					if d.chance(0.65) {
						strike(at, toms[d.IntN(len(toms))], int(d.between(60, 120)))
					}
				}
				if d.chance(0.3) {
					strike(at, 55, 90)
				}
				continue
			}
			if i%cells == 0 && d.chance(crashes) {
				strike(at, []int{49, 57}[d.IntN(2)], 108)
			}
			if kickAt[i] || d.chance(0.04) || doubleKick && d.chance(0.7) {
				strike(at, 36, []int{112, 88}[i%2])
			}
			onBack := i%cells == 0 && beat%2 == 1
			if half {
				onBack = i == total/2
			}
			switch {
			case onBack:
				strike(at, back, 114)
				if layered {
					strike(at+d.between(-0.004, 0.01), 39, 100)
				}
				if d.chance(0.04) { // a flam
					strike(at-d.between(0.02, 0.035), back, 50)
				}
			case d.chance(ghosts * []float64{0.5, 1}[i%2]):
				strike(at, 38, int(d.between(16, 50)))
			}
			if i%max(1, density) == 0 {
				v := 98
				if i%cells != 0 {
					v = 74
				}
				if i%2 == 1 {
					v = 54
				}
				switch {
				case main == closedHat && i%2 == 0 && d.chance(openP):
					strike(at, openHat, v+6)
				case main == 51 && has[53] && i%cells == 0 && d.chance(0.2):
					strike(at, 53, v)
				default:
					strike(at, main, v)
				}
			}
			if main != closedHat && i%cells == 0 && beat%2 == 1 && d.chance(0.6) {
				strike(at, pedalHat, 70)
			}
			for _, extra := range []int{56, 63} {
				if d.chance(0.1) {
					strike(at, extra, int(d.between(50, 105)))
				}
			}
		}
	}
	return p
}
