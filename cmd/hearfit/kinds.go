package main

import (
	"bytes"
	"fmt"
	"log"
	"math"
	"math/rand/v2"
	"os"
	"runtime"
	"strings"
	"sync"

	"hexachord/core/drummap"
	"hexachord/core/kind"
	"hexachord/core/net"
	"hexachord/core/sound"
	"hexachord/demo/breaks"
	"hexachord/demo/drums"
)

// notesOf are the General MIDI notes a kind's sounds are made as.
var notesOf = map[kind.Kind][]int{
	"kick": {36}, "snare": {38}, "rim": {37}, "clap": {39}, "closed hat": {42, 42, 44}, "open hat": {46},
	"mid tom": {41, 43, 45, 47, 48, 50}, "crash": {49, 49, 52, 55}, "ride": {51, 51, 53}, "shaker": {69, 70}, "tambourine": {54},
	"cowbell": {56}, "percussion": {58, 60, 61, 62, 63, 64, 64, 65, 66, 67, 68, 71, 72, 73, 74, 75, 76, 77, 78, 79, 80, 81},
}

// kindTask is to tell kinds apart: one output a kind, of which one is right.
var kindTask = task{96, len(kind.Heard()), kindSlope, kindReport}

func kindSlope(y, target, grad []float32) (loss float64) {
	p := kind.Softmax(y)
	for k, t := range target {
		grad[k] = float32(p[k]-float64(t)) / batch
		if t > 0 {
			loss -= float64(t) * math.Log(p[k]+1e-9)
		}
	}
	return loss
}

func kindReport(n *net.Net, check []example) string {
	names := kind.Heard()
	right, count := make([]int, len(names)), make([]int, len(names))
	for _, e := range check {
		y := n.Run(e.input)
		best, is := 0, 0
		for k := range y {
			if y[k] > y[best] {
				best = k
			}
			if e.target[k] > e.target[is] {
				is = k
			}
		}
		count[is]++
		if best == is {
			right[is]++
		}
	}
	var b strings.Builder
	for k, name := range names {
		fmt.Fprintf(&b, "%s %.2f  ", name, float64(right[k])/math.Max(1, float64(count[k])))
	}
	return b.String()
}

// fitKinds teaches the net that hears what a sample is.
func fitKinds(each, epochs int, seed uint64, strokes *breaks.Strokes, path string) error {
	check := kindExamples(max(20, each/15), seed+1_000_000, strokes)
	n := kindTask.fit(kindExamples(each, seed, strokes), check, epochs, seed)
	var b bytes.Buffer
	n.Encode(&b)
	log.Printf("%s", kindReport(n, check))
	return os.WriteFile(path, b.Bytes(), 0o644)
}

// kindExamples makes each sounds of every kind, as samples come: dry or in a room, worn or driven, cut short, with
// some silence before them. Where there are strokes of a soundfont, half of them are those.
func kindExamples(each int, seed uint64, strokes *breaks.Strokes) []example {
	names := kind.Heard()
	var drawn []int
	for k, name := range names {
		times := 1
		switch name {
		case "percussion": // it is many things
			times = 5
		case "closed hat":
			times = 3
		case "kick", "snare", "open hat", "mid tom": // there are more of them
			times = 2
		}
		for range times {
			drawn = append(drawn, k)
		}
	}
	out := make([]example, each*len(drawn))
	jobs := make(chan int)
	var wg sync.WaitGroup
	for range runtime.NumCPU() {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for i := range jobs {
				rng := rand.New(rand.NewPCG(seed, uint64(i)))
				k := drawn[i%len(drawn)]
				notes := notesOf[names[k]]
				_, in := kind.Look(randomSample(notes[rng.IntN(len(notes))], strokes, rng))
				target := make([]float32, len(names))
				for j := range target {
					target[j] = 0.03 / float32(len(names)) // nothing is quite certain
				}
				target[k] += 0.97
				out[i] = example{in, target}
			}
		}()
	}
	for i := range out {
		jobs <- i
	}
	close(jobs)
	wg.Wait()
	return out
}

