package e2e

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"hexachord/core/mix"
	core "hexachord/core/project"
	"hexachord/format/wav"
)

type mixProject struct {
	Revision int64
	Mix      mix.Mix
	Undo     string
}

func (b *bench) mixOf(id string) (p mixProject) {
	b.t.Helper()
	b.getJSON("api/v1/projects/"+id, &p)
	return p
}

// mixSong gives kick and snare outputs of their own, treated, and sends some lanes to the room and the delay, in two steps of the history.
func (b *bench) mixSong(id string) {
	b.t.Helper()
	edit := func(e core.MixEdit) mix.Mix {
		b.post("api/v1/projects/"+id+"/edits", map[string]any{"revision": b.mixOf(id).Revision, "edits": []any{map[string]any{"mix": e}}}, nil)
		return b.mixOf(id).Mix
	}
	dB := func(v float64) *float64 { return &v }
	kick, snare := core.NewMixOutput(), core.NewMixOutput()
	kick.Color, snare.Color = "kick", "snare"
	kick.Equaliser.On, kick.Equaliser.HighPassHz = true, 34
	snare.Gate.On, snare.Compressor.On, snare.Equaliser.On = true, true, true
	snare.Compressor.ThresholdDB, snare.Compressor.MakeupDB = -24, 2.5
	snare.Equaliser.HighPassHz, snare.Equaliser.Low.DB, snare.Equaliser.Mid.DB, snare.Equaliser.High.DB = 82, 3, -4, 2.5
	m := edit(core.MixEdit{Label: "Outputs for kick and snare", Outputs: []mix.Output{kick, snare}})
	edit(core.MixEdit{Label: "Balance", Strips: map[string]*mix.Strip{
		":36": {LevelDB: -1, Output: m.Outputs[0].ID}, ":38": {LevelDB: -2, Pan: 0.1, Output: m.Outputs[1].ID, Room: dB(-14)}, ":39": {LevelDB: -3.5, Pan: -0.06, Room: dB(-11)},
		":42": {LevelDB: -8, Pan: -0.18}, ":46": {LevelDB: -7.5, Pan: -0.18, Delay: dB(-16)}, ":51": {LevelDB: -9, Pan: 0.34}, ":49": {LevelDB: -6, Pan: 0.2}, ":70": {LevelDB: -5.5, Pan: 0.42},
	}})
}

// pick opens a select of the component library and takes the option of those words.
func (w window) pick(label, option string) {
	w.t.Helper()
	_ = eval[bool](w, `(document.querySelector('[aria-label=`+quoted(label)+`]').closest('.ant-select').querySelector('.ant-select-content,.ant-select-selector').dispatchEvent(new MouseEvent('mousedown',{bubbles:true})),true)`)
	w.until("the list of "+label, `[...document.querySelectorAll('.ant-select-item-option')].some(o=>o.textContent===`+quoted(option)+`&&o.offsetParent)`)
	_ = eval[bool](w, `([...document.querySelectorAll('.ant-select-item-option')].find(o=>o.textContent===`+quoted(option)+`&&o.offsetParent).click(),true)`)
}

