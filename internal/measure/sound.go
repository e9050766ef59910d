package measure

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"hexachord/core/hear"
	"hexachord/core/kind"
	"hexachord/core/play"
	"hexachord/core/sound"
	"hexachord/demo"
	"hexachord/demo/breaks"
	"hexachord/format/wav"
)

const rate = 48000

// Sound are the measures of playing, mixing and hearing.
func Sound() Group {
	return Group{"Playing, mixing, hearing", []Measure{
		{"the demo's first pattern bounced, 64 passes", "200 times real time", bouncePattern},
		{fmt.Sprintf("cues of a song of %d bars, %d parts, each bar another pattern of 64 hits", SongBars, SongParts), "", func(ctx context.Context, at *Place) (string, error) {
			w, err := at.years(ctx)
			if err != nil {
				return "", err
			}
			cues := 0
			t, err := timed(3, func(i int) error {
				pass, err := w.bench.SongPass(w.reference, rate-i) // another rate each time: what was worked out is remembered
				cues = len(pass.Cues)
				return err
			})
			return fmt.Sprintf("%s for %d cues", t, cues), err
		}},
		{"32 bars of it bounced", "100 times real time", bounceSong},
		{"the demo's break heard, the whole command: processor time / memory", "300 ms", hearBreak},
		{"ten minutes of one drum heard, `convert --only kick`: times real time / processor time / memory", "100 times, twice the decoded audio", hearLong},
		{"a minute parted into drums and the rest", "", func(context.Context, *Place) (string, error) {
			b := deckBreak()
			n := b.Frames()
			for b.Frames() < 60*b.Rate {
				for c := range b.Channels {
					b.Channels[c] = append(b.Channels[c], b.Channels[c][:n]...)
				}
			}
			t, err := timed(1, func(int) error { hear.OnlyDrums(b); return nil })
			return t.String(), err
		}},
		{"what one sample is, by its sound", "", func(context.Context, *Place) (string, error) {
			rng := rand.New(rand.NewPCG(3, 4))
			t, err := timed(30, func(int) error { kind.BySound(drumStroke(rng)); return nil })
			return t.String(), err
		}},
	}}
}

// drumStroke is one stroke of some drum.
func drumStroke(rng *rand.Rand) sound.Buffer {
	notes := []int{36, 38, 42, 46, 45, 49, 51}
	d := breaks.RandomDrum(notes[rng.IntN(len(notes))], rng)
	d.Seconds = 0.35
	return sound.Buffer{Rate: rate, Channels: [][]float32{d.Stroke(0.8, rng.Uint64(), rate)}}
}

func oneShot(rng *rand.Rand) ([]byte, error) { return wav.Encode(drumStroke(rng), wav.PCM24) }

func deckBreak() sound.Buffer {
	f, _, err := demo.DeckBreak()
	if err != nil {
		panic(err) // it is synthesised, from constants
	}
	b, _, err := wav.Decode(f.Data)
	if err != nil {
		panic(err)
	}
	return b
}

func bouncePattern(_ context.Context, at *Place) (string, error) {
	b, p, err := at.demo("bounce")
	if err != nil {
		return "", err
	}
	defer b.Close()
	return speed(func() (*play.Bounce, error) { return b.Bounce(p, p.Patterns[0].Value, rate, 64, play.TailRing) })
}

func bounceSong(ctx context.Context, at *Place) (string, error) {
	w, err := at.years(ctx)
	if err != nil {
		return "", err
	}
	return speed(func() (*play.Bounce, error) { return w.bench.BounceSong(w.reference, rate, 0, 32, play.TailRing) })
}

// speed tells how many times faster than it sounds something is bounced, its voices made already.
func speed(begin func() (*play.Bounce, error)) (string, error) {
	var took time.Duration
	frames := 0
	for range 2 {
		b, err := begin()
		if err != nil {
			return "", err
		}
		frames = b.Frames
		start := time.Now()
		for b.Block(4096).Frames() > 0 {
		}
		took = time.Since(start)
	}
	return fmt.Sprintf("%.0f times real time", float64(frames)/rate/took.Seconds()), nil
}

// convert hears a file as a whole command.
func convert(ctx context.Context, at *Place, b sound.Buffer, more ...string) (cpu, took time.Duration, memory int64, err error) {
	data, err := wav.Encode(b, wav.PCM16)
	in := filepath.Join(at.Dir, "in.wav")
	if err := errors.Join(err, os.WriteFile(in, data, 0o600)); err != nil {
		return 0, 0, 0, err
	}
	cmd := exec.CommandContext(ctx, at.Program, append([]string{"convert", in, "--out", filepath.Join(at.Dir, "out.mid")}, more...)...)
	var said bytes.Buffer
	cmd.Stderr = &said
	begin := time.Now()
	if err := cmd.Start(); err != nil {
		return 0, 0, 0, err
	}
	ended := make(chan error, 1)
	go func() { ended <- cmd.Wait() }()
	for {
		select {
		case err := <-ended:
			if err != nil {
				return 0, 0, 0, fmt.Errorf("%w: %s", err, strings.TrimSpace(said.String()))
			}
			return cmd.ProcessState.UserTime() + cmd.ProcessState.SystemTime(), time.Since(begin), memory, nil
		case <-time.After(10 * time.Millisecond): // what the system tells at the end would count this process's own memory in
			memory = max(memory, mostMemory(cmd.Process.Pid))
		}
	}
}

// mostMemory is the most memory a process has had so far, bytes; 0 where the system does not tell.
func mostMemory(pid int) (bytes int64) {
	if _, err := fmt.Sscan(firstOf(fmt.Sprintf("/proc/%d/status", pid), "VmHWM"), &bytes); err != nil {
		return 0
	}
	return bytes << 10
}

func megabytes(n int64) string {
	if n == 0 {
		return "not told by this system"
	}
	return fmt.Sprintf("%d MB", n>>20)
}

func hearBreak(ctx context.Context, at *Place) (string, error) {
	cpu, _, memory, err := convert(ctx, at, deckBreak())
	return short(cpu) + " / " + megabytes(memory), err
}

// hearLong hears ten minutes of a kick on every beat at 120 BPM, no two alike.
func hearLong(ctx context.Context, at *Place) (string, error) {
	const seconds = 600
	rng := rand.New(rand.NewPCG(5, 6))
	x := make([]float32, seconds*rate)
	drum := breaks.RandomDrum(36, rng)
	drum.Seconds = 0.4
	for beat := 0; beat < seconds*2-1; beat++ {
		for i, v := range drum.Stroke(0.4+0.5*rng.Float64(), rng.Uint64(), rate) {
			x[beat*rate/2+i] += 0.6 * v
		}
	}
	cpu, took, memory, err := convert(ctx, at, sound.Buffer{Rate: rate, Channels: [][]float32{x}}, "--only", "kick")
	return fmt.Sprintf("%.0f times / %s / %s, %.1f times the decoded audio", seconds/took.Seconds(), short(cpu), megabytes(memory), float64(memory)/(4*seconds*rate)), err
}
