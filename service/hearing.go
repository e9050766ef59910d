package service

import (
	"context"
	"errors"
	"fmt"
	"math"
	"path/filepath"
	"sync/atomic"

	"hexachord/core/hear"
	"hexachord/core/project"
	"hexachord/core/shelf"
	"hexachord/store"
)

// Hearings under way are known by a ticket, so that the person can see how far one is and stop it.
type hearing struct {
	cancel context.CancelFunc
	done   atomic.Uint64 // bits of a float64, 0..1
}

// Hear listens to an audio file and adds it to the project as a recording. It may take long, and adding a
// recording overwrites nothing, so it goes by the revision the project has when it is done. ticket names the
// hearing for Progress and Cancel while it runs.
func (b *Bench) Hear(ctx context.Context, projectID, name string, data []byte, ticket string, o hear.Options) (done store.Done, results []project.Result, err error) {
	if _, err := b.Load(projectID); err != nil {
		return done, nil, err
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	h := &hearing{cancel: cancel}
	if ticket != "" {
		b.mu.Lock()
		b.hears[ticket] = h
		b.mu.Unlock()
		defer func() {
			b.mu.Lock()
			delete(b.hears, ticket)
			b.mu.Unlock()
		}()
	}
	name = filepath.Base(name)
	hash, decoded, err := b.AddAudio(name, data)
	if err != nil {
		return done, nil, err
	}
	if _, err := b.Sample(hash); errors.Is(err, store.ErrNotFound) { // it may be cut to sounds, too
		if err := b.keepSamples([]shelf.Item{itemOf(hash, name, "", decoded)}); err != nil {
			return done, nil, err
		}
	}
	o.Progress = func(share float64) { h.done.Store(math.Float64bits(readShare + share*(1-readShare))) }
	o.Progress(0)
	heard, err := hear.Listen(ctx, decoded.Buffer, o)
	if err != nil {
		return done, nil, fmt.Errorf("%s: %w", name, err)
	}
	p, err := b.Load(projectID)
	if err != nil {
		return done, nil, err
	}
	return b.do(projectID, p.Revision, "", &project.AddRecording{Value: project.Recording{Name: name, Audio: hash, Seconds: decoded.Seconds(), Heard: heard}})
}

// HeardAgain is a recording heard again, with what the person said of it before, and what that changes.
type HeardAgain struct {
	Heard   hear.Hearing
	Changes hear.Changes
}

// HearAgain hears a recording again and changes nothing. What the networks heard is remembered, so that taking it needs no second
// hearing; lanes that hear by themselves go on doing so.
func (b *Bench) HearAgain(ctx context.Context, p project.Project, r project.Recording, o hear.Options) (HeardAgain, error) {
	key := fmt.Sprint(r.Audio, " ", o.Channel, " ", o.Drums)
	again, known := b.heards.Get(key)
	if !known {
		buf, err := b.Decode(r.Audio)
		if err != nil {
			return HeardAgain{}, err
		}
		if again, err = hear.Listen(ctx, buf, o); err != nil {
			return HeardAgain{}, err
		}
		b.heards.Add(key, again)
	}
	was := r.Heard
	r.Heard = was.Again(again)
	for lane, l := range r.Heard.Listeners {
		of, ok := p.Map.ByNote(lane)
		if !ok {
			continue
		}
		heard, err := b.Listen(p, r, lane, l, 0)
		if err != nil {
			return HeardAgain{}, err
		}
		r.Heard = r.Heard.Rehear(lane, of.Role.Note(), heard.Strikes, p.LaneOf)
	}
	return HeardAgain{r.Heard, was.ChangesTo(r.Heard)}, nil
}

// readShare is how much of the time of bringing a recording goes into reading it; measured on takes of minutes.
const readShare = 0.1

// Progress is how far a hearing has come, 0..1; false when none of that ticket runs.
func (b *Bench) Progress(ticket string) (float64, bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	h, ok := b.hears[ticket]
	if !ok {
		return 0, false
	}
	return math.Float64frombits(h.done.Load()), true
}

// CancelHearing stops a hearing; nothing is kept of it.
func (b *Bench) CancelHearing(ticket string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if h, ok := b.hears[ticket]; ok {
		h.cancel()
	}
}

// ErrInput is wrapped by faults in what was asked for.
var ErrInput = project.ErrInput

// Listening is what a lane's own listener hears, and what it could be set to.
type Listening struct {
	Listener hear.Listener `json:"listener"`
	Strikes  []hear.Strike `json:"strikes"`
	Levels   []float32     `json:"levels"` // the band's level in dB, from bar 1 to the end, in as many columns as asked for
	// OpenDB and CloseDB are what the levels suggest.
	OpenDB  float64 `json:"openDB"`
	CloseDB float64 `json:"closeDB"`
}

// Listen tries a listener for a lane and changes nothing. With a listener of zeros the drum's band and the suggested
// thresholds are tried.
func (b *Bench) Listen(p project.Project, r project.Recording, lane int, l hear.Listener, columns int) (Listening, error) {
	laneNow, ok := p.Map.ByNote(lane)
	if !ok {
		return Listening{}, fmt.Errorf("%w: the map has no lane on note %d", ErrInput, lane)
	}
	if l.LoHz == 0 && l.HiHz == 0 {
		l.LoHz, l.HiHz = hear.BandFor(laneNow.Role.Note())
	}
	levels, err := b.levels(r, l.LoHz, l.HiHz)
	if err != nil {
		return Listening{}, err
	}
	out := Listening{}
	first := r.Heard.First
	if first == nil {
		first = r.Heard.Hits
	}
	out.OpenDB, out.CloseDB = levels.SuggestFor(lane, first, p.LaneOf)
	if l.OpenDB == 0 && l.CloseDB == 0 {
		l.OpenDB, l.CloseDB = out.OpenDB, out.CloseDB
		if l.GapMS == 0 {
			l.GapMS = 45
		}
	}
	if err := l.Check(); err != nil {
		return Listening{}, err
	}
	out.Listener, out.Strikes = l, l.Strikes(levels)
	out.Levels = make([]float32, columns)
	from, to := r.Heard.BarOneS, r.Heard.EndS()
	for c := range out.Levels {
		out.Levels[c] = -90
		lo, hi := int((from+(to-from)*float64(c)/float64(columns))*1000), int((from+(to-from)*float64(c+1)/float64(columns))*1000)
		for i := max(0, lo); i < min(len(levels.DB), max(hi, lo+1)); i++ {
			out.Levels[c] = max(out.Levels[c], levels.DB[i])
		}
	}
	return out, nil
}

// levels measures a band of a recording, or remembers it: thresholds are swept over one band many times.
func (b *Bench) levels(r project.Recording, loHz, hiHz float64) (hear.Levels, error) {
	if err := (hear.Listener{LoHz: loHz, HiHz: hiHz, OpenDB: -1, CloseDB: -2}).Check(); err != nil {
		return hear.Levels{}, err
	}
	key := fmt.Sprint(r.Audio, " ", r.Heard.Channel, " ", loHz, " ", hiHz)
	if v, ok := b.bands.Get(key); ok {
		return v, nil
	}
	buf, err := b.Decode(r.Audio)
	if err != nil {
		return hear.Levels{}, err
	}
	one, err := r.Heard.Channel.Of(buf)
	if err != nil {
		return hear.Levels{}, err
	}
	v := hear.LevelsOf(one.Channels[0], one.Rate, loHz, hiHz)
	b.bands.Add(key, v)
	return v, nil
}
