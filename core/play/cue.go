package play

import (
	"slices"
	"sort"

	"hexachord/core/feel"
	"hexachord/core/music"
	"hexachord/core/pattern"
)

// Cue says exactly what sounds when. A player starts Voice at AtS, scaled by Left and Right. If Choke
// is not 0 it first cuts the sounding voices of other pads whose CutBy is that group (and with SelfChoke those of
// this pad) with a fade of ChokeFadeS. HoldS > 0 releases the voice that long after its start.
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
	CutBy     int     `json:"cutBy"`
	SelfChoke bool    `json:"selfChoke"`
	HoldS     float64 `json:"hold"` // 0 = one-shot
	ReleaseS  float64 `json:"release"`
	// Turn numbers (from 1) the pass's turn that says which take sounds; 0 for a sound that has one take.
	// Stroke is the cue's place among that turn's strokes, Gain what a take's own gains are scaled by.
	Turn   int     `json:"turn"`
	Stroke int     `json:"stroke"`
	Gain   float64 `json:"gain"`
	// When numbers (from 1) the pass's entry that says in which passes the cue sounds; 0 is in all.
	When int     `json:"when"`
	Pan  float64 `json:"pan"`            // the hit's own, −100..100; a take chosen in its turn is moved by it
	Tune int     `json:"tune,omitempty"` // the hit's own, cents; its voice is made so
}

// Turn is a sound with several takes: in pass n its stroke k sounds Takes[Order[(n·Strokes+k) mod len(Order)]].
type Turn struct {
	Takes   []StrikeTake `json:"takes"`
	Order   []int        `json:"order"`
	Strokes int          `json:"strokes"` // in one pass
}

// Stroke is one stroke as a MIDI instrument receives it.
type Stroke struct {
	AtS      float64 `json:"at"` // seconds from the start of the pass; negative leads into it
	LengthS  float64 `json:"length"`
	Note     int     `json:"note"`
	Velocity int     `json:"velocity"`
	Tick     int     `json:"tick"` // the hit's own tick
	When     int     `json:"when"` // as for a cue
}

// Pass is one time through a pattern: its cues in time order, and its length.
type Pass struct {
	LengthS float64 `json:"length"`
	Cues    []Cue   `json:"cues"`
	Turns   []Turn  `json:"turns"`
	// Strokes are what an instrument that only receives MIDI plays, kit or no kit, in time order.
	Strokes []Stroke `json:"strokes"`
	// Whens say in which passes a cue or stroke sounds: in pass n it does when character n mod the entry's length is '1'.
	Whens []string `json:"whens"`
	// Silent counts the hits that no layer of the kit sounds.
	Silent int `json:"silent"`
	// Tuned are the voices of hits with a tune of their own, which the kit's table does not have.
	Tuned []VoiceSpec `json:"-"`
}

// Sounds reports whether what When numbers sounds in pass n.
func (p Pass) Sounds(when, n int) bool {
	if when == 0 {
		return true
	}
	w := p.Whens[when-1]
	return w[n%len(w)] == '1'
}

// Take is the cue as it sounds in pass n, with its take chosen.
func (p Pass) Take(c Cue, n int) Cue {
	if c.Turn == 0 {
		return c
	}
	t := p.Turns[c.Turn-1]
	take := t.Takes[t.Order[(n*t.Strokes+c.Stroke)%len(t.Order)]]
	c.Voice, c.Left, c.Right = take.Voice, take.Left*c.Gain, take.Right*c.Gain
	c.panned()
	return c
}

// Cues lays the feel over the pattern and finds what each stroke sounds. Notes for which muted
// reports true make no cues; muted may be nil.
func Cues(pt pattern.Pattern, f feel.Feel, bpm float64, t Table, muted func(note int) bool) Pass {
	p := laned{pt}
	pads := make(map[int]*StrikePad, len(t.Pads))
	for i := range t.Pads {
		pads[t.Pads[i].Note] = &t.Pads[i]
	}
	pass := Pass{LengthS: music.Seconds(float64(p.LengthTicks()), bpm), Cues: []Cue{}, Turns: []Turn{}, Strokes: []Stroke{}, Whens: []string{}}
	whens := map[string]int{"": 0}
	for _, h := range p.Hits {
		if muted != nil && muted(h.Note) {
			continue
		}
		sounded := false
		for _, at := range p.soundings(h, f.Humanise.Seed) {
			when, ok := whens[at.when]
			if !ok {
				pass.Whens = append(pass.Whens, at.when)
				when = len(pass.Whens)
				whens[at.when] = when
			}
			sounded = pass.add(p.Pattern, h, at.tick, when, f, bpm, pads[h.Note]) || sounded
		}
		if !sounded {
			pass.Silent++
		}
	}
	sort.SliceStable(pass.Strokes, func(i, j int) bool { return pass.Strokes[i].AtS < pass.Strokes[j].AtS })
	sort.SliceStable(pass.Cues, func(i, j int) bool { return pass.Cues[i].AtS < pass.Cues[j].AtS })
	pass.takeTurns(pads)
	return pass
}

