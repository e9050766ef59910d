package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/performance"
	"github.com/chromedp/chromedp"
)

// BenchmarkPlayingIdle measures how much of a core the window's main thread takes, percent, while the demo plays and nobody touches it,
// face by face.
func BenchmarkPlayingIdle(b *testing.B) {
	be := start(b, b.TempDir())
	be.ownBreak(be.firstProject())
	w := browse(b, be.address)
	if _, err := chromedp.Call(w.ctx, performance.Enable, performance.EnableParams{}); err != nil {
		b.Fatal(err)
	}
	busy := func() float64 {
		r, err := chromedp.Call(w.ctx, performance.GetMetrics, cdp.Empty{})
		if err != nil {
			b.Fatal(err)
		}
		for _, m := range r.Metrics {
			if m.Name == "TaskDuration" {
				return m.Value
			}
		}
		b.Fatal("the browser does not say how busy it is")
		return 0
	}
	w.until("something to play", `hexachordPlayer.ready`)
	time.Sleep(4 * time.Second) // what is fetched at rest is there
	for b.Loop() {
		for i, name := range []string{"steps", "roll", "break", "sounds", "song", "mix"} {
			w.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector('nav.faces button:nth-of-type(%d)').click()`, i+1)))
			w.until("the face", `!document.querySelector('[data-loading]')`)
			w.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
			w.key(" ")
			w.until("it plays", `hexachordPlayer.last?.playing`)
			time.Sleep(time.Second)
			from, at := busy(), time.Now()
			time.Sleep(4 * time.Second)
			b.ReportMetric(100*(busy()-from)/time.Since(at).Seconds(), name+"-%-of-a-core")
			w.key(" ")
			w.until("it is still", `!hexachordPlayer.last?.playing`)
		}
	}
}
