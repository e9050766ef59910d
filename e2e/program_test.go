package e2e

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"hexachord/core/pattern"
)

// patterns are the project's patterns whole, as the API has them.
func (b *bench) patterns(id string) (out []pattern.Pattern) {
	b.t.Helper()
	var p struct {
		Patterns []struct{ Value json.RawMessage }
	}
	b.getJSON("api/v1/projects/"+id, &p)
	for _, x := range p.Patterns {
		var pt pattern.Pattern
		if err := json.Unmarshal(x.Value, &pt); err != nil {
			b.t.Fatal(err)
		}
		out = append(out, pt)
	}
	return out
}

func (b *bench) firstProject() string {
	b.t.Helper()
	var list struct{ Projects []struct{ ID string } }
	b.getJSON("api/v1/projects", &list)
	return list.Projects[0].ID
}

// ready hears a ready pattern, going through the list to where it is.
func (w window) ready(name string) {
	w.t.Helper()
	w.until("the ready pattern "+name, fmt.Sprintf(`document.querySelector('[data-ready=%q]')!==null || ((document.querySelector('[data-id="ready"] .list')??{}).scrollTop+=300, false)`, name))
	w.click(fmt.Sprintf(`[data-ready=%q]`, name))
}

// choose picks an option of an antd select that is open.
func (w window) choose(option string) {
	w.t.Helper()
	w.until("the option "+option, `[...document.querySelectorAll('.ant-select-item-option')].some(e=>e.textContent===`+quoted(option)+`)`)
	_ = eval[bool](w, `([...document.querySelectorAll('.ant-select-item-option')].find(e=>e.textContent===`+quoted(option)+`).click(),true)`)
}

func quoted(s string) string {
	b, _ := json.Marshal(s)
	return string(b)
}

// beatSteps is the README's first beat: lane, bar (from 0), steps (from 1).
var beatSteps = []struct {
	row, bar int
	steps    []int
}{
	{kickRow, 0, []int{1, 8, 11}}, {snareRow, 0, []int{5, 13}}, {hatRow, 0, []int{1, 3, 5, 7, 9, 11, 13, 15}},
	{kickRow, 1, []int{1, 8, 10}}, {snareRow, 1, []int{5, 13, 16}}, {hatRow, 1, []int{1, 3, 5, 7, 9, 11, 13}},
}

// The README's two-bar beat, from nothing, with the mouse alone and again with the keyboard alone: the same hits.
func TestTheSameBeatByMouseAndByKeyboard(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()

	// by mouse; swing moves the columns, so the place of a step is asked of the page
	w.click(`[data-id="patterns-button"]`)
	w.click(`[data-id="new-pattern"]`)
	w.click(`[data-id="patterns"] [aria-label="Shut"]`)
	w.until("the new pattern", `document.querySelectorAll('[data-hit]').length===0`)
	w.do(chromedp.Click(chromedp.CSS(`[data-id="bars"]`), chromedp.NodeVisible))
	w.choose("2 bars")
	w.saved()
	swing := func(row, step int) (x, y float64) {
		x, y = w.at(row, step-1)
		if step%2 == 0 { // 58 % lays the even steps 0.16 of a step later
			box := eval[float64](w, `document.querySelector('[data-id="stage"]').getBoundingClientRect().width`)
			x += 0.16 * (box - 28) / 16
		}
		return x, y
	}
	bar := 0
	for _, part := range beatSteps {
		if part.bar != bar {
			w.click(`[aria-label="Next bar"]`)
			bar = part.bar
		}
		for _, step := range part.steps {
			x, y := swing(part.row, step)
			w.do(chromedp.MouseClickXY(x, y))
			w.saved()
		}
	}
	x, y := swing(snareRow, 16) // the ghost: dragged down from 100 by 78 px, 0.9 each
	w.drag(x, y, x, y+78)
	w.saved()
	mouse := b.patterns(id)[2]

	// by keyboard: a new pattern; the lanes are gone to with the arrows
	w.key("T")
	w.until("another new pattern", `document.querySelectorAll('[data-hit]').length===0`)
	w.saved()
	if b.patterns(id)[3].Bars != 2 { // it begins as long as the one before
		t.Fatalf("the new pattern has %d bars", b.patterns(id)[3].Bars)
	}
	byKeys(t, w)
	w.saved()
	keys := b.patterns(id)[3]
	if !reflect.DeepEqual(keys.Hits, mouse.Hits) || keys.Bars != mouse.Bars || len(keys.Hits) != 26 {
		t.Errorf("by keyboard %d bars %v\nby mouse %d bars %v", keys.Bars, keys.Hits, mouse.Bars, mouse.Hits)
	}
}

