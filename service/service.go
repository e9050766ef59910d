// Package service is the work of the application between its store and its doors: it decodes audio, compiles
// kits, plays, bounces, hears and imports, for the server and for the commands alike.
package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"

	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/sound"
	"hexachord/core/view"
	"hexachord/format/audio"
	"hexachord/format/wav"
	"hexachord/store"
)

// Limits bound audio brought to the bench.
var Limits = audio.Limits{Seconds: 3600, Channels: 8}

// Rates are the sample rates the bench plays and bounces at.
const (
	MinRate = 8000
	MaxRate = 192_000
)

// ErrRate is a sample rate the bench does not play at.
var ErrRate = fmt.Errorf("the sample rate must lie between %d and %d Hz", MinRate, MaxRate)

// ErrVoice is a voice that no compiled kit has named, or so long ago that its recipe is not kept any more.
var ErrVoice = errors.New("no such voice; load the kit again")

// Config says how much a bench may remember.
type Config struct {
	AudioCache int64 // bytes of decoded audio; 0 is DefaultAudioCache
}

// DefaultAudioCache is how many bytes of decoded audio are held.
const DefaultAudioCache = 512 << 20

// What else is remembered, in bytes or in number.
const (
	levelsCache = 64 << 20
	mostSongs   = 8
	mostHeard   = 8
	mostPasses  = 64     // that windows may have
	mostNamed   = 20_000 // recipes of voices at hand; the others are in the database
)

// Bench is an open data folder at work. It is safe for many goroutines.
type Bench struct {
	*store.Store
	decoded *sized[sound.Buffer]
	bands   *sized[hear.Levels]
	heards  *lru.Cache[string, hear.Hearing] // recordings heard again, by audio and how
	passes  *lru.Cache[string, play.Pass]
	songs   *lru.Cache[string, play.Pass]      // whole songs, by project, revision and rate
	named   *lru.Cache[string, play.VoiceSpec] // voices whose recipes are kept
	cards   *lru.Cache[cardKey, view.Picture]
	shelf   shelfIndex

	parting sync.Mutex
	mu      sync.Mutex
	hears   map[string]*hearing // by ticket, while they run
	exports []*exporting        // the newest last
}

// Open opens the data folder.
func Open(dir string, c Config) (*Bench, error) {
	s, err := store.Open(dir)
	if err != nil {
		return nil, err
	}
	if c.AudioCache == 0 {
		c.AudioCache = DefaultAudioCache
	}
	b := &Bench{Store: s, hears: map[string]*hearing{}, shelf: shelfIndex{read: make(chan struct{})},
		decoded: newSized(c.AudioCache, sound.Buffer.Bytes),
		bands:   newSized(levelsCache, func(l hear.Levels) int64 { return int64(4 * len(l.DB)) })}
	if b.heards, err = lru.New[string, hear.Hearing](mostHeard); err != nil {
		return nil, err
	}
	if b.songs, err = lru.New[string, play.Pass](mostSongs); err != nil {
		return nil, err
	}
	b.passes, err = lru.New[string, play.Pass](mostPasses)
	if err == nil {
		b.named, err = lru.New[string, play.VoiceSpec](mostNamed)
	}
	if err == nil {
		b.cards, err = lru.New[cardKey, view.Picture](mostCards)
	}
	if err == nil {
		if err = b.sweepExports(); err != nil {
			err = fmt.Errorf("exports that were cut off cannot be taken out: %w", err)
		}
	}
	if err != nil {
		return nil, errors.Join(err, s.Close())
	}
	go b.readShelf()
	return b, nil
}

// Close closes the bench and gives its folder free.
func (b *Bench) Close() error {
	<-b.shelf.read
	return b.Store.Close()
}

// AddAudio checks that a file is usable audio and keeps it.
func (b *Bench) AddAudio(name string, data []byte) (hash string, decoded audio.Decoded, err error) {
	decoded, err = audio.Decode(data, Limits)
	if err != nil {
		return "", decoded, fmt.Errorf("%s: %w", name, err)
	}
	hash, err = b.PutAudio(data, store.AudioInfo{Name: name, Format: decoded.Format, Bits: decoded.Bits,
		Rate: decoded.Rate, Channels: len(decoded.Channels), Frames: decoded.Frames()})
	if err != nil {
		return "", decoded, err
	}
	b.decoded.Add(hash, decoded.Buffer)
	return hash, decoded, b.shelfTrash(store.TrashSample, []string{hash}, false)
}

