package e2e

import (
	"fmt"
	"path/filepath"
	"reflect"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

type heardHit struct {
	Time       float64
	Note       int
	Velocity   int
	Confidence float64
	State      string
}

type recordingView struct {
	ID      string
	Audio   string
	Seconds float64
	Lanes   []int
	Beats   []float64
	Heard   struct {
		Hits []heardHit
		BPM  float64
		Pins []struct {
			Tick int
			Time float64
		}
		Listeners map[string]struct{ OpenDB float64 }
	}
}

func (b *bench) recordingOf(id string) recordingView {
	b.t.Helper()
	var p struct{ Recordings []recordingView }
	b.getJSON("api/v1/projects/"+id, &p)
	if len(p.Recordings) != 1 {
		b.t.Fatalf("%d recordings", len(p.Recordings))
	}
	return p.Recordings[0]
}

func (r recordingView) on(note int) (n int) {
	for i, l := range r.Lanes {
		if l == note && r.Heard.Hits[i].State != "out" {
			n++
		}
	}
	return n
}

func (r recordingView) doubts() (n int) {
	for _, h := range r.Heard.Hits {
		if h.State == "" && h.Confidence < 0.6 {
			n++
		}
	}
	return n
}

// A break is brought in; a listener is swept and kept; doubts are looked over by keyboard; the grid follows; it is kept,
// compared at the same loudness, cut to a kit, and its groove laid over towpath.
func TestABreakIsHeardReviewedAndUsed(t *testing.T) {
	dir := t.TempDir()
	b := start(t, dir)
	w := browse(t, b.address)
	id := b.firstProject()
	w.key("3")
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="recording-file"]`), []string{filepath.Join(dir, "deck-break.wav")}))
	w.until("heard hits on the lanes", `document.querySelectorAll('[data-heard]').length>20&&document.querySelector('[data-id="hearing"]')===null`)
	first := b.recordingOf(id)
	if first.on(36) < 11 || first.on(38) < 14 || first.on(42) < 20 {
		t.Fatalf("heard %d kicks, %d snares, %d hats", first.on(36), first.on(38), first.on(42))
	}

	// doubts by keyboard: one kept, the next one out, one out brought back
	doubts := first.doubts()
	if doubts < 2 {
		t.Fatalf("%d doubtful hits to look over", doubts)
	}
	w.key("]")
	w.until("the first doubt", `document.querySelector('[data-id="doubts-left"]').textContent==='? 1 of `+itoa(doubts)+` doubtful'`)
	w.until("it sounds", `hexachordPlayer.started.some(s=>s.note===-1)`)
	w.key("y")
	w.saved()
	if r := b.recordingOf(id); r.doubts() != doubts-1 {
		t.Errorf("Y left %d doubts of %d", r.doubts(), doubts)
	}
	w.until("the next one comes", `document.querySelector('[data-id="doubts-left"]').textContent.startsWith('? 1 of')`)
	w.key(kb.Delete)
	w.saved()
	out := b.recordingOf(id)
	if out.doubts() != doubts-2 || len(out.Heard.Hits) != len(first.Heard.Hits) {
		t.Errorf("Delete left %d doubts and %d hits of %d", out.doubts(), len(out.Heard.Hits), len(first.Heard.Hits))
	}
	w.key("z", chromedp.ModifierCtrl)
	w.saved()
	if r := b.recordingOf(id); r.doubts() != doubts-1 {
		t.Error("undo does not bring it back")
	}

	// the kick's own listener: tried, nothing written; opened wider it hears more; kept; as first heard again
	w.do(chromedp.MouseClickXY(100, 546)) // the kick's lane
	w.click(`[data-id="own-listener"]`)
	w.until("it is tried", `document.querySelectorAll('[data-id="trying-listener"] polygon').length>0`)
	counted := func() int {
		return eval[int](w, `parseInt(document.querySelector('[data-id="lane-count"]').textContent)`)
	}
	tried := counted()
	if r := b.recordingOf(id); len(r.Heard.Listeners) != 0 || r.on(36) != first.on(36) {
		t.Error("trying has written something")
	}
	_ = eval[bool](w, `(document.querySelector('[aria-label="Opens at"]').focus(),true)`)
	for range 25 {
		w.key(kb.ArrowLeft)
	}
	w.until("opened wider it hears more", `parseInt(document.querySelector('[data-id="lane-count"]').textContent)>`+itoa(tried))
	w.until("all the presses are heard", `document.querySelector('[data-id="lane-count"]').getAttribute('aria-busy')==='false'`)
	wider := counted()
	w.click(`[data-id="keep-listener"]`)
	w.saved()
	if r := b.recordingOf(id); r.on(36) != wider || len(r.Heard.Listeners) != 1 {
		t.Errorf("kept: %d kicks, %d were tried", r.on(36), wider)
	}
	w.key("z", chromedp.ModifierCtrl)
	w.saved()
	if r := b.recordingOf(id); r.on(36) != first.on(36) {
		t.Errorf("undone: %d kicks, %d first", r.on(36), first.on(36))
	}

	// the grid follows: every bar line is pinned
	_ = eval[bool](w, `([...document.querySelectorAll('.tools .ant-segmented-item')].find(e=>e.textContent==='following').click(),true)`)
	w.until("pinned", `fetch('/api/v1/projects/`+id+`').then(r=>r.json()).then(p=>(p.recordings[0].heard.pins||[]).length===5)`)
	w.saved()

	// recording against kit, at the same loudness
	w.key("q")
	w.until("the kit is heard", `document.querySelector('[data-id="compared"]')?.textContent==='kit alone'`)
	w.key("q")
	w.until("the recording", `document.querySelector('[data-id="compared"]')?.textContent==='recording alone'`)
	// and one lane of both: its band, its sound, everything again
	lane := eval[string](w, `document.querySelector('[data-id="listener"] .ttl').textContent.replace('Listen for ','')`)
	w.key("Q", chromedp.ModifierShift)
	w.until("its band", `document.querySelector('[data-id="compared"]')?.textContent==='recording alone: `+lane+`'`)
	w.key("Q", chromedp.ModifierShift)
	w.until("its sound", `document.querySelector('[data-id="compared"]')?.textContent==='kit alone: `+lane+`'`)
	w.key("Q", chromedp.ModifierShift)
	w.until("both again", `!document.querySelector('[data-id="compared"]')&&document.querySelectorAll('[aria-label^="Level of the "]').length===2`)

	// its groove, laid over towpath alone
	before := b.patterns(id)[0]
	w.click(`[data-id="groove-of"]`)
	w.until("its groove", `document.querySelector('[data-id="hear-groove"]')!==null&&!document.querySelector('[data-id="hear-groove"]').disabled`)
	w.click(`[data-id="hear-groove"]`)
	w.until("heard with it", `document.querySelector('[data-id="groove-tried"] .ant-segmented-item-selected')?.textContent==='with'`)
	w.key("q")
	w.until("heard without it", `document.querySelector('[data-id="groove-tried"] .ant-segmented-item-selected')?.textContent==='without'`)
	if eval[int](w, `fetch('/api/v1/projects/`+id+`').then(r=>r.json()).then(p=>p.grooves.length)`) != 0 {
		t.Error("a groove is kept while it is only heard")
	}
	w.key("\r")
	w.until("laid over", `fetch('/api/v1/projects/`+id+`').then(r=>r.json()).then(p=>p.grooves.length===1&&!!p.patterns[0].value.feel&&p.patterns[0].value.feel.groove.id===p.grooves[0].id)`)
	w.saved()
	if after := b.patterns(id)[0]; !reflect.DeepEqual(after.Hits, before.Hits) {
		t.Error("laying a groove over has changed hits")
	}

	// cut to a kit, with a pattern, in one step
	w.click(`[data-id="cut-kit"]`)
	w.until("a kit", `fetch('/api/v1/projects/`+id+`').then(r=>r.json()).then(p=>p.kit.name==='deck-break')`)
	w.saved()
	kit := b.kitOf(id).Kit
	snare, ok := kit.Pad(38)
	if !ok || len(snare.Layers) < 2 || snare.Layers[0].Sounds[0].Takes[0].Source != "deck-break.wav" || snare.Layers[0].Lo != 1 || snare.Layers[len(snare.Layers)-1].Hi != 127 {
		t.Errorf("the snare was cut to %+v", snare.Layers)
	}
	if all := b.patterns(id); len(all) != 3 || len(all[2].Hits) == 0 {
		t.Errorf("%d patterns", len(all))
	}

	// and kept as a pattern: what is out is left out
	w.click(`[data-id="keep"]`)
	w.until("kept", `document.querySelector('[data-id="stage"]')!==null`)
	w.saved()
	all := b.patterns(id)
	kept := all[len(all)-1]
	if n := count(kept, 38); n < 14 {
		t.Errorf("%d snares were kept", n)
	}
}

// broughtBreak is a window on the demo's project in Break, with the demo's recording in it.
func broughtBreak(t *testing.T) (b *bench, w window, project string) {
	t.Helper()
	dir := t.TempDir()
	b = start(t, dir)
	w = browse(t, b.address)
	w.key("3")
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="recording-file"]`), []string{filepath.Join(dir, "deck-break.wav")}))
	w.until("heard", `document.querySelectorAll('[data-heard]').length>10`)
	w.until("the recording is in", `document.querySelector('[data-id="hearing"]')===null`)
	return b, w, b.firstProject()
}

