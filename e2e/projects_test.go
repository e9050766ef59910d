package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

type card struct {
	ID, Name, Title string
	Patterns        []struct{ ID, Name string }
}

func (b *bench) cards() []card {
	b.t.Helper()
	var p struct{ Projects []card }
	b.getJSON("api/v1/projects", &p)
	return p.Projects
}

func (b *bench) titled(title string) (c card) {
	b.t.Helper()
	for _, c := range b.cards() {
		if c.Title == title {
			return c
		}
	}
	b.t.Fatalf("no project is called %s: %+v", title, b.cards())
	return c
}

// Projects are named, copied, looked for, thrown away and brought back; a window that is loaded again is where it was.
func TestProjectsAreThingsOneManages(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	w.newProject()
	w.click(`[data-id="take-boathouse"]`)
	w.until("lanes", `document.querySelector('[data-id="stage"]')!==null`)
	w.saved()
	// a project that nobody named is called after its kit, and asks gently
	w.until("called after its kit", `document.querySelector('[data-id="project"]').textContent.includes('Boathouse')`)
	w.click(`[data-id="name-it"]`)
	w.until("asked", `document.activeElement.dataset.id==='name-project'`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="name-project"]`), "Weir Songs"+kb.Enter))
	w.until("named", `document.querySelector('[data-id="project"]').textContent.includes('Weir Songs')`)

	w.key("J", chromedp.ModifierShift)
	w.until("the projects", `document.querySelectorAll('.card').length===1&&document.querySelector('[data-project="Lock Seven"]')!==null`)
	w.click(`[data-project="Lock Seven"]`)
	w.click(`[data-id="duplicate-project"]`)
	w.until("a copy", `document.querySelector('[data-project="Lock Seven, copy"].on')!==null`)
	w.retype(`[data-id="project-name"]`, "Night ferry set")
	w.until("renamed", `document.querySelector('[data-project="Night ferry set"]')!==null`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="search-projects"]`), "ferry set"))
	w.until("found", `document.querySelectorAll('.card:not(.kit)').length===1`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="search-projects"]`), kb.ArrowDown))
	w.until("the pictures have the keys", `document.activeElement.dataset.id==='projects'`)
	copied := b.titled("Night ferry set")
	if len(copied.Patterns) != 2 {
		t.Errorf("the copy has %d patterns", len(copied.Patterns))
	}
	w.do(chromedp.KeyEvent(kb.Delete))
	w.until("in the trash", `document.querySelector('[data-trash="Night ferry set"]')!==null`)
	for _, c := range b.cards() {
		if c.ID == copied.ID {
			t.Error("what is in the trash is still listed")
		}
	}
	w.click(`[data-trash="Night ferry set"] button`)
	w.until("restored", `document.querySelector('[data-project="Night ferry set"]')!==null`)
	if len(b.titled("Night ferry set").Patterns) != 2 {
		t.Error("a restored project has lost patterns")
	}
	w.do(chromedp.KeyEvent(kb.Delete))
	w.until("in the trash again", `document.querySelector('[data-trash]')!==null`)
	w.click(`[data-id="empty-trash"]`)
	w.until("empty", `document.querySelector('[data-trash]')===null`)

	// loaded again: the same project, face, pattern and bar
	eval[any](w, `(()=>{const i=document.querySelector('[data-id="search-projects"]');i.focus();i.select();return null})()`)
	w.do(chromedp.SendKeys(chromedp.CSS(`[data-id="search-projects"]`), kb.Backspace))
	w.do(chromedp.DoubleClick(chromedp.CSS(`[data-project="Lock Seven"]`), chromedp.NodeVisible))
	w.until("Lock Seven", `document.querySelector('[data-id="project"]').textContent.includes('Lock Seven')&&document.querySelector('[data-id="stage"]')!==null`)
	w.do(chromedp.KeyEvent(kb.PageDown))
	w.until("the other pattern", `document.querySelector('.tools').textContent.includes('night ferry')`)
	w.key("]")
	w.until("its second bar", `document.body.textContent.includes('Bar 2 of')||document.querySelector('.tools').textContent.includes('2 of 2')||document.querySelector('.tools').textContent.includes('Bar 2')`)
	w.key("2")
	w.until("the roll", `document.querySelector('[data-id="roll"]')!==null`)
	place := eval[string](w, `localStorage.getItem('hexachord.place.'+localStorage.getItem('hexachord.project'))`)
	w.do(chromedp.Reload())
	w.until("the roll again", `document.querySelector('[data-id="roll"]')!==null`)
	time.Sleep(200 * time.Millisecond)
	if again := eval[string](w, `localStorage.getItem('hexachord.place.'+localStorage.getItem('hexachord.project'))`); again != place {
		t.Errorf("loaded again at %s, it was %s", again, place)
	}
}

// Patterns of another project come to the lanes of this one, told before what each lane gets, and heard before anything is written.
func TestPatternsComeFromAnotherProject(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	w.newProject()
	w.click(`[data-id="take-boathouse"]`)
	w.until("lanes", `document.querySelector('[data-id="stage"]')!==null`)
	w.saved()
	id := eval[string](w, `localStorage.getItem('hexachord.project')`)
	before := b.mapOf(id)
	w.click(`[data-id="project"]`)
	w.click(`[data-project="Lock Seven"]`)
	w.click(`[data-bring="towpath"] input`)
	w.until("what the lanes would get", `document.querySelector('.lanesrow .lanes').textContent.includes('+')`)
	w.click(`[data-id="hear-here"]`)
	w.until("heard here", `hexachordPlayer.started.length>0`)
	w.shoot("projects")
	w.click(`[data-id="hear-here"]`)
	if now := b.mapOf(id); len(now.Patterns) != len(before.Patterns) || now.Undo != before.Undo {
		t.Error("hearing a pattern here wrote something")
	}
	w.click(`[data-id="bring-patterns"]`)
	w.until("it is here", fmt.Sprintf(`fetch('api/v1/projects/%s').then(r=>r.json()).then(p=>p.patterns.length===%d)`, id, len(before.Patterns)+1))
	after := b.mapOf(id)
	if got := after.Patterns[len(after.Patterns)-1].Value; got.Name != "towpath" || len(got.Hits) == 0 || after.Undo != "Bring towpath from Lock Seven" {
		t.Errorf("brought %q with %d hits, undo %q", got.Name, len(got.Hits), after.Undo)
	}
	w.key("z", chromedp.ModifierCtrl)
	w.until("gone again", fmt.Sprintf(`fetch('api/v1/projects/%s').then(r=>r.json()).then(p=>p.patterns.length===%d)`, id, len(before.Patterns)))
}

// Saving a kit makes its name the project's; saving again is one press; a name typed at once goes into the dialog's field.
func TestKitsAreSavedUnderTheirName(t *testing.T) {
	b := start(t, t.TempDir())
	w := browse(t, b.address)
	id := b.firstProject()
	w.key("4")
	w.click(`[data-id="save-kit"]`)
	w.key("Wepts") // letters that open panels when the dialog has not got the keys
	w.until("typed into the field", `document.querySelector('[data-id="kit-name"]')?.value==='Wepts'`)
	w.do(chromedp.KeyEvent(kb.Enter))
	w.until("the kit's name", `document.querySelector('[data-id="kit"]').textContent.includes('Wepts')`)
	w.saved()
	if k := b.kitOf(id); k.Kit.Name != "Wepts" || k.Undo != "Save the kit as Wepts" {
		t.Errorf("the project's kit is called %q, undo %q", k.Kit.Name, k.Undo)
	}
	kits := func() (names []string) {
		var r struct {
			Kits []struct {
				Name, Description string
				Earlier           bool
			}
		}
		b.getJSON("api/v1/kits", &r)
		for _, k := range r.Kits {
			names = append(names, fmt.Sprint(k.Name, " ", k.Description, " ", k.Earlier))
		}
		return names
	}
	w.click(`[data-drop="38"] .box`)
	w.click(`[data-id="even"]`)
	w.saved()
	w.click(`[data-id="save-kit"]`)
	w.until("two states", `fetch('api/v1/kits').then(r=>r.json()).then(r=>r.kits.length===2)`)
	if got := fmt.Sprint(kits()); got != "[Wepts  false Wepts  true]" {
		t.Errorf("kept kits: %s", got)
	}
	w.key("J", chromedp.ModifierShift)
	w.click(`[data-kit="Wepts"]`)
	w.retype(`[data-id="kept-kit-about"]`, "for the weir")
	eval[any](w, `(document.activeElement.blur(),null)`)
	w.retype(`[data-id="kept-kit-name"]`, "Weir kit")
	w.until("renamed", `document.querySelector('[data-kit="Weir kit"]')!==null`)
	w.shoot("projects-kit")
	w.click(`[data-id="delete-kit"]`)
	w.until("in the trash", `document.querySelector('[data-trash="Weir kit"]')!==null`)
}
