// Package ready holds patterns to begin from, written for this bench by roles, and lays them on any map.
package ready

import (
	_ "embed"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"sync"

	"hexachord/core/drummap"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

//go:embed patterns.txt
var text string

// Pattern is a ready pattern: its strokes are on roles, not on notes.
type Pattern struct {
	Name    string         `json:"name"`
	Family  string         `json:"family"`
	LoBPM   float64        `json:"loBPM"` // lies well from here
	HiBPM   float64        `json:"hiBPM"` // to here
	Bars    int            `json:"bars"`
	Meter   music.Meter    `json:"meter"`
	Grid    music.Grid     `json:"grid"`
	Words   string         `json:"words"`
	Strokes []Stroke       `json:"strokes"`
	Roles   []drummap.Role `json:"roles"` // that it needs, in the order it was written
}

// Stroke is a stroke of a role.
type Stroke struct {
	Role     drummap.Role `json:"role"`
	Tick     int          `json:"tick"`
	Velocity int          `json:"velocity"`
}

var letters = map[byte]drummap.Role{'k': drummap.Kick, 's': drummap.Snare, 'r': drummap.Rim, 'c': drummap.Clap, 'h': drummap.ClosedHat, 'p': drummap.PedalHat,
	'o': drummap.OpenHat, 'l': drummap.LowTom, 'm': drummap.MidTom, 't': drummap.HighTom, 'x': drummap.Crash, 'd': drummap.Ride, 'z': drummap.Shaker,
	'b': drummap.Tambourine, 'w': drummap.Cowbell, 'q': drummap.Percussion}

// velocityOf are the velocities of the digits 1 to 9: ghosts, off-beats, beats, accents (common practice, no source).
var velocityOf = [10]int{0, 18, 32, 45, 58, 70, 82, 94, 108, 121}

// All lists the ready patterns in the order they were written.
var All = sync.OnceValue(func() []Pattern {
	all, err := parse(text)
	if err != nil {
		panic(err) // they are part of the program
	}
	return all
})

// ErrNone is returned for a name no ready pattern has.
var ErrNone = errors.New("there is no such ready pattern")

// Find gives the ready pattern of a name.
func Find(name string) (Pattern, error) {
	for _, p := range All() {
		if p.Name == name {
			return p, nil
		}
	}
	return Pattern{}, fmt.Errorf("%w: %q", ErrNone, name)
}

func parse(text string) (all []Pattern, err error) {
	for n, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(line)
		fault := func(what string) error { return fmt.Errorf("ready patterns, line %d: %s", n+1, what) }
		switch {
		case line == "" || strings.HasPrefix(line, "#"):
		case strings.Contains(line, "|"):
			f := strings.Split(line, "|")
			if len(f) != 5 {
				return nil, fault("a heading has five parts")
			}
			for i := range f {
				f[i] = strings.TrimSpace(f[i])
			}
			p := Pattern{Name: f[0], Family: f[1], Words: f[4]}
			if _, err := fmt.Sscanf(f[2], "%g-%g", &p.LoBPM, &p.HiBPM); err != nil {
				return nil, fault("tempi")
			}
			if _, err := fmt.Sscanf(f[3], "%d %d/%d %s", &p.Bars, &p.Meter.Beats, &p.Meter.Unit, &p.Grid); err != nil {
				return nil, fault("bars, meter and grid")
			}
			all = append(all, p)
		default:
			if len(all) == 0 || len(line) < 3 {
				return nil, fault("strokes before a heading")
			}
			if err := all[len(all)-1].row(line); err != nil {
				return nil, fault(err.Error())
			}
		}
	}
	return all, nil
}

// row reads one role's strokes.
func (p *Pattern) row(line string) error {
	role, ok := letters[line[0]]
	cell, err := p.Grid.Ticks()
	if !ok || err != nil {
		return fmt.Errorf("%q is not a role, or %q no grid", line[:1], p.Grid)
	}
	cells := strings.ReplaceAll(line[1:], " ", "")
	if len(cells)*cell != p.Bars*p.Meter.BarTicks() {
		return fmt.Errorf("%d cells do not fill %d bars", len(cells), p.Bars)
	}
	p.Roles = append(p.Roles, role)
	for i, c := range cells {
		if c == '.' {
			continue
		}
		v, err := strconv.Atoi(string(c))
		if err != nil || v == 0 {
			return fmt.Errorf("%q is no velocity", c)
		}
		p.Strokes = append(p.Strokes, Stroke{role, i * cell, velocityOf[v]})
	}
	return nil
}

// Laid is a ready pattern on a map.
type Laid struct {
	Pattern pattern.Pattern      `json:"pattern"`
	Notes   map[drummap.Role]int `json:"notes"`   // which lane plays each role
	Missing []drummap.Role       `json:"missing"` // roles no lane has; a lane of a near role may play them
}

// Lay gives each role the first lane of the map that has it, else one of a role near it; instead says otherwise for a role:
// the note of a lane, or −1 to leave it out.
func (p Pattern) Lay(m drummap.Map, instead map[drummap.Role]int) Laid {
	out := Laid{Notes: map[drummap.Role]int{}, Missing: []drummap.Role{},
		Pattern: pattern.Pattern{Name: p.Name, Bars: p.Bars, Meter: p.Meter, Grid: p.Grid, Tags: []string{p.Family}, Hits: []pattern.Hit{}}}
	for _, r := range p.Roles {
		if note, ok := instead[r]; ok {
			if note >= 0 {
				out.Notes[r] = note
			}
			continue
		}
		if l, ok := m.ByRole(r); ok {
			out.Notes[r] = l.Note
			continue
		}
		out.Missing = append(out.Missing, r)
		if l, ok := m.ByRole(drummap.NearRoles(r)...); ok {
			out.Notes[r] = l.Note
		}
	}
	hits := map[pattern.Key]pattern.Hit{}
	for _, s := range p.Strokes {
		note, ok := out.Notes[s.Role]
		if !ok {
			continue
		}
		h := pattern.Hit{Note: note, Tick: s.Tick, Velocity: s.Velocity}
		if old, ok := hits[h.Key()]; !ok || h.Velocity > old.Velocity {
			hits[h.Key()] = h
		}
	}
	for _, h := range hits {
		out.Pattern.Hits = append(out.Pattern.Hits, h)
	}
	pattern.SortHits(out.Pattern.Hits)
	return out
}
