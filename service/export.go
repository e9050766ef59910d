package service

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"hexachord/core/mix"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/sound"
	"hexachord/format/bundle"
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
func (b *Bench) planExport(state project.State, e Export, at time.Time) (*exportWork, error) {
	p := state.Project
	w := &exportWork{b: b, p: p, state: state, e: e, midi: map[string][]byte{}}
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
	add := func(what string, bus int, of []string, words map[string]string, ext string) string {
		name := n.name(words, ext)
		w.files = append(w.files, ExportFile{Name: name, What: what, Of: of, bus: bus})
		return name
	}
	if e.Mix {
		add("mix", -1, nil, map[string]string{"what": "mix"}, ext)
	}
	if e.Outputs {
		for i := range p.Mix.All() {
			if of := codesOf(lanes, i); len(of) > 0 {
				add("output", i, of, map[string]string{"what": p.OutputName(i), "code": "out"}, ext)
			}
		}
	}
	if e.Lanes {
		first := len(p.Mix.All()) // a bounce's lanes come after its outputs
		for i, l := range lanes {
			add("lane", first+i, []string{l.code}, l.words(), ext)
		}
	}
	files, err := w.midiFiles()
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		w.midi[add("midi", 0, nil, f.words, ".mid")] = f.data
	}
	if e.Bundle {
		add("bundle", 0, nil, map[string]string{"what": "bundle"}, ".zip")
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
