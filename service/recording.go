package service

import (
	"fmt"
	"math"
	"sort"

	"hexachord/core/hear"
	"hexachord/core/kind"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/play"
	"hexachord/core/project"
)

// RecordingOptions say how a recording is heard.
type RecordingOptions struct {
	Slow  float64    // how many times as long at the same pitch, 1..2; 0 is 1
	Click bool       // a click on every beat of its grid
	Band  [2]float64 // Hz; the recording's band alone, 0 0 is all of it
	Part  play.Part  // of the recording: its drums, or what is left
}

// RecordingPass finds what a recording's loop sounds: its hits on the kit at the times they were heard, started so that
// their attacks meet the recorded ones, and the recording itself from bar 1, as one more cue whose note is RecordingNote.
func (b *Bench) RecordingPass(p project.Project, r project.Recording, rate int, o RecordingOptions) (play.Pass, error) {
	if o.Slow == 0 {
		o.Slow = 1
	}
	if !(o.Slow >= 1 && o.Slow <= 2) {
		return play.Pass{}, fmt.Errorf("%w: it is slowed down to half speed at most", ErrInput)
	}
	t, err := b.Table(p.Kit, rate)
	if err != nil {
		return play.Pass{}, err
	}
	buf, err := b.Decode(r.Audio)
	if err != nil {
		return play.Pass{}, err
	}
	heard := r.Heard
	pt, err := p.HeardAsPattern(r)
	if err != nil {
		return play.Pass{}, err
	}
	lengthS := r.Heard.EndS() - r.Heard.BarOneS
	pt.Bars = int(lengthS/music.Seconds(float64(pt.Meter.BarTicks()), heard.BPM)) + 1
	pass := play.Cues(pt, p.Settings.Feel.Straightened(), heard.BPM, t, nil)
	pass.LengthS = lengthS
	flipped := map[int]bool{}
	for _, n := range r.Heard.Flipped {
		flipped[n] = true
	}
	leads := map[string]float64{}
	for i := range pass.Cues {
		c := &pass.Cues[i]
		lead, ok := leads[c.Voice]
		if !ok {
			v, err := b.Voice(c.Voice)
			if err != nil {
				return play.Pass{}, err
			}
			lead = float64(hear.AttackFrame(v.Buffer)) / float64(rate)
			leads[c.Voice] = lead
		}
		c.AtS = c.AtS*o.Slow - lead
		if flipped[c.Note] {
			c.Left, c.Right, c.Gain = -c.Left, -c.Right, -c.Gain
		}
	}
	for i := range pass.Strokes {
		pass.Strokes[i].AtS *= o.Slow
	}
	if o.Click {
		if err := b.addClicks(&pass, r.Heard, rate, o.Slow); err != nil {
			return play.Pass{}, err
		}
	}
	pass.LengthS *= o.Slow
	form := kit.Whole()
	form.StartFrame = int(r.Heard.BarOneS * float64(buf.Rate))
	form.EndFrame = min(buf.Frames(), int(r.Heard.EndS()*float64(buf.Rate)))
	spec := play.VoiceSpec{Sample: r.Audio, Form: form, Rate: rate, Band: o.Band, Part: o.Part}
	if o.Slow != 1 {
		spec.Stretch = o.Slow
	}
	if form.EndFrame <= form.StartFrame {
		return pass, nil
	}
	if err := b.remember(spec); err != nil {
		return play.Pass{}, err
	}
	return pass.WithRecording(spec.ID()), nil
}

// addClicks adds a click on every beat, higher on the first of a bar.
func (b *Bench) addClicks(pass *play.Pass, h hear.Hearing, rate int, slow float64) error {
	first, other := play.VoiceSpec{ClickHz: 1800, Rate: rate}, play.VoiceSpec{ClickHz: 1200, Rate: rate}
	if err := b.remember(first, other); err != nil {
		return err
	}
	beat := h.Meter.BeatTicks()
	for n := 0; n < h.Bars*h.Meter.Beats; n++ {
		id := other.ID()
		if n%h.Meter.Beats == 0 {
			id = first.ID()
		}
		pass.Cues = append(pass.Cues, play.Cue{AtS: (h.TimeAt(float64(n*beat)) - h.BarOneS) * slow, Voice: id, Left: 0.35, Right: 0.35, Gain: 0.5,
			Note: play.ClickNote, Velocity: 100})
	}
	sort.SliceStable(pass.Cues, func(i, j int) bool { return pass.Cues[i].AtS < pass.Cues[j].AtS })
	return nil
}

// Reinforced is what the kit does under one lane of a recording.
type Reinforced struct {
	Note    int  `json:"note"`
	Flipped bool `json:"flipped"`
	hear.Reinforcement
}

