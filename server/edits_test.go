package server

import (
	"encoding/json"
	"net/http"
	"reflect"
	"slices"
	"strings"

	"hexachord/core/pattern"
	"hexachord/core/project"
	"hexachord/core/song"
	"hexachord/core/view"
	"hexachord/service"
)

// hits puts hits into a pattern.
func hits(id string, put ...pattern.Hit) service.Edit {
	return service.Edit{Edit: project.Edit{Pattern: &project.PatternEdit{ID: id, Edit: pattern.Edit{Hits: &pattern.Hits{Put: put}}}}}
}

// edit makes one edit on the project as it is known, which must succeed, and leads the project along by what the reply says
// has changed: that must be what the bench now has.
func (d door) edit(p *view.Project, label string, e service.Edit, sounding ...service.Sounding) Changed {
	d.t.Helper()
	body := map[string]any{"revision": p.Revision, "edits": []service.Edit{e}}
	if label != "" {
		body["label"] = label
	}
	if len(sounding) > 0 {
		body["sounding"] = sounding[0]
	}
	var c Changed
	d.must(http.MethodPost, "/api/v1/projects/"+p.ID+"/edits", body, &c)
	d.lead(p, c)
	return c
}

// refused makes an edit that must not succeed.
func (d door) refused(p view.Project, e service.Edit) (status int, body []byte) {
	d.t.Helper()
	status, body = d.ask(http.MethodPost, "/api/v1/projects/"+p.ID+"/edits", map[string]any{"revision": p.Revision, "edits": []service.Edit{e}}, nil)
	var now view.Project
	d.must(http.MethodGet, "/api/v1/projects/"+p.ID, nil, &now)
	if status == http.StatusOK || now.Revision != p.Revision {
		d.t.Errorf("an edit that should be refused: %d, revision %d after %d", status, now.Revision, p.Revision)
	}
	return status, body
}

// lead brings a project to where a change leads, as a window does, and holds it against the project itself.
func (d door) lead(p *view.Project, c Changed) {
	d.t.Helper()
	patched(p, c)
	var whole view.Project
	d.must(http.MethodGet, "/api/v1/projects/"+p.ID, nil, &whole)
	if a, b := text(d, *p), text(d, whole); a != b {
		d.t.Fatalf("what is said to have changed does not lead to the project:\n%.2000s\n%.2000s", a, b)
	}
	*p = whole
}

func text(d door, v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		d.t.Fatal(err)
	}
	return string(b)
}

func patched(p *view.Project, c Changed) {
	set := func(into, from any) {
		if v := reflect.ValueOf(from); !v.IsNil() {
			if v.Kind() == reflect.Pointer {
				v = v.Elem()
			}
			reflect.ValueOf(into).Elem().Set(v)
		}
	}
	x := c.Patch
	p.Revision, p.Undo, p.Redo = c.Revision, c.Undo, c.Redo
	set(&p.Settings, x.Settings)
	set(&p.Map, x.Map)
	set(&p.Kit, x.Kit)
	set(&p.Recordings, x.Recordings)
	set(&p.Grooves, x.Grooves)
	set(&p.Mix, x.Mix)
	set(&p.Missing, x.Missing)
	set(&p.Swatches, x.Swatches)
	set(&p.Ladders, x.Ladders)
	set(&p.Codes, x.Codes)
	if x.Parts != nil {
		p.Parts = *x.Parts
	}
	if x.Song != nil {
		p.Song = *x.Song
	}
	p.Blocks = slices.DeleteFunc(slices.Clone(p.Blocks), func(b project.Stored[song.Block]) bool {
		return slices.Contains(x.BlocksGone, b.ID) || slices.ContainsFunc(x.Blocks, func(o project.Stored[song.Block]) bool { return o.ID == b.ID })
	})
	p.Blocks = append(p.Blocks, x.Blocks...)
	slices.SortFunc(p.Blocks, func(a, b project.Stored[song.Block]) int { return strings.Compare(a.ID, b.ID) })
	p.Patterns = slices.Clone(p.Patterns)
	at := func(id string) int {
		return slices.IndexFunc(p.Patterns, func(s project.Stored[pattern.Pattern]) bool { return s.ID == id })
	}
	for _, s := range x.Patterns {
		if i := at(s.ID); i >= 0 {
			p.Patterns[i] = s
		} else {
			p.Patterns = append(p.Patterns, s)
		}
	}
	for _, e := range x.Edited {
		i := at(e.ID)
		pt := p.Patterns[i].Value
		gone := map[pattern.Key]bool{}
		for _, k := range e.Remove {
			gone[k] = true
		}
		for _, h := range e.Put {
			gone[h.Key()] = true
		}
		next := []pattern.Hit{}
		for _, h := range pt.Hits {
			if !gone[h.Key()] {
				next = append(next, h)
			}
		}
		pt.Hits = append(next, e.Put...)
		pattern.SortHits(pt.Hits)
		if e.Settings != nil {
			pt = pt.With(*e.Settings)
		}
		p.Patterns[i].Value = pt
	}
	if x.PatternIDs != nil {
		var next []project.Stored[pattern.Pattern]
		for _, id := range x.PatternIDs {
			if i := at(id); i >= 0 {
				next = append(next, p.Patterns[i])
			}
		}
		p.Patterns = next
	}
}
