// Package breaks performs drum breaks on synthesised kits in synthesised rooms and knows every true hit:
// the demo's recorded break is one, and the drum recogniser learns from thousands.
package breaks

import (
	"math"
	"math/rand/v2"
	"sort"

	"hexachord/core/sound"
	"hexachord/demo/drums"
)

// Rate is the sample rate breaks are rendered at.
const Rate = 44100

// Piece is one drum of a recorded kit.
type Piece struct {
	Note    int // General MIDI note
	Drum    drums.Drum
	LevelDB float64
	Pan     float64
	// Static pieces sound the same at every strength, only softer, as a sampler's single layer does.
	Static bool
	Tone   Tone
	// Layers, when there are any, are what the piece sounds like instead of Drum: softest first, see Strokes.
	Layers [][]float32

	strokes map[int][]float32 // by strength step and take
}

// Tone is how a piece was miked, or what became of it as a sample; the zero value leaves it as it is.
type Tone struct {
	Filters []sound.Biquad
	Drive   float64 // 0 = clean
	EndS    float64 // where it is cut off, 0 = nowhere
	// a room of its own: level, length, damping; Wet 0 is none
	Wet, RoomS, DampHz float64
	Tune               float64 // octaves up
	DampS              float64 // by this time it has died away by 60 dB more than of itself, 0 = not dampened
}

func (t Tone) apply(x []float32) []float32 {
	if t.Tune != 0 && len(x) > 1 {
		x = tuned(x, t.Tune)
	}
	if t.DampS > 0 {
		fall, g := float32(math.Pow(10, -3/(t.DampS*Rate))), float32(1)
		for i := range x {
			x[i] *= g
			g *= fall
		}
	}
	for _, f := range t.Filters {
		for i, v := range x {
			x[i] = float32(f.Next(float64(v)))
		}
	}
	if t.Drive > 0 {
		g := 1 + 4*t.Drive
		for i, v := range x {
			x[i] = float32(math.Tanh(float64(v) * g))
		}
	}
	if t.Wet > 0 {
		x = append(x, make([]float32, int(t.RoomS*Rate/2))...)
		Room{Wet: t.Wet, DecayS: t.RoomS, DampHz: t.DampHz, LowHz: 15, HighHz: 20000}.apply(x, rand.New(rand.NewPCG(uint64(len(x)), 5)))
	}
	if end := int(t.EndS * Rate); end > 0 && end < len(x) {
		x = x[:end]
		const fade = Rate / 250
		for i := range min(fade, end) {
			x[end-1-i] *= float32(i) / fade
		}
	}
	return x
}

const strengthSteps = 6

// Stroke renders (once) the stroke for a velocity and take, scaled to its level in the mix.
func (p *Piece) stroke(velocity, take int) (audio []float32, gain float64) {
	strength := float64(velocity) / 127
	step := strengthSteps
	if !p.Static {
		step = max(1, int(math.Ceil(strength*strengthSteps)))
	}
	if p.strokes == nil {
		p.strokes = map[int][]float32{}
	}
	key := step*4 + take%2
	audio, ok := p.strokes[key]
	if !ok {
		if p.Layers != nil {
			audio = p.layer(float64(step) / strengthSteps)
		} else {
			audio = p.Drum.Stroke(float64(step)/strengthSteps, uint64(p.Note*1000+key), Rate)
		}
		audio = p.Tone.apply(audio)
		peak := (sound.Buffer{Channels: [][]float32{audio}}).Peak()
		if peak > 0 {
			for i := range audio {
				audio[i] /= float32(peak)
			}
		}
		p.strokes[key] = audio
	}
	return audio, strength * strength * math.Pow(10, p.LevelDB/20)
}

// Hit is one true stroke of a performance.
type Hit struct {
	TimeS    float64 // when it begins to sound: a tenth of its first peak
	Note     int
	Velocity int
	LevelDB  float64 // level of its first 40 ms in the recording before the room, RMS in dB full scale
}

// Room is what lies between the drums and the file.
type Room struct {
	Wet, DecayS, DampHz float64 // level and length of the room
	HissDB              float64 // noise floor, dB full scale; below −100 none
	Drive               float64 // 0 = clean
	LowHz, HighHz       float64 // what the machine that recorded it passes
	TiltDB              [3]float64
	Stereo              bool
	PeakDB              float64
	Squeeze             Squeeze
	Bed                 *Bed // nil = the drums alone
}

