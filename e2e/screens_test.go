package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"hexachord/demo"
)

// shoot takes a picture of the window. HEXACHORD_SHOTS names the folder that keeps it; docs/screenshots is made so.
func (w window) shoot(name string) {
	w.t.Helper()
	dir := os.Getenv("HEXACHORD_SHOTS")
	if dir == "" {
		dir = w.t.TempDir()
	}
	png, err := chromedp.Run(w.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		w.t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dir, name+".png"), png, 0o600); err != nil {
		w.t.Fatal(err)
	}
}

// fits checks that a view needs no scroll bar at 1280×800 and that no label of a control is cut off; a lane's own name, however
// long, says the rest when it is pointed at.
func (w window) fits(view string) {
	w.t.Helper()
	if over := eval[[2]int](w, `[document.documentElement.scrollWidth-1280,document.documentElement.scrollHeight-800]`); over[0] > 0 || over[1] > 0 {
		w.t.Errorf("%s is %v px larger than the window", view, over)
	}
	if over := eval[int](w, `Math.max(0,...[...document.querySelectorAll('.tools')].map(e=>e.scrollWidth-e.clientWidth))`); over > 0 {
		w.t.Errorf("the tools of %s are %d px too wide", view, over)
	}
	cut := eval[[]string](w, `[...document.querySelectorAll('button,.nm,.ttl,h1,h2,h3')].filter(e=>e.offsetParent&&!e.matches('.nm[title]')&&e.scrollWidth>e.clientWidth+2&&getComputedStyle(e).overflow!=='visible').map(e=>e.textContent)`)
	if len(cut) > 0 {
		w.t.Errorf("%s cuts off %q", view, cut)
	}
}