// The demo's song with kick and snare on outputs of their own, the kick through a high-pass, the snare into the room: what is heard is what is
// bounced, within −90 dB; an export makes every file, each read by other programs; the bundle opens in a fresh data folder and bounces to the
// same bytes; undone, everything is as it was.
func TestAMixIsHeardExportedAndOpenedElsewhere(t *testing.T) {
	dir := t.TempDir()
	b := start(t, dir)
	id := b.firstProject()
	w := browse(t, b.address)
	w.until("something to play", `hexachordPlayer.ready`)
	w.key("6")
	w.until("Mix", `document.querySelector('[data-id="outputs"]')!==null`)
	for i, lane := range []string{"Hull thump", "Rope slap"} {
		w.pick("Output of "+lane, "+ its own")
		w.until(lane+" alone", `document.querySelectorAll('[data-output]').length===`+strconv.Itoa(4+i))
		w.saved()
	}
	w.until("called after its lane", `document.querySelector('[data-output="2"]').textContent.includes('Rope slap')`)
	w.click(`[data-output="1"] .fold`)
	_ = eval[bool](w, `(document.querySelector('[aria-label="High-pass, Hz; 0 is none"]').select(),true)`)
	w.do(chromedp.KeyEvent("120" + kb.Enter))
	w.until("it is set", `document.querySelector('[aria-label="Equaliser on"]').getAttribute('aria-checked')==='true'`)
	w.click(`[aria-label="Rope slap to the room"]`)
	w.saved()
	p := b.mixOf(id)
	if len(p.Mix.Outputs) != 2 || p.Mix.Outputs[0].Equaliser.HighPassHz != 120 || p.Mix.Strip("", 36).Output != p.Mix.Outputs[0].ID || p.Mix.Strip("", 38).Room == nil {
		t.Fatalf("the mix is %+v", p.Mix)
	}
	// a fader by its keys, heard while it moves, one step of the history
	_ = eval[bool](w, `(document.querySelector('[aria-label="Level of Oar clap"]').focus(),true)`)
	for _, key := range []string{kb.ArrowLeft, kb.ArrowLeft, kb.Enter} {
		w.do(chromedp.KeyEvent(key))
	}
	w.until("lower", `document.querySelector('[data-strip="39"] .num').textContent==='-1.0'`)
	w.saved()
	if clap := b.mixOf(id).Mix.Strip("", 39); clap.LevelDB != -1 {
		t.Errorf("the clap stands at %g dB", clap.LevelDB)
	}
	rate := eval[int](w, `hexachordPlayer.rate`)
	compareWithBounce(t, b, w, id, b.project(id).Patterns[0].ID, rate, -90)

	// meters tell lanes and outputs while it plays
	w.key(" ")
	w.until("the kick's meter", `new DOMMatrix(getComputedStyle(document.querySelector('[data-strip="36"] .meter i')).transform).a>0.2`)
	w.until("the loudness", `document.querySelector('.mixcrown .big').textContent.length>3&&hexachordPlayer.last.meters.hops!==undefined`)
	w.click(`[data-id="dry"]`)
	w.saved()
	if !b.mixOf(id).Mix.Dry {
		t.Error("it is not dry")
	}
	w.click(`[data-id="dry"]`)
	w.saved()
	w.key(" ")

	// without its high-pass the kick is heard as loud as with it, by one key, and again as it is by the same
	w.click(`[data-output="1"] .fold`)
	w.key("q")
	w.until("heard without", `/Hull thump without, [+-]?\d/.test(document.querySelector('[data-id="compare"]').textContent)`)
	if b.mixOf(id).Mix.Outputs[0].Equaliser.On != true {
		t.Error("a comparison changed the mix")
	}
	w.key("q")
	w.until("as it is", `document.querySelector('[data-id="compare"]').textContent==='Hear Hull thump without'`)

	w.click(`[data-id="open-export"]`)
	w.until("the export", `document.querySelector('[data-id="export"]')!==null`)
	_ = eval[bool](w, `([...document.querySelectorAll('[data-id="export"] button')].find(x=>x.textContent==='All of it').click(),true)`)
	w.until("what will be made", `document.querySelectorAll('.madefile').length===18`)
	w.click(`[data-id="start-export"]`)
	w.until("it is made", `document.querySelector('[data-id="export-state"]')?.textContent.includes('18 files are made')`)
	folder := eval[string](w, `document.querySelector('[data-folder]').dataset.folder`)
	lanes, outputs := 0, 0
	mixFile := filepath.Join(folder, "Lock-Seven_mix_92.wav")
	for _, name := range eval[[]string](w, `[...document.querySelectorAll('[data-made]')].map(x=>x.dataset.made)`) {
		path := filepath.Join(folder, name)
		if !strings.HasSuffix(name, ".wav") {
			continue
		}
		says := func(what string) string {
			out, err := exec.Command("sox", "--i", what, path).Output()
			if err != nil {
				t.Fatalf("sox on %s: %v", name, err)
			}
			return strings.TrimSpace(string(out))
		}
		data, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		x, _, err := wav.Decode(data)
		if err != nil || says("-r") != "44100" || says("-b") != "24" || says("-s") != strconv.Itoa(x.Frames()) || says("-c") != "2" {
			t.Errorf("%s: sox reads %s Hz, %s bits, %s frames", name, says("-r"), says("-b"), says("-s"))
		}
		if strings.Contains(name, "_out_") {
			outputs++
		} else if path != mixFile {
			lanes++
		}
	}
	if lanes != 12 || outputs != 3 {
		t.Errorf("%d lanes and %d outputs", lanes, outputs)
	}
	packed := filepath.Join(t.TempDir(), "all.zip")
	if err := os.WriteFile(packed, b.get(strings.TrimPrefix(eval[string](w, `document.querySelector('[data-id="export-zip"]').getAttribute('href')`), "/")), 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("unzip", "-tq", packed).CombinedOutput(); err != nil {
		t.Errorf("unzip: %v\n%s", err, out)
	}

	// elsewhere: the same bytes
	bundled := filepath.Join(folder, "Lock-Seven_bundle_92.zip")
	if out, err := exec.Command("unzip", "-tq", bundled).CombinedOutput(); err != nil {
		t.Errorf("unzip: %v\n%s", err, out)
	}
	run := func(args ...string) string {
		t.Helper()
		out, err := exec.Command(os.Getenv("HEXACHORD_BIN"), args...).CombinedOutput()
		if err != nil {
			t.Fatalf("%v: %v\n%s", args, err, out)
		}
		return string(out)
	}
	if out := run("bundle", "check", bundled); out != "Lock Seven: whole\n" {
		t.Errorf("checked: %s", out)
	}
	there := t.TempDir()
	run("render", "--bundle", bundled, "--out", there)
	run("bundle", "import", bundled, "--data", filepath.Join(there, "data"))
	want, err := os.ReadFile(mixFile)
	if err != nil {
		t.Fatal(err)
	}
	got, err := os.ReadFile(filepath.Join(there, "Lock-Seven_mix_92.wav"))
	if err != nil || !bytes.Equal(want, got) {
		t.Errorf("bounced elsewhere it is not the same (%v)", err)
	}
	elsewhere := start(t, filepath.Join(there, "data"))
	if other := elsewhere.mixOf(elsewhere.firstProject()); !same(t, other.Mix, b.mixOf(id).Mix) {
		t.Errorf("its mix there is %+v", other.Mix)
	}
	// packed without loss, by a decoder that is not ours
	run("render", "--bundle", bundled, "--out", there, "--flac")
	sum := func(args ...string) []byte {
		out, err := exec.Command("sox", append(args, "-t", "raw", "-")...).Output()
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	if x, y := sum(mixFile), sum(filepath.Join(there, "Lock-Seven_mix_92.flac")); !bytes.Equal(x, y) || len(x) == 0 {
		t.Errorf("FLAC and WAV are not the same samples: %d and %d bytes", len(x), len(y))
	}

	_ = eval[bool](w, `([...document.querySelectorAll('[data-id="export"] button')].find(x=>x.textContent==='Back to the mix').click(),true)`)
	for range 12 {
		if b.mixOf(id).Undo == "" {
			break
		}
		w.key("z", chromedp.ModifierCtrl)
		w.saved()
	}
	if p := b.mixOf(id); len(p.Mix.Outputs) != 0 || len(p.Mix.Strips) != 0 {
		t.Errorf("undone, the mix is %+v", p.Mix)
	}
}

func same(t *testing.T, a, b any) bool {
	t.Helper()
	x, err := json.Marshal(a)
	if err != nil {
		t.Fatal(err)
	}
	y, err := json.Marshal(b)
	if err != nil {
		t.Fatal(err)
	}
	return bytes.Equal(x, y)
}
