package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"path"
	"runtime"
	"slices"
	"strings"
	"sync"

	"hexachord/core/hear"
	"hexachord/core/kind"
	"hexachord/core/kit"
	"hexachord/core/music"
	"hexachord/core/play"
	"hexachord/core/shelf"
	"hexachord/core/sound"
	"hexachord/format/archive"
	"hexachord/format/audio"
	"hexachord/format/wav"
	"hexachord/store"
)

// SampleFile is a file brought to the shelf; a zip stands for the files in it.
type SampleFile struct {
	Name   string
	Folder string // where it came from, parts parted by /
	Data   []byte
}

// SampleReport says what became of one file.
type SampleReport struct {
	File       string    `json:"file"`
	Status     string    `json:"status" enum:"added,known,refused"`
	Hash       string    `json:"hash,omitempty"`
	Kind       kind.Kind `json:"kind,omitempty"`
	Confidence float64   `json:"confidence,omitempty"`
	Detail     string    `json:"detail,omitempty"` // why it was refused, or under which name it is known
}

// Loudness tells a sample's measured loudness, LUFS.
func (b *Bench) Loudness(hash string) float64 {
	if it, err := b.Sample(hash); err == nil {
		return it.Facts.Loudness
	}
	if buf, err := b.Decode(hash); err == nil {
		return kind.Loudness(buf)
	}
	return kind.Silence
}

// PeakDB tells a sample's highest peak, dBFS.
func (b *Bench) PeakDB(hash string) float64 {
	if it, err := b.Sample(hash); err == nil {
		return it.Facts.PeakDB
	}
	if buf, err := b.Decode(hash); err == nil {
		return sound.DB(buf.Peak())
	}
	return kind.Silence
}

// ImportSamples brings files to the shelf. Each file has its report, in order, those in a zip in the zip's place; what
// cannot be used is reported and the rest is taken in. When the context ends, what was taken in stays.
func (b *Bench) ImportSamples(ctx context.Context, files []SampleFile) ([]SampleReport, error) {
	type job struct {
		file func() (SampleFile, error)
		name string
	}
	var jobs []job
	for _, f := range files {
		if !archive.Sniff(f.Data) {
			jobs = append(jobs, job{func() (SampleFile, error) { return f, nil }, f.Name})
			continue
		}
		entries, err := archive.Open(f.Data, archive.Usual)
		if err != nil {
			jobs = append(jobs, job{func() (SampleFile, error) { return f, err }, f.Name})
			continue
		}
		inside := path.Join(f.Folder, strings.TrimSuffix(f.Name, path.Ext(f.Name)))
		for _, e := range entries {
			jobs = append(jobs, job{func() (SampleFile, error) {
				data, err := e.Read()
				return SampleFile{Name: path.Base(e.Path), Folder: strings.TrimSuffix(path.Join(inside, path.Dir(e.Path)), "/."), Data: data}, err
			}, e.Path})
		}
	}
	reports := make([]SampleReport, len(jobs))
	items := make([]*shelf.Item, len(jobs))
	next := make(chan int)
	var wg sync.WaitGroup
	for range runtime.NumCPU() {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for i := range next {
				f, err := jobs[i].file()
				if err == nil {
					reports[i], items[i], err = b.takeSample(f)
				}
				if err != nil {
					reports[i] = SampleReport{File: jobs[i].name, Status: "refused", Detail: strings.TrimPrefix(err.Error(), jobs[i].name+": ")}
				}
			}
		}()
	}
	done := len(jobs)
	for i := range jobs {
		if ctx.Err() != nil {
			done = i
			break
		}
		next <- i
	}
	close(next)
	wg.Wait()
	var fresh []shelf.Item
	first := map[string]string{} // the same sound may have come twice at once; the first stays
	for i, it := range items {
		if it == nil {
			continue
		}
		if name, ok := first[it.Hash]; ok {
			reports[i].Status, reports[i].Detail = "known", "the same sound as "+name
			continue
		}
		first[it.Hash] = it.Name
		fresh = append(fresh, *it)
	}
	if err := b.keepSamples(fresh); err != nil {
		return nil, err
	}
	return reports[:done], nil
}

