// Package server is the bench's HTTP door: routes, request checks, error replies. It knows no rule of the job.
package server

import (
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"mime"
	"net"
	"net/http"
	"net/url"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"hexachord/service"
)

// Config says how to serve.
type Config struct {
	Addr        string // host:port; port 0 takes a free one
	UploadLimit int64  // bytes of one uploaded file
	UI          fs.FS  // the built front end
	Version     string
	// Description is what [OpenAPI] says of this very program, made when it was built; nil: it is made at the start, in most of a second.
	Description []byte
	// Passing reports whether a passphrase is the bench's; it is asked when other machines reach Addr. None: there is no passphrase.
	Passing func(passphrase string) (bool, error)
	// Started is told the address once the server answers.
	Started func(address string)
}

// Server answers for one bench.
type Server struct {
	bench  *service.Bench
	config Config
	events *events
	routes []routeFacts
	blobs  map[string]bool // the routes that reply with a file
	// described is what the API says of itself; who asks first waits until it is made.
	described func() (description, error)
}

const jsonLimit = 32 << 20

// apiRoot is where the API's routes are.
const apiRoot = "/api/v1"

// How long a request may take to come in: one with a file, and any other.
const (
	uploadTime = 10 * time.Minute
	bodyTime   = 30 * time.Second
)

// asItIs names what is not packed on its way: files, whose lengths are said before they are sent, most of them sounds or zips; fonts; what
// lies there packed; and the stream of events, which must not wait.
func (s *Server) asItIs(c *echo.Context) bool {
	path := c.Request().URL.Path
	return s.blobs[c.Path()] || strings.HasSuffix(path, "/events") || strings.HasSuffix(path, ".woff2") || s.packed(c.Request())
}

// packed says whether what is asked for lies there packed and the asker can unpack it.
func (s *Server) packed(r *http.Request) bool {
	if s.config.UI == nil || !strings.HasPrefix(r.URL.Path, "/assets/") || !strings.Contains(r.Header.Get("Accept-Encoding"), "gzip") {
		return false
	}
	_, err := fs.Stat(s.config.UI, strings.TrimPrefix(r.URL.Path, "/")+".gz")
	return err == nil
}

// New prepares a server.
func New(b *service.Bench, c Config) (*Server, http.Handler, error) {
	s := &Server{bench: b, config: c, events: newEvents(), blobs: map[string]bool{}}
	e := echo.New()
	e.Logger = slog.New(slog.DiscardHandler)
	e.HTTPErrorHandler = replyError
	e.Use(middleware.Recover(), s.sameOrigin, securityHeaders, middleware.GzipWithConfig(middleware.GzipConfig{Level: gzip.BestSpeed, MinLength: 1024, Skipper: s.asItIs}))
	if !loopback(c.Addr) {
		if c.Passing == nil {
			return nil, nil, ErrNoPassphrase
		}
		in := newSignIns(c.Passing)
		e.Use(in.guard)
		in.routes(e)
	}
	api := e.Group(apiRoot)
	s.addProjectRoutes(api)
	s.addEditRoutes(api)
	s.addPatternRoutes(api)
	s.addPlayingRoutes(api)
	s.addSongRoutes(api)
	s.addMixRoutes(api)
	s.addReadyRoutes(api)
	s.addRecordingRoutes(api)
	s.addShelfRoutes(api)
	s.addKitRoutes(api)
	s.addMapRoutes(api)
	s.described = describedOnce(fmt.Sprint(c.Version, len(c.Description)), s.describe)
	go func() { _, _ = s.described() }() // the first answers that need no rules do not wait for it
	api.GET("/openapi.json", func(c *echo.Context) error {
		d, err := s.described()
		if err != nil {
			return err
		}
		return c.JSONBlob(http.StatusOK, d.spec)
	})
	api.Any("/*", func(*echo.Context) error { return echo.ErrNotFound })
	s.serveUI(e)
	return s, e, nil
}

