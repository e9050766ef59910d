package smf

import (
	"bytes"
	"encoding/json"
	"errors"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"hexachord/core/music"
)

// The table of variable-length quantities in the SMF 1.0 specification.
func TestVariableLengthQuantities(t *testing.T) {
	for v, want := range map[uint32][]byte{
		0: {0x00}, 0x40: {0x40}, 0x7F: {0x7F}, 0x80: {0x81, 0x00}, 0x2000: {0xC0, 0x00}, 0x3FFF: {0xFF, 0x7F},
		0x4000: {0x81, 0x80, 0x00}, 0x100000: {0xC0, 0x80, 0x00}, 0x1FFFFF: {0xFF, 0xFF, 0x7F},
		0x200000: {0x81, 0x80, 0x80, 0x00}, 0x8000000: {0xC0, 0x80, 0x80, 0x00}, 0xFFFFFFF: {0xFF, 0xFF, 0xFF, 0x7F},
	} {
		got := AppendVarLen(nil, v)
		if !bytes.Equal(got, want) {
			t.Errorf("%#x is % x, want % x", v, got, want)
		}
		if back, err := (&reader{b: got}).varLen(); err != nil || back != int(v) {
			t.Errorf("% x reads as %#x (%v)", got, back, err)
		}
	}
}

// The type 0 example of the SMF 1.0 specification: 4/4, 120 BPM, four notes on channels 1 to 3, running status.
var specExample = []byte("MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x60MTrk\x00\x00\x00\x3B" +
	"\x00\xFF\x58\x04\x04\x02\x18\x08\x00\xFF\x51\x03\x07\xA1\x20" +
	"\x00\xC0\x05\x00\xC1\x2E\x00\xC2\x46\x00\x92\x30\x60\x00\x3C\x60\x60\x91\x43\x40\x60\x90\x4C\x20" +
	"\x81\x40\x82\x30\x40\x00\x3C\x40\x00\x81\x43\x40\x00\x80\x4C\x40\x00\xFF\x2F\x00")

func TestTheSpecificationsExample(t *testing.T) {
	f, err := Decode(specExample)
	if err != nil {
		t.Fatal(err)
	}
	want := []Note{{0, 384, 3, 48, 96}, {0, 384, 3, 60, 96}, {96, 288, 2, 67, 64}, {192, 192, 1, 76, 32}}
	if f.PPQ != 96 || f.Meter != music.CommonTime || len(f.Tempi) != 1 || f.Tempi[0].BPM != 120 || !reflect.DeepEqual(f.Tracks[0].Notes, want) {
		t.Errorf("read %+v", f)
	}
}

func file() File {
	return File{PPQ: 960, Meter: music.Meter{Beats: 6, Unit: 8}, Tempi: []TempoChange{{0, 93.7}}, EndsAt: 2880, Tracks: []Track{
		{Name: "Rope slap", Notes: []Note{{0, 120, 10, 38, 112}, {960, 120, 10, 38, 1}, {1080, 120, 10, 38, 127}}},
		{Name: "Hull thump", Notes: []Note{{-0, 60, 10, 36, 64}, {2879, 1, 10, 36, 99}}},
	}}
}

func TestWhatIsWrittenReadsTheSame(t *testing.T) {
	got, err := Decode(Encode(file()))
	if err != nil {
		t.Fatal(err)
	}
	want := file()
	if !reflect.DeepEqual(got.Tracks[1:], want.Tracks) || got.Meter != want.Meter || got.EndsAt != want.EndsAt || math.Abs(got.Tempi[0].BPM-93.7) > 1e-3 {
		t.Errorf("read back %+v", got)
	}
}

