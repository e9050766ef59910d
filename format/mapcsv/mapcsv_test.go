package mapcsv

import (
	"errors"
	"reflect"
	"strings"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/music"
)

func noRole(string) drummap.Role { return "" }

// A map goes out as a table (RFC 4180) and comes back the same, names with commas, quotes and line ends too.
func TestAMapGoesOutAndComesBack(t *testing.T) {
	m := drummap.FullSet()
	m.Name = "table"
	m.Lanes[3].Name, m.Lanes[4].Name, m.Lanes[5].Shown, m.Lanes[6].Color = `kick, "deep"`, "two\nlines", false, "#8a6fd1"
	out, err := Encode(m)
	if err != nil {
		t.Fatal(err)
	}
	back, err := Decode("table", out, noRole, 4)
	if err != nil || !reflect.DeepEqual(back, m) {
		t.Errorf("%v\n%+v\n%+v", err, back, m)
	}
}

// Notes are numbers or names in the convention asked for; the note of a name is the same for all that count C as they do.
func TestNotesByNumberAndName(t *testing.T) {
	for _, c := range []struct {
		middleC int
		note    string
		want    int
	}{{4, "36", 36}, {4, "C2", 36}, {3, "C1", 36}, {5, "c3", 36}, {4, "F#2", 42}, {4, "Gb2", 42}, {4, "Bb1", 34}} {
		m, err := Decode("t", []byte("note,name\n"+c.note+",x\n"), noRole, c.middleC)
		if err != nil || m.Lanes[0].Note != c.want {
			t.Errorf("%s with middle C = C%d: %+v %v, want %d", c.note, c.middleC, m.Lanes, err, c.want)
		}
	}
}

// Every faulty line is named, and nothing is taken.
func TestEveryFaultyLineIsNamed(t *testing.T) {
	_, err := Decode("t", []byte("name,note,color\nkick,36,kick\nsnare,200,snare\nhat,42,sky\n,44,hat\n"), noRole, 4)
	if !errors.Is(err, ErrCSV) {
		t.Fatal(err)
	}
	for _, line := range []string{"3", "4", "5"} {
		if !strings.Contains(err.Error(), "line "+line) {
			t.Errorf("line %s is not named: %v", line, err)
		}
	}
	for name, text := range map[string]string{"no note column": "name\nkick\n", "nothing": "", "no lanes": "note,name\n", "a quote left open": "note,name\n36,\"kick\n"} {
		if _, err := Decode("t", []byte(text), noRole, 4); !errors.Is(err, ErrCSV) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// FuzzDecode: whatever the bytes, a table is refused in words or gives a map that can be used.
func FuzzDecode(f *testing.F) {
	out, err := Encode(drummap.FullSet())
	if err != nil {
		f.Fatal(err)
	}
	f.Add(out)
	f.Add([]byte("name;note\nkick;C1\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := Decode("t", data, noRole, 4)
		if err != nil {
			if !errors.Is(err, ErrCSV) && !errors.Is(err, drummap.ErrMap) && !errors.Is(err, music.ErrNote) {
				t.Fatalf("a fault that does not say what it is: %v", err)
			}
			return
		}
		if err := m.Check(); err != nil {
			t.Fatalf("a map that cannot be used: %v", err)
		}
	})
}
