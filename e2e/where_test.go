package e2e

import (
	"math"
	"reflect"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Undo turns to where it acted: the pattern and the bar, and so does redo.
func TestUndoShowsWhereItActed(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.do(chromedp.KeyEvent(kb.PageDown)) // night ferry, two bars
	w.until("two bars", `document.body.textContent.includes('Bar 1 of 2')`)
	w.key("]")
	w.until("bar 2", `document.body.textContent.includes('Bar 2 of 2')`)
	before := b.ticks(id, 1, 49)
	w.do(chromedp.MouseClickXY(w.at(0, 6)))
	w.saved()
	if got := differ(b.ticks(id, 1, 49), before); len(got) != 1 || got[0] != 3840+6*240 {
		t.Fatalf("set at %v", got)
	}
	w.key("[")
	w.until("bar 1", `document.body.textContent.includes('Bar 1 of 2')`)
	w.do(chromedp.KeyEvent(kb.PageUp))
	shown := `document.querySelector('[data-id="pattern"]').textContent`
	w.until("another pattern", shown+`==='towpath'`)
	w.key("z", chromedp.ModifierCtrl)
	w.until("the pattern it acted in", shown+`==='night ferry'`)
	w.until("the bar it acted in", `document.body.textContent.includes('Bar 2 of 2')`)
	w.do(chromedp.KeyEvent(kb.PageUp))
	w.until("another pattern again", shown+`==='towpath'`)
	w.key("y", chromedp.ModifierCtrl)
	w.until("where redo acted", shown+`==='night ferry'&&document.body.textContent.includes('Bar 2 of 2')`)
}

// The first arrow hears the first ready pattern; a hand that draws velocities too fast for the pointer's reports misses none.
func TestReadyByArrowsAndVelocitiesByAFastHand(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.until("something to play", `hexachordPlayer.ready`)
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="stage"]`))) // as after setting steps by keyboard
	w.key("w")
	w.until("ready patterns", `document.querySelector('[data-ready]')!==null`)
	w.do(chromedp.KeyEvent(kb.ArrowDown))
	w.until("the first is heard", `document.querySelector('[data-id="ready-tools"] b')?.textContent===document.querySelector('[data-ready]').dataset.ready`)
	w.do(chromedp.KeyEvent(kb.Escape))
	w.until("put back", `document.querySelector('[data-id="ready-tools"]')===null`)
	w.key("2") // where the list is not shown, arrows are not its own
	w.until("the Roll", `document.querySelector('[data-id="ready"]')===null`)
	w.do(chromedp.KeyEvent(kb.ArrowDown))
	w.key("1")
	w.until("the list again", `document.querySelector('[data-ready]')!==null`)
	if eval[bool](w, `document.querySelector('[data-id="ready-tools"]')!==null`) {
		t.Error("an arrow in the Roll heard a ready pattern")
	}
	w.click(`[data-id="ready"] [aria-label="Shut"]`)

	w.click(`.lane[data-note="42"] .nm`)
	x, y := w.middle(`[data-id="strip"]`)
	half := eval[float64](w, `document.querySelector('[data-id="strip"]').getBoundingClientRect().width/2-16`)
	w.do(chromedp.MouseEvent(chromedp.MousePressed, x-half, y-20, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	w.do(chromedp.MouseEvent(chromedp.MouseMoved, x+half, y-20, chromedp.ButtonLeft))
	w.do(chromedp.MouseEvent(chromedp.MouseReleased, x+half, y-20, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	w.saved()
	velocities := map[int]int{}
	for _, h := range b.patterns(id)[0].Hits {
		if h.Note == 42 && h.Tick < 3840 {
			velocities[h.Velocity]++
		}
	}
	if len(velocities) != 1 {
		t.Errorf("drawn level, the hats have the velocities %v", velocities)
	}
}

// A pattern made shorter says what lies beyond its end, and has it back when it is made longer again.
func TestAShorterPatternKeepsWhatLiesBeyond(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.do(chromedp.KeyEvent(kb.PageDown)) // night ferry, two bars
	w.until("two bars", `document.body.textContent.includes('Bar 1 of 2')`)
	before := b.patterns(id)[1]
	beyond := 0
	for _, h := range before.Hits {
		if h.Tick >= 3840 {
			beyond++
		}
	}
	bars := func(option string) {
		w.do(chromedp.MouseClickXY(w.middle(`[data-id="bars"]`)))
		w.choose(option)
		w.saved()
	}
	bars("1 bar")
	w.until("how many lie beyond", `document.body.textContent.includes('`+itoa(beyond)+` hits lie beyond bar 1')`)
	if got := b.patterns(id)[1]; got.Bars != 1 || len(got.Hits) != len(before.Hits)-beyond {
		t.Fatalf("%d bars, %d hits", got.Bars, len(got.Hits))
	}
	bars("4 bars")
	if got := b.patterns(id)[1]; got.Bars != 4 || !reflect.DeepEqual(got.Hits, before.Hits) {
		t.Errorf("%d bars, %d hits of %d", got.Bars, len(got.Hits), len(before.Hits))
	}
	w.key("z", chromedp.ModifierCtrl)
	w.saved()
	if got := b.patterns(id)[1]; got.Bars != 1 {
		t.Errorf("one undo leaves %d bars", got.Bars)
	}
}

// While a hit is dragged, its velocity or its lean stands beside it, and it is the one that is written.
func TestTheNumberStandsWhereTheHandIs(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	hit := func() (velocity, tick int) {
		t.Helper()
		for _, h := range b.patterns(id)[0].Hits {
			if h.Note == 36 && h.Tick > -240 && h.Tick < 240 {
				return h.Velocity, h.Tick
			}
		}
		t.Fatal("no kick on the first step")
		return 0, 0
	}
	told := `(document.querySelector('[data-id="told"] text')?.textContent??'')`
	drag := func(dx, dy float64) (text string) {
		x, y := w.at(11, 0)
		w.do(chromedp.MouseEvent(chromedp.MousePressed, x, y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
		for i := range 4 {
			f := float64(i+1) / 4
			w.do(chromedp.MouseEvent(chromedp.MouseMoved, x+dx*f, y+dy*f, chromedp.ButtonLeft))
		}
		w.until("a number", told+`!==''`)
		text = eval[string](w, told)
		w.shoot("told")
		w.do(chromedp.MouseEvent(chromedp.MouseReleased, x+dx, y+dy, chromedp.ButtonLeft, chromedp.ClickCount(1)))
		w.saved()
		w.until("none when let go", told+`===''`)
		return text
	}
	said := drag(0, 40)
	if v, _ := hit(); said != itoa(v) || v > 100 {
		t.Errorf("%q is said, velocity %d written", said, v)
	}
	said = drag(16, 0)
	if _, tick := hit(); said != itoa(int(math.Round(float64(tick)*60000/92/960)))+" ms late" || tick <= 0 {
		t.Errorf("%q is said, tick %d written", said, tick)
	}
}
