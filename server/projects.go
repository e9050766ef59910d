package server

import (
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"hexachord/core/drummap"
	"hexachord/core/feel"
	"hexachord/core/hear"
	"hexachord/core/kit"
	"hexachord/core/pattern"
	"hexachord/core/play"
	"hexachord/service"
	"hexachord/store"
)

// Project is everything a window shows of a project.
type Project struct {
	ID         string                          `json:"id"`
	Name       string                          `json:"name"`
	Revision   int64                           `json:"revision"`
	Settings   store.Settings                  `json:"settings"`
	Map        drummap.Map                     `json:"map"`
	Kit        kit.Kit                         `json:"kit"`
	Patterns   []store.Stored[pattern.Pattern] `json:"patterns"`
	Recordings []RecordingView                 `json:"recordings"`
	Grooves    []store.Stored[feel.Groove]     `json:"grooves"`
	Undo       string                          `json:"undo"` // what undo would take back, "" for nothing
	Redo       string                          `json:"redo"`
	Missing    []NoLane                        `json:"missing"`  // notes that patterns use and no lane has
	Swatches   []drummap.Swatch                `json:"swatches"` // of the lane colours that are a person's own
	Ladders    []Ladder                        `json:"ladders"`  // what is wrong with pads' layers
}

// Ladder are the velocities at which a pad's layers leave a gap, or lie over each other.
type Ladder struct {
	Note     int         `json:"note"`
	Gaps     []kit.Range `json:"gaps"`
	Overlaps []kit.Range `json:"overlaps"`
}

// NoLane is a note of which a pattern has hits and the map no lane.
type NoLane struct {
	Note     int      `json:"note"`
	Hits     int      `json:"hits"`
	Patterns []string `json:"patterns"` // their names
}

// RecordingView is a recording with its hits on the project's lanes.
type RecordingView struct {
	ID       string          `json:"id"`
	Name     string          `json:"name"`
	Audio    string          `json:"audio"` // SHA-256 of the file; the shelf has it as a sample
	Seconds  float64         `json:"seconds"`
	Heard    hear.Hearing    `json:"heard"`
	Lanes    []int           `json:"lanes"`    // for each hit the note of its lane, −1 when the map has none
	Doubtful []bool          `json:"doubtful"` // for each hit whether nobody is sure of it yet
	OrLanes  []int           `json:"orLanes"`  // for each hit the note of the other lane it may belong to, −1 for none
	EndS     float64         `json:"endS"`     // where the last bar ends
	Beats    []float64       `json:"beats"`    // when each beat begins, and the last one's end, seconds from the first frame
	Clean    []hear.Proposal `json:"clean"`    // what could be taken out
}

