package kind

import (
	"math"
	"testing"

	"hexachord/core/sound"
)

func TestKindsByName(t *testing.T) {
	for name, want := range map[string]Kind{
		"Kick 01.wav": "kick", "BD_hard.aif": "kick", "bass drum 2.wav": "kick", "SnareTight3.wav": "snare", "sd-12.wav": "snare",
		"sidestick.wav": "rim", "side stick.wav": "rim", "Hand Clap.wav": "clap", "HH_Closed_03.wav": "closed hat", "closed-hat.wav": "closed hat",
		"OpenHat.wav": "open hat", "Hi-Hat Open.wav": "open hat", "Hat Big Open 2.wav": "open hat", "Closed Hi Hat.wav": "closed hat", "HH pedal.wav": "pedal hat", "open hi.wav": "open hat", "hi open.wav": "", "Open Snare.wav": "snare", "hihat open 2.wav": "open hat", "pedal hi-hat.wav": "pedal hat", "hat.wav": "closed hat", "Floor Tom.wav": "low tom",
		"tom.wav": "mid tom", "Crash16.wav": "crash", "ride_bell.wav": "ride", "cowbell.wav": "cowbell", "tambourine.wav": "tambourine",
		"conga lo.wav": "percussion", "break 95bpm.wav": "loop", "quay-walk.wav": "", "chatter.wav": "", "snapshot.wav": "",
	} {
		if got := ByName(name, ""); got != want {
			t.Errorf("%s is named a %q, want %q", name, got, want)
		}
	}
	// General MIDI's own names
	for name, want := range map[string]Kind{"Open Hi Conga": "percussion", "Open Hi-Hat": "open hat", "Mute Hi Conga": "percussion", "Open Triangle": "percussion", "Pedal Hi-Hat": "pedal hat", "Open Hi": "open hat", "Open Hi 3": "open hat"} {
		if got := ByName(name, ""); got != want {
			t.Errorf("%s: %q, want %q", name, got, want)
		}
	}
	if got := ByName("003.wav", "pack/Snares/dry"); got != "snare" {
		t.Errorf("in a folder of snares: %q", got)
	}
}

func TestNameAndSoundAreWeighed(t *testing.T) {
	heard := []Guess{{"snare", 0.9}, {"clap", 0.08}, {"kick", 0.02}}
	if got := Judge("012.wav", "", heard); got[0].Kind != "snare" {
		t.Errorf("without a name the sound decides: %v", got)
	}
	if got := Judge("clap.wav", "", heard); got[0].Kind != "clap" {
		t.Errorf("a name wins over a sound that leaves it a chance: %v", got)
	}
	if got := Judge("Kick Deep.wav", "", []Guess{{"mid tom", 0.9995}, {"kick", 0.0005}}); got[0].Kind != "kick" || got[0].Confidence < 0.6 {
		t.Errorf("a kick by its own name is no doubtful tom: %v", got)
	}
	if got := Judge("012.wav", "Ride the ferry", []Guess{{"kick", 0.9995}, {"ride", 0.0005}}); got[0].Kind != "kick" {
		t.Errorf("a folder's name does not beat a clear sound: %v", got)
	}
	if got := Judge("kick and hat.wav", "", []Guess{{Loop, 0.995}, {"kick", 0.005}}); got[0].Kind != Loop {
		t.Errorf("many strokes are a loop, whatever they are called: %v", got)
	}
	if got := Judge("loop.wav", "", []Guess{{"kick", 1}}); got[0].Confidence > 0.9 {
		t.Errorf("a name the sound speaks against is doubtful: %v", got)
	}
	total := 0.0
	for _, g := range Judge("clap.wav", "", heard) {
		total += g.Confidence
	}
	if math.Abs(total-1) > 1e-9 {
		t.Errorf("confidences add up to %g", total)
	}
}

// ITU-R BS.1770-4: a 997 Hz sine at full scale in one channel is −3.01 LKFS; tables 1 and 2 print the filters'
// coefficients for 48 kHz.
func TestLoudness(t *testing.T) {
	f := kWeighting(48000)
	for i, want := range [2]biquad{{1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585},
		{1, -2, 1, -1.99004745483398, 0.99007225036621}} {
		for _, d := range []float64{f[i].b0 - want.b0, f[i].b1 - want.b1, f[i].b2 - want.b2, f[i].a1 - want.a1, f[i].a2 - want.a2} {
			if math.Abs(d) > 1e-8 {
				t.Errorf("filter %d is %+v, want %+v", i+1, f[i], want)
			}
		}
	}
	for _, rate := range []int{44100, 48000, 96000} {
		b := sound.New(rate, 1, rate)
		for i := range b.Channels[0] {
			b.Channels[0][i] = float32(math.Sin(2 * math.Pi * 997 * float64(i) / float64(rate)))
		}
		if got := Loudness(b); math.Abs(got+3.01) > 0.02 {
			t.Errorf("at %d Hz the sine is %.2f LUFS, want −3.01", rate, got)
		}
	}
	if Loudness(sound.New(44100, 1, 100)) != Silence {
		t.Error("silence has no loudness")
	}
}

func TestLoopsAndSilence(t *testing.T) {
	const rate = 44100
	b := sound.New(rate, 1, 4*rate)
	for n := range 8 {
		for i := range rate / 10 {
			b.Channels[0][n*rate/2+i] = float32(math.Exp(-float64(i)/900) * math.Sin(float64(i)/9))
		}
	}
	f, guesses := BySound(b)
	if guesses[0].Kind != Loop || f.Attacks != 8 {
		t.Errorf("eight strokes in four seconds: %v with %d attacks", guesses[0], f.Attacks)
	}
	if _, guesses := BySound(b.Region(0, rate/3)); guesses[0].Kind == Loop {
		t.Error("one stroke is no loop")
	}
	if _, guesses := BySound(sound.New(rate, 2, 10)); guesses[0].Kind != Other {
		t.Errorf("silence is %v", guesses[0])
	}
	total := 0.0
	for _, g := range guesses {
		total += g.Confidence
	}
	if math.Abs(total-1) > 1e-6 {
		t.Errorf("the chances add up to %g", total)
	}
}

func BenchmarkBySound(b *testing.B) {
	x := sound.New(44100, 1, 22050)
	for i := range x.Channels[0] {
		x.Channels[0][i] = float32(math.Exp(-float64(i)/3000) * math.Sin(float64(i)/9))
	}
	for b.Loop() {
		BySound(x)
	}
}