// An independent reader (the npm package midi-file) finds the same in what is written here.
func TestAnIndependentParserReadsIt(t *testing.T) {
	path := filepath.Join(t.TempDir(), "out.mid")
	if err := os.WriteFile(path, Encode(file()), 0o600); err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "-e", `const m=require('midi-file').parseMidi(require('fs').readFileSync(process.argv[1]));
		console.log(JSON.stringify({head:m.header,tracks:m.tracks.map(t=>{let at=0;return t.map(e=>({...e,at:at+=e.deltaTime}))})}))`, path)
	cmd.Dir = "../../ui"
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("node: %v (make test installs the package)", err)
	}
	var got struct {
		Head struct {
			Format, NumTracks, TicksPerBeat int
		}
		Tracks [][]struct {
			At, NoteNumber, Velocity, Channel, Numerator, Denominator, MicrosecondsPerBeat int
			Type, Text                                                                     string
		}
	}
	if err := json.Unmarshal(out, &got); err != nil {
		t.Fatal(err)
	}
	if got.Head.Format != 1 || got.Head.TicksPerBeat != 960 || got.Head.NumTracks != 3 {
		t.Errorf("header %+v", got.Head)
	}
	if m := got.Tracks[0][0]; m.Type != "timeSignature" || m.Numerator != 6 || m.Denominator != 8 {
		t.Errorf("meter %+v", m)
	}
	if m := got.Tracks[0][1]; m.Type != "setTempo" || m.MicrosecondsPerBeat != 640342 {
		t.Errorf("tempo %+v", m)
	}
	for i, track := range file().Tracks {
		var notes []Note
		name := ""
		for _, e := range got.Tracks[i+1] {
			switch e.Type {
			case "trackName":
				name = e.Text
			case "noteOn":
				notes = append(notes, Note{Tick: e.At, Channel: e.Channel + 1, Key: e.NoteNumber, Velocity: e.Velocity})
			case "noteOff":
				for k := range notes {
					if notes[k].Key == e.NoteNumber && notes[k].Length == 0 {
						notes[k].Length = e.At - notes[k].Tick
						break
					}
				}
			}
		}
		if name != track.Name || !reflect.DeepEqual(notes, track.Notes) {
			t.Errorf("track %q: %+v", name, notes)
		}
	}
}

func TestUnusableFilesAreRefusedInWords(t *testing.T) {
	badLength := append([]byte(nil), specExample...)
	badLength[21] = 0xFF
	type2 := append([]byte(nil), specExample...)
	type2[9] = 2
	for name, c := range map[string]struct {
		data []byte
		is   error
		say  string
	}{
		"empty":          {nil, ErrNotMIDI, "not a Standard MIDI File"},
		"text":           {[]byte("not midi, only words"), ErrNotMIDI, "not a Standard MIDI File"},
		"bad length":     {badLength, ErrTruncated, "promises"},
		"no end":         {append(append([]byte(nil), specExample[:18]...), "\x00\x00\x00\x04\x00\x90\x24\x40"...), ErrTruncated, "end-of-track"},
		"cut event":      {append(append([]byte(nil), specExample[:18]...), "\x00\x00\x00\x03\x00\x90\x24"...), ErrTruncated, "asks for"},
		"track missing":  {specExample[:14], ErrTruncated, "are there"},
		"type 2":         {type2, ErrCoding, "type 2"},
		"endless length": {append(append([]byte(nil), specExample[:18]...), "\x00\x00\x00\x06\xFF\xFF\xFF\xFF\xFF\x00"...), ErrCoding, "four bytes"},
		"no status":      {append(append([]byte(nil), specExample[:18]...), "\x00\x00\x00\x03\x00\x24\x40"...), ErrCoding, "status"},
	} {
		if _, err := Decode(c.data); !errors.Is(err, c.is) || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %v; want words with %q", name, err, c.say)
		}
	}
}

func FuzzDecode(f *testing.F) {
	f.Add(specExample)
	f.Add(Encode(file()))
	f.Fuzz(func(t *testing.T, data []byte) {
		if got, err := Decode(data); err == nil {
			for _, track := range got.Tracks {
				for _, n := range track.Notes {
					if n.Key > 127 || n.Velocity < 1 || n.Velocity > 127 || n.Tick < 0 {
						t.Fatalf("impossible note %+v", n)
					}
				}
			}
		}
	})
}
