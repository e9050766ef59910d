// Package mapcsv reads and writes drum maps as tables of comma-separated values (RFC 4180) with the columns note, name,
// code, colour, role, order, shown.
package mapcsv

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"sort"
	"strconv"
	"strings"

	"hexachord/core/drummap"
	"hexachord/core/music"
	"hexachord/format/damaged"
)

// ErrCSV is wrapped by every fault; each names its lines.
var ErrCSV = errors.New("this table cannot be used as a drum map")

// MaxBytes bounds a file.
const MaxBytes = 1 << 20

var columns = []string{"note", "name", "code", "colour", "role", "order", "shown"}

// Encode writes a map.
func Encode(m drummap.Map) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	rows := [][]string{columns}
	for i, l := range m.Lanes {
		rows = append(rows, []string{strconv.Itoa(l.Note), l.Name, l.Code, string(l.Color), string(l.Role), strconv.Itoa(i + 1), map[bool]string{true: "yes", false: "no"}[l.Shown]})
	}
	err := w.WriteAll(rows)
	return b.Bytes(), err
}

// maxFaults is how many faults one report lists.
const maxFaults = 20

// Decode reads a table. Its first row names the columns, in any order; note and name are needed, what else is missing
// is proposed. Every fault is reported with its line, all together. role guesses a role from a name, "" for none;
// middleC is the octave in which note names count middle C.
func Decode(name string, data []byte, role func(name string) drummap.Role, middleC int) (_ drummap.Map, err error) {
	defer damaged.Caught(&err, ErrCSV)
	m := drummap.Map{Name: name, Lanes: []drummap.Lane{}}
	if len(data) > MaxBytes {
		return m, fmt.Errorf("%w: it is %d MB large; a map has 128 rows at most", ErrCSV, len(data)>>20)
	}
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))))
	r.FieldsPerRecord = -1
	r.TrimLeadingSpace = true
	header, err := r.Read()
	if err != nil {
		return m, fmt.Errorf("%w: it has no first row naming its columns (%s)", ErrCSV, strings.Join(columns, ", "))
	}
	at := map[string]int{}
	for i, h := range header {
		h = strings.ToLower(strings.TrimSpace(h))
		if h == "color" {
			h = "colour"
		}
		at[h] = i
	}
	for _, need := range columns[:2] {
		if _, ok := at[need]; !ok {
			return m, fmt.Errorf("%w: line 1 names no column %q; the columns are %s", ErrCSV, need, strings.Join(columns, ", "))
		}
	}
	var faults []string
	fault := func(line int, format string, args ...any) {
		faults = append(faults, fmt.Sprintf("line %d: %s", line, fmt.Sprintf(format, args...)))
	}
	lines, codes := map[int]int{}, map[string]int{}
	type placed struct {
		drummap.Lane
		order, line int
	}
	var rows []placed
	for {
		rec, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			faults = append(faults, err.Error())
			break
		}
		line, _ := r.FieldPos(0)
		get := func(column string) string {
			if i, ok := at[column]; ok && i < len(rec) {
				return strings.TrimSpace(rec[i])
			}
			return ""
		}
		if len(rec) == 1 && get(columns[0]) == "" {
			continue
		}
		note, err := music.ParseNote(get("note"), middleC)
		if err != nil {
			fault(line, "%v", err)
			continue
		}
		if old, ok := lines[note]; ok {
			fault(line, "note %d stands on line %d already", note, old)
			continue
		}
		lines[note] = line
		if get("name") == "" {
			fault(line, "note %d has no name", note)
			continue
		}
		l := placed{Lane: drummap.Lane{Note: note, Name: get("name"), Shown: true}, order: len(rows) + 1, line: line}
		l.Role = drummap.Role(strings.ToLower(get("role")))
		if l.Role == "" {
			if l.Role = role(l.Name); l.Role == "" {
				l.Role = drummap.GMRole(note)
			}
		}
		if !l.Role.Valid() {
			fault(line, "%q is not a role", l.Role)
			continue
		}
		l.Color = drummap.Family(strings.ToLower(get("colour")))
		if l.Color == "" {
			l.Color = l.Role.Family()
		}
		if _, ok := l.Color.Hex(); !ok {
			fault(line, "%q is not a colour; use a family (%v) or #rrggbb", l.Color, drummap.Families())
			continue
		}
		if l.Code = get("code"); l.Code != "" {
			if old, ok := codes[l.Code]; ok {
				fault(line, "the code %s stands on line %d already", l.Code, old)
				continue
			}
			codes[l.Code] = line
		}
		if s := get("order"); s != "" {
			if l.order, err = strconv.Atoi(s); err != nil {
				fault(line, "the order %q is not a whole number", s)
			}
		}
		switch strings.ToLower(get("shown")) {
		case "", "yes", "true", "1":
		case "no", "false", "0":
			l.Shown = false
		default:
			fault(line, "shown is yes or no, not %q", get("shown"))
		}
		rows = append(rows, l)
	}
	if len(faults) > 0 {
		more := ""
		if len(faults) > maxFaults {
			more = fmt.Sprintf("; and %d more", len(faults)-maxFaults)
			faults = faults[:maxFaults]
		}
		return m, fmt.Errorf("%w: %s%s", ErrCSV, strings.Join(faults, "; "), more)
	}
	if len(rows) == 0 {
		return m, fmt.Errorf("%w: it has no rows", ErrCSV)
	}
	sort.SliceStable(rows, func(i, j int) bool { return rows[i].order < rows[j].order })
	for _, l := range rows {
		m.Lanes = append(m.Lanes, l.Lane)
	}
	for i := range m.Lanes {
		if m.Lanes[i].Code == "" {
			m.Lanes[i].Code = m.ProposeCode(m.Lanes[i].Name)
		}
	}
	if err := m.Check(); err != nil {
		return m, fmt.Errorf("%w: %v", ErrCSV, err)
	}
	return m, nil
}
