// Package audio recognises which open audio format a file's bytes are in and decodes it.
package audio

import (
	"bytes"
	"fmt"

	"hexachord/core/sound"
	"hexachord/format/aiff"
	"hexachord/format/damaged"
	"hexachord/format/flac"
	"hexachord/format/mp3"
	"hexachord/format/wav"
)

// Decoded is audio with what its file says of how it was stored.
type Decoded struct {
	sound.Buffer
	sound.Marks
	Format string // WAV, AIFF, FLAC or MP3
	Bits   int    // bits a sample as stored; 0 when the format has none
	Float  bool   // samples stored as floating point
	Bad    int    // samples that were not finite numbers and are now silent
}

// Limits bound what is decoded.
type Limits struct {
	Seconds  float64
	Channels int
}

// maxPeak bounds the loudest sample, 80 dB over full scale: what is louder is no recording.
const maxPeak = 1e4

// Decode reads a file. Every fault wraps sound.ErrAudio and says what the person can do.
func Decode(data []byte, lim Limits) (d Decoded, err error) {
	defer damaged.Caught(&err, sound.ErrAudio)
	if len(data) == 0 {
		return Decoded{}, fmt.Errorf("%w: the file is empty", sound.ErrAudio)
	}
	if d, err = decode(data, lim); err != nil {
		return d, err
	}
	switch {
	case d.Frames() == 0:
		return d, fmt.Errorf("%w: it holds no audio", sound.ErrAudio)
	case len(d.Channels) > lim.Channels:
		return d, fmt.Errorf("%w: it has %d channels; mix it down to stereo first", sound.ErrAudio, len(d.Channels))
	case d.Seconds() > lim.Seconds:
		return d, fmt.Errorf("%w: it lasts %.0f minutes; cut out the part you need (%.0f minutes at most)", sound.ErrTooLong, d.Seconds()/60, lim.Seconds/60)
	}
	d.Bad = d.Clean()
	if peak := d.Peak(); peak > maxPeak {
		return d, fmt.Errorf("%w: its loudest sample is %.3g times full scale; it is damaged, or no sound", sound.ErrAudio, peak)
	}
	return d, nil
}

func decode(data []byte, lim Limits) (Decoded, error) {
	switch {
	case wav.Sniff(data):
		b, info, err := wav.Decode(data)
		return Decoded{Buffer: b, Format: "WAV", Bits: info.Bits, Float: info.Float, Marks: info.Marks}, err
	case aiff.Sniff(data):
		b, info, err := aiff.Decode(data)
		return Decoded{Buffer: b, Format: "AIFF", Bits: info.Bits, Float: info.Float, Marks: info.Marks}, err
	case flac.Sniff(data):
		b, err := flac.Decode(data, lim.Seconds)
		return Decoded{Buffer: b, Format: "FLAC"}, err
	case mp3.Sniff(data):
		b, err := mp3.Decode(data, lim.Seconds)
		return Decoded{Buffer: b, Format: "MP3"}, err
	}
	if bytes.HasPrefix(data, []byte("OggS")) || len(data) > 8 && string(data[4:8]) == "ftyp" {
		return Decoded{}, fmt.Errorf("%w: Ogg and M4A files are decoded by the browser; drop it on the bench's window (hexachord serve)", sound.ErrAudio)
	}
	return Decoded{}, fmt.Errorf("%w: it is not a WAV, AIFF, FLAC or MP3 file, whatever its name says", sound.ErrAudio)
}