// takeSample keeps one file's audio and describes it; the item is nil when the shelf has it already.
func (b *Bench) takeSample(f SampleFile) (SampleReport, *shelf.Item, error) {
	r := SampleReport{File: f.Name, Status: "added"}
	trashed, err := b.trashed(store.HashOf(f.Data))
	if err != nil {
		return r, nil, err
	}
	hash, d, err := b.AddAudio(f.Name, f.Data)
	if err != nil {
		return r, nil, err
	}
	r.Hash = hash
	if trashed {
		r.Detail = "it was in the trash"
	}
	known, err := b.Sample(hash)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return r, nil, err
	}
	if err == nil {
		r.Kind, r.Confidence = known.Kind, known.Confidence
		if trashed {
			return r, nil, nil
		}
		r.Status = "known"
		if known.Name != f.Name {
			r.Detail = "the same sound as " + known.Name
		}
		return r, nil, nil
	}
	it := itemOf(hash, f.Name, f.Folder, d)
	if _, err := json.Marshal(it); err != nil { // a figure that is none would spoil the others' keeping
		return r, nil, fmt.Errorf("%s: %w: what it sounds like cannot be told", f.Name, sound.ErrAudio)
	}
	r.Kind, r.Confidence = it.Kind, it.Confidence
	return r, &it, nil
}

func itemOf(hash, name, folder string, d audio.Decoded) shelf.Item {
	facts, guesses := kind.BySound(d.Buffer)
	guesses = kind.Judge(name, folder, guesses)
	it := shelf.Item{Hash: hash, Name: name, Folder: folder, Kind: guesses[0].Kind, Confidence: guesses[0].Confidence,
		Guesses: guesses[:min(4, len(guesses))], Tags: []string{}, Format: d.Format, Bits: d.Bits, Float: d.Float, Rate: d.Rate, Channels: len(d.Channels),
		Frames: d.Frames(), Facts: facts, Cues: d.Cues, Loops: d.Loops}
	if it.Cues == nil {
		it.Cues = []int{}
	}
	if it.Loops == nil {
		it.Loops = []sound.Loop{}
	}
	return it
}

// CorrectSample says what a sample is, or with "" leaves it to name and sound, and sets its tags when they are given.
func (b *Bench) CorrectSample(hash string, k *kind.Kind, tags []string) (shelf.Item, error) {
	it, err := b.Sample(hash)
	if err != nil {
		return it, err
	}
	if k != nil {
		switch {
		case *k == "":
			it.Kind, it.Confidence, it.Corrected = it.Guesses[0].Kind, it.Guesses[0].Confidence, false
		case k.Valid():
			it.Kind, it.Confidence, it.Corrected = *k, 1, true
		default:
			return it, fmt.Errorf("%w: %q is not a kind", ErrInput, *k)
		}
	}
	if tags != nil {
		it.Tags = []string{}
		for _, t := range tags {
			t = strings.ToLower(strings.TrimSpace(t))
			if len(t) > 40 || len(it.Tags) == 50 {
				return it, fmt.Errorf("%w: a sample has at most 50 tags of 40 characters", ErrInput)
			}
			if t != "" && !slices.Contains(it.Tags, t) {
				it.Tags = append(it.Tags, t)
			}
		}
	}
	return it, b.keepSamples([]shelf.Item{it})
}

// Wave is a stretch of a sample drawn: the lowest and highest level in each of equal parts, −127..127.
type Wave struct {
	StartFrame int   `json:"startFrame"`
	EndFrame   int   `json:"endFrame"`
	Frames     int   `json:"frames"` // of the whole sample
	Rate       int   `json:"rate"`
	Low        []int `json:"low"`
	High       []int `json:"high"`
}

// DrawSample draws a sample from startFrame to endFrame (0 = its end) in columns.
func (b *Bench) DrawSample(hash string, startFrame, endFrame, columns int) (Wave, error) {
	if columns < 1 || columns > 4096 {
		return Wave{}, fmt.Errorf("%w: a picture has 1 to 4096 columns", ErrInput)
	}
	buf, err := b.Decode(hash)
	if err != nil {
		return Wave{}, err
	}
	n := buf.Frames()
	if endFrame <= 0 || endFrame > n {
		endFrame = n
	}
	startFrame = min(max(0, startFrame), endFrame)
	w := Wave{StartFrame: startFrame, EndFrame: endFrame, Frames: n, Rate: buf.Rate, Low: make([]int, columns), High: make([]int, columns)}
	for c := range columns {
		from := startFrame + c*(endFrame-startFrame)/columns
		to := startFrame + (c+1)*(endFrame-startFrame)/columns
		lo, hi := float32(0), float32(0)
		for _, ch := range buf.Channels {
			for _, v := range ch[from:min(n, max(from+1, to))] {
				lo, hi = min(lo, v), max(hi, v)
			}
		}
		w.Low[c], w.High[c] = int(127*max(-1, lo)), int(127*min(1, hi))
	}
	return w, nil
}

// Trim finds where a sample begins and ends to sound louder than belowDB (dBFS), in frames.
func (b *Bench) Trim(hash string, belowDB float64) (startFrame, endFrame int, err error) {
	if !(belowDB >= -120 && belowDB <= 0) {
		return 0, 0, fmt.Errorf("%w: the threshold lies between −120 and 0 dB", ErrInput)
	}
	buf, err := b.Decode(hash)
	if err != nil {
		return 0, 0, err
	}
	startFrame, endFrame = buf.Audible(kit.DBToGain(belowDB))
	return startFrame, endFrame, nil
}

