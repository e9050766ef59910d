package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// faint finds text whose contrast to what lies behind it is under WCAG 2.2's AA: 4.5:1, 3:1 for large text (1.4.3). Text over
// drawings and of controls that are off is left out, as it is there. Relative luminance and contrast as WCAG defines them.
const faint = `(()=>{
const lum=c=>{const f=c.map(v=>{v/=255;return v<=0.04045?v/12.92:((v+0.055)/1.055)**2.4});return 0.2126*f[0]+0.7152*f[1]+0.0722*f[2]};
const parse=s=>{const m=s.match(/[\d.]+/g)?.map(Number)??[0,0,0,0];
 if(s.startsWith('color(srgb'))return[m[0]*255,m[1]*255,m[2]*255,m[3]??1];return[m[0],m[1],m[2],m[3]??1]};
const over=(a,b)=>[0,1,2].map(i=>a[i]*a[3]+b[i]*(1-a[3]));
const behind=el=>{const layers=[];for(let e=el;e;e=e.parentElement){const c=parse(getComputedStyle(e).backgroundColor);if(c[3]>0)layers.push(c);if(c[3]===1)break}
 let out=[255,255,255];for(const l of layers.reverse())out=over(l,out);return out};
const out=[];const walk=document.createTreeWalker(document.body,NodeFilter.SHOW_TEXT);
for(let n;n=walk.nextNode();){const t=n.textContent.trim();const e=n.parentElement;if(!t||!e||e.closest('svg,script,style,[disabled],.ant-btn-disabled,.ant-select-disabled,.ant-dropdown-menu-item-disabled,.ant-select-item-group,[aria-disabled="true"]'))continue;
 const r=document.createRange();r.selectNodeContents(n);const b=r.getBoundingClientRect();if(b.width<1||b.height<1||b.bottom<0||b.top>800||b.right<0||b.left>1280)continue;
 const top=document.elementFromPoint(b.left+b.width/2,b.top+b.height/2);if(!top||!(e.contains(top)||top.contains(e)))continue;
 const s=getComputedStyle(e);if(s.visibility==='hidden')continue;let fade=1;for(let x=e;x;x=x.parentElement)fade*=Number(getComputedStyle(x).opacity);if(fade<1)continue;
 const bg=behind(e);const fg=over(parse(s.color),bg);const[a,c]=[lum(fg),lum(bg)].sort((x,y)=>y-x);const ratio=(a+0.05)/(c+0.05);
 const px=parseFloat(s.fontSize),large=px>=24||px>=18.66&&Number(s.fontWeight)>=700;
 if(ratio<(large?3:4.5)-0.005)out.push(t.slice(0,30)+' '+ratio.toFixed(2)+' '+s.color+' on '+bg.map(Math.round));}
return [...new Set(out)]})()`

// Every word of the main views, and of lists that are open with the current choice under the pointer, meets WCAG AA in both themes.
func TestWordsCanBeRead(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	_ = b
	check := func(view string) {
		t.Helper()
		if bad := eval[[]string](w, faint); len(bad) > 0 {
			t.Errorf("%s: %q", view, bad)
		}
	}
	for _, theme := range []string{"light", "dark"} {
		check(theme + " steps")
		for _, list := range []string{"Grid", "Bars", "Pattern"} {
			sel := fmt.Sprintf(`[aria-label=%q]`, list)
			if !eval[bool](w, fmt.Sprintf("document.querySelector(`%s`)!==null", sel)) {
				continue
			}
			eval[any](w, fmt.Sprintf("(document.querySelector(`%s`).closest('.ant-select').dispatchEvent(new MouseEvent('mousedown',{bubbles:true})),null)", sel))
			w.until(list+" open", `document.querySelector('.ant-select-dropdown:not(.ant-select-dropdown-hidden) .ant-select-item-option-selected')!==null`)
			x, y := w.middle(`.ant-select-dropdown:not(.ant-select-dropdown-hidden) .ant-select-item-option-selected`)
			w.do(chromedp.MouseEvent(chromedp.MouseMoved, x, y))
			check(theme + " list of " + list)
			w.do(chromedp.KeyEvent(kb.Escape))
			eval[any](w, `(document.activeElement?.blur(),null)`)
		}
		for _, view := range []struct{ keys, there string }{{"4", `[data-id="kit-menu"]`}, {"e", `.maprow`}, {"e2", `[data-id="roll"]`}, {"1t", `[data-pattern]`}} {
			w.key(view.keys)
			w.until(view.keys, fmt.Sprintf("document.querySelector(`%s`)!==null", view.there))
			check(theme + " after " + view.keys)
		}
		w.do(chromedp.KeyEvent(kb.Escape))
		w.key("J", chromedp.ModifierShift)
		w.until("projects", `document.querySelector('[data-id="projects"]')!==null`)
		check(theme + " projects")
		w.do(chromedp.KeyEvent(kb.Escape))
		w.click(`[aria-label="Daylight or dark"]`)
		w.do(chromedp.MouseEvent(chromedp.MouseMoved, 640, 790))
		w.until("no hint", `document.querySelector('.ant-tooltip:not(.ant-tooltip-hidden)')===null`)
	}
}
