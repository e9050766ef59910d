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
		Projects []service.ProjectCard `json:"projects"`
		Version  string                `json:"version"`
	}
	newProject struct {
		Name string `json:"name" maxLength:"200"` // "": it is called after what is in it
		Demo bool   `json:"demo,omitempty"`       // look round the demo project instead of an empty one
	}
	// ProjectPath names a project in an address.
	ProjectPath struct {
		Project string `param:"project" path:"project" json:"-" maxLength:"64"`
	}
	nameRequest struct {
		ProjectPath
		Name string `json:"name" required:"true" maxLength:"200"`
	}
	idReply struct {
		ID string `json:"id"`
	}
	trashRequest struct {
		What string   `json:"what" required:"true" enum:"project,kit,map,sample"`
		IDs  []string `json:"ids" required:"true" minItems:"1" maxItems:"1000"` // of samples their hashes
	}
	trashReply struct {
		Trash []store.Trashed `json:"trash"`
	}
	tableRequest struct {
		ProjectPath
		Rate int    `query:"rate" required:"true" minimum:"8000" maximum:"192000" json:"-"`
		Part string `query:"part" maxLength:"64" json:"-"` // whose kit, "" the first
	}
	seenFrom struct {
		ProjectPath
		Part string `query:"part" maxLength:"64" json:"-"` // from which part it is seen, "" the first
	}
	voiceRequest struct {
		Voice string `param:"voice" path:"voice" json:"-" maxLength:"64"`
	}
)

func (s *Server) addProjectRoutes(api *echo.Group) {
	handle(s, api, http.MethodGet, "/projects", "listProjects", "All projects, last changed first",
		func(_ *echo.Context, _ struct{}) (listReply, error) {
			projects, err := s.bench.ProjectCards()
			return listReply{projects, s.config.Version}, err
		})
	handle(s, api, http.MethodPost, "/projects", "createProject", "Make a project, empty or the demo's",
		func(_ *echo.Context, r newProject) (view.Project, error) {
			name := strings.TrimSpace(r.Name)
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
	handle(s, api, http.MethodPost, "/projects/:project/name", "renameProject", "Give a project another name; “” lets it be called after what is in it",
		func(_ *echo.Context, r nameRequest) (view.Project, error) {
			if err := s.bench.RenameProject(r.Project, r.Name); err != nil {
				return view.Project{}, err
			}
			return s.view(r.Project)
		})
	handle(s, api, http.MethodPost, "/projects/:project/opened", "openedProject", "A window opened the project",
		func(_ *echo.Context, r ProjectPath) (struct{}, error) { return struct{}{}, s.bench.Opened(r.Project) })
	handle(s, api, http.MethodPost, "/projects/:project/duplicate", "duplicateProject", "Copy a project as it is now, without its history",
		func(_ *echo.Context, r ProjectPath) (idReply, error) {
			id, err := s.bench.DuplicateProject(r.Project)
			return idReply{id}, err
		})
	handle(s, api, http.MethodGet, "/trash", "listTrash", "What was put in the trash, the newest first",
		func(_ *echo.Context, _ struct{}) (trashReply, error) { return s.trash() })
	handle(s, api, http.MethodPost, "/trash", "putInTrash", "Put projects, kept kits, kept maps or samples in the trash, all or none",
		func(_ *echo.Context, r trashRequest) (trashReply, error) {
			if err := s.bench.Trash(r.What, r.IDs...); err != nil {
				return trashReply{}, err
			}
			return s.trash()
		})
	handle(s, api, http.MethodPost, "/trash/restore", "restoreFromTrash", "Take things of one kind out of the trash, all or none",
		func(_ *echo.Context, r trashRequest) (trashReply, error) {
			if err := s.bench.Restore(r.What, r.IDs...); err != nil {
				return trashReply{}, err
			}
			return s.trash()
		})
	handle(s, api, http.MethodDelete, "/trash", "emptyTrash", "Remove what is in the trash for good, but samples that something sounds",
		func(_ *echo.Context, _ struct{}) (trashReply, error) {
			if err := s.bench.EmptyTrash(); err != nil {
				return trashReply{}, err
			}
			return s.trash()
		})
	handle(s, api, http.MethodGet, "/projects/:project", "getProject", "A whole project",
		func(_ *echo.Context, r seenFrom) (view.Project, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return view.Project{}, err
			}
			return view.Of(p.In(r.Part)), nil
		})
	handle(s, api, http.MethodGet, "/projects/:project/table", "getTable", "The kit compiled for a sample rate: note × velocity → voices",
		func(_ *echo.Context, r tableRequest) (play.Table, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return play.Table{}, err
			}
			return s.bench.Table(p.In(r.Part).Kit, r.Rate)
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

func (s *Server) trash() (trashReply, error) {
	all, err := s.bench.Trashes()
	return trashReply{all}, err
}

func (s *Server) view(id string) (view.Project, error) {
	p, err := s.bench.Load(id)
	if err != nil {
		return view.Project{}, err
	}
	return view.Of(p), nil
}
