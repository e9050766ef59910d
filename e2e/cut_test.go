package e2e

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// tightLoop is eight strokes a quarter of a second apart, the first on the first sample.
func tightLoop(t testing.TB, path string) {
	t.Helper()
	dir := t.TempDir()
	kick, hat := filepath.Join(dir, "k.wav"), filepath.Join(dir, "h.wav")
	tone(t, kick, "synth", "0.25", "sine", "160:45", "fade", "q", "0", "0.25", "0.2", "gain", "-2")
	tone(t, hat, "synth", "0.25", "whitenoise", "highpass", "6000", "fade", "q", "0", "0.25", "0.22", "gain", "-9")
	if out, err := exec.Command("sox", kick, hat, kick, hat, kick, hat, hat, hat, path).CombinedOutput(); err != nil {
		t.Fatalf("sox: %v %s", err, out)
	}
}

// A loop trimmed to its first stroke gives all its strokes: one a pad on fresh lanes, each with its own name, and a pattern that
// plays them as the loop did.
func TestATightLoopIsCutToPads(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "weir.wav")
	tightLoop(t, path)
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	before := len(b.kitOf(id).Kit.Pads)
	w.key("4")
	w.until("the Sounds face", `document.querySelector('[data-id="kit-menu"]')!==null`)
	w.drop(640, 64, path)
	w.until("a loop, left to be cut", `document.querySelector('[data-id="left-out"]')?.textContent.includes('a loop')`)
	w.do(chromedp.Click(chromedp.Search(`//div[@data-id="left-out"]//button[contains(., "Cut")]`), chromedp.NodeVisible))
	w.until("eight pieces", `document.body.textContent.includes('8 sounds between marks')`)
	if at := eval[string](w, `document.querySelector('.strip .lab')?.textContent??''`); len(at) < 5 || at[:5] != "0.000" {
		t.Errorf("the first piece begins at %q", at)
	}
	w.shoot("cut-tight")
	w.do(chromedp.Click(chromedp.Search(`//button[contains(., "Spread on pads")]`), chromedp.NodeVisible))
	w.until("its tempo", `document.querySelector('[data-id="with-loop"]')!==null`)
	w.shoot("cut-plan")
	w.click(`[data-id="lay-out"]`)
	w.until("laid out", `document.querySelector('[data-id="dropping"]')===null`)
	w.saved()
	p := b.kitOf(id)
	sources := map[string]int{}
	for _, pad := range p.Kit.Pads {
		for _, l := range pad.Layers {
			if s := l.Sounds[0].Takes[0]; s.Shape.EndFrame > 0 {
				sources[s.Source]++
				if len(pad.Layers) != 1 {
					t.Errorf("a piece shares note %d with %d layers", pad.Note, len(pad.Layers)-1)
				}
			}
		}
	}
	if len(p.Kit.Pads) != before+8 || len(sources) != 8 || sources["weir 1"] != 1 {
		t.Errorf("%d pads, pieces %v", len(p.Kit.Pads), sources)
	}
	m := b.mapOf(id)
	if pt := m.Patterns[len(m.Patterns)-1].Value; len(pt.Hits) != 8 || pt.Name != "weir, as it was" {
		t.Errorf("the pattern %q has %d hits", pt.Name, len(pt.Hits))
	}
}

// The same loop dropped on Steps and told by its strokes: the first is heard in Break, and by the command.
func TestATightLoopIsHeardFromItsFirstStroke(t *testing.T) {
	path := filepath.Join(t.TempDir(), "weir.wav")
	tightLoop(t, path)
	out := filepath.Join(t.TempDir(), "weir.mid")
	if text, err := exec.Command(bin(t), "convert", path, "--out", out).CombinedOutput(); err != nil {
		t.Fatalf("convert: %v %s", err, text)
	}
	if _, err := os.Stat(out); err != nil {
		t.Fatal(err)
	}
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	w.drop(640, 300, path)
	w.until("heard", `document.querySelector('[data-id="break-bars"]')!==null`)
	var p struct {
		Recordings []struct {
			Heard struct{ Hits []struct{ Time float64 } }
		}
	}
	b.getJSON("api/v1/projects/"+b.firstProject(), &p)
	if len(p.Recordings) != 1 || len(p.Recordings[0].Heard.Hits) < 8 || p.Recordings[0].Heard.Hits[0].Time > 0.005 {
		t.Errorf("heard: %+v", p.Recordings)
	}
}

