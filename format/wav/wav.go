// Package wav reads and writes RIFF/WAVE audio (IBM and Microsoft, "Multimedia Programming Interface
// and Data Specifications 1.0", 1991; WAVEFORMATEXTENSIBLE of 2001; EBU Tech 3306 for RF64 is not read).
package wav

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"

	"hexachord/core/sound"
)

// Faults a caller can tell apart; all wrap sound.ErrAudio.
var (
	ErrNotWAV    = fmt.Errorf("%w: it is not a WAV file", sound.ErrAudio)
	ErrTruncated = fmt.Errorf("%w: the WAV file ends too early", sound.ErrAudio)
	ErrCoding    = fmt.Errorf("%w: the WAV file uses a coding the bench cannot read", sound.ErrAudio)
)

// Coding is how samples are stored.
type Coding int

// Sample codings that can be written.
const (
	PCM16 Coding = iota
	PCM24
	Float32
)

const (
	tagPCM        = 1
	tagFloat      = 3
	tagExtensible = 0xFFFE
	maxChannels   = 64
	maxMarks      = 4096
)

// Info is what the header says of the samples as they are stored.
type Info struct {
	Bits  int
	Float bool
	sound.Marks
}

type format struct {
	Info
	channels, rate, blockAlign int
}

// Sniff reports whether data begins like a WAV file.
func Sniff(data []byte) bool {
	return len(data) >= 12 && string(data[:4]) == "RIFF" && string(data[8:12]) == "WAVE"
}

// Decode reads a whole WAV file: PCM of 8, 16, 24 or 32 bits, IEEE float of 32 or 64 bits, plain or
// extensible. A data chunk whose header promises more than the file holds is refused unless the size
// is one a streaming writer leaves (0 or 0xFFFFFFFF), which means "to the end of the file".
func Decode(data []byte) (sound.Buffer, Info, error) {
	fail := func(err error) (sound.Buffer, Info, error) { return sound.Buffer{}, Info{}, err }
	if !Sniff(data) {
		return fail(ErrNotWAV)
	}
	var f *format
	var samples []byte
	var marks sound.Marks
chunks:
	for at := 12; at+8 <= len(data); {
		id := string(data[at : at+4])
		size := int64(binary.LittleEndian.Uint32(data[at+4:]))
		body := data[at+8:]
		switch id {
		case "fmt ":
			if size < 16 || size > int64(len(body)) {
				return fail(fmt.Errorf("%w inside its format chunk", ErrTruncated))
			}
			parsed, err := parseFormat(body[:size])
			if err != nil {
				return fail(err)
			}
			f = &parsed
		case "data":
			if f == nil {
				return fail(fmt.Errorf("%w: the data comes before the format", ErrNotWAV))
			}
			if streamed := size == 0xFFFFFFFF || size == 0; streamed {
				size = int64(len(body))
			}
			if size > int64(len(body)) {
				return fail(fmt.Errorf("%w: its header promises %d bytes of audio and %d are there", ErrTruncated, size, len(body)))
			}
			if samples == nil {
				samples = body[:size]
			}
		case "cue ", "smpl":
			if size <= int64(len(body)) { // what marks a damaged chunk holds is not worth refusing the audio for
				readMarks(id, body[:size], &marks)
			}
		}
		next := int64(at) + 8 + size + size&1
		if next > int64(len(data)) {
			break chunks
		}
		at = int(next)
	}
	if samples == nil {
		return fail(fmt.Errorf("%w: it holds no audio data", ErrTruncated))
	}
	b, info, err := decodeSamples(samples, *f)
	info.Marks = marks.Within(b.Frames())
	return b, info, err
}

// readMarks reads the cue points of a cue chunk, or the loops of a sampler chunk (a loop's last frame is stored,
// not the frame after it).
func readMarks(id string, body []byte, m *sound.Marks) {
	le := binary.LittleEndian
	const cueSize, smplHead, loopSize = 24, 36, 24
	switch {
	case id == "cue " && len(body) >= 4:
		for b := body[4:]; len(b) >= cueSize && len(m.Cues) < maxMarks; b = b[cueSize:] {
			m.Cues = append(m.Cues, int(le.Uint32(b[20:])))
		}
	case id == "smpl" && len(body) >= smplHead:
		for b := body[smplHead:]; len(b) >= loopSize && len(m.Loops) < maxMarks; b = b[loopSize:] {
			m.Loops = append(m.Loops, sound.Loop{StartFrame: int(le.Uint32(b[8:])), EndFrame: int(le.Uint32(b[12:])) + 1})
		}
	}
}

