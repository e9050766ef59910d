package pattern

import (
	"reflect"
	"slices"
	"strings"
)

// Scope is what of a pattern an edit reads or writes. An edit that was made before another is still true after it when the
// other touched nothing of it.
type Scope struct {
	All      bool     // every hit
	Notes    []int    // every hit of these lanes
	Keys     []Key    // these hits alone
	Settings []string // the settings, as JSON names them
}

// gridSettings are what decides where cells lie.
var gridSettings = []string{"bars", "meter", "grid", "lanes"}

// Scope is what the edit reads and writes.
func (e Edit) Scope() Scope {
	op, err := e.operation()
	if err != nil {
		return Scope{}
	}
	return op.scope()
}

// Touches reports whether a change touched what is in the scope.
func (s Scope) Touches(c Change) bool {
	for _, name := range c.Before.differing(c.After) {
		if slices.Contains(s.Settings, name) {
			return true
		}
	}
	for _, hits := range [][]Hit{c.Removed, c.Added} {
		for _, h := range hits {
			if s.All || slices.Contains(s.Notes, h.Note) || slices.Contains(s.Keys, h.Key()) {
				return true
			}
		}
	}
	return false
}

func settingName(f reflect.StructField) string {
	name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
	return name
}
