package sfz

import (
	"errors"
	"fmt"
	"os"
	"reflect"
	"strings"
	"testing"

	"hexachord/core/kit"
	"hexachord/core/sound"
)

func find(path string) (Sample, error) {
	if strings.Contains(path, "gone") {
		return Sample{}, errors.New("the file is missing")
	}
	s := Sample{Hash: path, Source: path, Frames: 10_000}
	if strings.Contains(path, "looped") {
		s.Loops = []sound.Loop{{StartFrame: 100, EndFrame: 900}}
	}
	return s, nil
}

// Every opcode by the published SFZ version 1 description: inheritance from <group>, key names with c4 = 60, end and
// loop_end as last frames, volume in dB, pan −100..100, transpose and tune, envelope in seconds, groups.
func TestOpcodes(t *testing.T) {
	f, err := Parse([]byte(`// a kit
<control> default_path=My Sounds\
<group> key=c2 group=1 off_by=2 loop_mode=one_shot amp_veltrack=50
<region> sample=soft kick.wav hivel=64 volume=-6.5 pan=-50 tune=25 transpose=-12 offset=100 end=4999
<region> sample=hard kick.wav lovel=65 direction=reverse
<group> key=46 group=2 off_by=1
<region> sample=looped.wav ampeg_attack=0.01 ampeg_decay=0.2 ampeg_sustain=40 ampeg_release=0.5 loop_start=200 cutoff=800
<group> key=40 seq_length=2
<region> sample=a.wav seq_position=1
<region> sample=b.wav seq_position=2 volume=-3
<group> lokey=60 hikey=61 pitch_keycenter=60
<region> sample=tone.wav
<region> sample=gone.wav`))
	if err != nil {
		t.Fatal(err)
	}
	k, said, err := f.Kit("k", "", find)
	if err != nil {
		t.Fatal(err)
	}
	pad := func(n int) kit.Pad { p, _ := k.Pad(n); return p }
	kick := pad(36)
	if len(kick.Layers) != 2 || kick.Held || kick.VelTrack != 50 || kick.Choke == 0 || kick.CutBy != pad(46).Choke || pad(46).CutBy != kick.Choke {
		t.Fatalf("kick %+v", kick)
	}
	s := kick.Layers[0].Sounds[0]
	if kick.Layers[0].Hi != 64 || s.LevelDB != -6.5 || s.Pan != -0.5 || s.Semitones != -11.75 || s.Takes[0].Shape.StartFrame != 100 ||
		s.Takes[0].Shape.EndFrame != 5000 || s.Takes[0].Sample != "My Sounds/soft kick.wav" || !kick.Layers[1].Sounds[0].Takes[0].Shape.Reverse {
		t.Errorf("first region %+v", kick.Layers[0])
	}
	open := pad(46)
	sh := open.Layers[0].Sounds[0].Takes[0].Shape
	if !open.Held || !sh.Loop || sh.LoopStart != 200 || sh.LoopEnd != 900 || sh.AttackMS != 10 || sh.DecayMS != 200 || sh.SustainPct != 40 || sh.ReleaseMS != 500 {
		t.Errorf("open %+v", sh)
	}
	if turns := pad(40).Layers; len(turns) != 1 || len(turns[0].Sounds[0].Takes) != 2 || turns[0].Sounds[0].Takes[1].Shape.GainDB != -3 {
		t.Errorf("two takes in turn: %+v", turns)
	}
	if a, b := pad(60).Layers[0].Sounds[0].Semitones, pad(61).Layers[0].Sounds[0].Semitones; a != 0 || b != 1 {
		t.Errorf("keys 60 and 61 are tuned by %g and %g", a, b)
	}
	for _, want := range []string{"gone.wav: the file is missing", "cutoff (1×)"} {
		if !strings.Contains(strings.Join(said, "\n"), want) {
			t.Errorf("nothing is said of %q: %q", want, said)
		}
	}
}

