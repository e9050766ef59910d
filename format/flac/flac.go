// Package flac reads FLAC audio (RFC 9639) by way of github.com/mewkiz/flac.
package flac

import (
	"bytes"
	"errors"
	"fmt"
	"io"

	"github.com/mewkiz/flac"

	"hexachord/core/sound"
)

// Sniff reports whether data begins like a FLAC file.
func Sniff(data []byte) bool { return len(data) >= 4 && string(data[:4]) == "fLaC" }

// mostPacked is how many samples room is made for with each byte of a file; more are read all the same.
const mostPacked = 4

// Decode reads a whole FLAC file of at most maxSeconds.
func Decode(data []byte, maxSeconds float64) (sound.Buffer, error) {
	stream, err := flac.New(bytes.NewReader(data))
	if err != nil {
		return sound.Buffer{}, fmt.Errorf("%w: the FLAC file's header cannot be read (%v)", sound.ErrAudio, err)
	}
	info := stream.Info
	if int(info.SampleRate) < sound.MinRate || int(info.SampleRate) > sound.MaxRate {
		return sound.Buffer{}, fmt.Errorf("%w: %d frames a second", sound.ErrAudio, info.SampleRate)
	}
	out := sound.New(int(info.SampleRate), int(info.NChannels), 0)
	// room for all of it at once, as far as the header can be believed
	room := min(info.NSamples, uint64(maxSeconds*float64(info.SampleRate)), mostPacked*uint64(len(data)))
	for c := range out.Channels {
		out.Channels[c] = make([]float32, 0, room)
	}
	scale := 1 / float32(int64(1)<<(info.BitsPerSample-1))
	for {
		frame, err := stream.ParseNext()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return sound.Buffer{}, fmt.Errorf("%w: the FLAC file is damaged after %.1f s (%v)", sound.ErrAudio, out.Seconds(), err)
		}
		if len(frame.Subframes) != len(out.Channels) {
			return sound.Buffer{}, fmt.Errorf("%w: the FLAC file changes its number of channels", sound.ErrAudio)
		}
		for c, sub := range frame.Subframes {
			for _, v := range sub.Samples {
				out.Channels[c] = append(out.Channels[c], float32(v)*scale)
			}
		}
		if out.Seconds() > maxSeconds || out.Frames()*len(out.Channels) > sound.MaxSamples {
			return sound.Buffer{}, sound.ErrTooLong
		}
	}
}
