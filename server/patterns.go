package server

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"hexachord/core/music"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/service"
	"hexachord/store"
)

type (
	// PatternPath names a pattern in an address.
	PatternPath struct {
		ProjectPath
		Pattern string `param:"pattern" path:"pattern" json:"-"`
	}
	newPattern struct {
		RevisionOf
		Name   string `json:"name" required:"true"`
		Bars   int    `json:"bars" required:"true" minimum:"1" maximum:"64"`
		CopyOf string `json:"copyOf,omitempty"` // ID of the pattern to copy
		Linked bool   `json:"linked,omitempty"` // the copy and it mirror each other's hits
	}
	newPatternReply struct {
		PatternID string  `json:"patternId"`
		Project   Project `json:"project"`
	}
	patternEdit struct {
		PatternPath
		Rate     int          `query:"rate" required:"true" json:"-"`
		Revision int64        `json:"revision" required:"true"`
		Edit     pattern.Edit `json:"edit" required:"true"`
	}
	patternReply struct {
		Revision int64           `json:"revision"`
		Pattern  pattern.Pattern `json:"pattern"`
		Pass     play.Pass       `json:"pass"`
		Undo     string          `json:"undo"`
		Redo     string          `json:"redo"`
		SavedAt  string          `json:"savedAt"`
	}
	patternDelete struct {
		PatternPath
		Revision int64 `query:"revision" required:"true" json:"-"`
	}
	passRequest struct {
		PatternPath
		Rate int `query:"rate" required:"true"`
	}
	bounceRequest struct {
		PatternPath
		Rate   int `query:"rate" enum:"44100,48000,96000"`
		Bits   int `query:"bits" enum:"16,24,32"`
		Passes int `query:"passes" minimum:"1" maximum:"256"`
	}
	midiRequest struct {
		PatternPath
		Sounding bool `query:"sounding"` // with the feel, as the first pass sounds
	}
	midiImport struct {
		ProjectPath
		Revision int64 `query:"revision" required:"true" json:"-"`
	}
	importReply struct {
		Imported service.Imported `json:"imported"`
		Project  Project          `json:"project"`
	}
)

func (s *Server) addPatternRoutes(api *echo.Group) {
	handle(s, api, http.MethodPost, "/projects/:project/patterns", "addPattern", "Add an empty pattern or a copy of one",
		func(_ *echo.Context, r newPattern) (newPatternReply, error) { return s.addPattern(r) })
	handle(s, api, http.MethodDelete, "/projects/:project/patterns/:pattern", "deletePattern", "Remove a pattern; undo brings it back",
		func(_ *echo.Context, r patternDelete) (Project, error) {
			next, err := s.bench.Edit(r.Project, r.Revision, func(tx *store.Tx) string {
				tx.DeletePattern(r.Pattern)
				return "Delete a pattern"
			})
			if err != nil {
				return Project{}, err
			}
			return s.changed(r.Project, next)
		})
	handle(s, api, http.MethodPost, "/projects/:project/patterns/:pattern/edits", "editPattern", "Edit a pattern; replies with it and with what it now sounds",
		func(_ *echo.Context, r patternEdit) (patternReply, error) { return s.editPattern(r) })
	handle(s, api, http.MethodGet, "/projects/:project/patterns/:pattern/pass", "getPass", "What one time through a pattern sounds",
		func(_ *echo.Context, r passRequest) (play.Pass, error) {
			p, pt, err := s.pattern(r.PatternPath)
			if err != nil {
				return play.Pass{}, err
			}
			return s.bench.Pass(p, pt, r.Rate)
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
			out, err := s.bench.Bounce(p, pt, or(r.Rate, 44100), or(r.Passes, 1))
			if err != nil {
				return blob{}, problemOr(err, "The pattern cannot be bounced")
			}
			data, err := service.EncodeWAV(out, or(r.Bits, 24))
			return blob{name: pt.Name + ".wav", data: data}, problemOr(err, "The pattern cannot be bounced")
		})
	handle(s, api, http.MethodPost, "/projects/:project/midi", "importMIDI", "Import a MIDI file (multipart field “file”) as a pattern",
		func(c *echo.Context, r midiImport) (importReply, error) {
			name, data, err := s.upload(c)
			if err != nil {
				return importReply{}, err
			}
			in, next, err := s.bench.ImportMIDI(r.Project, r.Revision, name, data)
			if err != nil {
				return importReply{}, err
			}
			view, err := s.changed(r.Project, next)
			return importReply{in, view}, err
		})
}

func or(v, otherwise int) int {
	if v == 0 {
		return otherwise
	}
	return v
}

// problemOr words an error that is the asker's to mend and has no kind of its own.
func problemOr(err error, title string) error {
	if err == nil {
		return nil
	}
	if p := problemOf(err); p.Status < 500 {
		return p
	}
	return problem(http.StatusUnprocessableEntity, title, sentence(err.Error()))
}

func (s *Server) pattern(at PatternPath) (store.Project, pattern.Pattern, error) {
	p, err := s.bench.Load(at.Project)
	if err != nil {
		return p, pattern.Pattern{}, err
	}
	pt, err := p.Pattern(at.Pattern)
	return p, pt, err
}

func (s *Server) addPattern(r newPattern) (newPatternReply, error) {
	var id string
	var next int64
	var err error
	if r.CopyOf != "" {
		id, next, err = s.bench.CopyPattern(r.Project, r.CopyOf, r.Revision, r.Name, r.Linked)
	} else {
		pt := pattern.Pattern{Name: r.Name, Bars: r.Bars, Meter: music.CommonTime, Grid: music.Sixteenths, Hits: []pattern.Hit{}}
		next, err = s.bench.Edit(r.Project, r.Revision, func(tx *store.Tx) string {
			id = tx.AddPattern(pt)
			return "New pattern " + r.Name
		})
	}
	if err != nil {
		return newPatternReply{}, err
	}
	view, err := s.changed(r.Project, next)
	return newPatternReply{id, view}, err
}

func (s *Server) editPattern(r patternEdit) (patternReply, error) {
	next, err := s.bench.EditPattern(r.Project, r.Pattern, r.Revision, r.Edit)
	if err != nil {
		return patternReply{}, err
	}
	if next != r.Revision {
		s.events.tell(r.Project, next)
	}
	p, pt, err := s.pattern(r.PatternPath)
	if err != nil {
		return patternReply{}, err
	}
	pass, err := s.bench.Pass(p, pt, r.Rate)
	return patternReply{p.Revision, pt, pass, p.Undo, p.Redo, savedAt()}, err
}