func TestWhatIsWrittenReadsBackTheSame(t *testing.T) {
	take := func(name string) kit.Take { return kit.Take{Sample: name, Source: name, Shape: kit.Whole()} }
	k := kit.Kit{Name: "k", Pads: []kit.Pad{
		{Note: 38, VelTrack: 80, LevelDB: 0, Choke: 1, SelfChoke: true, Layers: []kit.Layer{kit.NewLayer(1, 80, take("a")), kit.NewLayer(81, 127, take("b"), take("c"))}},
		{Note: 50, Held: true, VelTrack: 100, Crossfade: true, Layers: []kit.Layer{kit.NewLayer(1, 90, take("d")), kit.NewLayer(70, 127, take("e"))}},
	}}
	sh := &k.Pads[1].Layers[0].Sounds[0].Takes[0].Shape
	*sh = kit.Shape{StartFrame: 10, EndFrame: 5000, Reverse: true, Loop: true, LoopStart: 100, LoopEnd: 4000, AttackMS: 1, DecayMS: 20, SustainPct: 50, ReleaseMS: 300, Curve: kit.Straight}
	k.Pads[1].Layers[0].Sounds[0].Semitones, k.Pads[1].Layers[0].Sounds[0].LevelDB, k.Pads[1].Layers[0].Sounds[0].Pan = -1.25, -7.5, 0.25
	text, lost := Write(k, func(int) string { return "lane" }, func(s string) string { return s })
	if len(lost) != 0 {
		t.Errorf("lost: %q", lost)
	}
	f, err := Parse(text)
	if err != nil {
		t.Fatal(err)
	}
	back, said, err := f.Kit("k", "", find)
	if err != nil || len(said) != 0 {
		t.Fatalf("%v %q", err, said)
	}
	back.Pads[0].CutBy = 0 // its own group, named twice
	if !reflect.DeepEqual(k, back) {
		t.Errorf("wrote %+v\nread  %+v\n%s", k, back, text)
	}
	k.Pads[0].Layers[0].Sounds[0].Takes[0].Shape.FadeOutMS = 9
	if _, lost := Write(k, func(int) string { return "" }, func(s string) string { return s }); len(lost) != 1 {
		t.Errorf("a fade is lost: %q", lost)
	}
}

func TestSamplePathsStayInside(t *testing.T) {
	for sample, ok := range map[string]bool{"a.wav": true, `sub\b.wav`: true, "../kit2/c.wav": true, "../../d.wav": false, "/etc/passwd": false, `C:\x.wav`: false, `..\..\e.wav`: false} {
		r := Region{Opcodes: map[string]string{"sample": sample}}
		if p, err := r.SamplePath("kit"); (err == nil) != ok {
			t.Errorf("%s leads to %q, %v", sample, p, err)
		}
	}
	if _, err := (Region{Opcodes: map[string]string{"sample": "../c.wav"}}).SamplePath(""); !errors.Is(err, ErrOutside) {
		t.Errorf("out of the folder of a file on its own: %v", err)
	}
}

func TestDamagedFilesAreRefusedInWords(t *testing.T) {
	for text, want := range map[string]string{"": "no <region>", "<region": "without its end", "hello there": "line 1", "<region> sample=x\nfoo bar": "line 2"} {
		if _, err := Parse([]byte(text)); !errors.Is(err, ErrSFZ) || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", text, err)
		}
	}
	if _, err := Parse([]byte(strings.Repeat("<region>", maxRegions+1))); !errors.Is(err, ErrSFZ) {
		t.Errorf("too many regions: %v", err)
	}
	f, _ := Parse([]byte("<region> sample=a key=36 loop_mode=loop_continuous loop_start=90 loop_end=20000 offset=99999 volume=1e999 lovel=-5 hivel=999"))
	if k, said, err := f.Kit("k", "", find); err != nil || len(said) == 0 || k.Check() != nil {
		t.Errorf("values out of range: %v %q", err, said)
	}
}

// A region whose velocities are none, which once led to a layer that is not there, is told and left out.
func TestVelocitiesUpsideDownAreTold(t *testing.T) {
	text, err := os.ReadFile("testdata/velocities-upside-down.sfz")
	if err != nil {
		t.Fatal(err)
	}
	for _, text := range []string{string(text), "<region> sample=a.wav key=36 lovel=100 hivel=50"} {
		f, err := Parse([]byte(text))
		if err != nil {
			continue
		}
		k, said, err := f.Kit("k", "", find)
		if err == nil && (k.Check() != nil || len(said) == 0) {
			t.Errorf("%q: %+v, %q", text, k, said)
		}
	}
}

// Tens of thousands of faulty regions are told shortly, and soon: the work grows with them and not with their square.
func BenchmarkFaultyRegions20000(b *testing.B) {
	var text strings.Builder
	for i := range 20_000 {
		fmt.Fprintf(&text, "<region> sample=s%d.wav key=36 lovel=100 hivel=%d\n", i%400, i%90)
	}
	for b.Loop() {
		f, err := Parse([]byte(text.String()))
		if err != nil {
			b.Fatal(err)
		}
		if _, said, _ := f.Kit("k", "", find); len(said) > mostSaid+2 {
			b.Fatalf("%d faults are told", len(said))
		}
	}
}

func FuzzParse(f *testing.F) {
	f.Add([]byte("<group>key=36<region>sample=a b.wav lovel=3"))
	f.Fuzz(func(t *testing.T, data []byte) {
		file, err := Parse(data)
		if err != nil {
			return
		}
		k, _, err := file.Kit("k", "", find)
		if err == nil && k.Check() != nil {
			t.Errorf("a kit that cannot be used: %v", k.Check())
		}
	})
}
