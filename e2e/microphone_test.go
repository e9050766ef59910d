package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"

	"hexachord/demo"
	"hexachord/demo/breaks"
	"hexachord/format/wav"
)

// A break that comes in through the (simulated) microphone is recorded at the device's rate, kept, and heard: as many drums as were
// played; a browser that refuses the microphone says what to do.
func TestABreakIsRecordedFromTheMicrophone(t *testing.T) {
	played, _ := deckBreakFile(t)
	b := start(t, t.TempDir())
	id := b.firstProject()
	refusing := browseWith(t, b.address, chromedp.Flag("deny-permission-prompts", true))
	refusing.until("something to play", `hexachordPlayer.ready`)
	refusing.key("3")
	refusing.until("Break", `document.querySelector('[data-id="open-microphone"]')!==null`)
	refusing.press(`[data-id="open-microphone"]`)
	refusing.until("told", `document.querySelector('[data-id="notice"]')!==null`)

	w := withMicrophone(t, b, played)
	w.until("something to play", `hexachordPlayer.ready`)
	w.key("3")
	w.click(`[data-id="open-microphone"]`)
	w.until("the input is open", `document.querySelector('[data-id="start-take"]')!==null`)
	w.press(`[data-id="start-take"]`)
	w.until("it runs", `document.querySelector('[data-id="taken"]')!==null`)
	w.key("1") // another face is looked at meanwhile
	w.until("Steps", `document.querySelector('[data-id="taken"]')===null`)
	w.key("3")
	w.soon("six seconds", `parseFloat(document.querySelector('[data-id="taken"]').textContent.slice(2))>=6`)
	w.shoot("recording-microphone")
	w.press(`[data-id="keep-take"]`)
	w.soon("it is heard", `document.querySelectorAll('[data-heard]').length>10`)
	r := b.recordingOf(id)
	if r.Seconds < 5.5 || r.Seconds > 12 || len(r.Heard.Hits) < 20 {
		t.Errorf("%.1f s with %d hits", r.Seconds, len(r.Heard.Hits))
	}
	if kicks, snares := r.on(36), r.on(38); kicks < 4 || snares < 4 {
		t.Errorf("%d kicks and %d snares", kicks, snares)
	}
	var sample struct {
		Rate   int
		Format string
		Bits   int
	}
	b.getJSON(fmt.Sprintf("api/v1/samples/%s", r.Audio), &sample)
	if sample.Format != "WAV" || sample.Bits != 24 || sample.Rate < 44100 {
		t.Errorf("kept as %+v", sample)
	}
}

// deckBreakFile is the demo's break as Chromium's simulated microphone takes it, plain 16-bit WAV, and what is played in it.
func deckBreakFile(t *testing.T) (path string, hits []breaks.Hit) {
	t.Helper()
	file, hits, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	path = filepath.Join(t.TempDir(), "played.wav")
	audio, _, err := wav.Decode(file.Data)
	if err != nil {
		t.Fatal(err)
	}
	plain, err := wav.Encode(audio.Resample(48000, 1), wav.PCM16)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(path, plain, 0o600); err != nil {
		t.Fatal(err)
	}
	return path, hits
}

// withMicrophone is a window whose simulated microphone plays a file, with how playing in is set.
func withMicrophone(t *testing.T, b *bench, file string) window {
	return browseWith(t, b.address, chromedp.Flag("use-fake-device-for-media-stream", true), chromedp.Flag("use-fake-ui-for-media-stream", true),
		chromedp.Flag("use-file-for-fake-audio-capture", file))
}

// A lane that listens to the input sounds with each of its strokes while they are played, and what it was struck is recorded as a pass.
func TestAnInputStrikesLanesLive(t *testing.T) {
	played, truth := deckBreakFile(t)
	kicks, low := 0, 0 // what sounds in the band of a kick: kicks, and toms beside them
	for _, h := range truth {
		if h.Note == 36 {
			kicks++
		}
		if h.Note == 36 || h.Note == 45 {
			low++
		}
	}
	b := start(t, t.TempDir())
	id := b.emptyPattern(92, 8)
	w := withMicrophone(t, b, played)
	w.showPlayed(`{"strength":0,"countIn":0,"click":"off"}`)
	w.click(`.lane[data-note="36"] .nm`)
	w.press(`[data-id="listen-live"]`)
	w.until("it listens", `document.querySelector('[data-live="36"]')!==null`)
	w.press(`[data-id="live-input"]`)
	w.soon("a stroke is heard", `hexachordPlayer.started.some(s=>s.live&&s.note===36)`)
	w.key("r")
	w.soon("strokes are recorded", fmt.Sprintf(`fetch('/api/v1/projects/%s').then(r=>r.json()).then(p=>(p.passes[0]?.hits??0)>=%d)`, id, kicks))
	seconds := eval[float64](w, `hexachordPlayer.last.atS`)
	w.key("r")
	w.key(" ")
	w.saved()
	p, hits := b.played(id)
	// the file goes round for as long as it is listened to
	perFile := seconds / (demo.BreakBars * 4 * 60 / demo.BreakBPM)
	if n := float64(len(hits[36])); len(hits) != 1 || n < 0.75*perFile*float64(kicks)-1 || n > 1.25*perFile*float64(low)+1 {
		t.Errorf("%v strokes in %.1f s, %d to %d are played in each of %.2f files: %+v", n, seconds, kicks, low, perFile, p.Passes)
	}
	t.Logf("strokes told after their block, ms: %s", eval[string](w, `(()=>{const t=hexachordTold.toSorted((a,b)=>a-b);const q=s=>t[Math.min(t.length-1,Math.floor(s*t.length))].toFixed(1);`+
		`return t.length+': median '+q(.5)+', 99 % '+q(.99)+', worst '+q(1)})()`))
}

// A recording that cannot be sent to the bench is not lost: it is offered as a file.
func TestARecordingThatCannotBeSentIsOffered(t *testing.T) {
	played, _ := deckBreakFile(t)
	b := start(t, t.TempDir())
	w := withMicrophone(t, b, played)
	w.until("something to play", `hexachordPlayer.ready`)
	w.key("3")
	w.click(`[data-id="open-microphone"]`)
	w.until("the input is open", `document.querySelector('[data-id="start-take"]')!==null`)
	w.press(`[data-id="start-take"]`)
	w.soon("a second", `parseFloat(document.querySelector('[data-id="taken"]')?.textContent.slice(2))>=1`)
	_ = eval[bool](w, `(window.fetch=(f=>(...a)=>String(a[0]?.url??a[0]).includes('/recordings')&&(a[0]?.method??a[1]?.method)==='POST'?Promise.reject(new TypeError('gone')):f(...a))(window.fetch),`+
		`URL.createObjectURL=(f=>o=>{window.saved={name:o.name,size:o.size};return f.call(URL,o)})(URL.createObjectURL),true)`)
	w.press(`[data-id="keep-take"]`)
	w.until("it is offered", `document.querySelector('[data-id="notice"]')?.textContent.includes('Save it as a file')`)
	_ = eval[bool](w, `([...document.querySelectorAll('[data-id="notice"] button')].find(b=>b.textContent==='Save it as a file').click(),true)`)
	if saved := eval[struct {
		Name string
		Size int
	}](w, `window.saved`); saved.Size < 100_000 {
		t.Errorf("saved: %+v", saved)
	}
}
