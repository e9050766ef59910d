package sfz

import (
	"fmt"
	"math"
	"sort"

	"hexachord/core/kit"
	"hexachord/core/sound"
)

// Sample is what a sample's path leads to.
type Sample struct {
	Hash   string
	Source string // the file's name
	Frames int
	Loops  []sound.Loop
}

// Kit makes a kit of the regions. find is asked for each sample's path once; a region whose sample it cannot give is
// left out. said lists, for the person, what was left out and what plays otherwise than the text says.
func (f File) Kit(name, dir string, find func(path string) (Sample, error)) (k kit.Kit, said []string, err error) {
	k = kit.Kit{Name: name, Pads: []kit.Pad{}}
	known, more := map[string]bool{}, 0
	say := func(format string, args ...any) {
		s := fmt.Sprintf(format, args...)
		if known[s] {
			return
		}
		if known[s] = true; len(said) == mostSaid {
			more++
			return
		}
		said = append(said, s)
	}
	type found struct {
		Sample
		err error
	}
	samples := map[string]found{}
	byKey := map[int][]placed{}
	for _, r := range f.Regions {
		if r.number("end", 0) < 0 {
			continue // the description: end=-1 never plays
		}
		p, err := r.SamplePath(dir)
		if err != nil {
			say("%v", err)
			continue
		}
		s, ok := samples[p]
		if !ok {
			s.Sample, s.err = find(p)
			samples[p] = s
		}
		if s.err != nil {
			say("%s: %v", p, s.err)
			continue
		}
		lo, hi := r.key("lokey", 0), r.key("hikey", 127)
		centre := 60
		if key := r.key("key", -1); key >= 0 {
			lo, hi, centre = key, key, key
		}
		centre = r.key("pitch_keycenter", centre)
		if lo < 0 || hi > 127 {
			say("line %d: keys %d to %d; notes go from 0 to 127", r.Line, lo, hi)
		}
		for key := max(0, lo); key <= min(127, hi); key++ {
			byKey[key] = append(byKey[key], placed{r, s.Sample, float64(key-centre) * r.number("pitch_keytrack", 100) / 100})
		}
	}
	keys := make([]int, 0, len(byKey))
	for key := range byKey {
		keys = append(keys, key)
	}
	sort.Ints(keys)
	groups := map[int]int{}
	for _, key := range keys {
		k.Pads = append(k.Pads, padOf(key, byKey[key], groups, say))
	}
	if len(k.Pads) == 0 {
		return k, said, fmt.Errorf("%w: none of its samples could be read", ErrSFZ)
	}
	said = append(said, f.unusedSaid()...)
	if more > 0 {
		said = append(said, fmt.Sprintf("and %d faults more", more))
	}
	return k, said, k.Check()
}

// mostSaid bounds how many faults are told one by one.
const mostSaid = 200

func (f File) unusedSaid() []string {
	if len(f.Unused) == 0 {
		return nil
	}
	return []string{fmt.Sprintf("not used here: %s", joined(f.Unused))}
}

func joined(list []string) string {
	out := ""
	for i, s := range list {
		if i > 0 {
			out += ", "
		}
		out += s
	}
	return out
}

// placed is a region on one key.
type placed struct {
	Region
	sample    Sample
	semitones float64 // that the key adds
}

func padOf(key int, regions []placed, groups map[int]int, say func(string, ...any)) kit.Pad {
	pad := kit.NewPad(key)
	sort.SliceStable(regions, func(i, j int) bool { return regions[i].number("lovel", 0) < regions[j].number("lovel", 0) })
	first := regions[0]
	oneShot := func(r placed) bool { return r.Opcodes["loop_mode"] == "one_shot" }
	pad.Held = !oneShot(first)
	pad.VelTrack = clamp(first.number("amp_veltrack", 100), 0, 100)
	pad.Choke = groupNumber(groups, int(first.number("group", 0)))
	pad.CutBy = groupNumber(groups, int(first.number("off_by", 0)))
	pad.SelfChoke = pad.CutBy != 0 && pad.CutBy == pad.Choke
	for _, r := range regions {
		if oneShot(r) == pad.Held || r.number("amp_veltrack", 100) != first.number("amp_veltrack", 100) ||
			r.number("group", 0) != first.number("group", 0) || r.number("off_by", 0) != first.number("off_by", 0) {
			say("note %d: its regions differ in loop_mode, amp_veltrack or group; the first one's hold for the pad", key)
		}
		lo, hi := int(clamp(r.number("lovel", 1), 1, 127)), int(clamp(r.number("hivel", 127), 1, 127))
		if lo > hi {
			say("line %d: velocities %d to %d are none", r.Line, lo, hi)
			continue
		}
		if r.Opcodes["xfin_hivel"] != "" || r.Opcodes["xfout_lovel"] != "" {
			pad.Crossfade = true
		}
		add(&pad, lo, hi, r, say)
	}
	return pad
}

