package pattern

import "testing"

// An edit is touched by a change of what it reads or writes, and by nothing else.
func TestWhatTouchesAnEdit(t *testing.T) {
	before := with(2, Hit{Note: 36, Velocity: 100}, Hit{Note: 38, Tick: 960, Velocity: 90}, Hit{Note: 38, Tick: 1920, Velocity: 80})
	louder := func(k Key) Edit {
		h, _ := before.At(k)
		h.Velocity++
		return Edit{Hits: &Hits{Put: []Hit{h}}}
	}
	three := 3
	mine := map[string]Edit{
		"a hit at 960":  {Hits: &Hits{Put: []Hit{{Note: 38, Tick: 960, Velocity: 1}}}},
		"taking it out": {Hits: &Hits{Remove: []Key{{38, 960}}}},
		"the snare":     {Shift: &Shift{About: About{Notes: []int{38}}, By: 1}},
		"chosen hits":   {Velocity: &Velocity{About: About{Only: []Key{{38, 960}}}, How: "set", Amount: 5}},
		"all":           {Reverse: &Reverse{}},
	}
	for _, c := range []struct {
		what   string
		change Edit
		by     map[string]bool // what it touches
	}{
		{"the hit itself", louder(Key{38, 960}), map[string]bool{"a hit at 960": true, "taking it out": true, "the snare": true, "chosen hits": true, "all": true}},
		{"another of its lane", louder(Key{38, 1920}), map[string]bool{"the snare": true, "chosen hits": true, "all": true}},
		{"one of another lane", louder(Key{36, 0}), map[string]bool{"all": true}},
		{"the length", Edit{Shape: &Shape{Bars: &three}}, map[string]bool{"a hit at 960": true, "taking it out": true, "the snare": true, "chosen hits": true, "all": true}},
	} {
		_, change, err := Apply(before, c.change)
		if err != nil {
			t.Fatal(err)
		}
		for name, e := range mine {
			if got := e.Scope().Touches(change); got != c.by[name] {
				t.Errorf("%s changed: touches %q %v, want %v", c.what, name, got, c.by[name])
			}
		}
	}
}
