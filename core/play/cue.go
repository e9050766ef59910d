package play

import (
	"sort"

	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

// Cue says exactly what sounds when. A player starts Voice at AtS, scaled by Left and Right. If Choke
// is not 0 it first cuts the sounding voices of that group from other pads (and from this pad too with
// SelfChoke) with a fade of ChokeFadeS. HoldS > 0 releases the voice that long after its start.
type Cue struct {
	AtS       float64 `json:"at"` // seconds from the start of the pass; negative leads into it
	Voice     string  `json:"voice"`
	Left      float64 `json:"left"`
	Right     float64 `json:"right"`
	Note      int     `json:"note"`
	Velocity  int     `json:"velocity"`
	Layer     int     `json:"layer"` // index of the layer that fired, softest 0
	Tick      int     `json:"tick"`  // the hit's own tick
	Choke     int     `json:"choke"`
	SelfChoke bool    `json:"selfChoke"`
	HoldS     float64 `json:"hold"` // 0 = one-shot
	ReleaseS  float64 `json:"release"`
}

// Pass is one time through a pattern: its cues in time order, and its length.
type Pass struct {
	LengthS float64 `json:"length"`
	Cues    []Cue   `json:"cues"`
	// Silent counts the hits that no layer of the kit sounds.
	Silent int `json:"silent"`
}

// Cues lays the feel over the pattern and finds what each stroke sounds. Notes for which muted
// reports true make no cues; muted may be nil.
func Cues(p pattern.Pattern, f feel.Feel, bpm float64, t Table, muted func(note int) bool) Pass {
	pads := make(map[int]*StrikePad, len(t.Pads))
	for i := range t.Pads {
		pads[t.Pads[i].Note] = &t.Pads[i]
	}
	pass := Pass{LengthS: music.Seconds(float64(p.LengthTicks()), bpm), Cues: []Cue{}}
	cell := p.CellTicks()
	for _, h := range p.Hits {
		if muted != nil && muted(h.Note) {
			continue
		}
		pad := pads[h.Note]
		if pad == nil {
			pass.Silent++
			continue
		}
		start := float64(h.Tick) + f.Shift(h.Tick)
		swungCell := float64(cell) + f.Shift(h.Tick+cell) - f.Shift(h.Tick)
		sounded := false
		for _, s := range h.Strokes(cell) {
			at := start + s.OffsetTicks*swungCell/float64(cell)
			hold := 0.0
			if pad.Held {
				length := float64(h.Length)
				if length == 0 {
					length = swungCell
				}
				hold = music.Seconds(length/float64(max(1, h.Split)), bpm)
			}
			cues := pad.Strike(s.Velocity)
			for _, c := range cues {
				c.AtS, c.Tick, c.HoldS = music.Seconds(at, bpm), h.Tick, hold
				pass.Cues = append(pass.Cues, c)
			}
			sounded = sounded || len(cues) > 0
		}
		if !sounded {
			pass.Silent++
		}
	}
	sort.SliceStable(pass.Cues, func(i, j int) bool { return pass.Cues[i].AtS < pass.Cues[j].AtS })
	return pass
}

// Strike lists the cues, at time 0, of one strike on the pad.
func (p *StrikePad) Strike(velocity int) []Cue {
	var out []Cue
	for i, l := range p.Layers {
		if velocity < l.Lo || velocity > l.Hi {
			continue
		}
		g := p.Gains[velocity]
		out = append(out, Cue{Voice: l.Voice, Left: l.Left * g, Right: l.Right * g, Note: p.Note, Velocity: velocity,
			Layer: i, Choke: p.Choke, SelfChoke: p.SelfChoke, ReleaseS: p.ReleaseS})
	}
	return out
}

// RecordingNote is the note of the cue that sounds a recording itself; no pad has it.
const RecordingNote = -1

// WithRecording adds a cue that sounds a recording's voice from the pass's start at full level in both
// channels; the next pass cuts it.
func (p Pass) WithRecording(voice string) Pass {
	cue := Cue{Voice: voice, Left: 1, Right: 1, Note: RecordingNote, Velocity: 127, SelfChoke: true, ReleaseS: ChokeFadeS}
	p.Cues = append([]Cue{cue}, p.Cues...)
	sort.SliceStable(p.Cues, func(i, j int) bool { return p.Cues[i].AtS < p.Cues[j].AtS })
	return p
}