// Reinforce compares, lane by lane, the recording's low end with and without the kit's sounds. MatchDB is by how much the
// kit's hits alone are quieter (above 0) than the recording, as BS.1770 hears them.
func (b *Bench) Reinforce(p project.Project, r project.Recording) (lanes []Reinforced, matchDB float64, err error) {
	buf, err := b.Decode(r.Audio)
	if err != nil {
		return nil, 0, err
	}
	rate := min(MaxRate, max(MinRate, buf.Rate))
	pass, err := b.RecordingPass(p, r, rate, RecordingOptions{})
	if err != nil {
		return nil, 0, err
	}
	flipped := map[int]bool{}
	for _, n := range r.Heard.Flipped {
		flipped[n] = true
	}
	byLane := map[int][]play.Cue{}
	for _, c := range pass.Cues {
		if c.Note >= 0 {
			byLane[c.Note] = append(byLane[c.Note], c)
		}
	}
	lanes = []Reinforced{}
	for _, l := range p.Map.Lanes {
		cues := byLane[l.Note]
		if len(cues) == 0 {
			continue
		}
		sort.SliceStable(cues, func(i, j int) bool { return math.Abs(cues[i].Left) > math.Abs(cues[j].Left) })
		voice, err := b.Voice(cues[0].Voice)
		if err != nil {
			return nil, 0, err
		}
		lead := float64(hear.AttackFrame(voice.Buffer)) / float64(rate)
		var times, gains []float64
		for _, c := range cues {
			if c.Voice == cues[0].Voice && len(times) < 32 {
				times = append(times, r.Heard.BarOneS+c.AtS+lead)
				g := (c.Left + c.Right) / math.Sqrt2
				if flipped[l.Note] {
					g = -g // compared as if it were not turned over
				}
				gains = append(gains, g)
			}
		}
		rec := buf
		if buf.Rate != rate {
			rec = buf.Resample(rate, 1)
		}
		lanes = append(lanes, Reinforced{l.Note, flipped[l.Note], hear.Reinforce(rec, voice.Buffer, times, gains)})
	}
	layer, err := b.Layer(p, r, rate, nil)
	if err != nil {
		return nil, 0, err
	}
	return lanes, kind.Loudness(buf) - kind.Loudness(layer.All()), nil
}

// Compared is what a lane is heard by in the recording, and by how much the kit's strokes of that lane are quieter
// (above 0) than the recording in that band, as BS.1770 hears them.
type Compared struct {
	LoHz    float64 `json:"loHz"`
	HiHz    float64 `json:"hiHz"`
	MatchDB float64 `json:"matchDB"`
}

// Compare sets one lane's band of the recording, its listener's own or its drum's, against the kit's sound of that lane.
func (b *Bench) Compare(p project.Project, r project.Recording, note int) (Compared, error) {
	lane, ok := p.Map.ByNote(note)
	if !ok {
		return Compared{}, fmt.Errorf("%w: the map has no lane on note %d", ErrInput, note)
	}
	var c Compared
	c.LoHz, c.HiHz = r.BandOf(lane)
	buf, err := b.Decode(r.Audio)
	if err != nil {
		return Compared{}, err
	}
	layer, err := b.Layer(p, r, min(MaxRate, max(MinRate, buf.Rate)), []int{note})
	if err != nil {
		return Compared{}, err
	}
	sounding := layer.All()
	if sounding.Peak() == 0 {
		return Compared{}, fmt.Errorf("%w: no hit of this lane sounds on the kit; nothing to compare", ErrInput)
	}
	c.MatchDB = kind.Loudness(hear.BandOnly(buf, c.LoHz, c.HiHz)) - kind.Loudness(sounding)
	return c, nil
}

// Layer bounces the kit's hits alone, without the recording, aligned from the recording's first sample; lanes are those
// wanted, none = all.
func (b *Bench) Layer(p project.Project, r project.Recording, rate int, lanes []int) (*play.Bounce, error) {
	pass, voices, err := b.layer(p, r, rate, lanes)
	if err != nil {
		return nil, err
	}
	return play.NewBounce(pass, 1, rate, voices, play.TailRing)
}

// Blend is how loud the recording and the kit are together, dB.
type Blend struct{ RecordingDB, KitDB float64 }

// Together bounces the recording with the kit's hits under it, each at its level, from the recording's first sample.
func (b *Bench) Together(p project.Project, r project.Recording, rate int, lanes []int, blend Blend) (*play.Bounce, error) {
	pass, voices, err := b.layer(p, r, rate, lanes)
	if err != nil {
		return nil, err
	}
	audio, err := b.Decode(r.Audio)
	if err != nil {
		return nil, err
	}
	if audio.Rate != rate {
		audio = audio.Resample(rate, 1)
	}
	under, recording := kit.DBToGain(blend.KitDB), kit.DBToGain(blend.RecordingDB)
	for i := range pass.Cues {
		c := &pass.Cues[i]
		c.Left, c.Right, c.Gain = c.Left*under, c.Right*under, c.Gain*under
	}
	voices[r.Audio] = play.Voice{Buffer: audio}
	pass.Cues = append([]play.Cue{{Voice: r.Audio, Left: recording, Right: recording, Gain: recording, Note: play.RecordingNote}}, pass.Cues...)
	return play.NewBounce(pass, 1, rate, voices, play.TailRing)
}

// layer is the kit's hits under a recording as a pass that begins with the recording's first sample, and the voices it needs.
func (b *Bench) layer(p project.Project, r project.Recording, rate int, lanes []int) (play.Pass, map[string]play.Voice, error) {
	pass, err := b.RecordingPass(p, r, rate, RecordingOptions{})
	if err != nil {
		return pass, nil, err
	}
	wanted := map[int]bool{}
	for _, n := range lanes {
		wanted[n] = true
	}
	voices := map[string]play.Voice{}
	kept := pass.Cues[:0:0]
	for _, c := range pass.Cues {
		if c.Note < 0 || len(lanes) > 0 && !wanted[c.Note] {
			continue
		}
		for _, id := range append([]string{c.Voice}, takesOf(pass, c)...) {
			if _, ok := voices[id]; !ok {
				if voices[id], err = b.Voice(id); err != nil {
					return pass, nil, err
				}
			}
		}
		c.AtS += r.Heard.BarOneS
		kept = append(kept, c)
	}
	pass.Cues, pass.LengthS = kept, max(r.Seconds, r.Heard.EndS())
	return pass, voices, nil
}

func takesOf(pass play.Pass, c play.Cue) (ids []string) {
	if c.Turn > 0 {
		for _, t := range pass.Turns[c.Turn-1].Takes {
			ids = append(ids, t.Voice)
		}
	}
	return ids
}
