package server

import (
	"cmp"
	"net/http"

	"github.com/labstack/echo/v5"

	"hexachord/core/play"
)

type (
	songStretch struct {
		ProjectPath
		Rate    int `query:"rate" required:"true" minimum:"8000" maximum:"192000" json:"-"`
		FromBar int `query:"fromBar" minimum:"0" maximum:"2000" json:"-"`
		ToBar   int `query:"toBar" required:"true" minimum:"1" maximum:"2000" json:"-"`
	}
	// stretchReply is what some bars of the song sound, in seconds from the song's beginning.
	stretchReply struct {
		Revision int64     `json:"revision"`
		FromS    float64   `json:"from"` // what leads into the first bar of the song is before it
		ToS      float64   `json:"to"`
		Pass     play.Pass `json:"pass"` // as long as the song
	}
	songBounce struct {
		ProjectPath
		Rate    int    `query:"rate" minimum:"0" maximum:"192000" json:"-"`
		Bits    int    `query:"bits" minimum:"0" maximum:"32" json:"-"`
		FromBar int    `query:"fromBar" minimum:"0" maximum:"2000" json:"-"` // bars 0 and 0: all
		ToBar   int    `query:"toBar" minimum:"0" maximum:"2000" json:"-"`
		Tail    string `query:"tail" enum:"ring,cut,lap" json:"-"`
	}
)

// songLead is how far before its bar what leads into a stretch may sound, seconds.
const songLead = 0.08

func (s *Server) addSongRoutes(api *echo.Group) {
	handle(s, api, http.MethodGet, "/projects/:project/song/pass", "getSongStretch", "What some bars of the song sound",
		func(_ *echo.Context, r songStretch) (stretchReply, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return stretchReply{}, err
			}
			pass, err := s.bench.SongPass(p, r.Rate)
			if err != nil {
				return stretchReply{}, err
			}
			clock := p.Clock()
			reply := stretchReply{Revision: p.Revision, FromS: clock.Seconds(float64(clock.Tick(r.FromBar))) - songLead,
				ToS: clock.Seconds(float64(clock.Tick(r.ToBar))) - songLead}
			if r.FromBar == 0 {
				reply.FromS = -60
			}
			if r.ToBar >= p.SongEnd() {
				reply.ToS = max(reply.ToS, pass.LengthS) + songLead
			}
			reply.Pass = pass.Between(reply.FromS, reply.ToS)
			return reply, nil
		})
	handleBlob(s, api, "/projects/:project/song/midi", "getSongMIDI", "The song as a Standard MIDI File", "audio/midi",
		func(_ *echo.Context, r ProjectPath) (blob, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return blob{}, err
			}
			data, err := s.bench.SongMIDI(p)
			return blob{name: p.Title() + ".mid", data: data}, err
		})
	handleBlob(s, api, "/projects/:project/song/wav", "getSongWAV", "The song, or some of its bars, bounced to WAV", "audio/wav",
		func(_ *echo.Context, r songBounce) (blob, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return blob{}, err
			}
			bounce, err := s.bench.BounceSong(p, or(r.Rate, 44100), r.FromBar, r.ToBar, play.Tail(cmp.Or(r.Tail, string(play.TailRing))))
			return wavBlob(p.Title()+".wav", bounce, or(r.Bits, 24), err)
		})
}