func parseFormat(b []byte) (format, error) {
	tag := int(binary.LittleEndian.Uint16(b))
	f := format{
		channels:   int(binary.LittleEndian.Uint16(b[2:])),
		rate:       int(binary.LittleEndian.Uint32(b[4:])),
		blockAlign: int(binary.LittleEndian.Uint16(b[12:])),
		Info:       Info{Bits: int(binary.LittleEndian.Uint16(b[14:]))},
	}
	if tag == tagExtensible {
		if len(b) < 40 {
			return f, fmt.Errorf("%w: its extensible format chunk is too short", ErrTruncated)
		}
		tag = int(binary.LittleEndian.Uint16(b[24:]))
	}
	f.Float = tag == tagFloat
	okBits := f.Float && (f.Bits == 32 || f.Bits == 64) ||
		tag == tagPCM && (f.Bits == 8 || f.Bits == 16 || f.Bits == 24 || f.Bits == 32)
	switch {
	case !okBits:
		return f, fmt.Errorf("%w (format %d, %d bits); save it as PCM or float", ErrCoding, tag, f.Bits)
	case f.channels < 1 || f.channels > maxChannels:
		return f, fmt.Errorf("%w: %d channels", ErrCoding, f.channels)
	case f.rate < sound.MinRate || f.rate > sound.MaxRate:
		return f, fmt.Errorf("%w: %d frames a second", ErrCoding, f.rate)
	case f.blockAlign != f.channels*f.Bits/8:
		return f, fmt.Errorf("%w: its block size does not fit its channels and bits", ErrCoding)
	}
	return f, nil
}

func decodeSamples(body []byte, f format) (sound.Buffer, Info, error) {
	frames := len(body) / f.blockAlign
	out := sound.New(f.rate, f.channels, frames)
	width := f.Bits / 8
	read := sampleReader(f)
	for c, ch := range out.Channels {
		for i := range ch {
			ch[i] = read(body[i*f.blockAlign+c*width:])
		}
	}
	return out, f.Info, nil
}

func sampleReader(f format) func([]byte) float32 {
	le := binary.LittleEndian
	switch {
	case f.Float && f.Bits == 32:
		return func(b []byte) float32 { return math.Float32frombits(le.Uint32(b)) }
	case f.Float:
		return func(b []byte) float32 { return float32(math.Float64frombits(le.Uint64(b))) }
	case f.Bits == 8: // unsigned
		return func(b []byte) float32 { return (float32(b[0]) - 128) / 128 }
	case f.Bits == 16:
		return func(b []byte) float32 { return float32(int16(le.Uint16(b))) / (1 << 15) }
	case f.Bits == 24:
		return func(b []byte) float32 {
			return float32(int32(uint32(b[0])<<8|uint32(b[1])<<16|uint32(b[2])<<24)>>8) / (1 << 23)
		}
	default:
		return func(b []byte) float32 { return float32(float64(int32(le.Uint32(b))) / (1 << 31)) }
	}
}

// ErrTooLong is returned for audio that a WAV file's 32-bit sizes cannot hold.
var ErrTooLong = errors.New("too long for one WAV file (4 GB at most); bounce fewer passes")

// Encode writes a whole WAV file.
func Encode(b sound.Buffer, c Coding) ([]byte, error) { return EncodeMarked(b, c, sound.Marks{}) }

