package e2e

import (
	"bufio"
	"os/exec"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A bench that other machines reach asks a real browser for its passphrase, and lets it in with it: what a form sends differs from what a
// test's own client does.
func TestSigningInByTheWindow(t *testing.T) {
	dir := t.TempDir()
	set := exec.Command(bin(t), "passphrase", "--data", dir)
	set.Stdin = strings.NewReader("quay lantern rope\n")
	if said, err := set.CombinedOutput(); err != nil {
		t.Fatalf("%v %s", err, said)
	}
	serve := exec.Command(bin(t), "serve", "--addr", "0.0.0.0:0", "--data", dir)
	out, err := serve.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := serve.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_ = serve.Process.Kill()
		_ = serve.Wait()
	})
	address := ""
	for lines := bufio.NewScanner(out); address == "" && lines.Scan(); {
		address = regexp.MustCompile(`http://127\.0\.0\.1:\d+/`).FindString(lines.Text())
	}
	if address == "" {
		t.Fatal("the program ended without printing its address")
	}
	b := start(t, t.TempDir()) // browse waits for a stage
	w := browse(t, b.address)
	w.do(chromedp.Navigate(address), chromedp.WaitVisible(chromedp.CSS("#passphrase")))
	w.do(chromedp.SendKeys(chromedp.CSS("#passphrase"), "other words"+kb.Enter))
	w.until("refused", `document.querySelector('[role="alert"]')?.textContent==='That is not the passphrase.'`)
	w.shoot("signin")
	w.do(chromedp.SendKeys(chromedp.CSS("#passphrase"), "quay lantern rope"+kb.Enter))
	w.until("in", `document.querySelector('[data-id="play"]')!==null`)
	if can := eval[bool](w, `document.cookie===''`); !can {
		t.Error("a script can read the cookie")
	}
}
