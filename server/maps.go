package server

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"hexachord/core/drummap"
	"hexachord/core/project"
	"hexachord/service"
	"hexachord/store"
)

type (
	mapsReply struct {
		Maps []store.KeptMap `json:"maps"`
	}
	saveMapRequest struct {
		Map         drummap.Map `json:"map" required:"true"`
		Description string      `json:"description"`
	}
	savedMapReply struct {
		ID string `json:"id"`
	}
	setMapRequest struct {
		ID      string `param:"map" path:"map" json:"-"`
		Default bool   `json:"default"`
		Earlier bool   `json:"earlier"`
	}
	readMapRequest struct {
		oneFile
		MiddleC int `query:"middleC" json:"-"` // octave of middle C in a table's note names; 4 when it is 0
	}
	mapReply struct {
		Map drummap.Map `json:"map"`
	}
	mapExportRequest struct {
		ProjectPath
		As string `query:"as" required:"true" enum:"midnam,csv" json:"-"`
	}
	carryPlanRequest struct {
		ProjectPath
		Carry project.CarryRequest `json:"carry" required:"true"`
	}
	compareRequest struct {
		A drummap.Map `json:"a" required:"true"`
		B drummap.Map `json:"b" required:"true"`
	}
	compareReply struct {
		Differences []drummap.Difference `json:"differences"`
	}
)

func (s *Server) addMapRoutes(api *echo.Group) {
	handle(s, api, http.MethodGet, "/maps", "listMaps", "The kept maps and those built in",
		func(_ *echo.Context, _ struct{}) (mapsReply, error) {
			maps, err := s.bench.AllMaps()
			return mapsReply{maps}, err
		})
	handle(s, api, http.MethodPost, "/maps", "saveMap", "Keep a map under its name; one of that name stays as an earlier state",
		func(_ *echo.Context, r saveMapRequest) (savedMapReply, error) {
			id, err := s.bench.KeepMap(r.Map, r.Description)
			return savedMapReply{id}, err
		})
	handle(s, api, http.MethodPost, "/maps/:map", "setMap", "Make a kept map the default, or take it off the list",
		func(_ *echo.Context, r setMapRequest) (mapsReply, error) {
			if err := s.bench.SetMap(r.ID, r.Default, r.Earlier); err != nil {
				return mapsReply{}, err
			}
			maps, err := s.bench.AllMaps()
			return mapsReply{maps}, err
		})
	handle(s, api, http.MethodPost, "/maps/read", "readMap", "Read a map (multipart field “file”: MIDNAM, CSV, or the notes of a MIDI file); nothing is kept",
		func(c *echo.Context, r readMapRequest) (mapReply, error) {
			name, data, err := s.upload(c)
			if err != nil {
				return mapReply{}, err
			}
			m, err := service.ReadMap(name, data, or(r.MiddleC, 4))
			return mapReply{m}, err
		})
	handle(s, api, http.MethodPost, "/maps/compare", "compareMaps", "How two maps differ, lane by lane",
		func(_ *echo.Context, r compareRequest) (compareReply, error) {
			return compareReply{drummap.Compare(r.A, r.B)}, nil
		})
	handle(s, api, http.MethodGet, "/projects/:project/map/fromkit", "mapFromKit", "A map of the kit's pads by their samples' names; nothing is changed",
		func(_ *echo.Context, r ProjectPath) (mapReply, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return mapReply{}, err
			}
			return mapReply{s.bench.MapFromKit(p)}, nil
		})
	handle(s, api, http.MethodGet, "/projects/:project/map/lost", "mapExportLoses", "What an export of the map cannot carry",
		func(_ *echo.Context, r mapExportRequest) (lostReply, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return lostReply{}, err
			}
			_, _, lost, err := service.WriteMap(p.Map, r.As)
			return lostReply{append([]string{}, lost...)}, err
		})
	handleBlob(s, api, "/projects/:project/map/export", "exportMap", "The project's map as MIDNAM or CSV", "application/octet-stream",
		func(_ *echo.Context, r mapExportRequest) (blob, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return blob{}, err
			}
			name, data, _, err := service.WriteMap(p.Map, r.As)
			return blob{name: name, data: data}, err
		})
	handle(s, api, http.MethodPost, "/projects/:project/carry/plan", "planCarry", "Where hits would go when patterns are carried to another map; nothing is changed",
		func(_ *echo.Context, r carryPlanRequest) (project.CarryPlan, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return project.CarryPlan{}, err
			}
			return s.bench.PlanCarry(p, r.Carry)
		})
}
