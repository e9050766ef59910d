package audio

import (
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"testing"

	"github.com/mewkiz/flac"
	"github.com/mewkiz/flac/frame"
	"github.com/mewkiz/flac/meta"

	"hexachord/core/sound"
	"hexachord/format/wav"
)

// seeds are small files of each format, and the hostile ones.
func seeds(f *testing.F) {
	files, err := filepath.Glob("testdata/hostile/*")
	if err != nil {
		f.Fatal(err)
	}
	for _, name := range files {
		data, err := os.ReadFile(name)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(data)
	}
	small := sound.Buffer{Rate: 8000, Channels: [][]float32{{0, 0.5, -0.5, 0, 0.25, 0}, {0, 0.25, -0.5, 0, 0.1, 0}}}
	for _, c := range []wav.Coding{wav.PCM16, wav.PCM24, wav.Float32} {
		data, err := wav.EncodeMarked(small, c, sound.Marks{Cues: []int{1}, Loops: []sound.Loop{{StartFrame: 1, EndFrame: 3}}})
		if err != nil {
			f.Fatal(err)
		}
		f.Add(data)
	}
	f.Add([]byte("FORM\x00\x00\x00\x36AIFFCOMM\x00\x00\x00\x12\x00\x01\x00\x00\x00\x02\x00\x10\x40\x0e\xac\x44\x00\x00\x00\x00\x00\x00SSND\x00\x00\x00\x0c\x00\x00\x00\x00\x00\x00\x00\x00\x00\x01\x7f\xff"))
	f.Add([]byte("FORM\x00\x00\x00\x3cAIFCCOMM\x00\x00\x00\x18\x00\x01\x00\x00\x00\x01\x00\x20\x40\x0e\xac\x44\x00\x00\x00\x00\x00\x00fl32\x00\x00SSND\x00\x00\x00\x0c\x00\x00\x00\x00\x00\x00\x00\x00\x3f\x00\x00\x00"))
	f.Add(smallFLAC(f))
}

// smallFLAC is a file of 16 frames, written by the library.
func smallFLAC(f *testing.F) []byte {
	var out bytes.Buffer
	info := &meta.StreamInfo{BlockSizeMin: 16, BlockSizeMax: 16, SampleRate: 8000, NChannels: 1, BitsPerSample: 16, NSamples: 16}
	enc, err := flac.NewEncoder(&out, info)
	if err != nil {
		f.Fatal(err)
	}
	samples := make([]int32, 16)
	for i := range samples {
		samples[i] = int32(i * 1000)
	}
	fr := &frame.Frame{Header: frame.Header{BlockSize: 16, SampleRate: 8000, Channels: frame.ChannelsMono, BitsPerSample: 16},
		Subframes: []*frame.Subframe{{SubHeader: frame.SubHeader{Pred: frame.PredVerbatim}, Samples: samples, NSamples: 16}}}
	if err := errors.Join(enc.WriteFrame(fr), enc.Close()); err != nil {
		f.Fatal(err)
	}
	return out.Bytes()
}

// FuzzDecode: whatever the bytes, a file is refused with ErrAudio or gives finite audio within the limits.
func FuzzDecode(f *testing.F) {
	seeds(f)
	limits := Limits{Seconds: 60, Channels: 2}
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := Decode(data, limits)
		if err != nil {
			if !errors.Is(err, sound.ErrAudio) {
				t.Fatalf("a fault that does not say what it is: %v", err)
			}
			return
		}
		if d.Frames() == 0 || len(d.Channels) > limits.Channels || d.Seconds() > limits.Seconds || !(d.Peak() <= maxPeak) {
			t.Fatalf("%d frames of %d channels at %d Hz, peak %g", d.Frames(), len(d.Channels), d.Rate, d.Peak())
		}
	})
}
