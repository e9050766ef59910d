package project

import (
	"encoding/json"
	"reflect"
	"slices"
	"testing"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/take"
)

// played is a draft with one empty pattern of so many bars at 120 BPM, straight: a beat lasts half a second.
func played(t *testing.T, bars int, hits ...pattern.Hit) (*Draft, string) {
	t.Helper()
	d := NewDraft(NewState("p", "Lock", 1, nil), newWorld("n"))
	s := NewSettings()
	s.BPM, s.Feel = 120, feel.Straight
	if err := d.PutSettings(s); err != nil {
		t.Fatal(err)
	}
	if err := d.PutMap(drummap.FullSet()); err != nil {
		t.Fatal(err)
	}
	if hits == nil {
		hits = []pattern.Hit{}
	}
	id, err := d.AddPattern(pattern.Pattern{Name: "a", Bars: bars, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: hits})
	if err != nil {
		t.Fatal(err)
	}
	return d, id
}

func apply(t *testing.T, d *Draft, s Step) string {
	t.Helper()
	label, err := s.Apply(d)
	if err != nil {
		t.Fatal(err)
	}
	return label
}

func ticks(t *testing.T, d *Draft, id string, note int) []int {
	t.Helper()
	pt, err := d.Pattern(id)
	if err != nil {
		t.Fatal(err)
	}
	out := []int{}
	for _, h := range pt.Hits {
		if h.Note == note {
			out = append(out, h.Tick)
		}
	}
	return out
}

func strikes(note int, at ...float64) []take.Strike {
	var out []take.Strike
	for _, s := range at {
		out = append(out, take.Strike{Note: note, AtS: s, Velocity: 90, From: "keys"})
	}
	return out
}

// Strikes that come one after another are one pass; a bounce is one hit, the harder; as-played times are kept, so that the pass is
// quantised afterwards and let go again; a hit edited by hand keeps what was made of it.
func TestAPassIsRecordedAndQuantisedAfterwards(t *testing.T) {
	d, id := played(t, 2)
	rec := func(s ...take.Strike) string {
		return apply(t, d, &RecordPass{ID: "pass-one", Pattern: id, Strikes: s})
	}
	rec(strikes(38, 0.51)...)
	bounced := strikes(38, 0.513)
	bounced[0].Velocity = 101
	rec(bounced...)
	label := rec(slices.Concat(strikes(38, 1.488), strikes(36, 0.02))...)
	if label != "Record a pass: 3 hits on snare, kick" {
		t.Errorf("the history calls it %q", label)
	}
	if got := ticks(t, d, id, 38); !reflect.DeepEqual(got, []int{979, 2857}) {
		t.Errorf("as played: %v", got)
	}
	if h, ok := d.Patterns[0].Value.At(pattern.Key{Note: 38, Tick: 979}); !ok || h.Velocity != 101 {
		t.Errorf("of a bounce the harder stroke stays: %+v", h)
	}
	apply(t, d, &PassEdit{ID: "pass-one", Quantise: &take.Quantise{Strength: 100}})
	if got := slices.Concat(ticks(t, d, id, 38), ticks(t, d, id, 36)); !reflect.DeepEqual(got, []int{960, 2880, 0}) {
		t.Errorf("quantised: %v", got)
	}
	put := pattern.Hit{Note: 38, Tick: 960, Velocity: 33}
	apply(t, d, &PatternEdit{ID: id, Edit: pattern.Edit{Hits: &pattern.Hits{Put: []pattern.Hit{put}}}})
	apply(t, d, &PassEdit{ID: "pass-one", Quantise: &take.Quantise{Strength: 50}})
	if got := ticks(t, d, id, 38); !reflect.DeepEqual(got, []int{969, 2869}) {
		t.Errorf("half way: %v", got)
	}
	if h, _ := d.Patterns[0].Value.At(pattern.Key{Note: 38, Tick: 969}); h.Velocity != 33 {
		t.Errorf("what was made of it is lost: %+v", h)
	}
}

