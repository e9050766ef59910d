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
	"hexachord/core/project"
	"hexachord/core/view"
	"hexachord/service"
)

type (
	// RecordingPath names a recording in an address.
	RecordingPath struct {
		ProjectPath
		Recording string `param:"recording" path:"recording" json:"-"`
	}
	recordingAdd struct {
		ProjectPath
		oneFile
		Ticket  string       `query:"ticket" json:"-"` // any name the asker makes up, to ask for progress by
		Channel hear.Channel `query:"channel" json:"-"`
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
		// Part is what is struck alone, or what is left when that is taken out; none = all
		Part play.Part `query:"part" enum:"drums,left"`
	}
	againRequest struct {
		RecordingPath
		Channel hear.Channel `query:"channel" enum:"left,right,mid,side"`
		Drums   bool         `query:"drums"` // hear through other music
	}
	againReply struct {
		Recording view.Recording `json:"recording"` // as it would be
		Changes   hear.Changes   `json:"changes"`
	}
	listenRequest struct {
		RecordingPath
		Lane     int            `json:"lane" required:"true" minimum:"0" maximum:"127"` // note of the lane
		Listener *hear.Listener `json:"listener,omitempty"`                             // none: the drum's band, and thresholds the levels suggest
		Columns  int            `json:"columns" required:"true" minimum:"16" maximum:"4096"`
	}
	grooveOf struct {
		RecordingPath
		Grid music.Grid `query:"grid" required:"true"`
		Lane int        `query:"lane" required:"true"` // note of one lane, −1 for all
		Name string     `query:"name"`
	}
	reinforceReply struct {
		Lanes   []service.Reinforced `json:"lanes"`
		MatchDB float64              `json:"matchDB"` // how much quieter the kit's hits are than the recording
	}
	compareLaneRequest struct {
		RecordingPath
		Lane int `query:"lane" required:"true"` // note of the lane
	}
	layerRequest struct {
		RecordingPath
		Rate int    `query:"rate" enum:"44100,48000,96000"`
		Bits int    `query:"bits" enum:"16,24,32"`
		Lane string `query:"lane"` // notes of the lanes wanted, separated by commas; none = all
		// Together mixes the recording in, each at its level, dB.
		Together    bool    `query:"together"`
		RecordingDB float64 `query:"recordingDB" minimum:"-200" maximum:"24"`
		KitDB       float64 `query:"kitDB" minimum:"-200" maximum:"24"`
	}
)

func (s *Server) addRecordingRoutes(api *echo.Group) {
	handle(s, api, http.MethodPost, "/projects/:project/recordings", "addRecording", "Bring a recorded break (multipart field “file”) and hear its hits",
		func(c *echo.Context, r recordingAdd) (Changed, error) {
			name, data, err := s.upload(c)
			if err != nil {
				return Changed{}, err
			}
			before, err := s.bench.Load(r.Project)
			if err != nil {
				return Changed{}, err
			}
			done, results, err := s.bench.Hear(c.Request().Context(), r.Project, name, data, r.Ticket, hear.Options{Channel: r.Channel})
			return s.changed(RevisionOf{ProjectPath: r.ProjectPath, Revision: before.Revision}, done, results, err)
		})
	handle(s, api, http.MethodPost, "/projects/:project/recordings/own", "bringOwnBreak", "Bring the bench's own recorded break and hear its hits",
		func(c *echo.Context, r ProjectPath) (Changed, error) {
			before, err := s.bench.Load(r.Project)
			if err != nil {
				return Changed{}, err
			}
			done, results, err := s.bench.HearOwnBreak(c.Request().Context(), r.Project)
			return s.changed(RevisionOf{ProjectPath: r, Revision: before.Revision}, done, results, err)
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
			return s.bench.RecordingPass(p, rec, r.Rate, service.RecordingOptions{Slow: r.Slow, Click: r.Click, Band: [2]float64{r.LoHz, r.HiHz}, Part: r.Part})
		})
	handle(s, api, http.MethodGet, "/projects/:project/recordings/:recording/again", "hearAgain", "What hearing a recording again would change; nothing is changed",
		func(c *echo.Context, r againRequest) (againReply, error) {
			p, rec, err := s.recording(r.RecordingPath)
			if err != nil {
				return againReply{}, err
			}
			again, err := s.bench.HearAgain(c.Request().Context(), p, rec, hear.Options{Channel: r.Channel, Drums: r.Drums})
			rec.Heard = again.Heard
			return againReply{view.RecordingOf(p, project.Stored[project.Recording]{ID: r.Recording, Value: rec}), again.Changes}, err
		})
	handle(s, api, http.MethodPost, "/projects/:project/recordings/:recording/listen", "listen", "Try a lane's listener; nothing is changed",
		func(_ *echo.Context, r listenRequest) (service.Listening, error) {
			p, rec, err := s.recording(r.RecordingPath)
			if err != nil {
				return service.Listening{}, err
			}
			var listener hear.Listener
			if r.Listener != nil {
				listener = *r.Listener
			}
			return s.bench.Listen(p, rec, r.Lane, listener, r.Columns)
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
			return p.RecordingGroove(rec, name, r.Grid, r.Lane)
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
			name := strings.TrimSuffix(rec.Name, filepath.Ext(rec.Name))
			if r.Together {
				bounce, err := s.bench.Together(p, rec, or(r.Rate, 44100), lanes, service.Blend{RecordingDB: r.RecordingDB, KitDB: r.KitDB})
				return wavBlob(name+" with kit.wav", bounce, or(r.Bits, 24), err)
			}
			bounce, err := s.bench.Layer(p, rec, or(r.Rate, 44100), lanes)
			return wavBlob(name+" layer.wav", bounce, or(r.Bits, 24), err)
		})
}

func (s *Server) recording(at RecordingPath) (project.Project, project.Recording, error) {
	p, err := s.bench.Load(at.Project)
	if err != nil {
		return p, project.Recording{}, err
	}
	rec, err := p.Recording(at.Recording)
	return p, rec, err
}
