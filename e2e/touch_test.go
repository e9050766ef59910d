package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
)

// outOfPlace lists controls that lie outside the window or under something else; what scrolls on its own may hold more than shows.
const outOfPlace = `[...document.querySelectorAll('.bench button,.bench input,.bench .ant-select,header button')].filter(e=>{
const b=e.getBoundingClientRect();
if(b.width===0||getComputedStyle(e).visibility==='hidden'||e.matches('[type=file],[type=radio],[type=checkbox],.ant-select input,.tostage')||e.disabled)return false;
for(let p=e.parentElement;p&&p!==document.body;p=p.parentElement){const s=getComputedStyle(p);if(/auto|scroll/.test(s.overflowX+s.overflowY)&&(p.scrollHeight>p.clientHeight+1||p.scrollWidth>p.clientWidth+1))return false}
if(b.left<-1||b.top<-1||b.right>innerWidth+1||b.bottom>innerHeight+1)return true;
const at=document.elementFromPoint(b.x+b.width/2,b.y+b.height/2);
return !(at&&(e.contains(at)||at.contains(e)||at.closest('label')?.contains(e)))}).map(e=>(e.getAttribute('aria-label')||e.textContent||e.outerHTML).slice(0,50)+' @'+['x','y','right','bottom'].map(k=>Math.round(e.getBoundingClientRect()[k])))`

// touch puts a finger on a place and lets it go where the last of the places is.
func (w window) touch(places ...[2]float64) {
	w.t.Helper()
	finger := func(what input.DispatchTouchEventType, at ...[2]float64) {
		points := []*input.TouchPoint{}
		for _, p := range at {
			points = append(points, &input.TouchPoint{X: p[0], Y: p[1]})
		}
		if _, err := chromedp.Call(w.ctx, input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: what, TouchPoints: points}); err != nil {
			w.t.Fatal(err)
		}
	}
	finger(input.DispatchTouchEventTypeTouchStart, places[0])
	for _, p := range places[1:] {
		finger(input.DispatchTouchEventTypeTouchMove, p)
	}
	finger(input.DispatchTouchEventTypeTouchEnd)
}

// rest lays a finger on a place for half a second.
func (w window) rest(x, y float64) {
	w.t.Helper()
	for _, what := range []input.DispatchTouchEventType{input.DispatchTouchEventTypeTouchStart, input.DispatchTouchEventTypeTouchEnd} {
		points := []*input.TouchPoint{}
		if what == input.DispatchTouchEventTypeTouchStart {
			points = append(points, &input.TouchPoint{X: x, Y: y})
		}
		if _, err := chromedp.Call(w.ctx, input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: what, TouchPoints: points}); err != nil {
			w.t.Fatal(err)
		}
		time.Sleep(500 * time.Millisecond)
	}
}

// isInPlace fails when the page is larger than the window, or a control lies out of its place.
func (w window) isInPlace(where string) {
	w.t.Helper()
	if over := eval[[2]int](w, `[document.documentElement.scrollWidth-innerWidth,document.documentElement.scrollHeight-innerHeight]`); over[0] > 0 || over[1] > 0 {
		w.t.Errorf("%s is %v px larger than the window", where, over)
	}
	if what := eval[[]string](w, outOfPlace); len(what) > 0 {
		w.t.Errorf("%s: out of place: %q", where, what)
	}
}

