package service

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"

	"hexachord/core/mix"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/sound"
	"hexachord/format/bundle"
	"hexachord/format/flac"
	"hexachord/format/wav"
)

// Export is what is to be made of a project: which stretch of it, which files, and how they are written.
type Export struct {
	Of      string `json:"of" enum:"song,pattern"`
	Pattern string `json:"pattern,omitempty" maxLength:"64"`
	Passes  int    `json:"passes,omitempty" minimum:"0" maximum:"256"` // of a pattern; 0 is 1
	FromBar int    `json:"fromBar,omitempty" minimum:"0" maximum:"2000"`
	ToBar   int    `json:"toBar,omitempty" minimum:"0" maximum:"2000"` // of the song; 0 is its end

	Mix     bool   `json:"mix,omitempty"`
	Outputs bool   `json:"outputs,omitempty"` // a file each, after their processing
	Lanes   bool   `json:"lanes,omitempty"`   // a file each, before it: they add up to the dry mix
	MIDI    string `json:"midi,omitempty" enum:",tracks,files,one"`
	// Straight leaves the feel out of the MIDI; GM gives its notes by role.
	Straight bool `json:"straight,omitempty"`
	GM       bool `json:"gm,omitempty"`
	Bundle   bool `json:"bundle,omitempty"`

	Rate    int     `json:"rate" minimum:"8000" maximum:"192000"`
	Bits    int     `json:"bits" minimum:"16" maximum:"32"`
	FLAC    bool    `json:"flac,omitempty"`
	Mono    bool    `json:"mono,omitempty"` // the mix in one channel
	Tail    string  `json:"tail,omitempty" enum:",ring,cut,lap"`
	Level   string  `json:"level,omitempty" enum:",peak,loudness"` // to which everything is raised or lowered alike
	LevelTo float64 `json:"levelTo,omitempty" minimum:"-60" maximum:"0"`
	Markers bool    `json:"markers,omitempty"`               // bars, sections and the tempo in each WAV
	Names   string  `json:"names,omitempty" maxLength:"200"` // words in braces stand for what they say
}

// NamesUsual is how files are named when nothing else is said.
const NamesUsual = "{project}_{code}_{what}_{tempo}"

// NameWords are the words a pattern of names may hold.
var NameWords = []string{"project", "code", "what", "part", "note", "tempo", "bars", "rate", "date", "number"}

// ErrExport is an export that cannot be made.
var ErrExport = errors.New("this cannot be exported")

// Check reports ErrExport.
func (e Export) Check() error {
	switch {
	case e.Rate < MinRate || e.Rate > MaxRate:
		return ErrRate
	case e.Bits != 16 && e.Bits != 24 && e.Bits != 32:
		return fmt.Errorf("%w: sound has 16, 24 or 32 bits, not %d", ErrExport, e.Bits)
	case e.FLAC && e.Bits == 32:
		return fmt.Errorf("%w: FLAC has 16 or 24 bits; take WAV for float", ErrExport)
	case e.Of != "song" && e.Of != "pattern":
		return fmt.Errorf("%w: it is of the song or of a pattern", ErrExport)
	case !e.Mix && !e.Outputs && !e.Lanes && e.MIDI == "" && !e.Bundle:
		return fmt.Errorf("%w: nothing is chosen; choose the mix, outputs, lanes, MIDI or the bundle", ErrExport)
	}
	return nil
}

// ExportFile is a file of an export.
type ExportFile struct {
	Name string   `json:"name"`
	What string   `json:"what" enum:"mix,output,lane,midi,bundle"`
	Of   []string `json:"of,omitempty"` // codes of the lanes in it
	Note int      `json:"note"`         // of a lane, raised by its part; −1 else
	Size int64    `json:"size"`
	Done bool     `json:"done"`
	mix.Loudness
	bus int // of the bounce: −1 is the mix
}

// ExportState is how far an export has come.
type ExportState struct {
	ID       string       `json:"id"`
	Project  string       `json:"project"`
	Revision int64        `json:"revision"` // what is written is the project as of then
	At       time.Time    `json:"at"`
	Folder   string       `json:"folder"` // where the files are, on the machine the bench runs on
	Files    []ExportFile `json:"files"`
	Done     bool         `json:"done"`
	Error    string       `json:"error,omitempty"`
	Share    float64      `json:"share"`   // 0..1
	LeftS    float64      `json:"leftS"`   // as it seems, seconds
	Times    float64      `json:"times"`   // how many times as fast as it plays
	Seconds  float64      `json:"seconds"` // of sound
	Bytes    int64        `json:"bytes"`   // of all files, as far as they are known
}

