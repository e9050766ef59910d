package service

import (
	"context"
	"errors"
	"fmt"
	"math"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"

	"hexachord/core/hear"
	"hexachord/core/music"
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
func (b *Bench) Hear(ctx context.Context, projectID, name string, data []byte, ticket string, o hear.Options) (recordingID string, next int64, err error) {
	if _, err := b.Load(projectID); err != nil {
		return "", 0, err
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
		return "", 0, err
	}
	if _, err := b.Sample(hash); err != nil { // it may be cut to sounds, too
		if err := b.keepSamples([]shelf.Item{itemOf(hash, name, "", decoded)}); err != nil {
			return "", 0, err
		}
	}
	o.Progress = func(share float64) { h.done.Store(math.Float64bits(share)) }
	heard, err := hear.Listen(ctx, decoded.Buffer, o)
	if err != nil {
		return "", 0, fmt.Errorf("%s: %w", name, err)
	}
	for {
		p, err := b.Load(projectID)
		if err != nil {
			return "", 0, err
		}
		next, err = b.Edit(projectID, p.Revision, func(tx *store.Tx) string {
			recordingID = tx.AddRecording(store.Recording{Name: name, Audio: hash, Seconds: decoded.Seconds(), Heard: heard})
			return "Hear " + name
		})
		if !errors.Is(err, store.ErrStale) || ctx.Err() != nil {
			return recordingID, next, err
		}
	}
}

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

// LaneOf is the note of a hit's lane, −1 when the map has none: the one the person moved it to, else its drum's.
func LaneOf(p store.Project) func(hear.Hit) int {
	of := laneOfHit(p)
	return func(h hear.Hit) int {
		if n, ok := of(h); ok {
			return n
		}
		return -1
	}
}

func laneOfHit(p store.Project) func(hear.Hit) (int, bool) {
	return func(h hear.Hit) (int, bool) {
		if h.Lane != nil {
			if _, ok := p.Map.ByNote(*h.Lane); ok {
				return *h.Lane, true
			}
		}
		l, ok := p.Map.LaneFor(h.Note)
		return l.Note, ok
	}
}

// Kept is what came of keeping a recording as a pattern.
type Kept struct {
	PatternID string `json:"patternId"`
	Hits      int    `json:"hits"`
	Homeless  int    `json:"homeless"` // hits for which the drum map has no lane
	Outside   int    `json:"outside"`  // hits before bar 1 or after the last bar
}

// Keep makes a pattern of what was heard, on the project's own lanes.
func (b *Bench) Keep(projectID, recordingID string, revision int64, name string, grid music.Grid, strength float64) (k Kept, next int64, err error) {
	p, err := b.Load(projectID)
	if err != nil {
		return k, revision, err
	}
	r, err := p.Recording(recordingID)
	if err != nil {
		return k, revision, err
	}
	if !(strength >= 0 && strength <= 100) {
		return k, revision, fmt.Errorf("%w: quantise strength %g is not between 0 and 100 %%", ErrInput, strength)
	}
	if strings.TrimSpace(name) == "" {
		name = strings.TrimSuffix(r.Name, filepath.Ext(r.Name))
	}
	pt, homeless, outside, err := r.Heard.Pattern(name, grid, strength, laneOfHit(p))
	if err != nil {
		return k, revision, err
	}
	k = Kept{Hits: len(pt.Hits), Homeless: homeless, Outside: outside}
	next, err = b.Edit(projectID, revision, func(tx *store.Tx) string {
		k.PatternID = tx.AddPattern(pt)
		return fmt.Sprintf("Keep %s as pattern", r.Name)
	})
	return k, next, err
}

// ErrInput is wrapped by faults in what was asked for.
var ErrInput = errors.New("that cannot be done")

// heardEdit changes what was heard in a recording.
func (b *Bench) heardEdit(projectID, recordingID string, revision int64, label string, change func(p store.Project, r store.Recording) (hear.Hearing, error)) (int64, error) {
	p, err := b.Load(projectID)
	if err != nil {
		return revision, err
	}
	r, err := p.Recording(recordingID)
	if err != nil {
		return revision, err
	}
	if r.Heard, err = change(p, r); err != nil {
		return revision, err
	}
	return b.Edit(projectID, revision, func(tx *store.Tx) string {
		tx.PutRecording(recordingID, r)
		return label
	})
}

// Grid says which grid lies over a recording; what is nil or 0 stays.
type Grid struct {
	BPM     float64   `json:"bpm,omitempty"`
	Bars    int       `json:"bars,omitempty"`
	BarOneS *float64  `json:"barOneS,omitempty"`
	Pin     *hear.Pin `json:"pin,omitempty"`    // a bar or beat line the person has moved
	Follow  *bool     `json:"follow,omitempty"` // true pins the bar lines to hits, false makes the grid steady
}

// Regrid lays another grid over a recording; see hear.Hearing.Regrid, Pin, Follow and Pinned.
func (b *Bench) Regrid(projectID, recordingID string, revision int64, g Grid) (int64, error) {
	return b.heardEdit(projectID, recordingID, revision, "Grid of the recording", func(_ store.Project, r store.Recording) (hear.Hearing, error) {
		switch {
		case g.Pin != nil:
			return r.Heard.Pin(g.Pin.Tick, g.Pin.TimeS)
		case g.Follow != nil && *g.Follow:
			return r.Heard.Follow(), nil
		case g.Follow != nil:
			return r.Heard.Pinned(nil)
		}
		return r.Heard.Regrid(g.BPM, g.Bars, g.BarOneS)
	})
}

// EditHits changes hits of a recording.
func (b *Bench) EditHits(projectID, recordingID string, revision int64, e hear.Edit, label string) (int64, error) {
	return b.heardEdit(projectID, recordingID, revision, label, func(p store.Project, r store.Recording) (hear.Hearing, error) {
		return r.Heard.Apply(e, LaneOf(p))
	})
}

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
func (b *Bench) Listen(p store.Project, r store.Recording, lane int, l hear.Listener, columns int) (Listening, error) {
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
	out.OpenDB, out.CloseDB = levels.SuggestFor(lane, first, LaneOf(p))
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

type levelsKey struct {
	audio      string
	channel    hear.Channel
	loHz, hiHz float64
}

// levels measures a band of a recording, or remembers it: thresholds are swept over one band many times.
func (b *Bench) levels(r store.Recording, loHz, hiHz float64) (hear.Levels, error) {
	if err := (hear.Listener{LoHz: loHz, HiHz: hiHz, OpenDB: -1, CloseDB: -2}).Check(); err != nil {
		return hear.Levels{}, err
	}
	key := levelsKey{r.Audio, r.Heard.Channel, loHz, hiHz}
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

// SetListener lets a lane hear by its own listener, or (nil) as the recording was first heard.
func (b *Bench) SetListener(projectID, recordingID string, revision int64, lane int, l *hear.Listener) (int64, error) {
	return b.heardEdit(projectID, recordingID, revision, "Listen otherwise", func(p store.Project, r store.Recording) (hear.Hearing, error) {
		h := r.Heard
		if h.First == nil {
			h.First = h.Hits
		}
		listeners := map[int]hear.Listener{}
		for n, o := range h.Listeners {
			listeners[n] = o
		}
		if l == nil {
			delete(listeners, lane)
			h.Listeners = listeners
			return h.HeardFirst(lane, LaneOf(p)), nil
		}
		heard, err := b.Listen(p, r, lane, *l, 0)
		if err != nil {
			return h, err
		}
		of, _ := p.Map.ByNote(lane)
		listeners[lane] = heard.Listener
		h.Listeners = listeners
		return h.Rehear(lane, of.Role.Note(), heard.Strikes, LaneOf(p)), nil
	})
}

// RehearAll listens to a recording anew on another channel. What the person said of the hits is not carried over.
func (b *Bench) RehearAll(ctx context.Context, projectID, recordingID string, revision int64, channel hear.Channel) (int64, error) {
	return b.heardEdit(projectID, recordingID, revision, "Listen to another channel", func(_ store.Project, r store.Recording) (hear.Hearing, error) {
		buf, err := b.Decode(r.Audio)
		if err != nil {
			return r.Heard, err
		}
		return hear.Listen(ctx, buf, hear.Options{Channel: channel, BPM: r.Heard.BPM, Bars: r.Heard.Bars})
	})
}

// Flip turns a lane's kit sounds over under the recording, or back.
func (b *Bench) Flip(projectID, recordingID string, revision int64, lane int) (int64, error) {
	return b.heardEdit(projectID, recordingID, revision, "Turn a layer over", func(_ store.Project, r store.Recording) (hear.Hearing, error) {
		h := r.Heard
		if i := slices.Index(h.Flipped, lane); i >= 0 {
			h.Flipped = slices.Delete(slices.Clone(h.Flipped), i, i+1)
		} else {
			h.Flipped = append(slices.Clone(h.Flipped), lane)
		}
		return h, nil
	})
}