// Every main view, from the demo data, fits 1280×800.
func TestScreens(t *testing.T) {
	loose, err := demo.Loose()
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	b := start(t, dir)
	w := browse(t, b.address)
	see := func(view string) {
		t.Helper()
		w.fits(view)
		w.shoot(view)
	}
	w.until("something to play", `hexachordPlayer.ready`)
	see("steps")
	w.click(`[aria-label="Daylight or dark"]`)
	w.do(chromedp.MouseEvent(chromedp.MouseMoved, 640, 790))
	w.until("no hint is in the way", `document.querySelector('.ant-tooltip:not(.ant-tooltip-hidden)')===null`)
	see("steps-dark")
	w.click(`[aria-label="Daylight or dark"]`)
	w.do(chromedp.MouseEvent(chromedp.MouseMoved, 640, 790))
	w.key("w")
	w.ready("slack water")
	w.until("it is heard", `document.querySelectorAll('.rolepick').length>2`)
	see("ready-patterns")
	w.key(kb.Escape + kb.Escape + "t")
	w.until("the patterns", `document.querySelectorAll('[data-pattern]').length===2`)
	w.fits("patterns")
	w.key(kb.Escape + "u")
	w.until("the feel", `document.querySelector('[data-id="feel-panel"]')!==null`)
	w.click(`[data-id="groove-menu"]`)
	w.until("the menu", `document.querySelectorAll('.ant-dropdown-menu-item').length>3`)
	_ = eval[bool](w, `([...document.querySelectorAll('.ant-dropdown-menu-item')].find(e=>e.textContent.startsWith('Keep the groove')).click(),true)`)
	w.until("a groove", `document.querySelector('[aria-label="Groove time"]')!==null`)
	w.saved()
	see("feel")
	w.key("z", chromedp.ModifierCtrl)
	w.key("z", chromedp.ModifierCtrl)
	w.saved()
	w.key(kb.Escape)
	w.key("2")
	w.until("the Roll", `document.querySelector('[data-id="roll"] canvas')!==null`)
	see("roll")
	w.key("3")
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="recording-file"]`), []string{filepath.Join(dir, "deck-break.wav")}))
	w.until("heard hits on the lanes", `document.querySelectorAll('[data-heard]').length>20`)
	w.until("the waveform", `document.querySelector('[data-id="hearing"]')===null&&document.querySelectorAll('.crown path').length>0`)
	see("break")
	w.key("]")
	w.until("a doubt", `document.querySelector('.moment line')!==null`)
	w.until("it has sounded", `!hexachordPlayer.last.playing&&hexachordPlayer.started.some(s=>s.note===-1)`)
	see("break-review")
	w.click(`[data-id="groove-of"]`)
	w.until("its groove", `document.querySelector('[data-id="take-groove"] ellipse')!==null`)
	w.fits("groove")
	w.key(kb.Escape)
	w.until("shut", `document.querySelector('[data-id="take-groove"]')===null`)
	b.laySong()
	w.key("5")
	w.until("the song", `document.querySelectorAll('.songgroups .songrow').length===2&&document.querySelectorAll('[data-block]').length>8`)
	w.do(chromedp.KeyEvent(kb.Enter))
	_ = eval[bool](w, `(document.querySelectorAll('.parthead .fold')[2].click(),true)`)
	w.until("the lanes of both", `document.querySelectorAll('[data-other]').length>8`)
	see("song")
	b.mixSong(b.firstProject())
	w.key("6")
	w.until("the mix", `document.querySelectorAll('[data-output]').length===5`)
	w.click(`[data-output="2"] .fold`)
	w.until("how loud it is", `/\d/.test(document.querySelector('.mixcrown .big').textContent)`)
	w.key(" ", chromedp.ModifierShift)
	w.key(" ")
	w.until("it plays a while", `hexachordPlayer.last.playing&&hexachordPlayer.last.atS>6`)
	w.until("it plays through the snare's compressor", `hexachordPlayer.last.playing&&hexachordPlayer.last.atS>11&&hexachordPlayer.last.meters.taken[2].compressor>1`)
	see("mix")
	w.key(" ")
	w.click(`[data-id="open-export"]`)
	_ = eval[bool](w, `([...document.querySelectorAll('[data-id="export"] button')].find(x=>x.textContent==='All of it').click(),true)`)
	_ = eval[bool](w, `(document.querySelectorAll('[data-id="export"] .ant-segmented-item input')[2].click(),true)`)
	w.until("what is to be made", `document.querySelectorAll('.madefile').length>=16&&document.querySelectorAll('.madefile').length<20`)
	w.click(`[data-id="start-export"]`)
	w.until("it is made", `document.querySelector('[data-id="export-state"]')?.textContent.includes('files are made')`)
	see("export")
	_ = eval[bool](w, `([...document.querySelectorAll('[data-id="export"] button')].find(x=>x.textContent==='Back to the mix').click(),true)`)
	w.until("the mix again", `document.querySelector('[data-id="outputs"]')!==null`)
	w.key(" ", chromedp.ModifierShift)
	w.key("5")
	for range 5 {
		w.key("z", chromedp.ModifierCtrl)
		w.saved()
	}
	w.until("the shelf is filled", `fetch('/api/v1/samples?folder=weigh%20house').then(r=>r.json()).then(r=>r.total>50)`)
	w.key("4")
	w.do(chromedp.MouseClickXY(100, 514))
	w.until("the snare's waveform", `document.querySelectorAll('.wave polygon').length>=2&&document.querySelectorAll('.rung').length===4&&document.querySelectorAll('.box svg').length>25`)
	see("sounds")
	w.key("l")
	w.until("the shelf", `document.querySelectorAll('.sample').length>10`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="shelf-text"]`), "slap"))
	w.until("found", `document.querySelectorAll('.sample').length>5&&[...document.querySelectorAll('.sample')].every(e=>e.textContent.toLowerCase().includes('slap'))`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="shelf-text"]`), kb.ArrowDown+kb.ArrowDown+kb.ArrowDown+kb.ArrowDown+kb.ArrowDown+kb.Enter))
	w.until("trying", `document.querySelector('[data-id="trying"]')!==null`)
	see("shelf")
	w.click(`[data-id="put-back"]`)
	var drop []string
	for i, f := range loose {
		if i%4 == 0 || f.Name == "weigh-house-loop.wav" {
			drop = append(drop, write(t, f.Name, f.Data))
		}
	}
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="add-samples"]`), drop))
	w.until("the plan", `document.querySelectorAll('.planrow:not(.idle)').length>4&&document.querySelectorAll('.dropchips svg').length>8`)
	see("drop")
	w.click(`[data-id="leave-drop"]`)
	w.key("l")
	w.until("the shelf", `document.querySelectorAll('.sample').length>0`)
	w.click(`.shelf .ant-input-clear-icon`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="shelf-text"]`), "quay"))
	w.until("found", `document.querySelectorAll('.sample').length===1`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="shelf-text"]`), kb.ArrowDown))
	w.click(`[data-id="put-on"]`)
	w.do(chromedp.Click(chromedp.Search(`//li[contains(., "Cut sounds")]`), chromedp.NodeVisible))
	w.until("the pieces", `document.querySelectorAll('.opencrown polygon').length>10`)
	see("cut")
	w.do(chromedp.Click(chromedp.Search(`//button[contains(., "Close")]`), chromedp.NodeVisible))
	w.click(`[data-id="edit-map"]`)
	w.until("the map", `document.querySelectorAll('.maprow').length===12&&document.querySelectorAll('.keptmap').length>0`)
	see("map")
	table := write(t, "weigh house.csv", []byte(`note,name,code,role
49,Loft bell,CR,crash
46,Feed sack,HO,open hat
44,Trap latch,PH,pedal hat
42,Hook rattle,HC,closed hat
56,Winch ratchet,CB,cowbell
58,Grain sieve,SH,shaker
37,Tally stick,RM,rim
39,Ledger slap,CL,clap
41,Empty drum,TL,low tom
40,Flour dust,SN,snare
35,Platform drop,KI,kick
`))
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="map-file"]`), []string{table}))
	w.until("the plan", `document.querySelectorAll('[data-carry]').length>=12`)
	see("maps")
	w.click(`[data-id="leave-carry"]`)
	w.click(`[data-id="map-done"]`)
	var copied struct{ ID string }
	for _, name := range []string{"Weir Songs", "Night Ferry Set", "Tar and Twine"} {
		b.post("api/v1/projects/"+b.titled("Lock Seven").ID+"/duplicate", struct{}{}, &copied)
		b.post("api/v1/projects/"+copied.ID+"/name", map[string]string{"name": name}, nil)
	}
	w.click(`[data-id="project"]`)
	w.click(`[data-project="Weir Songs"]`)
	w.click(`[data-bring="night ferry"] input`)
	w.until("what the lanes would get", `document.querySelector('.would')!==null`)
	see("projects")
	w.key(kb.Escape)
	w.until("the bench again", `document.querySelector('[data-id="projects"]')===null`)
	w.newProject()
	w.until("five ways to begin", `document.querySelector('[data-id="make-lanes"]')!==null`)
	see("empty")
}
