package e2e

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"path/filepath"
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

// A break that an earlier version heard says so and is offered to be heard again; nothing of it has changed until then.
func TestEarlierEarsAreOffered(t *testing.T) {
	dir := t.TempDir()
	b := start(t, dir)
	id := b.firstProject()
	b.ownBreak(id)
	b.stop()
	earlier(t, dir)
	b = start(t, dir)
	before := b.recordingOf(id)
	w := browse(t, b.address)
	w.key("3")
	w.click(`[data-id="earlier-ears"]`)
	w.until("both hearings", `/as before/.test(document.querySelector('[data-id="again-bar"]')?.textContent??'')`)
	if now := b.recordingOf(id); len(now.Heard.Hits) != len(before.Heard.Hits) {
		t.Errorf("offered, it has %d hits, not %d", len(now.Heard.Hits), len(before.Heard.Hits))
	}
	w.click(`[data-id="again-take"]`)
	w.until("not offered any more", `document.querySelector('[data-heard]')!==null&&document.querySelector('[data-id="again-bar"],[data-id="earlier-ears"]')===null`)
}

// earlier takes from the recordings of a data folder what says which networks heard them, as versions did before that was kept.
func earlier(t *testing.T, dir string) {
	t.Helper()
	db, err := sql.Open("sqlite", filepath.Join(dir, "hexachord.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	var body []byte
	if err := db.QueryRow("SELECT body FROM documents WHERE kind = 'recording'").Scan(&body); err != nil {
		t.Fatal(err)
	}
	var doc map[string]any
	if err := json.Unmarshal(body, &doc); err != nil {
		t.Fatal(err)
	}
	heard, ok := doc["heard"].(map[string]any)
	if !ok || heard["ear"] == nil {
		t.Fatalf("the recording does not say which networks heard it: %.200s", body)
	}
	delete(heard, "ear")
	if body, err = json.Marshal(doc); err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec("UPDATE documents SET body = ? WHERE kind = 'recording'", body); err != nil {
		t.Fatal(err)
	}
}
