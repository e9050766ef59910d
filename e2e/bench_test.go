// Package e2e drives the real binary in a real browser, and from its command line.
package e2e

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// built is the program under test: HEXACHORD_BIN, or built for the run.
var built = sync.OnceValues(func() (string, error) {
	if bin := os.Getenv("HEXACHORD_BIN"); bin != "" {
		// opened, so that a result kept from before is not taken for one of the program as it is now
		_, err := os.Stat(bin)
		return bin, err
	}
	dir, err := os.MkdirTemp("", "hexachord-e2e-")
	if err != nil {
		return "", err
	}
	bin := filepath.Join(dir, "hexachord")
	cmd := exec.Command("go", "build", "-o", bin, "../cmd/hexachord")
	cmd.Env = append(os.Environ(), "CGO_ENABLED=0")
	out, err := cmd.CombinedOutput()
	if err != nil {
		return "", fmt.Errorf("%w: %s", err, out)
	}
	return bin, nil
})

func bin(t testing.TB) string {
	t.Helper()
	b, err := built()
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// bench is a running program.
type bench struct {
	t       testing.TB
	cmd     *exec.Cmd
	address string
	dir     string
}

// start starts the program on a data folder, by another command where one is given, and waits until it answers.
func start(t testing.TB, dir string, by ...string) *bench {
	t.Helper()
	by = append(by, bin(t), "demo", "--addr", "127.0.0.1:0", "--data", dir)
	cmd := exec.Command(by[0], by[1:]...)
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	b := &bench{t: t, cmd: cmd, dir: dir}
	t.Cleanup(func() {
		if cmd.ProcessState == nil {
			_ = cmd.Process.Kill()
			_ = cmd.Wait()
		}
	})
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if m := regexp.MustCompile(`http://\S+/`).FindString(lines.Text()); m != "" {
			b.address = m
			go func() { _, _ = io.Copy(io.Discard, out) }()
			return b
		}
	}
	t.Fatal("the program ended without printing its address")
	return nil
}

// stop ends the program as Ctrl+C does, and wants a clean end.
func (b *bench) stop() {
	b.t.Helper()
	if err := b.cmd.Process.Signal(syscall.SIGTERM); err != nil {
		b.t.Fatal(err)
	}
	if err := b.cmd.Wait(); err != nil {
		b.t.Errorf("SIGTERM: %v, a clean end is meant", err)
	}
}

func (b *bench) get(path string) []byte {
	b.t.Helper()
	res, err := http.Get(b.address + path)
	if err != nil {
		b.t.Fatal(err)
	}
	defer res.Body.Close()
	data, err := io.ReadAll(res.Body)
	if err != nil || res.StatusCode != http.StatusOK {
		b.t.Fatalf("%s: %s %v %s", path, res.Status, err, data)
	}
	return data
}

func (b *bench) getJSON(path string, into any) {
	b.t.Helper()
	if err := json.Unmarshal(b.get(path), into); err != nil {
		b.t.Fatal(err)
	}
}

// post sends JSON and reads the reply when into is given.
func (b *bench) post(path string, body, into any) {
	b.t.Helper()
	text, err := json.Marshal(body)
	if err != nil {
		b.t.Fatal(err)
	}
	res, err := http.Post(b.address+path, "application/json", bytes.NewReader(text))
	if err != nil {
		b.t.Fatal(err)
	}
	defer res.Body.Close()
	data, err := io.ReadAll(res.Body)
	if err != nil || res.StatusCode != http.StatusOK {
		b.t.Fatalf("%s: %s %v %s", path, res.Status, err, data)
	}
	if into != nil {
		if err := json.Unmarshal(data, into); err != nil {
			b.t.Fatal(err)
		}
	}
}

// window is a browser's tab on the bench.
type window struct {
	t   testing.TB
	ctx context.Context
}

func browse(t testing.TB, address string) window {
	t.Helper()
	return browseWith(t, address)
}

// browseWith opens a browser that is set otherwise, too.
func browseWith(t testing.TB, address string, more ...chromedp.ExecAllocatorOption) window {
	t.Helper()
	alloc, stop := chromedp.NewExecAllocator(context.Background(), append([]chromedp.ExecAllocatorOption{chromedp.NoSandbox, chromedp.Flag("headless", "new"),
		chromedp.WindowSize(1280, 800), chromedp.UserDataDir(t.TempDir()), chromedp.Flag("disable-gpu", true), chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync", true),
		chromedp.Flag("no-first-run", true), chromedp.Flag("autoplay-policy", "no-user-gesture-required")}, more...)...)
	t.Cleanup(stop)
	ctx, stopTab := chromedp.NewContext(alloc)
	t.Cleanup(stopTab)
	ctx, stopTime := context.WithTimeout(ctx, 2*time.Minute)
	t.Cleanup(stopTime)
	w := window{t, ctx}
	w.do(chromedp.EmulateViewport(1280, 800), chromedp.Navigate(address), chromedp.WaitVisible(chromedp.CSS(`[data-id="stage"]`)))
	w.until("what opens lists", `!document.querySelector('[data-later]')`)
	return w
}

func (w window) do(actions ...chromedp.Action[chromedp.Void]) {
	w.t.Helper()
	if err := chromedp.Do(w.ctx, actions...); err != nil {
		w.t.Fatal(err)
	}
}

func (w window) click(selector string) {
	w.t.Helper()
	w.do(chromedp.Click(chromedp.CSS(selector), chromedp.NodeVisible))
}

// key types keys; more than one is typed one after another.
func (w window) key(keys string, mods ...chromedp.Modifier) {
	w.t.Helper()
	for _, k := range keys {
		w.do(chromedp.KeyEvent(string(k), chromedp.KeyModifiers(mods...)))
	}
	// what a key opens may have to be fetched first
	w.until("fetched", `document.querySelector('[data-loading]')===null`)
}

// eval runs JavaScript, awaiting a promise, and reads its JSON value.
func eval[T any](w window, js string) (v T) {
	w.t.Helper()
	text, err := chromedp.Run(w.ctx, chromedp.Evaluate[string]("(async()=>JSON.stringify(await("+js+")))()", chromedp.EvalAwaitPromise))
	if err != nil {
		w.t.Fatalf("%s: %v", js, err)
	}
	if err := json.Unmarshal([]byte(text), &v); err != nil {
		w.t.Fatalf("%s: %v in %s", js, err, text)
	}
	return v
}

// until waits for something to be true.
func (w window) until(what string, js string) {
	w.t.Helper()
	for range 200 {
		if eval[bool](w, `Promise.resolve(`+js+`).then(Boolean)`) {
			return
		}
		time.Sleep(50 * time.Millisecond)
	}
	w.t.Fatalf("waited in vain: %s", what)
}

// saved waits until no edit is under way.
func (w window) saved() {
	w.t.Helper()
	w.until("saved", `document.querySelector('[data-id="saved"]').textContent.startsWith('Saved')`)
}

// at is the centre of a step on the stage of one bar of sixteenths; even steps stand where swing does not move them.
func (w window) at(row, step int) (x, y float64) {
	w.t.Helper()
	box := eval[[3]float64](w, `(()=>{const b=document.querySelector('[data-id="stage"]').getBoundingClientRect();return [b.left,b.top,b.width]})()`)
	return box[0] + 14 + (box[2]-28)/16*(float64(step)+0.5), box[1] + float64(row)*32 + 16
}