// EncodeMarked is Encode with cue points and sample loops.
func EncodeMarked(b sound.Buffer, c Coding, m sound.Marks) ([]byte, error) {
	var out bytes.Buffer
	w, err := NewWriter(&out, b.Rate, len(b.Channels), b.Frames(), c, m)
	if err != nil {
		return nil, err
	}
	out.Grow(int(w.Size))
	if err := errors.Join(w.Write(b), w.Close()); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// Writer writes a WAV file block by block.
type Writer struct {
	Size     int64 // of the whole file, bytes
	out      io.Writer
	coding   Coding
	channels int
	left     int // frames to come
	tail     []byte
	head     []byte
	block    []byte
}

// NewWriter begins a file of a known length; ErrTooLong when the format cannot hold it.
func NewWriter(out io.Writer, rate, channels, frames int, c Coding, m sound.Marks) (*Writer, error) {
	bits := map[Coding]int{PCM16: 16, PCM24: 24, Float32: 32}[c]
	block := channels * bits / 8
	dataSize := int64(frames) * int64(block)
	if dataSize > math.MaxUint32-1<<20 {
		return nil, ErrTooLong
	}
	le := binary.LittleEndian
	w := &Writer{out: out, coding: c, channels: channels, left: frames}
	var at *[]byte
	words := func(values ...int) {
		for _, v := range values {
			*at = le.AppendUint32(*at, uint32(v))
		}
	}
	chunk := func(id string, size int) {
		*at = append(*at, id...)
		words(size)
	}
	at = &w.tail
	if dataSize&1 == 1 {
		w.tail = append(w.tail, 0)
	}
	if len(m.Cues) > 0 {
		chunk("cue ", 4+24*len(m.Cues))
		words(len(m.Cues))
		for i, frame := range m.Cues {
			words(i+1, frame)
			w.tail = append(w.tail, "data"...)
			words(0, 0, frame)
		}
	}
	if len(m.Names) > 0 { // names of cues: labels of an associated data list
		var labels []byte
		for i, name := range m.Names {
			text := append([]byte(name), 0)
			labels = append(labels, "labl"...)
			labels = le.AppendUint32(labels, uint32(4+len(text)))
			labels = le.AppendUint32(labels, uint32(i+1))
			labels = append(labels, text...)
			if len(text)&1 == 1 {
				labels = append(labels, 0)
			}
		}
		chunk("LIST", 4+len(labels))
		w.tail = append(append(w.tail, "adtl"...), labels...)
	}
	if m.Text != "" {
		text := append([]byte(m.Text), 0)
		if len(text)&1 == 1 {
			text = append(text, 0)
		}
		chunk("LIST", 12+len(text))
		w.tail = append(w.tail, "INFOICMT"...)
		words(len(text))
		w.tail = append(w.tail, text...)
	}
	if len(m.Loops) > 0 {
		chunk("smpl", 36+24*len(m.Loops))
		words(0, 0, 1_000_000_000/rate, 60, 0, 0, 0, len(m.Loops), 0)
		for i, l := range m.Loops {
			words(i, 0, l.StartFrame, l.EndFrame-1, 0, 0)
		}
	}
	at = &w.head
	fmtSize, tag := 16, uint16(tagPCM)
	if c == Float32 {
		fmtSize, tag = 18, tagFloat
	}
	chunk("RIFF", 0)
	w.head = append(w.head, "WAVE"...)
	chunk("fmt ", fmtSize)
	w.head = le.AppendUint16(w.head, tag)
	w.head = le.AppendUint16(w.head, uint16(channels))
	words(rate, rate*block)
	w.head = le.AppendUint16(w.head, uint16(block))
	w.head = le.AppendUint16(w.head, uint16(bits))
	if c == Float32 {
		w.head = le.AppendUint16(w.head, 0)
		chunk("fact", 4)
		words(frames)
	}
	chunk("data", int(dataSize))
	w.Size = int64(len(w.head)) + dataSize + int64(len(w.tail))
	le.PutUint32(w.head[4:], uint32(w.Size-8))
	return w, nil
}

// Write writes the next frames.
func (w *Writer) Write(b sound.Buffer) error {
	if len(b.Channels) != w.channels || b.Frames() > w.left {
		return fmt.Errorf("wav: %d frames of %d channels do not fit; %d frames of %d were announced", b.Frames(), len(b.Channels), w.left, w.channels)
	}
	w.left -= b.Frames()
	le := binary.LittleEndian
	out := append(w.block[:0], w.head...)
	w.head = nil
	for i := range b.Frames() {
		for _, ch := range b.Channels {
			switch w.coding {
			case PCM16:
				out = le.AppendUint16(out, uint16(int16(toInt(ch[i], full16))))
			case PCM24:
				v := uint32(toInt(ch[i], full24))
				out = append(out, byte(v), byte(v>>8), byte(v>>16))
			default:
				out = le.AppendUint32(out, math.Float32bits(ch[i]))
			}
		}
	}
	w.block = out
	_, err := w.out.Write(out)
	return err
}

// Close ends the file; an error when frames are missing.
func (w *Writer) Close() error {
	if w.left > 0 {
		return fmt.Errorf("wav: %d frames that were announced did not come", w.left)
	}
	_, err := w.out.Write(append(w.head, w.tail...))
	return err
}

// full scale of 16 and 24 bits
const (
	full16 = 1 << 15
	full24 = 1 << 23
)

func toInt(v float32, full float64) int32 {
	return int32(math.Round(min(full-1, max(-full, float64(v)*full))))
}