// A pad is dragged to another lane and swapped; several chosen get a setting together; one sound is spread over six notes; a curve
// is drawn over its time.
func TestPadsAreThingsOneHandles(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	pad := func(note int) string {
		p, _ := b.kitOf(id).Kit.Pad(note)
		p.Note = 0
		return fmt.Sprintf("%+v", p)
	}
	w.key("4")
	snare, kick := pad(38), pad(36)
	w.dragTo(`[data-drop="38"]`, `[data-drop="36"]`)
	w.click(`[data-id="pad-swap"]`)
	w.saved()
	w.until("swapped", fmt.Sprintf(`fetch('api/v1/projects/%s').then(r=>r.json()).then(p=>p.undo.startsWith('Swap'))`, id))
	if pad(36) != snare || pad(38) != kick {
		t.Error("the pads are not swapped whole")
	}
	w.key("z", chromedp.ModifierCtrl)
	w.until("back", fmt.Sprintf(`fetch('api/v1/projects/%s').then(r=>r.json()).then(p=>p.undo==='')`, id))
	// toms and rim together: held, in one step
	w.click(`.lane[data-note="45"] .nm`)
	eval[any](w, `(document.querySelector('.lane[data-note="48"]').dispatchEvent(new PointerEvent('pointerdown',{bubbles:true,shiftKey:true})),null)`)
	w.until("two chosen", `document.querySelector('.padsettings').dataset.several==='2'`)
	w.do(chromedp.Click(chromedp.Search(`//div[contains(@class,"padsettings")]//*[contains(@class,"ant-segmented-item")][contains(., "Held")]`), chromedp.NodeVisible))
	w.saved()
	for _, note := range []int{45, 48} {
		if p, _ := b.kitOf(id).Kit.Pad(note); !p.Held {
			t.Errorf("note %d is not held", note)
		}
	}
	// spread over six notes
	w.click(`.lane[data-note="45"] .nm`)
	lanes := len(b.mapOf(id).Map.Lanes)
	w.click(`[data-id="ladder-more"]`)
	w.do(chromedp.Click(chromedp.Search(`//li[contains(., "Spread it over notes")]`), chromedp.NodeVisible))
	w.shoot("spread")
	w.click(`[data-id="spread-pad"]`)
	w.until("six", fmt.Sprintf(`fetch('api/v1/projects/%s').then(r=>r.json()).then(p=>p.map.lanes.length===%d)`, id, lanes+5))
	w.saved()
	// a level drawn over the snare's time
	w.click(`[data-drop="38"] .box`)
	w.do(chromedp.Click(chromedp.Search(`//div[contains(@class,"tabs")]//*[contains(@class,"ant-segmented-item")][contains(., "Level")]`), chromedp.NodeVisible))
	w.until("to be drawn", `document.querySelector('[data-id="curve"]')!==null`)
	box := eval[[4]float64](w, `(()=>{const b=document.querySelector('[data-id="curve"]').getBoundingClientRect();return [b.left,b.top,b.width,b.height]})()`)
	for i, at := range [][2]float64{{0.1, 0.2}, {0.5, 0.7}, {0.8, 0.3}} {
		w.do(chromedp.MouseClickXY(box[0]+at[0]*box[2], box[1]+at[1]*box[3]))
		w.until("a point", fmt.Sprintf(`document.querySelectorAll('[data-point]').length===%d`, i+1))
		w.saved()
	}
	w.shoot("drawn-level")
	chosen := func() (points int) {
		p, _ := b.kitOf(id).Kit.Pad(38)
		for _, l := range p.Layers {
			points = max(points, len(l.Sounds[0].Takes[0].Shape.Level))
		}
		return points
	}
	if n := chosen(); n != 3 {
		t.Errorf("%d points are kept", n)
	}
	w.do(chromedp.DoubleClick(chromedp.CSS(`[data-point="1"]`), chromedp.NodeVisible))
	w.until("one out", `document.querySelectorAll('[data-point]').length===2`)
	w.saved()
	if n := chosen(); n != 2 {
		t.Errorf("%d points are kept after one was taken out", n)
	}
	w.do(chromedp.KeyEvent(kb.Escape))
}
