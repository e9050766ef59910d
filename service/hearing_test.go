package service

import (
	"errors"
	"math"
	"testing"

	"hexachord/core/hear"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/demo"
)

// heardBreak is the demo project with the demo's recording heard in it.
func heardBreak(t *testing.T) (*Bench, project.Project, project.Stored[project.Recording]) {
	t.Helper()
	b := open(t, t.TempDir())
	p := demoProject(t, b)
	file, _, err := demo.DeckBreak()
	if err != nil {
		t.Fatal(err)
	}
	if _, _, err := b.Hear(t.Context(), p.ID, file.Name, file.Data, "", hear.Options{}); err != nil {
		t.Fatal(err)
	}
	p = load(t, b, p.ID)
	return b, p, p.Recordings[0]
}

// The kit's sounds are started so that their attacks meet the recorded ones, in the pass and in the layer bounced alone,
// which is as long as the recording at least and aligned from its first sample.
func TestTheKitMeetsTheRecordedAttacks(t *testing.T) {
	b, p, r := heardBreak(t)
	const rate = 44100
	pass, err := b.RecordingPass(p, r.Value, rate, RecordingOptions{})
	if err != nil {
		t.Fatal(err)
	}
	laneOf := p.LaneOf
	for _, c := range pass.Cues {
		if c.Note != 36 {
			continue
		}
		v, err := b.Voice(c.Voice)
		if err != nil {
			t.Fatal(err)
		}
		at := r.Value.Heard.BarOneS + c.AtS + float64(hear.AttackFrame(v.Buffer))/rate
		nearest := math.Inf(1)
		for _, h := range r.Value.Heard.Hits {
			if laneOf(h) == 36 {
				nearest = min(nearest, math.Abs(h.TimeS-at))
			}
		}
		if nearest > 0.0005 { // ticks are 0.67 ms here, rounding half of one
			t.Errorf("a kick's attack is %.2f ms from the recorded one", 1000*nearest)
		}
	}
	bounce, err := b.Layer(p, r.Value, rate, []int{38})
	if err != nil {
		t.Fatal(err)
	}
	layer := bounce.All()
	if layer.Seconds() < r.Value.Seconds-0.001 {
		t.Errorf("the layer lasts %.3f s, the recording %.3f", layer.Seconds(), r.Value.Seconds)
	}
	first := math.Inf(1)
	for _, h := range r.Value.Heard.Hits {
		if laneOf(h) == 38 {
			first = min(first, h.TimeS)
		}
	}
	if quiet := layer.Region(0, int((first-0.005)*rate)).Peak(); quiet > 1e-6 {
		t.Errorf("the snares' layer sounds before the first snare: %g", quiet)
	}
	if loud := layer.Region(int((first-0.001)*rate), int((first+0.02)*rate)).Peak(); loud < 0.05 {
		t.Errorf("the layer is silent at the first snare: %g", loud)
	}
	// bounced together, each is as loud as its fader says
	both, err := b.Together(p, r.Value, rate, []int{38}, Blend{RecordingDB: -3, KitDB: -9})
	if err != nil {
		t.Fatal(err)
	}
	recording, err := b.Decode(r.Value.Audio)
	if err != nil {
		t.Fatal(err)
	}
	mix, wet, dry := both.All(), math.Pow(10, -9.0/20), math.Pow(10, -3.0/20)
	for side := range mix.Channels {
		audio := recording.Channels[min(side, len(recording.Channels)-1)]
		for i := 0; i < len(audio); i += 97 {
			if want := wet*float64(layer.Channels[side][i]) + dry*float64(audio[i]); math.Abs(float64(mix.Channels[side][i])-want) > 1e-6 {
				t.Fatalf("together, frame %d is %g, not %g", i, mix.Channels[side][i], want)
			}
		}
	}
	slow, err := b.RecordingPass(p, r.Value, rate, RecordingOptions{Slow: 2, Click: true})
	if err != nil || math.Abs(slow.LengthS-2*pass.LengthS) > 1e-9 || len(slow.Cues) != len(pass.Cues)+16 {
		t.Errorf("half speed with a click: %.3f s of %.3f, %d cues of %d, %v", slow.LengthS, pass.LengthS, len(slow.Cues), len(pass.Cues), err)
	}
	if _, err := b.RecordingPass(p, r.Value, rate, RecordingOptions{Slow: 9}); !errors.Is(err, ErrInput) {
		t.Errorf("nine times as slow: %v", err)
	}
}

