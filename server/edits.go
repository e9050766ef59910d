package server

import (
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"hexachord/core/play"
	"hexachord/core/project"
	"hexachord/core/view"
	"hexachord/service"
	"hexachord/store"
)

type (
	// RevisionOf says which revision of a project an edit was made on, and what the asker wants to sound afterwards.
	RevisionOf struct {
		ProjectPath
		Revision int64             `json:"revision" required:"true" minimum:"0" maximum:"9007199254740991"`
		Part     string            `json:"part,omitempty" maxLength:"64"` // in which part the asker is, "" the first
		Sounding *service.Sounding `json:"sounding,omitempty"`
	}
	editsRequest struct {
		RevisionOf
		Edits []service.Edit `json:"edits" required:"true" minItems:"1" maxItems:"1000"`
		Label string         `json:"label,omitempty" maxLength:"200"` // what the history calls them together
		Join  string         `json:"join,omitempty" maxLength:"64"`   // edits of one name that follow each other are one step
	}
	jumpRequest struct {
		RevisionOf
		Number int64 `json:"number" required:"true" minimum:"0" maximum:"9007199254740991"` // 0: before the first edit
	}
	historyRequest struct {
		ProjectPath
		Before int64 `query:"before" json:"-" minimum:"0" maximum:"9007199254740991"` // edits older than the one of this number
	}
	historyReply struct {
		Entries []store.HistoryEntry `json:"entries"`
	}
	tryRequest struct {
		ProjectPath
		Part     string               `json:"part,omitempty" maxLength:"64"`
		Edits    []service.Edit       `json:"edits" required:"true" minItems:"1" maxItems:"1000"`
		Sounding *service.Sounding    `json:"sounding,omitempty"`                           // its pattern may be “new”: the first one the edits add
		Song     *service.SongStretch `json:"song,omitempty"`                               // bars of the song that are to sound, in the place of a pattern
		Table    int                  `json:"table,omitempty" minimum:"0" maximum:"192000"` // sample rate of the compiled kit, 0: it is not wanted
	}
	tryReply struct {
		Patch   view.Patch       `json:"patch"`
		Results []project.Result `json:"results"`
		Sounds  *service.Sounds  `json:"sounds,omitempty"`
		Table   *play.Table      `json:"table,omitempty"`
		MatchDB float64          `json:"matchDB"` // by how much a sample that is tried is raised to be as loud as the one it stands in for
	}
	// Changed is what an edit has changed: it leads from revision From to Revision.
	Changed struct {
		From     int64            `json:"from"`
		Revision int64            `json:"revision"`
		Undo     string           `json:"undo"` // what undo would take back, "" for nothing
		Redo     string           `json:"redo"`
		SavedAt  string           `json:"savedAt"`
		Part     string           `json:"part"` // from which part it is seen
		Patch    view.Patch       `json:"patch"`
		Results  []project.Result `json:"results,omitempty"` // one an edit
		Sounds   *service.Sounds  `json:"sounds,omitempty"`
	}
	leanRequest struct {
		PatternPath
		Note int     `query:"note" required:"true" minimum:"0" maximum:"127" json:"-"`
		At   float64 `query:"at" required:"true" minimum:"0" maximum:"100000" json:"-"` // seconds from the start of the pass
	}
	leanReply struct {
		LeanMS float64 `json:"leanMS"`
	}
)

