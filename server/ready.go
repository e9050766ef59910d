package server

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"hexachord/core/feel"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/core/ready"
	"hexachord/service"
	"hexachord/store"
)

type (
	readyReply struct {
		Patterns []ready.Pattern `json:"patterns"`
	}
	readyHear struct {
		ProjectPath
		Rate int               `query:"rate" required:"true" json:"-"`
		Take service.TakeReady `json:"take" required:"true"`
	}
	readyHeard struct {
		Laid    ready.Laid      `json:"laid"`
		Pattern pattern.Pattern `json:"pattern"` // as it would be once taken
		Pass    play.Pass       `json:"pass"`
	}
	readyTake struct {
		RevisionOf
		Take service.TakeReady `json:"take" required:"true"`
	}
	comparePatternsRequest struct {
		PatternPath
		With string `query:"with" required:"true"` // ID of the other pattern
	}
	writeFeel struct {
		PatternPath
		Revision int64 `json:"revision" required:"true"`
	}
	// GroovePath names a groove in an address.
	GroovePath struct {
		ProjectPath
		Groove string `param:"groove" path:"groove" json:"-"`
	}
	grooveAdd struct {
		RevisionOf
		Name      string       `json:"name" required:"true"`
		PatternID string       `json:"patternId,omitempty"` // take it from this pattern's hits
		Groove    *feel.Groove `json:"groove,omitempty"`    // or keep this one
	}
	grooveReply struct {
		GrooveID string  `json:"grooveId"`
		Project  Project `json:"project"`
	}
	grooveHear struct {
		PatternPath
		Rate   int            `query:"rate" required:"true" json:"-"`
		Groove feel.Groove    `json:"groove" required:"true"`
		Use    feel.GrooveUse `json:"use" required:"true"`
	}
	groovePut struct {
		GroovePath
		Revision int64       `json:"revision" required:"true"`
		Groove   feel.Groove `json:"groove" required:"true"`
	}
	grooveDelete struct {
		GroovePath
		Revision int64 `query:"revision" required:"true" json:"-"`
	}
)

func (s *Server) addReadyRoutes(api *echo.Group) {
	handle(s, api, http.MethodGet, "/ready", "listReady", "The ready patterns",
		func(_ *echo.Context, _ struct{}) (readyReply, error) { return readyReply{ready.All()}, nil })
	handle(s, api, http.MethodPost, "/projects/:project/ready/hear", "hearReady", "A ready pattern on the project's lanes, and what it sounds; nothing is changed",
		func(_ *echo.Context, r readyHear) (readyHeard, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return readyHeard{}, err
			}
			laid, into, err := service.LayReady(p, r.Take)
			if err != nil {
				return readyHeard{}, err
			}
			pass, err := s.bench.Pass(p, into, r.Rate)
			return readyHeard{laid, into, pass}, err
		})
	handle(s, api, http.MethodPost, "/projects/:project/ready/take", "takeReady", "Take a ready pattern, whole or only some roles, as a pattern or into one",
		func(_ *echo.Context, r readyTake) (newPatternReply, error) {
			id, next, err := s.bench.TakeReady(r.Project, r.Revision, r.Take)
			if err != nil {
				return newPatternReply{}, err
			}
			view, err := s.changed(r.Project, next)
			return newPatternReply{id, view}, err
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
	handle(s, api, http.MethodPost, "/projects/:project/patterns/:pattern/feel", "writeFeel", "Write what is laid over a pattern into its hits",
		func(_ *echo.Context, r writeFeel) (Project, error) {
			next, err := s.bench.WriteFeel(r.Project, r.Pattern, r.Revision)
			if err != nil {
				return Project{}, err
			}
			return s.changed(r.Project, next)
		})
	handle(s, api, http.MethodPost, "/projects/:project/grooves", "addGroove", "Keep a groove, given or taken from a pattern",
		func(_ *echo.Context, r grooveAdd) (grooveReply, error) { return s.addGroove(r) })
	handle(s, api, http.MethodPost, "/projects/:project/patterns/:pattern/felt", "hearGroove", "What a pattern sounds with a groove laid over; nothing is changed",
		func(_ *echo.Context, r grooveHear) (play.Pass, error) {
			p, pt, err := s.pattern(r.PatternPath)
			if err != nil {
				return play.Pass{}, err
			}
			return s.bench.PassWith(p, pt, r.Groove, r.Use, r.Rate)
		})
	handle(s, api, http.MethodPut, "/projects/:project/grooves/:groove", "putGroove", "Change or rename a groove",
		func(_ *echo.Context, r groovePut) (Project, error) {
			next, err := s.bench.Edit(r.Project, r.Revision, func(tx *store.Tx) string {
				tx.PutGroove(r.GroovePath.Groove, r.Groove)
				return "Change the groove " + r.Groove.Name
			})
			if err != nil {
				return Project{}, err
			}
			return s.changed(r.Project, next)
		})
	handle(s, api, http.MethodDelete, "/projects/:project/grooves/:groove", "deleteGroove", "Remove a groove; undo brings it back",
		func(_ *echo.Context, r grooveDelete) (Project, error) {
			next, err := s.bench.Edit(r.Project, r.Revision, func(tx *store.Tx) string {
				tx.DeleteGroove(r.Groove)
				return "Delete a groove"
			})
			if err != nil {
				return Project{}, err
			}
			return s.changed(r.Project, next)
		})
	handleBlob(s, api, "/projects/:project/grooves/:groove/midi", "getGrooveMIDI", "A groove as a Standard MIDI File", "audio/midi",
		func(_ *echo.Context, r GroovePath) (blob, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return blob{}, err
			}
			g, err := p.Groove(r.Groove)
			return blob{name: g.Name + ".mid", data: service.GrooveMIDI(g)}, err
		})
	handle(s, api, http.MethodPost, "/projects/:project/grooves/midi", "importGroove", "Keep the groove of a MIDI file (multipart field “file”)",
		func(c *echo.Context, r midiImport) (grooveReply, error) {
			name, data, err := s.upload(c)
			if err != nil {
				return grooveReply{}, err
			}
			id, next, err := s.bench.ImportGroove(r.Project, r.Revision, name, data)
			if err != nil {
				return grooveReply{}, err
			}
			view, err := s.changed(r.Project, next)
			return grooveReply{id, view}, err
		})
}

func (s *Server) addGroove(r grooveAdd) (grooveReply, error) {
	var id string
	var next int64
	var err error
	if r.Groove != nil {
		g := *r.Groove
		g.Name = r.Name
		next, err = s.bench.Edit(r.Project, r.Revision, func(tx *store.Tx) string {
			id = tx.AddGroove(g)
			return "Keep the groove " + g.Name
		})
	} else {
		id, next, err = s.bench.TakeGroove(r.Project, r.PatternID, r.Revision, r.Name)
	}
	if err != nil {
		return grooveReply{}, err
	}
	view, err := s.changed(r.Project, next)
	return grooveReply{id, view}, err
}
