package server

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"hexachord/core/play"
	"hexachord/core/view"
	"hexachord/service"
	"hexachord/store"
)

type (
	listReply struct {
		Projects []store.ProjectInfo `json:"projects"`
		Version  string              `json:"version"`
	}
	newProject struct {
		Name string `json:"name" required:"true" maxLength:"200"`
		Demo bool   `json:"demo,omitempty"` // look round the demo project instead of an empty one
	}
	// ProjectPath names a project in an address.
	ProjectPath struct {
		Project string `param:"project" path:"project" json:"-" maxLength:"64"`
	}
	tableRequest struct {
		ProjectPath
		Rate int `query:"rate" required:"true" minimum:"8000" maximum:"192000" json:"-"`
	}
	voiceRequest struct {
		Voice string `param:"voice" path:"voice" json:"-" maxLength:"64"`
	}
)

func (s *Server) addProjectRoutes(api *echo.Group) {
	handle(s, api, http.MethodGet, "/projects", "listProjects", "All projects, last changed first",
		func(_ *echo.Context, _ struct{}) (listReply, error) {
			projects, err := s.bench.Projects()
			return listReply{projects, s.config.Version}, err
		})
	handle(s, api, http.MethodPost, "/projects", "createProject", "Make a project, empty or the demo's",
		func(_ *echo.Context, r newProject) (view.Project, error) {
			name := strings.TrimSpace(r.Name)
			if name == "" {
				return view.Project{}, problem(http.StatusUnprocessableEntity, "The project needs a name", "Give it 1 to 200 characters.")
			}
			make := s.bench.NewProject
			if r.Demo {
				make = s.bench.NewDemoProject
			}
			id, err := make(name)
			if err != nil {
				return view.Project{}, err
			}
			return s.view(id)
		})
	handle(s, api, http.MethodGet, "/projects/:project", "getProject", "A whole project",
		func(_ *echo.Context, r ProjectPath) (view.Project, error) { return s.view(r.Project) })
	handle(s, api, http.MethodGet, "/projects/:project/table", "getTable", "The kit compiled for a sample rate: note × velocity → voices",
		func(_ *echo.Context, r tableRequest) (play.Table, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return play.Table{}, err
			}
			return s.bench.Table(p.Kit, r.Rate)
		})
	handleBlob(s, api, "/voices/:voice", "getVoice", "A sound ready to play, float WAV at the rate it was compiled for", "audio/wav",
		func(_ *echo.Context, r voiceRequest) (blob, error) {
			v, err := s.bench.Voice(r.Voice)
			if err != nil {
				return blob{}, err
			}
			data, err := service.EncodeVoice(v)
			return blob{data: data, immutable: true}, err
		})
}

func (s *Server) view(id string) (view.Project, error) {
	p, err := s.bench.Load(id)
	if err != nil {
		return view.Project{}, err
	}
	return view.Of(p), nil
}
