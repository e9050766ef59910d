package e2e

import (
	"reflect"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Roll and Steps are two views of one pattern: what is drawn, moved and lifted in one is in the other.
func TestRollIsAnotherViewOfTheSameHits(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	var list struct{ Projects []struct{ ID string } }
	b.getJSON("api/v1/projects", &list)
	id := list.Projects[0].ID
	w.key("T") // Shift+T: a new pattern
	w.until("the new pattern", `document.querySelectorAll('[data-hit]').length===0`)
	hits := func() []hit { t.Helper(); return b.project(id).Patterns[2].Value.Hits }
	// in Steps: kick on 1 and 3
	for _, step := range []int{0, 8} {
		x, y := w.at(kickRow, step)
		w.do(chromedp.MouseClickXY(x, y))
	}
	w.saved()
	inSteps := hits()
	for range 2 {
		w.key("z", chromedp.ModifierCtrl)
	}
	w.until("undone", `document.querySelectorAll('[data-hit]').length===0`)
	w.saved()
	// in Roll: the same, one bar of 3,840 ticks with 120 before and after it
	w.do(chromedp.Click(chromedp.Search(`//nav//button[contains(., "Roll")]`), chromedp.NodeVisible))
	w.until("the Roll", `document.querySelector('[data-id="roll"]')!==null`)
	at := func(row, tick int) (x, y float64) {
		box := eval[[3]float64](w, `(()=>{const b=document.querySelector('[data-id="roll"]').getBoundingClientRect();return [b.left,b.top,b.width]})()`)
		return box[0] + float64(tick+120)*box[2]/(3840+240), box[1] + float64(row)*32 + 16
	}
	for _, tick := range []int{12, 1920 - 10} { // near the line: it snaps
		x, y := at(kickRow, tick)
		w.do(chromedp.MouseClickXY(x, y))
		w.saved()
		w.key(kb.Escape)
	}
	if got := hits(); !reflect.DeepEqual(got, inSteps) {
		t.Fatalf("drawn in Roll %+v, clicked in Steps %+v", got, inSteps)
	}
	// chosen all, moved up a lane with a sound, a step later, harder, and leant by a tick
	struck := eval[int](w, `hexachordPlayer.started.filter(s=>s.live).length`)
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="roll"]`)))
	w.key("a", chromedp.ModifierCtrl)
	w.until("chosen", `document.querySelector('[data-id="roll-chosen"]').textContent==='2 hits chosen'`)
	for _, k := range []string{kb.ArrowUp, kb.ArrowRight, "="} {
		w.key(k)
		w.saved()
	}
	w.key(kb.ArrowRight, chromedp.ModifierShift)
	w.saved()
	w.until("sounded as it moved", `hexachordPlayer.started.filter(s=>s.live&&s.note===38).length>0&&hexachordPlayer.started.filter(s=>s.live).length>`+itoa(struck))
	if got := hits(); len(got) != 2 || got[0].Note != 38 || got[0].Tick != 241 || got[1].Tick != 2161 || got[0].Velocity != inSteps[0].Velocity+4 {
		t.Errorf("moved: %+v", got)
	}
	// at the end of the pattern a step is taken whole by all or not at all
	for range 9 {
		w.key(kb.ArrowRight)
		w.saved()
	}
	if got := hits(); got[0].Tick != 241+6*240 || got[1].Tick != 2161+6*240 {
		t.Errorf("against the end: %+v", got)
	}
	for range 6 {
		w.key(kb.ArrowLeft)
		w.saved()
	}
	// dragged with Ctrl: a copy; erased with the right button
	x0, y0 := at(snareRow, 241)
	x1, y1 := at(kickRow, 961)
	w.key(kb.Escape)
	w.do(chromedp.MouseEvent(chromedp.MousePressed, x0, y0, chromedp.ButtonLeft, chromedp.ClickCount(1), chromedp.ButtonModifiers(chromedp.ModifierCtrl)))
	w.do(chromedp.MouseEvent(chromedp.MouseMoved, x1, y1, chromedp.ButtonLeft, chromedp.ButtonModifiers(chromedp.ModifierCtrl)))
	w.do(chromedp.MouseEvent(chromedp.MouseReleased, x1, y1, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	w.saved()
	w.until("copied", `document.querySelector('[data-id="roll"]').ariaLabel.endsWith(': 3 hits')`)
	w.key("1")
	w.until("in Steps too", `document.querySelectorAll('[data-hit]').length===3&&document.querySelector('[data-hit="36 960"]')!==null`)
}
