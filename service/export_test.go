package service

import (
	"archive/zip"
	"bytes"
	"context"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"hexachord/core/mix"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/sound"
	"hexachord/format/audio"
)

// made waits for an export, at most a minute.
func made(t testing.TB, b *Bench, id string, e Export) ExportState {
	t.Helper()
	s, err := b.StartExport(id, e)
	if err != nil {
		t.Fatal(err)
	}
	for range 6000 {
		if s, err = b.ExportState(s.ID); err != nil || s.Done || s.Error != "" {
			break
		}
		time.Sleep(10 * time.Millisecond)
	}
	if err != nil || s.Error != "" || !s.Done {
		t.Fatalf("exported: %+v, %v", s, err)
	}
	return s
}

func (s ExportState) decoded(t testing.TB, name string) sound.Buffer {
	t.Helper()
	data, err := os.ReadFile(filepath.Join(s.Folder, name))
	if err != nil {
		t.Fatal(err)
	}
	d, err := audio.Decode(data, Limits)
	if err != nil {
		t.Fatal(err)
	}
	return d.Buffer
}

func (s ExportState) of(what string) (out []ExportFile) {
	for _, f := range s.Files {
		if f.What == what {
			out = append(out, f)
		}
	}
	return out
}

func mixed(t testing.TB, b *Bench, p project.Project, e project.MixEdit) project.Project {
	t.Helper()
	return b.lay(t, p, project.Edit{Mix: &e})
}

// The lanes of a song add up to its dry mix within −120 dB, its outputs to the treated one; with kick and snare on outputs of their own and a
// room, twice over the same bytes come out, and the files say what they are.
func TestStemsAddUpToTheMix(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	p = mixed(t, b, p, project.MixEdit{Outputs: []mix.Output{project.NewMixOutput(), project.NewMixOutput()}, Label: "two outputs"})
	kick, snare := p.Mix.Outputs[0].ID, p.Mix.Outputs[1].ID
	send := -12.0
	p = mixed(t, b, p, project.MixEdit{Strips: map[string]*mix.Strip{":36": {Output: kick, GainDB: 2, LevelDB: -1}, ":38": {Output: snare, Room: &send, Pan: 0.2}, ":42": {LevelDB: -4, Pan: -0.3}}, Label: "strips"})
	add := func(s ExportState, what string) sound.Buffer {
		t.Helper()
		var sum sound.Buffer
		for i, f := range s.of(what) {
			x := s.decoded(t, f.Name)
			if i == 0 {
				sum = x
				continue
			}
			for c := range sum.Channels {
				for k, v := range x.Channels[c] {
					sum.Channels[c][k] += v
				}
			}
		}
		return sum
	}
	apart := func(a, b sound.Buffer) float64 {
		t.Helper()
		if a.Frames() != b.Frames() || a.Frames() == 0 {
			t.Fatalf("%d and %d frames", a.Frames(), b.Frames())
		}
		sum := 0.0
		for c := range a.Channels {
			for i, v := range a.Channels[c] {
				d := float64(v - b.Channels[c][i])
				sum += d * d
			}
		}
		return 10 * math.Log10(sum/float64(2*a.Frames())+1e-30)
	}
	e := Export{Of: "song", FromBar: 4, ToBar: 6, Mix: true, Outputs: true, Lanes: true, Rate: 44100, Bits: 32}
	yes, no := true, false
	p = mixed(t, b, p, project.MixEdit{Dry: &yes, Label: "dry"})
	dry := made(t, b, p.ID, e)
	if db := apart(add(dry, "lane"), dry.decoded(t, dry.of("mix")[0].Name)); db > -120 {
		t.Errorf("dry, the lanes add up to the mix within %.1f dB", db)
	}
	if n := len(dry.of("output")); n != 3 {
		t.Errorf("%d outputs are written", n)
	}
	p = mixed(t, b, p, project.MixEdit{Dry: &no, Label: "wet"})
	first, second := made(t, b, p.ID, e), made(t, b, p.ID, e)
	wet := first.decoded(t, first.of("mix")[0].Name)
	sum := 0.0
	for i, v := range dry.decoded(t, dry.of("mix")[0].Name).Channels[0] {
		sum += math.Abs(float64(v - wet.Channels[0][i]))
	}
	if sum < 1 {
		t.Error("the room is not heard")
	}
	for i, f := range first.Files {
		x, _ := os.ReadFile(filepath.Join(first.Folder, f.Name))
		y, _ := os.ReadFile(filepath.Join(second.Folder, second.Files[i].Name))
		if !bytes.Equal(x, y) || len(x) == 0 {
			t.Errorf("%s is not the same a second time", f.Name)
		}
	}
	i := slices.IndexFunc(first.Files, func(f ExportFile) bool { return f.What == "output" && slices.Equal(f.Of, []string{"KI"}) })
	if i < 0 || first.Files[i].Name != "Lock-Seven_out_Hull-thump_92.wav" {
		t.Errorf("the kick's output is not there, or not called so: %+v", first.Files)
	}
}

