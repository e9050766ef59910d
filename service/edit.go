package service

import (
	"context"
	"fmt"
	"maps"

	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/store"
)

// Edit is a change of a project as it is asked for: one of those that need nothing but the project, or one that needs audio or
// what is kept beside projects.
type Edit struct {
	project.Edit
	TakeKit  *TakeKit     `json:"takeKit,omitempty"`
	Listener *SetListener `json:"listener,omitempty"`
	Again    *Again       `json:"again,omitempty"`
	CutKit   *CutKit      `json:"cutKit,omitempty"`
	// BringPatterns comes from another project.
	BringPatterns *BringPatterns `json:"bringPatterns,omitempty"`
}

// Edits are asked for together: all are made or none, in one step of the history.
type Edits struct {
	Edits []Edit
	Label string // overrides the words of the history; "" leaves them to the first edit
	// Join makes edits of one name that follow each other one step; "" joins none.
	Join string
	// Part is the part they are made in, "" the first.
	Part string
}

// Edit makes edits on a project, on the newest state when what they touch was not changed since the revision they were made
// on.
func (b *Bench) Edit(ctx context.Context, projectID string, revision int64, asked Edits) (store.Done, []project.Result, error) {
	steps, err := b.steps(ctx, projectID, asked.Edits)
	if err != nil {
		return store.Done{}, nil, err
	}
	inPart(steps, asked.Part)
	for _, e := range asked.Edits {
		if e.TakeKit != nil {
			if err := b.putAside(projectID, asked.Part); err != nil {
				return store.Done{}, nil, err
			}
		}
	}
	done, results, err := b.joined(projectID, revision, asked.Label, asked.Join, steps...)
	if err != nil {
		return done, nil, err
	}
	for _, e := range asked.Edits {
		if c := e.Carry; c != nil && c.Remember {
			if err := b.RememberCorrections(c.From.Name, c.To.Name, c.Corrections); err != nil {
				return done, results, err
			}
		}
	}
	return done, results, nil
}

// inPart turns steps to a part.
func inPart(steps []project.Step, part string) {
	if part == "" {
		return
	}
	for i, s := range steps {
		steps[i] = project.InPart{Part: part, Step: s}
	}
}

// do makes steps on a project.
func (b *Bench) do(projectID string, revision int64, label string, steps ...project.Step) (store.Done, []project.Result, error) {
	return b.joined(projectID, revision, label, "", steps...)
}

// joined makes steps on a project, as one step of the history with those before that joined the same name.
func (b *Bench) joined(projectID string, revision int64, label, join string, steps ...project.Step) (store.Done, []project.Result, error) {
	var results []project.Result
	scope := func(p project.Project) project.Scope {
		var all project.Scope
		for _, s := range steps {
			all = all.And(s.Scope(p))
		}
		return all
	}
	done, err := b.Store.Edit(projectID, revision, b, join, scope, func(d *project.Draft) (string, error) {
		var words string
		var err error
		words, results, err = apply(d, steps)
		if label != "" {
			words = label
		}
		return words, err
	})
	return done, results, err
}

// apply makes steps on a draft.
func apply(d *project.Draft, steps []project.Step) (label string, results []project.Result, err error) {
	for _, s := range steps {
		d.Result = project.Result{}
		words, err := s.Apply(d)
		if err != nil {
			return "", nil, err
		}
		if label == "" {
			label = words
		}
		results = append(results, d.Result)
	}
	return label, results, nil
}

// steps find what edits need from outside their project.
func (b *Bench) steps(ctx context.Context, projectID string, edits []Edit) ([]project.Step, error) {
	if len(edits) == 0 {
		return nil, fmt.Errorf("%w: no edit was sent", ErrInput)
	}
	var steps []project.Step
	for _, e := range edits {
		s, err := b.step(ctx, projectID, e)
		if err != nil {
			return nil, err
		}
		steps = append(steps, s)
	}
	return steps, nil
}

