package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A number that is typed takes effect once, on Enter or when its field is left; arrow keys on a slider once they rest.
func TestNumbersTakeEffectOnce(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.key("4")
	w.click(`[data-drop="38"] .box`)
	w.until("four layers", `document.querySelectorAll('.rung').length===4`)
	w.click(`[data-layer="0"] .what`)
	const hardest, softest = `[aria-label="Hardest velocity of the layer"]`, `[aria-label="Softest velocity of the layer"]`
	one := func(what string, do func()) {
		t.Helper()
		before := b.kitOf(id).Revision
		do()
		w.until(what, fmt.Sprintf(`fetch('api/v1/projects/%s').then(r=>r.json()).then(p=>p.revision>%d)`, id, before))
		w.saved()
		time.Sleep(100 * time.Millisecond)
		if n := b.kitOf(id).Revision - before; n != 1 {
			t.Errorf("%s: %d steps, one is meant", what, n)
		}
	}
	ranges := func() string {
		out := ""
		p, _ := b.kitOf(id).Kit.Pad(38)
		for _, l := range p.Layers {
			out += fmt.Sprintf("%d-%d ", l.Lo, l.Hi)
		}
		return out
	}
	typed := func(selector, text, end string) {
		w.do(chromedp.Focus(chromedp.CSS(selector)))
		eval[any](w, `(document.activeElement.select(),null)`)
		w.do(chromedp.SendKeys(chromedp.CSS(selector), text+end))
	}
	one("the first layer up to 4, with the next from 5", func() { typed(hardest, "4", kb.Enter) })
	one("a thin layer up to 37", func() { typed(hardest, "37", kb.Tab) })
	if got := ranges(); got != "1-37 38-80 81-100 101-127 " {
		t.Errorf("ranges %s", got)
	}
	w.click(`[data-layer="1"] .what`)
	one("the second layer from 41", func() { typed(softest, "41", kb.Enter) })
	if got := ranges(); got != "1-40 41-80 81-100 101-127 " {
		t.Errorf("ranges %s", got)
	}
	one("a fade of 120 ms", func() { typed(`[aria-label="out, ms"]`, "120", kb.Enter) })
	before := b.kitOf(id).Revision
	typed(`[aria-label="out, ms"]`, "7", kb.Escape)
	time.Sleep(200 * time.Millisecond)
	if n := b.kitOf(id).Revision; n != before {
		t.Errorf("a number left with Escape made %d steps", n-before)
	}
	level := func() float64 {
		p, _ := b.kitOf(id).Kit.Pad(38)
		return p.LevelDB
	}
	was := level()
	one("three arrow keys on a slider", func() {
		w.do(chromedp.Focus(chromedp.CSS(`.padsettings [role="slider"][aria-label="Level"]`)))
		for range 3 {
			w.do(chromedp.KeyEvent(kb.ArrowRight))
		}
	})
	if d := level() - was; d != 1.5 {
		t.Errorf("three steps of half a decibel make %g dB", d)
	}

	// a layer is taken out at the ladder, and a neighbour closes the gap
	w.click(`[data-layer="1"] .what`)
	one("the second layer out", func() { w.click(`[data-id="remove-layer"]`) })
	if got := ranges(); got != "1-40 81-100 101-127 " {
		t.Errorf("without the second layer: %s", got)
	}
	w.click(`[data-id="gap"]`)
	one("closed halfway", func() { w.click(`.ant-dropdown-menu-item:nth-child(3)`) })
	if got := ranges(); got != "1-60 61-100 101-127 " {
		t.Errorf("the gap closed halfway: %s", got)
	}
}
