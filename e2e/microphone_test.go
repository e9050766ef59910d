package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"

	"hexachord/demo"
	"hexachord/format/wav"
)

// A break that comes in through the (simulated) microphone is recorded at the device's rate, kept, and heard: as many drums as were
// played; a browser that refuses the microphone says what to do.
func TestABreakIsRecordedFromTheMicrophone(t *testing.T) {
	file, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	played := filepath.Join(t.TempDir(), "played.wav")
	// Chromium's simulated microphone takes plain 16-bit WAV
	audio, _, err := wav.Decode(file.Data)
	if err != nil {
		t.Fatal(err)
	}
	plain, err := wav.Encode(audio.Resample(48000, 1), wav.PCM16)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(played, plain, 0o600); err != nil {
		t.Fatal(err)
	}
	b := start(t, t.TempDir())
	id := b.firstProject()
	refusing := browseWith(t, b.address, chromedp.Flag("deny-permission-prompts", true))
	refusing.until("something to play", `hexachordPlayer.ready`)
	refusing.key("3")
	refusing.until("Break", `document.querySelector('[data-id="open-microphone"]')!==null`)
	refusing.press(`[data-id="open-microphone"]`)
	refusing.until("told", `document.querySelector('[data-id="notice"]')!==null`)

	w := browseWith(t, b.address, chromedp.Flag("use-fake-device-for-media-stream", true), chromedp.Flag("use-fake-ui-for-media-stream", true),
		chromedp.Flag("use-file-for-fake-audio-capture", played))
	w.until("something to play", `hexachordPlayer.ready`)
	w.key("3")
	w.click(`[data-id="open-microphone"]`)
	w.until("the input is open", `document.querySelector('[data-id="start-take"]')!==null`)
	w.press(`[data-id="start-take"]`)
	w.until("it runs", `document.querySelector('[data-id="taken"]')!==null`)
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