// Bed is other music under the drums, at Rate: its level is against theirs (RMS over the whole), dB.
type Bed struct {
	Audio   []float32
	LevelDB float64
}

func (b *Bed) under(dry [2][]float32) {
	own, drums := rms(b.Audio), math.Max(rms(dry[0]), rms(dry[1]))
	if own == 0 {
		return
	}
	g := float32(drums / own * math.Pow(10, b.LevelDB/20))
	for c := range dry {
		for i := range min(len(dry[c]), len(b.Audio)) {
			dry[c][i] += b.Audio[i] * g
		}
	}
}

// Squeeze is a compressor over the whole mix; Ratio 0 is none.
type Squeeze struct{ ThresholdDB, Ratio, AttackS, ReleaseS float64 }

func (q Squeeze) apply(channels [][]float32) {
	if q.Ratio == 0 {
		return
	}
	up, down := 1-math.Exp(-1/(q.AttackS*Rate)), 1-math.Exp(-1/(q.ReleaseS*Rate))
	level := 0.0
	for i := range channels[0] {
		now := 0.0
		for _, ch := range channels {
			now = max(now, math.Abs(float64(ch[i])))
		}
		if now > level {
			level += (now - level) * up
		} else {
			level += (now - level) * down
		}
		if over := 20*math.Log10(level+1e-9) - q.ThresholdDB; over > 0 {
			g := float32(math.Pow(10, -over*(1-1/q.Ratio)/20))
			for _, ch := range channels {
				ch[i] *= g
			}
		}
	}
}

// Performance is strokes in time on a kit.
type Performance struct {
	BPM       float64
	Beats     int // beats of a quarter (or dotted quarter) a bar
	Bars      int
	LeadS     float64 // silence before bar 1
	DurationS float64
	Strokes   []Stroke
	Free      bool // no groove: strokes anywhere
	Cells     int  // cells a beat it was played on
}

// Stroke is when and how hard a piece is struck.
type Stroke struct {
	TimeS    float64
	Note     int
	Velocity int
}

// Render performs p on kit in room. The truth is sorted by time.
func Render(kit []*Piece, p Performance, room Room, seed uint64) (sound.Buffer, []Hit) {
	rng := rand.New(rand.NewPCG(seed, 0x726f6f6d))
	n := int(p.DurationS * Rate)
	dry := [2][]float32{make([]float32, n), make([]float32, n)}
	byNote := map[int]*Piece{}
	for _, piece := range kit {
		byNote[piece.Note] = piece
	}
	strokes := append([]Stroke(nil), p.Strokes...)
	sort.Slice(strokes, func(i, j int) bool { return strokes[i].TimeS < strokes[j].TimeS })
	hatStops := hatStops(strokes)
	var truth []Hit
	for i, s := range strokes {
		piece := byNote[s.Note]
		at := int(math.Round(s.TimeS * Rate))
		if piece == nil || at < 0 || at >= n-Rate/50 {
			continue
		}
		audio, gain := piece.stroke(s.Velocity, i)
		stop := len(audio)
		if s.Note == openHat || s.Note == HalfOpen {
			for _, t := range hatStops {
				if t > s.TimeS+0.01 {
					stop = min(stop, int((t-s.TimeS)*Rate))
					break
				}
			}
		}
		left, right := math.Cos((piece.Pan+1)*math.Pi/4), math.Sin((piece.Pan+1)*math.Pi/4)
		addStroke(dry[0][at:], audio, stop, gain*left)
		addStroke(dry[1][at:], audio, stop, gain*right)
		first, level := attack(audio)
		truth = append(truth, Hit{s.TimeS + first, s.Note, s.Velocity, level + 20*math.Log10(gain)})
	}
	if room.Bed != nil {
		room.Bed.under(dry)
	}
	if room.Squeeze.Ratio > 0 { // thresholds are for a mix at full level
		loudest := (sound.Buffer{Channels: dry[:]}).Peak()
		for c := range dry {
			for i := range dry[c] {
				dry[c][i] /= max(1e-6, float32(loudest))
			}
		}
		for i := range truth {
			truth[i].LevelDB -= 20 * math.Log10(max(1e-6, float64(loudest)))
		}
		room.Squeeze.apply(dry[:])
	}
	for c := range dry {
		room.apply(dry[c], rng)
	}
	out := sound.Buffer{Rate: Rate, Channels: [][]float32{dry[0], dry[1]}}
	if !room.Stereo {
		out.Channels = [][]float32{out.Mono()}
	}
	if peak := out.Peak(); peak > 0 {
		g := float32(math.Pow(10, room.PeakDB/20) / peak)
		for _, ch := range out.Channels {
			for i := range ch {
				ch[i] *= g
			}
		}
		for i := range truth {
			truth[i].LevelDB += 20 * math.Log10(float64(g))
		}
	}
	if room.HissDB > -100 {
		hiss := math.Pow(10, room.HissDB/20)
		for _, ch := range out.Channels {
			for i := range ch {
				ch[i] += float32(rng.NormFloat64() * hiss)
			}
		}
	}
	sort.Slice(truth, func(i, j int) bool { return truth[i].TimeS < truth[j].TimeS })
	return out, truth
}