// A missed hit is added by a double click on its lane, at the attack, and a hit is dragged to another lane; the meter is corrected.
func TestABreakIsMendedByHand(t *testing.T) {
	b, w, id := broughtBreak(t)
	before := b.recordingOf(id)
	// where nothing was heard on the crash, the topmost lane
	box := eval[[4]float64](w, `(()=>{const b=document.querySelector('svg[aria-label^="Heard hits"]').getBoundingClientRect();return [b.left,b.top,b.width,b.height]})()`)
	x, y := box[0]+box[2]*0.42, box[1]+16
	w.do(chromedp.MouseClickXY(x, y, chromedp.ClickCount(2)))
	w.until("one more", fmt.Sprintf(`fetch('/api/v1/projects/%s').then(r=>r.json()).then(p=>p.recordings[0].heard.hits.length===%d)`, id, len(before.Heard.Hits)+1))
	w.saved()
	if undo := eval[string](w, fmt.Sprintf(`fetch('/api/v1/projects/%s').then(r=>r.json()).then(p=>p.undo)`, id)); undo != "Add a hit of Tin roof" {
		t.Errorf("undo %q", undo)
	}
	added := `[...document.querySelectorAll('[data-heard="49"]')].at(-1)`
	at := eval[[2]float64](w, `(()=>{const b=`+added+`.getBoundingClientRect();return [b.left+b.width/2,b.top+b.height/2]})()`)
	w.drag(at[0], at[1], at[0], at[1]+32)
	w.until("on the lane below", fmt.Sprintf(`fetch('/api/v1/projects/%s').then(r=>r.json()).then(p=>p.undo==='Move a heard hit'&&p.recordings[0].heard.hits.filter(h=>h.state==='kept'&&h.lane===51).length===1)`, id))
	eval[any](w, `(document.querySelector('[data-id="break-meter"]').closest('.ant-select').dispatchEvent(new MouseEvent('mousedown',{bubbles:true})),null)`)
	w.do(chromedp.Click(chromedp.Search(`//div[contains(@class,"ant-select-item-option")][@title="7/8" or .="7/8"]`), chromedp.NodeVisible))
	w.until("in 7/8", fmt.Sprintf(`fetch('/api/v1/projects/%s').then(r=>r.json()).then(p=>p.recordings[0].heard.meter.beats===7)`, id))
	w.shoot("break-by-hand")
}