// exporting is an export under way or made.
type exporting struct {
	mu    sync.Mutex
	state ExportState
	stop  context.CancelFunc
	ended chan struct{}
}

// mostExports are how many exports are kept in the data folder; older ones go.
const mostExports = 8

func (b *Bench) exportFolder(id string) string { return filepath.Join(b.Dir(), "exports", id) }

// StartExport begins an export of a project as it is now and returns at once.
func (b *Bench) StartExport(projectID string, e Export) (ExportState, error) {
	if err := e.Check(); err != nil {
		return ExportState{}, err
	}
	state, err := b.State(projectID)
	if err != nil {
		return ExportState{}, err
	}
	p := state.Project
	if e.Names == "" {
		e.Names = NamesUsual
	}
	w, err := b.planExport(p, e, time.Now())
	if err != nil {
		return ExportState{}, err
	}
	w.state = state
	id := b.NewID()
	ctx, stop := context.WithCancel(context.Background())
	x := &exporting{stop: stop, ended: make(chan struct{}), state: ExportState{ID: id, Project: p.ID, Revision: p.Revision, At: time.Now().UTC(), Folder: b.exportFolder(id), Files: w.files, Seconds: w.seconds}}
	if err := os.MkdirAll(x.state.Folder, 0o700); err != nil {
		stop()
		return ExportState{}, err
	}
	b.mu.Lock()
	b.exports = append(b.exports, x)
	b.mu.Unlock()
	go func() {
		defer close(x.ended)
		defer stop()
		err := w.run(ctx, x)
		x.mu.Lock()
		x.state.Done = err == nil
		if err != nil {
			x.state.Error = explainWrite(err, x.state.Bytes)
			x.state.Files = nil
		}
		x.mu.Unlock()
		if err != nil { // nothing half-written remains
			_ = os.RemoveAll(x.state.Folder)
		}
		b.forgetExports()
	}()
	return x.now(), nil
}

// PlanExport says which files an export would make of a project as it is now.
func (b *Bench) PlanExport(projectID string, e Export) (ExportState, error) {
	if err := e.Check(); err != nil {
		return ExportState{}, err
	}
	p, err := b.Load(projectID)
	if err != nil {
		return ExportState{}, err
	}
	if e.Names == "" {
		e.Names = NamesUsual
	}
	w, err := b.planExport(p, e, time.Now())
	if err != nil {
		return ExportState{}, err
	}
	return ExportState{Project: projectID, Revision: p.Revision, Files: w.files, Seconds: w.seconds}, nil
}

// ExportTo makes an export of a project as it is now in a folder that is there, and returns when it is made. Of one that fails nothing is left.
func (b *Bench) ExportTo(ctx context.Context, projectID string, e Export, folder string) (ExportState, error) {
	if err := e.Check(); err != nil {
		return ExportState{}, err
	}
	state, err := b.State(projectID)
	if err != nil {
		return ExportState{}, err
	}
	if e.Names == "" {
		e.Names = NamesUsual
	}
	w, err := b.planExport(state.Project, e, time.Now())
	if err != nil {
		return ExportState{}, err
	}
	w.state = state
	x := &exporting{state: ExportState{Project: projectID, Revision: state.Revision, Folder: folder, Files: w.files, Seconds: w.seconds}}
	if err := w.run(ctx, x); err != nil {
		for _, f := range w.files {
			_ = os.Remove(filepath.Join(folder, f.Name))
		}
		return ExportState{}, errors.New(explainWrite(err, x.state.Bytes))
	}
	return x.now(), nil
}

// explainWrite says why an export ended, and what is needed where the disk is full.
func explainWrite(err error, bytes int64) string {
	switch {
	case errors.Is(err, context.Canceled):
		return "cancelled; nothing of it was kept"
	case errors.Is(err, syscall.ENOSPC):
		return fmt.Sprintf("the disk is full: this export needs about %d MB; nothing half-written was kept", 1+bytes>>20)
	}
	return err.Error()
}

func (x *exporting) now() ExportState {
	x.mu.Lock()
	defer x.mu.Unlock()
	s := x.state
	s.Files = slices.Clone(s.Files)
	return s
}

