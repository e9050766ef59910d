package e2e

import (
	"fmt"
	"testing"
)

// frames counts how many frames the window draws in two seconds of one gesture on the Roll, made once a frame.
const frames = `(async what=>{
const el=document.querySelector('[data-id="roll"]'),b=el.getBoundingClientRect();
const wheel=o=>el.dispatchEvent(new WheelEvent('wheel',{bubbles:true,cancelable:true,clientX:b.x+500,clientY:b.y+100,...o}));
const point=(type,x,y)=>el.dispatchEvent(new PointerEvent(type,{bubbles:true,pointerId:1,button:0,buttons:1,clientX:b.x+x,clientY:b.y+y}));
el.setPointerCapture=()=>{};
const next=()=>new Promise(r=>requestAnimationFrame(r));
for(let i=0;i<5;i++)await next();
const shown=()=>document.querySelector('.ruler').textContent+document.querySelector('.rolldrawn path').getAttribute('d'),before=shown();
let n=0,worst=0,moved=false;const t0=performance.now();let last=t0;
if(what==='box')point('pointerdown',3,3);
while(performance.now()-t0<2000){
const i=n%120,on=i<60?i:120-i;
if(what==='scroll')wheel({deltaX:i<60?14:-14});
if(what==='zoom')wheel({ctrlKey:true,deltaY:i%30<15?1:-1});
if(what==='box')point('pointermove',60+on*14,40+on*4);
await next();const t=performance.now();worst=Math.max(worst,t-last);last=t;n++;moved||=n%20===0&&shown()!==before}
if(what==='box'){point('pointerup',60,40)}
return moved?[n/(performance.now()-t0)*1000,worst]:[0,0]})`

// editsOf makes edits of a project's first pattern.
func editsOf(be *bench, id string) func(e any) {
	be.t.Helper()
	var p struct {
		Revision float64
		Patterns []struct{ ID string }
	}
	be.getJSON("api/v1/projects/"+id, &p)
	pattern := p.Patterns[0].ID
	return func(e any) {
		be.post("api/v1/projects/"+id+"/edits", map[string]any{"revision": p.Revision, "label": "x", "edits": []any{map[string]any{"pattern": map[string]any{"id": pattern, "edit": e}}}}, &p)
	}
}

// rollOf20000 opens the Roll of a pattern with 19,900 hits, 620 of them in view.
func rollOf20000(be *bench) window {
	be.t.Helper()
	id := be.firstProject()
	const bars = 64
	var put []any
	for tick := 0; len(put) < 19_900; tick += 18 {
		for _, note := range []int{36, 38, 42} {
			if len(put) < 19_900 && tick < bars*1920 {
				put = append(put, map[string]any{"note": note, "tick": tick, "velocity": 20 + (tick/18*7+note)%100, "length": 0, "split": 0, "slope": 0})
			}
		}
	}
	edit := editsOf(be, id)
	edit(map[string]any{"shape": map[string]any{"bars": bars}})
	for from := 0; from < len(put); from += 4000 {
		edit(map[string]any{"hits": map[string]any{"put": put[from:min(len(put), from+4000)]}})
	}
	w := browse(be.t, be.address)
	w.key("2")
	w.until("the Roll", `!!document.querySelector('[data-id="roll"]')`)
	return w
}

// Frames a second of the Roll with 20,000 hits: scrolled, zoomed, with a box drawn over it.
func BenchmarkRoll(b *testing.B) {
	w := rollOf20000(start(b, b.TempDir()))
	for b.Loop() {
		for _, what := range []string{"scroll", "zoom", "box"} {
			got := eval[[2]float64](w, frames+fmt.Sprintf("(%q)", what))
			if got[0] == 0 {
				b.Fatalf("%s moves nothing", what)
			}
			b.ReportMetric(got[0], what+"-frames/s")
			b.ReportMetric(got[1], what+"-ms-longest")
		}
	}
}

// Scrolling the Roll draws only what comes into view: there and back in uneven steps it is what it was, and as if drawn anew.
func TestTheRollScrollsWithoutSeams(t *testing.T) {
	b := start(t, t.TempDir())
	edit := editsOf(b, b.firstProject())
	edit(map[string]any{"shape": map[string]any{"bars": 8}})
	edit(map[string]any{"fill": map[string]any{"notes": []int{36, 38, 42, 46}, "every": 1, "velocity": 70}})
	w := browse(t, b.address)
	w.key("2")
	w.until("the Roll", `!!document.querySelector('[data-id="roll"] canvas')`)
	const pixels = `(()=>{const c=document.querySelector('[data-id="roll"] canvas');return c.getContext('2d').getImageData(0,0,c.width,c.height).data})()`
	eval[bool](w, `(async()=>{
window.frame=()=>new Promise(r=>requestAnimationFrame(()=>requestAnimationFrame(()=>setTimeout(r,30))));
window.scrollRoll=async(...px)=>{for(const deltaX of px){document.querySelector('[data-id="roll"]').dispatchEvent(new WheelEvent('wheel',{bubbles:true,cancelable:true,deltaX}));await frame()}};
await scrollRoll(200);return true})()`)
	differing := func(js string) int {
		t.Helper()
		return eval[int](w, `(async()=>{const was=`+pixels+`;`+js+`;const is=`+pixels+`;let n=0;for(let i=0;i<is.length;i+=4)if(Math.max(...[0,1,2,3].map(k=>Math.abs(is[i+k]-was[i+k])))>24)n++;return n})()`)
	}
	if n := differing(`await scrollRoll(37)`); n < 2000 {
		t.Fatalf("scrolled by 37 px %d pixels differ: it does not scroll", n)
	}
	if n := differing(`await scrollRoll(61,3,140,-90,11,-125)`); n > 20 {
		t.Errorf("there and back: %d pixels differ", n)
	}
	if n := differing(`await scrollRoll(90,75,-40);window.scrolled=` + pixels + `;const b=document.querySelector('[aria-label="Daylight or dark"]');for(const _ of [0,1]){b.click();await frame()}`); n < 2000 {
		t.Fatalf("scrolled by 125 px %d pixels differ", n)
	}
	if n := eval[int](w, `(()=>{const is=`+pixels+`;let n=0;for(let i=0;i<is.length;i+=4)if(Math.max(...[0,1,2,3].map(k=>Math.abs(is[i+k]-scrolled[i+k])))>24)n++;return n})()`); n > 20 {
		t.Errorf("drawn anew: %d pixels differ", n)
	}
}
