package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A break is heard again through other music: what that changes is seen first, before and after; nothing is changed until it is taken; a
// correction is kept; what is left out can be listened to.
func TestABreakIsHeardAgain(t *testing.T) {
	b, w, id := broughtBreak(t)
	if n := eval[int](w, `document.querySelectorAll('[data-id="earlier-ears"]').length`); n != 0 {
		t.Error("a fresh hearing is offered to be heard again by better ears")
	}
	before := b.recordingOf(id)
	x, y := w.middle(`[data-heard="38"]`)
	w.do(chromedp.MouseClickXY(x, y))
	w.key(kb.Delete)
	w.until("taken out", `document.querySelectorAll('[data-state="out"]').length===1`)
	w.saved()

	w.click(`[data-id="hearing-menu"]`)
	w.until("the panel", `document.querySelector('[data-id="hear-again"]')!==null`)
	w.shoot("hear-again-panel")
	w.do(chromedp.Click(chromedp.Search(`//label[.="only the drums"]`), chromedp.NodeVisible))
	w.click(`[data-id="hear-again"]`)
	w.until("what changes", `/Heard again.*as before.*1 correction of yours kept/.test(document.querySelector('[data-id="again-bar"]')?.textContent??'')`)
	w.shoot("hear-again")
	if n := b.recordingOf(id); len(n.Heard.Hits) != len(before.Heard.Hits) {
		t.Errorf("looking changed %d hits to %d", len(before.Heard.Hits), len(n.Heard.Hits))
	}
	w.do(chromedp.Click(chromedp.Search(`//div[@data-id="again-bar"]//label[.="before"]`), chromedp.NodeVisible))
	w.until("as it was", fmt.Sprintf(`document.querySelectorAll('[data-state="out"]').length===1&&document.querySelectorAll('[data-heard]').length<=%d`, len(before.Heard.Hits)))
	w.click(`[data-id="again-take"]`)
	w.until("taken", fmt.Sprintf(`fetch('/api/v1/projects/%s').then(r=>r.json()).then(p=>p.undo==='Hear again'&&p.recordings[0].heard.drums===true&&p.recordings[0].heard.hits.filter(h=>h.state==='out').length===1)`, id))

	w.click(`[data-id="hearing-menu"]`)
	w.do(chromedp.Click(chromedp.Search(`//div[@data-id="play-part"]//label[.="the rest"]`), chromedp.NodeVisible))
	w.key(kb.Escape)
	w.until("the rest is asked for", `performance.getEntriesByType('resource').some(e=>/pass\?.*part=left/.test(e.name))`)
}
