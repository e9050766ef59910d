package e2e

import (
	"encoding/binary"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"hexachord/core/kit"
	"hexachord/core/sound"
	"hexachord/demo"
	"hexachord/demo/drums"
	"hexachord/format/wav"
)

type kitProject struct {
	ID       string
	Revision int
	Kit      kit.Kit
	Undo     string
}

func (b *bench) kitOf(id string) (p kitProject) {
	b.t.Helper()
	b.getJSON("api/v1/projects/"+id, &p)
	return p
}

// looseSnares writes four strokes of one snare, soft to hard, and a hat, as files a person would drop.
func looseSnares(t *testing.T) []string {
	t.Helper()
	snare := drums.Snare{Hz: 205, Bend: 0.07, DecayS: 0.18, Body: 0.6, Wires: 0.7, WireLoHz: 1200, WireHiHz: 11000, WireDecayS: 0.2, Snap: 0.4}.Drum()
	dir := t.TempDir()
	var paths []string
	for i, level := range []float64{0.9, 0.2, 0.65, 0.4} { // not in the order of their loudness
		b := sound.Buffer{Rate: 44100, Channels: [][]float32{snare.Stroke(level, uint64(i), 44100)}}
		data, err := wav.Encode(b, wav.PCM16)
		if err != nil {
			t.Fatal(err)
		}
		path := filepath.Join(dir, fmt.Sprintf("snare-%d.wav", i))
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
		paths = append(paths, path)
	}
	return paths
}

