package e2e

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// axe runs axe-core's checks of WCAG 2.2, levels A and AA, on what is shown and lists what they find.
const axe = `axe.run(document,{runOnly:['wcag2a','wcag2aa','wcag21a','wcag21aa','wcag22aa'],resultTypes:['violations']})
.then(r=>r.violations.map(v=>v.id+': '+v.nodes.slice(0,4).map(n=>n.target.join(' ')+' '+n.html.slice(0,120)).join(' | ')))`

// Every face and drawer, in both themes, has nothing that axe-core objects to.
func TestAxe(t *testing.T) {
	script, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	b := start(t, dir)
	b.ownBreak(b.firstProject())
	w := browse(t, b.address)
	eval[any](w, "("+strings.TrimSuffix(strings.TrimSpace(string(script)), ";")+",null)")
	for _, theme := range []string{"light", "dark"} {
		for _, v := range []struct{ name, keys, there string }{
			{"steps", "1", `[data-id="stage"]`}, {"roll", "2", `[data-id="roll"]`}, {"break", "3", `[data-heard]`}, {"sounds", "4", `[data-id="kit-menu"]`},
			{"song", "5", `[data-id="song-length"]`}, {"mix", "6", `[data-id="mix-side"]`}, {"map", "1e", `.maprow`}, {"patterns", "1t", `[data-pattern]`}, {"help", "?", `[data-id="help"]`},
		} {
			w.key(v.keys)
			w.until(v.name, fmt.Sprintf("document.querySelector(`%s`)!==null", v.there))
			for _, fault := range eval[[]string](w, axe) {
				t.Errorf("%s %s: %s", theme, v.name, fault)
			}
			switch v.name {
			case "map":
				w.key("e")
			case "patterns", "help":
				w.do(chromedp.KeyEvent(kb.Escape))
			}
		}
		w.click(`[aria-label="Daylight or dark"]`)
		w.until("the other theme", fmt.Sprintf(`document.documentElement.dataset.theme!==%q`, theme))
	}
}

// ownBreak brings the bench's own recorded break into a project.
func (b *bench) ownBreak(project string) {
	b.t.Helper()
	b.post("api/v1/projects/"+project+"/recordings/own", map[string]any{}, nil)
}