// A pass that replaces takes out what was on its lanes from where each was first played to where the loop has come; muted, what was there
// before is back, and heard again it is as it was.
func TestAPassReplacesLaneByLane(t *testing.T) {
	var hits []pattern.Hit
	for beat := range 8 {
		hits = append(hits, pattern.Hit{Note: 36, Tick: beat * 960, Velocity: 80}, pattern.Hit{Note: 42, Tick: beat * 960, Velocity: 60})
	}
	d, id := played(t, 2, hits...)
	before, _ := json.Marshal(d.Patterns)
	rec := func(upTo float64, s ...take.Strike) {
		apply(t, d, &RecordPass{ID: "pass-one", Pattern: id, Strikes: s, Replace: true, UpToS: upTo})
	}
	rec(1.1, strikes(36, 0.99)...) // beat 3
	if got := ticks(t, d, id, 36); !reflect.DeepEqual(got, []int{0, 960, 1901, 2880, 3840, 4800, 5760, 6720}) {
		t.Errorf("so far: %v", got)
	}
	rec(2.2)
	rec(4.0, strikes(36, 2.25)...)
	if got := ticks(t, d, id, 36); !reflect.DeepEqual(got, []int{0, 960, 1901, 4320}) {
		t.Errorf("replaced to the end: %v", got)
	}
	if got := ticks(t, d, id, 42); len(got) != 8 {
		t.Errorf("a lane that was not played lost hits: %v", got)
	}
	after, _ := json.Marshal(d.Patterns)
	yes, no := true, false
	apply(t, d, &PassEdit{ID: "pass-one", Muted: &yes})
	if now, _ := json.Marshal(d.Patterns); string(now) != string(before) {
		t.Errorf("muted: %s", now)
	}
	apply(t, d, &PassEdit{ID: "pass-one", Muted: &no})
	if now, _ := json.Marshal(d.Patterns); string(now) != string(after) {
		t.Errorf("heard again: %s", now)
	}
	apply(t, d, &PassEdit{ID: "pass-one", Remove: true})
	if now, _ := json.Marshal(d.Patterns); string(now) != string(before) || len(d.Passes) != 0 {
		t.Errorf("removed: %s", now)
	}
}

// Two passes become one; those of a pattern go with it; linked copies play along; strikes that are none, and foreign patterns, are refused.
func TestPassesAreMergedAndGoWithTheirPattern(t *testing.T) {
	d, id := played(t, 1)
	apply(t, d, &AddPattern{Name: "b", CopyOf: id, Linked: true})
	linked := d.Result.ID
	apply(t, d, &RecordPass{ID: "pass-one", Pattern: id, Strikes: strikes(36, 0.5)})
	apply(t, d, &RecordPass{ID: "pass-two", Pattern: id, Strikes: strikes(42, 1)})
	if got := ticks(t, d, linked, 42); !reflect.DeepEqual(got, []int{1920}) {
		t.Errorf("the linked copy has %v", got)
	}
	apply(t, d, &PassEdit{ID: "pass-one", Merge: "pass-two"})
	if len(d.Passes) != 1 || !reflect.DeepEqual(d.Passes[0].Value.Notes(), []int{36, 42}) {
		t.Errorf("merged: %+v", d.Passes)
	}
	for _, bad := range []Step{&RecordPass{ID: "pass-one", Pattern: linked, Strikes: strikes(36, 0)}, &RecordPass{ID: "pass-six", Pattern: "?", Strikes: strikes(36, 0)},
		&RecordPass{ID: "pass-six", Pattern: id, Strikes: strikes(200, 0)}, &PassEdit{ID: "pass-one"}, &PassEdit{ID: "pass-one", Merge: "pass-one"}} {
		if _, err := bad.Apply(NewDraft(d.State, d.World)); err == nil {
			t.Errorf("%+v was done", bad)
		}
	}
	apply(t, d, &RemovePattern{ID: id})
	if len(d.Passes) != 0 {
		t.Error("passes of a pattern that is gone are left")
	}
}

// What two edits did together leads where they lead one after the other, and back.
func TestJoinedEditsLeadWhereTheyLeadOneByOne(t *testing.T) {
	d, id := played(t, 2, pattern.Hit{Note: 36, Tick: 1900, Velocity: 80})
	start := d.State
	var together []Change
	for i := range 20 {
		one := NewDraft(d.State, d.World)
		apply(t, one, &RecordPass{ID: "pass-one", Pattern: id, Replace: true, UpToS: float64(i) / 5, Strikes: strikes([]int{36, 38}[i%2], float64(i)/5, float64(i)/5+0.1)})
		together = Joined(together, one.Changes())
		d.State = one.State
		harder := strikes(36, float64(i)/5+0.002) // it bounced: a hit that came goes, and another comes
		harder[0].Velocity = 91 + i
		two := NewDraft(d.State, d.World)
		apply(t, two, &RecordPass{ID: "pass-one", Pattern: id, Replace: true, Strikes: harder})
		together = Joined(together, two.Changes())
		d.State = two.State
	}
	if len(together) != 2 {
		t.Errorf("%d changes of two documents", len(together))
	}
	forth, _, err := start.Replay(together)
	if err != nil || content(t, forth) != content(t, d.State) {
		t.Errorf("done together they lead elsewhere: %v", err)
	}
	back, _, err := d.State.Replay(Inverted(together))
	if err != nil || content(t, back) != content(t, start) {
		t.Errorf("taken back they lead elsewhere: %v", err)
	}
}
