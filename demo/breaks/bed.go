package breaks

import (
	"math"
	"math/rand/v2"

	"hexachord/core/sound"
)

// bedPartials is how many harmonics a tone of a bed has: what lies above them says nothing about drums.
const bedPartials = 7

// randomBed is other music under a performance, as long as it, at −20 to 0 dB against the drums: one or two of a bass,
// chords, something like a voice, noise. Notes begin on the performance's cells and elsewhere.
func randomBed(p Performance, rng *rand.Rand) *Bed {
	d := dice{rng}
	x := make([]float32, int(p.DurationS*Rate))
	for range 1 + d.IntN(2) {
		part := make([]float32, len(x))
		switch k := d.Float64(); {
		case k < 0.38:
			bass(part, p, d)
		case k < 0.66:
			chords(part, p, d)
		case k < 0.9:
			voice(part, d)
		default:
			murmur(part, d)
		}
		level := rms(part)
		g := float32(math.Pow(10, d.between(-8, 0)/20) / math.Max(1e-6, level))
		for i, v := range part {
			x[i] += v * g
		}
	}
	return &Bed{Audio: x, LevelDB: d.between(-20, 0)}
}

func rms(x []float32) float64 {
	sum := 0.0
	for _, v := range x {
		sum += float64(v) * float64(v)
	}
	return math.Sqrt(sum / float64(max(1, len(x))))
}

// note adds a tone of harmonics that fall off by tilt, struck or swelling.
func note(x []float32, at int, hz, seconds, attackS, decayS, tilt, bright, gain float64, d dice) {
	if at < 0 || at >= len(x) {
		return
	}
	n := min(len(x)-at, int(seconds*Rate))
	const end = Rate * 15 / 1000
	for h := 1; h <= bedPartials; h++ {
		f := hz * float64(h)
		if f > 9000 {
			break
		}
		amp := gain * math.Pow(float64(h), -tilt)
		w := 2 * math.Pi * f / Rate
		c := 2 * math.Cos(w)
		phase := d.Float64() * 2 * math.Pi
		y1, y2 := math.Sin(phase-w), math.Sin(phase-2*w)
		r := math.Pow(10, -3*(1+bright*float64(h-1))/(decayS*Rate))
		env, rise := 0.0, 1-math.Exp(-1/(attackS*Rate))
		target := 1.0
		for i := range n {
			y := c*y1 - y2
			y2, y1 = y1, y
			env += (target - env) * rise
			target *= r
			v := y * env * amp
			if left := n - i; left < end {
				v *= float64(left) / float64(end)
			}
			x[at+i] += float32(v)
		}
	}
}

func bass(x []float32, p Performance, d dice) {
	cell := 60 / p.BPM / float64(max(1, p.Cells))
	root := d.exp(36, 75)
	tilt, bright := d.between(0.6, 2.2), d.between(0, 1.2)
	attack, decay := d.exp(0.001, 0.02), d.exp(0.25, 3)
	busy := d.between(0.12, 0.6)
	steps := []float64{0, 0, 0, 3, 5, 7, 10, 12, -2, -5}
	for t := 0.0; t < p.DurationS; t += cell {
		if !d.chance(busy) {
			continue
		}
		length := cell * float64(1+d.IntN(5))
		at := p.LeadS + t + d.NormFloat64()*0.006
		note(x, int(at*Rate), root*math.Exp2(steps[d.IntN(len(steps))]/12), length, attack, decay, tilt, bright, d.between(0.5, 1), d)
		t += length - cell
	}
	if d.chance(0.3) { // driven
		g := d.between(1, 5)
		for i, v := range x {
			x[i] = float32(math.Tanh(float64(v) * g))
		}
	}
}

func chords(x []float32, p Performance, d dice) {
	beat := 60 / p.BPM
	root := d.exp(130, 420)
	struck := d.chance(0.6)
	tilt := d.between(0.7, 2)
	attack, decay := d.exp(0.001, 0.006), d.exp(0.3, 4)
	if !struck {
		attack, decay = d.exp(0.01, 0.25), 30
	}
	every := beat * []float64{0.5, 1, 2, 4}[d.IntN(4)]
	kinds := [][]float64{{0, 3, 7, 10}, {0, 4, 7, 11}, {0, 5, 7, 12}, {0, 3, 7, 12}}
	for t := 0.0; t < p.DurationS; t += every {
		if d.chance(0.2) {
			continue
		}
		at := p.LeadS + t
		if d.chance(0.2) {
			at += beat / 4
		}
		move := []float64{0, 0, 2, 5, -2, -4}[d.IntN(6)]
		for _, s := range kinds[d.IntN(len(kinds))] {
			note(x, int((at+d.Float64()*0.012)*Rate), root*math.Exp2((s+move)/12), every*d.between(0.5, 1), attack, decay, tilt, 0.5, d.between(0.3, 1), d)
		}
	}
}

// voice is syllables: a buzz through moving resonances, with hisses between them.
func voice(x []float32, d dice) {
	pitch := d.exp(85, 420)
	shapes := [][3]float64{{700, 1150, 2600}, {300, 2200, 3000}, {350, 800, 2500}, {500, 1800, 2500}, {450, 1000, 2600}} // vowels, roughly (Peterson and Barney 1952, from memory)
	for t := d.Float64() * 0.4; t < float64(len(x))/Rate; {
		length := d.between(0.1, 0.6)
		hz := pitch * math.Exp2([]float64{-4, -2, 0, 0, 3, 5, 7}[d.IntN(7)]/12)
		shape := shapes[d.IntN(len(shapes))]
		from, n := int(t*Rate), int(length*Rate)
		if d.chance(0.4) { // s, t, k
			hiss := int(d.between(0.02, 0.14) * Rate)
			lo := d.exp(2000, 6000)
			hp, rise := sound.HighPass(lo, Rate), d.between(0.05, 0.5)
			gain := d.between(0.05, 0.5)
			for i := range hiss {
				if k := from - hiss + i; k >= 0 && k < len(x) {
					s := float64(i) / float64(hiss)
					x[k] += float32(hp.Next(d.Float64()*2-1) * gain * math.Min(s/rise, 1) * math.Min(1, (1-s)*4))
				}
			}
		}
		var forms [3]sound.Biquad
		for k, f := range shape {
			forms[k] = sound.Peaking(f, 18, 4, Rate)
		}
		low := sound.LowPass(3500, Rate)
		attack := d.between(0.01, 0.08)
		vibrato, phase := d.between(0, 0.02), 0.0
		for i := range n {
			k := from + i
			if k < 0 || k >= len(x) {
				break
			}
			s := float64(i) / Rate
			f := hz * (1 + vibrato*math.Sin(2*math.Pi*5.5*s))
			before := phase
			phase += f / Rate
			v := 0.0
			if math.Floor(phase) != math.Floor(before) {
				v = 1
			}
			v = low.Next(v)
			for j := range forms {
				v = forms[j].Next(v)
			}
			x[k] += float32(v * math.Min(1, s/attack) * math.Min(1, (length-s)/0.05))
		}
		t += length + d.exp(0.02, 0.8)
	}
}

// murmur is hiss, rumble and crackle.
func murmur(x []float32, d dice) {
	hp, lp := sound.HighPass(d.exp(20, 2000), Rate), sound.LowPass(d.exp(2000, 16000), Rate)
	crackle := d.exp(0.5, 30)
	for i := range x {
		v := d.Float64()*2 - 1
		if d.Float64() < crackle/Rate {
			v += d.between(-40, 40)
		}
		x[i] = float32(lp.Next(hp.Next(v)))
	}
}
