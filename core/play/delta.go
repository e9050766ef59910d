package play

import "reflect"

// Splice leads along a list to another: Keep so many of the old one's elements, Drop so many, Put others in. One of them is
// given.
type Splice[T any] struct {
	Keep int `json:"keep,omitempty"`
	Drop int `json:"drop,omitempty"`
	Put  []T `json:"put,omitempty"`
}

// Delta is what leads from one pass to another.
type Delta struct {
	LengthS float64          `json:"length"`
	Cues    []Splice[Cue]    `json:"cues,omitempty"` // none: as they were
	Strokes []Splice[Stroke] `json:"strokes,omitempty"`
	Turns   map[int]Turn     `json:"turns,omitempty"` // by place, those that are others now
	Whens   []string         `json:"whens,omitempty"` // all, when they are others
	Silent  int              `json:"silent"`
	fresh   int
	same    bool
}

// Difference finds what leads from a pass to another.
func Difference(old, next Pass) Delta {
	d := Delta{LengthS: next.LengthS, Silent: next.Silent}
	cues, n := splices(old.Cues, next.Cues)
	strokes, m := splices(old.Strokes, next.Strokes)
	d.Cues, d.Strokes, d.fresh = cues, strokes, n+m
	d.same = cues == nil && strokes == nil && old.LengthS == next.LengthS && old.Silent == next.Silent
	if len(old.Turns) != len(next.Turns) {
		d.fresh = len(next.Cues) + len(next.Strokes) // places of turns moved: whole
		d.same = false
	} else {
		for i, t := range next.Turns {
			if !reflect.DeepEqual(t, old.Turns[i]) {
				if d.Turns == nil {
					d.Turns = map[int]Turn{}
				}
				d.Turns[i] = t
				d.same = false
			}
		}
	}
	if !reflect.DeepEqual(old.Whens, next.Whens) {
		d.Whens = next.Whens
		d.same = false
		if len(d.Whens) == 0 {
			d.fresh = len(next.Cues) + len(next.Strokes)
		}
	}
	return d
}

// Empty reports whether both passes are the same.
func (d Delta) Empty() bool { return d.same }

// Small reports whether it is shorter than the pass it leads to.
func (d Delta) Small(next Pass) bool { return 2*d.fresh < len(next.Cues)+len(next.Strokes) }

// Of is the pass it leads to from the one it was found on.
func (d Delta) Of(old Pass) Pass {
	next := Pass{LengthS: d.LengthS, Cues: spliced(old.Cues, d.Cues), Strokes: spliced(old.Strokes, d.Strokes), Turns: append([]Turn{}, old.Turns...),
		Whens: old.Whens, Silent: d.Silent}
	for i, t := range d.Turns {
		next.Turns[i] = t
	}
	if d.Whens != nil {
		next.Whens = d.Whens
	}
	return next
}

// splices finds a way from one list to another in the same order, and how many elements it puts; nil when they are the same.
func splices[T comparable](old, next []T) (out []Splice[T], put int) {
	at := make(map[T][]int, len(old))
	for i, v := range old {
		at[v] = append(at[v], i)
	}
	i, changed := 0, false
	keep := func() {
		if n := len(out); n > 0 && out[n-1].Keep > 0 {
			out[n-1].Keep++
		} else {
			out = append(out, Splice[T]{Keep: 1})
		}
		i++
	}
	drop := func(n int) {
		if n > 0 {
			out = append(out, Splice[T]{Drop: n})
			i += n
			changed = true
		}
	}
	for _, v := range next {
		if i < len(old) && old[i] == v {
			keep()
			continue
		}
		places := at[v]
		for len(places) > 0 && places[0] < i {
			places = places[1:]
		}
		at[v] = places
		if len(places) > 0 {
			drop(places[0] - i)
			keep()
			continue
		}
		changed = true
		put++
		if n := len(out); n > 0 && out[n-1].Put != nil {
			out[n-1].Put = append(out[n-1].Put, v)
		} else {
			out = append(out, Splice[T]{Put: []T{v}})
		}
	}
	drop(len(old) - i)
	if !changed {
		return nil, 0
	}
	return out, put
}

func spliced[T any](old []T, by []Splice[T]) []T {
	if by == nil {
		return old
	}
	next := []T{}
	i := 0
	for _, s := range by {
		next = append(append(next, old[i:i+s.Keep]...), s.Put...)
		i += s.Keep + s.Drop
	}
	return next
}
