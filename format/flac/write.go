package flac

import (
	"fmt"
	"io"
	"math"

	"github.com/mewkiz/flac"
	"github.com/mewkiz/flac/frame"
	"github.com/mewkiz/flac/meta"

	"hexachord/core/sound"
)

// blockFrames is how many frames a block of the file has; the last may be shorter.
const blockFrames = 4096

// Writer writes a FLAC file block by block. What it writes to is closed with it.
type Writer struct {
	enc     *flac.Encoder
	rate    int
	bits    int
	waiting [][]int32
	n       uint64
}

// NewWriter begins a file of 16 or 24 bits in one or two channels. Its head is completed at the end, so that out must be one that can seek.
func NewWriter(out io.WriteSeeker, rate, channels, bits int) (*Writer, error) {
	if bits != 16 && bits != 24 || channels < 1 || channels > 2 {
		return nil, fmt.Errorf("flac: %d bits in %d channels cannot be written; 16 or 24 bits can", bits, channels)
	}
	info := &meta.StreamInfo{BlockSizeMin: blockFrames, BlockSizeMax: blockFrames, SampleRate: uint32(rate), NChannels: uint8(channels), BitsPerSample: uint8(bits)}
	enc, err := flac.NewEncoder(out, info)
	if err != nil {
		return nil, err
	}
	return &Writer{enc: enc, rate: rate, bits: bits, waiting: make([][]int32, channels)}, nil
}

// Write writes the next frames; what is beyond full scale is cut to it.
func (w *Writer) Write(b sound.Buffer) error {
	if len(b.Channels) != len(w.waiting) {
		return fmt.Errorf("flac: %d channels do not fit %d", len(b.Channels), len(w.waiting))
	}
	full := math.Exp2(float64(w.bits - 1))
	for c, ch := range b.Channels {
		for _, v := range ch {
			w.waiting[c] = append(w.waiting[c], int32(math.Round(min(full-1, max(-full, float64(v)*full)))))
		}
	}
	for len(w.waiting[0]) >= blockFrames {
		if err := w.block(blockFrames); err != nil {
			return err
		}
	}
	return nil
}

func (w *Writer) block(n int) error {
	channels := frame.ChannelsMono
	if len(w.waiting) == 2 {
		channels = frame.ChannelsLR
	}
	f := &frame.Frame{Header: frame.Header{HasFixedBlockSize: true, BlockSize: uint16(n), SampleRate: uint32(w.rate), Channels: channels, BitsPerSample: uint8(w.bits), Num: w.n}}
	for c := range w.waiting {
		f.Subframes = append(f.Subframes, &frame.Subframe{SubHeader: frame.SubHeader{Pred: frame.PredVerbatim}, Samples: w.waiting[c][:n:n], NSamples: n})
		w.waiting[c] = w.waiting[c][n:]
	}
	w.n++
	return w.enc.WriteFrame(f)
}

// Close writes what is left and completes the head.
func (w *Writer) Close() error {
	if n := len(w.waiting[0]); n > 0 {
		if err := w.block(n); err != nil {
			return err
		}
	}
	return w.enc.Close()
}
