package service

import (
	"context"
	"errors"
	"math"
	"os"
	"path/filepath"
	"sync"
	"time"

	"hexachord/core/mix"
	"hexachord/core/play"
	"hexachord/core/sound"
	"hexachord/format/flac"
	"hexachord/format/wav"
)

// writer writes one file of sound.
type writer struct {
	file   *os.File
	out    interface{ Write(sound.Buffer) error }
	close  func() error
	dither *sound.Ditherer
	meter  *mix.Meter
	mono   bool
}

func (w *exportWork) open(path string, frames int, marks sound.Marks, mono bool) (_ *writer, err error) {
	f, err := os.Create(path)
	if err != nil {
		return nil, err
	}
	channels := 2
	if mono {
		channels = 1
	}
	x := &writer{file: f, meter: mix.NewMeter(w.e.Rate), mono: mono}
	if w.e.Bits < 32 {
		d := sound.NewDitherer(w.e.Bits, channels, 1)
		x.dither = &d
	}
	if w.e.FLAC {
		out, err := flac.NewWriter(f, w.e.Rate, channels, w.e.Bits)
		x.out, x.close = out, func() error { return out.Close() }
		return x, err
	}
	out, err := wav.NewWriter(f, w.e.Rate, channels, frames, map[int]wav.Coding{16: wav.PCM16, 24: wav.PCM24, 32: wav.Float32}[w.e.Bits], marks)
	x.out, x.close = out, func() error { return errors.Join(out.Close(), f.Close()) }
	return x, err
}

func (x *writer) write(b [2][]float64, gain float64, rate int) error {
	for side := range b {
		if gain != 1 {
			for i := range b[side] {
				b[side][i] *= gain
			}
		}
	}
	sides := b[:]
	if x.mono { // measured as it is written
		for i := range b[0] {
			m := (b[0][i] + b[1][i]) / 2
			b[0][i], b[1][i] = m, m
		}
		sides = b[:1]
	}
	x.meter.Write(b)
	out := sound.New(rate, len(sides), len(b[0]))
	for side := range sides {
		for i, v := range b[side] {
			out.Channels[side][i] = float32(v)
		}
	}
	if x.dither != nil {
		x.dither.Dither(out)
	}
	return x.out.Write(out)
}

// measured is how loud the mix is, before it is written.
func (w *exportWork) measured(ctx context.Context, tick func(frames int)) (mix.Loudness, error) {
	bounce, err := w.bounce()
	if err != nil {
		return mix.Loudness{}, err
	}
	m := mix.NewMeter(w.e.Rate)
	for {
		mixed, _, _, ok := bounce.Blocks()
		if !ok {
			return m.Loudness(), ctx.Err()
		}
		if err := ctx.Err(); err != nil {
			return mix.Loudness{}, err
		}
		m.Write(mixed[0])
		tick(len(mixed[0][0]))
	}
}

// run writes the files. Sound is bounced once for all of them, block by block.
func (w *exportWork) run(ctx context.Context, x *exporting) (err error) {
	began := time.Now()
	var sounds []int
	for i, f := range w.files {
		if f.What == "mix" || f.What == "output" || f.What == "lane" {
			sounds = append(sounds, i)
		}
	}
	rounds, heard := 1, 0
	if w.e.Level != "" {
		rounds = 2
	}
	total := 0
	tick := func(frames int) {
		heard += frames
		x.mu.Lock()
		defer x.mu.Unlock()
		x.state.Share = min(0.99, float64(heard)/float64(max(1, rounds*total)))
		since := time.Since(began).Seconds()
		x.state.Times = float64(heard) / float64(w.e.Rate) / max(1e-6, since)
		x.state.LeftS = since / max(1e-6, x.state.Share) * (1 - x.state.Share)
	}
	if len(sounds) > 0 {
		bounce, err := w.bounce()
		if err != nil {
			return err
		}
		total = bounce.Frames
		x.mu.Lock()
		width := int64(w.e.Bits / 8 * 2)
		x.state.Bytes = int64(total) * width * int64(len(sounds))
		x.mu.Unlock()
		gain := 1.0
		if w.e.Level != "" {
			l, err := w.measured(ctx, tick)
			if err != nil {
				return err
			}
			at := l.PeakDB
			if w.e.Level == "loudness" {
				at = l.Integrated
			}
			if at > -100 {
				gain = math.Pow(10, (w.e.LevelTo-at)/20)
			}
		}
		if err := w.writeSounds(ctx, x, bounce, sounds, gain, tick); err != nil {
			return err
		}
	}
	for i, f := range w.files {
		if err := ctx.Err(); err != nil {
			return err
		}
		var data []byte
		switch f.What {
		case "midi":
			data = w.midi[f.Name]
		case "bundle":
			if data, err = w.b.ProjectBundle(w.state); err != nil {
				return err
			}
		default:
			continue
		}
		if err := os.WriteFile(filepath.Join(x.folder, f.Name), data, 0o600); err != nil {
			return err
		}
		x.made(i, int64(len(data)), mix.Loudness{})
	}
	x.mu.Lock()
	x.state.Share, x.state.LeftS, x.state.Bytes = 1, 0, 0
	for _, f := range x.state.Files {
		x.state.Bytes += f.Size
	}
	x.mu.Unlock()
	return nil
}

func (x *exporting) made(i int, size int64, l mix.Loudness) {
	x.mu.Lock()
	defer x.mu.Unlock()
	f := &x.state.Files[i]
	f.Size, f.Done, f.Loudness = size, true, l
}

func (w *exportWork) writeSounds(ctx context.Context, x *exporting, bounce *play.Bounce, sounds []int, gain float64, tick func(int)) (err error) {
	var marks sound.Marks
	if w.e.Markers {
		marks = w.marks(w.e.Rate)
	}
	open := make([]*writer, 0, len(sounds))
	defer func() {
		for _, o := range open {
			if err != nil {
				_ = o.file.Close()
			}
		}
	}()
	for _, i := range sounds {
		o, err := w.open(filepath.Join(x.folder, w.files[i].Name), bounce.Frames, marks.Within(bounce.Frames), w.e.Mono && w.files[i].What == "mix")
		if err != nil {
			return err
		}
		open = append(open, o)
	}
	for {
		if err := ctx.Err(); err != nil {
			return err
		}
		mixed, outputs, lanes, ok := bounce.Blocks()
		if !ok {
			break
		}
		errs := make([]error, len(open))
		var all sync.WaitGroup
		for k, o := range open {
			block := mixed[0]
			switch bus := w.files[sounds[k]].bus; {
			case bus >= len(outputs):
				block = lanes[bus-len(outputs)]
			case bus >= 0:
				block = outputs[bus]
			}
			all.Go(func() { errs[k] = o.write(block, gain, w.e.Rate) })
		}
		all.Wait()
		if err := errors.Join(errs...); err != nil {
			return err
		}
		tick(len(mixed[0][0]))
	}
	for k, o := range open {
		if err := o.close(); err != nil {
			return err
		}
		info, err := os.Stat(o.file.Name())
		if err != nil {
			return err
		}
		x.made(sounds[k], info.Size(), o.meter.Loudness())
	}
	open = open[:0]
	return nil
}