// forgetExports takes out the oldest exports that are made.
func (b *Bench) forgetExports() {
	b.mu.Lock()
	defer b.mu.Unlock()
	for len(b.exports) > mostExports {
		select {
		case <-b.exports[0].ended:
			_ = os.RemoveAll(b.exports[0].state.Folder)
			b.exports = b.exports[1:]
		default:
			return
		}
	}
}

func (b *Bench) export(id string) (*exporting, error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, x := range b.exports {
		if x.state.ID == id {
			return x, nil
		}
	}
	return nil, fmt.Errorf("the export: %w", project.ErrNotFound)
}

// ExportState says how far an export has come.
func (b *Bench) ExportState(id string) (ExportState, error) {
	x, err := b.export(id)
	if err != nil {
		return ExportState{}, err
	}
	return x.now(), nil
}

// StopExport cancels an export, or takes out what it made.
func (b *Bench) StopExport(id string) (ExportState, error) {
	x, err := b.export(id)
	if err != nil {
		return ExportState{}, err
	}
	x.stop()
	<-x.ended
	s := x.now()
	b.mu.Lock()
	b.exports = slices.DeleteFunc(b.exports, func(o *exporting) bool { return o == x })
	b.mu.Unlock()
	return s, os.RemoveAll(s.Folder)
}

// ExportedFile is the path of a file of an export that is made.
func (b *Bench) ExportedFile(id, name string) (string, error) {
	s, err := b.ExportState(id)
	if err != nil {
		return "", err
	}
	for _, f := range s.Files {
		if f.Name == name && f.Done {
			return filepath.Join(s.Folder, f.Name), nil
		}
	}
	return "", fmt.Errorf("the file of the export: %w", project.ErrNotFound)
}

// exportWork is an export that is prepared.
type exportWork struct {
	b       *Bench
	p       project.Project
	state   project.State
	e       Export
	files   []ExportFile
	seconds float64
	bounce  func() (*play.Bounce, error)
	marks   func(rate int) sound.Marks
	midi    map[string][]byte // by file name
}

// planExport finds which files there will be, and prepares them.
func (b *Bench) planExport(p project.Project, e Export, at time.Time) (*exportWork, error) {
	w := &exportWork{b: b, p: p, e: e, midi: map[string][]byte{}}
	tail := play.Tail(e.Tail)
	if tail == "" {
		tail = play.TailRing
	}
	lanes, err := w.sounding()
	if err != nil {
		return nil, err
	}
	var notes []int
	if e.Lanes {
		for _, l := range lanes {
			notes = append(notes, l.note)
		}
	}
	bars := 0
	switch e.Of {
	case "song":
		from, to := e.FromBar, e.ToBar
		if to <= from {
			from, to = 0, p.SongEnd()
		}
		bars = to - from
		w.bounce = func() (*play.Bounce, error) { return b.BounceSong(p, e.Rate, from, to, tail, notes...) }
		w.marks = func(rate int) sound.Marks { return songMarks(p, from, to, rate) }
	default:
		pt, err := p.Pattern(e.Pattern)
		if err != nil {
			return nil, err
		}
		passes := max(1, e.Passes)
		bars = pt.Bars * passes
		w.bounce = func() (*play.Bounce, error) { return b.Bounce(p, pt, e.Rate, passes, tail, notes...) }
		w.marks = func(rate int) sound.Marks { return patternMarks(p, pt, passes, rate) }
	}
	if e.Mix || e.Outputs || e.Lanes {
		bounce, err := w.bounce()
		if err != nil {
			return nil, err
		}
		w.seconds = float64(bounce.Frames) / float64(e.Rate)
	}
	n := namer{pattern: e.Names, taken: map[string]bool{}, common: map[string]string{
		"project": p.Title(), "tempo": fmt.Sprintf("%g", math.Round(p.Settings.BPM*100)/100), "bars": fmt.Sprint(bars), "rate": fmt.Sprint(e.Rate), "date": at.Format("2006-01-02"),
	}}
	ext := ".wav"
	if e.FLAC {
		ext = ".flac"
	}
	add := func(what string, bus, note int, of []string, words map[string]string, ext string) string {
		name := n.name(words, ext)
		w.files = append(w.files, ExportFile{Name: name, What: what, Of: of, Note: note, bus: bus})
		return name
	}
	if e.Mix {
		add("mix", -1, -1, nil, map[string]string{"what": "mix"}, ext)
	}
	if e.Outputs {
		for i := range p.Mix.All() {
			if of := codesOf(lanes, i); len(of) > 0 {
				add("output", i, -1, of, map[string]string{"what": OutputName(p, i), "code": "out"}, ext)
			}
		}
	}
	if e.Lanes {
		first := len(p.Mix.All()) // a bounce's lanes come after its outputs
		for i, l := range lanes {
			add("lane", first+i, l.note, []string{l.code}, l.words(), ext)
		}
	}
	files, err := w.midiFiles()
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		w.midi[add("midi", 0, -1, nil, f.words, ".mid")] = f.data
	}
	if e.Bundle {
		add("bundle", 0, -1, nil, map[string]string{"what": "bundle"}, ".zip")
	}
	return w, nil
}

