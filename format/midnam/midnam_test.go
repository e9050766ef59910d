package midnam

import (
	"encoding/xml"
	"errors"
	"reflect"
	"strings"
	"testing"

	"hexachord/core/drummap"
	"hexachord/format/mapcsv"
)

func noRole(string) drummap.Role { return "" }

// Written and read back, General MIDI keeps its 47 names and notes. The order of elements is that of the MIDI
// Manufacturers Association's MIDINameDocument 1.0 (from memory): author, then for a device manufacturer, model, mode,
// channel name sets (channels, note names used, patch bank), note name lists.
func TestGeneralMIDIGoesAndComesBack(t *testing.T) {
	gm := drummap.GeneralMIDI()
	data, err := Encode(gm)
	if err != nil {
		t.Fatal(err)
	}
	back, err := Decode(data, noRole)
	if err != nil || len(back.Lanes) != 47 {
		t.Fatalf("%d lanes, %v", len(back.Lanes), err)
	}
	for _, l := range gm.Lanes {
		if b, ok := back.ByNote(l.Note); !ok || b.Name != l.Name || b.Role != l.Role {
			t.Errorf("note %d comes back %+v, was %+v", l.Note, b, l)
		}
	}
	var order []string
	d := xml.NewDecoder(strings.NewReader(string(data)))
	for {
		tok, err := d.Token()
		if err != nil {
			break
		}
		if s, ok := tok.(xml.StartElement); ok && (len(order) == 0 || order[len(order)-1] != s.Name.Local) {
			order = append(order, s.Name.Local)
		}
	}
	want := "MIDINameDocument Author MasterDeviceNames Manufacturer Model CustomDeviceMode ChannelNameSetAssignments ChannelNameSetAssign " +
		"ChannelNameSet AvailableForChannels AvailableChannel UsesNoteNameList PatchBank PatchNameList Patch NoteNameList NoteGroup Note"
	if got := strings.Join(order[:18], " "); got != want {
		t.Errorf("the elements are %s", got)
	}
}

func TestDamagedFilesAreRefusedByLine(t *testing.T) {
	doc := func(notes string) string {
		return "<MIDINameDocument>\n<NoteNameList Name=\"x\">\n" + notes + "\n</NoteNameList></MIDINameDocument>"
	}
	for text, want := range map[string]string{
		doc(`<Note Number="36" Name="a"/>` + "\n" + `<Note Number="36" Name="b"/>`): "line 4: note 36 stands on line 3 already",
		doc(`<Note Number="128" Name="a"/>`):                                        "line 3",
		doc(`<Note Number="5"/>`):                                                   "no name",
		doc(``):                                                                     "names no notes",
		"<MIDINameDocument>\n<broken":                                               "line 2",
		"<other/>":                                                                  "no MIDINameDocument",
		`<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd">]>` + doc(`<Note Number="36" Name="&x;"/>`): "entities of its own",
		doc(`<Note Number="36" Name="&unknown;"/>`):                                                      "line 3",
	} {
		if _, err := Decode([]byte(text), noRole); !errors.Is(err, ErrMIDNAM) || !strings.Contains(err.Error(), want) {
			t.Errorf("%.60s: %v, want words with %q", text, err, want)
		}
	}
}

func TestTables(t *testing.T) {
	m := drummap.FullSet()
	m.Lanes[3].Shown, m.Lanes[2].Color, m.Lanes[1].Name = false, "#8a6fd1", `quoted, "name"`
	data, err := mapcsv.Encode(m)
	if err != nil {
		t.Fatal(err)
	}
	back, err := mapcsv.Decode(m.Name, data, noRole, 4)
	if err != nil || !reflect.DeepEqual(m, back) {
		t.Errorf("%v\n%+v\n%+v", err, m, back)
	}
	if short, err := mapcsv.Decode("x", []byte("name,note\nBoom,C1\n\nTick,F#1\n"), noRole, 3); err != nil || short.Lanes[0].Note != 36 || short.Lanes[1].Role != drummap.ClosedHat {
		t.Errorf("%+v %v", short, err)
	}
	for text, want := range map[string][]string{
		"foo,bar\n1,2": {`line 1 names no column "note"`},
		"note,name,role,colour,code\n36,a,kick,kick,KI\n36,b,snare,snare,SN\n200,c,,,\nC99,d,,,\n40,,,,\n41,e,gong,,\n42,f,,pink,\n43,g,,,KI": {"line 3: note 36 stands on line 2", "line 4", "line 5", "line 6: note 40 has no name",
			`line 7: "gong"`, `line 8: "pink"`, "line 9: the code KI"},
		"":            {"no first row"},
		"note,name\n": {"no rows"},
	} {
		_, err := mapcsv.Decode("x", []byte(text), noRole, 4)
		for _, w := range want {
			if !errors.Is(err, mapcsv.ErrCSV) || !strings.Contains(err.Error(), w) {
				t.Errorf("%q: %v, want words with %q", text, err, w)
			}
		}
	}
}
