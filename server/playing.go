package server

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"hexachord/core/music"
	"hexachord/core/take"
	"hexachord/demo"
	"hexachord/service"
)

type (
	performancesRequest struct {
		BPM  float64 `query:"bpm" required:"true" minimum:"20" maximum:"400"`
		Seed uint64  `query:"seed"`
	}
	performancesReply struct {
		Performances []demo.Performance `json:"performances"`
	}
	justPlayed struct {
		PatternPath
		Strikes []take.Heard `json:"strikes" required:"true" maxItems:"10000"` // at moments of any one clock
	}
	justPlayedReply struct {
		Strikes   []take.Strike  `json:"strikes"`   // those of the newest time, counted from a bar line
		Stretches []take.Stretch `json:"stretches"` // as long as the pattern, the best first
	}
)

// mostStretches bounds what is proposed of what was just played.
const mostStretches = 16

func (s *Server) addPlayingRoutes(api *echo.Group) {
	handle(s, api, http.MethodGet, "/controller/performances", "listPerformances", "What the bench controller plays by itself, at a tempo",
		func(_ *echo.Context, r performancesRequest) (performancesReply, error) {
			return performancesReply{demo.Performances(r.BPM, r.Seed)}, music.CheckBPM(r.BPM)
		})
	handle(s, api, http.MethodPost, "/projects/:project/patterns/:pattern/just-played", "fitJustPlayed", "The whole bars of what was just played that fit the pattern best; nothing is changed",
		func(_ *echo.Context, r justPlayed) (justPlayedReply, error) {
			p, pt, err := s.pattern(r.PatternPath)
			if err != nil {
				return justPlayedReply{}, err
			}
			for _, strike := range r.Strikes {
				if err := strike.Check(); err != nil {
					return justPlayedReply{}, err
				}
			}
			strikes := take.FromBarLine(r.Strikes)
			all := take.Stretches(strikes, p.Settings.BPM, pt.Meter, pt.Bars)
			return justPlayedReply{strikes, append([]take.Stretch{}, all[:min(len(all), mostStretches)]...)}, nil
		})
	handle(s, api, http.MethodGet, "/projects/:project/tuned", "getTunedPads", "One sound of the kit over the pads, tuned along a scale from its n-th pitch on",
		func(_ *echo.Context, r tunedRequest) (tunedReply, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return tunedReply{}, err
			}
			pads, err := s.bench.TunedPads(p.In(r.Part), r.Note, r.Scale, r.From, padsTuned, r.Rate)
			return tunedReply{pads}, err
		})
	handle(s, api, http.MethodGet, "/projects/:project/passes/:pass/pass", "hearPassAlone", "What one recorded pass sounds alone",
		func(_ *echo.Context, r passAloneRequest) (service.Sounds, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return service.Sounds{}, err
			}
			return s.bench.SoundPassAlone(p, r.Pass, r.Rate)
		})
}

type (
	tunedRequest struct {
		ProjectPath
		Part  string      `query:"part" maxLength:"64" json:"-"`
		Note  int         `query:"note" minimum:"0" maximum:"127" json:"-"`
		Scale music.Scale `query:"scale" required:"true" maxLength:"40" json:"-"`
		From  int         `query:"from" minimum:"-48" maximum:"48" json:"-"`
		Rate  int         `query:"rate" required:"true" minimum:"8000" maximum:"192000" json:"-"`
	}
	tunedReply struct {
		Pads []service.TunedPad `json:"pads"`
	}
)

// padsTuned is over how many pads one sound is played: two rows of six keys.
const padsTuned = 12

type passAloneRequest struct {
	ProjectPath
	Pass string `param:"pass" path:"pass" json:"-" maxLength:"64"`
	Rate int    `query:"rate" required:"true" minimum:"8000" maximum:"192000" json:"-"`
}
