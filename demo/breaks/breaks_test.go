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

// Performances from life are the same each time, and true: half-open hats are open ones, what is played faster is heard sooner, and
// where each hit is said to begin the level rises.
func TestLife(t *testing.T) {
	life := Life{Hats: true, Grooves: true, Worn: true, Beds: true}
	opens, hats, shaken := 0, 0, 0
	rises, strokes := 0, 0
	for seed := range uint64(30) {
		perform := func() ([][]float32, []Hit) {
			rng := rand.New(rand.NewPCG(seed, 4))
			notes := life.KitNotes(rng)
			b, truth := life.Perform(life.Kit(notes, rng), notes, 1, rng)
			return b.Channels, truth
		}
		audio, truth := perform()
		if again, truthAgain := perform(); !reflect.DeepEqual(audio, again) || !reflect.DeepEqual(truth, truthAgain) {
			t.Fatalf("seed %d performs otherwise the second time", seed)
		}
		length := float64(len(audio[0])) / Rate
		for _, h := range truth {
			switch h.Note {
			case HalfOpen:
				t.Fatalf("seed %d: a half-open hat is not written as an open one", seed)
			case openHat:
				opens, hats = opens+1, hats+1
			case closedHat:
				hats++
			case 54, 69, 70, 82:
				shaken++
			}
			if h.TimeS < 0 || h.TimeS > length+0.01 {
				t.Errorf("seed %d: a hit at %.3f s of %.3f", seed, h.TimeS, length)
			}
			if h.Note == 36 && h.Velocity > 90 {
				at := int(h.TimeS * Rate)
				if at < 300 || at+900 > len(audio[0]) {
					continue
				}
				strokes++
				if rms(audio[0][at:at+900]) > 1.15*rms(audio[0][at-300:at-20]) {
					rises++
				}
			}
		}
		for _, v := range audio[0] {
			if v != v || v > 2 || v < -2 {
				t.Fatalf("seed %d: a sample is %g", seed, v)
			}
		}
	}
	if opens < hats/8 || opens > hats*3/4 || shaken == 0 {
		t.Errorf("%d of %d hats are open, %d strokes shaken", opens, hats, shaken)
	}
	if float64(rises) < 0.85*float64(strokes) || strokes < 50 {
		t.Errorf("the level rises at %d of %d loud kicks", rises, strokes)
	}
}

// The hats of a kit are one instrument: the more open, the longer.
func TestOneHat(t *testing.T) {
	for seed := range uint64(40) {
		rng := rand.New(rand.NewPCG(seed, 5))
		notes := []int{36, 38, closedHat, openHat, HalfOpen}
		long := map[int]float64{}
		for _, p := range (Life{Hats: true}).Kit(notes, rng) {
			for _, m := range p.Drum.Modes {
				long[p.Note] = math.Max(long[p.Note], m.DecayS)
			}
			long[p.Note] = math.Max(long[p.Note], p.Drum.Noises[0].DecayS)
		}
		if !(long[closedHat] < long[HalfOpen] && long[HalfOpen] < long[openHat]) {
			t.Errorf("seed %d: closed %.2f, half %.2f, open %.2f s", seed, long[closedHat], long[HalfOpen], long[openHat])
		}
	}
}

// A piece of strokes sounds like the layer that was struck so hard, and a bed is as loud as it is said to be.
func TestStrokesAndBeds(t *testing.T) {
	soft, loud := make([]float32, 4410), make([]float32, 4410)
	for i := range soft {
		soft[i], loud[i] = float32(math.Sin(float64(i)*0.02)), float32(math.Sin(float64(i)*0.2))
	}
	s := &Strokes{Whole: true, Kits: []map[int][][]float32{{36: {soft, loud}}}}
	p := &Piece{Note: 36}
	s.Into(p, rand.New(rand.NewPCG(1, 1)))
	p.Tone = Tone{}
	crossings := func(velocity int) (n int) {
		x, _ := p.stroke(velocity, 0)
		for i := 1; i < len(x); i++ {
			if x[i-1] < 0 != (x[i] < 0) {
				n++
			}
		}
		return n
	}
	if a, b := crossings(30), crossings(120); a > 40 || b < 200 {
		t.Errorf("a soft stroke crosses zero %d times, a loud one %d times", a, b)
	}
	dry := [2][]float32{append([]float32(nil), loud...), append([]float32(nil), loud...)}
	(&Bed{Audio: soft, LevelDB: -6}).under(dry)
	under := make([]float32, len(loud))
	for i := range under {
		under[i] = dry[0][i] - loud[i]
	}
	if is := 20 * math.Log10(rms(under)/rms(loud)); math.Abs(is+6) > 0.1 {
		t.Errorf("the bed lies %.1f dB under the drums, not 6", -is)
	}
}