// On a tablet lying on its side nothing lies outside the window or under something else in any face and in the map's editor, and a finger sets and clears
// steps, strikes pads and changes faces.
func TestATabletByTouch(t *testing.T) {
	b := start(t, t.TempDir())
	id := b.firstProject()
	b.ownBreak(id)
	w := browse(t, b.address)
	w.do(chromedp.EmulateViewport(1024, 768, chromedp.EmulateTouch))
	w.until("something to play", `hexachordPlayer.ready`)
	tap := func(selector string) {
		t.Helper()
		at := eval[[2]float64](w, "(b=>[b.x+b.width/2,b.y+b.height/2])(document.querySelector(`"+selector+"`).getBoundingClientRect())")
		w.touch(at)
	}
	for _, i := range []int{2, 3, 4, 5, 6, 1} {
		tap(fmt.Sprintf(`nav.faces button:nth-of-type(%d)`, i))
		w.until("the face", fmt.Sprintf(`document.querySelector('nav.faces button:nth-of-type(%d)').getAttribute('aria-current')==='true'&&document.querySelectorAll('.bench button').length>20&&!document.querySelector('[data-loading]')`, i))
		w.shoot(fmt.Sprint("touch-", i))
		w.isInPlace(fmt.Sprint("face ", i))
	}
	tap(`[data-id=\"edit-map\"]`)
	w.until("the map's editor", `document.querySelectorAll('.maprow').length>9&&!document.querySelector('[data-loading]')`)
	w.shoot("touch-map")
	w.isInPlace("the map")
	tap(`[data-id=\"saved-maps\"]`)
	w.until("the saved maps", `document.querySelector('.savedmaps').getBoundingClientRect().width>200`)
	w.shoot("touch-saved-maps")
	if got := eval[bool](w, `[...document.querySelectorAll('.keptmap button,[data-id="shut-saved-maps"],[data-id="save-map"]')].every(e=>{const b=e.getBoundingClientRect();return e.contains(document.elementFromPoint(b.x+b.width/2,b.y+b.height/2))})`); !got {
		t.Error("the saved maps lie under something")
	}
	tap(`[data-id=\"shut-saved-maps\"]`)
	w.until("they are shut", `getComputedStyle(document.querySelector('.savedmaps')).display==='none'`)
	tap(`[data-id=\"map-done\"]`)
	w.until("the steps", `!!document.querySelector('[data-id="edit-map"]')`)
	had := len(b.patterns(id)[0].Hits)
	// lanes are as high as a finger needs
	at := func(step int) (x, y float64) {
		x, _ = w.at(kickRow, step)
		_, y = w.middle(`.lane[data-note="36"]`)
		return x, y
	}
	if high := eval[float64](w, `document.querySelector('.lane[data-note="36"]').getBoundingClientRect().height`); high < 44 {
		t.Errorf("lanes are %g px high for fingers", high)
	}
	x, y := at(4)
	w.touch([2]float64{x, y})
	w.saved()
	if got := b.patterns(id)[0].Hits; len(got) != had+1 {
		t.Errorf("a tap on an empty step: %d hits, there were %d", len(got), had)
	}
	w.touch([2]float64{x, y})
	w.saved()
	if got := b.patterns(id)[0].Hits; len(got) != had {
		t.Errorf("a tap on a hit: %d hits, there were %d", len(got), had)
	}
	hit := func() (v int) {
		for _, h := range b.patterns(id)[0].Hits {
			if h.Note == 36 && h.Tick == 0 {
				v = h.Velocity
			}
		}
		return v
	}
	x, y = at(0)
	was := hit()
	w.rest(x, y)
	if hit() != was || was == 0 {
		t.Errorf("a finger resting on a hit chooses it: its velocity is %d, was %d", hit(), was)
	}
	tap(`[data-id=\"touch-softer\"]`)
	w.saved()
	if got := hit(); got != was-4 {
		t.Errorf("softer: %d, was %d", got, was)
	}
	tap(`[data-id=\"touch-set\"]`)
	w.saved()
	if got := hit(); got != 0 {
		t.Errorf("cleared it still has velocity %d", got)
	}
	before := eval[int](w, `hexachordPlayer.started.length`)
	w.touch(eval[[2]float64](w, `(b=>[b.x+b.width/2,b.y+b.height/2])([...document.querySelectorAll('.dock polygon')].map(e=>e.getBoundingClientRect()).sort((a,b)=>b.width-a.width)[0])`))
	w.until("a pad sounds", fmt.Sprintf(`hexachordPlayer.started.length>%d`, before))
}
