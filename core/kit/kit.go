// Package kit describes what sounds: pads with velocity layers, stacked sounds, takes that sound in turn, and how
// each is shaped; choke groups, pan, level and tune.
package kit

import (
	"errors"
	"fmt"
	"math"
	"slices"
)

// Shape says which part of a sample sounds and how; the sample itself is never changed.
type Shape struct {
	StartFrame int     `json:"startFrame"` // first frame of the region, in the sample's own frames
	EndFrame   int     `json:"endFrame"`   // frame after the region's last; 0 = the sample's end
	Reverse    bool    `json:"reverse"`    // the region sounds from its end to its start
	GainDB     float64 `json:"gainDB"`     // −60..+48, on top of the sound's level
	FadeInMS   float64 `json:"fadeInMS"`   // 0..20000
	FadeOutMS  float64 `json:"fadeOutMS"`
	Curve      Curve   `json:"curve" enum:"straight,falling,round"` // of the fade out
	// Loop repeats LoopStart ≤ frame < LoopEnd (of the sample; 0 = the region's end) for as long as a held pad
	// is held. A one-shot pad plays its region once.
	Loop      bool `json:"loop"`
	LoopStart int  `json:"loopStart"`
	LoopEnd   int  `json:"loopEnd"`
	// The envelope: up in AttackMS, down to SustainPct of full amplitude in DecayMS (both straight lines in
	// amplitude), and on letting go of a held pad down to silence in ReleaseMS.
	AttackMS   float64 `json:"attackMS"`
	DecayMS    float64 `json:"decayMS"`
	SustainPct float64 `json:"sustainPct" minimum:"0" maximum:"100"`
	ReleaseMS  float64 `json:"releaseMS"`
	// What is drawn over the region's time, on top of all the above: level in dB (SilenceDB..+12), pan (−1..+1, added), tune in
	// semitones (−24..+24, added).
	Level Drawn `json:"level,omitempty" maxItems:"64"`
	Pan   Drawn `json:"pan,omitempty" maxItems:"64"`
	Tune  Drawn `json:"tune,omitempty" maxItems:"64"`
}

// Curve is how a fade out falls.
type Curve string

// The curves: a straight line, fast at first (squared), slow at first (quarter of a cosine).
const (
	Straight Curve = "straight"
	Falling  Curve = "falling"
	Round    Curve = "round"
)

// Whole is the shape of a sample that sounds as it is.
func Whole() Shape { return Shape{Curve: Straight, SustainPct: 100} }

// Take is one recording of a stroke.
type Take struct {
	Sample string `json:"sample"` // SHA-256 of the audio, hexadecimal
	Source string `json:"source"` // the file name the audio came with
	Shape  Shape  `json:"shape"`
}

// Sound is one of a layer's stacked sounds: its takes sound in turn.
type Sound struct {
	Label     string  `json:"label"` // what it is for ("transient", "body"); may be empty
	Off       bool    `json:"off"`
	LevelDB   float64 `json:"levelDB"`   // −60..+12
	Pan       float64 `json:"pan"`       // −1..+1, added to the pad's
	Semitones float64 `json:"semitones"` // tune, −48..+48, cents after the point, added to the pad's
	Takes     []Take  `json:"takes"`
}

// Layer is what sounds for Lo ≤ velocity ≤ Hi: its sounds all together.
type Layer struct {
	Lo     int     `json:"lo" minimum:"1" maximum:"127"`
	Hi     int     `json:"hi" minimum:"1" maximum:"127"`
	Order  Order   `json:"order" enum:"turn,random"`
	Sounds []Sound `json:"sounds"`
}

// Order is how a sound's takes follow each other.
type Order string

// Takes in turn, or at random without the same one twice running.
const (
	InTurn Order = "turn"
	Random Order = "random"
)

// NewLayer is a layer of one sound.
func NewLayer(lo, hi int, takes ...Take) Layer {
	return Layer{Lo: lo, Hi: hi, Order: InTurn, Sounds: []Sound{{Takes: takes}}}
}