// namer makes file names.
type namer struct {
	pattern string
	common  map[string]string
	taken   map[string]bool
	made    int
}

func (n *namer) name(words map[string]string, ext string) string {
	n.made++
	name := n.pattern
	for _, w := range NameWords {
		v := words[w]
		if v == "" {
			v = n.common[w]
		}
		if w == "number" {
			v = fmt.Sprintf("%02d", n.made)
		}
		name = strings.ReplaceAll(name, "{"+w+"}", strings.ReplaceAll(strings.TrimSpace(v), " ", "-"))
	}
	for _, twice := range []string{"__", "--", "  "} { // what a word with nothing to say leaves
		for strings.Contains(name, twice) {
			name = strings.ReplaceAll(name, twice, twice[:1])
		}
	}
	name = strings.Trim(strings.NewReplacer("/", "-", `\`, "-", "..", "").Replace(name), "_- .")
	if name == "" {
		name = "export"
	}
	if runes := []rune(name); len(runes) > 120 {
		name = string(runes[:120])
	}
	return bundle.FreeName(name+ext, n.taken)
}

// writer writes one file of sound.
type writer struct {
	file   *os.File
	out    interface{ Write(sound.Buffer) error }
	close  func() error
	dither *sound.Ditherer
	meter  *mix.Meter
	mono   bool
}

func (w *exportWork) open(path string, frames int, marks sound.Marks, mono bool) (_ *writer, err error) {
	f, err := os.Create(path)
	if err != nil {
		return nil, err
	}
	channels := 2
	if mono {
		channels = 1
	}
	x := &writer{file: f, meter: mix.NewMeter(w.e.Rate), mono: mono}
	if w.e.Bits < 32 {
		d := sound.NewDitherer(w.e.Bits, channels, 1)
		x.dither = &d
	}
	if w.e.FLAC {
		out, err := flac.NewWriter(f, w.e.Rate, channels, w.e.Bits)
		x.out, x.close = out, func() error { return out.Close() }
		return x, err
	}
	out, err := wav.NewWriter(f, w.e.Rate, channels, frames, map[int]wav.Coding{16: wav.PCM16, 24: wav.PCM24, 32: wav.Float32}[w.e.Bits], marks)
	x.out, x.close = out, func() error { return errors.Join(out.Close(), f.Close()) }
	return x, err
}

func (x *writer) write(b [2][]float64, gain float64, rate int) error {
	for side := range b {
		if gain != 1 {
			for i := range b[side] {
				b[side][i] *= gain
			}
		}
	}
	x.meter.Write(b)
	out := sound.New(rate, 2, len(b[0]))
	for side := range b {
		for i, v := range b[side] {
			out.Channels[side][i] = float32(v)
		}
	}
	if x.mono {
		out = sound.Buffer{Rate: rate, Channels: [][]float32{out.Mono()}}
	}
	if x.dither != nil {
		x.dither.Dither(out)
	}
	return x.out.Write(out)
}

// measured is how loud the mix is, before it is written.
func (w *exportWork) measured(ctx context.Context, tick func(frames int)) (mix.Loudness, error) {
	bounce, err := w.bounce()
	if err != nil {
		return mix.Loudness{}, err
	}
	m := mix.NewMeter(w.e.Rate)
	for {
		mixed, _, _, ok := bounce.Blocks()
		if !ok {
			return m.Loudness(), ctx.Err()
		}
		if err := ctx.Err(); err != nil {
			return mix.Loudness{}, err
		}
		m.Write(mixed[0])
		tick(len(mixed[0][0]))
	}
}

// run writes the files. Sound is bounced once for all of them, block by block.
func (w *exportWork) run(ctx context.Context, x *exporting) (err error) {
	began := time.Now()
	var sounds []int
	for i, f := range w.files {
		if f.What == "mix" || f.What == "output" || f.What == "lane" {
			sounds = append(sounds, i)
		}
	}
	rounds, heard := 1, 0
	if w.e.Level != "" {
		rounds = 2
	}
	total := 0
	tick := func(frames int) {
		heard += frames
		x.mu.Lock()
		defer x.mu.Unlock()
		x.state.Share = min(0.99, float64(heard)/float64(max(1, rounds*total)))
		since := time.Since(began).Seconds()
		x.state.Times = float64(heard) / float64(w.e.Rate) / max(1e-6, since)
		x.state.LeftS = since / max(1e-6, x.state.Share) * (1 - x.state.Share)
	}
	if len(sounds) > 0 {
		bounce, err := w.bounce()
		if err != nil {
			return err
		}
		total = bounce.Frames
		x.mu.Lock()
		width := int64(w.e.Bits / 8 * 2)
		x.state.Bytes = int64(total) * width * int64(len(sounds))
		x.mu.Unlock()
		gain := 1.0
		if w.e.Level != "" {
			l, err := w.measured(ctx, tick)
			if err != nil {
				return err
			}
			at := l.PeakDB
			if w.e.Level == "loudness" {
				at = l.Integrated
			}
			if at > -100 {
				gain = math.Pow(10, (w.e.LevelTo-at)/20)
			}
		}
		if err := w.writeSounds(ctx, x, bounce, sounds, gain, tick); err != nil {
			return err
		}
	}
	for i, f := range w.files {
		if err := ctx.Err(); err != nil {
			return err
		}
		var data []byte
		switch f.What {
		case "midi":
			data = w.midi[f.Name]
		case "bundle":
			if data, err = w.b.ProjectBundle(w.state); err != nil {
				return err
			}
		default:
			continue
		}
		if err := os.WriteFile(filepath.Join(x.state.Folder, f.Name), data, 0o600); err != nil {
			return err
		}
		x.made(i, int64(len(data)), mix.Loudness{})
	}
	x.mu.Lock()
	x.state.Share, x.state.LeftS, x.state.Bytes = 1, 0, 0
	for _, f := range x.state.Files {
		x.state.Bytes += f.Size
	}
	x.mu.Unlock()
	return nil
}

func (x *exporting) made(i int, size int64, l mix.Loudness) {
	x.mu.Lock()
	defer x.mu.Unlock()
	f := &x.state.Files[i]
	f.Size, f.Done, f.Loudness = size, true, l
}

func (w *exportWork) writeSounds(ctx context.Context, x *exporting, bounce *play.Bounce, sounds []int, gain float64, tick func(int)) (err error) {
	var marks sound.Marks
	if w.e.Markers {
		marks = w.marks(w.e.Rate)
	}
	open := make([]*writer, 0, len(sounds))
	defer func() {
		for _, o := range open {
			if err != nil {
				_ = o.file.Close()
			}
		}
	}()
	for _, i := range sounds {
		o, err := w.open(filepath.Join(x.state.Folder, w.files[i].Name), bounce.Frames, marks.Within(bounce.Frames), w.e.Mono && w.files[i].What == "mix")
		if err != nil {
			return err
		}
		open = append(open, o)
	}
	for {
		if err := ctx.Err(); err != nil {
			return err
		}
		mixed, outputs, lanes, ok := bounce.Blocks()
		if !ok {
			break
		}
		errs := make([]error, len(open))
		var all sync.WaitGroup
		for k, o := range open {
			block := mixed[0]
			switch bus := w.files[sounds[k]].bus; {
			case bus >= len(outputs):
				block = lanes[bus-len(outputs)]
			case bus >= 0:
				block = outputs[bus]
			}
			all.Go(func() { errs[k] = o.write(block, gain, w.e.Rate) })
		}
		all.Wait()
		if err := errors.Join(errs...); err != nil {
			return err
		}
		tick(len(mixed[0][0]))
	}
	for k, o := range open {
		if err := o.close(); err != nil {
			return err
		}
		info, err := os.Stat(o.file.Name())
		if err != nil {
			return err
		}
		x.made(sounds[k], info.Size(), o.meter.Loudness())
	}
	open = open[:0]
	return nil
}

// ZipExport writes all files of an export that is made as one zip.
func (b *Bench) ZipExport(id string, out io.Writer) error {
	s, err := b.ExportState(id)
	if err != nil {
		return err
	}
	return zipFiles(out, s)
}