func viewOf(p store.Project) Project {
	v := Project{p.ID, p.Name, p.Revision, p.Settings, p.Map, p.Kit, p.Patterns, []RecordingView{}, p.Grooves, p.Undo, p.Redo, []NoLane{}, []drummap.Swatch{}, []Ladder{}}
	for _, pad := range p.Kit.Pads {
		if gaps, overlaps := pad.Ladder(); len(pad.Layers) > 0 && len(gaps)+len(overlaps) > 0 {
			v.Ladders = append(v.Ladders, Ladder{pad.Note, append([]kit.Range{}, gaps...), append([]kit.Range{}, overlaps...)})
		}
	}
	own := map[drummap.Family]bool{}
	for _, l := range p.Map.Lanes {
		if l.Color.Custom() && !own[l.Color] {
			own[l.Color] = true
			v.Swatches = append(v.Swatches, drummap.SwatchOf(l.Color))
		}
	}
	lane := func(gm int) int {
		if l, ok := p.Map.LaneFor(gm); ok && gm > 0 {
			return l.Note
		}
		return -1
	}
	laneOf := service.LaneOf(p)
	for _, r := range p.Recordings {
		rv := RecordingView{ID: r.ID, Name: r.Value.Name, Audio: r.Value.Audio, Seconds: r.Value.Seconds, Heard: r.Value.Heard, Lanes: []int{}, Doubtful: []bool{}, OrLanes: []int{}, EndS: r.Value.Heard.EndS(), Beats: []float64{}, Clean: r.Value.Heard.Proposals(laneOf)}
		for n := 0; n <= r.Value.Heard.Bars*r.Value.Heard.Meter.Beats; n++ {
			rv.Beats = append(rv.Beats, r.Value.Heard.TimeAt(float64(n*r.Value.Heard.Meter.BeatTicks())))
		}
		for _, h := range r.Value.Heard.Hits {
			rv.Lanes = append(rv.Lanes, laneOf(h))
			rv.Doubtful = append(rv.Doubtful, h.Doubtful())
			rv.OrLanes = append(rv.OrLanes, lane(h.Or))
		}
		v.Recordings = append(v.Recordings, rv)
	}
	at := map[int]int{} // note → place in Missing
	for _, pt := range p.Patterns {
		for _, h := range pt.Value.Hits {
			if _, ok := p.Map.ByNote(h.Note); ok {
				continue
			}
			k, ok := at[h.Note]
			if !ok {
				k = len(v.Missing)
				at[h.Note] = k
				v.Missing = append(v.Missing, NoLane{Note: h.Note})
			}
			m := &v.Missing[k]
			m.Hits++
			if n := len(m.Patterns); n == 0 || m.Patterns[n-1] != pt.Value.Name {
				m.Patterns = append(m.Patterns, pt.Value.Name)
			}
		}
	}
	return v
}

func (s *Server) view(id string) (Project, error) {
	p, err := s.bench.Load(id)
	if err != nil {
		return Project{}, err
	}
	return viewOf(p), nil
}

// changed tells the other windows and replies with the whole project.
func (s *Server) changed(id string, revision int64) (Project, error) {
	s.events.tell(id, revision)
	return s.view(id)
}

type (
	listReply struct {
		Projects []store.ProjectInfo `json:"projects"`
		Version  string              `json:"version"`
	}
	newProject struct {
		Name string `json:"name" required:"true"`
		Demo bool   `json:"demo,omitempty"` // look round the demo project instead of an empty one
	}
	// RevisionOf says which revision of a project an edit was made on.
	RevisionOf struct {
		ProjectPath
		Revision int64 `json:"revision" required:"true"`
	}
	settingsEdit struct {
		RevisionOf
		BPM    *float64      `json:"bpm,omitempty"`
		Feel   *feel.Feel    `json:"feel,omitempty"`
		Muted  *[]int        `json:"muted,omitempty"`
		Solo   *[]int        `json:"solo,omitempty"`
		Output *store.Output `json:"output,omitempty"`
		Label  string        `json:"label" required:"true"` // what the history calls it
	}
	historyReply struct {
		Entries []store.HistoryEntry `json:"entries"`
	}
	jumpRequest struct {
		RevisionOf
		Number int64 `json:"number" required:"true"` // 0: before the first edit
	}
	tableRequest struct {
		ProjectPath
		Rate int `query:"rate" required:"true" minimum:"8000" maximum:"192000"`
	}
	voiceRequest struct {
		Voice string `param:"voice" path:"voice" json:"-"`
	}
)

