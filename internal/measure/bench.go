package measure

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"time"

	"hexachord/core/pattern"
	"hexachord/core/project"
	"hexachord/core/shelf"
	"hexachord/server"
	"hexachord/service"
	"hexachord/store"
	"hexachord/ui"
)

// Bench are the measures of starting, opening, editing and keeping.
func Bench() Group {
	return Group{"Starting, opening, editing", []Measure{
		{"JavaScript of the first view, gzipped", "260 KB", firstScripts},
		{"start to first answer, the demo's world made / after that", "500 ms", start},
		{fmt.Sprintf("a folder with %d patterns, %d kits, %d breaks, a song of %d bars and %d samples, from start to its project over the wire", Patterns, Kits, Breaks, SongBars, Samples), "400 ms", func(ctx context.Context, at *Place) (string, error) {
			w, err := at.years(ctx)
			if err != nil {
				return "", err
			}
			return short(w.opening), nil
		}},
		{"the same, its project over the wire once more", "400 ms", asked(20, func(w *world, _ int) (int, error) { return w.get("/api/v1/projects/" + w.id) })},
		{"the same, all kept kits listed", "400 ms", asked(20, func(w *world, _ int) (int, error) { return w.get("/api/v1/kits") })},
		{"the same, the projects' cards", "400 ms", asked(20, func(w *world, _ int) (int, error) { return w.get("/api/v1/projects") })},
		{"a hit put among all that, there and back", "50 ms", anEdit},
		{"50 clients at once on one project, the clients on the same machine: an edit there and back", "150 ms at the 99th percentile", func(ctx context.Context, at *Place) (string, error) {
			w, err := at.years(ctx)
			if err != nil {
				return "", err
			}
			id, err := w.bench.NewDemoProject("many")
			if err != nil {
				return "", err
			}
			return w.fifty(id)
		}},
		{"the same on the project with all that in it", "", func(ctx context.Context, at *Place) (string, error) {
			w, err := at.years(ctx)
			if err != nil {
				return "", err
			}
			return w.fifty(w.id)
		}},
		{"samples found by words on a shelf of 20,000, there and back", "50 ms", asked(60, func(w *world, i int) (int, error) {
			return w.get("/api/v1/samples?limit=100&text=" + url.QueryEscape([]string{"kick", "snare-0", "pack 3 hat", "zzz"}[i%4]))
		})},
		{"samples found by likeness there", "50 ms", func(ctx context.Context, at *Place) (string, error) {
			w, err := at.years(ctx)
			if err != nil {
				return "", err
			}
			one, err := w.bench.FindSamples(shelf.Query{Limit: 1})
			if err != nil {
				return "", err
			}
			like := one.Items[0].Hash
			return asked(20, func(w *world, _ int) (int, error) {
				return w.get("/api/v1/samples?limit=100&sort=likeness&like=" + like)
			})(ctx, at)
		}},
		{"one-shots brought to the shelf and described", "100 a second", imports},
		{"a copy of the database with all that in it, kept", "", func(ctx context.Context, at *Place) (string, error) {
			w, err := at.years(ctx)
			if err != nil {
				return "", err
			}
			t, err := timed(1, func(int) error { _, err := w.bench.KeepCopy(time.Now(), false); return err })
			return t.String(), err
		}},
		{"16,000 edits: one made / all taken back in one jump / those that lie far back gathered", "50 ms / 1 s", history},
	}}
}

// asked measures what the filled bench is asked n times.
func asked(n int, ask func(w *world, i int) (int, error)) func(context.Context, *Place) (string, error) {
	return func(ctx context.Context, at *Place) (string, error) {
		w, err := at.years(ctx)
		if err != nil {
			return "", err
		}
		sent := 0
		t, err := timed(n, func(i int) error {
			var err error
			sent, err = ask(w, i)
			return err
		})
		return fmt.Sprintf("%s (%d KB)", t, (sent+1023)/1024), err
	}
}

var scriptName = regexp.MustCompile(`(?:src|href)="\.?/?(assets/[^"]+\.js)"`)

// firstScripts adds up the scripts that the first page names.
func firstScripts(context.Context, *Place) (string, error) {
	page, err := fs.ReadFile(ui.Files(), "index.html")
	if err != nil {
		return "", err
	}
	all := 0
	for _, m := range scriptName.FindAllSubmatch(page, -1) {
		text, err := fs.ReadFile(ui.Files(), string(m[1]))
		if err != nil {
			return "", err
		}
		var packed bytes.Buffer
		z, err := gzip.NewWriterLevel(&packed, gzip.BestCompression)
		if err != nil {
			return "", err
		}
		if _, err := z.Write(text); err != nil {
			return "", err
		}
		if err := z.Close(); err != nil {
			return "", err
		}
		all += packed.Len()
	}
	if all == 0 {
		return "", errors.New("the first page names no script: the program was built without its front end")
	}
	return fmt.Sprintf("%d KB", (all+512)/1024), nil
}

// start starts the program on an empty folder, and on the same again.
func start(ctx context.Context, at *Place) (string, error) {
	dir := filepath.Join(at.Dir, "start")
	var took []string
	for range 2 {
		ctx, stop := context.WithCancel(ctx)
		cmd := exec.CommandContext(ctx, at.Program, "demo", "--addr", "127.0.0.1:0", "--data", dir)
		cmd.Cancel = func() error { return cmd.Process.Signal(os.Interrupt) }
		cmd.WaitDelay = 10 * time.Second
		out, err := cmd.StdoutPipe()
		if err != nil {
			stop()
			return "", err
		}
		begin := time.Now()
		err = cmd.Start()
		if err == nil {
			err = answers(out)
			took = append(took, short(time.Since(begin)))
			go func() { _, _ = io.Copy(io.Discard, out) }()
			stop()
			_ = cmd.Wait() // it was told to stop
		}
		stop()
		if err != nil {
			return "", err
		}
	}
	return strings.Join(took, " / "), nil
}

