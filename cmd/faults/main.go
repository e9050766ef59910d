// Command faults tries the tests: it puts small faults into the code, one at a time and on a copy (the tree is not
// touched), runs the tests beside the code and says which faults no test noticed. docs/testing.md tells how it is used.
package main

import (
	_ "embed"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"time"
)

//go:embed faults.txt
var list string

// fault is one line of code and what is to be there instead.
type fault struct {
	name     string
	file     string
	packages []string // whose tests are to notice it, beside its own
	from, to string
}

// read parses blocks of lines: "# name", "file [packages…]", "- code", "+ code".
func read(text string) (faults []fault, err error) {
	var f fault
	for i, line := range strings.Split(text, "\n") {
		kind, rest, _ := strings.Cut(line, " ")
		switch {
		case line == "":
		case kind == "#":
			f = fault{name: rest}
		case kind == "-":
			f.from = rest
		case kind == "+":
			f.to = rest
			if f.name == "" || f.file == "" || f.from == "" || f.from == f.to {
				return nil, fmt.Errorf("line %d: a fault needs a name, a file, a line and another line", i+1)
			}
			faults = append(faults, f)
		default:
			words := strings.Fields(line)
			f.file, f.packages = words[0], words[1:]
		}
	}
	return faults, nil
}

// put is the file's text with the fault in it; the line must be there exactly once.
func (f fault) put(root string) (string, error) {
	b, err := os.ReadFile(filepath.Join(root, f.file))
	if err != nil {
		return "", err
	}
	text := string(b)
	if n := strings.Count(text, f.from); n != 1 {
		return "", fmt.Errorf("%s: %q is there %d times, not once", f.file, f.from, n)
	}
	return strings.Replace(text, f.from, f.to, 1), nil
}

var errSurvived = errors.New("no test noticed")

// try runs the tests with the fault; nil when one of them fails.
func (f fault) try(root, dir string) error {
	text, err := f.put(root)
	if err != nil {
		return err
	}
	faulty, overlay := filepath.Join(dir, "faulty.go"), filepath.Join(dir, "overlay.json")
	if err := os.WriteFile(faulty, []byte(text), 0o600); err != nil {
		return err
	}
	replace, err := json.Marshal(map[string]any{"Replace": map[string]string{filepath.Join(root, f.file): faulty}})
	if err != nil {
		return err
	}
	if err := os.WriteFile(overlay, replace, 0o600); err != nil {
		return err
	}
	packages := append([]string{"./" + filepath.Dir(f.file)}, f.packages...)
	build := exec.Command("go", append([]string{"build", "-overlay", overlay}, packages...)...)
	build.Dir = root
	if out, err := build.CombinedOutput(); err != nil {
		return fmt.Errorf("the fault does not compile:\n%s", out)
	}
	test := exec.Command("go", append([]string{"test", "-short", "-count=1", "-failfast", "-timeout", "120s", "-overlay", overlay}, packages...)...)
	test.Dir = root
	if err := test.Run(); err == nil {
		return errSurvived
	}
	return nil
}

func main() {
	only := flag.String("only", "", "try only the faults whose name contains this")
	at := flag.Int("at-once", 2, "how many are tried at once")
	flag.Parse()
	if err := run(*only, *at); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(only string, atOnce int) error {
	root, err := os.Getwd()
	if err != nil {
		return err
	}
	faults, err := read(list)
	if err != nil {
		return err
	}
	began := time.Now()
	results := make([]error, len(faults))
	var wait sync.WaitGroup
	free := make(chan struct{}, max(1, atOnce))
	for i, f := range faults {
		if !strings.Contains(f.name, only) {
			continue
		}
		wait.Go(func() {
			free <- struct{}{}
			defer func() { <-free }()
			dir, err := os.MkdirTemp("", "fault-")
			if err == nil {
				defer func() { _ = os.RemoveAll(dir) }()
				err = f.try(root, dir)
			}
			results[i] = err
			fmt.Printf("%-9s %s\n", map[bool]string{true: "caught", false: "SURVIVED"}[err == nil], f.name)
		})
	}
	wait.Wait()
	bad := 0
	for i, err := range results {
		if err != nil {
			bad++
			fmt.Printf("%s (%s): %v\n", faults[i].name, faults[i].file, err)
		}
	}
	fmt.Printf("%d faults, %d not caught, %.0f s\n", len(faults), bad, time.Since(began).Seconds())
	if bad > 0 {
		return fmt.Errorf("%d of %d faults were not caught", bad, len(faults))
	}
	return nil
}
