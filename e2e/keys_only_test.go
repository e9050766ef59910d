package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"hexachord/core/feel"
	"hexachord/format/wav"
)

// tabTo goes from stop to stop, forwards or back, until it is at the one that a selector names.
func (w window) tabTo(selector string, back bool) {
	w.t.Helper()
	for range 90 {
		if back {
			w.key(kb.Tab, chromedp.ModifierShift)
		} else {
			w.key(kb.Tab)
		}
		if eval[bool](w, "document.activeElement?.matches(`"+selector+"`)===true") {
			return
		}
	}
	w.t.Fatalf("%s is no stop", selector)
}

// From an empty project to an exported song by keys alone: nothing is clicked, nothing is focused by other means.
func TestFromNothingToAnExportedSongByKeysAlone(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	focused := func(what, selector string) {
		t.Helper()
		w.until(what, "document.activeElement?.matches(`"+selector+"`)===true")
	}
	w.key("J")
	focused("the projects have the keys", `[data-id="projects"]`)
	w.tabTo(`[data-id="new-project"]`, true)
	w.key(kb.Enter)
	focused("an empty project begins with its first way to begin", `[data-id="make-lanes"]`)
	w.tabTo(`[data-id="take-boathouse"]`, false)
	w.key(kb.Enter)
	focused("the kit's grid has the keys", `[data-id="stage"]`)
	w.until("something to play", `hexachordPlayer.ready`)

	byKeys(t, w) // two bars
	id := b.titled("Boathouse").ID
	if hits := b.patterns(id)[0].Hits; len(hits) != 26 {
		t.Fatalf("%d hits by keys", len(hits))
	}
	w.key(" ")
	w.until("it plays", `hexachordPlayer.started.length>0`)

	// swing, on its slider among the tools
	w.tabTo(`[role="slider"][aria-label="Swing in percent"]`, true)
	w.key(strings.Repeat(kb.ArrowRight, 8))
	w.key(kb.Tab) // left, it takes effect
	w.saved()
	var now struct {
		Settings struct{ Feel feel.Feel }
	}
	if b.getJSON("api/v1/projects/"+id, &now); now.Settings.Feel.Swing.Percent != 58 {
		t.Errorf("swing is %g %%", now.Settings.Feel.Swing.Percent)
	}

	w.key("5")
	w.until("Song", `document.querySelector('[data-id="song-stage"]')!==null`)
	w.key(kb.Enter)
	w.until("laid", `document.querySelectorAll('[data-row="first"] [data-block]').length===1`)
	w.key("+")
	w.saved()
	w.key(" ") // stop
	w.key("6")
	w.until("Mix", `document.querySelector('[data-id="open-export"]')!==null`)
	w.key("E", chromedp.ModifierCtrl|chromedp.ModifierShift)
	focused("the export has the keys", `[data-id="export"] button`)
	w.tabTo(`[data-id="start-export"]`, false)
	w.key(kb.Enter)
	w.until("it is made", `document.querySelector('[data-id="export-state"]')?.textContent.includes('is made')`)

	data := b.get(strings.TrimPrefix(eval[string](w, `new URL(document.querySelector('[data-id="export"] a[href*="/files/"]').href).pathname`), "/"))
	sound, _, err := wav.Decode(data)
	if err != nil || sound.Seconds() < 4*4*60/92. || sound.Peak() < 0.1 {
		t.Errorf("the song lasts %.2f s, its peak is %.2f: %v", sound.Seconds(), sound.Peak(), err)
	}
}