// add finds what a hit of a pattern sounds when it is played at a tick, and reports whether a layer does.
func (pass *Pass) add(p pattern.Pattern, h pattern.Hit, tick, when int, f feel.Feel, bpm float64, pad *StrikePad) (sounded bool) {
	strokes, swungCell := felt(p, h, tick, f, bpm)
	length := float64(h.Length)
	if length == 0 {
		length = swungCell
	}
	lengthS := music.Seconds(length/float64(max(1, h.Split)), bpm)
	if pad == nil {
		pad = &StrikePad{Note: h.Note}
	}
	if h.Tune != 0 {
		pad = pass.tunedPad(pad, h.Tune)
	}
	for _, s := range strokes {
		atS := music.Seconds(s.tick, bpm)
		pass.Strokes = append(pass.Strokes, Stroke{atS, lengthS, h.Note, s.velocity, h.Tick, when})
		hold := 0.0
		if pad.Held {
			hold = lengthS
		}
		for i := range pad.Layers {
			if c, ok := pad.strike(i, s.velocity); ok {
				c.AtS, c.Tick, c.HoldS, c.When = atS, h.Tick, hold, when
				c.Pan, c.Tune = float64(h.Pan), h.Tune
				c.panned()
				c.Turn = -1 - i // which sound; numbered later, once the cues are in time order
				pass.Cues = append(pass.Cues, c)
				sounded = true
			}
		}
	}
	return sounded
}

// tunedPad is a pad as a hit with a tune of its own strikes it; its voices are counted among the pass's.
func (pass *Pass) tunedPad(pad *StrikePad, cents int) *StrikePad {
	out := *pad
	out.Layers = make([]StrikeLayer, len(pad.Layers))
	for i, l := range pad.Layers {
		out.Layers[i] = l.tuned(cents)
		for _, t := range out.Layers[i].Takes {
			if !slices.ContainsFunc(pass.Tuned, func(v VoiceSpec) bool { return v.ID() == t.Voice }) {
				pass.Tuned = append(pass.Tuned, t.Spec)
			}
		}
	}
	return &out
}

// takeTurns numbers the strokes of the sounds that have several takes, in the order they sound.
func (p *Pass) takeTurns(pads map[int]*StrikePad) {
	type key struct{ note, sound, tune int }
	number := map[key]int{}
	for i := range p.Cues {
		c := &p.Cues[i]
		k := key{c.Note, -1 - c.Turn, c.Tune}
		l := pads[c.Note].Layers[k.sound]
		c.Turn = 0
		if len(l.Takes) < 2 {
			continue
		}
		if number[k] == 0 {
			p.Turns = append(p.Turns, Turn{Takes: l.tuned(k.tune).Takes, Order: l.Order})
			number[k] = len(p.Turns)
		}
		c.Turn = number[k]
		t := &p.Turns[c.Turn-1]
		c.Stroke = t.Strokes
		t.Strokes++
	}
	for i, c := range p.Cues {
		if c.Turn > 0 {
			p.Cues[i] = p.Take(c, 0)
		}
	}
}

// strike is the cue, at time 0, of a strike's sound i; false when it does not sound at that velocity.
func (p *StrikePad) strike(i, velocity int) (Cue, bool) {
	l := &p.Layers[i]
	if velocity < l.Lo || velocity > l.Hi {
		return Cue{}, false
	}
	g := p.Gains[velocity] * l.at(velocity)
	take := l.Takes[l.Order[0]]
	return Cue{Voice: take.Voice, Left: take.Left * g, Right: take.Right * g, Gain: g, Note: p.Note, Velocity: velocity,
		Layer: l.Layer, Choke: p.Choke, CutBy: p.CutBy, SelfChoke: p.SelfChoke, ReleaseS: l.ReleaseS}, true
}

// RecordingNote is the note of the cue that sounds a recording itself; no pad has it.
const RecordingNote = -1

// ClickNote is the note of the cues that click; no pad has it.
const ClickNote = -3

// WithRecording adds a cue that sounds a recording's voice from the pass's start at full level in both
// channels; the next pass cuts it.
func (p Pass) WithRecording(voice string) Pass {
	cue := Cue{Voice: voice, Left: 1, Right: 1, Gain: 1, Note: RecordingNote, Velocity: 127, SelfChoke: true, ReleaseS: ChokeFadeS}
	p.Cues = append([]Cue{cue}, p.Cues...)
	sort.SliceStable(p.Cues, func(i, j int) bool { return p.Cues[i].AtS < p.Cues[j].AtS })
	return p
}