// A four-layer snare from dropped files, each velocity firing its layer, a choke, a try that is put back, a kit that goes
// away and comes back the same.
func TestBuildingAKit(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	var list struct{ Projects []struct{ ID string } }
	b.getJSON("api/v1/projects", &list)
	id := list.Projects[0].ID
	w.key("4")
	w.until("the Sounds face", `document.querySelector('[data-id="kit-menu"]')!==null`)

	// dropped: shown before it is done, then laid out
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="add-samples"]`), looseSnares(t)))
	w.until("the plan", `document.querySelector('[data-id="lay-out"]:not(:disabled)')!==null`)
	if p := b.kitOf(id); p.Undo != "" {
		t.Errorf("showing the plan changed the kit: %s", p.Undo)
	}
	w.do(chromedp.Click(chromedp.Search(`//button[contains(., "Replace all")]`), chromedp.NodeVisible))
	w.until("replaced", `document.querySelectorAll('.planrow:not(.idle) svg[aria-label="4 layers then"]').length===1`)
	w.click(`[data-id="lay-out"]`)
	w.saved()
	snare, _ := b.kitOf(id).Kit.Pad(38)
	var sources []string
	for _, l := range snare.Layers {
		sources = append(sources, l.Sounds[0].Takes[0].Source)
	}
	if !reflect.DeepEqual(sources, []string{"snare-1.wav", "snare-3.wav", "snare-2.wav", "snare-0.wav"}) {
		t.Fatalf("the layers, soft to loud, are %v", sources)
	}

	// each velocity fires its layer: ranges 1–40, 41–80, 81–100, 101–127 (common practice), typed as a person would set them
	w.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`fetch('/api/v1/projects/%s/edits',{method:'POST',headers:{'Content-Type':'application/json'},body:JSON.stringify({revision:%d,edits:[{kit:{op:'pads',label:'ranges',put:[%s]}}]})})`,
		id, b.kitOf(id).Revision, ladderJSON(t, snare, [][2]int{{1, 40}, {41, 80}, {81, 100}, {101, 127}}))))
	w.until("the new ranges shown", `[...document.querySelectorAll('.boxes, .box')].some(e=>e.title.includes('velocity 101 to 127'))`)
	w.until("the player has them too", `hexachordPlayer.pads.get(38)?.layers.at(-1).lo===101`)
	for velocity, layer := range map[int]int{40: 0, 41: 1, 80: 1, 81: 2, 100: 2, 101: 3, 127: 3} {
		n := eval[int](w, `hexachordPlayer.started.length`)
		eval[any](w, fmt.Sprintf(`(hexachordPlayer.strike(38,%d),null)`, velocity))
		w.until("the strike", `hexachordPlayer.started.length>`+itoa(n))
		if got := eval[[2]int](w, `(({layer,velocity})=>[layer,velocity])(hexachordPlayer.started.at(-1))`); got != [2]int{layer, velocity} {
			t.Errorf("velocity %d fires %v, want layer %d", velocity, got, layer)
		}
	}
	if at := eval[[]float64](w, `hexachordPlayer.strikeTimes`); len(at) < 7 {
		t.Errorf("%d strikes were timed", len(at))
	} else {
		t.Logf("ms from strike to the audio thread's message: %.2f", at)
	}

	// a closed hat cuts the open one
	eval[any](w, `(hexachordPlayer.strike(46,120),null)`)
	w.until("the open hat sounds", `hexachordPlayer.last.sounding.includes(46)`)
	eval[any](w, `(hexachordPlayer.strike(42,120),null)`)
	w.until("the open hat is cut", `!hexachordPlayer.last.sounding.includes(46)&&hexachordPlayer.started.at(-1).note===42`)

	// tried while it plays: heard at the next pass, and put back
	before := b.kitOf(id)
	w.key(" ")
	w.key("l")
	w.until("the shelf", `document.querySelectorAll('.sample').length>0`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="shelf-text"]`), "rope-slap-4"))
	w.until("found", `document.querySelectorAll('.sample').length===1`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="shelf-text"]`), kb.ArrowDown+kb.Enter))
	w.until("trying", `document.querySelector('[data-id="trying"]')!==null`)
	w.click(`[data-id="put-back"]`)
	w.until("put back", `document.querySelector('[data-id="trying"]')===null`)
	if after := b.kitOf(id); after.Revision != before.Revision {
		t.Error("a try that was put back is in the history")
	}
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="shelf-text"]`), kb.Enter))
	w.until("trying again", `document.querySelector('[data-id="trying"]')!==null`)
	w.click(`[data-id="keep-try"]`)
	w.saved()
	w.until("kept", `document.querySelector('[data-id="trying"]')===null`)
	if after := b.kitOf(id); !strings.Contains(after.Undo, "rope-slap-4") || reflect.DeepEqual(after.Kit, before.Kit) {
		t.Errorf("a try that was kept: %q", after.Undo)
	}
	w.key("z", chromedp.ModifierCtrl)
	if trouble := eval[[2]int](w, `[hexachordPlayer.last.late,hexachordPlayer.last.missing]`); trouble[1] != 0 { // late ones depend on what else the machine does
		t.Errorf("%d cues had no sound (%d were late)", trouble[1], trouble[0])
	}

	// away and back, the same
	w.until("undone", `document.querySelector('[data-id="redo"]:not(:disabled)')!==null`)
	want := b.kitOf(id).Kit
	bundle := write(t, "kit.zip", b.get("api/v1/projects/"+id+"/kit/export?as=bundle"))
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="kit-file"]`), []string{bundle}))
	w.until("taken", `document.querySelector('[data-id="undo"]:not(:disabled)')!==null`)
	w.saved()
	if got := b.kitOf(id).Kit; !reflect.DeepEqual(got, want) {
		t.Errorf("the kit came back another:\n%+v\n%+v", got, want)
	}
}

func ladderJSON(t *testing.T, p kit.Pad, ranges [][2]int) string {
	t.Helper()
	p = p.Clone()
	for i, r := range ranges {
		p.Layers[i].Lo, p.Layers[i].Hi = r[0], r[1]
	}
	return string(mustJSON(t, p))
}