// add places a region: as a take beside one it takes turns with, stacked on one that sounds at the same velocities, or
// as a layer of its own.
func add(pad *kit.Pad, lo, hi int, r placed, say func(string, ...any)) {
	take, level, pan, semitones := r.take(pad.Held, say)
	s := kit.Sound{LevelDB: level, Pan: pan, Semitones: semitones, Takes: []kit.Take{take}}
	turns := r.number("seq_length", 1) > 1
	random := r.Opcodes["lorand"] != "" || r.Opcodes["hirand"] != ""
	for i := range pad.Layers {
		l := &pad.Layers[i]
		if l.Lo != lo || l.Hi != hi {
			continue
		}
		if turns || random {
			for j := range l.Sounds {
				o := &l.Sounds[j]
				if o.Pan == pan && o.Semitones == semitones && len(o.Takes) < kit.MaxTakes {
					take.Shape.GainDB = clamp(take.Shape.GainDB+level-o.LevelDB, -60, 48)
					o.Takes = append(o.Takes, take)
					return
				}
			}
		}
		if len(l.Sounds) < kit.MaxSounds {
			l.Sounds = append(l.Sounds, s)
			return
		}
	}
	if len(pad.Layers) == kit.MaxLayers {
		say("note %d: more than %d layers", pad.Note, kit.MaxLayers)
		return
	}
	l := kit.Layer{Lo: lo, Hi: hi, Order: kit.InTurn, Sounds: []kit.Sound{s}}
	if random {
		l.Order = kit.Random
	}
	pad.Layers = append(pad.Layers, l)
}

// take is the region's sample as shaped; level, pan and tune are the sound's.
func (r placed) take(held bool, say func(string, ...any)) (t kit.Take, level, pan, semitones float64) {
	sh := kit.Whole()
	n := r.sample.Frames
	sh.StartFrame = int(clamp(r.number("offset", 0), 0, float64(n-1)))
	if end := int(r.number("end", 0)); end > 0 && end+1 < n { // the last frame that sounds
		sh.EndFrame = max(sh.StartFrame+1, end+1)
	} else if end >= n {
		say("line %d: end=%d lies after the sample's end", r.Line, end)
	}
	mode := r.Opcodes["loop_mode"]
	if mode == "" && len(r.sample.Loops) > 0 {
		mode = "loop_continuous" // the description: the sample's own loop decides
	}
	if held && (mode == "loop_continuous" || mode == "loop_sustain") {
		sh.Loop = true
		if len(r.sample.Loops) > 0 {
			sh.LoopStart, sh.LoopEnd = r.sample.Loops[0].StartFrame, r.sample.Loops[0].EndFrame
		}
		sh.LoopStart = int(r.number("loop_start", float64(sh.LoopStart)))
		sh.LoopEnd = int(r.number("loop_end", float64(sh.LoopEnd-1))) + 1
		last := n
		if sh.EndFrame > 0 {
			last = sh.EndFrame
		}
		if sh.LoopStart < sh.StartFrame || sh.LoopEnd > last || sh.LoopEnd != 0 && sh.LoopEnd <= sh.LoopStart {
			say("line %d: the loop %d to %d lies outside the sample; it plays once", r.Line, sh.LoopStart, sh.LoopEnd)
			sh.Loop, sh.LoopStart, sh.LoopEnd = false, 0, 0
		}
	}
	sh.Reverse = r.Opcodes["direction"] == "reverse"
	ms := func(name string) float64 { return clamp(r.number(name, 0)*1000, 0, 20_000) }
	sh.AttackMS, sh.DecayMS, sh.ReleaseMS = ms("ampeg_attack"), ms("ampeg_decay"), ms("ampeg_release")
	sh.SustainPct = clamp(r.number("ampeg_sustain", 100), 0, 100)
	volume := clamp(r.number("volume", 0), -60, 60)
	level = clamp(volume, -60, 12)
	sh.GainDB = clamp(volume-level, -60, 48)
	semitones = r.semitones + r.number("transpose", 0) + r.number("tune", 0)/100
	if math.Abs(semitones) > 48 {
		say("line %d: tuned by %.0f semitones; 48 are the most", r.Line, semitones)
		semitones = clamp(semitones, -48, 48)
	}
	return kit.Take{Sample: r.sample.Hash, Source: r.sample.Source, Shape: sh}, level, clamp(r.number("pan", 0)/100, -1, 1), semitones
}

// groupNumber gives the file's groups the kit's numbers 1 to 16, in the order they come.
func groupNumber(groups map[int]int, group int) int {
	if group == 0 {
		return 0
	}
	if groups[group] == 0 {
		groups[group] = min(16, len(groups)+1)
	}
	return groups[group]
}

func clamp(v, lo, hi float64) float64 { return math.Max(lo, math.Min(hi, v)) }
