package e2e

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
)

// drop lets files or folders go over a place of the window, as the desktop does.
func (w window) drop(x, y float64, paths ...string) {
	w.t.Helper()
	data := &input.DragData{Items: []*input.DragDataItem{}, Files: paths, DragOperationsMask: 1}
	for _, kind := range []input.DispatchDragEventType{input.DispatchDragEventTypeDragEnter, input.DispatchDragEventTypeDragOver, input.DispatchDragEventTypeDrop} {
		if _, err := chromedp.Call(w.ctx, input.DispatchDragEvent, input.DispatchDragEventParams{Type: kind, X: x, Y: y, Data: data}); err != nil {
			w.t.Fatal(err)
		}
	}
}

// tone makes a sound with sox.
func tone(t testing.TB, path string, args ...string) {
	t.Helper()
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		t.Fatal(err)
	}
	var said bytes.Buffer
	cmd := exec.Command("sox", append([]string{"-n", "-r", "44100", "-c", "1", path}, args...)...)
	cmd.Stderr = &said
	if err := cmd.Run(); err != nil {
		t.Fatalf("sox %s: %v %s (make test installs it)", strings.Join(args, " "), err, said.Bytes())
	}
}

// ownSamples is a folder of drums: two kicks, a snare struck four ways in a folder of its own, an open hat, and a text.
func ownSamples(t testing.TB) string {
	t.Helper()
	dir := filepath.Join(t.TempDir(), "Harbour")
	tone(t, filepath.Join(dir, "Kicks", "Kick Deep.wav"), "synth", "0.5", "sine", "120:45", "fade", "q", "0", "0.5", "0.45", "gain", "-3")
	tone(t, filepath.Join(dir, "Kicks", "Kick Tight.wav"), "synth", "0.15", "sine", "300:60", "fade", "q", "0", "0.15", "0.14", "gain", "-3")
	for i, gain := range []string{"-24", "-18", "-12", "-6"} {
		tone(t, filepath.Join(dir, "Snares", "dry", "Plank snare v"+string(rune('1'+i))+".wav"), "synth", "0.25", "whitenoise", "lowpass", "5000", "fade", "q", "0", "0.25", "0.24", "gain", gain)
	}
	tone(t, filepath.Join(dir, "Hi-Hat Open.wav"), "synth", "0.8", "whitenoise", "highpass", "7000", "fade", "q", "0", "0.8", "0.75", "gain", "-8")
	if err := os.WriteFile(filepath.Join(dir, "readme.txt"), []byte("not a sound"), 0o600); err != nil {
		t.Fatal(err)
	}
	return dir
}

func (w window) newProject() {
	w.t.Helper()
	w.click(`[data-id="project"]`)
	w.click(`[data-id="new-project"]`)
	w.until("an empty project", `document.querySelector('[data-id="make-lanes"]')!==null`)
}

// A folder dropped on a new project is read with its folders and planned before there are lanes: two kicks have two lanes, one
// snare its four layers; a sample is dragged to another lane and one left out; laid out, undo brings the empty page back.
func TestAFolderOfOwnSamplesMakesAKit(t *testing.T) {
	dir := ownSamples(t)
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	w.newProject()
	w.drop(640, 400, dir)
	w.until("the plan of seven samples", `document.querySelector('[data-id="lay-out"]')?.textContent.includes('Lay out 7')`)
	w.until("four lanes", `document.querySelectorAll('.planrow').length===4`)
	w.shoot("own-plan")
	// the tight kick belongs on the hat's lane, a person thinks; the deep one is left out
	w.dragTo(`[data-plan="36"] [data-sample]`, `[data-id="left-out"]`)
	w.until("one left out", `document.querySelector('[data-id="lay-out"]').textContent.includes('Lay out 6')`)
	w.dragTo(`[data-plan="46"] [data-sample]`, `[data-id="own-lane"]`)
	w.click(`[data-id="lay-out"]`)
	w.until("laid out", `document.querySelector('[data-id="dropping"]')===null&&document.querySelectorAll('.layers').length===3`)
	w.saved()
	w.shoot("own-kit")
	p := b.kitOf(eval[string](w, `localStorage.getItem('hexachord.project')`))
	layers := map[int]int{}
	for _, pad := range p.Kit.Pads {
		layers[pad.Note] = len(pad.Layers)
	}
	if len(layers) != 3 || layers[38] != 4 {
		t.Errorf("layers by note: %v", layers)
	}
	w.key("z", chromedp.ModifierCtrl)
	w.until("the empty page", `document.querySelector('[data-id="make-lanes"]')!==null`)
}

