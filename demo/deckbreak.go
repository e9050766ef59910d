package demo

import (
	"math/rand/v2"

	"hexachord/demo/breaks"
	"hexachord/demo/drums"
	"hexachord/format/wav"
)

// BreakName is the demo recording's file name, BreakBPM and BreakBars what was played.
const (
	BreakName = "deck-break.wav"
	BreakBPM  = 93.7
	BreakBars = 4
)

// DeckBreak makes the demo recording: four bars played on other drums than Boathouse's, on deck, with ghost
// notes, strokes that fall together, a player's timing, a room, bleed and a little hiss. The true hits come with it.
func DeckBreak() (File, []breaks.Hit, error) {
	hats := drums.Metal{LoHz: 2300, HiHz: 13000, Partials: 30, Ring: 0.42, Wash: 0.6, WashLoHz: 5100, Seed: 311}
	closed, open := hats, hats
	closed.DecayS, closed.WashDecayS = 0.1, 0.085
	open.DecayS, open.WashDecayS = 0.7, 0.55
	kit := []*breaks.Piece{
		{Note: 36, LevelDB: 0, Drum: drums.Kick{Hz: 61, Sweep: 1.1, SweepS: 0.012, DecayS: 0.26, Click: 0.5, ClickHz: 2200, Shell: 0.3, Air: 0.35, Drive: 0.1}.Drum()},
		{Note: 38, LevelDB: -1, Pan: 0.05, Drum: drums.Snare{Hz: 226, Bend: 0.05, DecayS: 0.16, Body: 0.5, Wires: 0.75, WireLoHz: 1500, WireHiHz: 12000, WireDecayS: 0.17, Snap: 0.55, Drive: 0.05}.Drum()},
		{Note: 42, LevelDB: -11, Pan: 0.3, Drum: closed.Drum()},
		{Note: 46, LevelDB: -11, Pan: 0.3, Drum: open.Drum()},
		{Note: 45, LevelDB: -4, Pan: -0.3, Drum: drums.Tom{Hz: 112, Bend: 0.12, DecayS: 0.45, Slap: 0.35, Body: 0.9}.Drum()},
		{Note: 49, LevelDB: -9, Pan: -0.4, Drum: drums.Metal{LoHz: 420, HiHz: 13000, Partials: 48, DecayS: 1.8, Ring: 0.4, Wash: 0.85, WashLoHz: 2300, WashDecayS: 1.5, AttackS: 0.003, Seed: 312}.Drum()},
	}
	const cell = 15 / BreakBPM
	rng := rand.New(rand.NewPCG(7, 93))
	p := breaks.Performance{BPM: BreakBPM, Beats: 4, Bars: BreakBars, DurationS: BreakBars * 16 * cell}
	play := func(bar, step, note, velocity int, lateMS float64) {
		at := (float64(bar*16+step))*cell + lateMS/1000 + rng.NormFloat64()*0.003
		if step%2 == 1 {
			at += 0.012 // the player swings a little
		}
		v := velocity + int(rng.NormFloat64()*4)
		p.Strokes = append(p.Strokes, breaks.Stroke{TimeS: max(0.0005, at), Note: note, Velocity: min(127, max(12, v))})
	}
	for bar := range BreakBars {
		for step := 0; step < 16; step += 2 {
			switch {
			case step == 14 && bar%2 == 0:
				play(bar, step, 46, 88, 4)
			case bar == 3 && step >= 12: // the fill
			default:
				play(bar, step, 42, []int{98, 70}[step/2%2], 1)
			}
		}
		if bar%2 == 1 {
			play(bar, 9, 42, 44, 0)
		}
		play(bar, 0, 36, 118, 0)
		play(bar, []int{10, 7, 10, 7}[bar], 36, 92, -4)
		play(bar, []int{3, 10, 11, 10}[bar], 36, 78, 2)
		play(bar, 4, 38, 116, 7)
		play(bar, 7, 38, 30, 3)
		play(bar, 9, 38, 34, 2)
		play(bar, 11, 38, 22, 1)
		if bar < 3 {
			play(bar, 12, 38, 118, 9)
			play(bar, 15, 38, 38, 0)
			continue
		}
		play(bar, 12, 38, 108, 6)
		play(bar, 13, 45, 96, 2)
		play(bar, 14, 45, 104, 0)
		play(bar, 15, 36, 100, -3)
	}
	play(0, 0, 49, 100, 4)
	audio, truth := breaks.Render(kit, p, breaks.Room{Wet: 0.3, DecayS: 0.5, DampHz: 5200, HissDB: -58, Drive: 0.2,
		LowHz: 28, HighHz: 15500, TiltDB: [3]float64{1, -1, 1.5}, Stereo: true, PeakDB: -1}, 93)
	audio.Dither(16, 2)
	data, err := wav.Encode(audio, wav.PCM16)
	return File{BreakName, data}, truth, err
}
