package breaks

import "math/rand/v2"

// groove plays what plain grooves leave out: each part of it (what keeps time, the backbeat, ghosts, what hands and shakers
// add, the fill) is drawn by itself.
func (l Life) groove(notes []int, bars int, rng *rand.Rand) Performance {
	d := dice{rng}
	has := map[int]bool{}
	for _, n := range notes {
		has[n] = true
	}
	g := &player{dice: d, has: has, late: map[int]float64{}}
	g.p = Performance{BPM: d.exp(62, 182), Beats: 4, Bars: bars, LeadS: 0.02 * d.Float64(), Cells: 4}
	if d.chance(0.15) {
		g.p.Beats = []int{3, 5, 7}[d.IntN(3)]
	}
	if d.chance(0.12) {
		g.p.Cells = 6
	}
	g.cellS = 60 / g.p.BPM / float64(g.p.Cells)
	g.p.DurationS = g.p.LeadS + g.cellS*float64(g.p.Cells*g.p.Beats*bars)
	g.jitter = d.between(0.0005, 0.009)
	if d.chance(0.3) {
		g.swing = d.between(0, 0.33) * g.cellS
	}
	total := g.p.Beats * g.p.Cells
	g.kicks(total, bars)
	g.backbeat(total, bars)
	g.timekeeper(total, bars, l)
	if l.Grooves {
		g.hands(total, bars)
	}
	g.fill(total, bars, l)
	return g.p
}

type player struct {
	dice
	has           map[int]bool
	late          map[int]float64
	p             Performance
	cellS         float64
	jitter, swing float64
}

// strike plays a piece, if the kit has it, at a cell from the beginning.
func (g *player) strike(cell float64, note int, velocity float64) {
	if !g.has[note] {
		return
	}
	if _, ok := g.late[note]; !ok {
		g.late[note] = g.between(-0.006, 0.006)
	}
	at := g.p.LeadS + cell*g.cellS + g.late[note] + g.NormFloat64()*g.jitter
	if int(cell)%2 == 1 {
		at += g.swing
	}
	v := min(127, max(6, int(velocity+g.NormFloat64()*7)))
	g.p.Strokes = append(g.p.Strokes, Stroke{max(0.001, at), note, v})
}

// one of the notes that the kit has, or def.
func (g *player) one(def int, of ...int) int {
	var there []int
	for _, n := range of {
		if g.has[n] {
			there = append(there, n)
		}
	}
	if len(there) == 0 {
		return def
	}
	return there[g.IntN(len(there))]
}

func (g *player) kicks(total, bars int) {
	p := g.between(0.05, 0.4)
	four, double := g.chance(0.2), g.chance(0.1)
	at := make([]bool, total)
	for i := range at {
		at[i] = i == 0 || four && i%g.p.Cells == 0 || !four && g.chance(p*[]float64{1, 0.45}[i%2]) || double && g.chance(0.7)
	}
	for i := range total * bars {
		if at[i%total] || g.chance(0.03) {
			g.strike(float64(i), 36, []float64{110, 86}[i%2])
		}
	}
}

func (g *player) backbeat(total, bars int) {
	back := g.one(38, 38, 38, 38, 40, 37, 39)
	half := g.chance(0.15)
	ghosts, soft := 0.0, g.between(14, 40)
	if g.chance(0.65) {
		ghosts = g.between(0.1, 0.7)
	}
	layer := 0
	if g.chance(0.2) {
		layer = g.one(0, 39, 54)
	}
	brushed := g.chance(0.1) // strokes all through, hardly louder on the beat
	for i := range total * bars {
		cell, beat := float64(i), i%total/g.p.Cells
		on := i%g.p.Cells == 0 && beat%2 == 1
		if half {
			on = i%total == total/2/g.p.Cells*g.p.Cells
		}
		switch {
		case brushed && i%(g.p.Cells/2) == 0:
			v := g.between(30, 70)
			if on {
				v = g.between(60, 110)
			}
			g.strike(cell, 38, v)
		case on:
			g.strike(cell, back, g.between(98, 120))
			if layer > 0 {
				g.strike(cell+g.between(-0.004, 0.01)/g.cellS, layer, 100)
			}
			if g.chance(0.06) { // a flam
				g.strike(cell-g.between(0.02, 0.035)/g.cellS, back, 50)
			}
		case g.chance(ghosts * []float64{0.4, 1}[i%2]):
			g.strike(cell, g.one(38, 38, 38, 40), soft+g.between(-8, 14))
		}
	}
}