// Pad is what one note sounds like.
type Pad struct {
	Note   int     `json:"note" minimum:"0" maximum:"127"`
	Layers []Layer `json:"layers"` // softest first

	LevelDB   float64 `json:"levelDB"`   // −60..+12
	Pan       float64 `json:"pan"`       // −1 left .. +1 right
	Semitones float64 `json:"semitones"` // −48..+48
	// Held stops the sound on note-off, through the release of its shape; otherwise the pad is one-shot and
	// plays to the end of its region.
	Held bool `json:"held"`
	// Choke is the choke group, 1..16; 0 is none. SelfChoke cuts the pad's own last stroke too.
	Choke int `json:"choke" minimum:"0" maximum:"16"`
	// CutBy is the choke group whose strokes cut this pad, when that is another than its own; 0 is its own.
	CutBy     int  `json:"cutBy" minimum:"0" maximum:"16"`
	SelfChoke bool `json:"selfChoke"`
	// VelTrack is the velocity tracking, 0..100 %: how much of the velocity curve is heard.
	VelTrack float64 `json:"velTrack" minimum:"0" maximum:"100"`
	// Crossfade blends layers where they overlap, at equal power, from the one that began lower to the other.
	Crossfade bool `json:"crossfade"`
}

// NewPad is a pad without sounds.
func NewPad(note int) Pad { return Pad{Note: note, Layers: []Layer{}, VelTrack: 100} }

// Kit is a set of pads.
type Kit struct {
	Name string `json:"name"`
	Pads []Pad  `json:"pads"`
}

// The most a kit can hold.
const (
	MaxLayers = 32 // of a pad
	MaxSounds = 8  // of a layer
	MaxTakes  = 32 // of a sound
)

// ErrKit is wrapped by every fault Check finds.
var ErrKit = errors.New("the kit cannot be used")

type bound struct {
	what      string
	v, lo, hi float64
}

func within(at string, bounds ...bound) error {
	for _, b := range bounds {
		if !(b.v >= b.lo && b.v <= b.hi) {
			return fmt.Errorf("%w: %s of %s is %g, it must lie between %g and %g", ErrKit, b.what, at, b.v, b.lo, b.hi)
		}
	}
	return nil
}

// Check reports values outside their ranges and notes used by two pads.
func (k Kit) Check() error {
	seen := map[int]bool{}
	for _, p := range k.Pads {
		if p.Note < 0 || p.Note > 127 {
			return fmt.Errorf("%w: note %d is not between 0 and 127", ErrKit, p.Note)
		}
		if seen[p.Note] {
			return fmt.Errorf("%w: two pads on note %d", ErrKit, p.Note)
		}
		seen[p.Note] = true
		if err := p.check(); err != nil {
			return err
		}
	}
	return nil
}

