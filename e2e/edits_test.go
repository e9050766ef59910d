package e2e

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// emptyPattern shows a pattern of one bar without hits.
func emptyPattern(w window) {
	w.t.Helper()
	w.click(`[data-id="patterns-button"]`)
	w.click(`[data-id="new-pattern"]`)
	w.key(kb.Escape)
	w.until("the new pattern", `document.querySelectorAll('[data-hit]').length===0`)
	w.saved()
}

func (w window) clickAt(row, step int) {
	w.t.Helper()
	x, y := w.at(row, step)
	w.do(chromedp.MouseClickXY(x, y))
}

// With replies that come late, what was clicked stays to be seen whatever is answered meanwhile, and a second click takes it
// out again. What the bench then has is what was shown.
func TestSlowRepliesWipeNothing(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	emptyPattern(w)
	w.do(chromedp.Evaluate[chromedp.Void](`(()=>{
		const quick = window.fetch;
		window.fetch = async (...a) => { const r = await quick(...a); const to = String(a[0].url ?? a[0]); if (/\/edits$/.test(to)) await new Promise(ok => setTimeout(ok, 600)); return r; };
		window.seen = [];
		const look = () => { const n = document.querySelectorAll('[data-hit]').length; if (window.seen.at(-1) !== n) window.seen.push(n); requestAnimationFrame(look); };
		look();
	})()`))
	w.click(`[aria-label="Mute Hull thump"]`) // a settings edit is on its way
	w.clickAt(kickRow, 0)
	w.clickAt(snareRow, 4)
	w.until("both are shown before any reply", `document.querySelectorAll('[data-hit]').length===2 && !document.querySelector('[data-id="saved"]').textContent.startsWith('Saved')`)
	time.Sleep(900 * time.Millisecond) // the first reply, of the settings, has come
	w.clickAt(snareRow, 4)
	w.saved()
	if seen := eval[[]int](w, `window.seen`); !slices.Equal(seen, []int{0, 1, 2, 1}) {
		t.Errorf("hits shown one after another: %v, want 0, 1, 2 and 1", seen)
	}
	all := b.patterns(id)
	hits := all[len(all)-1].Hits
	if len(hits) != 1 || hits[0].Note != 36 {
		t.Errorf("the bench has %+v", hits)
	}
}

// Late cues are counted where they are heard: none while all is well, some when the audio thread had no time.
func TestLateCuesAreCounted(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	w.until("something to play", `hexachordPlayer.ready`)
	w.key(" ")
	w.until("it plays", `hexachordPlayer.last && hexachordPlayer.last.playing && hexachordPlayer.started.length>20`)
	before := eval[int](w, `hexachordPlayer.last.late`)
	w.do(chromedp.Evaluate[chromedp.Void](`hexachordPlayer.stall(700)`))
	w.until("late cues are counted", fmt.Sprintf(`hexachordPlayer.last.late>%d`, before))
	if n := eval[int](w, `hexachordPlayer.last.missing`); n != 0 {
		t.Errorf("%d cues had no voice", n)
	}
}

// While hits of other lanes are set and taken out, a lane's own hits sound once each: none is left out, none comes twice.
func TestNoCueIsMissedOrDoubledAcrossEdits(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	emptyPattern(w)
	for _, step := range []int{0, 4, 8, 12} {
		w.clickAt(kickRow, step)
	}
	w.saved()
	w.until("something to play", `hexachordPlayer.ready`)
	w.key(" ")
	w.until("it plays", `hexachordPlayer.last && hexachordPlayer.last.playing && hexachordPlayer.started.length>2`)
	for n := range 24 {
		w.clickAt(hatRow, n%16)
		time.Sleep(30 * time.Millisecond)
	}
	w.key("m") // and a mute of the lane the cursor is on
	w.saved()
	w.until("two passes more", fmt.Sprintf(`hexachordPlayer.last.passes>=%d`, eval[int](w, `hexachordPlayer.last.passes`)+2))
	w.key(" ")
	var p struct{ Settings struct{ BPM float64 } }
	b.getJSON("api/v1/projects/"+b.firstProject(), &p)
	rate := eval[float64](w, `hexachordPlayer.rate`)
	frames := eval[[]int](w, `hexachordPlayer.started.filter(s=>s.note===36&&!s.live).map(s=>s.frame)`)
	beat := 60 / p.Settings.BPM * rate
	if len(frames) < 8 {
		t.Fatalf("only %d kicks were played", len(frames))
	}
	for i := 1; i < len(frames); i++ {
		if d := float64(frames[i] - frames[i-1]); d < beat-2 || d > beat+2 {
			t.Errorf("kick %d comes %.0f frames after the one before, a beat is %.0f", i, d, beat)
		}
	}
	if strings.Contains(eval[string](w, `document.body.innerText`), "could not") {
		t.Error("an edit was refused")
	}
}

// Going from face to face, the beat plays on where it is.
func TestTheBeatPlaysOnFromFaceToFace(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	emptyPattern(w)
	for _, step := range []int{0, 4, 8, 12} {
		w.clickAt(kickRow, step)
	}
	w.saved()
	w.until("something to play", `hexachordPlayer.ready`)
	w.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	w.key(" ")
	w.until("it plays", `hexachordPlayer.started.filter(s=>!s.live).length>2`)
	for _, face := range []string{"2", "4", "1"} {
		n := eval[int](w, `hexachordPlayer.started.length`)
		w.key(face)
		w.until("it goes on", fmt.Sprintf(`hexachordPlayer.started.length>%d`, n+1))
	}
	w.key(" ")
	var p struct{ Settings struct{ BPM float64 } }
	b.getJSON("api/v1/projects/"+b.firstProject(), &p)
	beat := 60 / p.Settings.BPM * eval[float64](w, `hexachordPlayer.rate`)
	frames := eval[[]int](w, `hexachordPlayer.started.filter(s=>s.note===36&&!s.live).map(s=>s.frame)`)
	for i := 1; i < len(frames); i++ {
		if d := float64(frames[i] - frames[i-1]); d < beat-2 || d > beat+2 {
			t.Errorf("kick %d comes %.0f frames after the one before, a beat is %.0f", i, d, beat)
		}
	}
}

// The shelf opened by key takes what is typed, and the arrows.
func TestTheShelfTakesTheKeys(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	w.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	w.key("l")
	w.until("samples", `document.querySelectorAll('.sample').length>10`)
	w.until("the words have the keys", `document.activeElement.dataset.id==='shelf-text'`)
	for range 30 {
		w.key(kb.ArrowDown)
	}
	w.until("the one chosen is in sight", `(()=>{const on=document.querySelector('.sample.on'),box=document.querySelector('.samples');if(!on)return false;const a=on.getBoundingClientRect(),c=box.getBoundingClientRect();return on.id==='shelf-29'&&a.top>=c.top-1&&a.bottom<=c.bottom+1})()`)
}
