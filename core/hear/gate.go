package hear

import (
	"errors"
	"fmt"
	"math"
	"sort"

	"hexachord/core/sound"
)

// Listener is how one lane hears by itself: the level of its band opens a gate above one threshold and closes it below
// another (hysteresis); within the gap after a hit no second one is made.
type Listener struct {
	LoHz    float64 `json:"loHz" minimum:"0" maximum:"20000"`
	HiHz    float64 `json:"hiHz" minimum:"0" maximum:"20000"`
	OpenDB  float64 `json:"openDB" minimum:"-90" maximum:"0"` // under the band's loudest moment
	CloseDB float64 `json:"closeDB" minimum:"-90" maximum:"0"`
	GapMS   float64 `json:"gapMS" minimum:"0" maximum:"2000"`
	Off     bool    `json:"off"` // hears nothing
}

// ErrListener is a listener that cannot hear.
var ErrListener = errors.New("the listener cannot hear so")

// Check reports ErrListener.
func (l Listener) Check() error {
	switch {
	case !(l.LoHz >= 20 && l.HiHz <= 20000 && l.HiHz >= l.LoHz*1.1):
		return fmt.Errorf("%w: its band must lie between 20 and 20,000 Hz, its upper end above its lower, not %g to %g", ErrListener, l.LoHz, l.HiHz)
	case !(l.OpenDB >= -90 && l.OpenDB <= 0 && l.CloseDB >= -90 && l.CloseDB <= l.OpenDB):
		return fmt.Errorf("%w: it opens at −90 to 0 dB and closes at that or lower, not %g and %g", ErrListener, l.OpenDB, l.CloseDB)
	case !(l.GapMS >= 0 && l.GapMS <= 2000):
		return fmt.Errorf("%w: its gap is 0 to 2,000 ms, not %g", ErrListener, l.GapMS)
	}
	return nil
}

// familyBand is where a family's energy is strongest and least mixed with others'.
var familyBand = [families][2]float64{{40, 130}, {180, 2400}, {6000, 14000}, {80, 260}, {3000, 12000}, {4000, 14000}}

// BandFor is the band in which a drum is listened for first.
func BandFor(gmNote int) (loHz, hiHz float64) {
	f, _ := Family(gmNote)
	if f < 0 {
		return 300, 4000
	}
	return familyBand[f][0], familyBand[f][1]
}

// levelRate is how many levels a second a band is measured by.
const levelRate = 1000

// Levels is a band of a recording, a thousand times a second, in dB under its loudest moment.
type Levels struct {
	DB      []float32
	attacks []float32 // the band itself, rectified, at the recording's rate, for exact times
	rate    int
	lateS   float64 // how late the filters make it
}

// LevelsOf measures a band.
func LevelsOf(mono []float32, rate int, loHz, hiHz float64) Levels {
	filters := bandFilters(loHz, hiHz, rate)
	// as fast as the band allows: two periods of its lower end up, 30 ms down
	rise := 1 - math.Exp(-1/(math.Max(0.001, 0.3/loHz)*float64(rate)))
	fall := 1 - math.Exp(-1/(0.03*float64(rate)))
	n := len(mono) * levelRate / max(1, rate)
	out := Levels{DB: make([]float32, n), attacks: make([]float32, len(mono)), rate: rate,
		lateS: math.Sqrt2 / (math.Pi * hiHz)} // delay of two Butterworth low passes below their corner: √2/(2πf) each
	level, peak := 0.0, 1e-9
	k := 0
	top := 0.0
	for i, v := range mono {
		y := float64(v)
		for f := range filters {
			y = filters[f].Next(y)
		}
		y = math.Abs(y)
		out.attacks[i] = float32(y)
		if y > level {
			level += (y - level) * rise
		} else {
			level += (y - level) * fall
		}
		top = max(top, level)
		if (i+1)*levelRate/rate > k && k < n {
			out.DB[k] = float32(top)
			peak = max(peak, top)
			k, top = k+1, 0
		}
	}
	for i, v := range out.DB {
		out.DB[i] = float32(max(-90, 20*math.Log10(float64(v)/peak+1e-9)))
	}
	return out
}

// Strike is a hit a listener has made.
type Strike struct {
	TimeS   float64 `json:"time"`
	LevelDB float64 `json:"levelDB"` // under the band's loudest moment
}

// AgainDB is by how much the level rises again when a drum is struck while it rings.
const AgainDB = 10

// Strikes are what the listener hears.
func (l Listener) Strikes(v Levels) []Strike {
	if l.Off {
		return []Strike{}
	}
	out := []Strike{}
	open := false
	last := math.Inf(-1)
	lowest := float32(0) // since the last hit
	for i, db := range v.DB {
		t := float64(i) / levelRate
		lowest = min(lowest, db)
		// a stroke while the one before still rings rises again without having been let through the lower threshold
		again := open && db >= lowest+AgainDB
		switch {
		case (!open || again) && float64(db) >= l.OpenDB && t-last >= l.GapMS/1000:
			open = true
			at, top := v.attack(i)
			if n := len(out); n > 0 && at-out[n-1].TimeS < l.GapMS/1000 {
				continue
			}
			out = append(out, Strike{at, top})
			last, lowest = t, float32(top)
		case open && float64(db) < l.CloseDB:
			open = false
		}
	}
	return out
}