// A lane that hears by itself leaves the others as they are; what it heard first comes back.
func TestALaneListensByItself(t *testing.T) {
	b, p, r := heardBreak(t)
	on := func(note int) (n int) {
		p = load(t, b, p.ID)
		for _, h := range p.Recordings[0].Value.Heard.Hits {
			if p.LaneOf(h) == note {
				n++
			}
		}
		return n
	}
	kicks, snares := on(36), on(38)
	tried, err := b.Listen(p, r.Value, 36, hear.Listener{}, 100)
	if err != nil || len(tried.Strikes) < kicks-2 || len(tried.Levels) != 100 {
		t.Fatalf("tried: %d strikes, %d kicks heard; %v", len(tried.Strikes), kicks, err)
	}
	l := tried.Listener
	l.OpenDB, l.CloseDB = -4, -10
	if _, err := b.edit(p.ID, p.Revision, Edit{Listener: &SetListener{r.ID, 36, &l}}); err != nil {
		t.Fatal(err)
	}
	if n := on(36); n >= kicks || n == 0 || on(38) != snares {
		t.Errorf("opened late it hears %d kicks of %d, and %d snares of %d", n, kicks, on(38), snares)
	}
	if _, err := b.edit(p.ID, p.Revision, Edit{Listener: &SetListener{r.ID, 36, &hear.Listener{LoHz: 40, HiHz: 200, OpenDB: -9, CloseDB: -12, Off: true}}}); err != nil {
		t.Fatal(err)
	}
	if n := on(36); n != 0 {
		t.Errorf("off, it has %d hits", n)
	}
	if _, err := b.edit(p.ID, p.Revision, Edit{Listener: &SetListener{r.ID, 36, nil}}); err != nil {
		t.Fatal(err)
	}
	if n := on(36); n != kicks {
		t.Errorf("as first heard: %d kicks of %d", n, kicks)
	}
	if _, err := b.edit(p.ID, p.Revision, Edit{Listener: &SetListener{r.ID, 99, &l}}); !errors.Is(err, ErrInput) {
		t.Errorf("a lane that is not there: %v", err)
	}
	if _, err := b.edit(p.ID, p.Revision, Edit{Listener: &SetListener{r.ID, 36, &hear.Listener{LoHz: 300, HiHz: 20}}}); !errors.Is(err, hear.ErrListener) {
		t.Errorf("a band upside down: %v", err)
	}
}

// A kit cut out of a recording is made of the recording itself, at its own rate, untouched; lanes without a clean stroke keep
// their sounds; the pattern that comes with it plays it.
func TestARecordingIsCutToAKit(t *testing.T) {
	b, p, r := heardBreak(t)
	_, results, err := b.Edit(t.Context(), p.ID, p.Revision, Edits{Edits: []Edit{{CutKit: &CutKit{Recording: r.ID, Name: "deck"}}}})
	if err != nil {
		t.Fatal(err)
	}
	cut := results[0].Cut
	after := load(t, b, p.ID)
	if len(cut.Lanes) < 3 || after.Kit.Name != "deck" {
		t.Fatalf("cut: %+v", cut)
	}
	for _, l := range cut.Lanes {
		pad, _ := after.Kit.Pad(l.Note)
		if len(pad.Layers) != l.Layers || pad.Layers[0].Lo != 1 || pad.Layers[l.Layers-1].Hi != 127 {
			t.Errorf("note %d: %d layers from %d to %d", l.Note, len(pad.Layers), pad.Layers[0].Lo, pad.Layers[len(pad.Layers)-1].Hi)
		}
		last := -1.0
		for _, layer := range pad.Layers {
			take := layer.Sounds[0].Takes[0]
			if take.Sample != r.Value.Audio || take.Shape.EndFrame <= take.Shape.StartFrame {
				t.Fatalf("note %d: %+v", l.Note, take)
			}
			audio, err := b.Decode(take.Sample)
			if err != nil {
				t.Fatal(err)
			}
			peak := float64(audio.Region(take.Shape.StartFrame, take.Shape.EndFrame).Peak())
			if peak < last {
				t.Errorf("note %d: a harder layer is softer, %g after %g", l.Note, peak, last)
			}
			last = peak
		}
	}
	before, _ := p.Kit.Pad(39)
	now, _ := after.Kit.Pad(39)
	if len(now.Layers) != len(before.Layers) || now.Layers[0].Sounds[0].Takes[0].Sample != before.Layers[0].Sounds[0].Takes[0].Sample {
		t.Error("the clap, of which nothing was heard, has lost its sound")
	}
	pt, err := after.Pattern(results[0].ID)
	if err != nil {
		t.Fatal(err)
	}
	if pass, err := b.Pass(after, pt, 44100); err != nil || pass.Silent > 0 || len(pass.Cues) < 50 {
		t.Errorf("the pattern plays %d cues, %d silent, %v", len(pass.Cues), pass.Silent, err)
	}
	// nothing changes the recording
	if data, _, err := b.Audio(r.Value.Audio); err != nil || len(data) == 0 {
		t.Error(err)
	}
}

