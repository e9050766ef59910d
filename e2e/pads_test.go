package e2e

import (
	"fmt"
	"reflect"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// live are the velocities at which a note was struck live, in order.
func (w window) live(note int) []int {
	w.t.Helper()
	return eval[[]int](w, fmt.Sprintf(`hexachordPlayer.started.filter(s=>s.live&&s.note===%d).map(s=>s.velocity)`, note))
}

// The dock of pads: struck harder nearer the centre, by key at the velocity set and with Shift at 127; shut and opened by key
// and by mouse.
func TestTheDockOfPads(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	w.until("something to play", `hexachordPlayer.ready`)
	x, y := w.middle(`.padshape[data-pad="36"]`)
	w.do(chromedp.MouseClickXY(x, y))
	w.do(chromedp.MouseClickXY(x-22, y))
	w.until("two strikes by mouse", `hexachordPlayer.started.filter(s=>s.live&&s.note===36).length>=2`)
	if v := w.live(36); v[0] <= v[len(v)-1] {
		t.Errorf("struck in the middle and at the side: %v", v)
	}
	before := len(w.live(38))
	w.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	w.key("x")
	w.until("a strike by key", fmt.Sprintf(`hexachordPlayer.started.filter(s=>s.live&&s.note===38).length>%d`, before))
	if v := w.live(38); v[len(v)-1] != 100 {
		t.Errorf("by key: %v, want the velocity set, 100", v)
	}
	w.do(chromedp.KeyEvent("X", chromedp.KeyModifiers(chromedp.ModifierShift)))
	w.until("the hardest", `hexachordPlayer.started.some(s=>s.live&&s.note===38&&s.velocity===127)`)

	w.key("p")
	w.until("shut by key", `document.querySelector('.dock.shut')!==null`)
	w.click(`[aria-label="Show the pads"]`)
	w.until("opened by mouse", `document.querySelector('.dock.shut')===null && document.querySelector('.dock')!==null`)
	w.click(`[aria-label="Shut the pads"]`)
	w.until("shut by mouse", `document.querySelector('.dock.shut')!==null`)
	// a key strikes with the dock shut, too
	was := len(w.live(36))
	w.key("z")
	w.until("struck while shut", fmt.Sprintf(`hexachordPlayer.started.filter(s=>s.live&&s.note===36).length>%d`, was))
}

// The lane column: a lane is chosen, muted and heard alone, by mouse and by key; all of it is kept and can be taken back.
func TestTheLaneColumn(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	settings := func() (muted, solo []int) {
		w.saved()
		var p struct{ Settings struct{ Muted, Solo []int } }
		b.getJSON("api/v1/projects/"+id, &p)
		return p.Settings.Muted, p.Settings.Solo
	}
	w.click(`[data-note="38"] .nm`)
	w.until("the snare is chosen", `document.querySelector('[data-note="38"]').classList.contains('sel')`)
	w.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	w.key("m")
	if muted, _ := settings(); !slices.Equal(muted, []int{38}) {
		t.Errorf("muted by key: %v", muted)
	}
	w.click(`[aria-label="Mute Chain shaker"]`)
	if muted, _ := settings(); !slices.Equal(muted, []int{38, 42}) {
		t.Errorf("muted by mouse: %v", muted)
	}
	if off := eval[int](w, `document.querySelectorAll('.lane [aria-pressed="true"]').length`); off != 2 {
		t.Errorf("%d buttons are lit, 2 lanes are muted", off)
	}
	w.click(`[aria-label="Solo Hull thump"]`)
	if _, solo := settings(); !slices.Equal(solo, []int{36}) {
		t.Errorf("heard alone: %v", solo)
	}
	w.until("something to play", `hexachordPlayer.ready`)
	w.key(" ")
	w.until("a pass", `hexachordPlayer.last && hexachordPlayer.last.passes>=1`)
	if heard := eval[[]int](w, `[...new Set(hexachordPlayer.started.filter(s=>!s.live).map(s=>s.note))]`); !slices.Equal(heard, []int{36}) {
		t.Errorf("notes %v sound, the kick alone is meant", heard)
	}
	w.key(" ")
	for range 3 {
		w.key("z", chromedp.ModifierCtrl)
		w.saved()
	}
	if muted, solo := settings(); len(muted) != 0 || len(solo) != 0 {
		t.Errorf("taken back: %v are muted, %v alone", muted, solo)
	}
}

// How a pad plays is set by mouse and typed, and heard in what the bench compiles.
func TestHowAPadPlays(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	was := b.kitOf(id).Kit
	w.click(`[data-note="38"] .nm`)
	w.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	w.key("4")
	w.until("the sounds", `document.querySelector('.padsettings')!==null`)
	w.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll('.padsettings .ant-segmented-item-label')].find(e=>e.textContent==='Held').click()`))
	w.saved()
	w.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll('.padsettings button')].find(e=>e.textContent==='cuts itself').click()`))
	w.saved()
	w.do(chromedp.Click(chromedp.CSS(`.padsettings input[aria-label="Pan"]`), chromedp.NodeVisible))
	w.do(chromedp.KeyEvent("a", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	w.key("-40")
	w.key(kb.Enter)
	w.until("pan is written", fmt.Sprintf(`fetch('/api/v1/projects/%s').then(r=>r.json()).then(p=>p.undo.startsWith('Pan'))`, id))
	w.saved()
	p, ok := b.kitOf(id).Kit.Pad(38)
	if !ok || !p.Held || !p.SelfChoke || p.Pan == 0 {
		t.Errorf("the pad: held %v, self-choke %v, pan %g", p.Held, p.SelfChoke, p.Pan)
	}
	if p.Pan > -0.39 && p.Pan > -39 {
		t.Errorf("pan %g, 40 to the left was typed", p.Pan)
	}
	for _, o := range b.kitOf(id).Kit.Pads {
		if before, _ := was.Pad(o.Note); o.Note != 38 && !reflect.DeepEqual(o, before) {
			t.Errorf("the pad on note %d was changed too", o.Note)
		}
	}
}