// Snap finds the frame nearest to one at which the waveform crosses zero ("zero"), or a stroke begins ("attack").
func (b *Bench) Snap(ctx context.Context, hash string, frame int, to string) (int, error) {
	buf, err := b.Decode(hash)
	if err != nil {
		return 0, err
	}
	switch to {
	case "zero":
		return buf.NearestZero(frame), nil
	case "attack":
		attacks, err := hear.Attacks(ctx, buf, 0, 0)
		if err != nil {
			return 0, err
		}
		best := frame
		for i, a := range attacks {
			at := int(a.TimeS * float64(buf.Rate))
			if i == 0 || abs(at-frame) < abs(best-frame) {
				best = at
			}
		}
		return best, nil
	}
	return 0, fmt.Errorf("%w: a place is snapped to “zero” or “attack”, not %q", ErrInput, to)
}

func abs(n int) int { return max(n, -n) }

// Audition names the voice by which a sample, or a part of it, is heard on its own, at a loudness like the others'.
// bpm is the tempo at which a loop is heard; 0 leaves it as it is.
func (b *Bench) Audition(hash string, startFrame, endFrame, rate int, bpm float64) (voice string, gain float64, err error) {
	buf, err := b.Decode(hash)
	if err != nil {
		return "", 0, err
	}
	if rate < MinRate || rate > MaxRate {
		return "", 0, ErrRate
	}
	form := kit.Whole()
	form.StartFrame, form.EndFrame = startFrame, endFrame
	spec := play.VoiceSpec{Sample: hash, Form: form, Rate: rate}
	if bpm > 0 {
		if err := music.CheckBPM(bpm); err != nil {
			return "", 0, err
		}
		spec.Stretch = LoopTempo(buf.Seconds()) / bpm
	}
	if err := b.remember(spec); err != nil {
		return "", 0, err
	}
	const level = -20 // LUFS
	g := kit.DBToGain(level - b.Loudness(hash))
	return spec.ID(), math.Min(g, 0.7/math.Max(1e-3, buf.Peak())), nil
}

// LoopTempo is the tempo of a loop of some length in 4/4, if it is a power of two of beats: the one between 75 and
// 150 BPM.
func LoopTempo(seconds float64) float64 {
	bpm := 60 / seconds
	for bpm < 75 {
		bpm *= 2
	}
	for bpm >= 150 {
		bpm /= 2
	}
	return bpm
}

// RegionWAV is a part of a sample as a WAV file at the sample's own rate and depth. A part of a WAV is copied bit by
// bit; of a format that tells no depth it is 24 bits.
func (b *Bench) RegionWAV(hash string, startFrame, endFrame int) (name string, data []byte, err error) {
	it, err := b.Sample(hash)
	if err != nil {
		return "", nil, err
	}
	buf, err := b.Decode(hash)
	if err != nil {
		return "", nil, err
	}
	n := buf.Frames()
	if endFrame <= 0 || endFrame > n {
		endFrame = n
	}
	if startFrame < 0 || startFrame >= endFrame {
		return "", nil, fmt.Errorf("%w: frames %d to %d are no part of the sample's %d", ErrInput, startFrame, endFrame, n)
	}
	part := buf.Region(startFrame, endFrame)
	coding := wav.PCM24
	switch {
	case it.Float || it.Bits == 32:
		coding = wav.Float32
	case it.Bits > 0 && it.Bits <= 16:
		coding = wav.PCM16
	}
	data, err = wav.Encode(part, coding)
	stem := strings.TrimSuffix(it.Name, path.Ext(it.Name))
	return fmt.Sprintf("%s %d-%d.wav", stem, startFrame, endFrame), data, err
}

// DescribeMissing puts on the shelf whatever audio the data folder holds that is not there yet.
func (b *Bench) DescribeMissing(ctx context.Context) error {
	all, err := b.AudioNames()
	if err != nil {
		return err
	}
	var failed []error
	for hash, name := range all {
		if err := ctx.Err(); err != nil {
			return err
		}
		if _, err := b.Sample(hash); err == nil {
			continue
		} else if !errors.Is(err, store.ErrNotFound) {
			return err
		}
		data, _, err := b.Audio(hash)
		if err != nil {
			continue // it is missing from the folder; what sounds it says so
		}
		d, err := audio.Decode(data, Limits)
		if err != nil {
			continue
		}
		if err := b.keepSamples([]shelf.Item{itemOf(hash, name, "", d)}); err != nil {
			failed = append(failed, fmt.Errorf("%s: %w", name, err)) // the others are described all the same
		}
	}
	return errors.Join(failed...)
}