// timekeeper is a hat, closed or open by any share, a ride, a tom, a shaker, or nothing.
func (g *player) timekeeper(total, bars int, l Life) {
	lead := closedHat
	if l.Grooves {
		switch k := g.Float64(); {
		case k < 0.16:
			lead = g.one(closedHat, 51, 51, 59)
		case k < 0.26:
			lead = g.one(closedHat, 41, 43, 45, 47)
		case k < 0.34:
			lead = g.one(closedHat, 70, 69, 82, 54)
		case k < 0.38:
			return
		}
	}
	step := []int{1, g.p.Cells / 2, g.p.Cells / 2, g.p.Cells}[g.IntN(4)]
	accent := g.between(0, 40)
	open, offBeat, every := 0.0, false, false
	half := g.one(openHat, HalfOpen)
	halves := 0.0
	if l.Hats {
		switch k := g.Float64(); {
		case k < 0.18: // between the beats all open
			offBeat = true
			step = min(step, g.p.Cells/2)
		case k < 0.34:
			open = g.Float64()
		case k < 0.44: // washing throughout
			every = true
		case k < 0.7:
			open = g.between(0, 0.25)
		}
		if g.chance(0.35) {
			halves = g.Float64()
		}
	}
	onBeat := g.one(0, closedHat, closedHat, pedalHat) // what closes it again
	if g.chance(0.25) {
		onBeat = 0
	}
	rolls := g.chance(0.08)
	pedal := lead != closedHat && g.chance(0.6)
	choke := 0.0
	if l.Hats && g.chance(0.3) {
		choke = g.between(0.2, 1)
	}
	opened := func(cell float64, v float64) {
		note := openHat
		if g.chance(halves) {
			note = half
		}
		g.strike(cell, note, v)
		if g.chance(choke) { // the foot comes down at once
			g.strike(cell+g.between(0.06, 0.2)/g.cellS, pedalHat, g.between(15, 60))
		}
	}
	for i := range total * bars {
		cell, beat := float64(i), i%total/g.p.Cells
		if pedal && i%g.p.Cells == 0 && beat%2 == 1 {
			if g.chance(0.1) {
				g.strike(cell, half, 60) // splashed
			} else {
				g.strike(cell, pedalHat, 70)
			}
		}
		if i%max(1, step) != 0 {
			continue
		}
		v := 92.0
		switch {
		case i%2 == 1:
			v -= accent
		case i%g.p.Cells != 0:
			v -= accent / 2
		}
		middle := i%g.p.Cells == g.p.Cells/2
		switch {
		case lead != closedHat:
			if lead == 51 && i%g.p.Cells == 0 && g.chance(0.15) && g.has[53] {
				g.strike(cell, 53, v)
			} else {
				g.strike(cell, lead, v)
			}
		case offBeat && middle:
			opened(cell, v+12)
		case offBeat && i%g.p.Cells == 0:
			g.strike(cell, onBeat, v-10)
		case every:
			opened(cell, v)
		case i%2 == 0 && g.chance(open):
			opened(cell, v+6)
		default:
			g.strike(cell, closedHat, v)
			if rolls && g.chance(0.15) {
				g.strike(cell+0.5, closedHat, v*0.7)
			}
		}
	}
}

// hands add a shaker, a tambourine, congas or a bell, with a figure of their own.
func (g *player) hands(total, bars int) {
	for _, n := range []int{70, 69, 82, 54, 56, 75, 76, 77, 65, 67} {
		if !g.has[n] || !g.chance(0.5) {
			continue
		}
		step := []int{1, 1, g.p.Cells / 2, g.p.Cells, 2 * g.p.Cells}[g.IntN(5)]
		at := g.IntN(max(1, step))
		if g.chance(0.6) {
			at = 0
		}
		accent := g.between(0, 50)
		for i := at; i < total*bars; i += max(1, step) {
			v := 100.0
			if i%(g.p.Cells/2) != 0 {
				v -= accent
			}
			if g.chance(0.93) {
				g.strike(float64(i), n, v)
			}
		}
	}
	busy := g.between(0.1, 0.6)
	for _, n := range []int{60, 61, 62, 63, 64} {
		figure := make([]float64, total)
		for i := range figure {
			if g.chance(busy / 2) {
				figure[i] = g.between(35, 115)
			}
		}
		for i := range total * bars {
			if v := figure[i%total]; v > 0 {
				g.strike(float64(i), n, v)
			}
		}
	}
}

// fill ends the last bar on toms and snare and may crash where it began.
func (g *player) fill(total, bars int, l Life) {
	end := total * bars
	if g.chance(0.45) {
		g.strike(0, g.one(49, 49, 57, 55, 52), 112)
	}
	if !l.Grooves || g.chance(0.4) {
		return
	}
	from := end - g.p.Cells*(1+g.IntN(min(4, g.p.Beats)))
	kept := g.p.Strokes[:0]
	for _, s := range g.p.Strokes { // the hands are busy
		if s.Note == 36 || s.TimeS < g.p.LeadS+(float64(from)-0.5)*g.cellS {
			kept = append(kept, s)
		}
	}
	g.p.Strokes = kept
	down := []int{38, 50, 48, 47, 45, 43, 41}
	ordered := g.chance(0.6)
	for i := from; i < end; i++ {
		if g.chance(0.15) {
			continue
		}
		note := down[g.IntN(len(down))]
		if ordered {
			note = down[(i-from)*len(down)/(end-from)]
		}
		if !g.has[note] {
			note = g.one(38, 38, 41, 43, 45, 47, 48, 50)
		}
		g.strike(float64(i), note, g.between(50, 122))
		if g.chance(0.1) {
			g.strike(float64(i)+0.5, note, g.between(40, 100))
		}
	}
}
