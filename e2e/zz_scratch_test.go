package e2e

import (
	"os"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

func shot(t *testing.T, w window, name string) {
	t.Helper()
	time.Sleep(350 * time.Millisecond)
	png, err := chromedp.Run(w.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile("/tmp/shots/"+name+".png", png, 0o644); err != nil {
		t.Fatal(err)
	}
}

func TestZZLook(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	time.Sleep(time.Second)
	w.key("o")
	shot(t, w, "lane")
	w.key("\x1b")
	_ = eval[string](w, `(()=>{const s=window.hexachordPlayer;return ''})()`)
	w.key("\x1b")
	w.key("w")
	w.until("ready", `document.querySelectorAll('[data-ready]').length > 50`)
	w.click(`[data-ready="slack water"]`)
	w.until("heard", `!!document.querySelector('[data-id="ready-tools"]')`)
	shot(t, w, "ready")
	w.key("\r")
	w.saved()
	w.key("u")
	w.until("feel", `!!document.querySelector('[data-id="feel-panel"]')`)
	w.click(`[data-id="groove-menu"]`)
	time.Sleep(300 * time.Millisecond)
	_ = eval[bool](w, `[...document.querySelectorAll('.ant-dropdown-menu-item')].find(e=>e.textContent.startsWith('Take the groove')).click() || true`)
	w.saved()
	time.Sleep(300 * time.Millisecond)
	shot(t, w, "groove")
}
