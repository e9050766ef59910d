package hear

import (
	"errors"
	"fmt"
	"math"
	"sort"
)

// The states of a hit: as it was heard, kept by the person, or taken out (it stays, to come back).
const (
	Heard = ""
	Kept  = "kept"
	Out   = "out"
)

// Doubtful reports whether nobody is sure of the hit yet.
func (h Hit) Doubtful() bool { return h.State == Heard && h.Confidence < Doubtful }

// Sounds reports whether the hit is played and kept as part of a pattern.
func (h Hit) Sounds() bool { return h.State != Out }

// Edit is a change of what was heard, as a value.
type Edit struct {
	// keep, out, back (as heard), other (the other drum that fits), lane (to Lane), velocity (to Velocity), louder (by Velocity, each
	// from where it is), clean (by Clean), move (by ByS seconds, and to Lane when that is given), add (what Add says).
	Op       string  `json:"op" enum:"keep,out,back,other,lane,velocity,louder,clean,move,add" required:"true"`
	Hits     []int   `json:"hits" required:"true"` // their places in the list; none with clean = all that sound
	Lane     int     `json:"lane,omitempty"`       // note of a lane
	Velocity int     `json:"velocity,omitempty"`
	Clean    *Clean  `json:"clean,omitempty"`
	ByS      float64 `json:"byS,omitempty" minimum:"-3600" maximum:"3600"`
	ToLane   *int    `json:"toLane,omitempty" minimum:"0" maximum:"127"` // note of the lane that moved hits go to
	Add      []Added `json:"add,omitempty" maxItems:"1000"`
}

// Added is a hit that a person heard and the bench did not.
type Added struct {
	TimeS    float64 `json:"time" minimum:"0" maximum:"3600"`
	Lane     int     `json:"lane" minimum:"0" maximum:"127"` // its note
	Velocity int     `json:"velocity" minimum:"1" maximum:"127"`
	Note     int     `json:"-"` // General MIDI note of the lane's drum
}

// Clean is one action on many hits.
type Clean struct {
	// even: main strokes to Amount, those softer than Ghost left; set: all to Amount; soft: out if softer than Amount; close: out
	// if within Amount ms of a harder stroke of the lane.
	How    string  `json:"how" enum:"even,set,soft,close" required:"true"`
	Amount float64 `json:"amount" required:"true"`
	Ghost  int     `json:"ghost,omitempty"`
}

// ErrEdit is a change that cannot be made.
var ErrEdit = errors.New("the hits cannot be changed so")

// Apply returns the hearing after an edit. laneOf gives the note of each hit's lane.
func (h Hearing) Apply(e Edit, laneOf func(Hit) int) (Hearing, error) {
	hits := append([]Hit(nil), h.Hits...)
	which := e.Hits
	for _, i := range which {
		if i < 0 || i >= len(hits) {
			return h, fmt.Errorf("%w: there is no hit %d", ErrEdit, i+1)
		}
	}
	if len(which) == 0 && e.Op == "clean" {
		for i, hit := range hits {
			if hit.Sounds() {
				which = append(which, i)
			}
		}
	}
	if e.Op == "clean" {
		if err := clean(hits, which, e.Clean, laneOf); err != nil {
			return h, err
		}
		h.Hits = hits
		return h, nil
	}
	switch e.Op {
	case "add":
		for _, a := range e.Add {
			if !(a.TimeS >= 0) || a.Velocity < 1 || a.Velocity > 127 || a.Lane < 0 || a.Lane > 127 {
				return h, fmt.Errorf("%w: a hit lies in the recording, on a note from 0 to 127, and has a velocity from 1 to 127", ErrEdit)
			}
			lane := a.Lane
			hits = append(hits, Hit{TimeS: a.TimeS, Note: a.Note, Velocity: a.Velocity, Confidence: 1, State: Kept, Lane: &lane})
		}
		h.Hits = inTime(hits)
		return h, nil
	case "move":
		for _, i := range which {
			if from := hits[i].TimeS; hits[i].FromS == nil && e.ByS != 0 {
				hits[i].FromS = &from
			}
			hits[i].TimeS, hits[i].State = max(0, hits[i].TimeS+e.ByS), Kept
			if e.ToLane != nil {
				lane := *e.ToLane
				hits[i].Lane = &lane
			}
		}
		h.Hits = inTime(hits)
		return h, nil
	}
	for _, i := range which {
		hit := &hits[i]
		switch e.Op {
		case "keep":
			hit.State = Kept
		case "out":
			hit.State = Out
		case "back":
			hit.State = Heard
		case "other":
			if hit.Or == 0 {
				return h, fmt.Errorf("%w: no other drum comes near this one", ErrEdit)
			}
			hit.Note, hit.Or = hit.Or, hit.Note
			hit.Confidence, hit.OrConfidence = hit.OrConfidence, hit.Confidence
			hit.State, hit.Lane = Kept, nil
		case "lane":
			if e.Lane < 0 || e.Lane > 127 {
				return h, fmt.Errorf("%w: note %d is not between 0 and 127", ErrEdit, e.Lane)
			}
			lane := e.Lane
			hit.Lane, hit.State = &lane, Kept
		case "velocity":
			if e.Velocity < 1 || e.Velocity > 127 {
				return h, fmt.Errorf("%w: velocity %d is not between 1 and 127", ErrEdit, e.Velocity)
			}
			hit.Velocity, hit.Set = e.Velocity, true
		case "louder":
			hit.Velocity, hit.Set = min(127, max(1, hit.Velocity+min(127, max(-127, e.Velocity)))), true
		default:
			return h, fmt.Errorf("%w: %q is unknown", ErrEdit, e.Op)
		}
	}
	h.Hits = hits
	return h, nil
}