const (
	closedHat = 42
	pedalHat  = 44
	openHat   = 46
)

func hatStops(strokes []Stroke) (times []float64) {
	for _, s := range strokes {
		if s.Note == closedHat || s.Note == pedalHat || s.Note == openHat || s.Note == HalfOpen {
			times = append(times, s.TimeS)
		}
	}
	return times
}

func addStroke(dst, audio []float32, stop int, gain float64) {
	const fade = Rate / 80
	for i := 0; i < min(len(audio), len(dst), stop+fade); i++ {
		g := float32(gain)
		if i > stop {
			g *= 1 - float32(i-stop)/fade
		}
		dst[i] += audio[i] * g
	}
}

// attack finds when a stroke begins to be heard (a tenth of its peak within the first 30 ms) and the
// RMS level of its first 40 ms in dB.
func attack(audio []float32) (seconds, levelDB float64) {
	var peak float64
	head := audio[:min(len(audio), Rate*3/100)]
	for _, v := range head {
		peak = max(peak, math.Abs(float64(v)))
	}
	first := 0
	for i, v := range head {
		if math.Abs(float64(v)) >= 0.1*peak {
			first = i
			break
		}
	}
	sum, n := 1e-12, 0
	for i := first; i < min(len(audio), first+Rate*4/100); i++ {
		sum += float64(audio[i]) * float64(audio[i])
		n++
	}
	return float64(first) / Rate, 10 * math.Log10(sum/float64(max(1, n)))
}

// apply puts one channel through the room: tone, four feedback delay lines of unlike lengths, drive.
func (r Room) apply(x []float32, rng *rand.Rand) {
	filters := []sound.Biquad{
		sound.Peaking(120, r.TiltDB[0], 0.7, Rate), sound.Peaking(900, r.TiltDB[1], 0.7, Rate), sound.Peaking(6000, r.TiltDB[2], 0.7, Rate),
		sound.HighPass(r.LowHz, Rate), sound.LowPass(r.HighHz, Rate),
	}
	var lines [6][]float64
	var at [6]int
	var gain, damp [6]float64
	for k := range lines {
		n := int((0.007 + 0.006*float64(k) + 0.005*rng.Float64()) * Rate)
		lines[k] = make([]float64, n)
		gain[k] = math.Pow(10, -3*float64(n)/(Rate*math.Max(0.02, r.DecayS)))
	}
	soften := 1 - math.Exp(-2*math.Pi*r.DampHz/Rate)
	drive := 1 + r.Drive*5
	for i, v := range x {
		in := float64(v)
		for k := range filters {
			in = filters[k].Next(in)
		}
		wet, sum := 0.0, 0.0
		var outs [6]float64
		for k := range lines {
			outs[k] = lines[k][at[k]]
			sum += outs[k]
		}
		for k := range lines {
			back := outs[k] - sum/3 // Householder mixing
			damp[k] += (back - damp[k]) * soften
			lines[k][at[k]] = in*0.5 + damp[k]*gain[k]
			at[k]++
			if at[k] == len(lines[k]) {
				at[k] = 0
			}
			wet += outs[k]
		}
		y := in + wet*r.Wet
		if r.Drive > 0 {
			y = math.Tanh(y*drive) / drive
		}
		x[i] = float32(y)
	}
}
