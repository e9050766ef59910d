// Package kit describes what sounds: pads with velocity layers, choke groups, pan, level and tune.
package kit

import (
	"errors"
	"fmt"
	"math"
)

// Layer is one sound of a pad, sounding for Lo ≤ velocity ≤ Hi.
type Layer struct {
	Lo     int    `json:"lo" minimum:"1" maximum:"127"`
	Hi     int    `json:"hi" minimum:"1" maximum:"127"`
	Sample string `json:"sample"` // SHA-256 of the audio, hexadecimal
	Source string `json:"source"` // the file name the audio came with

	StartFrame int     `json:"startFrame"` // first frame of the region, in the sample's own frames
	EndFrame   int     `json:"endFrame"`   // frame after the region's last; 0 = the sample's end
	LevelDB    float64 `json:"levelDB"`    // −60..+12
	Semitones  float64 `json:"semitones"`  // tune, −48..+48, cents after the point
}

// Pad is what one note sounds like.
type Pad struct {
	Note   int     `json:"note" minimum:"0" maximum:"127"`
	Layers []Layer `json:"layers"`

	LevelDB   float64 `json:"levelDB"`   // −60..+12
	Pan       float64 `json:"pan"`       // −1 left .. +1 right
	Semitones float64 `json:"semitones"` // added to each layer's tune
	// Held stops the sound on note-off, through ReleaseMS; otherwise the pad is one-shot and
	// plays to the end of its region.
	Held      bool    `json:"held"`
	ReleaseMS float64 `json:"releaseMS"`
	// Choke is the choke group, 1..16; 0 is none. SelfChoke cuts the pad's own last stroke too.
	Choke     int  `json:"choke" minimum:"0" maximum:"16"`
	SelfChoke bool `json:"selfChoke"`
	// VelTrack is the velocity tracking, 0..100 %: how much of the velocity curve is heard.
	VelTrack float64 `json:"velTrack" minimum:"0" maximum:"100"`
}

// Kit is a set of pads.
type Kit struct {
	Name string `json:"name"`
	Pads []Pad  `json:"pads"`
}

// ErrKit is wrapped by every fault Check finds.
var ErrKit = errors.New("the kit cannot be used")

// Check reports values outside their ranges and notes used by two pads.
func (k Kit) Check() error {
	seen := map[int]bool{}
	for _, p := range k.Pads {
		at := fmt.Sprintf("the pad on note %d", p.Note)
		inRange := func(what string, v, lo, hi float64) error {
			if !(v >= lo && v <= hi) {
				return fmt.Errorf("%w: %s of %s is %g, it must lie between %g and %g", ErrKit, what, at, v, lo, hi)
			}
			return nil
		}
		if p.Note < 0 || p.Note > 127 {
			return fmt.Errorf("%w: note %d is not between 0 and 127", ErrKit, p.Note)
		}
		if seen[p.Note] {
			return fmt.Errorf("%w: two pads on note %d", ErrKit, p.Note)
		}
		seen[p.Note] = true
		if err := errors.Join(inRange("level", p.LevelDB, -60, 12), inRange("pan", p.Pan, -1, 1),
			inRange("tune", p.Semitones, -48, 48), inRange("velocity tracking", p.VelTrack, 0, 100),
			inRange("choke group", float64(p.Choke), 0, 16), inRange("release", p.ReleaseMS, 0, 20000)); err != nil {
			return err
		}
		for i, l := range p.Layers {
			if l.Lo < 1 || l.Hi > 127 || l.Lo > l.Hi {
				return fmt.Errorf("%w: layer %d of %s goes from %d to %d; velocities go from 1 to 127", ErrKit, i+1, at, l.Lo, l.Hi)
			}
			if l.StartFrame < 0 || (l.EndFrame != 0 && l.EndFrame <= l.StartFrame) {
				return fmt.Errorf("%w: layer %d of %s has an empty region", ErrKit, i+1, at)
			}
			if err := errors.Join(inRange("layer level", l.LevelDB, -60, 12), inRange("layer tune", l.Semitones, -48, 48)); err != nil {
				return err
			}
		}
	}
	return nil
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

// DBToGain converts decibels to a linear amplitude factor: 10^(dB/20).
func DBToGain(db float64) float64 { return math.Pow(10, db/20) }

// VelocityGain is the amplitude of a stroke: (v/127)², i.e. 40·log10(v/127) dB (the SFZ
// amp_veltrack = 100 curve and the DLS/GM2 recommendation), scaled in decibels by trackPct 0..100.
func VelocityGain(velocity int, trackPct float64) float64 {
	return math.Pow(float64(velocity)/127, 2*trackPct/100)
}

// PanGains are the left and right factors of an equal-power pan, −3 dB each in the centre; pan −1..+1.
func PanGains(pan float64) (left, right float64) {
	a := (pan + 1) * math.Pi / 4
	return math.Cos(a), math.Sin(a)
}
