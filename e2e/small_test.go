package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// In a window of 640 by 400, or twice enlarged, nothing is cut off: the bench scrolls, and every control of every face can be brought into view.
func TestSmallWindowsScroll(t *testing.T) {
	b := start(t, t.TempDir())
	b.ownBreak(b.firstProject())
	w := browse(t, b.address)
	w.do(chromedp.EmulateViewport(640, 400))
	if !eval[bool](w, `['overflowX','overflowY'].every(k=>getComputedStyle(document.body)[k]==='auto')&&document.scrollingElement.scrollHeight>600&&document.scrollingElement.scrollWidth>1000`) {
		t.Error("the window does not scroll")
	}
	for i, face := range []string{"steps", "roll", "break", "sounds", "song", "mix"} {
		w.key(fmt.Sprint(i + 1))
		w.until(face, fmt.Sprintf(`document.querySelector('nav.faces button:nth-of-type(%d)').getAttribute('aria-current')==='true'`, i+1))
		w.until("something", `document.querySelectorAll('.bench button').length>20`)
		hidden := eval[[]string](w, `[...document.querySelectorAll('.bench button,.bench input,.bench .ant-select')].filter(e=>{
e.scrollIntoView({block:'nearest',inline:'nearest'});const b=e.getBoundingClientRect();
if(b.width===0||getComputedStyle(e).visibility==='hidden')return false;
return b.left<-1||b.top<-1||b.right>innerWidth+1||b.bottom>innerHeight+1}).map(e=>(e.getAttribute('aria-label')||e.textContent||e.outerHTML).slice(0,60))`)
		if len(hidden) > 0 {
			t.Errorf("%s: out of reach: %q", face, hidden)
		}
	}
}

// Who comes by keys alone is at the grid after two of them, not after all the tools.
func TestTheStageIsNear(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	for _, face := range []struct{ key, stage string }{{"1", `[data-id="stage"]`}, {"2", `[data-id="roll"]`}} {
		w.do(chromedp.Reload(), chromedp.WaitVisible(chromedp.CSS(`[data-id="play"]`)))
		w.key(face.key)
		w.until("the face", fmt.Sprintf("document.querySelector(`%s`)!==null", face.stage))
		eval[any](w, `(document.activeElement?.blur(),null)`)
		w.key(kb.Tab)
		w.until("the first stop", `document.activeElement?.getAttribute('data-id')==='to-stage'&&document.activeElement.getBoundingClientRect().top>=0`)
		w.key(kb.Enter)
		w.until("the stage", fmt.Sprintf("document.activeElement?.closest(`%s`)!==null", face.stage))
	}
}
