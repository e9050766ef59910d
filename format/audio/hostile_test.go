package audio

import (
	"errors"
	"os"
	"path/filepath"
	"runtime"
	"testing"

	"hexachord/core/sound"
	"hexachord/format/wav"
)

var usual = Limits{Seconds: 3600, Channels: 8}

// Files that were made or damaged so that they ended the program, or kept it busy: each is refused or read, takes little
// memory, and nothing else happens.
func TestHostileFilesAreRefusedOrRead(t *testing.T) {
	files, err := filepath.Glob("testdata/hostile/*")
	if err != nil || len(files) < 4 {
		t.Fatal(len(files), err)
	}
	for _, f := range files {
		data, err := os.ReadFile(f)
		if err != nil {
			t.Fatal(err)
		}
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		d, err := Decode(data, usual)
		runtime.ReadMemStats(&after)
		if err != nil && !errors.Is(err, sound.ErrAudio) {
			t.Errorf("%s: %v", f, err)
		}
		if took := after.TotalAlloc - before.TotalAlloc; took > 64<<20 {
			t.Errorf("%s: %d bytes allocate %d MB; %d frames, %v", f, len(data), took>>20, d.Frames(), err)
		}
	}
}

// A sound louder than any recording is damaged, and said to be; one 60 dB over full scale is only loud.
func TestASoundLouderThanAnyRecordingIsRefused(t *testing.T) {
	for peak, ok := range map[float32]bool{1e20: false, 1e3: true} {
		data, err := wav.Encode(sound.Buffer{Rate: 44100, Channels: [][]float32{{0, peak, 0}}}, wav.Float32)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := Decode(data, usual); (err == nil) != ok || err != nil && !errors.Is(err, sound.ErrAudio) {
			t.Errorf("a peak of %g: %v", peak, err)
		}
	}
}
