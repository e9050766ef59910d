package ui

import (
	"math"
	"math/rand/v2"
	"testing"

	"hexachord/core/mix"
	"hexachord/core/music"
	"hexachord/core/project"
	"hexachord/core/song"
	"hexachord/core/view"
)

// The window's song clock and its clicks are the core's: through tempi that step and glide, and meters that change.
func TestTheSongsClockIsTheCores(t *testing.T) {
	s := song.Song{
		Tempos: []song.Tempo{{Bar: 1, BPM: 90, Glide: true}, {Bar: 4, BPM: 120}, {Bar: 5, BPM: 75}},
		Meters: []song.Meter{{Bar: 2, Meter: music.Meter{Beats: 7, Unit: 8}}, {Bar: 4, Meter: music.Meter{Beats: 6, Unit: 8}}},
	}
	clock := song.NewClock(s, 100)
	p := project.Project{}
	p.Song, p.Settings = s, project.NewSettings()
	p.Settings.BPM = 100
	p.Blocks = []project.Stored[song.Block]{{ID: "b", Value: song.Block{Recording: "r", Bars: 7}}}
	shown := view.SongOf(p)
	var cases []replay
	for tick := 0; tick < clock.Tick(7); tick += 377 {
		at := clock.Seconds(float64(tick))
		cases = append(cases, replay{Call: "secondsOfTick", Args: []any{shown.Bars, tick}, Want: near(at)},
			replay{Call: "tickOfSeconds", Args: []any{shown.Bars, at}, Want: near(float64(tick))})
	}
	var beats []any
	for bar := range 7 {
		m := clock.MeterAt(bar)
		for i := range m.Beats {
			tick := clock.Tick(bar) + i*m.BarTicks()/m.Beats
			beats = append(beats, map[string]any{"at": near(clock.Seconds(float64(tick))), "accent": i == 0})
		}
	}
	cases = append(cases, replay{Call: "beatsOf", Args: []any{shown, 1}, Want: beats})
	run(t, cases)
}

// near is a number to as many digits as two ways of reckoning it agree.
func near(x float64) float64 { return math.Round(x*1e7) / 1e7 }

// What is heard in the window is what is bounced: noise through gates, compressors, saturation, equalisers, the room and the delay comes out of
// the window's desk within −120 dB of the core's (the goal is −90), over a whole room's length, whatever the blocks.
func TestTheDeskIsTheCores(t *testing.T) {
	const rate, frames = 44100, 3 * mix.Quantum * 4
	db := func(v float64) *float64 { return &v }
	id := "s"
	chain := mix.Chain{
		Gate:       mix.Gate{On: true, OpenDB: -18, CloseDB: -30, AttackMS: 1, HoldMS: 20, ReleaseMS: 60, RangeDB: -50},
		Compressor: mix.Compressor{On: true, ThresholdDB: -20, Ratio: 4, KneeDB: 6, AttackMS: 5, ReleaseMS: 80, MakeupDB: 3},
		Saturation: mix.Saturation{On: true, DriveDB: 9},
		Equaliser:  mix.Equaliser{On: true, HighPassHz: 70, Slope: 24, Low: mix.Band{Hz: 150, DB: 4}, Mid: mix.Band{Hz: 700, DB: -5}, MidQ: 1.2, High: mix.Band{Hz: 6000, DB: 3}},
	}
	m := mix.New()
	m.Main.LevelDB = -1.5
	m.Outputs = []mix.Output{{ID: id, LevelDB: -3, Chain: chain}, {ID: "m", Mono: true, Chain: mix.NewChain()}}
	m.Room = mix.Room{SizeM: 8, LengthS: 0.6, Tone: -0.4, ReturnDB: -4}
	m.Strips = map[string]mix.Strip{":36": {Output: id, GainDB: 3, Room: db(-8)}, ":38": {Pan: -0.4, LevelDB: -2, Also: &id, Delay: db(-6)}, "p:42": {Output: "m", Pan: 0.7, Room: db(-14)}}
	rng := rand.New(rand.NewPCG(9, 9))
	type lane struct {
		Part  string    `json:"part"`
		Note  int       `json:"note"`
		Sound []float64 `json:"sound"`
	}
	lanes := []lane{{Note: 36}, {Note: 38}, {Part: "p", Note: 42}}
	for i := range lanes {
		loud := 0.0
		for k := range frames {
			if k%(7001+1500*i) == 0 {
				loud = 0.9
			}
			loud *= 0.9993
			lanes[i].Sound = append(lanes[i].Sound, float64(float32(loud*(2*rng.Float64()-1))))
		}
	}
	var cases []replay
	for _, dry := range []bool{false, true} {
		m.Dry = dry
		d := mix.NewDesk(m, 100, rate)
		var want [2][]float64
		for from := 0; from < frames; from += mix.Quantum {
			buses := make([][2][]float64, d.Buses())
			for b := range buses {
				buses[b] = [2][]float64{make([]float64, mix.Quantum), make([]float64, mix.Quantum)}
			}
			for _, l := range lanes {
				for _, s := range d.Sends(l.Part, l.Note) {
					for side := range 2 {
						for i := range mix.Quantum {
							buses[s.Bus][side][i] += l.Sound[from+i] * s.Sides[side]
						}
					}
				}
			}
			mixed := d.Process(buses)
			for side := range 2 {
				want[side] = append(want[side], mixed[side]...)
			}
		}
		plan := map[string]any{"mix": m, "delayFrames": m.Delay.Frames(100, rate), "room": m.Room.Response(rate)}
		cases = append(cases, replay{Call: "deskApart", Args: []any{plan, rate, lanes, want}, Want: true})
	}
	for _, grid := range music.Grids() {
		d := mix.Delay{Grid: grid}
		cases = append(cases, replay{Call: "framesOfDelay", Args: []any{d, 97.3, rate}, Want: d.Frames(97.3, rate)})
	}
	filters := chain.Equaliser.Sections(rate)
	var shown [][5]float64
	for _, f := range filters {
		shown = append(shown, [5]float64{f.B0, f.B1, f.B2, f.A1, f.A2})
	}
	for _, hz := range []float64{40, 70, 150, 700, 5000, 15000} {
		cases = append(cases, replay{Call: "responseNear", Args: []any{shown, hz, rate}, Want: near(mix.ResponseDB(filters, hz, rate))})
	}
	for _, level := range []float64{-40, -23, -20, -18, -6} {
		cases = append(cases, replay{Call: "compressed", Args: []any{chain.Compressor, level}, Want: chain.Compressor.Curve(level)})
	}
	run(t, cases)
}

// The loudness that the meters show while it plays is the core's of the same seconds.
func TestLiveLoudnessIsTheCores(t *testing.T) {
	const rate, frames = 44100, 128 * 1500
	rng := rand.New(rand.NewPCG(5, 6))
	var x [2][]float64
	for i := range frames {
		for side := range x {
			x[side] = append(x[side], float64(float32(0.3*(2*rng.Float64()-1)*float64(1+i*(side+1)%9000)/9000)))
		}
	}
	m := mix.NewMeter(rate)
	m.Write(x)
	hops := frames / (rate / 10)
	var cases []replay
	for _, tenths := range []int{4, 30} {
		want := m.Between(float64(hops-tenths)/10, float64(hops)/10)
		cases = append(cases, replay{Call: "loudLately", Args: []any{x[0], x[1], rate, tenths}, Want: near(want)})
	}
	run(t, cases)
}
