// Package midnam reads and writes note names as MIDNAM, the MIDI Manufacturers Association's published XML for names of
// patches and notes (MIDINameDocument 1.0).
package midnam

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"

	"hexachord/core/drummap"
	"hexachord/format/damaged"
)

// ErrMIDNAM is wrapped by every fault; each names the line.
var ErrMIDNAM = errors.New("this MIDNAM file cannot be used")

// MaxBytes bounds a file.
const MaxBytes = 8 << 20

const head = `<?xml version="1.0" encoding="UTF-8"?>
<!DOCTYPE MIDINameDocument PUBLIC "-//MIDI Manufacturers Association//DTD MIDINameDocument 1.0//EN" "http://www.midi.org/dtds/MIDINameDocument10.dtd">
`

type document struct {
	XMLName xml.Name `xml:"MIDINameDocument"`
	Author  string   `xml:"Author"`
	Device  device   `xml:"MasterDeviceNames"`
}

type device struct {
	Manufacturer string     `xml:"Manufacturer"`
	Model        string     `xml:"Model"`
	Mode         deviceMode `xml:"CustomDeviceMode"`
	Set          nameSet    `xml:"ChannelNameSet"`
	Notes        noteList   `xml:"NoteNameList"`
}

type deviceMode struct {
	Name   string   `xml:"Name,attr"`
	Assign []assign `xml:"ChannelNameSetAssignments>ChannelNameSetAssign"`
}

type assign struct {
	Channel int    `xml:"Channel,attr"`
	NameSet string `xml:"NameSet,attr"`
}

type nameSet struct {
	Name  string      `xml:"Name,attr"`
	Avail []available `xml:"AvailableForChannels>AvailableChannel"`
	Uses  struct {
		Name string `xml:"Name,attr"`
	} `xml:"UsesNoteNameList"`
	Bank struct {
		Name  string `xml:"Name,attr"`
		Patch struct {
			Number  string `xml:"Number,attr"`
			Name    string `xml:"Name,attr"`
			Program int    `xml:"ProgramChange,attr"`
		} `xml:"PatchNameList>Patch"`
	} `xml:"PatchBank"`
}

type available struct {
	Channel   int  `xml:"Channel,attr"`
	Available bool `xml:"Available,attr"`
}

type noteList struct {
	Name   string  `xml:"Name,attr"`
	Groups []group `xml:"NoteGroup"`
}

type group struct {
	Name  string `xml:"Name,attr"`
	Notes []note `xml:"Note"`
}

type note struct {
	Number int    `xml:"Number,attr"`
	Name   string `xml:"Name,attr"`
}

var familyNames = map[drummap.Family]string{"cym": "Cymbals", "hat": "Hats", "perc": "Percussion", "other": "Other", "clap": "Claps and rims",
	"tom": "Toms", "snare": "Snares", "kick": "Kicks"}

// Encode writes a map: channel 10, notes grouped by the family of their role. What MIDNAM cannot carry is in Loses.
func Encode(m drummap.Map) ([]byte, error) {
	d := document{Author: "Hexachord"}
	d.Device.Manufacturer, d.Device.Model = "Hexachord", m.Name
	d.Device.Mode = deviceMode{"Default", nil}
	set := nameSet{Name: m.Name}
	for c := 1; c <= 16; c++ {
		d.Device.Mode.Assign = append(d.Device.Mode.Assign, assign{c, m.Name})
		set.Avail = append(set.Avail, available{c, c == 10})
	}
	set.Uses.Name = m.Name
	set.Bank.Name, set.Bank.Patch.Number, set.Bank.Patch.Name = m.Name, "1", m.Name
	d.Device.Set = set
	d.Device.Notes.Name = m.Name
	at := map[string]int{}
	for _, l := range m.Lanes {
		name := familyNames[l.Role.Family()]
		i, ok := at[name]
		if !ok {
			i = len(d.Device.Notes.Groups)
			at[name] = i
			d.Device.Notes.Groups = append(d.Device.Notes.Groups, group{Name: name})
		}
		d.Device.Notes.Groups[i].Notes = append(d.Device.Notes.Groups[i].Notes, note{l.Note, l.Name})
	}
	body, err := xml.MarshalIndent(d, "", "  ")
	if err != nil {
		return nil, fmt.Errorf("%w: %v", ErrMIDNAM, err)
	}
	return append(append([]byte(head), body...), '\n'), nil
}

// Loses says what MIDNAM cannot carry of a map.
func Loses(m drummap.Map) []string {
	lost := []string{"codes and colours", "roles (they are guessed from names and notes on the way back)", "the order of lanes across groups"}
	for _, l := range m.Lanes {
		if !l.Shown {
			return append(lost, "which lanes are hidden")
		}
	}
	return lost
}

// Decode reads the note names of a file: of its first list of note names. role guesses a lane's role from its name, ""
// when the name says nothing. Entities of a file's own are refused.
func Decode(data []byte, role func(name string) drummap.Role) (_ drummap.Map, err error) {
	defer damaged.Caught(&err, ErrMIDNAM)
	if len(data) > MaxBytes {
		return drummap.Map{}, fmt.Errorf("%w: it is %d MB large", ErrMIDNAM, len(data)>>20)
	}
	d := xml.NewDecoder(bytes.NewReader(data))
	fault := func(format string, args ...any) error {
		line, _ := d.InputPos()
		return fmt.Errorf("%w: line %d: %s", ErrMIDNAM, line, fmt.Sprintf(format, args...))
	}
	m := drummap.Map{Lanes: []drummap.Lane{}}
	lineOf := map[int]int{}
	depth, list, sawRoot := 0, 0, false
	for {
		tok, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return m, fault("%v", err)
		}
		switch t := tok.(type) {
		case xml.Directive:
			if text := string(t); strings.Contains(text, "ENTITY") || strings.Contains(text, "[") {
				return m, fault("it defines entities of its own, which are not read")
			}
		case xml.EndElement:
			depth--
			if t.Name.Local == "NoteNameList" && list == 1 {
				list = 2
			}
		case xml.StartElement:
			depth++
			if depth > 64 {
				return m, fault("its elements are nested too deep")
			}
			attr := map[string]string{}
			for _, a := range t.Attr {
				attr[a.Name.Local] = a.Value
			}
			switch t.Name.Local {
			case "MIDINameDocument":
				sawRoot = true
			case "NoteNameList":
				if list == 0 {
					list = 1
					m.Name = attr["Name"]
				}
			case "Note":
				if list != 1 {
					continue
				}
				var n int
				if _, err := fmt.Sscanf(attr["Number"], "%d", &n); err != nil || n < 0 || n > 127 {
					return m, fault("note number %q is not between 0 and 127", attr["Number"])
				}
				if old, ok := lineOf[n]; ok {
					return m, fault("note %d stands on line %d already", n, old)
				}
				line, _ := d.InputPos()
				lineOf[n] = line
				name := strings.TrimSpace(attr["Name"])
				if name == "" {
					return m, fault("note %d has no name", n)
				}
				m.Lanes = append(m.Lanes, m.Named(n, name, role(name)))
			}
		}
	}
	switch {
	case !sawRoot:
		return m, fmt.Errorf("%w: it is no MIDINameDocument", ErrMIDNAM)
	case len(m.Lanes) == 0:
		return m, fmt.Errorf("%w: it names no notes", ErrMIDNAM)
	}
	if m.Name == "" {
		m.Name = "Note names"
	}
	return m, m.Check()
}