func (p Pad) check() error {
	at := fmt.Sprintf("the pad on note %d", p.Note)
	if err := within(at, bound{"level", p.LevelDB, -60, 12}, bound{"pan", p.Pan, -1, 1}, bound{"tune", p.Semitones, -48, 48},
		bound{"velocity tracking", p.VelTrack, 0, 100}, bound{"choke group", float64(p.Choke), 0, 16}, bound{"cutting choke group", float64(p.CutBy), 0, 16},
		bound{"number of layers", float64(len(p.Layers)), 0, MaxLayers}); err != nil {
		return err
	}
	for i, l := range p.Layers {
		if l.Lo < 1 || l.Hi > 127 || l.Lo > l.Hi {
			return fmt.Errorf("%w: layer %d of %s goes from %d to %d; velocities go from 1 to 127", ErrKit, i+1, at, l.Lo, l.Hi)
		}
		if l.Order != InTurn && l.Order != Random {
			return fmt.Errorf("%w: layer %d of %s has the unknown order %q", ErrKit, i+1, at, l.Order)
		}
		in := fmt.Sprintf("layer %d of %s", i+1, at)
		if err := within(in, bound{"number of sounds", float64(len(l.Sounds)), 1, MaxSounds}); err != nil {
			return err
		}
		for _, s := range l.Sounds {
			if err := within(in, bound{"level", s.LevelDB, -60, 12}, bound{"pan", s.Pan, -1, 1}, bound{"tune", s.Semitones, -48, 48},
				bound{"number of takes", float64(len(s.Takes)), 1, MaxTakes}); err != nil {
				return err
			}
			for _, t := range s.Takes {
				if err := t.Shape.check(in); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func (s Shape) check(in string) error {
	switch {
	case s.StartFrame < 0 || s.EndFrame < 0 || (s.EndFrame != 0 && s.EndFrame <= s.StartFrame):
		return fmt.Errorf("%w: %s has an empty region (frames %d to %d)", ErrKit, in, s.StartFrame, s.EndFrame)
	case s.Loop && (s.LoopStart < s.StartFrame || s.LoopEnd != 0 && s.LoopEnd <= s.LoopStart || s.EndFrame != 0 && s.LoopEnd > s.EndFrame):
		return fmt.Errorf("%w: %s has a loop outside its region (frames %d to %d)", ErrKit, in, s.LoopStart, s.LoopEnd)
	case s.Curve != Straight && s.Curve != Falling && s.Curve != Round:
		return fmt.Errorf("%w: %s has the unknown fade curve %q", ErrKit, in, s.Curve)
	}
	if err := errors.Join(s.Level.check(in, "level", SilenceDB, 12), s.Pan.check(in, "pan", -1, 1), s.Tune.check(in, "tune", -24, 24)); err != nil {
		return err
	}
	const longest = 20_000
	return within(in, bound{"gain", s.GainDB, -60, 48}, bound{"fade in", s.FadeInMS, 0, longest}, bound{"fade out", s.FadeOutMS, 0, longest},
		bound{"attack", s.AttackMS, 0, longest}, bound{"decay", s.DecayMS, 0, longest}, bound{"release", s.ReleaseMS, 0, longest},
		bound{"sustain", s.SustainPct, 0, 100})
}

// Pad finds the pad of a note.
func (k Kit) Pad(note int) (Pad, bool) {
	for _, p := range k.Pads {
		if p.Note == note {
			return p, true
		}
	}
	return Pad{}, false
}

// Put is the kit with a pad put in (or in place of the one on its note); k is left as it was. Pads stay in the order
// of their notes.
func (k Kit) Put(p Pad) Kit {
	pads := slices.DeleteFunc(slices.Clone(k.Pads), func(o Pad) bool { return o.Note == p.Note })
	pads = append(pads, p)
	slices.SortFunc(pads, func(a, b Pad) int { return a.Note - b.Note })
	k.Pads = pads
	return k
}

// Without is the kit without the pad on a note.
func (k Kit) Without(note int) Kit {
	k.Pads = slices.DeleteFunc(slices.Clone(k.Pads), func(p Pad) bool { return p.Note == note })
	return k
}

// WithSounds is the kit without pads that have no layers.
func (k Kit) WithSounds() Kit {
	k.Pads = slices.DeleteFunc(slices.Clone(k.Pads), func(p Pad) bool { return len(p.Layers) == 0 })
	return k
}

// Samples lists the distinct samples the kit sounds, in the order of its pads.
func (k Kit) Samples() []string {
	seen := map[string]bool{}
	var out []string
	for _, p := range k.Pads {
		for t := range p.Takes() {
			if !seen[t.Sample] {
				seen[t.Sample] = true
				out = append(out, t.Sample)
			}
		}
	}
	return out
}

// Takes yields every take of the pad, layer by layer; what is changed through it changes the pad.
func (p Pad) Takes() func(yield func(*Take) bool) {
	return func(yield func(*Take) bool) {
		for i := range p.Layers {
			for j := range p.Layers[i].Sounds {
				for k := range p.Layers[i].Sounds[j].Takes {
					if !yield(&p.Layers[i].Sounds[j].Takes[k]) {
						return
					}
				}
			}
		}
	}
}

// Only is the pad with the takes that keep accepts, without sounds and layers left empty; missing counts the others.
func (p Pad) Only(keep func(Take) bool) (kept Pad, missing int) {
	kept = p.Clone()
	for i := range kept.Layers {
		for j := range kept.Layers[i].Sounds {
			s := &kept.Layers[i].Sounds[j]
			n := len(s.Takes)
			s.Takes = slices.DeleteFunc(s.Takes, func(t Take) bool { return !keep(t) })
			missing += n - len(s.Takes)
		}
		kept.Layers[i].Sounds = slices.DeleteFunc(kept.Layers[i].Sounds, func(s Sound) bool { return len(s.Takes) == 0 })
	}
	kept.Layers = slices.DeleteFunc(kept.Layers, func(l Layer) bool { return len(l.Sounds) == 0 })
	return kept, missing
}

// Clone copies the pad with all it holds.
func (p Pad) Clone() Pad {
	p.Layers = slices.Clone(p.Layers)
	for i := range p.Layers {
		p.Layers[i].Sounds = slices.Clone(p.Layers[i].Sounds)
		for j := range p.Layers[i].Sounds {
			p.Layers[i].Sounds[j].Takes = slices.Clone(p.Layers[i].Sounds[j].Takes)
		}
	}
	return p
}

// LayersAt lists the indexes of the layers that sound at velocity.
func (p Pad) LayersAt(velocity int) []int {
	var out []int
	for i, l := range p.Layers {
		if velocity >= l.Lo && velocity <= l.Hi {
			out = append(out, i)
		}
	}
	return out
}

// LayerGain is how loud layer i is at velocity beside the others: 1, or where a wanted overlap crossfades, its share
// at equal power; 0 outside its range.
func (p Pad) LayerGain(i, velocity int) float64 {
	l := p.Layers[i]
	if velocity < l.Lo || velocity > l.Hi {
		return 0
	}
	g := 1.0
	if !p.Crossfade {
		return g
	}
	for j, o := range p.Layers {
		lo, hi := max(l.Lo, o.Lo), min(l.Hi, o.Hi)
		if j == i || velocity < lo || velocity > hi {
			continue
		}
		x := (float64(velocity-lo) + 0.5) / float64(hi-lo+1)
		if lower := l.Lo < o.Lo || l.Lo == o.Lo && i < j; lower {
			g *= math.Cos(x * math.Pi / 2)
		} else {
			g *= math.Sin(x * math.Pi / 2)
		}
	}
	return g
}

// Ladder reports the velocities that no layer covers and those that more than one covers.
func (p Pad) Ladder() (gaps, overlaps []Range) {
	count := [129]int{}
	for _, l := range p.Layers {
		for v := max(1, l.Lo); v <= min(127, l.Hi); v++ {
			count[v]++
		}
	}
	runs := func(in func(int) bool) (out []Range) {
		for v := 1; v <= 127; v++ {
			if !in(count[v]) {
				continue
			}
			if n := len(out); n > 0 && out[n-1].Hi == v-1 {
				out[n-1].Hi = v
			} else {
				out = append(out, Range{v, v})
			}
		}
		return out
	}
	return runs(func(c int) bool { return c == 0 }), runs(func(c int) bool { return c > 1 })
}

// Range is a run of velocities, both ends included.
type Range struct {
	Lo int `json:"lo"`
	Hi int `json:"hi"`
}

// EvenRanges splits 1..127 into n ranges with no gap and no overlap whose sizes differ by at most one.
func EvenRanges(n int) []Range {
	out := make([]Range, 0, n)
	lo := 1
	for i := range n {
		size := 127 / n
		if i < 127%n {
			size++
		}
		out = append(out, Range{lo, lo + size - 1})
		lo += size
	}
	return out
}

// DBToGain converts decibels to a linear amplitude factor: 10^(dB/20).
func DBToGain(db float64) float64 { return math.Pow(10, db/20) }

// VelocityGain is the amplitude of a stroke: (v/127)², i.e. 40·log10(v/127) dB (the SFZ
// amp_veltrack = 100 curve and the DLS/GM2 recommendation), scaled in decibels by trackPct 0..100.
func VelocityGain(velocity int, trackPct float64) float64 {
	return math.Pow(float64(velocity)/127, 2*trackPct/100)
}

// PanGains are the left and right factors of an equal-power pan, −3 dB each in the centre; pan is kept to −1..+1.
func PanGains(pan float64) (left, right float64) {
	a := (max(-1, min(1, pan)) + 1) * math.Pi / 4
	return math.Cos(a), math.Sin(a)
}
