package e2e

import (
	"math"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"hexachord/core/sound"
	"hexachord/format/smf"
	"hexachord/format/wav"
)

type hit struct{ Note, Tick, Velocity, Split int }

type project struct {
	ID       string
	Revision int
	Undo     string
	Patterns []struct {
		ID    string
		Value struct {
			Name string
			Bars int
			Hits []hit
		}
	}
	Recordings []struct {
		Heard struct {
			BPM  float64
			Bars int
			Hits []struct{ Confidence float64 }
		}
	}
}

type started struct {
	Note, Velocity, Tick, PlannedFrame, Frame int
	Live                                      bool
}

func (b *bench) project(id string) (p project) {
	b.t.Helper()
	b.getJSON("api/v1/projects/"+id, &p)
	return p
}

const (
	kickRow  = 11
	snareRow = 10
	hatRow   = 4
)

// The whole path: see the kit, click a beat, hear it loop, import a break, see its hits, keep them, take them away.
func TestTheWholePath(t *testing.T) {
	dir := t.TempDir()
	b := start(t, dir)
	w := browse(t, b.address)
	var list struct{ Projects []struct{ ID, Name string } }
	b.getJSON("api/v1/projects", &list)
	id := list.Projects[0].ID

	// a kit on named, coloured lanes
	names := eval[[]string](w, `[...document.querySelectorAll('.lane .nm')].map(e=>e.textContent)`)
	if len(names) != 12 || names[kickRow] != "Hull thump" || names[snareRow] != "Rope slap" || names[hatRow] != "Chain shaker" {
		t.Fatalf("lanes %v", names)
	}

	// the browser plays what the bounce writes: towpath has swing, splits, leans and hats that choke each other
	rate := eval[int](w, `hexachordPlayer.rate`)
	w.until("something to play", `hexachordPlayer.ready`)
	compareWithBounce(t, b, w, id, b.project(id).Patterns[0].ID, rate, -60)

	// a beat, clicked: kick on 1 and 3, snare on 2 and 4, hats painted by dragging, one of them taken out again
	w.click(`[data-id="patterns-button"]`)
	w.click(`[data-id="new-pattern"]`)
	w.key(kb.Escape)
	w.until("the new pattern", `document.querySelectorAll('[data-hit]').length===0`)
	for _, c := range [][2]int{{kickRow, 0}, {kickRow, 8}, {snareRow, 4}, {snareRow, 12}} {
		x, y := w.at(c[0], c[1])
		w.do(chromedp.MouseClickXY(x, y))
	}
	x0, y := w.at(hatRow, 0)
	w.do(chromedp.MouseEvent(chromedp.MousePressed, x0, y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	for step := 1; step <= 14; step++ {
		x, _ := w.at(hatRow, step)
		w.do(chromedp.MouseEvent(chromedp.MouseMoved, x, y, chromedp.ButtonLeft))
	}
	x14, _ := w.at(hatRow, 14)
	w.do(chromedp.MouseEvent(chromedp.MouseReleased, x14, y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	w.do(chromedp.MouseClickXY(x14, y))
	w.until("18 hits", `document.querySelectorAll('[data-hit]').length===18`)
	w.saved()
	beat := b.project(id).Patterns[2]
	if len(beat.Value.Hits) != 18 {
		t.Fatalf("%d hits are kept, 18 were clicked", len(beat.Value.Hits))
	}

	// it loops: every cue starts at its frame
	w.key(" ")
	w.until("two passes", `hexachordPlayer.last && hexachordPlayer.last.passes>=2`)
	var sounds struct {
		Pass struct {
			Length float64
			Cues   []struct {
				At         float64
				Note, Tick int
			}
		}
	}
	b.getJSON("api/v1/projects/"+id+"/patterns/"+beat.ID+"/pass?rate=44100", &sounds)
	pass := sounds.Pass
	cues := eval[[]started](w, `hexachordPlayer.started.filter(s=>!s.live)`)
	if len(cues) < 2*len(pass.Cues) {
		t.Fatalf("%d cues were played in two passes of %d", len(cues), len(pass.Cues))
	}
	origin := cues[0].Frame - int(math.Round(pass.Cues[0].At*float64(rate)))
	for i, c := range cues {
		n, want := i/len(pass.Cues), pass.Cues[i%len(pass.Cues)]
		at := origin + int(math.Round((float64(n)*pass.Length+want.At)*float64(rate)))
		if c.Note != want.Note || c.Frame != at || c.PlannedFrame != at {
			t.Fatalf("cue %d: note %d at frame %d, meant note %d at %d", i, c.Note, c.Frame, want.Note, at)
		}
	}

	// edited by keyboard alone while it plays: heard at the next pass, nothing late
	w.do(chromedp.Focus(chromedp.CSS(`[data-id="stage"]`)))
	w.key(strings.Repeat(kb.ArrowDown, kickRow-hatRow) + kb.End + kb.ArrowLeft + kb.Enter + "y97../")
	w.saved()
	time.Sleep(100 * time.Millisecond)
	hits := b.project(id).Patterns[2].Value.Hits
	last := hits[len(hits)-1]
	if last.Note != 36 || last.Velocity != 97 || last.Split != 2 || last.Tick <= 14*240 || last.Tick > 14*240+8 {
		t.Fatalf("the keyboard set %+v; a kick on step 15 at velocity 97, 2 ms late, split in two is meant", last)
	}
	before := eval[int](w, `hexachordPlayer.last.passes`)
	w.until("the next pass", `hexachordPlayer.last.passes>`+itoa(before+1))
	if n := eval[int](w, `hexachordPlayer.started.filter(s=>!s.live&&s.note===36&&s.tick===`+itoa(last.Tick)+`).length`); n < 2 {
		t.Errorf("the new hit sounded %d times; two strokes a pass are meant", n)
	}
	if trouble := eval[[2]int](w, `[hexachordPlayer.last.late,hexachordPlayer.last.missing]`); trouble[1] != 0 { // late ones depend on what else the machine does
		t.Errorf("%d cues had no sound (%d were late)", trouble[1], trouble[0])
	}

	// pads by key and by mouse, undo by key
	w.key("x")
	w.click(`[data-note="36"] .pad`)
	w.until("two strikes", `hexachordPlayer.started.filter(s=>s.live&&(s.note===38||s.note===36)).length>=2`)
	t.Logf("ms from strike to its message to the audio thread: %v", eval[[]float64](w, `hexachordPlayer.strikeTimes`))
	w.key(" ")
	for range 4 { // split, lean, lean, velocity 97
		w.key("z", chromedp.ModifierCtrl)
	}
	w.saved()
	w.until("undone", `!document.querySelector('[data-id="redo"]').disabled`)

	// the chosen lane leans and strokes are left to chance: the hits stay as written, browser and bounce agree
	w.click(`[data-id="feel"]`)
	w.retype(`[aria-label="Hull thump leans"]`, "-20")
	w.saved()
	w.retype(`[aria-label="Humanise velocity"]`, "30")
	w.saved()
	w.click(`[data-id="feel"]`)
	written := b.project(id).Patterns[2].Value.Hits
	at := map[int]float64{}
	for _, c := range pass.Cues {
		at[c.Tick*128+c.Note] = c.At
	}
	b.getJSON("api/v1/projects/"+id+"/patterns/"+beat.ID+"/pass?rate=44100", &sounds)
	pass = sounds.Pass
	late := map[int]float64{36: -0.020}
	for _, c := range pass.Cues {
		if was, ok := at[c.Tick*128+c.Note]; ok && math.Abs(c.At-was-late[c.Note]) > 1e-6 {
			t.Errorf("note %d at tick %d moved by %.4f s, %.3f is meant", c.Note, c.Tick, c.At-was, late[c.Note])
		}
	}
	if len(written) != len(pass.Cues) || written[0].Tick != 0 {
		t.Errorf("%d hits, %d cues; feel writes nothing", len(written), len(pass.Cues))
	}
	compareWithBounce(t, b, w, id, beat.ID, rate, -60)

	// a recorded break becomes hits on the same lanes, kept as a pattern that plays
	w.key("3")
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="recording-file"]`), []string{filepath.Join(dir, "deck-break.wav")}))
	w.until("heard hits on the lanes", `document.querySelectorAll('[data-heard]').length>20`)
	heard := b.project(id).Recordings[0].Heard
	if math.Abs(heard.BPM-93.7) > 0.9 || heard.Bars != 4 {
		t.Errorf("heard %.2f BPM in %d bars", heard.BPM, heard.Bars)
	}
	w.key(" ")
	w.until("recording and kit sound", `hexachordPlayer.started.some(s=>s.note===-1)&&hexachordPlayer.last.peakLeft>0.01`)
	w.key(" ")
	w.click(`[data-id="keep"]`)
	w.until("the kept pattern's hits", `document.querySelectorAll('[data-hit]').length>5`)
	kept := b.project(id).Patterns[3]
	if kept.Value.Bars != 4 || len(kept.Value.Hits) < 50 {
		t.Errorf("kept %d bars with %d hits", kept.Value.Bars, len(kept.Value.Hits))
	}
	count := eval[int](w, `hexachordPlayer.started.length`)
	w.key(" ")
	w.until("the kept pattern sounds on the kit", `hexachordPlayer.started.slice(`+itoa(count)+`).filter(s=>s.note>0).length>8`)
	w.key(" ")

	// and away
	pat := "api/v1/projects/" + id + "/patterns/" + kept.ID
	if f, err := smf.Decode(b.get(pat + "/midi")); err != nil || len(f.Tracks) < 4 || math.Abs(f.Tempi[0].BPM-92) > 1e-3 {
		t.Errorf("MIDI: %v", err)
	}
	if a, info, err := wav.Decode(b.get(pat + "/wav?rate=48000&bits=24")); err != nil || info.Bits != 24 || a.Seconds() < 10 || a.Peak() > 1 {
		t.Errorf("WAV: %v", err)
	}

	// everything is still there after a restart, and undo with it
	want := b.project(id)
	b.stop()
	again := start(t, dir)
	if got := again.project(id); got.Revision != want.Revision || got.Undo != "Keep deck-break.wav as pattern" || len(got.Patterns) != 4 {
		t.Errorf("after a restart: revision %d, undo %q, %d patterns", got.Revision, got.Undo, len(got.Patterns))
	}
}

// compareWithBounce renders the pattern with the browser's own worklet and compares it with the server's bounce: the
// difference must lie most dB under the signal.
func compareWithBounce(t *testing.T, b *bench, w window, id, patternID string, rate int, most float64) {
	t.Helper()
	bounced, _, err := wav.Decode(b.get("api/v1/projects/" + id + "/patterns/" + patternID + "/wav?bits=32&passes=2&rate=" + itoa(rate)))
	if err != nil {
		t.Fatal(err)
	}
	rendered := eval[[]int](w, `hexachordPlayer.renderOffline(2,`+ftoa(bounced.Seconds())+`).then(c=>c.flatMap(x=>[...x].map(v=>Math.round(v*1e8))))`)
	n := bounced.Frames()
	if len(rendered) != 2*n {
		t.Fatalf("%d samples rendered, %d bounced", len(rendered), 2*n)
	}
	var signal, difference float64
	for c := range 2 {
		for i, v := range bounced.Channels[c] {
			d := float64(rendered[c*n+i])/1e8 - float64(v)
			signal += float64(v) * float64(v)
			difference += d * d
		}
	}
	db := sound.DB(math.Sqrt(difference / signal))
	t.Logf("browser against bounce: difference %.1f dB RMS", db)
	if !(db < most) || signal == 0 {
		t.Errorf("the browser's rendering is %.1f dB off the bounce, under %g is meant", db, most)
	}
}

// Two windows on one project see each other's edits and never overwrite them.
func TestTwoWindows(t *testing.T) {
	b := start(t, t.TempDir())
	one, two := browse(t, b.address), browse(t, b.address)
	count := `document.querySelectorAll('[data-hit]').length`
	n := eval[int](one, count)
	x, y := one.at(0, 6)
	one.do(chromedp.MouseClickXY(x, y))
	two.until("the other window's hit", count+`===`+itoa(n+1))
	x, y = two.at(0, 10)
	two.do(chromedp.MouseClickXY(x, y))
	one.until("the second window's hit", count+`===`+itoa(n+2))
}
