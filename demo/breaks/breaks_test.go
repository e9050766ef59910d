package breaks

import (
	"math"
	"math/rand/v2"
	"reflect"
	"testing"
)

func performed(seed uint64) (audio [][]float32, truth []Hit) {
	rng := rand.New(rand.NewPCG(seed, 9))
	notes := KitNotes(rng)
	kit := RandomKit(notes, rng)
	b, hits := Render(kit, RandomPerformance(notes, 1, rng), RandomRoom(rng), rng.Uint64())
	return b.Channels, hits
}

// What is learnt from must be the same each time, and true: every hit is one of the kit's, inside the audio, and audible.
func TestPerformances(t *testing.T) {
	for seed := range uint64(12) {
		audio, truth := performed(seed)
		again, truthAgain := performed(seed)
		if !reflect.DeepEqual(audio, again) || !reflect.DeepEqual(truth, truthAgain) {
			t.Fatalf("seed %d performs otherwise the second time", seed)
		}
		length := float64(len(audio[0])) / Rate
		for _, h := range truth {
			if h.TimeS < 0 || h.TimeS >= length || h.Velocity < 1 || h.Velocity > 127 || math.IsNaN(h.LevelDB) {
				t.Errorf("seed %d: %+v in %.2f s of audio", seed, h, length)
			}
		}
		for _, ch := range audio {
			for i, v := range ch {
				if v != v || v > 1.5 || v < -1.5 {
					t.Fatalf("seed %d: sample %d is %g", seed, i, v)
				}
			}
		}
	}
}

// A hit's time is when it begins to sound: a tenth of the peak of its first 30 ms, wherever the stroke's silence ends.
func TestTheTimeOfAHit(t *testing.T) {
	for _, note := range []int{36, 38, 42, 46, 51, 49, 45} {
		kit := []*Piece{{Note: note, Drum: RandomDrum(note, rand.New(rand.NewPCG(uint64(note), 1)))}}
		p := Performance{BPM: 100, Beats: 4, Bars: 1, DurationS: 1, Strokes: []Stroke{{TimeS: 0.3, Note: note, Velocity: 127}}}
		b, truth := Render(kit, p, Room{LowHz: 1, HighHz: 21000, HissDB: -120, DampHz: 9000}, 1)
		x := b.Mono()
		from, peak := int(0.3*Rate), 0.0
		for _, v := range x[from : from+Rate*3/100] {
			peak = math.Max(peak, math.Abs(float64(v)))
		}
		at := from
		for math.Abs(float64(x[at])) < peak/10 {
			at++
		}
		if len(truth) != 1 || math.Abs(truth[0].TimeS-float64(at)/Rate) > 0.0008 {
			t.Errorf("note %d begins to sound at %.4f s, said to be at %+v", note, float64(at)/Rate, truth)
		}
	}
}

// Widen by nothing leaves a drum as it is, by more makes it another one that can still sound.
func TestWiden(t *testing.T) {
	rng := rand.New(rand.NewPCG(2, 2))
	for _, note := range []int{36, 38, 42, 51} {
		drum := RandomDrum(note, rng)
		was := drum.Stroke(1, 1, Rate)
		level := func(x []float32) (sum float64) {
			for _, v := range x[:Rate/20] {
				sum += float64(v) * float64(v)
			}
			return sum
		}
		Widen(&drum, 0, rng)
		if ratio := level(drum.Stroke(1, 1, Rate)) / level(was); math.Abs(ratio-1) > 0.1 {
			t.Errorf("note %d: widened by nothing it is %.2f as loud", note, ratio)
		}
		Widen(&drum, 1.3, rng)
		is := drum.Stroke(1, 1, Rate)
		peak := float32(0)
		for _, v := range is {
			peak = max(peak, v, -v)
		}
		if reflect.DeepEqual(is, was) || !(peak > 0.01) {
			t.Errorf("note %d: widened it is the same, or silent (peak %g)", note, peak)
		}
	}
}
