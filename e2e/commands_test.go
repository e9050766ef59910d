package e2e

import (
	"encoding/binary"
	"encoding/json"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"hexachord/core/music"
	"hexachord/core/sound"
	"hexachord/demo"
	"hexachord/format/audio"
	"hexachord/format/smf"
	"hexachord/format/wav"
)

func itoa(n int) string     { return strconv.Itoa(n) }
func ftoa(f float64) string { return strconv.FormatFloat(f, 'f', -1, 64) }

func mustJSON(t *testing.T, v any) []byte {
	t.Helper()
	text, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return text
}

func run(t *testing.T, args ...string) (out string, ok bool) {
	t.Helper()
	text, err := exec.Command(bin(t), args...).CombinedOutput()
	return string(text), err == nil
}

func write(t *testing.T, name string, data []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, data, 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

func TestConvertAndRender(t *testing.T) {
	rec, truth, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	in := write(t, rec.Name, rec.Data)
	dir := t.TempDir()
	mid, js, out := filepath.Join(dir, "x.mid"), filepath.Join(dir, "x.json"), filepath.Join(dir, "x.wav")
	said, ok := run(t, "convert", in, "--out", mid, "--json", js)
	if !ok || !strings.Contains(said, "4 bars") || !strings.Contains(said, "36 · Bass Drum 1") || !strings.Contains(said, "doubtful") {
		t.Fatalf("convert: %s", said)
	}
	data, err := os.ReadFile(mid)
	if err != nil {
		t.Fatal(err)
	}
	f, err := smf.Decode(data)
	if err != nil {
		t.Fatal(err)
	}
	text, err := os.ReadFile(js)
	if err != nil {
		t.Fatal(err)
	}
	var heard struct {
		BPM  float64
		Hits []struct {
			Time           float64
			Note, Velocity int
		}
	}
	if err := json.Unmarshal(text, &heard); err != nil {
		t.Fatal(err)
	}
	// tick 0 is the file's first sample, the first tempo the one heard, times kept to the millisecond
	if math.Abs(f.Tempi[0].BPM-heard.BPM) > 0.001 {
		t.Errorf("tempo %g in MIDI, %g heard", f.Tempi[0].BPM, heard.BPM)
	}
	times := map[int][]float64{}
	for _, track := range f.Tracks {
		for _, n := range track.Notes {
			if n.Channel != 10 {
				t.Fatalf("a note on channel %d", n.Channel)
			}
			times[n.Key] = append(times[n.Key], float64(n.Tick)*60/f.Tempi[0].BPM/float64(f.PPQ))
		}
	}
	for _, h := range heard.Hits {
		found := false
		for _, at := range times[h.Note] {
			found = found || math.Abs(at-h.Time) < 0.001
		}
		if !found {
			t.Errorf("the hit on %d at %.4f s is not in the MIDI file to the millisecond", h.Note, h.Time)
		}
	}
	if d := len(heard.Hits) - len(truth); d < -6 || d > 6 {
		t.Errorf("%d hits heard, %d played", len(heard.Hits), len(truth))
	}
	if said, ok = run(t, "convert", in, "--out", mid, "--bpm", "93.7", "--quantise", "1/16", "--strength", "100"); !ok {
		t.Fatal(said)
	}
	if data, err = os.ReadFile(mid); err != nil {
		t.Fatal(err)
	}
	if f, err = smf.Decode(data); err != nil {
		t.Fatal(err)
	}
	phase := f.Tracks[1].Notes[0].Tick % 240
	for _, track := range f.Tracks {
		for _, n := range track.Notes {
			if n.Tick%240 != phase {
				t.Errorf("quantised to 1/16, a note is at tick %d", n.Tick)
			}
		}
	}
	if said, ok = run(t, "render", "--midi", mid, "--kit", "demo", "--out", out, "--rate", "48000", "--bits", "32"); !ok {
		t.Fatal(said)
	}
	if data, err = os.ReadFile(out); err != nil {
		t.Fatal(err)
	}
	if a, info, err := wav.Decode(data); err != nil || a.Rate != 48000 || !info.Float || a.Seconds() < 10 || a.Peak() < 0.1 {
		t.Errorf("render: %v", err)
	}
}

func float32WAV(t *testing.T, rate, channels, frames int, at func(i int) float32) []byte {
	t.Helper()
	b := sound.New(rate, channels, frames)
	for _, ch := range b.Channels {
		for i := range ch {
			ch[i] = at(i)
		}
	}
	data, err := wav.Encode(b, wav.Float32)
	if err != nil {
		t.Fatal(err)
	}
	return data
}

// Every unusable input ends in one clear line and an exit code that is not 0.
func TestUnusableInputIsOneClearLine(t *testing.T) {
	silent := func(int) float32 { return 0 }
	good := float32WAV(t, 44100, 1, 44100, func(i int) float32 { return float32(math.Exp(-float64(i%11025)/900) * math.Sin(float64(i)/20)) })
	huge := append([]byte(nil), good...)
	binary.LittleEndian.PutUint32(huge[54:], 0xFFFFFFF0)
	for name, c := range map[string]struct {
		data []byte
		say  string
	}{
		"empty.wav":     {nil, "empty"},
		"text.wav":      {[]byte("not audio at all"), "not a WAV"},
		"truncated.wav": {good[:len(good)/2], "ends too early"},
		"claims.wav":    {huge, "ends too early"},
		"silence.wav":   {float32WAV(t, 44100, 1, 44100, silent), "silent"},
		"short.wav":     {good[:58+4*441], "ends too early"},
		"tenms.wav":     {float32WAV(t, 44100, 1, 441, func(int) float32 { return 0.5 }), "too short"},
		"nan.wav":       {float32WAV(t, 44100, 1, 44100, func(int) float32 { return float32(math.NaN()) }), "silent"},
	} {
		out := filepath.Join(t.TempDir(), "out.mid")
		said, ok := run(t, "convert", write(t, name, c.data), "--out", out)
		if ok || strings.Count(said, "\n") != 1 || !strings.Contains(said, c.say) || !strings.Contains(said, name) {
			t.Errorf("%s: ok %v, said %q; want one line with %q", name, ok, said, c.say)
		}
		if _, err := os.Stat(out); err == nil {
			t.Errorf("%s: a MIDI file was written all the same", name)
		}
	}
	eight := write(t, "eight.wav", float32WAV(t, 44100, 8, 44100, func(i int) float32 { return float32(math.Exp(-float64(i%11025)/900) * math.Sin(float64(i)/20)) }))
	if said, ok := run(t, "convert", eight, "--out", filepath.Join(t.TempDir(), "out.mid")); !ok {
		t.Errorf("eight channels: %s", said)
	}
	for _, args := range [][]string{
		{"convert", eight, "--out", "/x.mid", "--quantise", "1/7"},
		{"convert", eight, "--out", "/x.mid", "--bpm", "5"},
		{"convert", eight, "--out", "/x.mid", "--band", "30:150"},
		{"convert", eight, "--out", "/x.mid", "--strength", "50"},
		{"convert", eight, "--out", "/x.mid", "--meter", "7/9"},
		{"convert", eight, "--out", "/x.mid", "--only", "kick", "--gap", "soon"},
		{"convert", "nowhere.wav", "--out", "/x.mid"},
		{"render", "--midi", write(t, "x.mid", []byte("MThd")), "--out", "/x.wav"},
		{"render", "--midi", eight, "--kit", "unknown", "--out", "/x.wav"},
	} {
		if said, ok := run(t, args...); ok || strings.Count(said, "\n") != 1 {
			t.Errorf("%v: ok %v, %q", args, ok, said)
		}
	}
}

func TestATakenPortIsSaid(t *testing.T) {
	b := start(t, t.TempDir())
	address := strings.TrimSuffix(strings.TrimPrefix(b.address, "http://"), "/")
	said, ok := run(t, "serve", "--addr", address, "--data", t.TempDir())
	if ok || !strings.Contains(said, "already taken") || !strings.Contains(said, "--addr") {
		t.Errorf("ok %v, said %q", ok, said)
	}
	b.stop()
}

// A MIDI file of a hundred bars is rendered whole, and the kit that ships answers to its name.
func TestRenderIsWhole(t *testing.T) {
	f := smf.File{PPQ: 480, Meter: music.CommonTime, Tempi: []smf.TempoChange{{BPM: 240}}, Tracks: []smf.Track{{}}}
	for i := range 100 {
		f.Tracks[0].Notes = append(f.Tracks[0].Notes, smf.Note{Tick: i * 4 * 480, Length: 100, Key: 36, Velocity: 100, Channel: 10})
	}
	mid, out := write(t, "long.mid", smf.Encode(f)), filepath.Join(t.TempDir(), "long.wav")
	said, ok := run(t, "render", "--midi", mid, "--kit", "Boathouse", "--out", out)
	if !ok || !strings.Contains(said, "100 hits") {
		t.Fatalf("%s", said)
	}
	data, err := os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	d, err := audio.Decode(data, audio.Limits{Seconds: 600, Channels: 2})
	if err != nil || d.Seconds() < 100 {
		t.Fatalf("%.1f s, %v: a hundred bars at 240 BPM take 100 s", d.Seconds(), err)
	}
	if last := d.Region(99*d.Rate, 100*d.Rate).Peak(); last < 0.1 {
		t.Errorf("the last bar peaks at %.3f", last)
	}
	if said, ok := run(t, "kit", "export", "boathouse", "--out", filepath.Join(t.TempDir(), "b.zip"), "--data", t.TempDir()); !ok {
		t.Errorf("the kit Boathouse by its name: %s", said)
	}
}
