package server

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/pattern"
	"hexachord/core/project"
	"hexachord/core/ready"
	"hexachord/service"
)

type (
	readyRequest struct {
		Text   string  `query:"text" json:"-" maxLength:"200"`
		Family string  `query:"family" json:"-" maxLength:"100"`
		BPM    float64 `query:"bpm" json:"-" minimum:"0" maximum:"400"` // only those that lie well at this tempo; 0: all
		For    string  `query:"for" json:"-" maxLength:"64"`            // ID of a project: only those whose roles its map all has
	}
	readyReply struct {
		Patterns []ready.Pattern `json:"patterns"`
		All      int             `json:"all"`      // how many there are
		Families []string        `json:"families"` // of all
	}
	grooveList struct {
		Grooves []feel.Groove `json:"grooves"`
	}
	readyHear struct {
		ProjectPath
		Take     project.TakeReady `json:"take" required:"true"`
		Sounding service.Sounding  `json:"sounding" required:"true"` // its pattern says nothing
	}
	readyHeard struct {
		Laid    ready.Laid      `json:"laid"`
		Pattern pattern.Pattern `json:"pattern"` // as it would be once taken
		Sounds  service.Sounds  `json:"sounds"`
	}
	// GroovePath names a groove in an address.
	GroovePath struct {
		ProjectPath
		Groove string `param:"groove" path:"groove" json:"-" maxLength:"64"`
	}
)

func (s *Server) addReadyRoutes(api *echo.Group) {
	handle(s, api, http.MethodGet, "/ready", "findReady", "Look for ready patterns",
		func(_ *echo.Context, r readyRequest) (readyReply, error) {
			q := ready.Query{Text: r.Text, Family: r.Family, BPM: r.BPM}
			if r.For != "" {
				p, err := s.bench.Load(r.For)
				if err != nil {
					return readyReply{}, err
				}
				q.Roles = map[drummap.Role]bool{}
				for _, l := range p.Map.Lanes {
					q.Roles[l.Role] = true
				}
			}
			return readyReply{ready.Search(q), len(ready.All()), ready.Families()}, nil
		})
	handle(s, api, http.MethodGet, "/ready/grooves", "listReadyGrooves", "Grooves to lay over patterns",
		func(_ *echo.Context, _ struct{}) (grooveList, error) { return grooveList{ready.Grooves()}, nil })
	handle(s, api, http.MethodPost, "/projects/:project/ready/hear", "hearReady", "A ready pattern on the project's lanes, and what it sounds; nothing is changed",
		func(_ *echo.Context, r readyHear) (readyHeard, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return readyHeard{}, err
			}
			laid, into, err := p.LayReady(r.Take)
			if err != nil {
				return readyHeard{}, err
			}
			sounds, err := s.bench.SoundOf(p, into, r.Sounding)
			return readyHeard{laid, into, sounds}, err
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
		func(c *echo.Context, r midiImport) (Changed, error) {
			name, data, err := s.upload(c)
			if err != nil {
				return Changed{}, err
			}
			done, results, err := s.bench.ImportGroove(r.Project, r.Revision, name, data)
			return s.changed(RevisionOf{ProjectPath: r.ProjectPath, Revision: r.Revision}, done, results, err)
		})
}
