// Package mp3 reads MPEG audio layer III by way of github.com/hajimehoshi/go-mp3 and trims the silence
// that encoders put before and after the sound.
package mp3

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"

	"github.com/hajimehoshi/go-mp3"

	"hexachord/core/sound"
)

// decoderDelay is the delay of an MPEG layer III decoder, in frames; the delay a LAME tag states comes
// on top of it (Xing/LAME tag description; value from memory).
const decoderDelay = 529

// tagFrames is the length of the silent frame that carries the tag, which the decoder sounds as any other.
const tagFrames = 1152

// Sniff reports whether data begins like an MP3 file: an ID3 tag or a frame header.
func Sniff(data []byte) bool {
	if len(data) >= 3 && string(data[:3]) == "ID3" {
		return true
	}
	return len(data) >= 4 && data[0] == 0xFF && data[1]&0xE6 == 0xE2 && data[2]>>4 != 0xF
}

// Decode reads a whole MP3 file of at most maxSeconds, always as stereo. When the file says how
// much silence its encoder added (LAME tag), that is trimmed.
func Decode(data []byte, maxSeconds float64) (sound.Buffer, error) {
	data, err := withoutID3(data)
	if err != nil {
		return sound.Buffer{}, err
	}
	d, err := mp3.NewDecoder(bytes.NewReader(data))
	if err != nil {
		return sound.Buffer{}, fmt.Errorf("%w: it looks like an MP3 file and cannot be read (%v)", sound.ErrAudio, err)
	}
	out := sound.New(d.SampleRate(), 2, 0)
	block := make([]byte, 1<<16)
	for {
		n, err := io.ReadFull(d, block)
		for i := 0; i+4 <= n; i += 4 {
			for c := range 2 {
				v := int16(binary.LittleEndian.Uint16(block[i+2*c:]))
				out.Channels[c] = append(out.Channels[c], float32(v)/(1<<15))
			}
		}
		if out.Seconds() > maxSeconds || out.Frames()*len(out.Channels) > sound.MaxSamples {
			return sound.Buffer{}, sound.ErrTooLong
		}
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			break
		}
		if err != nil {
			return sound.Buffer{}, fmt.Errorf("%w: the MP3 file is damaged after %.1f s", sound.ErrAudio, out.Seconds())
		}
	}
	if delay, padding, tagged := lameTag(data); tagged {
		start := tagFrames + delay + decoderDelay
		end := out.Frames() - max(0, padding-decoderDelay)
		if start < end {
			out = out.Region(start, end)
		}
	}
	return out, nil
}

// withoutID3 passes over tags before the sound: ten bytes of head, the length of the rest in four times seven bits (ID3v2,
// M. Nilsson 1998 to 2000). One that is longer than the file is refused here: the decoder would take memory for it.
func withoutID3(data []byte) ([]byte, error) {
	for len(data) >= 3 && string(data[:3]) == "ID3" {
		if len(data) < 10 {
			return nil, fmt.Errorf("%w: the MP3 file ends in its tag", sound.ErrAudio)
		}
		size := 0
		for _, b := range data[6:10] {
			size = size<<7 | int(b&0x7F)
		}
		if size > len(data)-10 {
			return nil, fmt.Errorf("%w: the MP3 file ends in its tag", sound.ErrAudio)
		}
		data = data[10+size:]
	}
	return data, nil
}

// lameTag reads the encoder delay and padding, in frames, from the LAME extension of the Xing or Info
// header in the file's first frame.
func lameTag(data []byte) (delay, padding int, ok bool) {
	head := data[:min(len(data), 1<<16)]
	at := bytes.Index(head, []byte("Xing"))
	if at < 0 {
		at = bytes.Index(head, []byte("Info"))
	}
	if at < 0 || at+8+4+4+100+4+24 > len(head) {
		return 0, 0, false
	}
	flags := binary.BigEndian.Uint32(head[at+4:])
	p := at + 8
	for bit, size := range []int{4, 4, 100, 4} { // frames, bytes, table of contents, quality
		if flags&(1<<bit) != 0 {
			p += size
		}
	}
	if e := string(head[p : p+4]); e != "LAME" && e != "Lavf" && e != "Lavc" {
		return 0, 0, false
	}
	b := head[p+21:]
	return int(b[0])<<4 | int(b[1])>>4, int(b[1]&0x0F)<<8 | int(b[2]), true
}