// attack finds where the stroke that opened the gate at a level begins, and how loud it gets: back from the peak that
// follows to a tenth of it.
func (v Levels) attack(at int) (timeS, topDB float64) {
	peakAt := at
	for i := at; i < min(len(v.DB), at+40); i++ {
		if v.DB[i] > v.DB[peakAt] {
			peakAt = i
		} else if i > peakAt+15 {
			break
		}
	}
	from, to := max(0, (at-25)*v.rate/levelRate), min(len(v.attacks), (peakAt+1)*v.rate/levelRate)
	top := float32(0)
	for _, y := range v.attacks[from:to] {
		top = max(top, y)
	}
	// the first moment of the last rise that leads to the peak
	begin := to
	quiet := 0
	for i := to - 1; i >= from; i-- {
		if v.attacks[i] >= top/10 {
			begin, quiet = i, 0
		} else if quiet++; quiet > v.rate/120 && begin < to {
			break
		}
	}
	return max(0, float64(min(begin, to-1))/float64(v.rate)-v.lateS), float64(v.DB[peakAt])
}

// Suggest proposes thresholds for a band from its levels: local peaks are split in two groups where their variance
// between groups is greatest (Otsu 1979), and the gate opens a third of the way up between them.
func (v Levels) Suggest() (openDB, closeDB float64) {
	var peaks []float64
	for i := 15; i < len(v.DB)-15; i++ {
		p := v.DB[i]
		if p < -60 || p < v.DB[i-1] || p < v.DB[i+1] {
			continue
		}
		top := true
		for j := i - 15; j <= i+15; j++ {
			top = top && v.DB[j] <= p
		}
		if top && p > v.DB[i-15]+3 {
			peaks = append(peaks, float64(p))
		}
	}
	if len(peaks) < 2 {
		return -18, -26
	}
	sort.Float64s(peaks)
	best, cut := -1.0, len(peaks)/2
	sum := 0.0
	total := 0.0
	for _, p := range peaks {
		total += p
	}
	for i := 1; i < len(peaks); i++ {
		sum += peaks[i-1]
		w0, w1 := float64(i), float64(len(peaks)-i)
		d := sum/w0 - (total-sum)/w1
		if between := w0 * w1 * d * d; between > best {
			best, cut = between, i
		}
	}
	lower, upper := peaks[cut-1], peaks[cut]
	openDB = math.Round(lower + (upper-lower)/3)
	if upper-lower < 3 && cut <= len(peaks)/4 { // one group: all of it
		openDB = math.Round(peaks[0] - 2)
	}
	openDB = min(-3, max(-60, openDB))
	return openDB, max(-90, openDB-8)
}

// Between proposes thresholds that let the strokes at some moments through and keep those at others out, as well as a level
// can: where the fewest are on the wrong side, in the middle of the room there. False when there is nothing to tell apart.
func (v Levels) Between(mineS, othersS []float64) (openDB, closeDB float64, ok bool) {
	type stroke struct {
		db   float64
		mine bool
	}
	var all []stroke
	add := func(times []float64, mine bool) {
		for _, t := range times {
			top := -90.0
			for i := max(0, int(t*levelRate)-5); i < min(len(v.DB), int(t*levelRate)+40); i++ {
				top = max(top, float64(v.DB[i]))
			}
			all = append(all, stroke{top, mine})
		}
	}
	add(mineS, true)
	add(othersS, false)
	if len(mineS) < 2 || len(othersS) == 0 {
		return 0, 0, false
	}
	sort.Slice(all, func(i, j int) bool { return all[i].db < all[j].db })
	wrong := len(othersS) // let everything through
	least, at := wrong, 0
	for i, s := range all {
		if s.mine {
			wrong++
		} else {
			wrong--
		}
		if wrong < least {
			least, at = wrong, i+1
		}
	}
	if at == 0 || at == len(all) {
		return 0, 0, false
	}
	openDB = math.Round((all[at-1].db + all[at].db) / 2)
	openDB = min(-1, max(-60, openDB))
	return openDB, max(-90, openDB-6), true
}

// SuggestFor proposes thresholds for a lane: those that best tell its sure hits from the other strokes that were heard, or,
// where nothing was heard of it, what the levels alone suggest.
func (v Levels) SuggestFor(lane int, hits []Hit, laneOf func(Hit) int) (openDB, closeDB float64) {
	var mine, others []float64
	for _, h := range hits {
		if laneOf(h) == lane && !h.Doubtful() {
			mine = append(mine, h.TimeS)
		}
	}
	i := 0
	for _, h := range hits { // both in time order
		for i < len(mine) && mine[i] < h.TimeS-0.05 {
			i++
		}
		if laneOf(h) != lane && (i == len(mine) || mine[i] > h.TimeS+0.05) {
			others = append(others, h.TimeS)
		}
	}
	if open, close, ok := v.Between(mine, others); ok {
		return open, close
	}
	return v.Suggest()
}

