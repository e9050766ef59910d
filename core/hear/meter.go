package hear

import (
	"math"

	"hexachord/core/music"
)

// Meter: the learnt weights judge 4/4 and 3/4 alone, for those are what they were learnt from. Other meters show plainly in what
// comes again: a bar later the same drums are struck, and a quarter less or more they are not (the beat spectrum of Foote and
// Uchihashi 2001, on strokes instead of frames). What decides between meters of one length of bar is where kicks and snares stand.

const (
	clearRepeat  = 0.75 // share of strokes that come again a bar later: from here on a length says it is a bar
	clearLead    = 0.15 // and it says so more plainly than four and three quarters do, by this much
	slowEighth   = 75   // BPM below which a bar of seven eighths is counted as seven quarters of twice the tempo
	quickEighths = 160  // BPM up to which such beats are counted in eighths: quicker ones are felt as triplets
	fullBeat     = 0.5  // share of beats whose second triplet is struck, from which on they are counted in eighths
)

// otherMeter proposes another meter, tempo or bar 1 than 4/4 or 3/4 where the strokes say so; else it gives back what it was given.
func otherMeter(ps []pulse, c GridChoice, keepBPM bool) GridChoice {
	quarter := 60 / c.BPM
	span := ps[len(ps)-1].timeS - ps[0].timeS
	plain := max(repetition(ps, 2*quarter), repetition(ps, 3*quarter), repetition(ps, 4*quarter))
	best, bestQuarters := 0.0, 0.0
	for _, quarters := range []float64{2.5, 3.5, 5, 7} {
		if span < 1.6*quarters*quarter { // too little comes again to tell
			continue
		}
		if r := repetition(ps, quarters*quarter); r > best+0.05 { // of a bar and its double the shorter
			best, bestQuarters = r, quarters
		}
	}
	if best >= clearRepeat && best >= plain+clearLead {
		c.Meter = music.Meter{Beats: int(bestQuarters), Unit: 4}
		if bestQuarters != math.Trunc(bestQuarters) {
			c.Meter = music.Meter{Beats: int(2 * bestQuarters), Unit: 8}
			if c.BPM < slowEighth && !keepBPM {
				c.BPM, c.Meter.Unit = 2*c.BPM, 4
			}
		}
		c.BarOneS = oddStart(ps, c)
		return c
	}
	return compound(ps, c, keepBPM)
}

// oddStart is where bar 1 of an odd meter begins: a stroke's place among the first bar's where kicks gather, the first stroke's
// where nothing speaks against it.
func oddStart(ps []pulse, c GridChoice) float64 {
	eighth := 30 / c.BPM
	barS := music.Seconds(float64(c.Meter.BarTicks()), c.BPM)
	line := firstLine(ps, c.BPM)
	best, bestScore := c.BarOneS, math.Inf(-1)
	for k := 0; k < int(math.Round(barS/eighth)); k++ {
		from := line + float64(k)*eighth
		var on, low float64
		for _, p := range ps {
			low += p.low
			if x := (p.timeS - from) / barS; math.Abs(x-math.Round(x))*barS < 0.03 {
				on += p.low
			}
		}
		if score := on/max(1e-9, low) - 0.1*float64(k); score > bestScore {
			best, bestScore = from, score
		}
	}
	return max(0, best)
}

// compound tells meters apart whose bars hold twelve equal cells by where the snare stands: 3/4 (on a fourth cell), 6/8 (on the
// sixth) and 4/4 in triplets (on a third); and bars of four beats of three struck cells, which are 12/8.
func compound(ps []pulse, c GridChoice, keepBPM bool) GridChoice {
	quarter := 60 / c.BPM
	if c.Meter.Beats == 3 {
		var w [12]float64 // of snares on each cell of the bar
		for _, p := range ps {
			x := (p.timeS - c.BarOneS) / quarter * 4
			if n := math.Round(x); math.Abs(x-n)/4*quarter < 0.03 {
				w[((int(n)%12)+12)%12] += p.back
			}
		}
		quarters, middle, thirds := w[4]+w[8], w[6], w[3]+w[9]
		switch {
		case middle+thirds <= 2*quarters:
		case thirds > 0.5*middle && !keepBPM:
			c.BPM, c.Meter = c.BPM*4/3, music.CommonTime // of candidates up to 215 BPM: within every tempo's bounds
		case thirds <= 0.5*middle:
			c.Meter = eighths(ps, 3*quarter)
		}
		return c
	}
	if keepBPM || c.BPM*1.5 > quickEighths {
		return c
	}
	beats, filled := 0.0, 0.0
	for from := c.BarOneS; from+quarter <= ps[len(ps)-1].timeS; from += quarter {
		beats++
		second, fourths := false, false
		for _, p := range ps {
			x := (p.timeS - from) / quarter
			second = second || math.Abs(x-1.0/3)*quarter < 0.025
			fourths = fourths || math.Abs(x-0.25)*quarter < 0.025 || math.Abs(x-0.5)*quarter < 0.025
		}
		if second && !fourths {
			filled++
		}
	}
	if beats >= 4 && filled/beats >= fullBeat {
		c.BPM, c.Meter = c.BPM*1.5, eighths(ps, 2*quarter)
	}
	return c
}

// eighths is 6/8 where the same drums come again after halfS, and 12/8 where they do so only after twice that.
func eighths(ps []pulse, halfS float64) music.Meter {
	if repetition(ps, 2*halfS) > repetition(ps, halfS)+clearLead/3 {
		return music.Meter{Beats: 12, Unit: 8}
	}
	return music.Meter{Beats: 6, Unit: 8}
}
