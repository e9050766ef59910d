package server

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"hexachord/bench"
	"hexachord/core/hear"
	"hexachord/core/music"
	"hexachord/core/play"
)

type (
	// RecordingPath names a recording in an address.
	RecordingPath struct {
		ProjectPath
		Recording string `param:"recording" path:"recording" json:"-"`
	}
	recordingAdd struct {
		ProjectPath
		Ticket string `query:"ticket" json:"-"` // any name the asker makes up, to ask for progress by
	}
	recordingReply struct {
		RecordingID string  `json:"recordingId"`
		Project     Project `json:"project"`
	}
	ticketPath struct {
		Ticket string `param:"ticket" path:"ticket" json:"-"`
	}
	progressReply struct {
		Running bool    `json:"running"`
		Share   float64 `json:"share"` // 0..1
	}
	pictureRequest struct {
		RecordingPath
		Columns int `query:"columns" required:"true" minimum:"16" maximum:"4096"`
	}
	recordingPassRequest struct {
		RecordingPath
		Rate int `query:"rate" required:"true"`
	}
	regrid struct {
		RecordingPath
		Revision int64    `json:"revision" required:"true"`
		BPM      float64  `json:"bpm,omitempty"`
		Bars     int      `json:"bars,omitempty"`
		BarOneS  *float64 `json:"barOneS,omitempty"`
	}
	keepRequest struct {
		RecordingPath
		Revision int64      `json:"revision" required:"true"`
		Name     string     `json:"name" required:"true"`
		Grid     music.Grid `json:"grid" required:"true"`
		Strength float64    `json:"strength" required:"true" minimum:"0" maximum:"100"`
	}
	keepReply struct {
		Kept    bench.Kept `json:"kept"`
		Project Project    `json:"project"`
	}
)

func (s *Server) addRecordingRoutes(api *echo.Group) {
	handle(s, api, http.MethodPost, "/projects/:project/recordings", "addRecording", "Bring a recorded break (multipart field “file”) and hear its hits",
		func(c *echo.Context, r recordingAdd) (recordingReply, error) {
			name, data, err := s.upload(c)
			if err != nil {
				return recordingReply{}, err
			}
			id, next, err := s.bench.Hear(c.Request().Context(), r.Project, name, data, r.Ticket)
			if err != nil {
				return recordingReply{}, err
			}
			view, err := s.changed(r.Project, next)
			return recordingReply{id, view}, err
		})
	handle(s, api, http.MethodGet, "/hearings/:ticket", "getHearing", "How far a hearing has come",
		func(_ *echo.Context, r ticketPath) (progressReply, error) {
			share, running := s.bench.Progress(r.Ticket)
			return progressReply{running, share}, nil
		})
	handle(s, api, http.MethodDelete, "/hearings/:ticket", "cancelHearing", "Stop a hearing; nothing is kept of it",
		func(_ *echo.Context, r ticketPath) (progressReply, error) {
			s.bench.CancelHearing(r.Ticket)
			return progressReply{}, nil
		})
	handle(s, api, http.MethodGet, "/projects/:project/recordings/:recording/picture", "getPicture", "The recording drawn small, from bar 1 to the end of the last bar",
		func(_ *echo.Context, r pictureRequest) (hear.Picture, error) {
			if r.Columns < 16 || r.Columns > 4096 {
				return hear.Picture{}, problem(http.StatusUnprocessableEntity, "That picture cannot be drawn", "Ask for 16 to 4096 columns.")
			}
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return hear.Picture{}, err
			}
			rec, err := p.Recording(r.Recording)
			if err != nil {
				return hear.Picture{}, err
			}
			audio, err := s.bench.Decode(rec.Audio)
			if err != nil {
				return hear.Picture{}, err
			}
			return hear.Draw(audio, rec.Heard.BarOneS, rec.Heard.EndS(), r.Columns), nil
		})
	handle(s, api, http.MethodGet, "/projects/:project/recordings/:recording/pass", "getRecordingPass", "What one time through the recording sounds: itself, and its hits on the kit",
		func(_ *echo.Context, r recordingPassRequest) (play.Pass, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return play.Pass{}, err
			}
			rec, err := p.Recording(r.Recording)
			if err != nil {
				return play.Pass{}, err
			}
			return s.bench.RecordingPass(p, rec, r.Rate)
		})
	handle(s, api, http.MethodPost, "/projects/:project/recordings/:recording/grid", "regrid", "Correct a recording's tempo, bars or bar 1",
		func(_ *echo.Context, r regrid) (Project, error) {
			next, err := s.bench.Regrid(r.Project, r.Recording, r.Revision, r.BPM, r.Bars, r.BarOneS)
			if err != nil {
				return Project{}, err
			}
			return s.changed(r.Project, next)
		})
	handle(s, api, http.MethodPost, "/projects/:project/recordings/:recording/keep", "keepPattern", "Keep what was heard as a pattern",
		func(_ *echo.Context, r keepRequest) (keepReply, error) {
			kept, next, err := s.bench.Keep(r.Project, r.Recording, r.Revision, r.Name, r.Grid, r.Strength)
			if err != nil {
				return keepReply{}, err
			}
			view, err := s.changed(r.Project, next)
			return keepReply{kept, view}, err
		})
}
