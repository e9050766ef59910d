package e2e

import (
	"fmt"
	"sort"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// countRenders counts the components that React draws, by name: those of each commit whose function was called.
const countRenders = `(()=>{
window.renders={};
const drawn=f=>[0,1,11,14,15].includes(f.tag)&&(f.flags&1);
const nameOf=f=>{const t=f.type?.render??f.type?.type??f.type;return t?.displayName||t?.name||'?'};
const walk=(next,was)=>{
if(!was||drawn(next)){if([0,1,11,14,15].includes(next.tag)){const n=nameOf(next);renders[n]=(renders[n]??0)+1}}
if(was&&next.child===was.child)return;
for(let c=next.child;c;c=c.sibling)walk(c,c.alternate)};
window.__REACT_DEVTOOLS_GLOBAL_HOOK__={supportsFiber:true,renderers:new Map(),inject:()=>1,onCommitFiberUnmount(){},onPostCommitFiberRoot(){},onCommitFiberRoot:(_,root)=>walk(root.current,root.current.alternate)}})()`

// A mute, the mouse over the steps and a step that is set draw what they change, and not the bench.
func TestOnlyWhatChangedIsDrawn(t *testing.T) {
	b := start(t, t.TempDir())
	b.firstProject()
	w := browse(t, b.address)
	if _, err := chromedp.Call(w.ctx, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: countRenders}); err != nil {
		t.Fatal(err)
	}
	w.do(chromedp.Reload())
	w.until("something to play", `window.hexachordPlayer?.ready&&!document.querySelector('[data-later],[data-loading]')`)
	time.Sleep(3 * time.Second) // what is fetched at rest is there
	count := func(what string, most int, do func()) {
		t.Helper()
		eval[bool](w, `(window.renders={},true)`)
		do()
		time.Sleep(700 * time.Millisecond)
		by := eval[map[string]int](w, `window.renders`)
		all, names := 0, []string{}
		for n, k := range by {
			all += k
			names = append(names, fmt.Sprintf("%4d %s", k, n))
		}
		sort.Sort(sort.Reverse(sort.StringSlice(names)))
		t.Logf("%s: %d components\n%s", what, all, strings.Join(names[:min(len(names), 25)], "\n"))
		if all == 0 {
			t.Errorf("%s: nothing is drawn, so nothing is counted", what)
		}
		if all > most {
			t.Errorf("%s: %d components are drawn, more than %d", what, all, most)
		}
	}
	x, y := w.at(kickRow, 5)
	count("the mouse over eight cells", 60, func() {
		for i := range 8 {
			x, y := w.at(kickRow, 4+i)
			w.do(chromedp.MouseEvent(chromedp.MouseMoved, x, y))
		}
	})
	w.do(chromedp.MouseEvent(chromedp.MouseMoved, x, y))
	count("a step set", 250, func() { w.do(chromedp.MouseClickXY(x, y)); w.saved() })
	count("a lane muted", 430, func() { w.click(`[data-note="42"] [aria-label^="Mute"]`); w.saved() })
}
