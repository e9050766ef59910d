package aiff

import (
	"encoding/binary"
	"errors"
	"math"
	"testing"

	"hexachord/core/sound"
)

// Rates as 80-bit extended numbers; 44,100 is the bytes of Apple's specification's example files (from memory).
func TestExtendedNumbers(t *testing.T) {
	for want, b := range map[float64][]byte{
		44100: {0x40, 0x0e, 0xac, 0x44, 0, 0, 0, 0, 0, 0},
		48000: {0x40, 0x0e, 0xbb, 0x80, 0, 0, 0, 0, 0, 0},
		8000:  {0x40, 0x0b, 0xfa, 0, 0, 0, 0, 0, 0, 0},
		1:     {0x3f, 0xff, 0x80, 0, 0, 0, 0, 0, 0, 0},
		-0.5:  {0xbf, 0xfe, 0x80, 0, 0, 0, 0, 0, 0, 0},
		0:     {0, 0, 0, 0, 0, 0, 0, 0, 0, 0},
	} {
		if got := extended(b); got != want {
			t.Errorf("% x is %g, want %g", b, got, want)
		}
	}
}

func chunk(id string, body []byte) []byte {
	out := binary.BigEndian.AppendUint32([]byte(id), uint32(len(body)))
	out = append(out, body...)
	if len(body)%2 == 1 {
		out = append(out, 0)
	}
	return out
}

// file is an AIFF of mono 16-bit samples at 44,100, with a marker at frame 2.
func file(samples ...int16) []byte {
	comm := binary.BigEndian.AppendUint16(nil, 1)
	comm = binary.BigEndian.AppendUint32(comm, uint32(len(samples)))
	comm = binary.BigEndian.AppendUint16(comm, 16)
	comm = append(comm, 0x40, 0x0e, 0xac, 0x44, 0, 0, 0, 0, 0, 0)
	sound := make([]byte, 8)
	for _, v := range samples {
		sound = binary.BigEndian.AppendUint16(sound, uint16(v))
	}
	mark := []byte{0, 1, 0, 7, 0, 0, 0, 2, 2, 'o', 'n', 0}
	body := append([]byte("AIFF"), chunk("COMM", comm)...)
	body = append(body, chunk("MARK", mark)...)
	body = append(body, chunk("SSND", sound)...)
	return chunk("FORM", body)
}

func TestReadsSamplesAndMarks(t *testing.T) {
	got, info, err := Decode(file(0, 16384, -32768, 32767))
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []float32{0, 0.5, -1, 32767.0 / 32768} {
		if got.Channels[0][i] != want {
			t.Errorf("sample %d is %g, want %g", i, got.Channels[0][i], want)
		}
	}
	if got.Rate != 44100 || info.Bits != 16 || len(info.Cues) != 1 || info.Cues[0] != 2 {
		t.Errorf("%d Hz, %+v", got.Rate, info)
	}
}

// Cut anywhere, a file is refused in words or read as far as it is whole; it never ends the program.
func TestATruncatedFile(t *testing.T) {
	data := file(1, 2, 3, 4)
	for n := range len(data) - 1 {
		if _, _, err := Decode(data[:n]); !errors.Is(err, sound.ErrAudio) {
			t.Errorf("the first %d bytes of %d: %v", n, len(data), err)
		}
	}
	if v := extended([]byte{0x7f, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff}); !math.IsInf(v, 1) {
		t.Errorf("the largest is %g", v)
	}
}