// Decode gives the audio of a hash; it must not be changed.
func (b *Bench) Decode(hash string) (sound.Buffer, error) {
	if buf, ok := b.decoded.Get(hash); ok {
		return buf, nil
	}
	data, info, err := b.Audio(hash)
	if err != nil {
		return sound.Buffer{}, err
	}
	d, err := audio.Decode(data, Limits)
	if err != nil {
		return sound.Buffer{}, fmt.Errorf("%s: %w", info.Name, err)
	}
	b.decoded.Add(hash, d.Buffer)
	return d.Buffer, nil
}

// Table compiles a kit for a sample rate and remembers its voices' names.
func (b *Bench) Table(k kit.Kit, rate int) (play.Table, error) {
	if rate < MinRate || rate > MaxRate {
		return play.Table{}, ErrRate
	}
	t := play.Compile(k, rate)
	return t, b.remember(t.Voices()...)
}

// remember keeps what voices are made of, so that their addresses answer for ever.
func (b *Bench) remember(specs ...play.VoiceSpec) error {
	fresh := map[string][]byte{}
	byID := map[string]play.VoiceSpec{}
	for _, v := range specs {
		id := v.ID()
		if _, ok := b.named.Get(id); ok {
			continue
		}
		text, err := json.Marshal(v)
		if err != nil {
			return err
		}
		fresh[id], byID[id] = text, v
	}
	if err := b.KeepRecipes(fresh); err != nil {
		return err
	}
	for id, v := range byID {
		b.named.Add(id, v)
	}
	return nil
}

// recipe is what a voice is made of.
func (b *Bench) recipe(id string) (spec play.VoiceSpec, err error) {
	if spec, ok := b.named.Get(id); ok {
		return spec, nil
	}
	text, err := b.Recipe(id)
	if err != nil {
		return spec, ErrVoice
	}
	if err := json.Unmarshal(text, &spec); err != nil || spec.ID() != id { // the shaping of voices has changed since
		return spec, ErrVoice
	}
	return spec, nil
}

// Voice makes a voice that Table has named.
func (b *Bench) Voice(id string) (play.Voice, error) {
	spec, err := b.recipe(id)
	if err != nil {
		return play.Voice{}, err
	}
	if spec.ClickHz > 0 {
		return play.Click(spec.ClickHz, spec.Rate), nil
	}
	sample, err := b.Decode(spec.Sample)
	if err != nil {
		return play.Voice{}, err
	}
	if spec.Part != "" {
		sample = b.parted(spec.Sample, spec.Part, sample)
	}
	if spec.Band[1] > 0 {
		sample = hear.BandOnly(sample, spec.Band[0], spec.Band[1])
	}
	return spec.Shape(sample), nil
}

// parted is what is struck in a recording or what is held. Both are remembered: the voices of a break are all cut from the same.
func (b *Bench) parted(hash string, part play.Part, whole sound.Buffer) sound.Buffer {
	b.parting.Lock() // one recording at a time: it takes all cores, and those who ask for the same wait for one answer
	defer b.parting.Unlock()
	if buf, ok := b.decoded.Get(partKey(hash, part)); ok {
		return buf
	}
	drums, left := hear.OnlyDrums(whole)
	b.decoded.Add(partKey(hash, play.DrumsPart), drums)
	b.decoded.Add(partKey(hash, play.LeftPart), left)
	if part == play.LeftPart {
		return left
	}
	return drums
}

func partKey(hash string, part play.Part) string { return fmt.Sprint(hash, " ", part) }

// Pass finds what a pattern of the project sounds, muted lanes included: a player drops those itself, so that a
// mute is heard at once.
func (b *Bench) Pass(p project.Project, pt pattern.Pattern, rate int) (play.Pass, error) {
	p = p.In(pt.Part)
	t, err := b.Table(p.Kit, rate)
	if err != nil {
		return play.Pass{}, err
	}
	pass := play.Cues(pt, p.FeelOf(pt), p.Settings.BPM, t, nil)
	return pass, b.remember(pass.Tuned...)
}

// TunedPad is one sound of a kit on a pad of its own, tuned.
type TunedPad struct {
	Tune int            `json:"tune"` // cents
	Pad  play.StrikePad `json:"pad"`
}