func (b *Bench) step(ctx context.Context, projectID string, e Edit) (project.Step, error) {
	p, err := b.Load(projectID)
	if err != nil {
		return nil, err
	}
	switch {
	case e.TakeKit != nil:
		return b.takeKit(*e.TakeKit)
	case e.Listener != nil:
		return b.setListener(p, *e.Listener)
	case e.Again != nil:
		return b.again(ctx, p, *e.Again)
	case e.CutKit != nil:
		return b.cutKit(p, *e.CutKit)
	case e.BringPatterns != nil:
		return b.bringPatterns(*e.BringPatterns)
	case e.Carry != nil:
		carry, err := b.corrected(*e.Carry)
		return &carry, err
	}
	return e.Edit, nil
}

// corrected is a request to carry with the notes a person chose before.
func (b *Bench) corrected(r project.CarryRequest) (project.CarryRequest, error) {
	known, err := b.Corrections(r.From.Name, r.To.Name)
	maps.Copy(known, r.Corrections)
	r.Corrections = known
	return r, err
}

// NewID names a new document.
func (b *Bench) NewID() string { return store.NewID() }

// Tried is what edits would lead to.
type Tried struct {
	Project project.Project
	Changes []project.Change
	Results []project.Result
}

// Try makes edits on a part of a project and keeps nothing.
func (b *Bench) Try(ctx context.Context, projectID, part string, edits []Edit) (Tried, error) {
	p, err := b.Load(projectID)
	if err != nil {
		return Tried{}, err
	}
	steps, err := b.steps(ctx, projectID, edits)
	if err != nil {
		return Tried{}, err
	}
	inPart(steps, part)
	state, err := b.State(projectID)
	if err != nil {
		return Tried{}, err
	}
	d := project.NewDraft(state, b)
	_, results, err := apply(d, steps)
	d.Revision = p.Revision
	return Tried{d.Project, d.Changes(), results}, err
}

// MatchDB is by how much a sample that is tried is raised to be as loud as what it stands in for.
func (b *Bench) MatchDB(p project.Project, t kit.Try) float64 { return p.Kit.MatchDB(t, b) }

// TakeKit gives a project a kit and its map: “boathouse” is the ready kit, “empty” lanes with roles and no sounds, “project:” and an
// ID another project's, else the ID of a kept kit. The kit the project had stays among the kept ones.
type TakeKit struct {
	Kit string `json:"kit" required:"true" maxLength:"64"`
}

const kitOfProject = "project:"

// BringPatterns adds patterns of another project, carried to this one's lanes.
type BringPatterns struct {
	Project  string      `json:"project" required:"true" maxLength:"64"` // the other project's ID
	Patterns []string    `json:"patterns" required:"true" minItems:"1" maxItems:"1000"`
	By       project.By  `json:"by" required:"true" enum:"role,note"`
	To       map[int]int `json:"to,omitempty"` // old note → note that a person chose, −1 for none
}

func (b *Bench) bringPatterns(e BringPatterns) (project.Step, error) {
	other, err := b.Peek(e.Project)
	if err != nil {
		return nil, err
	}
	return &project.Bring{Other: other, Patterns: e.Patterns, By: e.By, To: e.To}, nil
}

// SetListener lets a lane hear by its own listener, or (none) as the recording was first heard.
type SetListener struct {
	Recording string         `json:"recording" required:"true" maxLength:"64"`
	Lane      int            `json:"lane" minimum:"0" maximum:"127"` // its note
	Listener  *hear.Listener `json:"listener,omitempty"`
}

// Again hears a recording again, by the ears of now: on a channel, through other music or not. What the person said of the hits is
// carried over, see hear.Again.
type Again struct {
	Recording string       `json:"recording" required:"true" maxLength:"64"`
	Channel   hear.Channel `json:"channel,omitempty" maxLength:"8" enum:"left,right,mid,side"`
	Drums     bool         `json:"drums,omitempty"`
}

// CutKit makes a kit of a recording's cleanest strokes, and a pattern with it.
type CutKit struct {
	Recording string `json:"recording" required:"true" maxLength:"64"`
	Name      string `json:"name" required:"true" minLength:"1" maxLength:"100"`
	Wanted    []int  `json:"wanted,omitempty" maxItems:"1000"` // hits chosen by ear: each goes before the others of its lane and loudness
}

func (b *Bench) cutKit(p project.Project, e CutKit) (project.Step, error) {
	r, err := p.Recording(e.Recording)
	if err != nil {
		return nil, err
	}
	buf, err := b.Decode(r.Audio)
	if err != nil {
		return nil, err
	}
	return &project.Cut{Recording: e.Recording, Name: e.Name, Strokes: r.Heard.Cuts(buf, p.LaneOf, e.Wanted)}, nil
}

