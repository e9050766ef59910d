package server

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
)

// events tells open windows what an edit has changed (server-sent events, WHATWG HTML), so that two windows on one project
// see each other's edits.
type events struct {
	mu      sync.Mutex
	closed  chan struct{}
	once    sync.Once
	windows map[chan []byte]string
}

func newEvents() *events {
	return &events{closed: make(chan struct{}), windows: map[chan []byte]string{}}
}

func (e *events) close() { e.once.Do(func() { close(e.closed) }) }

// waiting is how many changes a window may be behind before it must load the project anew.
const waiting = 64

// tell never waits: a window that has fallen behind is told nothing more, finds a gap in the revisions at the next change it
// reads, and loads the project.
func (e *events) tell(projectID string, c Changed) {
	e.mu.Lock()
	defer e.mu.Unlock()
	var text []byte
	for w, id := range e.windows {
		if id != projectID {
			continue
		}
		if text == nil {
			var err error
			if text, err = json.Marshal(c); err != nil {
				return // the window that asked is told so by its reply
			}
		}
		select {
		case w <- text:
		default:
			<-w // the oldest makes room, so that the newest is read and the gap found
			w <- text
		}
	}
}

func (s *Server) watch(c *echo.Context) error {
	id := c.Param("project")
	if _, err := s.bench.Load(id); err != nil {
		return err
	}
	w := make(chan []byte, waiting)
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
	if err := flush.SetReadDeadline(time.Time{}); err != nil && !errors.Is(err, http.ErrNotSupported) { // it stays open as long as the window
		return err
	}
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
		case text := <-w:
			line = "event: changed\ndata: " + string(text) + "\n\n"
		case <-alive.C:
			line = ": alive\n\n"
		}
	}
}
