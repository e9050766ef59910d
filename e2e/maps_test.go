package e2e

import (
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"hexachord/core/drummap"
)

type mapProject struct {
	Map      drummap.Map
	Undo     string
	Patterns []struct {
		ID    string
		Value struct {
			Name string
			Hits []hit
		}
	}
}

func (b *bench) mapOf(id string) (p mapProject) {
	b.t.Helper()
	b.getJSON("api/v1/projects/"+id, &p)
	return p
}

func (p mapProject) on(note int) (n int) {
	for _, h := range p.Patterns[0].Value.Hits {
		if h.Note == note {
			n++
		}
	}
	return n
}

// retype replaces what a field holds and leaves it.
func (w window) retype(selector, text string) {
	w.t.Helper()
	w.do(chromedp.Focus(chromedp.CSS(selector)))
	eval[any](w, `(document.activeElement.select(),null)`)
	w.do(chromedp.SendKeys(chromedp.CSS(selector), text+kb.Enter))
	eval[any](w, `new Promise(done=>setTimeout(()=>done(null),30))`) // until it has taken effect
}

// A map is named, coloured, reordered, hidden, its notes struck; saved, and another taken over it, with patterns carried
// to the right lanes; and an instrument that is not ours receives what the map names.
func TestMappingLanes(t *testing.T) {
	dir := t.TempDir()
	b := start(t, dir)
	w := browse(t, b.address)
	var list struct{ Projects []struct{ ID string } }
	b.getJSON("api/v1/projects", &list)
	id := list.Projects[0].ID
	kicks, snares := b.mapOf(id).on(36), b.mapOf(id).on(38)
	lane := func(note int) drummap.Lane {
		t.Helper()
		l, _ := b.mapOf(id).Map.ByNote(note)
		return l
	}
	w.key("e")
	w.until("the map", `document.querySelectorAll('.maprow').length===12`)

	w.retype(`[data-maprow="38"] [data-id="lane-name"]`, "Wet rope")
	w.saved()
	w.retype(`[data-maprow="38"] [data-id="lane-code"]`, "wr")
	w.saved()
	w.click(`[data-maprow="38"] [data-id="colour"]`)
	w.click(`.palette .f-tom`)
	w.saved()
	w.until("coloured", `document.querySelector('[data-maprow="38"].f-tom')!==null`)
	if l := lane(38); l.Name != "Wet rope" || l.Code != "WR" || l.Color != "tom" || l.Role != drummap.Snare {
		t.Errorf("edited: %+v", l)
	}
	w.click(`[data-maprow="38"] [aria-label="Wet rope up"]`)
	w.saved()
	w.click(`[data-maprow="49"] .eye`)
	w.saved()
	m := b.mapOf(id).Map
	if m.Lanes[9].Note != 38 || m.Lanes[0].Shown {
		t.Errorf("moved up and hidden: %+v", m.Lanes)
	}

	// a note by name, then one by striking: hits go along, in the same step
	w.retype(`[data-maprow="38"] [data-id="lane-note"]`, "E2")
	w.until("on note 40", `document.querySelector('[data-maprow="40"]')!==null`)
	w.saved()
	if p := b.mapOf(id); p.on(40) != snares || p.on(38) != 0 || lane(40).Name != "Wet rope" {
		t.Errorf("%d hits on note 40, %d were on 38", p.on(40), snares)
	}
	w.key("z", chromedp.ModifierCtrl)
	w.until("back on 38", `document.querySelector('[data-maprow="38"]')!==null`)
	w.saved()
	if p := b.mapOf(id); p.on(38) != snares {
		t.Errorf("undo brings %d of %d hits back", p.on(38), snares)
	}
	w.click(`[data-maprow="70"] [data-id="lane-strike"]`)
	w.until("listening", `document.querySelector('[data-id="listening"]')!==null`)
	w.key("b") // sends 36, the note of the kick: the two swap
	w.until("swapped", `document.querySelector('[data-maprow="36"] [data-id="lane-name"]').value==='Winch ratchet'`)
	w.saved()
	if p := b.mapOf(id); p.on(70) != kicks {
		t.Errorf("%d kicks follow their lane to note 70, %d are meant", p.on(70), kicks)
	}
	w.key("z", chromedp.ModifierCtrl)
	w.until("put back", `document.querySelector('[data-maprow="36"] [data-id="lane-name"]').value==='Hull thump'`)
	w.saved()

	// a note given and another lane hidden at once: neither edit takes the other's place
	w.retype(`[data-maprow="38"] [data-id="lane-note"]`, "E2")
	w.click(`[data-maprow="70"] .eye`)
	w.until("both shown", `document.querySelector('[data-maprow="40"]')!==null&&document.querySelector('[data-maprow="70"] .eye[aria-pressed="false"]')!==null`)
	w.saved()
	if lane(40).Name != "Wet rope" || lane(70).Shown {
		t.Errorf("of two quick edits: %+v, %+v", lane(40), lane(70))
	}
	for range 2 {
		w.key("z", chromedp.ModifierCtrl)
		w.saved()
	}
	w.until("both taken back", `document.querySelector('[data-maprow="38"]')!==null`)
	w.saved()

	// saved by name
	w.click(`[data-id="save-map"]`)
	w.retype(`[data-id="map-name"]`, "Wet boathouse")
	w.until("kept", `document.querySelector('[data-map="Wet boathouse"]')!==null`)
	w.saved()

	// another map comes: what would land on the wrong drum is offered to be carried
	table := filepath.Join(dir, "other.csv")
	if err := os.WriteFile(table, []byte("note,name,code,role\n50,Loft bell,CR,crash\n44,Hook,HC,closed hat\n40,Dust,SN,snare\n38,Drop,KI,kick\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="map-file"]`), []string{table}))
	w.until("the plan", `document.querySelector('[data-id="carrying"]')!==null&&document.querySelectorAll('[data-carry]').length>=12`)
	// nothing is written while it waits, nor when it is left
	before := b.mapOf(id)
	w.click(`[data-id="leave-carry"]`)
	w.until("left", `document.querySelector('[data-id="carrying"]')===null`)
	w.saved()
	if now := b.mapOf(id); now.Undo != before.Undo || now.Map.Name != "Wet boathouse" || !reflect.DeepEqual(now.Map, before.Map) {
		t.Errorf("left, the map is %s and undo takes back %q (%q before)", now.Map.Name, now.Undo, before.Undo)
	}
	w.do(chromedp.SetUploadFiles(chromedp.CSS(`[data-id="map-file"]`), []string{table}))
	w.until("the plan again", `document.querySelector('[data-id="carrying"]')!==null&&document.querySelectorAll('[data-carry]').length>=12`)
	w.click(`[data-id="carry"]`)
	w.until("carried", `document.querySelector('[data-id="carrying"]')===null`)
	w.saved()
	// one step takes back both, and does both again
	w.key("z", chromedp.ModifierCtrl)
	w.until("taken back", `!document.querySelector('[data-id="redo"]').disabled`)
	w.saved()
	if now := b.mapOf(id); !reflect.DeepEqual(now.Map, before.Map) || now.on(38) != before.on(38) {
		t.Errorf("one step back: the map %s, %d hits on 38, %d before", now.Map.Name, now.on(38), before.on(38))
	}
	w.click(`[data-id="redo"]`)
	w.until("done again", `document.querySelector('[data-id="redo"]').disabled`)
	w.saved()
	p := b.mapOf(id)
	if p.on(38) != kicks || p.on(40) != snares || !strings.HasPrefix(p.Undo, "Carry 2 patterns") {
		t.Errorf("%d kicks on 38 (%d meant), %d snares on 40 (%d meant), %q", p.on(38), kicks, p.on(40), snares, p.Undo)
	}

	// the part plays to an instrument that is not ours: the simulated receiver shows what arrives
	w.click(`[data-id="plays-to"]`)
	w.do(chromedp.Click(chromedp.Search(`//div[contains(@class,"ant-select-item-option")][contains(., "MIDI out")]`), chromedp.NodeVisible))
	w.saved()
	w.until("the receiver", `document.querySelector('[data-id="received"]')!==null`)
	w.key(" ")
	w.until("kicks and snares arrive by name", `['38','40'].every(n=>[...document.querySelectorAll('[data-received="'+n+'"]')].some(e=>/Drop|Dust/.test(e.textContent)))`)
	if peak := eval[float64](w, `hexachordPlayer.last.peakLeft`); peak > 0.001 {
		t.Errorf("the kit sounds at %g though the part plays to MIDI", peak)
	}
	w.key(" ")
}

func TestMapConvert(t *testing.T) {
	dir := t.TempDir()
	nam, table := filepath.Join(dir, "gm.midnam"), filepath.Join(dir, "gm.csv")
	if said, ok := run(t, "map", "convert", "gm", "--out", nam); !ok || !strings.Contains(said, "47 lanes") || !strings.Contains(said, "not carried: codes and colours") {
		t.Errorf("%s", said)
	}
	if said, ok := run(t, "map", "convert", nam, "--out", table); !ok || !strings.Contains(said, "47 lanes") {
		t.Errorf("%s", said)
	}
	data, err := os.ReadFile(table)
	if err != nil || !strings.Contains(string(data), "42,Closed Hi Hat,") {
		t.Errorf("%v %s", err, data)
	}
	bad := write(t, "bad.csv", []byte("note,name\n36,a\n36,b\n"))
	if said, ok := run(t, "map", "convert", bad, "--out", table); ok || !strings.Contains(said, "line 3: note 36 stands on line 2") {
		t.Errorf("%s", said)
	}
}