// TunedPads are the pads over which one sound of the project's kit is played: the pitches of a scale from its n-th on. Those that no hit
// can be tuned to are left out.
func (b *Bench) TunedPads(p project.Project, note int, scale music.Scale, from, pads, rate int) ([]TunedPad, error) {
	t, err := b.Table(p.Kit, rate)
	if err != nil {
		return nil, err
	}
	out := []TunedPad{}
	var voices []play.VoiceSpec
	for n := from; n < from+pads; n++ {
		semitones, err := scale.Degree(n)
		if err != nil {
			return nil, err
		}
		if semitones*100 < -pattern.MostTune || semitones*100 > pattern.MostTune {
			continue
		}
		pad, specs, ok := t.Tuned(note, semitones*100)
		if !ok {
			return nil, fmt.Errorf("%w: note %d has no sound to be tuned; give its lane one first", ErrInput, note)
		}
		out, voices = append(out, TunedPad{semitones * 100, pad}), append(voices, specs...)
	}
	return out, b.remember(voices...)
}

// MaxPasses bounds a bounce.
const MaxPasses = 256

// Bounce prepares a bounce of passes of a pattern as the project plays and mixes it, muted lanes left out. Lanes are the notes of those that are
// wanted alone as well.
func (b *Bench) Bounce(p project.Project, pt pattern.Pattern, rate, passes int, tail play.Tail, lanes ...int) (*play.Bounce, error) {
	p = p.In(pt.Part)
	if passes < 1 || passes > MaxPasses {
		return nil, fmt.Errorf("%w: a bounce has 1 to %d passes, not %d", ErrInput, MaxPasses, passes)
	}
	t, err := b.Table(p.Kit, rate)
	if err != nil {
		return nil, err
	}
	voices, err := b.shapeAll(t)
	if err != nil {
		return nil, err
	}
	pass := play.Cues(pt, p.FeelOf(pt), p.Settings.BPM, t, p.Settings.Silent)
	if err := b.remember(pass.Tuned...); err != nil {
		return nil, err
	}
	for _, spec := range pass.Tuned {
		if voices[spec.ID()], err = b.Voice(spec.ID()); err != nil {
			return nil, err
		}
	}
	return play.NewBounce(pass, passes, rate, voices, tail, desk(p, rate, func(int) string { return pt.Part }, lanes))
}

func (b *Bench) shapeAll(t play.Table) (map[string]play.Voice, error) {
	voices := map[string]play.Voice{}
	for _, spec := range t.Voices() {
		v, err := b.Voice(spec.ID())
		if err != nil {
			return nil, err
		}
		voices[spec.ID()] = v
	}
	return voices, nil
}

// EncodeVoice writes a voice as float WAV; its loop is a sample loop, as in the WAV format.
func EncodeVoice(v play.Voice) ([]byte, error) {
	var m sound.Marks
	if v.LoopEnd > 0 {
		m.Loops = []sound.Loop{{StartFrame: v.LoopStart, EndFrame: v.LoopEnd}}
	}
	return wav.EncodeMarked(v.Buffer, wav.Float32, m)
}

// bounceBlock is how many frames of a bounce are made at a time.
const bounceBlock = 1 << 16

// Written is a bounce as a WAV file that is written block by block.
type Written struct {
	Size   int64 // bytes
	Peak   float64
	bounce *play.Bounce
	writer *wav.Writer
	dither *sound.Ditherer
}

// WriteWAV prepares a WAV file of a bounce: 16 and 24 bits dithered, 32 as float. Nothing is written before Run.
func WriteWAV(out io.Writer, bounce *play.Bounce, bits int) (*Written, error) {
	coding, ok := map[int]wav.Coding{16: wav.PCM16, 24: wav.PCM24, 32: wav.Float32}[bits]
	if !ok {
		return nil, fmt.Errorf("%w: a WAV is written with 16, 24 or 32 bits, not %d", ErrInput, bits)
	}
	w, err := wav.NewWriter(out, bounce.Rate, 2, bounce.Frames, coding, sound.Marks{})
	if err != nil {
		return nil, err
	}
	f := &Written{Size: w.Size, bounce: bounce, writer: w}
	if bits < 32 {
		d := sound.NewDitherer(bits, 2, 1)
		f.dither = &d
	}
	return f, nil
}

// Run writes the file until it is whole or the context ends.
func (f *Written) Run(ctx context.Context) error {
	for {
		if err := ctx.Err(); err != nil {
			return err
		}
		block := f.bounce.Block(bounceBlock)
		if block.Frames() == 0 {
			return f.writer.Close()
		}
		f.Peak = max(f.Peak, block.Peak())
		if f.dither != nil {
			f.dither.Dither(block)
		}
		if err := f.writer.Write(block); err != nil {
			return err
		}
	}
}
