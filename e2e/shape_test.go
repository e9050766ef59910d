package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"hexachord/core/kit"
)

func (w window) drag(x0, y0, x1, y1 float64) {
	w.t.Helper()
	w.do(chromedp.MouseEvent(chromedp.MousePressed, x0, y0, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	for i := 1; i <= 4; i++ {
		f := float64(i) / 4
		w.do(chromedp.MouseEvent(chromedp.MouseMoved, x0+(x1-x0)*f, y0+(y1-y0)*f, chromedp.ButtonLeft))
	}
	w.do(chromedp.MouseEvent(chromedp.MouseReleased, x1, y1, chromedp.ButtonLeft, chromedp.ClickCount(1)))
}

// middle is the centre of an element.
func (w window) middle(selector string) (x, y float64) {
	w.t.Helper()
	at := eval[[2]float64](w, fmt.Sprintf(`(()=>{const b=document.querySelector(%q).getBoundingClientRect();return [b.left+b.width/2,b.top+b.height/2]})()`, selector))
	return at[0], at[1]
}

// A layer's limit is dragged, its take trimmed, reversed and faded on the waveform, its sounds stacked; a sound is drawn
// from a long recording down to a lane. All of it is in the kit, and one undo at a time takes it back.
func TestShapingAndCutting(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	var list struct{ Projects []struct{ ID string } }
	b.getJSON("api/v1/projects", &list)
	id := list.Projects[0].ID
	pad := func(note int) kit.Pad {
		t.Helper()
		p, _ := b.kitOf(id).Kit.Pad(note)
		return p
	}
	w.key("4")
	w.do(chromedp.MouseClickXY(100, 514)) // the snare's lane
	w.until("the snare's ladder", `document.querySelectorAll('.rung').length===4&&document.querySelectorAll('.wave polygon').length>=2`)

	// the limit between the two softest layers, dragged up: both follow, nothing is left open
	x, y := w.middle(`.rung[data-layer="0"] .edge.top`)
	w.drag(x, y, x, y-30)
	w.saved()
	l := pad(38).Layers
	if l[0].Hi <= 42 || l[0].Hi >= 60 || l[1].Lo != l[0].Hi+1 || l[1].Hi != 80 {
		t.Errorf("the limit was dragged to %d–%d, %d–%d", l[0].Lo, l[0].Hi, l[1].Lo, l[1].Hi)
	}
	w.click(`[data-id="even"]`)
	w.until("even ranges", `[...document.querySelectorAll('.box')].some(e=>e.title.includes('velocity 97 to 127'))`)
	w.saved()

	// the softest layer, in the waveform: its end pulled in, reversed
	w.click(`.rung[data-layer="0"] .what`)
	w.until("its waveform", `document.querySelector('[data-grip="end"]')!==null`)
	x, y = w.middle(`[data-grip="end"]`)
	// and reversed before its end has snapped: neither edit may take the other's place
	w.drag(x, y, x-300, y)
	w.do(chromedp.Click(chromedp.Search(`//button[contains(., "Reverse")]`), chromedp.NodeVisible))
	w.until("both shown", `document.querySelector('[aria-pressed="true"].ant-btn')!==null`)
	w.saved()
	w.until("both saved", `fetch('/api/v1/projects/`+id+`').then(r=>r.json()).then(p=>{const s=p.kit.pads.find(x=>x.note===38).layers[0].sounds[0].takes[0].shape;return s.reverse&&s.endFrame>0})`)
	w.saved()
	sh := pad(38).Layers[0].Sounds[0].Takes[0].Shape
	if sh.EndFrame < 2000 || sh.EndFrame > 11000 || !sh.Reverse {
		t.Errorf("shaped %+v", sh)
	}
	w.until("undo is offered", `document.querySelector('[data-id="undo"]:not(:disabled)')!==null`)
	w.key("z", chromedp.ModifierCtrl)
	w.until("redo is offered", `document.querySelector('[data-id="redo"]:not(:disabled)')!==null`)
	w.saved()
	if got := pad(38).Layers[0].Sounds[0].Takes[0].Shape; got.Reverse == (got.EndFrame == sh.EndFrame) {
		t.Errorf("one undo takes one of the two back: %+v", got)
	}

	// a sound stacked on it from the shelf
	w.until("the shelf is filled", `fetch('/api/v1/samples?folder=weigh%20house').then(r=>r.json()).then(r=>r.total>50)`)
	w.key("l")
	w.until("the shelf", `document.querySelectorAll('.sample').length>0`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="shelf-text"]`), "tally-stick-1"))
	w.until("found", `document.querySelectorAll('.sample').length===1`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="shelf-text"]`), kb.ArrowDown))
	w.click(`[data-id="put-on"]`)
	w.do(chromedp.Click(chromedp.Search(`//li[contains(., "Stack on layer 1")]`), chromedp.NodeVisible))
	w.until("stacked", `[...document.querySelectorAll('.box')].some(e=>e.title.includes('2 sounds stacked'))`)
	w.saved()
	if s := pad(38).Layers[0].Sounds; len(s) != 2 || s[1].Takes[0].Source != "tally-stick-1.wav" {
		t.Errorf("stacked %+v", s)
	}

	// a sound drawn from a recording down to the clap's lane: the pad has sounds, so it asks
	w.click(`.shelf .ant-input-clear-icon`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="shelf-text"]`), "quay"))
	w.until("found", `document.querySelectorAll('.sample').length===1`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="shelf-text"]`), kb.ArrowDown))
	w.click(`[data-id="put-on"]`)
	w.do(chromedp.Click(chromedp.Search(`//li[contains(., "Cut sounds")]`), chromedp.NodeVisible))
	w.until("the pieces", `document.querySelectorAll('.opencrown svg g g polygon').length>10`)
	x, y = w.middle(`.opencrown svg g g polygon`)
	_, laneY := w.middle(`[data-cutlane="39"]`)
	before := len(pad(39).Layers)
	w.drag(x+3, y+60, x+3, laneY)
	w.until("it asks", `document.querySelector('[data-id="ask-layer"]')!==null`)
	w.click(`[data-id="ask-layer"]`)
	w.saved()
	w.until("given", `document.querySelector('[data-cutlane="39"] rect')!==null`)
	clap := pad(39)
	last := kit.Take{}
	for _, layer := range clap.Layers {
		if s := layer.Sounds[0].Takes[0]; strings.HasPrefix(s.Source, "quay-walk ") {
			last = s
		}
	}
	if len(clap.Layers) != before+1 || last.Shape.StartFrame < 10000 || last.Shape.EndFrame <= last.Shape.StartFrame {
		t.Errorf("cut: %d layers, %+v", len(clap.Layers), last)
	}
}
