package play

import (
	"math"
	"slices"
	"testing"

	"hexachord/core/mix"
	"hexachord/core/song"
	"hexachord/core/sound"
)

// through is a desk for a bounce on which every note of part 0 goes where its strip says.
func through(m mix.Mix, rate int, lanes ...int) Desk {
	d := mix.NewDesk(m, 120, rate)
	return Desk{d, func(note int) []mix.Send { return d.Sends("", note) }, lanes}
}

// click is a voice of one frame.
func click(rate int) map[string]Voice {
	b := sound.New(rate, 1, 1)
	b.Channels[0][0] = 1
	return map[string]Voice{"click": {Buffer: b}}
}

// A bounce through the desk is the same whatever its blocks; a lane alone is what goes into its output; what is sent to the room rings after
// the end, and laid over the beginning it is what is heard the second time round.
func TestABounceGoesThroughTheDesk(t *testing.T) {
	const rate = 8000
	pass := Pass{LengthS: 0.5, Cues: []Cue{{AtS: 0.35, Voice: "click", Left: 1, Right: 0.5, Note: 36}, {AtS: 0.4, Voice: "click", Left: 0.25, Right: 0.25, Note: 38}}}
	dB := -6.0
	m := mix.New()
	m.Outputs = []mix.Output{{ID: "k", LevelDB: -6, Chain: mix.NewChain()}}
	m.Room = mix.Room{SizeM: 5, LengthS: 0.3, Tone: 0, ReturnDB: 0}
	m.Strips = map[string]mix.Strip{":36": {Output: "k", LevelDB: -3, Room: &dB}}
	bounce := func(passes int, tail Tail, lanes ...int) *Bounce {
		t.Helper()
		b, err := NewBounce(pass, passes, rate, click(rate), tail, through(m, rate, lanes...))
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	whole := bounce(1, TailRing).All()
	var joined [2][]float32
	for b := bounce(1, TailRing); ; {
		x := b.Block(701)
		if x.Frames() == 0 {
			break
		}
		for side := range joined {
			joined[side] = append(joined[side], x.Channels[side]...)
		}
	}
	if !slices.Equal(joined[0], whole.Channels[0]) || !slices.Equal(joined[1], whole.Channels[1]) {
		t.Error("by blocks it is not the same")
	}
	if whole.Frames() <= rate/2+rate/4 {
		t.Errorf("the room does not ring on: %d frames", whole.Frames())
	}
	g := math.Pow(10, -9.0/20)
	if got := float64(whole.Channels[0][rate*7/20]); math.Abs(got-g) > 1e-6 {
		t.Errorf("the kick is %g loud, not %g", got, g)
	}
	_, outputs, lanes, ok := bounce(1, TailCut, 36, 38).Blocks()
	if !ok || len(outputs) != 2 || len(lanes) != 2 || math.Abs(lanes[0][1][rate*7/20]-0.5*math.Pow(10, -3.0/20)) > 1e-9 || lanes[1][0][rate*4/10] != 0.25 || math.Abs(outputs[1][0][rate*7/20]-g) > 1e-9 {
		t.Errorf("outputs and lanes: %d, %d", len(outputs), len(lanes))
	}
	lap, twice := bounce(1, TailLap).All(), bounce(3, TailCut).All()
	for i := range lap.Channels[0] {
		if d := lap.Channels[0][i] - twice.Channels[0][2*lap.Frames()+i]; d > 1e-6 || d < -1e-6 {
			t.Fatalf("laid over the beginning, frame %d is %g, played round it is %g", i, lap.Channels[0][i], twice.Channels[0][2*lap.Frames()+i])
		}
	}
}

// A 4-minute song of 3 parts and 39 lanes, sixteenths throughout, every lane of its own sound half a second long: dry, and with the processing of
// eight outputs, the room and the delay. Reported are times real time.
func BenchmarkBounceSong(b *testing.B) {
	const rate = 44100
	clock := song.NewClock(song.Song{}, 120)
	voices := map[string]Voice{}
	pass := Song(clock, threeParts(clock, 120), nil, clock.Tick(120))
	for _, c := range pass.Cues {
		if _, ok := voices[c.Voice]; !ok {
			x := sound.New(rate, 2, rate/2)
			for i := range x.Frames() {
				v := float32(math.Sin(float64(i)*0.03) * math.Exp(-float64(i)/4000))
				x.Channels[0][i], x.Channels[1][i] = v, v
			}
			voices[c.Voice] = Voice{Buffer: x}
		}
	}
	treated := mix.New()
	chain := mix.NewChain()
	chain.Gate.On, chain.Compressor.On, chain.Saturation.On, chain.Equaliser.On = true, true, true, true
	chain.Equaliser.HighPassHz, chain.Equaliser.Low.DB, chain.Equaliser.Mid.DB, chain.Equaliser.High.DB = 60, 2, -3, 2
	send := -12.0
	for i := range 8 {
		id := string(rune('a' + i))
		treated.Outputs = append(treated.Outputs, mix.Output{ID: id, Chain: chain})
		treated.Strips[mix.Key("", 36+i)] = mix.Strip{Output: id, Room: &send, Delay: &send}
	}
	for name, m := range map[string]mix.Mix{"dry": mix.New(), "processed": treated} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				d := mix.NewDesk(m, 120, rate)
				bounce, err := NewBounce(pass, 1, rate, voices, TailCut, Desk{d, func(note int) []mix.Send { return d.Sends("", note%NotesAPart) }, nil})
				if err != nil {
					b.Fatal(err)
				}
				for bounce.Block(1<<16).Frames() > 0 {
				}
			}
			b.ReportMetric(pass.LengthS*float64(b.N)/b.Elapsed().Seconds(), "x-real-time")
		})
	}
}
