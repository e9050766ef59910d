// Package service is the work of the application between its store and its doors: it decodes audio, compiles
// kits, plays, bounces, hears and imports, for the server and for the commands alike.
package service

import (
	"errors"
	"fmt"
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"

	"hexachord/core/feel"
	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/sound"
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

// ErrVoice is a voice that no compiled kit has named since the start.
var ErrVoice = errors.New("no such voice; load the kit again")

// Bench is an open data folder at work. It is safe for many goroutines.
type Bench struct {
	*store.Store
	decoded *lru.Cache[string, sound.Buffer]
	bands   *lru.Cache[levelsKey, hear.Levels]
	shelf   shelfIndex

	mu    sync.Mutex
	specs map[string]play.VoiceSpec // every voice a table has named
	hears map[string]*hearing       // by recording ID, while they run
}

// Open opens the data folder.
func Open(dir string) (*Bench, error) {
	s, err := store.Open(dir)
	if err != nil {
		return nil, err
	}
	cache, err := lru.New[string, sound.Buffer](64)
	if err != nil {
		return nil, err
	}
	bands, err := lru.New[levelsKey, hear.Levels](32)
	if err != nil {
		return nil, err
	}
	b := &Bench{Store: s, decoded: cache, bands: bands, specs: map[string]play.VoiceSpec{}, hears: map[string]*hearing{}}
	if err := b.loadShelf(); err != nil {
		return nil, errors.Join(fmt.Errorf("the shelf cannot be read: %w", err), s.Close())
	}
	return b, nil
}

// AddAudio checks that a file is usable audio and keeps it.
func (b *Bench) AddAudio(name string, data []byte) (hash string, decoded audio.Decoded, err error) {
	decoded, err = audio.Decode(data, Limits)
	if err != nil {
		return "", decoded, fmt.Errorf("%s: %w", name, err)
	}
	hash, err = b.PutAudio(data, store.AudioInfo{Name: name, Format: decoded.Format, Bits: decoded.Bits,
		Rate: decoded.Rate, Channels: len(decoded.Channels), Frames: decoded.Frames()})
	if err == nil {
		b.decoded.Add(hash, decoded.Buffer)
	}
	return hash, decoded, err
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
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, v := range t.Voices() {
		b.specs[v.ID()] = v
	}
	return t, nil
}

// Voice makes a voice that Table has named.
func (b *Bench) Voice(id string) (play.Voice, error) {
	b.mu.Lock()
	spec, ok := b.specs[id]
	b.mu.Unlock()
	if !ok {
		return play.Voice{}, ErrVoice
	}
	if spec.ClickHz > 0 {
		return play.Click(spec.ClickHz, spec.Rate), nil
	}
	sample, err := b.Decode(spec.Sample)
	if err != nil {
		return play.Voice{}, err
	}
	if spec.Band[1] > 0 {
		sample = hear.BandOnly(sample, spec.Band[0], spec.Band[1])
	}
	return spec.Shape(sample), nil
}

// Pass finds what a pattern of the project sounds, muted lanes included: a player drops those itself, so that a
// mute is heard at once.
func (b *Bench) Pass(p store.Project, pt pattern.Pattern, rate int) (play.Pass, error) {
	t, err := b.Table(p.Kit, rate)
	if err != nil {
		return play.Pass{}, err
	}
	return play.Cues(pt, p.FeelOf(pt), p.Settings.BPM, t, nil), nil
}

// PassWith is Pass with a groove laid over that is not kept (use's ID says nothing). Errors: the groove's, or the feel's.
func (b *Bench) PassWith(p store.Project, pt pattern.Pattern, g feel.Groove, use feel.GrooveUse, rate int) (play.Pass, error) {
	f := p.FeelOf(pt)
	use.ID = "heard"
	f.Groove = use
	if err := errors.Join(g.Check(), f.Check()); err != nil {
		return play.Pass{}, err
	}
	t, err := b.Table(p.Kit, rate)
	if err != nil {
		return play.Pass{}, err
	}
	return play.Cues(pt, f.With(&g), p.Settings.BPM, t, nil), nil
}

// MaxPasses bounds a bounce.
const MaxPasses = 256

// Bounce renders passes of a pattern as the project plays it, muted lanes left out.
func (b *Bench) Bounce(p store.Project, pt pattern.Pattern, rate, passes int) (sound.Buffer, error) {
	if passes < 1 || passes > MaxPasses {
		return sound.Buffer{}, fmt.Errorf("a bounce has 1 to %d passes, not %d", MaxPasses, passes)
	}
	t, err := b.Table(p.Kit, rate)
	if err != nil {
		return sound.Buffer{}, err
	}
	voices, err := b.shapeAll(t)
	if err != nil {
		return sound.Buffer{}, err
	}
	return play.Bounce(play.Cues(pt, p.FeelOf(pt), p.Settings.BPM, t, p.Settings.Silent), passes, rate, voices), nil
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

// EncodeWAV writes a bounce: 16 and 24 bits dithered, 32 as float.
func EncodeWAV(buf sound.Buffer, bits int) ([]byte, error) {
	coding, ok := map[int]wav.Coding{16: wav.PCM16, 24: wav.PCM24, 32: wav.Float32}[bits]
	if !ok {
		return nil, fmt.Errorf("a WAV is written with 16, 24 or 32 bits, not %d", bits)
	}
	if bits < 32 {
		buf.Dither(bits, 1)
	}
	return wav.Encode(buf, coding)
}
