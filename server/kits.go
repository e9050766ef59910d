package server

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"hexachord/core/kit"
	"hexachord/core/layout"
	"hexachord/service"
	"hexachord/store"
)

type (
	kitTake struct {
		RevisionOf
		Kit string `json:"kit" required:"true"` // boathouse, empty, or the ID of a kept kit
	}
	kitEdit struct {
		RevisionOf
		Edit kit.Edit `json:"edit" required:"true"`
	}
	previewRequest struct {
		PatternPath
		Rate int       `query:"rate" required:"true" json:"-"`
		Pads []kit.Pad `json:"pads" required:"true"`
	}
	layoutRequest struct {
		ProjectPath
		Parts   []service.SamplePart `json:"parts" required:"true"`
		Options layout.Options       `json:"options" required:"true"`
	}
	layOutRequest struct {
		RevisionOf
		Parts   []service.SamplePart `json:"parts" required:"true"`
		Options layout.Options       `json:"options" required:"true"`
	}
	keptReply struct {
		Kits []store.KeptKit `json:"kits"`
	}
	saveKitRequest struct {
		ProjectPath
		Name string `json:"name" required:"true"`
	}
	keptKitReply struct {
		ID   string   `json:"id"`
		Said []string `json:"said"` // what was left out or plays otherwise
	}
	exportRequest struct {
		ProjectPath
		As string `query:"as" required:"true" enum:"sfz,bundle" json:"-"`
	}
	lostReply struct {
		Lost []string `json:"lost"` // what the format cannot carry
	}
)

func (s *Server) addKitRoutes(api *echo.Group) {
	handle(s, api, http.MethodPost, "/projects/:project/kit", "takeKit", "Give the project a kit with its map; the one it had stays among the kept kits",
		func(_ *echo.Context, r kitTake) (Project, error) {
			next, err := s.bench.TakeKit(r.Project, r.Revision, r.Kit)
			if err != nil {
				return Project{}, err
			}
			return s.changed(r.Project, next)
		})
	handle(s, api, http.MethodPost, "/projects/:project/kit/edits", "editKit", "Edit the project's kit",
		func(_ *echo.Context, r kitEdit) (Project, error) {
			next, err := s.bench.EditKit(r.Project, r.Revision, r.Edit)
			if err != nil {
				return Project{}, err
			}
			return s.changed(r.Project, next)
		})
	handle(s, api, http.MethodPost, "/projects/:project/patterns/:pattern/preview", "previewKit", "What a pattern sounds with some pads put in; nothing is kept",
		func(_ *echo.Context, r previewRequest) (service.Preview, error) {
			p, pt, err := s.pattern(r.PatternPath)
			if err != nil {
				return service.Preview{}, err
			}
			return s.bench.PreviewKit(p, pt, r.Pads, r.Rate)
		})
	handle(s, api, http.MethodPost, "/projects/:project/layout/plan", "planLayout", "Plan where samples go in the kit; nothing is changed",
		func(_ *echo.Context, r layoutRequest) (layout.Plan, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return layout.Plan{}, err
			}
			return s.bench.PlanLayout(p, r.Parts, r.Options)
		})
	handle(s, api, http.MethodPost, "/projects/:project/layout", "layOut", "Lay samples out in the kit",
		func(_ *echo.Context, r layOutRequest) (Project, error) {
			next, err := s.bench.LayOut(r.Project, r.Revision, r.Parts, r.Options)
			if err != nil {
				return Project{}, err
			}
			return s.changed(r.Project, next)
		})
	handle(s, api, http.MethodGet, "/kits", "listKits", "The kept kits",
		func(_ *echo.Context, _ struct{}) (keptReply, error) {
			kits, err := s.bench.Kits()
			return keptReply{kits}, err
		})
	handle(s, api, http.MethodPost, "/projects/:project/kit/save", "saveKit", "Keep the project's kit under a name; one of that name stays as an earlier state",
		func(_ *echo.Context, r saveKitRequest) (keptKitReply, error) {
			id, err := s.bench.SaveKit(r.Project, r.Name)
			return keptKitReply{id, []string{}}, err
		})
	handle(s, api, http.MethodPost, "/kits", "importKit", "Import a kit (multipart field “file”: a kit bundle, or a zip with an SFZ file and its samples)",
		func(c *echo.Context, _ struct{}) (keptKitReply, error) {
			name, data, err := s.upload(c)
			if err != nil {
				return keptKitReply{}, err
			}
			id, said, err := s.bench.ImportKit(c.Request().Context(), name, data, func(string) ([]byte, error) {
				return nil, problem(http.StatusUnprocessableEntity, "An SFZ file alone has no sounds", "Put it in a zip together with its samples.")
			})
			if said == nil {
				said = []string{}
			}
			return keptKitReply{id, said}, err
		})
	handle(s, api, http.MethodGet, "/projects/:project/kit/lost", "exportLoses", "What an export of the project's kit cannot carry",
		func(_ *echo.Context, r exportRequest) (lostReply, error) {
			_, lost, err := s.exportKit(r)
			return lostReply{append([]string{}, lost...)}, err
		})
	handleBlob(s, api, "/projects/:project/kit/export", "exportKit", "The project's kit as a bundle, or as SFZ with its samples", "application/zip",
		func(_ *echo.Context, r exportRequest) (blob, error) {
			out, _, err := s.exportKit(r)
			return out, err
		})
}

func (s *Server) exportKit(r exportRequest) (blob, []string, error) {
	p, err := s.bench.Load(r.Project)
	if err != nil {
		return blob{}, nil, err
	}
	name, data, lost, err := s.bench.ExportKit(p.Map, p.Kit, strings.TrimSpace(r.As))
	return blob{name: name, data: data}, lost, err
}
