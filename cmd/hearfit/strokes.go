package main

import (
	"errors"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"sync"

	"hexachord/core/music"
	"hexachord/core/sound"
	"hexachord/demo/breaks"
	"hexachord/format/smf"
	"hexachord/format/wav"
)

// The drums of a soundfont are played stroke by stroke: every kit (a program of channel 10, as General MIDI has it), every note, at
// three strengths.
var (
	fontKits   = []uint8{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 24, 25, 32, 33, 34, 35, 36, 40, 41, 42}
	strengths  = []int{36, 80, 122}
	firstNote  = 35
	lastNote   = 82
	strokeS    = 4.0 // from one stroke to the next
	errSilence = errors.New("the soundfont has no drums on channel 10")
)

// strokesOf plays a soundfont's drums with fluidsynth, dry. Kits that sound like one before are left out.
func strokesOf(font string) (*breaks.Strokes, error) {
	dir, err := os.MkdirTemp("", "strokes")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	kits, errs := make([]map[int][][]float32, len(fontKits)), make([]error, len(fontKits))
	var wg sync.WaitGroup
	slots := make(chan struct{}, runtime.NumCPU())
	for i, program := range fontKits {
		slots <- struct{}{}
		wg.Go(func() {
			defer func() { <-slots }()
			kits[i], errs[i] = kitOf(font, dir, program)
		})
	}
	wg.Wait()
	if err := errors.Join(errs...); err != nil {
		return nil, err
	}
	s := &breaks.Strokes{}
	seen := map[string]bool{}
	for _, kit := range kits {
		key := ""
		for note := firstNote; note <= lastNote; note++ {
			if l := kit[note]; len(l) > 0 {
				key += fmt.Sprint(note, len(l[0]), l[0][len(l[0])/3], ";")
			}
		}
		if key != "" && !seen[key] {
			seen[key] = true
			s.Kits = append(s.Kits, kit)
		}
	}
	if len(s.Kits) == 0 {
		return nil, errSilence
	}
	return s, nil
}

func kitOf(font, dir string, program uint8) (map[int][][]float32, error) {
	const ppq = 480 // ticks of a quarter, half a second
	file := smf.File{PPQ: ppq, Meter: music.Meter{Beats: 4, Unit: 4}, Tempi: []smf.TempoChange{{BPM: 120}}}
	step := int(strokeS * 2 * ppq)
	tick := ppq
	var notes []smf.Note
	for note := firstNote; note <= lastNote; note++ {
		for _, v := range strengths {
			notes = append(notes, smf.Note{Tick: tick, Length: step * 9 / 10, Channel: 10, Key: note, Velocity: v})
			tick += step
		}
	}
	file.Tracks, file.EndsAt = []smf.Track{{Name: "strokes", Notes: notes}}, tick
	at := func(kind string) string { return filepath.Join(dir, fmt.Sprintf("%d.%s", program, kind)) }
	if err := errors.Join(os.WriteFile(at("mid"), smf.Encode(file), 0o600), os.WriteFile(at("txt"), fmt.Appendf(nil, "prog 9 %d\n", program), 0o600)); err != nil {
		return nil, err
	}
	if out, err := exec.Command("fluidsynth", "-ni", "-q", "-f", at("txt"), "-R", "0", "-C", "0", "-r", "44100", "-F", at("wav"), font, at("mid")).CombinedOutput(); err != nil {
		return nil, fmt.Errorf("fluidsynth: %w: %s", err, out)
	}
	data, err := os.ReadFile(at("wav"))
	if err != nil {
		return nil, err
	}
	defer os.Remove(at("wav"))
	b, _, err := wav.Decode(data)
	if err != nil {
		return nil, err
	}
	kit := map[int][][]float32{}
	for _, n := range notes {
		from := n.Tick * breaks.Rate / (2 * ppq)
		one := sound.Buffer{Rate: breaks.Rate, Channels: [][]float32{b.Region(from-breaks.Rate/100, from+step*breaks.Rate/(2*ppq)-breaks.Rate/50).Mono()}}
		start, end := one.Audible(math.Max(1e-4, one.Peak()/1000)) // −60 dB
		if one.Peak() < 0.003 || end-start < breaks.Rate/100 {
			continue
		}
		kit[n.Key] = append(kit[n.Key], one.Region(max(0, start-30), end).Clone().Channels[0])
	}
	return kit, nil
}
