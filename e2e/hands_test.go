package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

func (w window) bar() int {
	w.t.Helper()
	return eval[int](w, `Number(document.body.textContent.match(/Bar (\d+) of/)?.[1]??0)`)
}

// ticks are where a lane's hits of the pattern lie.
func (b *bench) ticks(project string, pattern, note int) (out []int) {
	b.t.Helper()
	for _, h := range b.mapOf(project).Patterns[pattern].Value.Hits {
		if h.Note == note {
			out = append(out, h.Tick)
		}
	}
	return out
}

// While it plays, the page turns and the cursor with it: Enter acts on what is shown. It does not turn under a hand that paints,
// and one stroke paints one bar.
func TestThePageTurnsWithTheCursorAndNotUnderTheHand(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.do(chromedp.KeyEvent(kb.PageDown)) // night ferry, two bars
	w.until("two bars", `document.body.textContent.includes('Bar 1 of 2')`)
	w.until("something to play", `hexachordPlayer.ready`)
	before := b.ticks(id, 1, 37)
	// the cursor on the rim, on a step of bar 1
	w.click(`.lane[data-note="37"] .nm`)
	eval[any](w, `(document.querySelector('[data-id="stage"]').focus(),null)`)
	w.key(" ")
	w.until("the page turned", `document.body.textContent.includes('Bar 2 of 2')`)
	w.key(" ")
	w.until("stopped", `!hexachordPlayer.last?.playing`)
	shown := w.bar()
	eval[any](w, `(document.querySelector('[data-id="stage"]').focus(),null)`)
	w.do(chromedp.KeyEvent(kb.Enter))
	w.saved()
	after := b.ticks(id, 1, 37)
	for _, tick := range append(differ(before, after), differ(after, before)...) {
		if tick/3840+1 != shown {
			t.Errorf("Enter acted on tick %d, in bar %d; bar %d is shown", tick, tick/3840+1, shown)
		}
	}
	if len(after) == len(before) {
		t.Error("Enter did nothing")
	}

	// a stroke that is held while the loop goes on
	w.key("[[")
	w.until("bar 1", `document.body.textContent.includes('Bar 1 of 2')`)
	w.key(" ")
	w.until("bar 1 again", `document.body.textContent.includes('Bar 1 of 2')`)
	crash := b.ticks(id, 1, 49)
	x, y := w.at(0, 4)
	w.do(chromedp.MouseEvent(chromedp.MousePressed, x, y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	held := w.bar()
	w.until("it plays in the other bar", fmt.Sprintf(`(hexachordPlayer.last.atS%%5.217>2.7)===%v`, held == 1))
	if now := w.bar(); now != held {
		t.Errorf("the page turned from bar %d to %d under a held button", held, now)
	}
	x2, _ := w.at(0, 8)
	w.do(chromedp.MouseEvent(chromedp.MouseMoved, x2, y, chromedp.ButtonLeft))
	w.do(chromedp.MouseEvent(chromedp.MouseReleased, x2, y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	w.key(" ")
	w.saved()
	for _, tick := range differ(b.ticks(id, 1, 49), crash) {
		if tick/3840+1 != held {
			t.Errorf("painted at tick %d, outside bar %d", tick, held)
		}
	}
}

// differ lists what is in a and not in b.
func differ(a, b []int) (out []int) {
	in := map[int]bool{}
	for _, v := range b {
		in[v] = true
	}
	for _, v := range a {
		if !in[v] {
			out = append(out, v)
		}
	}
	return out
}

// A lane that gets another grid keeps the cursor where it is in time; the whole of a lane is set to 127; in Roll every click on an
// empty place draws a hit, and quantising keeps what is chosen.
func TestEveryClickCounts(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.click(`.lane[data-note="42"] .nm`)
	eval[any](w, `(document.querySelector('[data-id="stage"]').focus(),null)`)
	w.do(chromedp.KeyEvent(kb.End)) // step 16
	w.key("o")
	w.until("lane tools", `document.querySelector('[data-id="lane-tools"]')!==null`)
	w.retype(`[aria-label="Velocity of all"]`, "127")
	w.click(`[data-id="set-velocity"]`)
	w.saved()
	for _, h := range b.mapOf(id).Patterns[0].Value.Hits {
		if h.Note == 42 && h.Velocity != 127 {
			t.Errorf("set to %d, 127 is meant", h.Velocity)
		}
	}
	before := b.ticks(id, 0, 42)
	eval[any](w, `(document.querySelector('[data-id="lane-grid"]').dispatchEvent(new MouseEvent('mousedown',{bubbles:true})),null)`)
	w.do(chromedp.Click(chromedp.Search(`//div[contains(@class,"ant-select-item-option")][@title="1/8t" or .="1/8t"]`), chromedp.NodeVisible))
	w.saved()
	w.do(chromedp.KeyEvent(kb.Escape))
	eval[any](w, `(document.querySelector('[data-id="stage"]').focus(),null)`)
	w.do(chromedp.KeyEvent(kb.Enter))
	w.saved()
	for _, tick := range append(differ(b.ticks(id, 0, 42), before), differ(before, b.ticks(id, 0, 42))...) {
		if tick < 3000 || tick >= 3840 {
			t.Errorf("Enter acted at tick %d, the cursor stood at the end of the bar", tick)
		}
	}

	w.key("2")
	w.until("the roll", `document.querySelector('[data-id="roll"]')!==null`)
	count := func() int { return len(b.mapOf(id).Patterns[0].Value.Hits) }
	was := count()
	box := eval[[2]float64](w, `(()=>{const b=document.querySelector('[data-id="roll"]').getBoundingClientRect();return [b.left,b.top]})()`)
	for i := range 3 {
		w.do(chromedp.MouseClickXY(box[0]+150+float64(i)*230, box[1]+16))
		w.until("drawn", fmt.Sprintf(`fetch('api/v1/projects/%s').then(r=>r.json()).then(p=>p.patterns[0].value.hits.length===%d)`, id, was+i+1))
	}
	w.key("q")
	w.saved()
	w.do(chromedp.KeyEvent(kb.Delete)) // the one drawn last is still chosen
	w.until("one fewer", fmt.Sprintf(`fetch('api/v1/projects/%s').then(r=>r.json()).then(p=>p.patterns[0].value.hits.length===%d)`, id, was+2))
}