// inTime sorts hits by time, then note.
func inTime(hits []Hit) []Hit {
	sort.SliceStable(hits, func(i, j int) bool {
		if hits[i].TimeS != hits[j].TimeS {
			return hits[i].TimeS < hits[j].TimeS
		}
		return hits[i].Note < hits[j].Note
	})
	return hits
}

func clean(hits []Hit, which []int, c *Clean, laneOf func(Hit) int) error {
	if c == nil || !(c.Amount >= 0 && c.Amount <= 1000) {
		return fmt.Errorf("%w: say what is to be cleaned and by how much", ErrEdit)
	}
	velocity := min(127, max(1, int(math.Round(c.Amount))))
	switch c.How {
	case "even", "set":
		for _, i := range which {
			if c.How == "set" || hits[i].Velocity >= c.Ghost {
				hits[i].Velocity, hits[i].Set = velocity, true
			}
		}
	case "soft":
		for _, i := range which {
			if float64(hits[i].Velocity) < c.Amount {
				hits[i].State = Out
			}
		}
	case "close":
		for _, i := range tooClose(hits, which, c.Amount/1000, laneOf) {
			hits[i].State = Out
		}
	default:
		return fmt.Errorf("%w: %q is unknown", ErrEdit, c.How)
	}
	return nil
}

// tooClose are the hits within a gap of a harder one of their lane, so that of each crowd the hardest stays.
func tooClose(hits []Hit, which []int, gapS float64, laneOf func(Hit) int) (out []int) {
	byLane := map[int][]int{}
	for _, i := range which {
		if lane := laneOf(hits[i]); hits[i].Sounds() {
			byLane[lane] = append(byLane[lane], i)
		}
	}
	for _, of := range byLane {
		sort.Ints(of) // hits are in time
		hardest := make([]int, len(of))
		for at := range of {
			hardest[at] = at
		}
		sort.SliceStable(hardest, func(a, b int) bool { return hits[of[hardest[a]]].Velocity > hits[of[hardest[b]]].Velocity })
		stays := make([]bool, len(of))
		for _, at := range hardest {
			near := false
			for _, step := range []int{-1, 1} {
				for k := at + step; k >= 0 && k < len(of) && math.Abs(hits[of[at]].TimeS-hits[of[k]].TimeS) < gapS; k += step {
					near = near || stays[k]
				}
			}
			if stays[at] = !near; near {
				out = append(out, of[at])
			}
		}
	}
	sort.Ints(out)
	return out
}

// Proposal is a cleaning that is offered, with the hits it would take out.
type Proposal struct {
	Name  string `json:"name"`
	Words string `json:"words"`
	Hits  []int  `json:"hits"`
}

// Proposals are the usual faults of a heard break, each with the hits that show it: strokes of one lane too close to be
// two, very soft ones that are not snares (a snare's are ghosts), echoes right after a louder stroke of another drum in
// the same band, and doubtful ones far from every line.
func (h Hearing) Proposals(laneOf func(Hit) int) []Proposal {
	var all, soft, alone []int
	for i, hit := range h.Hits {
		if !hit.Sounds() || hit.State == Kept {
			continue
		}
		all = append(all, i)
		family, _ := Family(hit.Note)
		if hit.Velocity < 30 && family != FamilySnare && hit.Confidence < 0.9 {
			soft = append(soft, i)
		}
		if off := h.offGridS(hit.TimeS, 4); off > 0.035 && hit.Confidence < 0.8 {
			alone = append(alone, i)
		}
	}
	echo := []int{}
	for _, i := range all {
		hit := h.Hits[i]
		for j := i - 1; j >= 0 && hit.Confidence < 0.85 && hit.TimeS-h.Hits[j].TimeS < 0.012; j-- {
			if o := h.Hits[j]; o.Sounds() && hit.TimeS-o.TimeS > 0.0005 && o.Velocity > hit.Velocity {
				echo = append(echo, i)
				break
			}
		}
	}
	list := func(of []int) []int { return append([]int{}, of...) }
	return []Proposal{
		{"Too close together", "within 45 ms of a harder stroke of the lane", list(tooClose(h.Hits, all, 0.045, laneOf))},
		{"Very soft", "under velocity 30, snares kept", list(soft)},
		{"Echo of a louder drum", "within 12 ms after it", list(echo)},
		{"Alone off the grid", "35 ms and more from any sixteenth, and not sure", list(alone)},
	}
}

// offGridS is how far a time lies from the nearest cell line, with so many cells a beat.
func (h Hearing) offGridS(timeS float64, cells int) float64 {
	cell := float64(h.Meter.BeatTicks()) / float64(cells)
	tick := h.TickAt(timeS)
	off := tick - math.Round(tick/cell)*cell
	return math.Abs(off) * (h.TimeAt(tick+1) - h.TimeAt(tick))
}
