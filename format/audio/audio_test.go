package audio

import (
	"encoding/binary"
	"errors"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hexachord/core/sound"
	"hexachord/format/wav"
	"hexachord/internal/sox"
)

var limits = Limits{Seconds: 3600, Channels: 8}

// Every coding decodes as sox decodes it, sample by sample.
func TestDecodersAgreeWithSox(t *testing.T) {
	dir := t.TempDir()
	for name, args := range map[string][]string{
		"u8.wav":          {"-b", "8", "-e", "unsigned-integer"},
		"s16.wav":         {"-b", "16"},
		"s24.wav":         {"-b", "24"}, // sox writes it extensible
		"s32.wav":         {"-b", "32", "-e", "signed-integer"},
		"f32.wav":         {"-b", "32", "-e", "floating-point"},
		"f64.wav":         {"-b", "64", "-e", "floating-point"},
		"s16-192k.wav":    {"-b", "16", "-r", "192000"},
		"s16-8k.wav":      {"-b", "16", "-r", "8000"},
		"five.wav":        {"-b", "24", "-c", "5"},
		"s8.aiff":         {"-b", "8"},
		"s16.aiff":        {"-b", "16", "-c", "2"},
		"s24.aiff":        {"-b", "24"},
		"s32.aiff":        {"-b", "32"},
		"s16.aifc":        {"-b", "16"},
		"s16.flac":        {"-b", "16"},
		"s24-stereo.flac": {"-b", "24", "-c", "2"},
	} {
		path := filepath.Join(dir, name)
		args = append(append([]string{"-R", "-n"}, args...), path, "synth", "0.3", "sine", "300-3000", "gain", "-3")
		sox.Make(t, args...)
		data, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		got, err := Decode(data, limits)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		want, rate, channels := sox.Decode(t, path)
		if got.Rate != rate || len(got.Channels) != channels || got.Frames()*channels != len(want) {
			t.Errorf("%s: %d Hz, %d channels, %d frames; sox says %d, %d, %d", name, got.Rate, len(got.Channels), got.Frames(), rate, channels, len(want)/channels)
			continue
		}
		for i, w := range want {
			if g := float64(got.Channels[i%channels][i/channels]); math.Abs(g-w) > 1.0/(1<<24) {
				t.Errorf("%s: sample %d is %g, sox says %g", name, i, g, w)
				break
			}
		}
	}
}

// What is written here, sox reads: header and samples.
func TestWrittenWAVIsReadBySox(t *testing.T) {
	b := sound.New(48000, 2, 1000)
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(math.Sin(float64(i) / 9))
		b.Channels[1][i] = float32(i)/500 - 1
	}
	for coding, want := range map[wav.Coding]struct {
		bits, encoding string
		step           float64
	}{
		wav.PCM16:   {"16", "Signed Integer PCM", 1.0 / (1 << 15)},
		wav.PCM24:   {"24", "Signed Integer PCM", 1.0 / (1 << 23)},
		wav.Float32: {"25", "Floating Point PCM", 1e-9}, // soxi tells a float's precision, 25 bits
	} {
		data, err := wav.Encode(b, coding)
		if err != nil {
			t.Fatal(err)
		}
		path := filepath.Join(t.TempDir(), "out.wav")
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
		if got := sox.Info(t, "-p", path); got != want.bits {
			t.Errorf("precision %s, want %s", got, want.bits)
		}
		if got := sox.Info(t, "-e", path); got != want.encoding {
			t.Errorf("encoding %q, want %q", got, want.encoding)
		}
		samples, rate, channels := sox.Decode(t, path)
		if rate != 48000 || channels != 2 || len(samples) != 2000 {
			t.Fatalf("%d Hz, %d channels, %d samples", rate, channels, len(samples))
		}
		for i, s := range samples {
			if d := math.Abs(s - float64(b.Channels[i%2][i/2])); d > want.step {
				t.Fatalf("bits %s: sample %d is off by %g", want.bits, i, d)
			}
		}
	}
}

func wavFile(t *testing.T, rate, channels, frames int) []byte {
	t.Helper()
	b := sound.New(rate, channels, frames)
	for i := range frames {
		b.Channels[0][i] = float32(i%100) / 100
	}
	data, err := wav.Encode(b, wav.PCM16)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

// Each unusable file is refused with a sentence that says what is wrong with it.
func TestUnusableFilesAreRefusedInWords(t *testing.T) {
	claims4GB := wavFile(t, 44100, 1, 1000)
	binary.LittleEndian.PutUint32(claims4GB[40:], 0xFFFFFFF0)
	noRate := wavFile(t, 44100, 1, 10)
	binary.LittleEndian.PutUint32(noRate[24:], 0)
	threeHours := wavFile(t, 1000, 1, 3*3600*1000)
	for name, c := range map[string]struct {
		data []byte
		say  string
	}{
		"empty":         {nil, "empty"},
		"ogg":           {[]byte("OggS\x00\x02, and so on"), "drop it on the bench's window"},
		"text":          {[]byte("a shopping list, renamed .wav\n"), "not a WAV, AIFF, FLAC or MP3"},
		"truncated":     {wavFile(t, 44100, 2, 1000)[:2000], "ends too early"},
		"only a header": {wavFile(t, 44100, 1, 10)[:44], "ends too early"},
		"claims 4 GB":   {claims4GB, "ends too early"},
		"no rate":       {noRate, "frames a second"},
		"nine channels": {wavFile(t, 44100, 9, 100), "mix it down"},
		"three hours":   {threeHours, "too long"},
		"cut FLAC":      {[]byte("fLaC\x00\x00\x00\x22rest"), "FLAC"},
		"cut MP3":       {[]byte("ID3\x03\x00\x00\x00\x00\x00\x00"), "MP3"},
	} {
		_, err := Decode(c.data, limits)
		if !errors.Is(err, sound.ErrAudio) || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %v; want words with %q", name, err, c.say)
		}
	}
}

func TestEightChannelsAndNaNSamplesAreUsable(t *testing.T) {
	if d, err := Decode(wavFile(t, 44100, 8, 100), limits); err != nil || len(d.Channels) != 8 {
		t.Errorf("eight channels: %v", err)
	}
	b := sound.New(44100, 1, 100)
	b.Channels[0][5] = float32(math.NaN())
	data, err := wav.Encode(b, wav.Float32)
	if err != nil {
		t.Fatal(err)
	}
	if d, err := Decode(data, limits); err != nil || d.Bad != 1 || d.Channels[0][5] != 0 {
		t.Errorf("NaN: %d bad, %v", d.Bad, err)
	}
}
