package main

import (
	"encoding/json"
	"log"
	"math"
	"math/rand/v2"
	"os"
	"sort"

	"hexachord/core/hear"
	"hexachord/demo/breaks"
)

// ranked is one performance's possible grids; right says which are true.
type ranked struct {
	choices []hear.GridChoice
	right   []bool
}

// fitGrid learns what speaks for a grid: the weights that make the true grid of a performance the likeliest of its
// choices (a softmax over them, by gradient descent).
func fitGrid(count int, seed uint64, out string) error {
	var learn, check []ranked
	for i := range count {
		r, ok := performGrid(rand.New(rand.NewPCG(seed, uint64(i)+1<<40)))
		switch {
		case !ok:
		case i%5 == 0:
			check = append(check, r)
		default:
			learn = append(learn, r)
		}
	}
	var w, m, v [hear.GridFeatures]float64
	for step := 1; step <= 400; step++ {
		var grad [hear.GridFeatures]float64
		for _, r := range learn {
			p, right := likelihoods(r, w)
			for k, c := range r.choices {
				d := p[k]
				if r.right[k] {
					d -= p[k] / right
				}
				for f, x := range c.Features {
					grad[f] += d * x / float64(len(learn))
				}
			}
		}
		for f := range w {
			g := grad[f] + 2e-4*w[f]
			m[f] = 0.9*m[f] + 0.1*g
			v[f] = 0.99*v[f] + 0.01*g*g
			w[f] -= 0.15 * m[f] / (math.Sqrt(v[f]) + 1e-6)
		}
		if step%50 == 0 {
			log.Printf("step %d: right in %.3f of %d learnt, %.3f of %d checked", step, share(learn, w), len(learn), share(check, w), len(check))
		}
	}
	for f := range w {
		w[f] = math.Round(w[f]*1000) / 1000
	}
	text, err := json.Marshal(w)
	if err != nil {
		return err
	}
	return os.WriteFile(out, append(text, '\n'), 0o644)
}

// performGrid makes a performance as it would be heard: some strokes missed, some of the wrong drum, with or without a
// lead and a tail.
func performGrid(rng *rand.Rand) (ranked, bool) {
	notes := breaks.KitNotes(rng)
	p := breaks.RandomPerformance(notes, []int{1, 2, 2, 4, 4, 4, 8}[rng.IntN(7)], rng)
	if p.Free || p.Cells == 6 || len(p.Strokes) < 4 {
		return ranked{}, false
	}
	lead := 0.0
	if rng.Float64() < 0.3 {
		lead = rng.Float64()
	}
	duration := p.DurationS + lead
	if rng.Float64() < 0.5 {
		duration += rng.Float64() * 1.6
	}
	var hits []hear.Hit
	for _, s := range p.Strokes {
		if rng.Float64() < 0.08 {
			continue
		}
		if rng.Float64() < 0.06 {
			s.Note = notes[rng.IntN(len(notes))]
		}
		hits = append(hits, hear.Hit{TimeS: s.TimeS + lead, Note: s.Note, Velocity: s.Velocity, Confidence: 0.9})
	}
	sortHits(hits)
	r := ranked{choices: hear.GridChoices(hits, duration)}
	any := false
	for _, c := range r.choices {
		right := math.Abs(c.BPM/p.BPM-1) < 0.01 && c.Meter.Beats == p.Beats && math.Abs(c.BarOneS-p.LeadS-lead) < 0.05
		r.right = append(r.right, right)
		any = any || right
	}
	return r, any
}

func likelihoods(r ranked, w [hear.GridFeatures]float64) (p []float64, right float64) {
	p = make([]float64, len(r.choices))
	top := math.Inf(-1)
	for k, c := range r.choices {
		p[k] = c.Score(w)
		top = math.Max(top, p[k])
	}
	sum := 0.0
	for k := range p {
		p[k] = math.Exp(p[k] - top)
		sum += p[k]
	}
	for k := range p {
		p[k] /= sum
		if r.right[k] {
			right += p[k]
		}
	}
	return p, math.Max(right, 1e-12)
}

func share(all []ranked, w [hear.GridFeatures]float64) float64 {
	n := 0.0
	for _, r := range all {
		best := 0
		for k, c := range r.choices {
			if c.Score(w) > r.choices[best].Score(w) {
				best = k
			}
		}
		if r.right[best] {
			n++
		}
	}
	return n / float64(max(1, len(all)))
}

func sortHits(hits []hear.Hit) {
	sort.Slice(hits, func(i, j int) bool { return hits[i].TimeS < hits[j].TimeS })
}