// dragTo drags an element to another by HTML's own drag and drop.
func (w window) dragTo(from, to string) {
	w.t.Helper()
	eval[any](w, `(()=>{const a=document.querySelector(`+"`"+from+"`"+`),b=document.querySelector(`+"`"+to+"`"+`),data=new DataTransfer();`+
		`const go=(el,type)=>el.dispatchEvent(new DragEvent(type,{bubbles:true,cancelable:true,dataTransfer:data}));`+
		`go(a,'dragstart');go(b,'dragenter');go(b,'dragover');go(b,'drop');go(a,'dragend');return null})()`)
}

// A kit dropped on any face is taken as a kit, whether a bundle, a zip with an SFZ file or its folder; a single stroke dropped on
// Steps is asked about, and does not become a recording.
func TestKitsAndStrokesAreToldApart(t *testing.T) {
	dir := t.TempDir()
	tone(t, filepath.Join(dir, "Quay", "wav", "k.wav"), "synth", "0.4", "sine", "120:45", "fade", "q", "0", "0.4", "0.35")
	sfz := "<region> key=36 sample=wav/k.wav\n"
	if err := os.WriteFile(filepath.Join(dir, "Quay", "quay.sfz"), []byte(sfz), 0o600); err != nil {
		t.Fatal(err)
	}
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	bundle := filepath.Join(dir, "boat.zip")
	if err := os.WriteFile(bundle, b.get("api/v1/projects/"+id+"/kit/export?as=bundle"), 0o600); err != nil {
		t.Fatal(err)
	}
	// its map has no lane for most hits: nothing is written before that is decided
	before := b.kitOf(id)
	w.drop(640, 300, filepath.Join(dir, "Quay"))
	w.until("it waits", `document.querySelector('[data-id="carry-none"]')!==null`)
	w.shoot("kit-waits")
	w.click(`[data-id="leave-carry"]`)
	if now := b.kitOf(id); now.Revision != before.Revision {
		t.Errorf("a kit that was left made revision %d of %d", now.Revision, before.Revision)
	}
	w.drop(640, 300, filepath.Join(dir, "Quay"))
	w.until("it waits again", `document.querySelector('[data-id="carry-none"]')!==null`)
	w.click(`[data-id="carry-none"]`)
	w.until("the kit of the folder", `document.querySelector('[data-id="kit"]').textContent.includes('quay')`)
	w.saved()
	if k := b.kitOf(id).Kit; len(k.Pads) != 1 || k.Name != "quay" {
		t.Errorf("the kit is %q with %d pads", k.Name, len(k.Pads))
	}
	w.drop(640, 300, bundle)
	w.until("the kit of the bundle", `document.querySelector('[data-id="kit"]').textContent.includes('Boathouse')`)
	w.saved()
	stroke := filepath.Join(dir, "snap.wav")
	tone(t, stroke, "synth", "0.2", "whitenoise", "fade", "q", "0", "0.2", "0.19")
	w.click(`.bench .face`)
	w.drop(640, 300, stroke)
	w.until("asked", `document.querySelector('[data-id="stroke-shelf"]')!==null`)
	w.shoot("one-stroke")
	w.click(`[data-id="stroke-shelf"]`)
	w.until("on the shelf", `document.querySelector('[data-id="shelf"]')?.textContent.includes('snap')`)
	var p struct{ Recordings []struct{ ID string } }
	if b.getJSON("api/v1/projects/"+id, &p); len(p.Recordings) != 0 {
		t.Errorf("a single stroke made %d recordings", len(p.Recordings))
	}
}
