package mp3

import (
	"errors"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"hexachord/core/sound"
	"hexachord/format/wav"
)

// What the LAME encoder puts before and after the sound is taken off again: a click stays on its frame, and the length
// is the original's (LAME tag; the frame may be one off where the decoder's own delay differs).
func TestEncoderDelayIsTrimmed(t *testing.T) {
	in := sound.New(44100, 2, 30000)
	for i := range 400 {
		v := float32(0.8 * math.Exp(-float64(i)/60) * math.Cos(float64(i)/3))
		in.Channels[0][12000+i], in.Channels[1][12000+i] = v, v
	}
	data, err := wav.Encode(in, wav.PCM16)
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	from, to := filepath.Join(dir, "in.wav"), filepath.Join(dir, "out.mp3")
	if err := os.WriteFile(from, data, 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("lame", "--quiet", "-b", "320", from, to).CombinedOutput(); err != nil {
		t.Fatalf("lame: %v %s (make test installs it)", err, out)
	}
	if data, err = os.ReadFile(to); err != nil {
		t.Fatal(err)
	}
	if !Sniff(data) {
		t.Error("the file is not recognised")
	}
	out, err := Decode(data, 10)
	if err != nil {
		t.Fatal(err)
	}
	if d := out.Frames() - in.Frames(); d < -1 || d > 1 {
		t.Errorf("%d frames, want %d", out.Frames(), in.Frames())
	}
	best, bestSum := 0, 0.0
	for lag := -1200; lag <= 1200; lag++ {
		sum := 0.0
		for i := 12000; i < 12400; i++ {
			sum += float64(in.Channels[0][i]) * float64(out.Channels[0][i+lag])
		}
		if sum > bestSum {
			best, bestSum = lag, sum
		}
	}
	if best < -1 || best > 1 {
		t.Errorf("the click is %d frames off its place", best)
	}
	if _, err := Decode(data, 0.1); !errors.Is(err, sound.ErrTooLong) {
		t.Errorf("a file longer than allowed: %v", err)
	}
}