// Run serves until the context ends.
func Run(ctx context.Context, b *service.Bench, c Config) error {
	s, handler, err := New(b, c)
	if err != nil {
		return err
	}
	listener, err := net.Listen("tcp", c.Addr)
	if errors.Is(err, syscall.EADDRINUSE) {
		return fmt.Errorf("%s is already taken, perhaps by a bench that runs; stop that one or choose another with --addr, for example --addr 127.0.0.1:0", c.Addr)
	}
	if err != nil {
		return fmt.Errorf("%s cannot be listened on: %w", c.Addr, err)
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	sc := echo.StartConfig{Listener: listener, HideBanner: true, HidePort: true, GracefulTimeout: 5 * time.Second,
		BeforeServeFunc: func(hs *http.Server) error {
			hs.ReadHeaderTimeout = 10 * time.Second
			hs.ReadTimeout = uploadTime
			hs.IdleTimeout = 2 * time.Minute
			hs.RegisterOnShutdown(s.events.close)
			if c.Started != nil {
				c.Started(listener.Addr().String())
			}
			return nil
		}}
	if err := sc.Start(ctx, handler); err != nil && !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

// sameOrigin refuses requests that were addressed to another name than this server's own (a page on the web
// whose name was made to point here), and requests that another site's page makes.
func (s *Server) sameOrigin(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		host := c.Request().Host
		if !s.ownHost(host) {
			return problem(http.StatusForbidden, "This address is not the bench's own", "Open the bench at the address it printed when it started.")
		}
		switch c.Request().Header.Get("Sec-Fetch-Site") { // Fetch Metadata (W3C): who asks, as the browser tells
		case "", "same-origin", "none":
		default:
			if c.Request().Method != http.MethodGet || strings.HasPrefix(c.Request().URL.Path, "/api/") {
				return problem(http.StatusForbidden, "Another site's page cannot use the bench", "Open the bench itself at the address it printed when it started.")
			}
		}
		if origin := c.Request().Header.Get("Origin"); origin != "" {
			if u, err := url.Parse(origin); err != nil || !strings.EqualFold(u.Host, host) {
				return problem(http.StatusForbidden, "Another site's page cannot use the bench", "Open the bench itself at the address it printed when it started.")
			}
		}
		return next(c)
	}
}

func (s *Server) ownHost(hostPort string) bool {
	host, _, err := net.SplitHostPort(hostPort)
	if err != nil {
		host = hostPort
	}
	host = strings.Trim(host, "[]")
	host = strings.ToLower(host)
	if host == "localhost" || host == "127.0.0.1" || host == "::1" {
		return true
	}
	own, _, err := net.SplitHostPort(s.config.Addr)
	// a bench opened to the network on purpose answers to plain addresses, never to names
	return err == nil && own != "127.0.0.1" && own != "localhost" && net.ParseIP(host) != nil
}

func securityHeaders(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin") // none at all would take the Origin from the sign-in form, too
		h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; connect-src 'self'; worker-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		return next(c)
	}
}

// serveUI serves the built front end: its assets for ever (their names hold their content's hash), its page always
// anew. A missing asset is a 404, never the page.
func (s *Server) serveUI(e *echo.Echo) {
	files := http.FileServerFS(s.config.UI)
	e.GET("/*", func(c *echo.Context) error {
		path := strings.TrimPrefix(c.Request().URL.Path, "/")
		if path == "" {
			path = "index.html"
		}
		if _, err := fs.Stat(s.config.UI, path); err != nil {
			if strings.Contains(path, ".") || strings.HasPrefix(path, "assets/") {
				return echo.ErrNotFound
			}
			path = "index.html"
		}
		if path == "index.html" {
			page, err := fs.ReadFile(s.config.UI, path)
			if err != nil {
				return problem(http.StatusNotFound, "The front end is not built", "Run `make build`, which builds it into the binary.")
			}
			c.Response().Header().Set("Cache-Control", "no-cache")
			return c.HTMLBlob(http.StatusOK, page)
		}
		h := c.Response().Header()
		h.Set("Cache-Control", "public, max-age=31536000, immutable")
		if s.packed(c.Request()) {
			data, err := fs.ReadFile(s.config.UI, path+".gz")
			if err != nil {
				return err
			}
			h.Set("Content-Encoding", "gzip")
			h.Set("Vary", "Accept-Encoding")
			return c.Blob(http.StatusOK, mime.TypeByExtension(filepath.Ext(path)), data)
		}
		files.ServeHTTP(c.Response(), c.Request())
		return nil
	})
}