// The groove of the break: the player lays the backbeats 7 and 9 ms late and the off-sixteenths 12 ms later than straight.
// Where bar 1 lies is the grid's word, so the leans are compared with each other.
func TestTheGrooveOfABreak(t *testing.T) {
	_, p, r := heardBreak(t)
	g, err := p.RecordingGroove(r.Value, "deck", "1/16", 38)
	if err != nil {
		t.Fatal(err)
	}
	ms := func(cell int) float64 { return g.Cells[cell].LeanTicks * 60000 / (r.Value.Heard.BPM * 960) }
	for cell, want := range map[int]float64{4: 7, 12: 9, 7: 15, 9: 14} {
		if later := ms(cell) - ms(4); g.Cells[cell].Hits < 2 || math.Abs(later-(want-7)) > 4 {
			t.Errorf("step %d: %d hits say %.1f ms later than step 5, played %g", cell+1, g.Cells[cell].Hits, later, want-7)
		}
	}
	if g.Cells[4].Level < 1.2 || g.Cells[7].Level > 0.8 {
		t.Errorf("backbeat %.2f, ghost %.2f of the lane's mean", g.Cells[4].Level, g.Cells[7].Level)
	}
}

// A band of the demo's four-bar break is listened to anew, its levels never measured before; then only a threshold is moved.
func BenchmarkRehear(b *testing.B) {
	bn := open(b, b.TempDir())
	p := demoProject(b, bn)
	file, _, err := demo.DeckBreak()
	if err != nil {
		b.Fatal(err)
	}
	if _, _, err := bn.Hear(b.Context(), p.ID, file.Name, file.Data, "", hear.Options{}); err != nil {
		b.Fatal(err)
	}
	p = load(b, bn, p.ID)
	for name, step := range map[string]float64{"band": 0.01, "threshold": 0} {
		b.Run(name, func(b *testing.B) {
			l := hear.Listener{LoHz: 40, HiHz: 200, OpenDB: -12, CloseDB: -18, GapMS: 45}
			for b.Loop() {
				l.HiHz += step
				if _, err := bn.Listen(p, p.Recordings[0].Value, 36, l, 976); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// Hearing a break again shows first what would change and changes nothing; taken, it keeps what the person corrected and is one step
// that is undone whole. What is left out and the drums are the recording.
func TestABreakIsHeardAgain(t *testing.T) {
	b, p, r := heardBreak(t)
	hits := r.Value.Heard.Hits
	edit := func(e Edit) {
		t.Helper()
		if _, _, err := b.Edit(t.Context(), p.ID, p.Revision, Edits{Edits: []Edit{e}}); err != nil {
			t.Fatal(err)
		}
		p = load(t, b, p.ID)
		r = p.Recordings[0]
	}
	edit(Edit{Edit: project.Edit{Heard: &project.HeardEdit{Recording: r.ID, Edit: hear.Edit{Op: "out", Hits: []int{3}}, Label: "x"}}})
	edit(Edit{Edit: project.Edit{Heard: &project.HeardEdit{Recording: r.ID, Edit: hear.Edit{Op: "velocity", Hits: []int{5}, Velocity: 17}, Label: "x"}}})
	before := r.Value.Heard
	seen, err := b.HearAgain(t.Context(), p, r.Value, hear.Options{Drums: true})
	if err != nil {
		t.Fatal(err)
	}
	if len(seen.Changes.Carried) != 1 || len(seen.Changes.Same) < len(hits)/2 {
		t.Errorf("changes: %+v of %d hits", seen.Changes, len(hits))
	}
	if is := load(t, b, p.ID); is.Revision != p.Revision {
		t.Error("looking changed the project")
	}
	edit(Edit{Again: &Again{Recording: r.ID, Drums: true}})
	var out, soft bool
	for _, h := range r.Value.Heard.Hits {
		out = out || h.TimeS == before.Hits[3].TimeS && h.State == hear.Out
		soft = soft || math.Abs(h.TimeS-before.Hits[5].TimeS) < 0.03 && h.Velocity == 17 && h.Set
	}
	if !r.Value.Heard.Drums || r.Value.Heard.Ear != hear.Ear || !out || !soft || r.Value.Heard.BPM != before.BPM {
		t.Errorf("after: drums %v, taken out kept %v, velocity kept %v", r.Value.Heard.Drums, out, soft)
	}
	if _, err := b.Undo(p.ID, p.Revision); err != nil {
		t.Fatal(err)
	}
	if h := load(t, b, p.ID).Recordings[0].Value.Heard; h.Drums || len(h.Hits) != len(hits) {
		t.Error("undone, it is not what it was")
	}

	sound := func(part play.Part) []float32 {
		pass, err := b.RecordingPass(p, r.Value, 44100, RecordingOptions{Part: part})
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range pass.Cues {
			if c.Note == play.RecordingNote {
				v, err := b.Voice(c.Voice)
				if err != nil {
					t.Fatal(err)
				}
				return v.Channels[0]
			}
		}
		t.Fatal("the recording does not sound")
		return nil
	}
	all, drums, left := sound(""), sound(play.DrumsPart), sound(play.LeftPart)
	var off, most float64
	for i := 4410; i < len(all)-4410; i++ {
		off = max(off, math.Abs(float64(all[i]-drums[i]-left[i])))
		most = max(most, math.Abs(float64(left[i])))
	}
	if off > 1e-4 || most < 0.01 {
		t.Errorf("drums and the rest differ from the recording by %g; the rest's peak is %g", off, most)
	}
}
