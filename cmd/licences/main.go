// Command licences writes the list of everything that is shipped inside the program, with the licence of each: the Go modules
// compiled into it and the packages of the front end.
//
//	go run ./cmd/licences > docs/licences.md
package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"sort"
	"strings"
)

func main() {
	if err := write(os.Stdout, "."); err != nil {
		log.Fatal(err)
	}
}

// piece is something shipped.
type piece struct{ name, version, licence string }

func write(out io.Writer, root string) error {
	modules, err := goModules(root)
	if err != nil {
		return err
	}
	packages, err := npmPackages(filepath.Join(root, "ui"))
	if err != nil {
		return err
	}
	fmt.Fprint(out, "# Licences\n\nWhat is shipped inside the program beside its own code, written by `go run ./cmd/licences`.\n")
	for _, part := range []struct {
		head string
		all  []piece
	}{{"Go modules", modules}, {"Packages of the front end", packages}} {
		fmt.Fprintf(out, "\n## %s\n\n| name | version | licence |\n| --- | --- | --- |\n", part.head)
		for _, p := range part.all {
			fmt.Fprintf(out, "| %s | %s | %s |\n", p.name, p.version, p.licence)
		}
	}
	fmt.Fprint(out, strokes)
	return nil
}

// strokes names what the weights were learnt from.
const strokes = `
## Sounds

All sounds that are shipped are synthesised by the program. The weights that hear drums and tell samples apart were learnt from performances
of synthesised drums and of single strokes of FluidR3 GM (Frank Wen and others, MIT licence), which is not shipped.
`

// goModules are the modules of the packages that the program is compiled from.
func goModules(root string) ([]piece, error) {
	cmd := exec.Command("go", "list", "-deps", "-json=Module", "./cmd/hexachord")
	cmd.Dir, cmd.Env = root, append(os.Environ(), "CGO_ENABLED=0")
	data, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("go list: %w", err)
	}
	seen := map[string]bool{}
	all := []piece{{"Go, its standard library", "", "BSD-3-Clause"}}
	for d := json.NewDecoder(bytes.NewReader(data)); ; {
		var p struct {
			Module *struct {
				Path, Version, Dir string
				Main               bool
			}
		}
		if err := d.Decode(&p); err == io.EOF {
			break
		} else if err != nil {
			return nil, err
		}
		m := p.Module
		if m == nil || m.Main || seen[m.Path] {
			continue
		}
		seen[m.Path] = true
		l, err := licenceIn(m.Dir)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", m.Path, err)
		}
		all = append(all, piece{m.Path, m.Version, l})
	}
	sort.Slice(all, func(i, j int) bool { return all[i].name < all[j].name })
	return all, nil
}

// licenceIn tells a licence by words that only it has.
func licenceIn(dir string) (string, error) {
	files, err := os.ReadDir(dir)
	if err != nil {
		return "", err
	}
	for _, f := range files {
		name := strings.ToUpper(f.Name())
		if !strings.HasPrefix(name, "LICENSE") && !strings.HasPrefix(name, "LICENCE") && !strings.HasPrefix(name, "COPYING") && !strings.HasPrefix(name, "UNLICENSE") {
			continue
		}
		data, err := os.ReadFile(filepath.Join(dir, f.Name()))
		if err != nil {
			return "", err
		}
		text := strings.Join(strings.Fields(string(data)), " ")
		for _, l := range []struct{ name, words string }{
			{"Apache-2.0", "Apache License Version 2.0"}, {"MPL-2.0", "Mozilla Public License"}, {"BSD-3-Clause", "may be used to endorse or promote"},
			{"BSD-2-Clause", "Redistributions in binary form must reproduce"}, {"MIT", "Permission is hereby granted, free of charge"}, {"ISC", "Permission to use, copy, modify, and/or distribute"},
			{"Unlicense", "This is free and unencumbered software"}, {"CC0-1.0", "CC0 1.0 Universal"},
		} {
			if strings.Contains(text, l.words) {
				return l.name, nil
			}
		}
		return "", fmt.Errorf("the licence in %s is not known", f.Name())
	}
	return "", fmt.Errorf("no licence found in %s", dir)
}

// npmPackages are the packages the front end depends on, with what these need; none that only builds or checks it.
func npmPackages(ui string) ([]piece, error) {
	data, err := os.ReadFile(filepath.Join(ui, "package-lock.json"))
	if err != nil {
		return nil, err
	}
	var lock struct {
		Packages map[string]struct {
			Version string
			License string
			Dev     bool
			Peer    bool
		}
	}
	if err := json.Unmarshal(data, &lock); err != nil {
		return nil, err
	}
	var all []piece
	for path, p := range lock.Packages {
		if path == "" || p.Dev || p.Peer {
			continue
		}
		name := path[strings.LastIndex(path, "node_modules/")+len("node_modules/"):]
		if p.License == "" {
			return nil, fmt.Errorf("%s says no licence", name)
		}
		all = append(all, piece{name, p.Version, p.License})
	}
	sort.Slice(all, func(i, j int) bool { return all[i].name+all[i].version < all[j].name+all[j].version })
	return slices.Compact(all), nil
}