func (s *Server) addEditRoutes(api *echo.Group) {
	handle(s, api, http.MethodPost, "/projects/:project/edits", "edit", "Edit documents of a project, all or none, as one step of the history; replies with what changed",
		func(c *echo.Context, r editsRequest) (Changed, error) {
			done, results, err := s.bench.Edit(c.Request().Context(), r.Project, r.Revision, service.Edits{Edits: r.Edits, Label: r.Label, Join: r.Join, Part: r.Part})
			return s.changed(r.RevisionOf, done, results, err)
		})
	handle(s, api, http.MethodPost, "/projects/:project/try", "tryEdits", "What edits would lead to, and what that sounds; nothing is kept",
		func(c *echo.Context, r tryRequest) (tryReply, error) { return s.try(c, r) })
	handle(s, api, http.MethodPost, "/projects/:project/undo", "undo", "Take the last edit back",
		func(_ *echo.Context, r RevisionOf) (Changed, error) {
			done, err := s.bench.Undo(r.Project, r.Revision)
			return s.changed(r, done, nil, err)
		})
	handle(s, api, http.MethodPost, "/projects/:project/redo", "redo", "Do the last undone edit again",
		func(_ *echo.Context, r RevisionOf) (Changed, error) {
			done, err := s.bench.Redo(r.Project, r.Revision)
			return s.changed(r, done, nil, err)
		})
	handle(s, api, http.MethodGet, "/projects/:project/history", "getHistory", "The project's edits, the newest first",
		func(_ *echo.Context, r historyRequest) (historyReply, error) {
			entries, err := s.bench.History(r.Project, r.Before)
			return historyReply{entries}, err
		})
	handle(s, api, http.MethodPost, "/projects/:project/history", "jumpTo", "Take edits back, or do them again, until one is the last in force",
		func(_ *echo.Context, r jumpRequest) (Changed, error) {
			done, err := s.bench.JumpTo(r.Project, r.Revision, r.Number)
			return s.changed(r.RevisionOf, done, nil, err)
		})
	handle(s, api, http.MethodGet, "/projects/:project/patterns/:pattern/lean", "getLean", "How far off its lane's lines a strike fell",
		func(_ *echo.Context, r leanRequest) (leanReply, error) {
			p, pt, err := s.pattern(r.PatternPath)
			if err != nil {
				return leanReply{}, err
			}
			return leanReply{view.StrikeLean(p, pt, r.Note, r.At)}, nil
		})
	api.GET("/projects/:project/events", s.watch)
}

// changed tells the other windows what an edit has changed, and replies with what changed since the revision it was made on.
func (s *Server) changed(asked RevisionOf, done store.Done, results []project.Result, err error) (Changed, error) {
	if err != nil {
		return Changed{}, err
	}
	p := done.Project.In(asked.Part)
	reply := Changed{From: asked.Revision, Revision: p.Revision, Undo: p.Undo, Redo: p.Redo, SavedAt: time.Now().Format(time.RFC3339), Results: results, Part: p.Part,
		Patch: view.PatchOf(p, done.Others, done.Changes)}
	if len(done.Changes) > 0 {
		own := reply
		own.From, own.Results = p.Revision-1, nil
		if len(done.Others) > 0 {
			own.Patch = view.PatchOf(p, nil, done.Changes)
		}
		s.events.tell(p.ID, own)
	}
	if asked.Sounding != nil {
		// a pattern that is gone sounds nothing; the reply says that it is gone
		if sounds, err := s.bench.Sound(p, *asked.Sounding); err == nil {
			reply.Sounds = &sounds
		}
	}
	return reply, nil
}

// newPattern stands, in what is to sound of a trial, for the first pattern that the trial adds.
const newPattern = "new"

// added is the ID of the first pattern that edits added, "" for none.
func added(results []project.Result) string {
	for _, r := range results {
		if r.Brought != nil && len(r.Brought.IDs) > 0 {
			return r.Brought.IDs[0]
		}
		if r.ID != "" {
			return r.ID
		}
	}
	return ""
}

func (s *Server) try(c *echo.Context, r tryRequest) (tryReply, error) {
	t, err := s.bench.Try(c.Request().Context(), r.Project, r.Part, r.Edits)
	if err != nil {
		return tryReply{}, err
	}
	reply := tryReply{Patch: view.PatchOf(t.Project.In(r.Part), nil, t.Changes), Results: t.Results}
	if r.Sounding != nil {
		of := *r.Sounding
		if of.Pattern == newPattern {
			of.Pattern = added(t.Results)
		}
		sounds, err := s.bench.Sound(t.Project, of)
		if err != nil {
			return tryReply{}, err
		}
		reply.Sounds = &sounds
	}
	if r.Song != nil {
		pass, err := s.bench.SoundSongStretch(t.Project, *r.Song)
		if err != nil {
			return tryReply{}, err
		}
		reply.Sounds = &service.Sounds{Pass: &pass}
	}
	if r.Table > 0 {
		table, err := s.bench.Table(t.Project.In(r.Part).Kit, r.Table)
		if err != nil {
			return tryReply{}, err
		}
		reply.Table = &table
	}
	for _, e := range r.Edits {
		if e.Kit != nil && e.Kit.Try != nil {
			p, err := s.bench.Load(r.Project)
			if err != nil {
				return tryReply{}, err
			}
			reply.MatchDB = s.bench.MatchDB(p, *e.Kit.Try)
		}
	}
	return reply, nil
}
