package bench

import (
	"context"
	"errors"
	"fmt"
	"math"
	"path/filepath"
	"strings"
	"sync/atomic"

	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/play"
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
func (b *Bench) Hear(ctx context.Context, projectID, name string, data []byte, ticket string) (recordingID string, next int64, err error) {
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
	heard, err := hear.Listen(ctx, decoded.Buffer, hear.Options{Progress: func(share float64) { h.done.Store(math.Float64bits(share)) }})
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

// RecordingPass finds what a recording's loop sounds: its hits on the kit at the times they were heard, and the
// recording itself from bar 1, as one more cue whose note is RecordingNote.
func (b *Bench) RecordingPass(p store.Project, r store.Recording, rate int) (play.Pass, error) {
	t, err := b.Table(p.Kit, rate)
	if err != nil {
		return play.Pass{}, err
	}
	buf, err := b.Decode(r.Audio)
	if err != nil {
		return play.Pass{}, err
	}
	pt, _, _, err := r.Heard.Pattern(r.Name, music.Sixteenths, 0, laneNote(p))
	if err != nil {
		return play.Pass{}, err
	}
	pass := play.Cues(pt, p.Settings.Feel.Straightened(), r.Heard.BPM, t, nil)
	form := kit.Whole()
	form.StartFrame = int(r.Heard.BarOneS * float64(buf.Rate))
	form.EndFrame = min(buf.Frames(), int(r.Heard.EndS()*float64(buf.Rate)))
	spec := play.VoiceSpec{Sample: r.Audio, Form: form, Rate: rate}
	if form.EndFrame <= form.StartFrame {
		return pass, nil
	}
	b.mu.Lock()
	b.specs[spec.ID()] = spec
	b.mu.Unlock()
	return pass.WithRecording(spec.ID()), nil
}

func laneNote(p store.Project) func(int) (int, bool) {
	return func(gm int) (int, bool) {
		l, ok := p.Map.LaneFor(gm)
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
	pt, homeless, outside, err := r.Heard.Pattern(name, grid, strength, laneNote(p))
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

// Regrid lays another grid over a recording; see hear.Hearing.Regrid.
func (b *Bench) Regrid(projectID, recordingID string, revision int64, bpm float64, bars int, barOneS *float64) (int64, error) {
	p, err := b.Load(projectID)
	if err != nil {
		return revision, err
	}
	r, err := p.Recording(recordingID)
	if err != nil {
		return revision, err
	}
	if r.Heard, err = r.Heard.Regrid(bpm, bars, barOneS); err != nil {
		return revision, err
	}
	return b.Edit(projectID, revision, func(tx *store.Tx) string {
		tx.PutRecording(recordingID, r)
		return fmt.Sprintf("Grid of %s: %.1f BPM, %d bars", r.Name, r.Heard.BPM, r.Heard.Bars)
	})
}
