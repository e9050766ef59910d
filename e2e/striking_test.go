package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// midiInput gives the window a MIDI keyboard; press plays a note on it.
const midiInput = `(()=>{const input={name:'Keyboard',id:'k'};window.press=(n,v)=>input.onmidimessage({data:[0x99,n,v]});` +
	`navigator.requestMIDIAccess=async()=>({inputs:new Map([['k',input]]),outputs:new Map()});return null})()`

func (b *bench) laneNotes(id string) (notes []int) {
	for _, l := range b.mapOf(id).Map.Lanes {
		notes = append(notes, l.Note)
	}
	return notes
}

func (w window) word() string {
	return eval[string](w, `document.querySelector('[data-id="listening"] [role="status"]')?.textContent??''`)
}

// Every note struck makes one lane, from a MIDI keyboard, a typing key and a pad; a note that has a lane makes none.
func TestStrikingMakesLanes(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	before := len(b.laneNotes(id))
	eval[any](w, midiInput)
	w.key("e")
	w.click(`[data-id="strike-menu"]`)
	w.click(`.ant-dropdown-menu-item:nth-child(2)`)
	w.until("listening", `document.querySelector('[data-id="listening"]')!==null`)
	lanes := func(more int) {
		t.Helper()
		w.until(fmt.Sprint(more, " more lanes"), fmt.Sprintf(`document.querySelectorAll('.maprow').length===%d`, before+more))
		w.saved()
		if n := b.laneNotes(id); len(n) != before+more {
			t.Errorf("lanes on %v, %d are meant", n, before+more)
		}
	}
	eval[any](w, `(press(60,90),null)`)
	lanes(1)
	w.key("z") // the lowest pad of the bank that middle notes are in: note 32
	lanes(2)
	w.click(`[data-pad="33"]`)
	lanes(3)
	eval[any](w, `(press(60,90),null)`) // has its lane by now
	w.until("said so", `document.querySelector('[data-id="listening"] [role="status"]').textContent.includes('Note 60 has a lane')`)
	lanes(3)
	for _, note := range []int{60, 32, 33} {
		if _, ok := b.mapOf(id).Map.ByNote(note); !ok {
			t.Errorf("no lane on note %d, which was struck", note)
		}
	}
	w.key("q")
	if said := w.word(); said == "" || said[0] != 'Q' {
		t.Errorf("a key without a note says %q", said)
	}
	w.shoot("striking")
	w.do(chromedp.KeyEvent(kb.Escape))
	w.until("not listening", `document.querySelector('[data-id="listening"]')===null`)
	w.key("z", chromedp.ModifierCtrl)
	lanes(2)
}

// Lanes get their notes one strike each, from a keyboard, a key and a pad; a lane can be skipped and gone back to, and
// what the map sounds itself is no strike.
func TestStrikingGivesNotes(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	was := b.mapOf(id).Map.Lanes
	foot := func(i int) string { return was[len(was)-1-i].Name }
	eval[any](w, midiInput)
	w.key("e")
	w.click(`[data-id="strike-menu"]`)
	w.click(`.ant-dropdown-menu-item:nth-child(1)`)
	waits := func(i int) {
		t.Helper()
		w.until("waiting for "+foot(i), fmt.Sprintf(`document.querySelector('[data-id="listening"]')?.textContent.startsWith(%q)`, "Strike the key for "+foot(i)))
	}
	note := func(i int) int {
		for _, l := range b.mapOf(id).Map.Lanes {
			if l.Name == foot(i) {
				return l.Note
			}
		}
		return -1
	}
	waits(0)
	eval[any](w, `(press(60,90),null)`)
	waits(1)
	time.Sleep(300 * time.Millisecond) // what sounds by itself must not go on
	waits(1)
	w.click(`[data-id="listen-skip"]`)
	waits(2)
	w.key("x") // note 33
	waits(3)
	w.click(`[data-pad="34"]`)
	waits(4)
	w.do(chromedp.KeyEvent(kb.ArrowLeft))
	waits(3)
	w.key("]") // the sixteen notes above
	w.key("z") // note 48, or a swap with who has it
	waits(4)
	w.do(chromedp.KeyEvent(kb.Escape))
	w.saved()
	for i, want := range []int{60, was[len(was)-2].Note, 33, 48} {
		if got := note(i); got != want {
			t.Errorf("%s is on note %d, %d is meant", foot(i), got, want)
		}
	}
	steps := 0
	for range 4 {
		w.key("z", chromedp.ModifierCtrl)
		w.saved()
		steps++
	}
	if now := b.mapOf(id).Map.Lanes; fmt.Sprint(now) != fmt.Sprint(was) {
		t.Errorf("%d undo steps for 4 strikes do not bring the map back:\n%v\n%v", steps, now, was)
	}
}
