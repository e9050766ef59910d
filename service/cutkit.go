package service

import (
	"fmt"

	"hexachord/core/feel"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/store"
)

// RecordingGroove finds the groove of a recording's hits, of one lane or (lane below 0) of all that are not doubtful.
func RecordingGroove(p store.Project, r store.Recording, name string, grid music.Grid, lane int) (feel.Groove, error) {
	laneOf := LaneOf(p)
	var strokes []feel.Played
	length := float64(r.Heard.Bars * r.Heard.Meter.BarTicks())
	for _, h := range r.Heard.Hits {
		note := laneOf(h)
		tick := r.Heard.TickAt(h.TimeS)
		if h.Sounds() && !h.Doubtful() && (lane < 0 || note == lane) && tick > -float64(pattern.MaxLeadTicks) && tick < length {
			strokes = append(strokes, feel.Played{Tick: tick, Note: note, Velocity: h.Velocity})
		}
	}
	return feel.TakeGroove(name, strokes, r.Heard.Meter, grid)
}

// CutKit makes a kit of a recording's cleanest strokes and keeps what was heard as a pattern with it.
func (b *Bench) CutKit(projectID, recordingID string, revision int64, name string) (cut CutKit, next int64, err error) {
	p, err := b.Load(projectID)
	if err != nil {
		return cut, revision, err
	}
	r, err := p.Recording(recordingID)
	if err != nil {
		return cut, revision, err
	}
	buf, err := b.Decode(r.Audio)
	if err != nil {
		return cut, revision, err
	}
	lanes := r.Heard.Cuts(buf, LaneOf(p))
	if len(lanes) == 0 {
		return cut, revision, fmt.Errorf("%w: there is no sure hit to cut; keep a doubtful one first", ErrInput)
	}
	k := p.Kit
	k.Name = name
	cut.Lanes = []CutLane{}
	for _, l := range p.Map.Lanes {
		cuts := lanes[l.Note]
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
	pt, _, _, err := r.Heard.Pattern(name, music.Sixteenths, 0, laneOfHit(p))
	if err != nil {
		return cut, revision, err
	}
	next, err = b.Edit(projectID, revision, func(tx *store.Tx) string {
		tx.PutKit(k)
		cut.PatternID = tx.AddPattern(pt)
		return "Cut a kit out of " + r.Name
	})
	return cut, next, err
}

// CutKit is what came of cutting a recording to a kit.
type CutKit struct {
	PatternID string    `json:"patternId"`
	Lanes     []CutLane `json:"lanes"`
}

// CutLane is a lane that got sounds.
type CutLane struct {
	Note   int     `json:"note"`
	Layers int     `json:"layers"`
	Clean  float64 `json:"clean"` // 0..1 of its least clean one; under a half, other drums sound with it
}