func (s *Server) addRoutes(api *echo.Group) {
	handle(s, api, http.MethodGet, "/projects", "listProjects", "All projects, last changed first",
		func(_ *echo.Context, _ struct{}) (listReply, error) {
			projects, err := s.bench.Projects()
			return listReply{projects, s.config.Version}, err
		})
	handle(s, api, http.MethodPost, "/projects", "createProject", "Make a project, empty or the demo's",
		func(_ *echo.Context, r newProject) (Project, error) {
			name := strings.TrimSpace(r.Name)
			if name == "" || len(name) > 200 {
				return Project{}, problem(http.StatusUnprocessableEntity, "The project needs a name", "Give it 1 to 200 characters.")
			}
			make := s.bench.NewProject
			if r.Demo {
				make = s.bench.NewDemoProject
			}
			id, err := make(name)
			if err != nil {
				return Project{}, err
			}
			return s.view(id)
		})
	handle(s, api, http.MethodGet, "/projects/:project", "getProject", "A whole project",
		func(_ *echo.Context, r ProjectPath) (Project, error) { return s.view(r.Project) })
	handle(s, api, http.MethodPost, "/projects/:project/settings", "editSettings", "Change tempo, feel, mutes and solos",
		func(_ *echo.Context, r settingsEdit) (Project, error) { return s.editSettings(r) })
	handle(s, api, http.MethodPost, "/projects/:project/undo", "undo", "Take the last edit back",
		func(_ *echo.Context, r RevisionOf) (Project, error) {
			if _, err := s.bench.Undo(r.Project, r.Revision); err != nil {
				return Project{}, err
			}
			return s.changed(r.Project, r.Revision+1)
		})
	handle(s, api, http.MethodPost, "/projects/:project/redo", "redo", "Do the last undone edit again",
		func(_ *echo.Context, r RevisionOf) (Project, error) {
			if _, err := s.bench.Redo(r.Project, r.Revision); err != nil {
				return Project{}, err
			}
			return s.changed(r.Project, r.Revision+1)
		})
	handle(s, api, http.MethodGet, "/projects/:project/history", "getHistory", "The project's edits, the newest first",
		func(_ *echo.Context, r ProjectPath) (historyReply, error) {
			entries, err := s.bench.History(r.Project)
			return historyReply{entries}, err
		})
	handle(s, api, http.MethodPost, "/projects/:project/history", "jumpTo", "Take edits back, or do them again, until one is the last in force",
		func(_ *echo.Context, r jumpRequest) (Project, error) {
			if err := s.bench.JumpTo(r.Project, r.Revision, r.Number); err != nil {
				return Project{}, err
			}
			return s.changed(r.Project, r.Revision+1)
		})
	handle(s, api, http.MethodGet, "/projects/:project/table", "getTable", "The kit compiled for a sample rate: note × velocity → voices",
		func(_ *echo.Context, r tableRequest) (play.Table, error) {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return play.Table{}, err
			}
			return s.bench.Table(p.Kit, r.Rate)
		})
	handleBlob(s, api, "/voices/:voice", "getVoice", "A sound ready to play, float WAV at the rate it was compiled for", "audio/wav",
		func(_ *echo.Context, r voiceRequest) (blob, error) {
			v, err := s.bench.Voice(r.Voice)
			if err != nil {
				return blob{}, err
			}
			data, err := service.EncodeVoice(v)
			return blob{data: data, immutable: true}, err
		})
	api.GET("/projects/:project/events", s.watch)
	s.addPatternRoutes(api)
	s.addReadyRoutes(api)
	s.addRecordingRoutes(api)
	s.addShelfRoutes(api)
	s.addKitRoutes(api)
	s.addMapRoutes(api)
}

func (s *Server) editSettings(r settingsEdit) (Project, error) {
	p, err := s.bench.Load(r.Project)
	if err != nil {
		return Project{}, err
	}
	next := p.Settings
	if r.BPM != nil {
		next.BPM = *r.BPM
	}
	if r.Feel != nil {
		next.Feel = *r.Feel
	}
	if r.Muted != nil {
		next.Muted = *r.Muted
	}
	if r.Output != nil {
		next.Output = *r.Output
	}
	if r.Solo != nil {
		next.Solo = *r.Solo
	}
	revision, err := s.bench.Edit(r.Project, r.Revision, func(tx *store.Tx) string {
		tx.PutSettings(next)
		return r.Label
	})
	if err != nil {
		return Project{}, err
	}
	return s.changed(r.Project, revision)
}

// savedAt is the moment an edit was on disk.
func savedAt() string { return time.Now().Format(time.RFC3339) }
