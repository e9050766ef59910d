package server

import (
	"cmp"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/service"
)

type (
	// PatternPath names a pattern in an address.
	PatternPath struct {
		ProjectPath
		Pattern string `param:"pattern" path:"pattern" json:"-" maxLength:"64"`
	}
	passRequest struct {
		PatternPath
		Rate int    `query:"rate" required:"true" minimum:"8000" maximum:"192000" json:"-"`
		With string `query:"with" maxLength:"2100" json:"-"` // IDs of patterns of other parts that go round beside it, with commas
	}
	bounceRequest struct {
		PatternPath
		Rate   int    `query:"rate" enum:"44100,48000,96000" json:"-"`
		Bits   int    `query:"bits" enum:"16,24,32" json:"-"`
		Passes int    `query:"passes" minimum:"1" maximum:"256" json:"-"`
		Tail   string `query:"tail" enum:"ring,cut,lap" json:"-"` // what still rings at the end; ring when left out
	}
	midiRequest struct {
		PatternPath
		Sounding bool `query:"sounding" json:"-"` // with the feel, as the first pass sounds
	}
	midiImport struct {
		ProjectPath
		oneFile
		Revision int64 `query:"revision" required:"true" json:"-" minimum:"0" maximum:"9007199254740991"`
	}
	comparePatternsRequest struct {
		PatternPath
		With string `query:"with" required:"true" json:"-" maxLength:"64"` // ID of the other pattern
	}
)

func (s *Server) addPatternRoutes(api *echo.Group) {
	handle(s, api, http.MethodGet, "/projects/:project/patterns/:pattern/pass", "getPass", "What one time through a pattern sounds",
		func(_ *echo.Context, r passRequest) (service.Sounds, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return service.Sounds{}, err
			}
			return s.bench.Sound(p, service.Sounding{Pattern: r.Pattern, Rate: r.Rate, With: strings.FieldsFunc(r.With, func(c rune) bool { return c == ',' })})
		})
	handle(s, api, http.MethodGet, "/projects/:project/patterns/:pattern/compare", "comparePatterns", "How another pattern differs from one",
		func(_ *echo.Context, r comparePatternsRequest) (pattern.Comparison, error) {
			p, a, err := s.pattern(r.PatternPath)
			if err != nil {
				return pattern.Comparison{}, err
			}
			b, err := p.Pattern(r.With)
			return pattern.Compare(a, b), err
		})
	handleBlob(s, api, "/projects/:project/patterns/:pattern/midi", "getMIDI", "The pattern as a Standard MIDI File", "audio/midi",
		func(_ *echo.Context, r midiRequest) (blob, error) {
			p, pt, err := s.pattern(r.PatternPath)
			return blob{name: pt.Name + ".mid", data: service.MIDI(p, pt, r.Sounding)}, err
		})
	handleBlob(s, api, "/projects/:project/patterns/:pattern/wav", "getWAV", "The pattern bounced to WAV", "audio/wav",
		func(_ *echo.Context, r bounceRequest) (blob, error) {
			p, pt, err := s.pattern(r.PatternPath)
			if err != nil {
				return blob{}, err
			}
			bounce, err := s.bench.Bounce(p, pt, or(r.Rate, 44100), or(r.Passes, 1), play.Tail(cmp.Or(r.Tail, string(play.TailRing))))
			return wavBlob(pt.Name+".wav", bounce, or(r.Bits, 24), err)
		})
	handle(s, api, http.MethodPost, "/projects/:project/midi", "importMIDI", "Import a MIDI file (multipart field “file”) as a pattern",
		func(c *echo.Context, r midiImport) (Changed, error) {
			name, data, err := s.upload(c)
			if err != nil {
				return Changed{}, err
			}
			done, results, err := s.bench.ImportMIDI(r.Project, r.Revision, name, data)
			return s.changed(RevisionOf{ProjectPath: r.ProjectPath, Revision: r.Revision}, done, results, err)
		})
}

// wavBlob replies with a bounce, written block by block.
func wavBlob(name string, bounce *play.Bounce, bits int, err error) (blob, error) {
	if err != nil {
		return blob{}, err
	}
	var out later
	w, err := service.WriteWAV(&out, bounce, bits)
	if err != nil {
		return blob{}, err
	}
	return blob{name: name, size: w.Size, write: out.then(w.Run)}, nil
}

func or(v, otherwise int) int {
	if v == 0 {
		return otherwise
	}
	return v
}

func (s *Server) pattern(at PatternPath) (project.Project, pattern.Pattern, error) {
	p, err := s.bench.Load(at.Project)
	if err != nil {
		return p, pattern.Pattern{}, err
	}
	pt, err := p.Pattern(at.Pattern)
	return p, pt, err
}
