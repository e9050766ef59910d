package project

import (
	"cmp"
	"fmt"
	"math"
	"path"
	"slices"
	"strings"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

// Recording is a break in a project: its audio and what was heard in it.
type Recording struct {
	Name    string       `json:"name"`
	Audio   string       `json:"audio"` // SHA-256 of the file
	Seconds float64      `json:"seconds"`
	Heard   hear.Hearing `json:"heard"`
}

// Check reports a recording that cannot be kept.
func (r Recording) Check() error {
	if len(r.Name) > 255 || !(r.Seconds >= 0) {
		return fmt.Errorf("%w: the recording’s name is too long or its length is none", ErrInput)
	}
	return nil
}

// LaneOf is the note of a hit's lane, −1 when the map has none: the one the person moved it to, else its drum's.
func (p Project) LaneOf(h hear.Hit) int {
	if n, ok := p.laneOf(h); ok {
		return n
	}
	return -1
}

func (p Project) laneOf(h hear.Hit) (int, bool) {
	if h.Lane != nil {
		if _, ok := p.Map.ByNote(*h.Lane); ok {
			return *h.Lane, true
		}
	}
	l, ok := p.Map.LaneFor(h.Note)
	return l.Note, ok
}

// heardScope is the scope of what changes what was heard in a recording: the recording, and the map that says which lane a
// hit is on.
func heardScope(recording string) Scope {
	return Scope{Keys: []Key{{KindRecording, recording}, {KindMap, only}}}
}

// hear changes what was heard in a recording.
func (d *Draft) hear(recording string, change func(r Recording) (hear.Hearing, error)) error {
	r, err := d.Recording(recording)
	if err != nil {
		return err
	}
	if r.Heard, err = change(r); err != nil {
		return err
	}
	return d.PutRecording(recording, r)
}

// HeardEdit changes hits of a recording.
type HeardEdit struct {
	Recording string    `json:"recording" required:"true" maxLength:"64"`
	Edit      hear.Edit `json:"edit" required:"true"`
	Label     string    `json:"label" required:"true" maxLength:"200"`
}

func (e *HeardEdit) Apply(d *Draft) (string, error) {
	edit := e.Edit
	edit.Add = slices.Clone(edit.Add)
	for i, a := range edit.Add {
		l, _ := d.Map.ByNote(a.Lane)
		edit.Add[i].Note = l.Role.Note()
	}
	return labelled(e.Label, "Change heard hits"), d.hear(e.Recording, func(r Recording) (hear.Hearing, error) { return r.Heard.Apply(edit, d.LaneOf) })
}

func (e *HeardEdit) Scope(Project) Scope { return heardScope(e.Recording) }

// Regrid lays another grid over a recording; what is nil or 0 stays. See hear.Hearing.Regrid, Pin, Follow and Pinned.
type Regrid struct {
	Recording string       `json:"recording" required:"true" maxLength:"64"`
	BPM       float64      `json:"bpm,omitempty" minimum:"20" maximum:"400"`
	Bars      int          `json:"bars,omitempty" minimum:"1" maximum:"3600"`
	BarOneS   *float64     `json:"barOneS,omitempty" minimum:"0" maximum:"3600"`
	Meter     *music.Meter `json:"meter,omitempty"`
	Pin       *hear.Pin    `json:"pin,omitempty"`    // a bar or beat line the person has moved
	Follow    *bool        `json:"follow,omitempty"` // true pins the bar lines to hits, false makes the grid steady
}

func (e *Regrid) Apply(d *Draft) (string, error) {
	return "Grid of the recording", d.hear(e.Recording, func(r Recording) (hear.Hearing, error) {
		switch {
		case e.Meter != nil:
			return r.Heard.InMeter(*e.Meter)
		case e.Pin != nil:
			return r.Heard.Pin(e.Pin.Tick, e.Pin.TimeS)
		case e.Follow != nil && *e.Follow:
			return r.Heard.Follow(), nil
		case e.Follow != nil:
			return r.Heard.Pinned(nil)
		}
		return r.Heard.Regrid(e.BPM, e.Bars, e.BarOneS)
	})
}

func (e *Regrid) Scope(Project) Scope { return heardScope(e.Recording) }

// Flip turns a lane's kit sounds over under the recording, or back.
type Flip struct {
	Recording string `json:"recording" required:"true" maxLength:"64"`
	Lane      int    `json:"lane" minimum:"0" maximum:"127"`
}

func (e *Flip) Apply(d *Draft) (string, error) {
	return "Turn a layer over", d.hear(e.Recording, func(r Recording) (hear.Hearing, error) {
		h := r.Heard
		if i := slices.Index(h.Flipped, e.Lane); i >= 0 {
			h.Flipped = slices.Delete(slices.Clone(h.Flipped), i, i+1)
		} else {
			h.Flipped = append(slices.Clone(h.Flipped), e.Lane)
		}
		return h, nil
	})
}

func (e *Flip) Scope(Project) Scope { return heardScope(e.Recording) }

// PutHeard replaces what was heard in a recording.
type PutHeard struct {
	Recording string
	Heard     hear.Hearing
	Label     string
}

func (e *PutHeard) Apply(d *Draft) (string, error) {
	return labelled(e.Label, "Listen anew"), d.hear(e.Recording, func(Recording) (hear.Hearing, error) { return e.Heard, nil })
}

func (e *PutHeard) Scope(Project) Scope { return heardScope(e.Recording) }

// AddRecording adds a recording.
type AddRecording struct{ Value Recording }

func (e *AddRecording) Apply(d *Draft) (string, error) {
	_, err := d.AddRecording(e.Value)
	return "Hear " + e.Value.Name, err
}

func (e *AddRecording) Scope(Project) Scope { return Scope{} }

// Kept is what came of keeping a recording as a pattern.
type Kept struct {
	Hits     int `json:"hits"`
	Homeless int `json:"homeless"` // hits for which the drum map has no lane
	Outside  int `json:"outside"`  // hits before bar 1 or after the last bar
	Patterns int `json:"patterns"` // it became
}

// Keep makes a pattern of what was heard, on the project's own lanes.
type Keep struct {
	Recording string     `json:"recording" required:"true" maxLength:"64"`
	Name      string     `json:"name" maxLength:"200"`
	Grid      music.Grid `json:"grid" required:"true"`
	Strength  float64    `json:"strength" minimum:"0" maximum:"100"`
	// TakeTempo lets the project play at the recording's tempo from then on: not quantised, the pattern sounds as it was played.
	TakeTempo bool `json:"takeTempo,omitempty"`
	// Section is how many bars each pattern has that a longer recording becomes; 0 is as many as fit.
	Section int `json:"section,omitempty" minimum:"0" maximum:"64"`
}

// patterns are those it makes, and what of the recording is in them. They have a straight feel of their own: what was played has its
// own.
func (e Keep) patterns(p Project) ([]pattern.Pattern, Kept, error) {
	r, err := p.Recording(e.Recording)
	if err != nil {
		return nil, Kept{}, err
	}
	if !(e.Strength >= 0 && e.Strength <= 100) {
		return nil, Kept{}, fmt.Errorf("%w: quantise strength %g is not between 0 and 100 %%", ErrInput, e.Strength)
	}
	name := strings.TrimSpace(e.Name)
	if name == "" {
		name = strings.TrimSuffix(r.Name, path.Ext(r.Name))
	}
	heard := r.Heard
	if e.TakeTempo && e.Strength == 0 && len(heard.Pins) > 0 { // as it was played, whatever the bars that follow the player say
		steady := heard
		steady.Pins = nil
		bar := music.Seconds(float64(heard.Meter.BarTicks()), heard.BPM)
		steady.Bars = max(1, min(hear.MaxBars, int(math.Ceil((heard.EndS()-heard.BarOneS)/bar-1e-6))))
		heard = steady
	}
	section := e.Section
	if section == 0 {
		section = music.MaxBars
	}
	row, homeless, outside, err := heard.Sections(name, e.Grid, e.Strength, p.laneOf, section)
	kept := Kept{Homeless: homeless, Outside: outside, Patterns: len(row)}
	straight := p.Settings.Feel.Straightened()
	for i := range row {
		row[i].Feel = &straight
		kept.Hits += len(row[i].Hits)
	}
	return row, kept, err
}

// addRow adds patterns in their order; id is the first one's.
func (d *Draft) addRow(row []pattern.Pattern) (id string, err error) {
	for _, p := range row {
		added, err := d.AddPattern(p)
		if err != nil {
			return "", err
		}
		id = cmp.Or(id, added)
	}
	return id, nil
}

func (e *Keep) Apply(d *Draft) (string, error) {
	row, kept, err := e.patterns(d.Project)
	if err != nil {
		return "", err
	}
	r, err := d.Recording(e.Recording)
	if err != nil {
		return "", err
	}
	if e.TakeTempo {
		settings := d.Settings
		settings.BPM = r.Heard.BPM
		if err := d.PutSettings(settings); err != nil {
			return "", err
		}
	}
	d.Result.Kept = &kept
	if d.Result.ID, err = d.addRow(row); err != nil {
		return "", err
	}
	return fmt.Sprintf("Keep %s as pattern", r.Name), nil
}

func (e *Keep) Scope(Project) Scope {
	s := heardScope(e.Recording)
	if e.TakeTempo {
		s = s.And(Scope{Settings: []string{"bpm"}})
	}
	return s
}

// CutKit is what came of cutting a recording to a kit.
type CutKit struct {
	Lanes []CutLane `json:"lanes"`
}

// CutLane is a lane that got sounds.
type CutLane struct {
	Note   int     `json:"note"`
	Layers int     `json:"layers"`
	Clean  float64 `json:"clean"` // 0..1 of its least clean one; under a half, other drums sound with it
}

// Cut makes a kit of a recording's cleanest strokes and keeps what was heard as a pattern with it.
type Cut struct {
	Recording string
	Name      string
	Strokes   map[int][]hear.Cut // the cleanest of each lane (note)
}

// kit is the kit it makes.
func (e Cut) kit(p Project) (kit.Kit, CutKit, error) {
	r, err := p.Recording(e.Recording)
	if err != nil {
		return kit.Kit{}, CutKit{}, err
	}
	if len(e.Strokes) == 0 {
		return kit.Kit{}, CutKit{}, fmt.Errorf("%w: there is no sure hit to cut; keep a doubtful one first", ErrInput)
	}
	k, cut := p.Kit, CutKit{Lanes: []CutLane{}}
	k.Name = e.Name
	for _, l := range p.Map.Lanes {
		cuts := e.Strokes[l.Note]
		if len(cuts) == 0 {
			continue
		}
		pad, ok := k.Pad(l.Note)
		if !ok {
			pad = kit.NewPad(l.Note)
		}
		ranges := kit.EvenRanges(len(cuts))
		pad.Layers = []kit.Layer{}
		clean := 1.0
		for i, c := range cuts {
			form := kit.Whole()
			form.StartFrame, form.EndFrame, form.FadeOutMS = c.StartFrame, c.EndFrame, 8
			pad.Layers = append(pad.Layers, kit.NewLayer(ranges[i].Lo, ranges[i].Hi, kit.Take{Sample: r.Audio, Source: r.Name, Shape: form}))
			clean = min(clean, c.Clean)
		}
		k = k.Put(pad)
		cut.Lanes = append(cut.Lanes, CutLane{l.Note, len(cuts), clean})
	}
	return k, cut, nil
}

func (e *Cut) Apply(d *Draft) (string, error) {
	k, cut, err := e.kit(d.Project)
	if err != nil {
		return "", err
	}
	d.Result.Cut = &cut
	r, err := d.Recording(e.Recording)
	if err != nil {
		return "", err
	}
	row, _, _, err := r.Heard.Sections(e.Name, music.Sixteenths, 0, d.laneOf, music.MaxBars)
	if err != nil {
		return "", err
	}
	if err := d.PutKit(k); err != nil {
		return "", err
	}
	if d.Result.ID, err = d.addRow(row); err != nil {
		return "", err
	}
	return "Cut a kit out of " + r.Name, nil
}

func (e *Cut) Scope(Project) Scope { return heardScope(e.Recording).And(mapAndKit) }

// RecordingGroove finds the groove of a recording's hits, of one lane or (lane below 0) of all that are not doubtful.
func (p Project) RecordingGroove(r Recording, name string, grid music.Grid, lane int) (feel.Groove, error) {
	var strokes []feel.Played
	length := float64(r.Heard.Bars * r.Heard.Meter.BarTicks())
	for _, h := range r.Heard.Hits {
		note := p.LaneOf(h)
		tick := r.Heard.TickAt(h.TimeS)
		if h.Sounds() && !h.Doubtful() && (lane < 0 || note == lane) && tick > -float64(pattern.MaxLeadTicks) && tick < length {
			strokes = append(strokes, feel.Played{Tick: tick, Note: note, Velocity: h.Velocity})
		}
	}
	return feel.TakeGroove(name, strokes, r.Heard.Meter, grid)
}

// HeardAsPattern is what was heard, as a pattern at the times it was heard, whatever the grid says; it may be longer than one that
// is kept.
func (p Project) HeardAsPattern(r Recording) (pattern.Pattern, error) {
	heard := r.Heard
	heard.Pins = nil
	pt, _, _, err := heard.Take(r.Name, music.Sixteenths, 0, p.laneOf)
	return pt, err
}

// BandOf is where a lane is heard in a recording, Hz: its listener's own band, or its drum's.
func (r Recording) BandOf(l drummap.Lane) (loHz, hiHz float64) {
	if own, ok := r.Heard.Listeners[l.Note]; ok && !own.Off {
		return own.LoHz, own.HiHz
	}
	return hear.BandFor(l.Role.Note())
}