var printedAddress = regexp.MustCompile(`http://[\d.:]+`)

// answers waits until the program has said where it is, and has answered there.
func answers(out io.Reader) error {
	for lines := bufio.NewScanner(out); lines.Scan(); {
		if address := printedAddress.FindString(lines.Text()); address != "" {
			r, err := http.Get(address + "/api/v1/projects")
			if err != nil {
				return err
			}
			return r.Body.Close()
		}
	}
	return errors.New("the program ended before it said where it is")
}

// anEdit puts a hit, as a window does.
func anEdit(ctx context.Context, at *Place) (string, error) {
	w, err := at.years(ctx)
	if err != nil {
		return "", err
	}
	revision, sent := w.reference.Revision, 0
	t, err := timed(100, func(i int) error {
		var r server.Changed
		var err error
		sent, err = w.put(w.reference, i, 7, &revision, &r)
		return err
	})
	return fmt.Sprintf("%s (%d KB)", t, (sent+1023)/1024), err
}

// put puts a hit on a project's first pattern.
func (w *world) put(p project.Project, tick, note int, revision *int64, r *server.Changed) (int, error) {
	edit := service.Edit{Edit: project.Edit{Pattern: &project.PatternEdit{ID: p.Patterns[0].ID,
		Edit: pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{{Note: note, Tick: tick, Velocity: 100}}}}}}}
	n, err := w.ask(http.MethodPost, "/api/v1/projects/"+p.ID+"/edits", map[string]any{"revision": *revision, "edits": []service.Edit{edit}}, r)
	*revision = r.Revision
	return n, err
}

// fifty lets 50 clients make 20 edits each, at once; each goes by what it last heard.
func (w *world) fifty(id string) (string, error) {
	p, err := w.bench.Load(id)
	if err != nil {
		return "", err
	}
	first := p.Revision
	if _, err := w.put(p, 999, 100, &first, &server.Changed{}); err != nil { // the rules of edits are read once
		return "", err
	}
	const clients, each = 50, 20
	took, faults := make([]times, clients), make([]error, clients)
	var all sync.WaitGroup
	for c := range clients {
		all.Go(func() {
			revision := p.Revision
			took[c], faults[c] = timed(each, func(n int) error {
				var r server.Changed
				_, err := w.put(p, 1000+n*13, c, &revision, &r)
				return err
			})
		})
	}
	all.Wait()
	t := times(slices.Concat(slices.Collect(func(yield func([]time.Duration) bool) {
		for _, one := range took {
			if !yield(one) {
				return
			}
		}
	})...))
	slices.Sort(t)
	after, err := w.bench.Load(id)
	if got := len(after.Patterns[0].Value.Hits) - len(p.Patterns[0].Value.Hits) - 1; err == nil && got != clients*each {
		err = fmt.Errorf("%d edits of %d are there", got, clients*each)
	}
	return t.String(), errors.Join(append(faults, err)...)
}

// imports brings 400 one-shots of a third of a second.
func imports(ctx context.Context, at *Place) (string, error) {
	b, err := service.Open(filepath.Join(at.Dir, "imports"), service.Config{})
	if err != nil {
		return "", err
	}
	defer b.Close()
	rng := rand.New(rand.NewPCG(1, 2))
	var files []service.SampleFile
	for i := range 400 {
		data, err := oneShot(rng)
		if err != nil {
			return "", err
		}
		files = append(files, service.SampleFile{Name: fmt.Sprintf("%d.wav", i), Data: data})
	}
	begin := time.Now()
	for at := 0; at < len(files); at += 40 {
		if _, err := b.ImportSamples(ctx, files[at:at+40]); err != nil {
			return "", err
		}
	}
	return fmt.Sprintf("%.0f a second", float64(len(files))/time.Since(begin).Seconds()), nil
}

// history makes 16,000 edits, goes back before all of them and forth again, and gathers those that lie far back.
func history(ctx context.Context, at *Place) (string, error) {
	b, p, err := at.demo("history")
	if err != nil {
		return "", err
	}
	defer b.Close()
	id, revision := p.ID, p.Revision
	edits, err := timed(16_000, func(i int) error {
		e := project.Edit{Pattern: &project.PatternEdit{ID: p.Patterns[0].ID, Edit: pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{{Note: 36 + i%8, Tick: i % 500 * 7, Velocity: 1 + i%127}}}}}}
		done, _, err := b.Edit(ctx, id, revision, service.Edits{Edits: []service.Edit{{Edit: e}}})
		revision = done.Project.Revision
		return err
	})
	if err != nil {
		return "", err
	}
	jump := func(to int64) func(int) error {
		return func(int) error {
			done, err := b.JumpTo(id, revision, to)
			revision = done.Project.Revision
			return err
		}
	}
	back, err := timed(1, jump(0))
	if err != nil {
		return "", err
	}
	list, err := b.History(id, 0)
	if err != nil {
		return "", err
	}
	if _, err := timed(1, jump(list[0].Number)); err != nil {
		return "", err
	}
	n := 0
	gather, err := timed(1, func(int) error {
		n, err = b.Compact(ctx)
		return err
	})
	if err == nil && n < 16_000-store.KeptEdits-100 {
		err = fmt.Errorf("only %d edits were gathered", n)
	}
	return fmt.Sprintf("%s / %s / %s", edits, back, gather), err
}
