package server

import (
	"net/http"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"hexachord/core/feel"
	"hexachord/core/hear"
	"hexachord/core/music"
	"hexachord/core/play"
	"hexachord/service"
	"hexachord/store"
)

type (
	// RecordingPath names a recording in an address.
	RecordingPath struct {
		ProjectPath
		Recording string `param:"recording" path:"recording" json:"-"`
	}
	recordingAdd struct {
		ProjectPath
		Ticket  string       `query:"ticket" json:"-"` // any name the asker makes up, to ask for progress by
		Channel hear.Channel `query:"channel" json:"-"`
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
		Rate  int     `query:"rate" required:"true"`
		Slow  float64 `query:"slow"`  // how many times as long, 1 to 2
		Click bool    `query:"click"` // on every beat of the grid
		LoHz  float64 `query:"loHz"`  // the band alone
		HiHz  float64 `query:"hiHz"`
	}
	regrid struct {
		RecordingPath
		Revision int64 `json:"revision" required:"true"`
		service.Grid
	}
	hitsEdit struct {
		RecordingPath
		Revision int64     `json:"revision" required:"true"`
		Edit     hear.Edit `json:"edit" required:"true"`
		Label    string    `json:"label" required:"true"`
	}
	listenRequest struct {
		RecordingPath
		Lane     int           `json:"lane" required:"true"` // note of the lane
		Listener hear.Listener `json:"listener" required:"true"`
		Columns  int           `json:"columns" required:"true" minimum:"16" maximum:"4096"`
	}
	listenerPut struct {
		RecordingPath
		Revision int64          `json:"revision" required:"true"`
		Lane     int            `json:"lane" required:"true"`
		Listener *hear.Listener `json:"listener,omitempty"` // none: as it was first heard
	}
	channelPut struct {
		RecordingPath
		Revision int64        `json:"revision" required:"true"`
		Channel  hear.Channel `json:"channel" required:"true"`
	}
	grooveOf struct {
		RecordingPath
		Grid music.Grid `query:"grid" required:"true"`
		Lane int        `query:"lane" required:"true"` // note of one lane, −1 for all
		Name string     `query:"name"`
	}
	cutRequestKit struct {
		RecordingPath
		Revision int64  `json:"revision" required:"true"`
		Name     string `json:"name" required:"true"`
	}
	cutKitReply struct {
		Cut     service.CutKit `json:"cut"`
		Project Project        `json:"project"`
	}
	reinforceReply struct {
		Lanes   []service.Reinforced `json:"lanes"`
		MatchDB float64              `json:"matchDB"` // how much quieter the kit's hits are than the recording
	}
	compareLaneRequest struct {
		RecordingPath
		Lane int `query:"lane" required:"true"` // note of the lane
	}
	flipRequest struct {
		RecordingPath
		Revision int64 `json:"revision" required:"true"`
		Lane     int   `json:"lane" required:"true"`
	}
	layerRequest struct {
		RecordingPath
		Rate int    `query:"rate" enum:"44100,48000,96000"`
		Bits int    `query:"bits" enum:"16,24,32"`
		Lane string `query:"lane"` // notes of the lanes wanted, separated by commas; none = all
	}
	keepRequest struct {
		RecordingPath
		Revision int64      `json:"revision" required:"true"`
		Name     string     `json:"name" required:"true"`
		Grid     music.Grid `json:"grid" required:"true"`
		Strength float64    `json:"strength" required:"true" minimum:"0" maximum:"100"`
	}
	keepReply struct {
		Kept    service.Kept `json:"kept"`
		Project Project      `json:"project"`
	}
)

