package e2e

import (
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"hexachord/core/pattern"
)

// pull presses at one place and lets go at another, with keys held.
func (w window) pull(x0, y0, x1, y1 float64, button chromedp.MouseOption, mods ...chromedp.Modifier) {
	w.t.Helper()
	held := chromedp.ButtonModifiers(mods...)
	w.do(chromedp.MouseEvent(chromedp.MousePressed, x0, y0, button, chromedp.ClickCount(1), held))
	for i := 1; i <= 4; i++ {
		w.do(chromedp.MouseEvent(chromedp.MouseMoved, x0+(x1-x0)*float64(i)/4, y0+(y1-y0)*float64(i)/4, button, held))
	}
	w.do(chromedp.MouseEvent(chromedp.MouseReleased, x1, y1, button, chromedp.ClickCount(1), held))
}

func ticksOf(p pattern.Pattern, note int) (out []int) {
	for _, h := range p.Hits {
		if h.Note == note {
			out = append(out, h.Tick)
		}
	}
	return out
}

// Every gesture of the Steps, on a pattern made for it: kick on 1, 5, 9, 13 of one straight bar.
func TestGesturesOfTheSteps(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.key("T")
	w.until("the new pattern", `document.querySelectorAll('[data-hit]').length===0`)
	for _, step := range []int{0, 4, 8, 12} {
		x, y := w.at(kickRow, step)
		w.do(chromedp.MouseClickXY(x, y))
		w.saved()
	}
	now := func() pattern.Pattern { t.Helper(); w.saved(); return b.patterns(id)[2] }
	want := func(what string, note int, ticks ...int) {
		t.Helper()
		if got := ticksOf(now(), note); !slices.Equal(got, ticks) {
			t.Errorf("%s: note %d at %v, want %v", what, note, got, ticks)
		}
	}
	want("clicked", 36, 0, 960, 1920, 2880)
	slot := eval[float64](w, `(document.querySelector('[data-id="stage"]').getBoundingClientRect().width-28)/16`)

	x, y := w.at(kickRow, 4)
	w.pull(x, y, x+slot/4, y, chromedp.ButtonLeft) // a quarter of a step to the right
	if lean := ticksOf(now(), 36)[1] - 960; lean < 52 || lean > 68 {
		t.Errorf("leant by %d ticks, a quarter of a step is 60", lean)
	}
	w.key("z", chromedp.ModifierCtrl)
	want("undone", 36, 0, 960, 1920, 2880)

	x1, y1 := w.at(snareRow, 6)
	w.pull(x, y, x1, y1, chromedp.ButtonLeft, chromedp.ModifierAlt)
	want("moved to another lane", 38, 1440)
	want("moved away", 36, 0, 1920, 2880)
	x0, y0 := w.at(kickRow, 8)
	w.pull(x0, y0, x1, y0, chromedp.ButtonLeft, chromedp.ModifierCtrl)
	want("copied", 36, 0, 1440, 1920, 2880)
	left, _ := w.at(kickRow, 0)
	right, _ := w.at(kickRow, 8)
	w.pull(left, y0, right, y0, chromedp.ButtonRight)
	if got := ticksOf(now(), 36); slices.Contains(got, 0) || slices.Contains(got, 1920) || !slices.Contains(got, 2880) {
		t.Errorf("wiped from step 1 to 9: %v are left", got)
	}

	// several lanes at once: the snare chosen with the kick, both filled on the beats
	w.do(chromedp.MouseClickXY(120, y0))
	w.do(chromedp.MouseEvent(chromedp.MousePressed, 120, y1, chromedp.ButtonLeft, chromedp.ClickCount(1), chromedp.ButtonModifiers(chromedp.ModifierShift)))
	w.do(chromedp.MouseEvent(chromedp.MouseReleased, 120, y1, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	w.click(`[data-id="lane-menu"]`)
	w.until("two lanes", `document.querySelector('[data-id="lane-tools"]').textContent.startsWith('2 lanes')`)
	_ = eval[bool](w, `([...document.querySelectorAll('[data-id="lane-tools"] button')].find(e=>e.textContent.trim()==='beats').click(),true)`)
	want("filled", 36, 0, 960, 1920, 2880)
	want("filled", 38, 0, 960, 1920, 2880)
	w.key(kb.Escape)

	// velocities along a line: Shift on the strip, from near the top at the left to near the foot at the right
	sx, sy := w.middle(`[data-id="strip"]`)
	box := eval[float64](w, `document.querySelector('[data-id="strip"]').getBoundingClientRect().width`)
	w.pull(sx-box/2+20, sy-40, sx+box/2-20, sy+25, chromedp.ButtonLeft, chromedp.ModifierShift)
	p := now()
	last := 128
	for _, h := range p.Hits {
		if h.Note == 38 {
			if h.Velocity >= last {
				t.Errorf("along the line velocity %d follows %d", h.Velocity, last)
			}
			last = h.Velocity
		}
	}

	// copied and pasted into another bar
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="stage"]`)))
	w.key("O") // twice as long
	w.until("two bars", `document.querySelectorAll('.crown g[role="button"]').length===2`)
	w.key("]")
	w.until("the cursor comes along", `/^Step [1-9]/.test(document.querySelector('[data-id="hit-facts"]').textContent)&&document.querySelector('[data-id="bar"]').textContent.startsWith('Bar 2')`)
	w.key("c", chromedp.ModifierCtrl, chromedp.ModifierShift)
	w.key("[")
	w.key("v", chromedp.ModifierCtrl)
	p = now()
	if a, c := len(ticksOf(p, 36)), len(p.Hits); p.Bars != 2 || a != 8 || c != 16 {
		t.Errorf("%d bars, %d kicks, %d hits after pasting a bar over its like", p.Bars, a, c)
	}

	// digits are faces, on the grid too, and never a hit's velocity unless one is asked for: then they show until they take effect
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="stage"]`)))
	w.key("[")
	w.do(chromedp.KeyEvent(kb.Home))
	w.click(`.lane[data-note="36"] .nm`)
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="stage"]`)))
	w.key("y9")
	w.until("shown", `document.querySelector('[data-id="typing"]')?.textContent==='9'`)
	w.key("1" + kb.Enter)
	w.until("taken", `document.querySelector('[data-id="hit-facts"]').textContent.includes('velocity 91')`)
	w.key("y7" + kb.Escape)
	w.until("left", `document.querySelector('[data-id="hit-facts"]').textContent.includes('velocity 91')`)
	w.key("4")
	w.until("on Sounds", `!document.querySelector('[data-id="stage"]')`)
}

// A lane with its own grid has its own columns: six of a triplet grid where the others have eight.
func TestALaneWithItsOwnGrid(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.key("T")
	w.until("the new pattern", `document.querySelectorAll('[data-hit]').length===0`)
	x, y := w.at(hatRow, 0)
	w.do(chromedp.MouseClickXY(x, y))
	w.saved()
	w.click(`[data-id="lane-menu"]`)
	w.until("lane tools", `document.querySelector('[data-id="lane-grid"]')!==null`)
	w.do(chromedp.Click(chromedp.CSS(`[data-id="lane-grid"]`), chromedp.NodeVisible))
	w.choose("1/8t")
	w.saved()
	w.key(kb.Escape)
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="stage"]`)))
	w.key(kb.Home + kb.ArrowRight + kb.Enter)
	w.saved()
	w.key(kb.ArrowRight + kb.Enter)
	w.saved()
	p := b.patterns(id)[2]
	if got := ticksOf(p, 42); !slices.Equal(got, []int{0, 320, 640}) {
		t.Errorf("triplets at %v", got)
	}
	// down to the kick's own sixteenths: the cell nearest in time (640 lies nearest to 720)
	for range kickRow - hatRow {
		w.key(kb.ArrowDown)
	}
	w.key(kb.Enter)
	w.saved()
	if got := ticksOf(b.patterns(id)[2], 36); len(got) != 1 || got[0] != 720 {
		t.Errorf("the kick is set at %v", got)
	}
}
