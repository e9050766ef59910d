// Package measure times what the program does, on the machine it runs on: what `hexachord bench` prints and writes.
package measure

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"os"
	"runtime"
	"slices"
	"strings"
	"time"
)

// Measure is one thing that is measured.
type Measure struct {
	Of, Goal string
	// Run measures it and says what came out, in words and units.
	Run func(ctx context.Context, at *Place) (string, error)
}

// Group is some measures under one heading.
type Group struct {
	Name     string
	Measures []Measure
}

// Place is where measures run: a folder of their own, the program itself for what is measured as a whole process, and the bench with
// much in it that some share.
type Place struct {
	Dir     string
	Program string // path of the hexachord command
	world   *world
}

// Result is what one measure gave.
type Result struct {
	Measure
	Group, Got string
}

// All runs the measures of all groups one after another, nothing beside them, and tells each result when it is there. A measure that
// fails is a result, too.
func All(ctx context.Context, at *Place, groups []Group, only string, told func(Result)) error {
	defer at.close()
	for _, g := range groups {
		for _, m := range g.Measures {
			if !strings.Contains(strings.ToLower(g.Name+" "+m.Of), strings.ToLower(only)) {
				continue
			}
			if err := ctx.Err(); err != nil {
				return err
			}
			runtime.GC()
			got, err := m.Run(ctx, at)
			if err != nil {
				got = "failed: " + err.Error()
			}
			told(Result{m, g.Name, got})
		}
	}
	return ctx.Err()
}

// Machine describes the machine in a line.
func Machine() string {
	words := []string{fmt.Sprintf("%d cores", runtime.NumCPU())}
	if cpu := firstOf("/proc/cpuinfo", "model name"); cpu != "" {
		words = append(words, cpu)
	}
	if memory := firstOf("/proc/meminfo", "MemTotal"); memory != "" {
		var kb int64
		if _, err := fmt.Sscan(memory, &kb); err == nil {
			words = append(words, fmt.Sprintf("%.0f GB", float64(kb)/(1<<20)))
		}
	}
	return strings.Join(append(words, runtime.GOOS+"/"+runtime.GOARCH, runtime.Version()), ", ")
}

// firstOf is what stands after the first line of a name in a file of lines “name: value”; empty when there is none.
func firstOf(path, name string) string {
	f, err := os.Open(path)
	if err != nil {
		return ""
	}
	defer f.Close()
	for lines := bufio.NewScanner(f); lines.Scan(); {
		if k, v, ok := strings.Cut(lines.Text(), ":"); ok && strings.TrimSpace(k) == name {
			return strings.TrimSpace(v)
		}
	}
	return ""
}

// Where the table stands in a document that has more to say.
const (
	tableBegins = "<!-- measured -->"
	tableEnds   = "<!-- /measured -->"
)

// Table writes results as Markdown, between marks.
func Table(w io.Writer, head string, results []Result) {
	fmt.Fprintf(w, "%s\n%s\n", tableBegins, head)
	group := ""
	for _, r := range results {
		if r.Group != group {
			group = r.Group
			fmt.Fprintf(w, "\n**%s**\n\n| what | goal | measured |\n| --- | --- | --- |\n", group)
		}
		fmt.Fprintf(w, "| %s | %s | %s |\n", r.Of, r.Goal, strings.ReplaceAll(r.Got, "\n", " "))
	}
	fmt.Fprintf(w, "\n%s", tableEnds)
}

// Put puts a table into a document, in the place of the one that stands between the marks there.
func Put(document, table string) (string, error) {
	from := strings.Index(document, tableBegins)
	to := strings.Index(document, tableEnds)
	if from < 0 || to < from {
		return "", fmt.Errorf("there is no %s … %s in it to write between", tableBegins, tableEnds)
	}
	return document[:from] + table + document[to+len(tableEnds):], nil
}

// times are how long runs of one thing took.
type times []time.Duration

// timed runs f n times.
func timed(n int, f func(i int) error) (times, error) {
	out := make(times, 0, n)
	for i := range n {
		begin := time.Now()
		if err := f(i); err != nil {
			return out, err
		}
		out = append(out, time.Since(begin))
	}
	slices.Sort(out)
	return out, nil
}

// at is the time under which a share of the runs lies.
func (t times) at(share float64) time.Duration { return t[min(len(t)-1, int(share*float64(len(t))))] }

func (t times) String() string {
	switch {
	case len(t) == 0:
		return "nothing ran"
	case len(t) < 20:
		return short(t.at(0.5))
	}
	return fmt.Sprintf("%s; 99 %%: %s", short(t.at(0.5)), short(t.at(0.99)))
}

// short is a duration in two figures or three.
func short(d time.Duration) string {
	ms := float64(d) / float64(time.Millisecond)
	switch {
	case ms >= 1000:
		return fmt.Sprintf("%.2f s", ms/1000)
	case ms >= 10:
		return fmt.Sprintf("%.0f ms", ms)
	case ms >= 1:
		return fmt.Sprintf("%.1f ms", ms)
	}
	return fmt.Sprintf("%.2f ms", ms)
}