func (s *Server) addRecordingRoutes(api *echo.Group) {
	handle(s, api, http.MethodPost, "/projects/:project/recordings", "addRecording", "Bring a recorded break (multipart field “file”) and hear its hits",
		func(c *echo.Context, r recordingAdd) (recordingReply, error) {
			name, data, err := s.upload(c)
			if err != nil {
				return recordingReply{}, err
			}
			id, next, err := s.bench.Hear(c.Request().Context(), r.Project, name, data, r.Ticket, hear.Options{Channel: r.Channel})
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
			return s.bench.RecordingPass(p, rec, r.Rate, service.RecordingOptions{Slow: r.Slow, Click: r.Click, Band: [2]float64{r.LoHz, r.HiHz}})
		})
	handle(s, api, http.MethodPost, "/projects/:project/recordings/:recording/grid", "regrid", "Correct a recording's tempo, bars or bar 1",
		func(_ *echo.Context, r regrid) (Project, error) {
			next, err := s.bench.Regrid(r.Project, r.Recording, r.Revision, r.Grid)
			return s.after(r.Project, next, err)
		})
	handle(s, api, http.MethodPost, "/projects/:project/recordings/:recording/hits", "editHits", "Keep, take out, move or clean heard hits",
		func(_ *echo.Context, r hitsEdit) (Project, error) {
			next, err := s.bench.EditHits(r.Project, r.Recording, r.Revision, r.Edit, r.Label)
			return s.after(r.Project, next, err)
		})
	handle(s, api, http.MethodPost, "/projects/:project/recordings/:recording/listen", "listen", "Try a lane's listener; nothing is changed",
		func(_ *echo.Context, r listenRequest) (service.Listening, error) {
			p, rec, err := s.recording(r.RecordingPath)
			if err != nil {
				return service.Listening{}, err
			}
			if r.Columns < 16 || r.Columns > 4096 {
				return service.Listening{}, problem(http.StatusUnprocessableEntity, "That picture cannot be drawn", "Ask for 16 to 4096 columns.")
			}
			return s.bench.Listen(p, rec, r.Lane, r.Listener, r.Columns)
		})
	handle(s, api, http.MethodPut, "/projects/:project/recordings/:recording/listener", "setListener", "Let a lane hear by its own listener, or as first heard",
		func(_ *echo.Context, r listenerPut) (Project, error) {
			next, err := s.bench.SetListener(r.Project, r.Recording, r.Revision, r.Lane, r.Listener)
			return s.after(r.Project, next, err)
		})
	handle(s, api, http.MethodPut, "/projects/:project/recordings/:recording/channel", "setChannel", "Listen to one channel of a recording",
		func(c *echo.Context, r channelPut) (Project, error) {
			next, err := s.bench.RehearAll(c.Request().Context(), r.Project, r.Recording, r.Revision, r.Channel)
			return s.after(r.Project, next, err)
		})
	handle(s, api, http.MethodGet, "/projects/:project/recordings/:recording/groove", "getRecordingGroove", "The groove of a recording's hits; nothing is kept",
		func(_ *echo.Context, r grooveOf) (feel.Groove, error) {
			p, rec, err := s.recording(r.RecordingPath)
			if err != nil {
				return feel.Groove{}, err
			}
			name := r.Name
			if name == "" {
				name = rec.Name
			}
			return service.RecordingGroove(p, rec, name, r.Grid, r.Lane)
		})
	handle(s, api, http.MethodPost, "/projects/:project/recordings/:recording/cut", "cutKit", "Make a kit of a recording's cleanest strokes, and a pattern with it",
		func(_ *echo.Context, r cutRequestKit) (cutKitReply, error) {
			cut, next, err := s.bench.CutKit(r.Project, r.Recording, r.Revision, r.Name)
			if err != nil {
				return cutKitReply{}, err
			}
			view, err := s.changed(r.Project, next)
			return cutKitReply{cut, view}, err
		})
	handle(s, api, http.MethodGet, "/projects/:project/recordings/:recording/reinforce", "getReinforcement", "What the kit does under the recording's low end, lane by lane",
		func(_ *echo.Context, r RecordingPath) (reinforceReply, error) {
			p, rec, err := s.recording(r)
			if err != nil {
				return reinforceReply{}, err
			}
			lanes, match, err := s.bench.Reinforce(p, rec)
			return reinforceReply{lanes, match}, err
		})
	handle(s, api, http.MethodGet, "/projects/:project/recordings/:recording/compare", "compareLane", "One lane's band of the recording against the kit's sound of that lane",
		func(_ *echo.Context, r compareLaneRequest) (service.Compared, error) {
			p, rec, err := s.recording(r.RecordingPath)
			if err != nil {
				return service.Compared{}, err
			}
			return s.bench.Compare(p, rec, r.Lane)
		})
	handle(s, api, http.MethodPost, "/projects/:project/recordings/:recording/flip", "flip", "Turn a lane's kit sounds over under the recording, or back",
		func(_ *echo.Context, r flipRequest) (Project, error) {
			next, err := s.bench.Flip(r.Project, r.Recording, r.Revision, r.Lane)
			return s.after(r.Project, next, err)
		})
	handleBlob(s, api, "/projects/:project/recordings/:recording/layer", "getLayer", "The kit's hits alone, aligned from the recording's first sample", "audio/wav",
		func(_ *echo.Context, r layerRequest) (blob, error) {
			p, rec, err := s.recording(r.RecordingPath)
			if err != nil {
				return blob{}, err
			}
			var lanes []int
			for _, text := range strings.FieldsFunc(r.Lane, func(c rune) bool { return c == ',' }) {
				n, err := strconv.Atoi(text)
				if err != nil {
					return blob{}, problem(http.StatusBadRequest, "Those are no lanes", "Name lanes by their notes, separated by commas.")
				}
				lanes = append(lanes, n)
			}
			out, err := s.bench.Layer(p, rec, or(r.Rate, 44100), lanes)
			if err != nil {
				return blob{}, err
			}
			data, err := service.EncodeWAV(out, or(r.Bits, 24))
			return blob{name: strings.TrimSuffix(rec.Name, filepath.Ext(rec.Name)) + " layer.wav", data: data}, problemOr(err, "The layer cannot be bounced")
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

// after tells the other windows of an edit and replies with the whole project.
func (s *Server) after(id string, next int64, err error) (Project, error) {
	if err != nil {
		return Project{}, err
	}
	return s.changed(id, next)
}

func (s *Server) recording(at RecordingPath) (store.Project, store.Recording, error) {
	p, err := s.bench.Load(at.Project)
	if err != nil {
		return p, store.Recording{}, err
	}
	rec, err := p.Recording(at.Recording)
	return p, rec, err
}