func (b *Bench) setListener(p project.Project, e SetListener) (project.Step, error) {
	r, err := p.Recording(e.Recording)
	if err != nil {
		return nil, err
	}
	h := r.Heard
	if h.First == nil {
		h.First = h.Hits
	}
	listeners := maps.Clone(h.Listeners)
	if listeners == nil {
		listeners = map[int]hear.Listener{}
	}
	step := &project.PutHeard{Recording: e.Recording, Label: "Listen otherwise"}
	if e.Listener == nil {
		delete(listeners, e.Lane)
		h.Listeners = listeners
		step.Heard = h.HeardFirst(e.Lane, p.LaneOf)
		return step, nil
	}
	heard, err := b.Listen(p, r, e.Lane, *e.Listener, 0)
	if err != nil {
		return nil, err
	}
	of, _ := p.Map.ByNote(e.Lane)
	listeners[e.Lane] = heard.Listener
	h.Listeners = listeners
	step.Heard = h.Rehear(e.Lane, of.Role.Note(), heard.Strikes, p.LaneOf)
	return step, nil
}

func (b *Bench) again(ctx context.Context, p project.Project, e Again) (project.Step, error) {
	r, err := p.Recording(e.Recording)
	if err != nil {
		return nil, err
	}
	found, err := b.HearAgain(ctx, p, r, hear.Options{Channel: e.Channel, Drums: e.Drums})
	return &project.PutHeard{Recording: e.Recording, Heard: found.Heard, Label: "Hear again"}, err
}

// Sounding asks what a pattern sounds: at which sample rate, and which pass the asker has, so that only what differs is sent.
type Sounding struct {
	Pattern string `json:"pattern" required:"true" maxLength:"64"`
	Rate    int    `json:"rate" required:"true" minimum:"8000" maximum:"192000"`
	Have    string `json:"have,omitempty" maxLength:"64"`
	// With are patterns of other parts that go round beside it, for as long as it lasts.
	With []string `json:"with,omitempty" maxItems:"31"`
}

// Sounds is what a pattern sounds, whole or as what differs from the pass the asker has. Neither: it sounds the same.
type Sounds struct {
	ID    string      `json:"id"`
	Pass  *play.Pass  `json:"pass,omitempty"`
	Delta *play.Delta `json:"delta,omitempty"`
}

// Sound finds what a pattern of a project sounds.
func (b *Bench) Sound(p project.Project, s Sounding) (Sounds, error) {
	pt, err := p.Pattern(s.Pattern)
	if err != nil {
		return Sounds{}, err
	}
	return b.SoundOf(p, pt, s)
}

// SoundPassAlone finds what one recorded pass sounds with nothing else of its pattern.
func (b *Bench) SoundPassAlone(p project.Project, id string, rate int) (Sounds, error) {
	pass, err := p.Pass(id)
	if err != nil {
		return Sounds{}, err
	}
	pt, err := p.Pattern(pass.Pattern)
	if err != nil {
		return Sounds{}, err
	}
	pt.Hits = pass.Hits(pt)
	return b.SoundOf(p, pt, Sounding{Rate: rate})
}

// SoundOf finds what a pattern that need not be the project's sounds with its kit, feel and tempo.
func (b *Bench) SoundOf(p project.Project, pt pattern.Pattern, s Sounding) (Sounds, error) {
	pass, err := b.Pass(p, pt, s.Rate)
	if err == nil && len(s.With) > 0 {
		pass, err = b.together(p, pass, pt, s.With, s.Rate)
	}
	if err != nil {
		return Sounds{}, err
	}
	old, known := b.passes.Get(s.Have)
	if known {
		delta := play.Difference(old, pass)
		if delta.Empty() {
			return Sounds{ID: s.Have}, nil
		}
		if delta.Small(pass) {
			id := store.NewID()
			b.passes.Add(id, pass)
			return Sounds{ID: id, Delta: &delta}, nil
		}
	}
	id := store.NewID()
	b.passes.Add(id, pass)
	return Sounds{ID: id, Pass: &pass}, nil
}
