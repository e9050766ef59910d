// Package sfz reads and writes SFZ sample maps (the published SFZ version 1 opcode list; from version 2 only
// direction, seq-free headers <global>, <master> and <control> with default_path).
package sfz

import (
	"errors"
	"fmt"
	"path"
	"sort"
	"strconv"
	"strings"

	"hexachord/core/music"
	"hexachord/format/damaged"
)

// Faults a caller can tell apart.
var (
	ErrSFZ     = errors.New("this SFZ file cannot be used")
	ErrOutside = errors.New("it lies outside the kit's own folder")
)

// The most a file can hold.
const (
	MaxBytes   = 8 << 20
	maxRegions = 20_000
)

// Region is one region with all that its headers say: opcode → value.
type Region struct {
	Line    int // where its header stands
	Opcodes map[string]string
}

// File is a parsed SFZ file.
type File struct {
	Regions []Region
	Unused  []string // what stands in it that is not used, each once, with how often
}

// known are the opcodes that are used. Those of the value false are read but change nothing here.
var known = map[string]bool{
	"sample": true, "key": true, "lokey": true, "hikey": true, "pitch_keycenter": true, "pitch_keytrack": true, "lovel": true, "hivel": true,
	"volume": true, "pan": true, "tune": true, "transpose": true, "offset": true, "end": true, "loop_mode": true, "loopmode": true, "loop_start": true,
	"loopstart": true, "loop_end": true, "loopend": true, "ampeg_attack": true, "ampeg_decay": true, "ampeg_sustain": true, "ampeg_release": true,
	"group": true, "off_by": true, "offby": true, "amp_veltrack": true, "seq_length": true, "seq_position": true, "lorand": true, "hirand": true,
	"xfin_lovel": true, "xfin_hivel": true, "xfout_lovel": true, "xfout_hivel": true, "direction": true, "default_path": true,
	"region_label": false, "group_label": false, "master_label": false, "global_label": false,
}

// spelling gives opcodes that have two names one.
var spelling = map[string]string{"loopmode": "loop_mode", "loopstart": "loop_start", "loopend": "loop_end", "offby": "off_by"}

// Parse reads an SFZ file. Unknown opcodes and headers are listed, not refused.
func Parse(data []byte) (_ File, err error) {
	defer damaged.Caught(&err, ErrSFZ)
	if len(data) > MaxBytes {
		return File{}, fmt.Errorf("%w: it is %d MB large; a sample map has a few hundred KB at most", ErrSFZ, len(data)>>20)
	}
	var f File
	unused := map[string]int{}
	levels := []string{"control", "global", "master", "group", "region"}
	scope := map[string]map[string]string{}
	level := ""
	finish := func() {
		if level == "region" {
			f.Regions[len(f.Regions)-1].Opcodes = merged(scope, levels)
		}
	}
	for n, line := range strings.Split(strings.ReplaceAll(string(data), "\r", "\n"), "\n") {
		if i := strings.Index(line, "//"); i >= 0 {
			line = line[:i]
		}
		for line = strings.TrimSpace(line); line != ""; line = strings.TrimSpace(line) {
			if line[0] == '#' || line[0] == '/' {
				unused[strings.Fields(line)[0]]++
				break
			}
			if line[0] == '<' {
				name, rest, ok := strings.Cut(line[1:], ">")
				if !ok {
					return f, fmt.Errorf("%w: line %d has a header without its end", ErrSFZ, n+1)
				}
				finish()
				level, line = name, rest
				if !contains(levels, name) {
					unused["<"+name+">"]++
					continue
				}
				for i := len(levels) - 1; i >= 0; i-- { // a header ends what stands under the one before
					delete(scope, levels[i])
					if levels[i] == name {
						break
					}
				}
				scope[name] = map[string]string{}
				if name == "region" {
					if len(f.Regions) == maxRegions {
						return f, fmt.Errorf("%w: it has more than %d regions", ErrSFZ, maxRegions)
					}
					f.Regions = append(f.Regions, Region{Line: n + 1})
				}
				continue
			}
			name, value, rest, ok := opcode(line)
			if !ok {
				return f, fmt.Errorf("%w: line %d: %q is neither a header nor an opcode", ErrSFZ, n+1, short(line))
			}
			line = rest
			if s := spelling[name]; s != "" {
				name = s
			}
			if _, ok := known[name]; !ok || scope[level] == nil {
				unused[name]++
				continue
			}
			scope[level][name] = value
		}
	}
	finish()
	if len(f.Regions) == 0 {
		return f, fmt.Errorf("%w: it has no <region>", ErrSFZ)
	}
	for name, n := range unused {
		f.Unused = append(f.Unused, fmt.Sprintf("%s (%d×)", name, n))
	}
	sort.Strings(f.Unused)
	return f, nil
}

// opcode splits name=value off a line. A value goes on to the next name= or header, since file names have spaces.
func opcode(line string) (name, value, rest string, ok bool) {
	name, after, ok := strings.Cut(line, "=")
	name = strings.TrimSpace(name)
	if !ok || name == "" || strings.ContainsAny(name, " \t<>") {
		return "", "", "", false
	}
	end := len(after)
	if i := strings.IndexByte(after, '<'); i >= 0 {
		end = i
	}
	if i := strings.IndexByte(after[:end], '='); i >= 0 {
		if sp := strings.LastIndexAny(after[:i], " \t"); sp >= 0 {
			end = sp
		}
	}
	return strings.ToLower(name), strings.TrimSpace(after[:end]), after[end:], true
}

func merged(scope map[string]map[string]string, levels []string) map[string]string {
	out := map[string]string{}
	for _, l := range levels {
		for k, v := range scope[l] {
			out[k] = v
		}
	}
	return out
}

func contains(list []string, s string) bool {
	for _, v := range list {
		if v == s {
			return true
		}
	}
	return false
}

func short(s string) string {
	if len(s) > 40 {
		return s[:40] + "…"
	}
	return s
}

// SamplePath is a region's sample as a clean path with forward slashes below the folder of the SFZ file. dir is
// where that folder lies below the root that may be read ("" when it is the root); ErrOutside when the path leads out
// of the root or is absolute.
func (r Region) SamplePath(dir string) (string, error) {
	p := strings.ReplaceAll(r.Opcodes["default_path"]+r.Opcodes["sample"], `\`, "/")
	if p == "" {
		return "", fmt.Errorf("%w: the region on line %d has no sample", ErrSFZ, r.Line)
	}
	clean := path.Join(dir, p)
	if strings.HasPrefix(p, "/") || len(p) > 1 && p[1] == ':' || clean == ".." || strings.HasPrefix(clean, "../") {
		return "", fmt.Errorf("%s: %w", short(p), ErrOutside)
	}
	return clean, nil
}

// number reads an opcode as a number; otherwise when it is missing or is none.
func (r Region) number(name string, otherwise float64) float64 {
	v, err := strconv.ParseFloat(r.Opcodes[name], 64)
	if err != nil || v != v || v > 1e12 || v < -1e12 {
		return otherwise
	}
	return v
}

// key reads a key: a number, or a name in which c4 is 60 (the SFZ description).
func (r Region) key(name string, otherwise int) int {
	n, err := music.ParseNote(r.Opcodes[name], 4)
	if err != nil {
		return otherwise
	}
	return n
}
