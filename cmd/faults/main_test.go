package main

import "testing"

// A fault whose line is no longer there would be counted as tried; each must still fit its file.
func TestEachFaultFitsTheCode(t *testing.T) {
	faults, err := read(list)
	if err != nil {
		t.Fatal(err)
	}
	names := map[string]bool{}
	for _, f := range faults {
		if _, err := f.put("../.."); err != nil {
			t.Errorf("%s: %v", f.name, err)
		}
		if names[f.name] {
			t.Errorf("two faults are called %q", f.name)
		}
		names[f.name] = true
	}
	if len(faults) < 17 {
		t.Errorf("only %d faults are listed", len(faults))
	}
}

func TestAFaultThatSaysNothingIsRefused(t *testing.T) {
	for _, text := range []string{"# a\n- x\n+ y", "# a\nf.go\n- x\n+ x", "f.go\n- x\n+ y"} {
		if _, err := read(text); err == nil {
			t.Errorf("%q was taken", text)
		}
	}
}
