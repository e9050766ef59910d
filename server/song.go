package server

import (
	"cmp"
	"net/http"

	"github.com/labstack/echo/v5"

	"hexachord/core/play"
	"hexachord/service"
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
	songImport struct {
		ProjectPath
		oneFile
		Revision int64 `query:"revision" required:"true" json:"-" minimum:"0" maximum:"9007199254740991"`
		Bar      int   `query:"bar" json:"-" minimum:"0" maximum:"1999"`
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
	handle(s, api, http.MethodPost, "/projects/:project/song/plan", "planSongMIDI", "What importing a MIDI file (multipart field “file”) as a song would come to; nothing is kept",
		func(c *echo.Context, r songImport) (service.SongPlan, error) {
			name, data, err := s.upload(c)
			if err != nil {
				return service.SongPlan{}, err
			}
			return s.bench.PlanSongMIDI(r.Project, name, data, r.Bar)
		})
	handle(s, api, http.MethodPost, "/projects/:project/song/midi", "importSongMIDI", "Import a MIDI file (multipart field “file”) as a song: equal bars become one pattern, its instruments parts",
		func(c *echo.Context, r songImport) (Changed, error) {
			name, data, err := s.upload(c)
			if err != nil {
				return Changed{}, err
			}
			done, results, err := s.bench.ImportSongMIDI(r.Project, r.Revision, name, data, r.Bar)
			return s.changed(RevisionOf{ProjectPath: r.ProjectPath, Revision: r.Revision}, done, results, err)
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
