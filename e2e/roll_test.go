package e2e

import (
	"reflect"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"hexachord/core/pattern"
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

// What the Roll does to hits chosen: lengths, legato, a line drawn round some, repeating to the end, pasting, all notes.
func TestRollTools(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.key("T")
	w.until("the new pattern", `document.querySelectorAll('[data-hit]').length===0`)
	for _, step := range []int{0, 2} {
		x, y := w.at(kickRow, step)
		w.do(chromedp.MouseClickXY(x, y))
		w.saved()
	}
	w.key("O") // two bars
	w.saved()
	w.do(chromedp.Click(chromedp.Search(`//nav//button[contains(., "Roll")]`), chromedp.NodeVisible))
	w.until("the Roll", `document.querySelector('[data-id="roll"]')!==null`)
	hits := func() pattern.Pattern { t.Helper(); w.saved(); return b.patterns(id)[2] }
	at := func(row, tick int) (x, y float64) {
		box := eval[[3]float64](w, `(()=>{const b=document.querySelector('[data-id="roll"]').getBoundingClientRect();return [b.left,b.top,b.width]})()`)
		return box[0] + float64(tick+120)*box[2]/(2*3840+240), box[1] + float64(row)*32 + 16
	}
	chosen := func(n int) {
		t.Helper()
		w.until("chosen", `document.querySelector('[data-id="roll-chosen"]').textContent.startsWith('`+map[bool]string{true: "a hit", false: itoa(n) + " hits"}[n == 1]+`')`)
	}
	// a line drawn round the first two with Ctrl on paper
	x0, y0 := at(kickRow, -90)
	x1, _ := at(kickRow, 700)
	w.do(chromedp.MouseEvent(chromedp.MousePressed, x0, y0-40, chromedp.ButtonLeft, chromedp.ClickCount(1), chromedp.ButtonModifiers(chromedp.ModifierCtrl)))
	for _, p := range [][2]float64{{x1, y0 - 40}, {x1, y0 + 14}, {x0, y0 + 14}} {
		w.do(chromedp.MouseEvent(chromedp.MouseMoved, p[0], p[1], chromedp.ButtonLeft, chromedp.ButtonModifiers(chromedp.ModifierCtrl)))
	}
	w.do(chromedp.MouseEvent(chromedp.MouseReleased, x0, y0+14, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	chosen(2)
	w.key("W") // legato
	if p := hits(); p.Hits[0].Length != 480 || p.Hits[1].Length != 3840-480 {
		t.Errorf("legato: %d and %d ticks", p.Hits[0].Length, p.Hits[1].Length)
	}
	w.key(kb.ArrowLeft, chromedp.ModifierAlt) // a step shorter
	if p := hits(); p.Hits[0].Length != 240 {
		t.Errorf("a step shorter: %d", p.Hits[0].Length)
	}
	// repeated to the end: every beat has the two
	w.key("D", chromedp.ModifierCtrl, chromedp.ModifierShift)
	p := hits()
	if got := ticksOf(p, 36); len(got) != 16 || got[2] != 960 || got[15] != 2*3840-960+480 {
		t.Errorf("repeated: %v", got)
	}
	// quantised with a range: what leans less stays
	w.key("a", chromedp.ModifierCtrl)
	chosen(16)
	w.key(kb.ArrowRight, chromedp.ModifierShift)
	w.saved()
	w.click(`[data-id="quantise-how"]`)
	w.retype(`[aria-label="Quantise leaves, ms"]`, "5")
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="roll"]`)))
	w.key("q")
	if got := ticksOf(hits(), 36); got[0] != 1 {
		t.Errorf("a hit one tick late is moved to %d though 5 ms are left alone", got[0])
	}
	w.retype(`[aria-label="Quantise leaves, ms"]`, "0")
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="roll"]`)))
	w.key("a", chromedp.ModifierCtrl)
	chosen(16)
	w.key("q")
	if got := ticksOf(hits(), 36); got[0] != 0 {
		t.Errorf("quantised to %d", got[0])
	}
	// all 128 notes, and back
	w.key("I")
	w.until("all notes", `document.querySelectorAll('.lane').length===128`)
	w.key("I")
	w.until("named lanes", `document.querySelectorAll('.lane').length===12`)
}