func byKeys(t *testing.T, w window) {
	t.Helper()
	row, at := -1, 0
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="stage"]`)))
	for _, part := range beatSteps {
		if row < 0 { // to the lowest lane, the first step
			w.key(strings.Repeat(kb.ArrowDown, 12) + kb.Home)
			row = kickRow
		}
		step := map[int]string{-1: kb.ArrowUp, 1: kb.ArrowDown}
		for row != part.row {
			by := 1
			if part.row < row {
				by = -1
			}
			w.key(step[by])
			row += by
		}
		for _, s := range part.steps {
			to := part.bar*16 + s - 1
			for at != to {
				if at < to {
					w.key(kb.ArrowRight)
					at++
				} else {
					w.key(kb.ArrowLeft)
					at--
				}
			}
			w.key(kb.Enter)
			if part.bar == 1 && part.row == snareRow && s == 16 {
				w.key("y30" + kb.Enter)
			}
			w.saved()
		}
	}
}

// A feel of the pattern's own, chance, a lane with its own length, a linked copy and a ready pattern's lane, as a person
// comes to them.
func TestFeelPatternsAndReadyOnes(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	first := func() pattern.Pattern { t.Helper(); w.saved(); return b.patterns(id)[0] }

	// chance and pan by key, on the kick's first step; the strip shows them
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="stage"]`)))
	w.key(strings.Repeat(kb.ArrowDown, 12) + kb.Home)
	for range 3 {
		w.key("-", chromedp.ModifierAlt)
		w.saved()
	}
	w.key(".", chromedp.ModifierAlt)
	if h := hitAt(first(), 36, 0); h.Skip != 30 || h.Pan != 10 {
		t.Fatalf("three times less chance, once to the right: %+v", h)
	}
	w.until("said", `document.querySelector('[data-id="announce"]').textContent.includes('chance 70 %')`)

	// the lane of the chosen hit gets a length of its own
	w.key("o")
	w.until("lane tools", `document.querySelector('[data-id="lane-tools"]')!==null`)
	w.retype(`[aria-label="Length of the lane in steps"]`, "12")
	if got := first().Lanes[36]; got.Cells != 12 {
		t.Errorf("the lane's own length: %+v", got)
	}
	w.key(kb.Escape)

	// a linked copy mirrors
	w.key("U")
	w.until("the copy", `document.querySelector('[data-id="pattern"]').textContent.includes('towpath linked')`)
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="stage"]`)))
	w.key(kb.End + kb.Enter)
	w.saved()
	all := b.patterns(id)
	if !reflect.DeepEqual(all[0].Hits, all[2].Hits) || all[0].Link == "" || all[0].Link != all[2].Link || len(all[0].Hits) != 41 {
		t.Errorf("an edit of the copy did not mirror: %d and %d hits, links %q %q", len(all[0].Hits), len(all[2].Hits), all[0].Link, all[2].Link)
	}
	w.key("z", chromedp.ModifierCtrl)
	w.saved()
	if all := b.patterns(id); len(all[0].Hits) != 40 || len(all[2].Hits) != 40 {
		t.Error("one undo does not take both back")
	}

	// a groove is taken and laid over this pattern alone, then written into its hits
	w.key("u")
	w.until("the feel", `document.querySelector('[data-id="feel-panel"]')!==null`)
	_ = eval[bool](w, `([...document.querySelectorAll('[data-id="feel-panel"] .ant-segmented-item')].find(e=>e.textContent.endsWith('alone')).click(),true)`)
	w.saved()
	w.click(`[data-id="groove-menu"]`)
	w.until("the menu", `[...document.querySelectorAll('.ant-dropdown-menu-item')].some(e=>e.textContent.startsWith('Keep the groove'))`)
	_ = eval[bool](w, `([...document.querySelectorAll('.ant-dropdown-menu-item')].find(e=>e.textContent.startsWith('Keep the groove')).click(),true)`)
	w.until("it is laid over", `document.querySelector('[aria-label="Groove time"]')!==null`)
	w.saved()
	copied := b.patterns(id)[2]
	if copied.Feel == nil || copied.Feel.Groove.ID == "" || b.patterns(id)[0].Feel != nil {
		t.Fatalf("the feel is not this pattern's own: %+v", copied.Feel)
	}
	w.click(`[data-id="write-feel"]`)
	w.saved()
	written := b.patterns(id)[2]
	if reflect.DeepEqual(written.Hits, copied.Hits) || written.Feel.Groove.ID != "" {
		t.Error("nothing was written into the hits")
	}
	w.key(kb.Escape)

	// a ready pattern is heard, put back, and heard again with one lane of it taken
	w.key("w")
	w.ready("plain sail")
	w.until("it is heard", `document.querySelector('[data-id="ready-tools"]')!==null`)
	w.key(kb.Escape)
	w.until("put back", `document.querySelector('[data-id="ready-tools"]')===null`)
	if now := b.patterns(id)[2]; !reflect.DeepEqual(now.Hits, written.Hits) {
		t.Error("hearing it has changed something")
	}
	w.click(`[data-ready="plain sail"]`)
	w.until("it is heard", `document.querySelectorAll('.rolepick').length===3`)
	for _, role := range []string{"closed hat", "snare"} { // leave these out
		_ = eval[bool](w, `([...document.querySelectorAll('.rolepick')].find(e=>e.textContent.endsWith(`+quoted(role)+`)).click(),true)`)
		w.until("left out", `[...document.querySelectorAll('.rolepick')].find(e=>e.textContent.endsWith(`+quoted(role)+`)).ariaPressed==='false'`)
	}
	w.click(`[data-id="take-ready"]`)
	w.saved()
	taken := b.patterns(id)[2]
	var kicks []int
	for _, h := range taken.Hits {
		if h.Note == 36 {
			kicks = append(kicks, h.Tick/240+1)
		}
	}
	if !reflect.DeepEqual(kicks, []int{1, 8, 10, 11}) || len(taken.Hits)-len(kicks) != len(written.Hits)-count(written, 36) {
		t.Errorf("taken: kicks on %v, %d other hits, %d before", kicks, len(taken.Hits)-len(kicks), len(written.Hits)-count(written, 36))
	}
}

// A key of one's own works, a taken one is refused with its reason, and the first one comes back.
func TestKeysAreChosenAndChecked(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.key("?")
	w.click(`[data-id="all-keys"]`)
	w.until("the sheet", `document.querySelector('[data-key="everywhere double"]')!==null`)
	w.click(`[data-key="everywhere double"]`)
	w.key("m")
	w.until("refused", `document.querySelector('.keysheet').textContent.includes('M is taken: mute the chosen lane')`)
	w.key("x")
	w.until("refused", `document.querySelector('.keysheet').textContent.includes('X is taken: strikes a pad')`)
	w.key("j")
	w.until("chosen", `document.querySelector('[data-key="everywhere double"]').textContent==='J'`)
	w.key(kb.Escape)
	w.until("shut", `document.querySelector('[data-key="everywhere double"]')===null||document.querySelector('.keysheet').offsetParent===null`)
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="stage"]`)))
	w.key("j")
	w.saved()
	if p := b.patterns(id)[0]; p.Bars != 2 || len(p.Hits) != 80 {
		t.Errorf("J has made it %d bars with %d hits", p.Bars, len(p.Hits))
	}
}

func hitAt(p pattern.Pattern, note, tick int) (h pattern.Hit) {
	for _, x := range p.Hits {
		if x.Note == note && x.Tick == tick {
			return x
		}
	}
	return h
}

func count(p pattern.Pattern, note int) (n int) {
	for _, h := range p.Hits {
		if h.Note == note {
			n++
		}
	}
	return n
}
