package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Hits of a hidden lane still sound: they are marked where they are and counted, and one press shows the lane; middle C changes
// in the lane column, too, at once; a lane made by name has what its name says.
func TestNothingOfTheMapIsUnsaid(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	snares := b.mapOf(id).on(38)
	w.key("e")
	w.until("the map", `document.querySelectorAll('.maprow').length===12`)
	w.click(`[data-maprow="38"] .eye`)
	w.saved()
	column := `document.querySelector('.lane[data-note="36"] .nt').textContent`
	if at := eval[string](w, column); at != "36C2" {
		t.Errorf("note 36 is %q", at)
	}
	w.do(chromedp.Click(chromedp.CSS(`.tools .ant-select`), chromedp.NodeVisible))
	w.do(chromedp.Click(chromedp.Search(`//div[contains(@class,"ant-select-item-option")][contains(., "C3")]`), chromedp.NodeVisible))
	w.until("the column follows", column+`==='36C1'`)

	w.click(`[data-id="add-lane"]`)
	w.until("asked for a name", `document.activeElement.dataset.id==='new-lane-name'`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="new-lane-name"]`), "Big open hat"+kb.Enter))
	w.until("made", `document.querySelectorAll('.maprow').length===13`)
	w.saved()
	var made string
	for _, l := range b.mapOf(id).Map.Lanes {
		if l.Name == "Big open hat" {
			made = fmt.Sprint(l.Role, " ", l.Color, " ", l.Note >= 35)
		}
	}
	if made != "open hat hat true" {
		t.Errorf("by its name the lane is %q", made)
	}
	w.do(chromedp.KeyEvent(kb.Escape))
	w.until("Steps", `document.querySelector('[data-id="stage"]')!==null`)
	w.until("counted", fmt.Sprintf(`document.querySelector('[data-id="unseen"]')?.textContent.startsWith('%d ')`, snares))
	if n := eval[int](w, `document.querySelectorAll('[data-unseen="38"]').length`); n == 0 || n > snares {
		t.Errorf("%d of %d unseen hits are marked", n, snares)
	}
	w.shoot("unseen")
	w.click(`[data-id="unseen"]`)
	w.until("shown", `document.querySelector('.lane[data-note="38"]')!==null&&document.querySelector('[data-id="unseen"]')===null`)
	if undo := b.mapOf(id).Undo; !strings.HasPrefix(undo, "Show") {
		t.Errorf("undo %q", undo)
	}
}
