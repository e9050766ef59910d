package server

import (
	"fmt"
	"net/http"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
)

// events tells open windows that a project has a new revision (server-sent events, WHATWG HTML), so that two
// windows on one project see each other's edits.
type events struct {
	mu      sync.Mutex
	closed  chan struct{}
	once    sync.Once
	windows map[chan int64]string
}

func newEvents() *events {
	return &events{closed: make(chan struct{}), windows: map[chan int64]string{}}
}

func (e *events) close() { e.once.Do(func() { close(e.closed) }) }

// tell never waits: a window that has not read the last revision is given the newer one instead.
func (e *events) tell(projectID string, revision int64) {
	e.mu.Lock()
	defer e.mu.Unlock()
	for w, id := range e.windows {
		if id != projectID {
			continue
		}
		select {
		case <-w:
		default:
		}
		w <- revision
	}
}

// ProjectPath names a project in an address.
type ProjectPath struct {
	Project string `param:"project" path:"project" json:"-"`
}

func (s *Server) watch(c *echo.Context) error {
	id := c.Param("project")
	w := make(chan int64, 1)
	s.events.mu.Lock()
	s.events.windows[w] = id
	s.events.mu.Unlock()
	defer func() {
		s.events.mu.Lock()
		delete(s.events.windows, w)
		s.events.mu.Unlock()
	}()
	res := c.Response()
	res.Header().Set("Content-Type", "text/event-stream")
	res.Header().Set("Cache-Control", "no-cache")
	flush := http.NewResponseController(res)
	alive := time.NewTicker(20 * time.Second)
	defer alive.Stop()
	line := ": open\n\n"
	for {
		if _, err := fmt.Fprint(res, line); err != nil {
			return nil // the window has gone
		}
		if err := flush.Flush(); err != nil {
			return nil
		}
		select {
		case <-c.Request().Context().Done():
			return nil
		case <-s.events.closed:
			return nil
		case revision := <-w:
			line = fmt.Sprintf("event: revision\ndata: %d\n\n", revision)
		case <-alive.C:
			line = ": alive\n\n"
		}
	}
}
