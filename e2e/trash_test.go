package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Samples are thrown away from the shelf by a key, one after another or several at once, are found in the trash by name, come back,
// and go for good when it is emptied.
func TestSamplesAreThrownAwayAndComeBack(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	w.key("l")
	w.until("the shelf", `document.activeElement?.getAttribute('data-id')==='shelf-text'`)
	w.do(chromedp.KeyEvent("gate-boom"))
	w.until("found", `document.querySelectorAll('.samples [role="option"]').length===1`)
	_ = eval[bool](w, `(document.querySelector('[data-id="shelf-text"]').select(),true)`)
	w.do(chromedp.KeyEvent("wet-rope"))
	w.until("three", `document.querySelectorAll('.samples [role="option"]').length===3`)
	w.tabTo(`.samples`, false)
	w.key(kb.ArrowDown)
	w.do(chromedp.KeyEvent(kb.Delete))
	w.until("one is gone, the next is chosen", `document.querySelectorAll('.samples [role="option"]').length===2&&document.querySelector('.samples [aria-selected="true"] b').textContent==='wet-rope-slap-2'`)
	w.do(chromedp.KeyEvent(kb.ArrowDown, chromedp.KeyModifiers(chromedp.ModifierShift)))
	w.do(chromedp.KeyEvent(kb.Delete))
	w.until("both are gone", `document.querySelectorAll('.samples [role="option"]').length===0`)
	w.shoot("trash-shelf")

	w.key(kb.Escape)
	w.key("J")
	w.until("in the trash", `document.querySelectorAll('[data-trash^="wet-rope-slap"]').length===3`)
	w.shoot("trash")
	w.click(`[data-trash="wet-rope-slap-2.wav"] button`)
	w.until("restored", `document.querySelector('[data-trash="wet-rope-slap-2.wav"]')===null`)
	w.click(`[data-id="empty-trash"]`)
	w.until("empty", `document.querySelector('[data-trash]')===null`)
	var found struct{ Items []struct{ Name string } }
	if b.getJSON("api/v1/samples?text=wet-rope", &found); len(found.Items) != 1 || found.Items[0].Name != "wet-rope-slap-2.wav" {
		t.Errorf("left on the shelf: %+v", found.Items)
	}
}
