package e2e

import (
	"encoding/json"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"hexachord/core/music"
	"hexachord/format/smf"
)

// beatOfGM is a beat of four bars in General MIDI: backbeat, kicks that push, ghost snares, accented hats, one of them open.
func beatOfGM() smf.File {
	var track smf.Track
	put := func(bar int, sixteenth float64, key, velocity int) {
		tick := int(float64(bar*16)*240 + sixteenth*240)
		track.Notes = append(track.Notes, smf.Note{Tick: tick, Length: 60, Channel: 10, Key: key, Velocity: velocity})
	}
	for bar := range 4 {
		for _, k := range []float64{0, 7, 10} {
			put(bar, k, 36, 112-int(3*k))
		}
		put(bar, 4, 38, 118)
		put(bar, 12, 38, 112)
		for _, g := range []float64{5, 9, 15} {
			put(bar, g, 38, 34+2*bar)
		}
		for h := 0.0; h < 16; h += 2 {
			switch {
			case h == 14 && bar%2 == 1:
				put(bar, h, 46, 100)
			case int(h)%4 == 0:
				put(bar, h, 42, 104)
			default:
				put(bar, h, 42, 68)
			}
		}
	}
	return smf.File{PPQ: music.PPQ, Meter: music.CommonTime, Tempi: []smf.TempoChange{{BPM: 97}}, Tracks: []smf.Track{track}}
}

// A beat whose hits are known, played by fluidsynth on kits of Debian's timgm6mb-soundfont and, for every other kit, put into a
// room and squeezed by sox, is converted to its hits: sounds and a renderer that are not ours, and none we learnt from.
func TestBeatsOnASoundfontAreHeard(t *testing.T) {
	const font = "/usr/share/sounds/sf2/TimGM6mb.sf2"
	dir := t.TempDir()
	family := func(note int) string {
		switch note {
		case 35, 36:
			return "kick"
		case 37, 38, 39, 40:
			return "snare"
		case 42, 44, 46:
			return "hat"
		}
		return "other"
	}
	right, heard, there := map[string]int{}, map[string]int{}, map[string]int{}
	var ghosts, ghostsThere, tempi int
	var played, said []float64 // snares' velocities
	kits := []int{0, 8, 16, 25, 40}
	for n, preset := range kits {
		beat := beatOfGM()
		mid, dry, wet, js := filepath.Join(dir, "b.mid"), filepath.Join(dir, "dry.wav"), filepath.Join(dir, "wet.wav"), filepath.Join(dir, "b.json")
		if err := os.WriteFile(mid, smf.Encode(beat), 0o600); err != nil {
			t.Fatal(err)
		}
		kit := write(t, "kit", []byte("prog 9 "+itoa(preset)))
		if out, err := exec.Command("fluidsynth", "-ni", "-q", "-f", kit, "-R", "0", "-C", "0", "-r", "44100", "-F", dry, font, mid).CombinedOutput(); err != nil {
			t.Fatalf("fluidsynth: %v %s (make test installs it)", err, out)
		}
		barS := 4 * 60.0 / 97
		args := []string{dry, wet, "trim", "0", ftoa(4 * barS), "remix", "1,2"}
		if n%2 == 1 {
			args = append(args, "gain", "-8", "reverb", "35", "50", "45", "compand", "0.008,0.12", "6:-70,-70,-26,-18,0,-8")
		}
		if out, err := exec.Command("sox", append(args, "gain", "-n", "-2")...).CombinedOutput(); err != nil {
			t.Fatalf("sox: %v %s", err, out)
		}
		if out, ok := run(t, "convert", wet, "--out", filepath.Join(dir, "h.mid"), "--json", js); !ok {
			t.Fatal(out)
		}
		text, err := os.ReadFile(js)
		if err != nil {
			t.Fatal(err)
		}
		var h struct {
			BPM  float64
			Hits []struct {
				Time           float64
				Note, Velocity int
			}
		}
		if err := json.Unmarshal(text, &h); err != nil {
			t.Fatal(err)
		}
		if math.Abs(h.BPM/97-1) < 0.01 {
			tempi++
		}
		taken := make([]bool, len(h.Hits))
		for _, note := range beat.Tracks[0].Notes {
			of := family(note.Key)
			at := float64(note.Tick) / music.PPQ * 60 / 97
			there[of]++
			ghost := of == "snare" && note.Velocity < 50
			if ghost {
				ghostsThere++
			}
			for i, x := range h.Hits {
				if !taken[i] && family(x.Note) == of && math.Abs(x.Time-at) < 0.03 {
					taken[i] = true
					right[of]++
					if ghost {
						ghosts++
					}
					if of == "snare" {
						played, said = append(played, float64(note.Velocity)), append(said, float64(x.Velocity))
					}
					break
				}
			}
		}
		for _, x := range h.Hits {
			heard[family(x.Note)]++
		}
	}
	for of, least := range map[string]float64{"kick": 0.9, "snare": 0.88, "hat": 0.9} {
		f := 2 * float64(right[of]) / float64(heard[of]+there[of])
		t.Logf("%s: F %.3f (%d heard, %d played)", of, f, heard[of], there[of])
		if f < least {
			t.Errorf("%s: F %.3f, at least %.2f is meant", of, f, least)
		}
	}
	t.Logf("%d of %d ghosts heard; tempo right on %d of %d kits; snares' velocities r %.3f", ghosts, ghostsThere, tempi, len(kits), correlation(played, said))
	if float64(ghosts) < 0.7*float64(ghostsThere) {
		t.Errorf("%d of %d ghost snares are heard", ghosts, ghostsThere)
	}
	if r := correlation(played, said); r < 0.85 {
		t.Errorf("snares' velocities: r %.3f", r)
	}
	if tempi < len(kits) {
		t.Errorf("the tempo is right on %d of %d kits", tempi, len(kits))
	}
}

// correlation is Pearson's.
func correlation(a, b []float64) float64 {
	var ma, mb float64
	for i := range a {
		ma, mb = ma+a[i]/float64(len(a)), mb+b[i]/float64(len(b))
	}
	var ab, aa, bb float64
	for i := range a {
		ab, aa, bb = ab+(a[i]-ma)*(b[i]-mb), aa+(a[i]-ma)*(a[i]-ma), bb+(b[i]-mb)*(b[i]-mb)
	}
	return ab / math.Sqrt(aa*bb)
}