// What is written: 16 bits in FLAC decode to the same samples as in WAV; normalised, the mix has the peak or loudness asked for; a loop is as long
// as its bars; markers stand at the bars; MIDI, straight and by General MIDI; one zip holds all.
func TestWhatAnExportWrites(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	towpath := p.Patterns[0].ID
	e := Export{Of: "pattern", Pattern: towpath, Passes: 2, Mix: true, Rate: 48000, Bits: 16, Tail: string(play.TailLap), Markers: true}
	plain := made(t, b, p.ID, e)
	e.FLAC = true
	packed := made(t, b, p.ID, e)
	x, y := plain.decoded(t, plain.Files[0].Name), packed.decoded(t, packed.Files[0].Name)
	if want := int(math.Round(2 * 4 * 60 / 92.0 * 48000)); x.Frames() != want || y.Frames() != want {
		t.Errorf("%d and %d frames, not %d", x.Frames(), y.Frames(), want)
	}
	for c := range x.Channels {
		if !slices.Equal(x.Channels[c], y.Channels[c]) {
			t.Errorf("channel %d of the FLAC file is not that of the WAV file", c)
		}
	}
	wavFile, _ := os.ReadFile(filepath.Join(plain.Folder, plain.Files[0].Name))
	d, err := audio.Decode(wavFile, Limits)
	if err != nil || len(d.Marks.Cues) != 2 || d.Marks.Cues[1] != x.Frames()/2 || !bytes.Contains(wavFile, []byte("bar 2\x00")) || !bytes.Contains(wavFile, []byte("92 BPM")) {
		t.Errorf("marks %+v, %v", d.Marks, err)
	}
	if packed.Files[0].Size >= plain.Files[0].Size {
		t.Errorf("packed it has %d bytes, plain %d", packed.Files[0].Size, plain.Files[0].Size)
	}
	for level, to := range map[string]float64{"peak": -6, "loudness": -20} {
		s := made(t, b, p.ID, Export{Of: "pattern", Pattern: towpath, Passes: 2, Mix: true, Rate: 44100, Bits: 24, Level: level, LevelTo: to})
		got := s.Files[0].PeakDB
		if level == "loudness" {
			got = s.Files[0].Integrated
		}
		if math.Abs(got-to) > 0.02 {
			t.Errorf("to a %s of %g dB it has %g", level, to, got)
		}
	}
	mono := made(t, b, p.ID, Export{Of: "pattern", Pattern: towpath, Mix: true, Mono: true, Rate: 44100, Bits: 32})
	if x := mono.decoded(t, mono.Files[0].Name); len(x.Channels) != 1 || math.Abs(sound.DB(x.Peak())-mono.Files[0].PeakDB) > 1e-4 {
		t.Errorf("in mono: %d channels, a peak of %g dB told as %g", len(x.Channels), sound.DB(x.Peak()), mono.Files[0].PeakDB)
	}
	b.exports = append(b.exports, &exporting{state: ExportState{ID: "under way", Files: []ExportFile{{Name: "a.wav", Done: true}}}})
	if _, err := b.ExportedFile("under way", "a.wav"); err == nil {
		t.Error("a file was given out before its export was whole")
	}
	b.exports = b.exports[:len(b.exports)-1]
	all := made(t, b, p.ID, Export{Of: "song", MIDI: "files", GM: true, Straight: true, Bundle: true, Rate: 44100, Bits: 24, Names: "{number} {project} {what}/../{note}"})
	if n := len(all.of("midi")); n != 12 {
		t.Errorf("%d MIDI files", n)
	}
	for _, f := range all.Files {
		if strings.ContainsAny(f.Name, "/\\:") || !strings.HasPrefix(f.Name, "0") && !strings.HasPrefix(f.Name, "1") {
			t.Errorf("a file is called %q", f.Name)
		}
	}
	var packs bytes.Buffer
	if err := b.ZipExport(all.ID, &packs); err != nil || packs.Len() < int(all.Bytes) {
		t.Errorf("the zip has %d bytes of %d, %v", packs.Len(), all.Bytes, err)
	}
	if _, err := b.StopExport(all.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(all.Folder); !os.IsNotExist(err) {
		t.Error("taken out, its files are still there")
	}
	if _, err := b.ExportedFile(plain.ID, "../../hexachord.db"); err == nil {
		t.Error("a file outside of the export was found")
	}
	for words, bad := range map[string]Export{
		"nothing":          {Of: "song", Rate: 44100, Bits: 24},
		"float in FLAC":    {Of: "song", Mix: true, Rate: 44100, Bits: 32, FLAC: true},
		"20 bits":          {Of: "song", Mix: true, Rate: 44100, Bits: 20},
		"no such pattern":  {Of: "pattern", Pattern: "?", Mix: true, Rate: 44100, Bits: 24},
		"half of anything": {Of: "kit", Mix: true, Rate: 44100, Bits: 24},
	} {
		if _, err := b.StartExport(p.ID, bad); err == nil {
			t.Errorf("%s was exported", words)
		}
	}
}

// A bundle opens in a fresh data folder with nothing missing and bounces to the same bytes; a second time it changes nothing that is there; what
// is damaged is named and the rest opens.
func TestABundleOpensElsewhere(t *testing.T) {
	b := open(t, t.TempDir())
	p, _ := withBreak(t, b, demoProject(t, b))
	p = mixed(t, b, p, project.MixEdit{Strips: map[string]*mix.Strip{":36": {LevelDB: -3}}, Label: "kick"})
	bounced := func(b *Bench, id string) []byte {
		t.Helper()
		p, err := b.Load(id)
		if err != nil {
			t.Fatal(err)
		}
		bounce, err := b.BounceSong(p, 44100, 0, 2, play.TailCut)
		if err != nil {
			t.Fatal(err)
		}
		var out bytes.Buffer
		w, err := WriteWAV(&out, bounce, 24)
		if err != nil {
			t.Fatal(err)
		}
		if err := w.Run(context.Background()); err != nil {
			t.Fatal(err)
		}
		return out.Bytes()
	}
	state, err := b.State(p.ID)
	if err != nil {
		t.Fatal(err)
	}
	data, err := b.ProjectBundle(state)
	if err != nil {
		t.Fatal(err)
	}
	if again, _ := b.ProjectBundle(state); !bytes.Equal(data, again) {
		t.Error("bundled twice, it is not the same")
	}
	if name, said, err := CheckBundle(data); err != nil || name != p.Title() || len(said) > 0 {
		t.Errorf("checked: %q, %v, %v", name, said, err)
	}
	other := open(t, t.TempDir())
	id, said, err := other.ImportProject(context.Background(), data)
	if err != nil || len(said) > 0 {
		t.Fatalf("opened: %v, %v", said, err)
	}
	if !bytes.Equal(bounced(b, p.ID), bounced(other, id)) {
		t.Error("elsewhere it sounds otherwise")
	}
	twice, _, err := other.ImportProject(context.Background(), data)
	if err != nil || twice == id {
		t.Errorf("a second time it is %q (%v)", twice, err)
	}
	for words, spoil := range map[string]struct {
		find, put string
		opens     bool
		says      string
	}{
		"a document":      {`"kind": "groove"`, `"kind": "xxxxxx"`, true, ""},
		"the manifest":    {`"format": "hexachord project"`, `"format": "hexachord xxxxxxx"`, false, ""},
		"a block's value": {`"bars": 2,`, `"bars": 0,`, true, "a block is left out, it is damaged"},
		"a later version": {`"version": 1`, `"version": 9`, false, ""},
	} {
		text := rezip(t, data, func(name string, body []byte) []byte {
			if name == projectManifest {
				return bytes.Replace(body, []byte(spoil.find), []byte(spoil.put), 1)
			}
			return body
		})
		id, said, err := other.ImportProject(context.Background(), text)
		if (err == nil) != spoil.opens || spoil.says != "" && !strings.Contains(strings.Join(said, "\n"), spoil.says) {
			t.Errorf("%s spoilt: %q, %v, %v", words, id, said, err)
		}
	}
	changed := rezip(t, data, func(name string, body []byte) []byte {
		if strings.HasPrefix(name, "audio/deck-break") {
			return append(slices.Clone(body), 0)
		}
		return body
	})
	fresh := open(t, t.TempDir())
	if id, said, err := fresh.ImportProject(context.Background(), changed); err != nil || id == "" || len(said) != 2 || !strings.Contains(said[0], "audio/deck-break.wav is not the file that was bundled") {
		t.Errorf("a changed sound: %q, %v, %v", id, said, err)
	}
	for cut := len(data) - 1; cut > 0; cut -= len(data)/7 + 1 {
		if _, _, err := fresh.ImportProject(context.Background(), data[:cut]); err == nil {
			t.Errorf("cut to %d bytes it opened", cut)
		}
	}
}

// rezip packs a zip anew, its files changed.
func rezip(t testing.TB, data []byte, change func(name string, body []byte) []byte) []byte {
	t.Helper()
	in, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	for _, f := range in.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		body, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		x, err := w.Create(f.Name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := x.Write(change(f.Name, body)); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// A bundle of the first version, kept as it was written: it opens whole for ever, undoes what is done to it, and bounces as it did.
func TestBundlesOfBeforeOpen(t *testing.T) {
	data, err := os.ReadFile("testdata/project-bundle-1.zip")
	if err != nil {
		t.Fatal(err)
	}
	b := open(t, t.TempDir())
	id, said, err := b.ImportProject(context.Background(), data)
	if err != nil || len(said) > 0 {
		t.Fatalf("%v, %v", said, err)
	}
	p, err := b.Load(id)
	if err != nil || p.Title() != "Lock Seven" || len(p.Patterns) != 2 || p.SongEnd() != 24 || len(p.Kit.Pads) != 12 {
		t.Errorf("%q, %d patterns, %d bars, %d pads, %v", p.Title(), len(p.Patterns), p.SongEnd(), len(p.Kit.Pads), err)
	}
	bounce, err := b.BounceSong(p, 8000, 4, 6, play.TailCut)
	if err != nil || bounce.All().Peak() < 0.1 {
		t.Errorf("it does not sound: %v", err)
	}
}

// A folder that cannot be written to: the export ends with a sentence, and nothing of it is left.
func TestAnExportThatCannotBeWritten(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	dir := t.TempDir()
	e := Export{Of: "song", ToBar: 1, Mix: true, Lanes: true, Rate: 44100, Bits: 24}
	ctx, stop := context.WithCancel(context.Background())
	stop()
	if _, err := b.ExportTo(ctx, p.ID, e, dir); err == nil || err.Error() != "cancelled; nothing of it was kept" {
		t.Errorf("cancelled: %v", err)
	}
	if _, err := b.ExportTo(context.Background(), p.ID, e, filepath.Join(dir, "nowhere")); err == nil {
		t.Error("it was written nowhere")
	}
	// /dev/full is a disk that is full
	if _, err := os.Stat("/dev/full"); err == nil {
		names, err := b.PlanExport(p.ID, e)
		if err != nil {
			t.Fatal(err)
		}
		full := filepath.Join(dir, names.Files[1].Name)
		if err := os.Symlink("/dev/full", full); err != nil {
			t.Fatal(err)
		}
		_, err = b.ExportTo(context.Background(), p.ID, e, dir)
		if err == nil || !strings.Contains(err.Error(), "the disk is full: this export needs about") {
			t.Errorf("a full disk: %v", err)
		}
	}
	if left, _ := os.ReadDir(dir); len(left) != 0 {
		t.Errorf("%d files are left", len(left))
	}
}

// What the window compares by: Main's compressor raises what it hears by its make-up gain; without it, and without all, it is as loud as it was;
// each bar has a loudness, and silence has none.
func TestHowLoudAMixIs(t *testing.T) {
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	main := p.Mix.Main
	main.Compressor.On, main.Compressor.ThresholdDB, main.Compressor.MakeupDB = true, 0, 6
	p = mixed(t, b, p, project.MixEdit{Main: &main, Label: "louder"})
	loud := func(p project.Project) Measured {
		t.Helper()
		m, err := b.Measure(p, p.Patterns[0].ID)
		if err != nil {
			t.Fatal(err)
		}
		return m
	}
	with := loud(p)
	for _, without := range []string{"0", "all"} {
		c, err := b.CompareMix(p, p.Patterns[0].ID, without)
		if err != nil || math.Abs(c.MatchDB-6) > 0.05 || c.Mix.Main.Compressor.On {
			t.Errorf("without %s it is raised by %.2f dB, not 6 (%v)", without, c.MatchDB, err)
		}
		off := p
		off.Mix = c.Mix
		if d := with.Whole.Integrated - loud(off).Whole.Integrated; math.Abs(d) > 0.05 {
			t.Errorf("without %s it is %.2f dB off", without, d)
		}
	}
	if p.Mix.Main.Compressor.On != true || len(with.Bars) != 1 || math.Abs(with.Bars[0]-with.Whole.Integrated) > 3 || len(with.Outputs) != 1 {
		t.Errorf("measured: %+v", with)
	}
	song, err := b.Measure(p, "")
	if err != nil || len(song.Bars) != 24 || song.Bars[0] >= song.Bars[11] {
		t.Errorf("of the song: %d bars, the first %g, the twelfth %g, %v", len(song.Bars), song.Bars[0], song.Bars[11], err)
	}
	dry := p
	dry.Mix.Dry = true
	if _, err := b.CompareMix(dry, "", "all"); err == nil {
		t.Error("what is dry was compared")
	}
	if _, err := b.CompareMix(p, "", "7"); err == nil {
		t.Error("an output that is not there was compared")
	}
	if _, err := b.Measure(p, "?"); err == nil {
		t.Error("a pattern that is not there was measured")
	}
}

// What was cut off while it was written is gone at the next start; what was made stays.
func TestACutOffExportIsSwept(t *testing.T) {
	dir := t.TempDir()
	b := open(t, dir)
	p := demoProject(t, b)
	whole := made(t, b, p.ID, Export{Of: "song", ToBar: 1, Mix: true, Rate: 44100, Bits: 16})
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	half := whole.Folder + "2" + partWritten
	if err := os.MkdirAll(half, 0o700); err != nil {
		t.Fatal(err)
	}
	open(t, dir)
	if _, err := os.Stat(half); !os.IsNotExist(err) {
		t.Errorf("what was cut off is still there (%v)", err)
	}
	if _, err := os.Stat(filepath.Join(whole.Folder, whole.Files[0].Name)); err != nil {
		t.Errorf("what was made is gone: %v", err)
	}
}
