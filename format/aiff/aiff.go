// Package aiff reads AIFF and AIFF-C audio (Apple, "Audio Interchange File Format", version 1.3, 1989, and the
// AIFF-C draft of 1991): big- and little-endian PCM and floating point.
package aiff

import (
	"encoding/binary"
	"fmt"
	"math"

	"hexachord/core/sound"
)

// Faults a caller can tell apart; all wrap sound.ErrAudio.
var (
	ErrTruncated = fmt.Errorf("%w: the AIFF file ends too early", sound.ErrAudio)
	ErrCoding    = fmt.Errorf("%w: the AIFF file uses a coding the bench cannot read; save it as PCM", sound.ErrAudio)
)

// Info is what the file says of its samples as they are stored.
type Info struct {
	Bits  int
	Float bool
	sound.Marks
}

const (
	maxChannels = 64
	maxMarks    = 4096
)

// Sniff reports whether data begins like an AIFF or AIFF-C file.
func Sniff(data []byte) bool {
	return len(data) >= 12 && string(data[:4]) == "FORM" && (string(data[8:12]) == "AIFF" || string(data[8:12]) == "AIFC")
}

type common struct {
	channels, frames, bits, rate int
	float, little                bool
}

// Decode reads a whole file. A sound chunk that promises more than the file holds is refused.
func Decode(data []byte) (sound.Buffer, Info, error) {
	fail := func(err error) (sound.Buffer, Info, error) { return sound.Buffer{}, Info{}, err }
	if !Sniff(data) {
		return fail(fmt.Errorf("%w: it is not an AIFF file", sound.ErrAudio))
	}
	var c *common
	var samples []byte
	marks := map[int]int{} // a marker's ID → its frame
	var loop []byte
	var m sound.Marks
	for at := 12; at+8 <= len(data); {
		size := int64(binary.BigEndian.Uint32(data[at+4:]))
		body := data[at+8:]
		short := size > int64(len(body))
		if !short {
			body = body[:size]
		}
		switch id := string(data[at : at+4]); {
		case id == "COMM":
			if short || size < 18 {
				return fail(fmt.Errorf("%w inside its common chunk", ErrTruncated))
			}
			parsed, err := parseCommon(body, string(data[8:12]) == "AIFC")
			if err != nil {
				return fail(err)
			}
			c = &parsed
		case id == "SSND":
			if short || size < 8 {
				return fail(fmt.Errorf("%w: its header promises %d bytes of audio and %d are there", ErrTruncated, size, len(body)))
			}
			offset := int64(binary.BigEndian.Uint32(body))
			if offset > size-8 {
				return fail(fmt.Errorf("%w inside its sound chunk", ErrTruncated))
			}
			samples = body[8+offset:]
		case id == "MARK" && !short && size >= 2:
			for b := body[2:]; len(b) >= 7 && len(m.Cues) < maxMarks; {
				frame := int(binary.BigEndian.Uint32(b[2:]))
				marks[int(binary.BigEndian.Uint16(b))] = frame
				m.Cues = append(m.Cues, frame)
				name := 1 + int(b[6])
				b = b[min(len(b), 6+name+name&1):]
			}
		case id == "INST" && !short && size >= 20:
			loop = body[8:14] // the sustain loop: how, from marker, to marker
		}
		next := int64(at) + 8 + size + size&1
		if next > int64(len(data)) {
			break
		}
		at = int(next)
	}
	switch {
	case c == nil:
		return fail(fmt.Errorf("%w: it has no common chunk", ErrTruncated))
	case samples == nil && c.frames > 0:
		return fail(fmt.Errorf("%w: it holds no audio data", ErrTruncated))
	case int64(len(samples)) < int64(c.frames)*int64(c.channels)*int64((c.bits+7)/8):
		return fail(fmt.Errorf("%w: its header promises %d frames and the audio holds fewer", ErrTruncated, c.frames))
	}
	if loop != nil && binary.BigEndian.Uint16(loop) != 0 {
		from, ok := marks[int(binary.BigEndian.Uint16(loop[2:]))]
		to, ok2 := marks[int(binary.BigEndian.Uint16(loop[4:]))]
		if ok && ok2 {
			m.Loops = []sound.Loop{{StartFrame: from, EndFrame: to}}
		}
	}
	return c.decode(samples), Info{c.bits, c.float, m.Within(c.frames)}, nil
}

func parseCommon(b []byte, compressed bool) (common, error) {
	c := common{channels: int(binary.BigEndian.Uint16(b)), frames: int(binary.BigEndian.Uint32(b[2:])),
		bits: int(binary.BigEndian.Uint16(b[6:]))}
	rate := extended(b[8:18])
	if !(rate >= sound.MinRate && rate <= sound.MaxRate) {
		return c, fmt.Errorf("%w (%g frames a second)", ErrCoding, rate)
	}
	c.rate = int(math.Round(rate))
	if compressed {
		if len(b) < 22 {
			return c, fmt.Errorf("%w inside its common chunk", ErrTruncated)
		}
		switch coding := string(b[18:22]); coding {
		case "NONE", "twos":
		case "sowt":
			c.little = true
		case "fl32", "FL32", "fl64", "FL64":
			c.float = true
			c.bits = map[byte]int{'3': 32, '6': 64}[coding[2]]
		default:
			return c, fmt.Errorf("%w (compression %q)", ErrCoding, coding)
		}
	}
	if c.channels < 1 || c.channels > maxChannels || !c.float && (c.bits < 1 || c.bits > 32) {
		return c, fmt.Errorf("%w (%d channels of %d bits)", ErrCoding, c.channels, c.bits)
	}
	return c, nil
}

// extended reads an 80-bit IEEE 754 extended number.
func extended(b []byte) float64 {
	exponent := int(binary.BigEndian.Uint16(b)&0x7fff) - 16383 - 63
	v := math.Ldexp(float64(binary.BigEndian.Uint64(b[2:])), exponent)
	if b[0]&0x80 != 0 {
		return -v
	}
	return v
}

func (c common) decode(b []byte) sound.Buffer {
	out := sound.New(c.rate, c.channels, c.frames)
	width := (c.bits + 7) / 8
	for i := range c.frames {
		for ch := range c.channels {
			out.Channels[ch][i] = c.sample(b[:width])
			b = b[width:]
		}
	}
	return out
}

// sample reads one sample: floating point, or a signed integer that fills its bytes from the left.
func (c common) sample(b []byte) float32 {
	if c.float {
		if len(b) == 4 {
			return math.Float32frombits(binary.BigEndian.Uint32(b))
		}
		return float32(math.Float64frombits(binary.BigEndian.Uint64(b)))
	}
	var v uint32
	for i, x := range b {
		shift := 24 - 8*i
		if c.little {
			shift = 24 - 8*(len(b)-1-i)
		}
		v |= uint32(x) << shift
	}
	return float32(float64(int32(v)) / (1 << 31))
}
