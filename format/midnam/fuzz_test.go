package midnam

import (
	"errors"
	"testing"

	"hexachord/core/drummap"
)

// FuzzDecode: whatever the bytes, a file is refused with ErrMIDNAM or gives a map that can be used and goes out again.
func FuzzDecode(f *testing.F) {
	out, err := Encode(drummap.FullSet())
	if err != nil {
		f.Fatal(err)
	}
	f.Add(out)
	f.Add([]byte("<MIDINameDocument><MasterDeviceNames><NoteNameList Name=\"k\"><Note Number=\"36\" Name=\"Kick\"/></NoteNameList></MasterDeviceNames></MIDINameDocument>"))
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := Decode(data, noRole)
		if err != nil {
			if !errors.Is(err, ErrMIDNAM) && !errors.Is(err, drummap.ErrMap) {
				t.Fatalf("a fault that does not say what it is: %v", err)
			}
			return
		}
		if err := m.Check(); err != nil {
			t.Fatalf("a map that cannot be used: %v", err)
		}
		if _, err := Encode(m); err != nil {
			t.Fatalf("a map that does not go out again: %v", err)
		}
	})
}
