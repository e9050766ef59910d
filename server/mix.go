package server

import (
	"context"
	"io"
	"net/http"
	"os"

	"github.com/labstack/echo/v5"

	"hexachord/service"
)

type projectExport struct {
	ProjectPath
	service.Export
}

// ExportPath names an export in an address.
type ExportPath struct {
	Export string `path:"export" param:"export" maxLength:"64"`
}

type exportFile struct {
	ExportPath
	Number int `path:"number" param:"number" minimum:"0" maximum:"100000"`
}

type measureRequest struct {
	ProjectPath
	Pattern string `query:"pattern" maxLength:"64"`
}

type compareMixRequest struct {
	ProjectPath
	Pattern string `query:"pattern" maxLength:"64"`
	Output  string `query:"output" required:"true" maxLength:"8"` // its number, Main being 0, or all
}

type roomRequest struct {
	ProjectPath
	Rate int `query:"rate" required:"true" minimum:"8000" maximum:"192000"`
}

type bundleImport struct{ oneFile }

type importedProject struct {
	ID   string   `json:"id"`
	Said []string `json:"said"` // what was damaged and is left out
}

// addMixRoutes are those of the mix and of what leaves the bench.
func (s *Server) addMixRoutes(api *echo.Group) {
	handle(s, api, http.MethodGet, "/projects/:project/mix/measure", "measureMix", "How loud the song, or a pattern once through, is through the mix",
		func(_ *echo.Context, r measureRequest) (service.Measured, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return service.Measured{}, err
			}
			return s.bench.Measure(p, r.Pattern)
		})
	handle(s, api, http.MethodGet, "/projects/:project/mix/compare", "compareMix", "The mix without the processing of an output, or of all, as loud as with it",
		func(_ *echo.Context, r compareMixRequest) (service.MixCompared, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return service.MixCompared{}, err
			}
			return s.bench.CompareMix(p, r.Pattern, r.Output)
		})
	handleBlob(s, api, "/projects/:project/mix/room", "getRoom", "The response of the project's room, float WAV", "audio/wav",
		func(_ *echo.Context, r roomRequest) (blob, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return blob{}, err
			}
			data, err := service.RoomVoice(p, r.Rate)
			return blob{data: data}, err
		})
	handle(s, api, http.MethodPost, "/projects/:project/exports", "startExport", "Export a project as it is now, in the background",
		func(_ *echo.Context, r projectExport) (service.ExportState, error) {
			return s.bench.StartExport(r.Project, r.Export)
		})
	handle(s, api, http.MethodPost, "/projects/:project/exports/plan", "planExport", "Which files an export would make; nothing is made",
		func(_ *echo.Context, r projectExport) (service.ExportState, error) {
			return s.bench.PlanExport(r.Project, r.Export)
		})
	handle(s, api, http.MethodGet, "/exports/:export", "getExport", "How far an export has come",
		func(_ *echo.Context, r ExportPath) (service.ExportState, error) { return s.bench.ExportState(r.Export) })
	handle(s, api, http.MethodDelete, "/exports/:export", "stopExport", "Cancel an export, or take out what it made",
		func(_ *echo.Context, r ExportPath) (service.ExportState, error) { return s.bench.StopExport(r.Export) })
	handleBlob(s, api, "/exports/:export/files/:number", "getExportedFile", "A file of an export that is made", "application/octet-stream",
		func(_ *echo.Context, r exportFile) (blob, error) {
			state, err := s.bench.ExportState(r.Export)
			if err != nil {
				return blob{}, err
			}
			if r.Number >= len(state.Files) {
				return blob{}, problem(http.StatusNotFound, "There is no such file", "Ask for the export's list again.")
			}
			f := state.Files[r.Number]
			path, err := s.bench.ExportedFile(r.Export, f.Name)
			if err != nil {
				return blob{}, err
			}
			return blob{name: f.Name, size: f.Size, write: func(_ context.Context, out io.Writer) error {
				in, err := os.Open(path)
				if err != nil {
					return err
				}
				defer func() { _ = in.Close() }()
				_, err = io.Copy(out, in)
				return err
			}}, nil
		})
	handleBlob(s, api, "/exports/:export/zip", "getExportZip", "All files of an export as one zip", "application/zip",
		func(_ *echo.Context, r ExportPath) (blob, error) {
			state, err := s.bench.ExportState(r.Export)
			if err != nil {
				return blob{}, err
			}
			return blob{name: "export " + state.At.Format("2006-01-02 15-04") + ".zip", size: -1, write: func(_ context.Context, out io.Writer) error {
				return s.bench.ZipExport(r.Export, out)
			}}, nil
		})
	handle(s, api, http.MethodPost, "/projects/import", "importProject", "Open a project bundle (multipart field “file”) as a new project",
		func(c *echo.Context, _ bundleImport) (importedProject, error) {
			_, data, err := s.upload(c)
			if err != nil {
				return importedProject{}, err
			}
			id, said, err := s.bench.ImportProject(c.Request().Context(), data)
			return importedProject{id, append([]string{}, said...)}, err
		})
}