// Rehear gives a lane the hits its own listener makes, in place of those it had: where the first hearing had one near, its
// confidence stays; what only the listener hears is doubtful. What the person has kept, moved or taken out stays so.
func (h Hearing) Rehear(lane, gmNote int, strikes []Strike, laneOf func(Hit) int) Hearing {
	const nearS = 0.03
	top := -90.0
	for _, s := range strikes {
		top = max(top, s.LevelDB)
	}
	var hits, mine []Hit
	for _, hit := range h.Hits {
		if laneOf(hit) == lane {
			mine = append(mine, hit)
		} else {
			hits = append(hits, hit)
		}
	}
	for _, f := range h.First {
		if laneOf(f) == lane {
			mine = append(mine, f)
		}
	}
	for _, s := range strikes {
		hit := Hit{TimeS: s.TimeS, Note: gmNote, Velocity: min(127, max(2, int(math.Round(127*math.Pow(10, (s.LevelDB-top)/40))))), Confidence: 0.5}
		if laneOf(hit) != lane { // the note of its role leads elsewhere
			hit.Lane = &lane
		}
		for _, old := range mine {
			if math.Abs(old.TimeS-s.TimeS) < nearS {
				hit.Confidence, hit.Or, hit.OrConfidence, hit.State = max(hit.Confidence, old.Confidence), old.Or, old.OrConfidence, old.State
				break
			}
		}
		hits = append(hits, hit)
	}
	sortHits(hits)
	h.Hits = hits
	return h
}

// HeardFirst gives a lane back what the first hearing had for it.
func (h Hearing) HeardFirst(lane int, laneOf func(Hit) int) Hearing {
	var hits []Hit
	for _, hit := range h.Hits {
		if laneOf(hit) != lane {
			hits = append(hits, hit)
		}
	}
	for _, hit := range h.First {
		if laneOf(hit) == lane {
			hits = append(hits, hit)
		}
	}
	sortHits(hits)
	h.Hits = hits
	return h
}

func sortHits(hits []Hit) {
	sort.Slice(hits, func(i, j int) bool {
		if hits[i].TimeS != hits[j].TimeS {
			return hits[i].TimeS < hits[j].TimeS
		}
		return hits[i].Note < hits[j].Note
	})
}

// FamilyNames are the drums that can be heard alone, by family.
var FamilyNames = [families]string{"kick", "snare", "hat", "tom", "cymbal", "shaker"}

// Only is the hearing of one drum alone: the hits that were heard of its family, or (gated) those its listener makes in b,
// where band, thresholds and gap of zero are suggested.
func (h Hearing) Only(b sound.Buffer, name string, gated bool, l Listener) (Hearing, error) {
	family := -1
	for f, n := range FamilyNames {
		if n == name {
			family = f
		}
	}
	if family < 0 {
		return h, fmt.Errorf("%w: %q is not one of %v", ErrListener, name, FamilyNames)
	}
	of := func(hit Hit) int {
		f, _ := Family(hit.Note)
		return f
	}
	if gated {
		one, err := h.Channel.Of(b)
		if err != nil {
			return h, err
		}
		if l.LoHz == 0 && l.HiHz == 0 {
			l.LoHz, l.HiHz = familyBand[family][0], familyBand[family][1]
		}
		if err := (Listener{LoHz: l.LoHz, HiHz: l.HiHz, OpenDB: -1, CloseDB: -2}).Check(); err != nil {
			return h, err
		}
		v := LevelsOf(one.Channels[0], one.Rate, l.LoHz, l.HiHz)
		open, close := v.SuggestFor(family, h.Hits, of)
		if l.OpenDB == 0 {
			l.OpenDB = open
		}
		if l.CloseDB == 0 {
			l.CloseDB = min(close, l.OpenDB)
		}
		if l.GapMS == 0 {
			l.GapMS = 45
		}
		if err := l.Check(); err != nil {
			return h, err
		}
		h = h.Rehear(family, familyNote[family], l.Strikes(v), of)
	}
	var hits []Hit
	for _, hit := range h.Hits {
		if of(hit) == family {
			hits = append(hits, hit)
		}
	}
	h.Hits = hits
	return h, nil
}

// bandFilters leave what lies between two frequencies, with 24 dB an octave on either side.
func bandFilters(loHz, hiHz float64, rate int) []sound.Biquad {
	lo, hi := sound.HighPass(loHz, float64(rate)), sound.LowPass(min(hiHz, float64(rate)*0.45), float64(rate))
	return []sound.Biquad{lo, lo, hi, hi}
}

// BandOnly is a recording with one band alone.
func BandOnly(b sound.Buffer, loHz, hiHz float64) sound.Buffer {
	out := sound.New(b.Rate, len(b.Channels), b.Frames())
	for c, x := range b.Channels {
		filters := bandFilters(loHz, hiHz, b.Rate)
		for i, v := range x {
			y := float64(v)
			for f := range filters {
				y = filters[f].Next(y)
			}
			out.Channels[c][i] = float32(y)
		}
	}
	return out
}