// SFZ away from the browser: a kit goes out, comes in and renders as its text says.
func TestKitCommands(t *testing.T) {
	dir := t.TempDir()
	zip, data := filepath.Join(dir, "k.zip"), filepath.Join(dir, "data")
	if said, ok := run(t, "kit", "export", "boathouse", "--as", "sfz", "--out", zip, "--data", data); !ok || !strings.Contains(said, "12 pads") {
		t.Fatalf("export: %s", said)
	}
	if said, ok := run(t, "kit", "import", zip, "--data", data); !ok || !strings.Contains(said, "Boathouse: 12 pads, 28 samples") {
		t.Errorf("import: %s", said)
	}
	if said, ok := run(t, "kit", "export", "Gone", "--out", zip, "--data", data); ok || !strings.Contains(said, "there are: Boathouse\n") {
		t.Errorf("a kit that is not there: %s", said)
	}
	rec, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	mid := filepath.Join(dir, "x.mid")
	if said, ok := run(t, "convert", write(t, rec.Name, rec.Data), "--out", mid); !ok {
		t.Fatal(said)
	}
	var outs [][]byte
	for _, k := range []string{"demo", zip} {
		out := filepath.Join(dir, "out.wav")
		if said, ok := run(t, "render", "--midi", mid, "--kit", k, "--out", out, "--bits", "16"); !ok {
			t.Fatal(said)
		}
		wave, err := os.ReadFile(out)
		if err != nil {
			t.Fatal(err)
		}
		outs = append(outs, wave)
	}
	if !reflect.DeepEqual(outs[0], outs[1]) {
		t.Error("the kit that went out as SFZ and came back does not sound the same, bit for bit")
	}
}

// kindOfGM is what a General MIDI percussion note sounds like, by the key map of General MIDI Level 1.
func kindOfGM(note int) string {
	switch note {
	case 35, 36:
		return "kick"
	case 38, 40:
		return "snare"
	case 37:
		return "rim"
	case 39:
		return "clap"
	case 42, 44:
		return "closed hat"
	case 46:
		return "open hat"
	case 41, 43, 45, 47, 48, 50:
		return "tom"
	case 49, 51, 52, 53, 55, 57, 59:
		return "cymbal"
	}
	return "percussion"
}

// The drum sounds of Debian's timgm6mb-soundfont, rendered one by one by fluidsynth, told by sound alone.
func TestKindsOfASoundfont(t *testing.T) {
	const font = "/usr/share/sounds/sf2/TimGM6mb.sf2"
	coarse := map[string]string{"low tom": "tom", "mid tom": "tom", "high tom": "tom", "crash": "cymbal", "ride": "cymbal", "shaker": "percussion", "tambourine": "percussion", "cowbell": "percussion"}
	dir := t.TempDir()
	args := []string{"kind", "--sound"}
	for note := 35; note <= 81; note++ {
		mid := filepath.Join(dir, fmt.Sprintf("%d.mid", note))
		body := []byte{0, 0x99, byte(note), 100, 0x87, 0x40, 0x89, byte(note), 0, 0x8f, 0, 0xff, 0x2f, 0}
		file := append([]byte("MThd\x00\x00\x00\x06\x00\x00\x00\x01\x01\xe0MTrk"), binary.BigEndian.AppendUint32(nil, uint32(len(body)))...)
		if err := os.WriteFile(mid, append(file, body...), 0o600); err != nil {
			t.Fatal(err)
		}
		out := filepath.Join(dir, fmt.Sprintf("%d.wav", note))
		if text, err := exec.Command("fluidsynth", "-ni", "-q", "-R", "0", "-C", "0", "-r", "44100", "-F", out, font, mid).CombinedOutput(); err != nil {
			t.Fatalf("fluidsynth: %v %s (make test installs it)", err, text)
		}
		args = append(args, out)
	}
	said, ok := run(t, args...)
	if !ok {
		t.Fatal(said)
	}
	right, lines := 0, strings.Split(strings.TrimSpace(said), "\n")
	var wrong []string
	for i, line := range lines {
		cols := strings.Split(line, "\t")
		got, want := cols[1], kindOfGM(35+i)
		if c := coarse[got]; c != "" {
			got = c
		}
		if got == want {
			right++
		} else {
			wrong = append(wrong, fmt.Sprintf("%d %s as %s", 35+i, want, cols[1]))
		}
	}
	t.Logf("%d of %d kinds are right by sound alone; wrong: %s", right, len(lines), strings.Join(wrong, ", "))
	if len(lines) != 47 || math.Round(100*float64(right)/47) < 70 {
		t.Errorf("%d of %d kinds are right", right, len(lines))
	}
}