// kindDrum makes a drum for a General MIDI note; single samples differ more than the drums of one kit do.
func kindDrum(note int, rng *rand.Rand) drums.Drum {
	between := func(lo, hi float64) float64 { return lo + (hi-lo)*rng.Float64() }
	exp := func(lo, hi float64) float64 { return lo * math.Pow(hi/lo, rng.Float64()) }
	metal := func(m drums.Metal) drums.Drum {
		m.HiHz, m.Partials, m.Seed = between(9000, 16500), 8+rng.IntN(50), rng.Uint64()
		return m.Drum()
	}
	switch note {
	case 37: // a stick on the rim clicks more and rings higher than hand drums do, and stirs the wires
		d := drums.Rim{Hz: exp(450, 2300), DecayS: between(0.015, 0.07), Click: between(0.5, 1.5)}.Drum()
		d.Noises = append(d.Noises, drums.Noise{LoHz: exp(250, 1500), HiHz: exp(2500, 9000), AttackS: 0.0005, DecayS: between(0.02, 0.11), Amp: between(0.1, 1)},
			drums.Noise{LoHz: 60, HiHz: 300, AttackS: 0.001, DecayS: between(0.03, 0.1), Amp: between(0, 0.4)})
		return d
	case 38: // wires ring on longer than a rim does
		d := breaks.RandomDrum(note, rng)
		for i := range d.Noises {
			if d.Noises[i].AttackS > 0.001 {
				d.Noises[i].DecayS = math.Max(d.Noises[i].DecayS, 0.13)
			}
		}
		return d
	case 42, 44:
		decay := exp(0.025, 0.4)
		m := drums.Metal{LoHz: exp(400, 5000), DecayS: decay, Ring: between(0.05, 0.9), Wash: between(0.1, 1), WashLoHz: exp(900, 9000), WashDecayS: decay * between(0.5, 1.1),
			Body: between(0, 0.4), BodyHz: exp(200, 1500), AttackS: exp(0.0003, 0.006)}
		if note == 44 {
			m.AttackS = exp(0.001, 0.03)
			m.Ring *= rng.Float64()
		}
		d := metal(m)
		d.Noises[1].Amp *= rng.Float64() // the stick's click; a foot makes none
		return d
	case 46:
		decay := exp(0.3, 2.8)
		return metal(drums.Metal{LoHz: exp(300, 5000), DecayS: decay, Ring: between(0.05, 0.9), Wash: between(0.2, 1), WashLoHz: exp(900, 9000), WashDecayS: decay * between(0.5, 1),
			Body: between(0, 0.4), BodyHz: exp(250, 1500)})
	case 49, 52:
		decay := between(1.3, 5)
		return metal(drums.Metal{LoHz: exp(180, 800), DecayS: decay, Ring: between(0.2, 0.9), Wash: between(0.4, 1), WashLoHz: exp(500, 3500), WashDecayS: decay * between(0.5, 1), AttackS: between(0.0005, 0.02)})
	case 60, 61, 62, 63, 64:
		d := breaks.RandomPercussion(note, rng)
		up := exp(0.8, 3.2)
		for i := range d.Modes {
			d.Modes[i].Hz *= up
		}
		d.Noises[0].Amp = exp(0.004, 0.9)
		return d
	case 75, 76, 77:
		d := breaks.RandomPercussion(note, rng)
		d.Noises[0].Amp = exp(0.003, 0.3)
		return d
	case 80, 81: // more partials than a cowbell, fewer than a hat
		d := breaks.RandomPercussion(note, rng)
		for range rng.IntN(9) {
			d.Modes = append(d.Modes, drums.Mode{Hz: exp(1500, 13000), DecayS: d.Modes[0].DecayS * between(0.3, 1), Amp: between(0.05, 0.4)})
		}
		return d
	}
	if note >= 54 && note != 55 && note != 57 && note != 59 {
		return breaks.RandomPercussion(note, rng)
	}
	return breaks.RandomDrum(note, rng)
}

func randomSample(note int, strokes *breaks.Strokes, rng *rand.Rand) sound.Buffer {
	piece := &breaks.Piece{Note: note, Drum: kindDrum(note, rng)}
	breaks.Widen(&piece.Drum, 1, rng)
	if strokes != nil && rng.Float64() < 0.5 {
		strokes.Into(piece, rng)
	}
	velocity := 40 + rng.IntN(88)
	var b sound.Buffer
	if piece.Layers == nil && rng.Float64() < 0.4 {
		b = sound.Buffer{Rate: breaks.Rate, Channels: [][]float32{piece.Drum.Stroke(float64(velocity)/127, rng.Uint64(), breaks.Rate)}}
	} else {
		room := breaks.RandomRoom(rng)
		room.Wet *= 0.6
		for i := range room.TiltDB {
			room.TiltDB[i] *= 1.7
		}
		p := breaks.Performance{BPM: 100, Beats: 4, Bars: 1, DurationS: math.Min(4, piece.Seconds()+0.5), Strokes: []breaks.Stroke{{TimeS: 0.002 + 0.03*rng.Float64(), Note: note, Velocity: velocity}}}
		b, _ = breaks.Render([]*breaks.Piece{piece}, p, room, rng.Uint64())
	}
	if rng.Float64() < 0.3 { // cut short, as samples often are
		cut := int(float64(b.Frames()) * (0.35 + 0.6*rng.Float64()))
		b = b.Region(0, max(b.Rate/12, cut)).Clone()
		b.FadeOut(b.Rate/100, nil)
	}
	if rng.Float64() < 0.4 { // tuned
		b = b.Resample(b.Rate, math.Exp2((rng.Float64()-0.5)*0.8))
	}
	return b
}

// checkKinds tells what a soundfont's drums are by sound alone, stroke by stroke, and prints how many of each kind are told right, and how many
// are when they have General MIDI's names as well.
func checkKinds(strokes *breaks.Strokes) {
	of := map[int]kind.Kind{40: "snare", 35: "kick", 57: "crash", 59: "ride", 82: "shaker"}
	for k, notes := range notesOf {
		for _, n := range notes {
			of[n] = k
		}
	}
	right, all, misnamed := map[kind.Kind]int{}, map[kind.Kind]int{}, map[string]int{}
	total, hit, named := 0, 0, 0
	plain := func(k kind.Kind) kind.Kind { // names tell more, or less, than a sound does
		switch k {
		case "low tom", "high tom":
			return "mid tom"
		case "pedal hat":
			return "closed hat"
		case "cymbal":
			return "crash"
		}
		return k
	}
	for _, kit := range strokes.Kits {
		for note, layers := range kit {
			want, ok := of[note]
			if !ok {
				continue
			}
			_, told := kind.BySound(sound.Buffer{Rate: breaks.Rate, Channels: [][]float32{layers[len(layers)-1]}})
			got := plain(told[0].Kind)
			byName := plain(kind.ByName(drummap.GMName(note), ""))
			if byName == want || byName == "" && got == want {
				named++
			} else {
				misnamed[drummap.GMName(note)]++
			}
			all[want]++
			total++
			if got == want {
				right[want]++
				hit++
			}
		}
	}
	for _, k := range kind.Heard() {
		fmt.Printf("%s %d of %d  ", k, right[k], all[k])
	}
	fmt.Printf("all %.3f of %d, with names %.3f %v\n", float64(hit)/float64(max(1, total)), total, float64(named)/float64(max(1, total)), misnamed)
}
