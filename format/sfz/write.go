package sfz

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hexachord/core/kit"
)

// Write writes a kit as SFZ. paths gives each sample's path from the file's folder, frames its length. lost lists what the format cannot
// carry.
func Write(k kit.Kit, name func(note int) string, paths func(sample string) string) (text []byte, lost []string) {
	var b strings.Builder
	lose := func(format string, args ...any) {
		if s := fmt.Sprintf(format, args...); !slices.Contains(lost, s) {
			lost = append(lost, s)
		}
	}
	fmt.Fprintf(&b, "// %s, written by Hexachord\n", strings.ReplaceAll(k.Name, "\n", " "))
	for _, p := range k.Pads {
		if len(p.Layers) == 0 {
			continue
		}
		fmt.Fprintf(&b, "\n// %s\n<group> key=%d amp_veltrack=%s", strings.ReplaceAll(name(p.Note), "\n", " "), p.Note, num(p.VelTrack))
		cutBy := p.CutBy
		if cutBy == 0 {
			cutBy = p.Choke
		}
		if p.Choke > 0 {
			fmt.Fprintf(&b, " group=%d", p.Choke)
		}
		if cutBy > 0 {
			fmt.Fprintf(&b, " off_by=%d", cutBy)
		}
		if (p.Choke > 0) != p.SelfChoke {
			lose("note %d: in SFZ a choke group also cuts the pad's own last stroke, and only a group does", p.Note)
		}
		b.WriteString("\n")
		for i, l := range p.Layers {
			for _, s := range l.Sounds {
				if s.Off {
					lose("sounds that are switched off are left out")
					continue
				}
				for n, t := range s.Takes {
					writeRegion(&b, p, i, s, n, t, paths(t.Sample), lose)
				}
			}
		}
	}
	return []byte(b.String()), lost
}

func writeRegion(b *strings.Builder, p kit.Pad, layer int, s kit.Sound, n int, t kit.Take, path string, lose func(string, ...any)) {
	l, sh := p.Layers[layer], t.Shape
	if len(sh.Level)+len(sh.Pan)+len(sh.Tune) > 0 {
		lose("curves drawn over a sound's level, pan and tune are left out")
	}
	fmt.Fprintf(b, "<region> sample=%s\n lovel=%d hivel=%d", path, l.Lo, l.Hi)
	put := func(opcode string, v, usual float64) {
		if v != usual {
			fmt.Fprintf(b, " %s=%s", opcode, num(v))
		}
	}
	put("volume", p.LevelDB+s.LevelDB+sh.GainDB, 0)
	put("pan", clamp(p.Pan+s.Pan, -1, 1)*100, 0)
	tune := p.Semitones + s.Semitones
	whole := float64(int(tune))
	put("transpose", whole, 0)
	put("tune", (tune-whole)*100, 0)
	put("offset", float64(sh.StartFrame), 0)
	if sh.EndFrame > 0 {
		put("end", float64(sh.EndFrame-1), 0)
	}
	switch {
	case !p.Held:
		b.WriteString(" loop_mode=one_shot")
	case sh.Loop:
		fmt.Fprintf(b, " loop_mode=loop_continuous loop_start=%d", sh.LoopStart)
		if sh.LoopEnd > 0 {
			fmt.Fprintf(b, " loop_end=%d", sh.LoopEnd-1)
		}
	default:
		b.WriteString(" loop_mode=no_loop")
	}
	if sh.Reverse {
		b.WriteString(" direction=reverse")
	}
	put("ampeg_attack", sh.AttackMS/1000, 0)
	put("ampeg_decay", sh.DecayMS/1000, 0)
	put("ampeg_sustain", sh.SustainPct, 100)
	put("ampeg_release", sh.ReleaseMS/1000, 0)
	if len(s.Takes) > 1 {
		if l.Order == kit.Random {
			fmt.Fprintf(b, " lorand=%s hirand=%s", num(float64(n)/float64(len(s.Takes))), num(float64(n+1)/float64(len(s.Takes))))
		} else {
			fmt.Fprintf(b, " seq_length=%d seq_position=%d", len(s.Takes), n+1)
		}
	}
	if p.Crossfade {
		for j, o := range p.Layers {
			lo, hi := max(l.Lo, o.Lo), min(l.Hi, o.Hi)
			switch {
			case j == layer || lo > hi:
			case l.Lo < o.Lo:
				fmt.Fprintf(b, " xfout_lovel=%d xfout_hivel=%d", lo, hi)
			default:
				fmt.Fprintf(b, " xfin_lovel=%d xfin_hivel=%d", lo, hi)
			}
		}
	}
	b.WriteString("\n")
	if sh.FadeInMS > 0 || sh.FadeOutMS > 0 {
		lose("fades inside a sample")
	}
	if s.Label != "" {
		lose("what stacked sounds are called")
	}
}

func num(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
