package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

// Every control of every face says what it is when it is pointed at (undo, redo, the theme and the help have hints of the component
// library's), and every stop of the keys looks another way when it has the focus.
func TestControlsSayWhatTheyAreAndShowTheFocus(t *testing.T) {
	b := start(t, t.TempDir())
	b.ownBreak(b.firstProject())
	w := browse(t, b.address)
	w.until("something to play", `hexachordPlayer.ready`)
	w.key("6")
	w.until("the mix", `document.querySelector('[data-strip="36"]')!==null&&document.querySelector('[aria-label^="Gain of Hull thump"]')!==null`)
	said := `(e=>{e.dispatchEvent(new PointerEvent('pointerover',{bubbles:true}));return e.closest('[title]').title})(document.querySelector('[aria-label^="Gain of "]'))`
	if got := eval[string](w, said); !strings.Contains(got, "Hull thump") {
		t.Errorf("the kick's gain says %q", got)
	}
	w.click(`.lane[data-note="38"] .nm`)
	w.until("the snare's", `document.querySelector('[aria-label^="Gain of Rope slap"]')!==null`)
	if got := eval[string](w, said); !strings.Contains(got, "Rope slap") {
		t.Errorf("another lane chosen, its gain says %q", got)
	}
	for i, face := range []string{"steps", "roll", "break", "sounds", "song", "mix"} {
		w.key(fmt.Sprint(i + 1))
		w.until(face, fmt.Sprintf(`document.querySelector('nav.faces button:nth-of-type(%d)').getAttribute('aria-current')==='true'&&!document.querySelector('[data-loading]')&&document.querySelectorAll('.bench button').length>20`, i+1))
		silent := eval[[]string](w, `[...document.querySelectorAll('.bench button,.bench input,.bench [role=slider],.bench .ant-select,.bench .ant-segmented-item')].filter(e=>{
if(e.getBoundingClientRect().width===0||e.matches('.ant-select input,.ant-segmented input,.tostage,[type=file],[aria-label="Undo"],[aria-label="Redo"],[aria-label="Daylight or dark"],[aria-label="Help"]'))return false;
e.dispatchEvent(new PointerEvent('pointerover',{bubbles:true}));
return !e.closest('[title]:not([title=""])')&&!e.querySelector('[title]:not([title=""])')}).map(e=>(e.getAttribute('aria-label')||e.textContent||e.outerHTML).slice(0,40))`)
		if len(silent) > 0 {
			t.Errorf("%s: these do not say what they are: %q", face, silent)
		}
		stops := eval[int](w, `(()=>{window.stops=[...document.querySelectorAll('.bench button,.bench input,.bench [tabindex="0"],.bench select')].filter(e=>e.getBoundingClientRect().width>0&&!e.disabled&&e.tabIndex>=0&&!e.matches('[type=radio],[type=file]'));
window.look=e=>{const a=[];for(let p=e,i=0;p&&i<4;p=p.parentElement,i++)for(const q of [null,'::after','::before']){const s=getComputedStyle(p,q);a.push(s.outlineStyle,s.outlineWidth,s.outlineColor,s.boxShadow,s.borderColor,s.backgroundColor,s.visibility,s.opacity)}return a.join()};
document.activeElement?.blur();return window.stops.length})()`)
		_ = eval[bool](w, `(window.before=window.stops.map(window.look),true)`)
		for k := range stops {
			if !eval[bool](w, fmt.Sprintf(`(e=>{e.focus({focusVisible:true});return document.activeElement===e})(window.stops[%d])`, k)) {
				continue
			}
			seen := false
			for range 20 { // some are drawn anew for it
				if seen = eval[bool](w, fmt.Sprintf(`window.look(window.stops[%d])!==window.before[%d]`, k, k)); seen {
					break
				}
				time.Sleep(10 * time.Millisecond)
			}
			if !seen {
				t.Errorf("%s: the focus is not seen on %s", face, eval[string](w, fmt.Sprintf(`window.stops[%d].outerHTML.slice(0,160)`, k)))
			}
		}
	}
}
