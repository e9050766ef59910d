package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Bars stand side by side and are edited where they stand; held, one alone is played round and round, and the page stays.
func TestBarsSideBySideAndHeld(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.until("something to play", `hexachordPlayer.ready`)
	w.do(chromedp.KeyEvent(kb.PageDown)) // night ferry, two bars
	shown := `document.querySelector('[data-id="bar"]').textContent`
	w.until("one bar", shown+`==='Bar 1 of 2'`)
	w.do(chromedp.KeyEvent(kb.ArrowLeft, chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	w.until("two bars", shown+`==='Bars 1, 2 of 2'`)
	before := b.ticks(id, 1, 49)
	box := eval[[3]float64](w, `(()=>{const b=document.querySelector('[data-id="stage"]').getBoundingClientRect();return [b.left,b.top,b.width]})()`)
	slot := (box[2] - 28) / 32
	w.do(chromedp.MouseClickXY(box[0]+14+slot*22.5, box[1]+16)) // bar 2, step 7
	w.saved()
	if got := differ(b.ticks(id, 1, 49), before); len(got) != 1 || got[0] != 3840+6*240 {
		t.Fatalf("set at %v", got)
	}
	if said := eval[string](w, `document.querySelector('[data-id="announce"]').textContent`); said != "Tin roof, bar 2, step 7, velocity 100, layer 2, on the grid" {
		t.Errorf("the cursor is on %q", said)
	}
	w.do(chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	w.until("the bar of the cursor", shown+`==='Bar 2 of 2'`)
	w.key("\\")
	w.until("held", `document.querySelector('[data-id="held"]')!==null`)
	w.key(" ")
	w.until("twice through", `hexachordPlayer.last?.passes>=2`)
	w.key(" ")
	if got := eval[[]int](w, `[...new Set(hexachordPlayer.started.filter(s=>!s.live).map(s=>Math.floor((s.tick+60)/3840)))]`); len(got) != 1 || got[0] != 1 {
		t.Errorf("with bar 2 held, hits of the bars %v sounded (from 0)", got)
	}
	if at := eval[string](w, shown); at != "Bar 2 of 2" {
		t.Errorf("the page turned to %q", at)
	}
	w.key("\\")
	w.key(" ")
	w.until("all of it again", `hexachordPlayer.started.some(s=>!s.live&&s.tick<3000)`)
}

// The Roll is played by keys alone: the cursor moves, Enter sets and chooses, what is chosen moves, Delete erases; what it stands on is
// said. Only lanes with hits are shown in one press, and a lane that gets one comes back.
func TestTheRollByKeysAndLanesWithHits(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.key("2")
	w.until("the Roll", `document.querySelector('[data-id="roll"] canvas')!==null`)
	w.click(`.lane[data-note="49"] .nm`)
	said := `document.querySelector('[data-id="roll-said"]').textContent`
	before := b.ticks(id, 0, 49)
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="roll"]`)))
	w.key(kb.ArrowRight + kb.ArrowRight + kb.ArrowRight)
	w.until("the cursor", said+`==='Tin roof, Bar 1, step 4, empty'`)
	w.key(kb.Enter)
	w.saved()
	w.until("set", said+`.startsWith('Tin roof, Bar 1, step 4, velocity 100')`)
	w.key("+")
	w.key(kb.Enter)
	w.until("chosen", said+`==='a hit chosen'`)
	w.key(kb.ArrowRight)
	w.saved()
	if got := differ(b.ticks(id, 0, 49), before); len(got) != 1 || got[0] != 4*240 {
		t.Fatalf("moved to %v", got)
	}
	w.key(kb.Escape)
	w.key(kb.ArrowRight)
	w.key(kb.Delete)
	w.until("erased", fmt.Sprintf(`fetch('/api/v1/projects/%s').then(r=>r.json()).then(p=>p.patterns[0].value.hits.filter(h=>h.note===49).length===%d)`, id, len(before)))

	w.do(chromedp.KeyEvent(kb.PageDown)) // night ferry leaves lanes empty
	lanes := `document.querySelectorAll('.lane').length`
	all := eval[int](w, lanes)
	w.key("@", chromedp.ModifierShift)
	with := len(eval[[]int](w, fmt.Sprintf(`fetch('/api/v1/projects/%s').then(r=>r.json()).then(p=>[...new Set(p.patterns[1].value.hits.map(h=>h.note))])`, id)))
	if with >= all {
		t.Fatalf("%d of %d lanes have hits", with, all)
	}
	w.until("lanes with hits", fmt.Sprintf(`%s===%d`, lanes, with))
	w.do(chromedp.Reload())
	w.until("and after a reload", fmt.Sprintf(`%s===%d`, lanes, with))
}

// Several heard hits are chosen, made louder, copied; the stage goes near and far.
func TestSeveralHeardHits(t *testing.T) {
	b, w, id := broughtBreak(t)
	first := b.recordingOf(id)
	w.do(chromedp.MouseClickXY(100, 514)) // the snare's lane
	w.key(kb.ArrowRight)
	w.do(chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(chromedp.ModifierShift)))
	w.until("two", `document.querySelector('[data-id="heard-chosen"]')?.textContent==='2 hits chosen'`)
	w.key("-")
	w.saved()
	changed := 0
	for i, h := range b.recordingOf(id).Heard.Hits {
		if was := first.Heard.Hits[i].Velocity; h.Velocity == was-4 {
			changed++
		} else if h.Velocity != was {
			t.Errorf("hit %d went from %d to %d", i, was, h.Velocity)
		}
	}
	if changed != 2 {
		t.Errorf("%d hits are 4 softer", changed)
	}
	w.key("c", chromedp.ModifierCtrl)
	w.key("v", chromedp.ModifierCtrl)
	w.until("two more", fmt.Sprintf(`fetch('/api/v1/projects/%s').then(r=>r.json()).then(p=>p.recordings[0].heard.hits.length===%d)`, id, len(first.Heard.Hits)+2))

	seen := func() int { return eval[int](w, `document.querySelectorAll('[data-heard]').length`) }
	two := seen()
	w.click(`[data-id="break-farther"]`)
	w.until("four bars", fmt.Sprintf(`document.querySelectorAll('[data-heard]').length>%d`, two))
	for range 5 {
		w.click(`[data-id="break-nearer"]`)
		time.Sleep(50 * time.Millisecond)
	}
	if n := seen(); n == 0 || n > 4 {
		t.Errorf("half a beat shows %d hits", n)
	}
	w.until("the recording near to", `document.querySelector('.crown path').getAttribute('d').length>9000`)
}

// A new pattern says which feel is in force, and one press is without it.
func TestANewPatternStartsPlain(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.key("T", chromedp.ModifierShift)
	w.until("told", `document.querySelector('[data-id="notice"]')?.textContent.includes('swing 58 %')`)
	w.click(`[data-id="notice-offer"]`)
	w.until("straight", fmt.Sprintf(`fetch('/api/v1/projects/%s').then(r=>r.json()).then(p=>p.patterns.at(-1).value.feel?.swing.percent===50&&p.settings.feel.swing.percent===58)`, id))
	w.until("put away", `document.querySelector('[data-id="notice"]')===null`)
}
