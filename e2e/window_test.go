package e2e

import (
	"encoding/json"
	"fmt"
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
)

// dense makes a project of 16 lanes, 4 bars of sixteenths on every one, at 180 BPM, and returns its ID.
func dense(b *bench) (id string) {
	b.t.Helper()
	var p struct {
		ID       string
		Revision int64
		Map      struct{ Lanes []map[string]any }
	}
	b.post("api/v1/projects", map[string]any{"name": "Dense", "demo": true}, &p)
	edits := []any{map[string]any{"settings": map[string]any{"bpm": 180}}, map[string]any{"addPattern": map[string]any{"name": "dense", "bars": 4}}}
	for n := range 16 - len(p.Map.Lanes) {
		edits = append(edits, map[string]any{"addLane": map[string]any{"note": 80 + n, "name": fmt.Sprintf("more %d", n)}})
	}
	var c struct {
		Revision int64
		Results  []struct{ ID string }
	}
	b.post("api/v1/projects/"+p.ID+"/edits", map[string]any{"revision": p.Revision, "edits": edits}, &c)
	pattern := c.Results[1].ID
	b.getJSON("api/v1/projects/"+p.ID, &p)
	var notes []any
	for _, l := range p.Map.Lanes {
		notes = append(notes, l["note"])
	}
	b.post("api/v1/projects/"+p.ID+"/edits", map[string]any{"revision": c.Revision, "edits": []any{map[string]any{"pattern": map[string]any{"id": pattern,
		"edit": map[string]any{"fill": map[string]any{"notes": notes, "every": 1, "velocity": 70}}}}}}, nil)
	return p.ID
}

// openDense shows the dense pattern and lets it play.
func openDense(w window, id string) {
	w.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`localStorage.setItem('hexachord.project', %q); location.reload()`, id)))
	w.until("the dense project", `document.querySelector('[data-id="stage"]')!==null && hexachordPlayer.loadedCount>0`)
	w.do(chromedp.Click(chromedp.CSS(`[data-id="pattern"]`), chromedp.NodeVisible))
	w.choose("dense")
	w.until("the dense pattern", `document.querySelectorAll('[data-hit]').length>=190`)
	w.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	w.key(" ")
	w.until("it plays", `hexachordPlayer.last && hexachordPlayer.last.playing && hexachordPlayer.last.passes>=0 && hexachordPlayer.started.length>50`)
}

// busy edits a hit, from time to time, while it plays, and strikes a pad now and then; it measures in the page. What comes back is in ms.
const busy = `(async (edits) => {
  const stage = document.querySelector('[data-id="stage"]').getBoundingClientRect();
  const painted = [], voices = [], long = [];
  new PerformanceObserver(l => l.getEntries().forEach(e => long.push(e.duration))).observe({entryTypes: ['longtask']});
  const wait = ms => new Promise(r => setTimeout(r, ms));
  const frame = () => new Promise(r => requestAnimationFrame(() => { const c = new MessageChannel(); c.port1.onmessage = () => r(performance.now()); c.port2.postMessage(0); }));
  await wait(300);
  const rate = hexachordPlayer.rate;
  const strikes = [];
  for (let n = 0; n < edits * 4; n++) {
    strikes.push(hexachordPlayer.clock * 1000);
    [...document.querySelectorAll('.pad')].slice(-12)[n % 12].dispatchEvent(new PointerEvent('pointerdown', {bubbles: true, button: 0, pointerId: 9, clientX: 0, clientY: 0}));
    window.dispatchEvent(new PointerEvent('pointerup', {bubbles: true, pointerId: 9}));
    await wait(37 + (n * 7) % 11);
    if (n % 4 === 3) {
      const x = stage.left + 45 + 61 * ((n >> 2) % 16) * (stage.width / 1004), y = stage.top + 16 + 32 * ((n >> 3) % 12);
      const el = document.querySelector('[data-id="stage"]');
      const ev = (type) => new PointerEvent(type, {bubbles: true, button: 0, pointerId: 1, clientX: x, clientY: y});
      const from = performance.now();
      el.setPointerCapture = () => undefined;
      el.dispatchEvent(ev('pointerdown')); el.dispatchEvent(ev('pointerup'));
      painted.push(await frame() - from);
    }
  }
  await wait(500);
  // the sounds of one strike begin in one frame
  const live = [...new Set(hexachordPlayer.started.filter(s => s.live).map(s => s.frame))].slice(-strikes.length);
  if (live.length === strikes.length) strikes.forEach((at, i) => voices.push(live[i] / rate * 1000 - at));
  return {painted, voices, long, late: hexachordPlayer.last.late, missing: hexachordPlayer.last.missing};
})`

type busyRun struct {
	Painted, Voices, Long []float64
	Late, Missing         int
}

func share(of []float64, p float64) float64 {
	if len(of) == 0 {
		return 0
	}
	s := slices.Sorted(slices.Values(of))
	return s[min(len(s)-1, int(p*float64(len(s))))]
}

// BenchmarkWindowBusy measures the window with 16 lanes, 4 bars, 180 BPM, playing, an edit every fourth strike: from a click to what
// is painted, from a strike to its voice's first frame by the audio clock.
func BenchmarkWindowBusy(b *testing.B) {
	dir := b.TempDir()
	be := start(b, dir)
	id := dense(be)
	w := browse(b, be.address)
	openDense(w, id)
	var all busyRun
	for b.Loop() {
		text := eval[json.RawMessage](w, busy+`(40)`)
		var r busyRun
		if err := json.Unmarshal(text, &r); err != nil {
			b.Fatal(err)
		}
		all.Painted, all.Voices, all.Long = append(all.Painted, r.Painted...), append(all.Voices, r.Voices...), append(all.Long, r.Long...)
		all.Late, all.Missing = r.Late, r.Missing
	}
	b.ReportMetric(share(all.Painted, 0.5), "ms-painted-p50")
	b.ReportMetric(share(all.Painted, 0.99), "ms-painted-p99")
	b.ReportMetric(share(all.Voices, 0.5), "ms-voice-p50")
	b.ReportMetric(share(all.Voices, 0.99), "ms-voice-p99")
	b.ReportMetric(float64(len(all.Long)), "long-tasks")
	b.ReportMetric(share(all.Long, 1), "ms-longest-task")
	b.ReportMetric(float64(all.Late), "late-cues")
}
