package server

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"hexachord/core/layout"
	"hexachord/core/project"
	"hexachord/service"
	"hexachord/store"
)

type (
	layoutRequest struct {
		ProjectPath
		project.LayOut
	}
	keptReply struct {
		Kits []store.KeptKit `json:"kits"`
	}
	saveKitRequest struct {
		ProjectPath
		Name string `json:"name" required:"true"`
	}
	describeKitRequest struct {
		ID          string `param:"kit" path:"kit" json:"-" maxLength:"64"`
		Name        string `json:"name" required:"true" maxLength:"100"`
		Description string `json:"description" maxLength:"300"`
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
	handle(s, api, http.MethodPost, "/projects/:project/layout/plan", "planLayout", "Plan where samples go in the kit; nothing is changed",
		func(_ *echo.Context, r layoutRequest) (layout.Plan, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return layout.Plan{}, err
			}
			return p.PlanLayout(s.bench, r.LayOut)
		})
	handle(s, api, http.MethodGet, "/kits", "listKits", "The kept kits",
		func(_ *echo.Context, _ struct{}) (keptReply, error) {
			kits, err := s.bench.Kits()
			return keptReply{kits}, err
		})
	handle(s, api, http.MethodPost, "/kits/:kit", "describeKit", "Give a kept kit another name, and say what it is for",
		func(_ *echo.Context, r describeKitRequest) (keptReply, error) {
			if err := s.bench.DescribeKit(r.ID, r.Name, r.Description); err != nil {
				return keptReply{}, err
			}
			kits, err := s.bench.Kits()
			return keptReply{kits}, err
		})
	handle(s, api, http.MethodPost, "/projects/:project/kit/save", "saveKit", "Keep the project's kit under a name; one of that name stays as an earlier state",
		func(_ *echo.Context, r saveKitRequest) (keptKitReply, error) {
			id, err := s.bench.SaveKit(r.Project, r.Name)
			return keptKitReply{id, []string{}}, err
		})
	handle(s, api, http.MethodPost, "/kits", "importKit", "Import a kit (multipart fields “file”: a kit bundle, a zip with an SFZ file and its samples, or these as files with folders in their names)",
		func(c *echo.Context, _ files) (keptKitReply, error) {
			brought, err := s.uploads(c)
			if err != nil {
				return keptKitReply{}, err
			}
			k, beside, err := service.KitIn(brought)
			if err != nil {
				return keptKitReply{}, err
			}
			id, said, err := s.bench.ImportKit(c.Request().Context(), k.Name, k.Data, beside)
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
