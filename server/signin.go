package server

import (
	"crypto/rand"
	"crypto/sha256"
	_ "embed"
	"errors"
	"net"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
	"golang.org/x/time/rate"
)

// A bench that other machines reach is opened by its passphrase. Signing in makes a cookie that no script reads and no other site
// sends; what it stands for lives in memory, so that a restart signs everyone out.
const (
	cookieName   = "hexachord"
	signedInFor  = 12 * time.Hour // since it was last used
	mostSignedIn = 1000
	// attempts: so many at once from one address and from all, then one again after each pause
	triesAtOnce, tryAgain       = 5, 20 * time.Second
	allTriesAtOnce, allTryAgain = 30, 2 * time.Second
	mostAddresses               = 10_000
)

//go:embed signin.html
var signInPage string

type signIns struct {
	mu      sync.Mutex
	until   map[[32]byte]time.Time // by the hash of what the cookie holds
	tries   map[string]*rate.Limiter
	all     *rate.Limiter
	now     func() time.Time
	passing func(passphrase string) (bool, error)
}

func newSignIns(passing func(string) (bool, error)) *signIns {
	return &signIns{until: map[[32]byte]time.Time{}, tries: map[string]*rate.Limiter{}, all: rate.NewLimiter(rate.Every(allTryAgain), allTriesAtOnce), now: time.Now, passing: passing}
}

// may reports whether an address may try now.
func (s *signIns) may(address string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	l, ok := s.tries[address]
	if !ok {
		if len(s.tries) >= mostAddresses { // forgotten, none of them is let in by that: all together are limited too
			clear(s.tries)
		}
		l = rate.NewLimiter(rate.Every(tryAgain), triesAtOnce)
		s.tries[address] = l
	}
	return l.AllowN(s.now(), 1) && s.all.AllowN(s.now(), 1)
}

// enter remembers a new sign-in and returns what the cookie holds.
func (s *signIns) enter() string {
	token := rand.Text() + rand.Text() // 256 bits and more
	s.mu.Lock()
	defer s.mu.Unlock()
	for k, t := range s.until {
		if t.Before(s.now()) || len(s.until) >= mostSignedIn {
			delete(s.until, k)
		}
	}
	s.until[sha256.Sum256([]byte(token))] = s.now().Add(signedInFor)
	return token
}

func (s *signIns) isIn(r *http.Request) bool {
	c, err := r.Cookie(cookieName)
	if err != nil {
		return false
	}
	key := sha256.Sum256([]byte(c.Value))
	s.mu.Lock()
	defer s.mu.Unlock()
	until, ok := s.until[key]
	if !ok || until.Before(s.now()) {
		return false
	}
	s.until[key] = s.now().Add(signedInFor)
	return true
}

func (s *signIns) leave(r *http.Request) {
	if c, err := r.Cookie(cookieName); err == nil {
		s.mu.Lock()
		delete(s.until, sha256.Sum256([]byte(c.Value)))
		s.mu.Unlock()
	}
}

// guard lets in who has signed in; others see the page that asks, or are told.
func (s *signIns) guard(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		path := c.Request().URL.Path
		switch {
		case path == "/signin" || s.isIn(c.Request()):
			return next(c)
		case strings.HasPrefix(path, "/api/"):
			return problem(http.StatusUnauthorized, "The bench asks for its passphrase", "Reload the page and sign in; nothing saved is lost.")
		}
		return c.Redirect(http.StatusSeeOther, "/signin")
	}
}

func (s *signIns) routes(e *echo.Echo) {
	show := func(c *echo.Context, status int, words string) error {
		c.Response().Header().Set("Cache-Control", "no-store")
		return c.HTML(status, strings.Replace(signInPage, "{{words}}", words, 1))
	}
	e.GET("/signin", func(c *echo.Context) error { return show(c, http.StatusOK, "") })
	e.POST("/signin", func(c *echo.Context) error {
		r := c.Request()
		address, _, err := net.SplitHostPort(r.RemoteAddr)
		if err != nil || !s.may(address) {
			return show(c, http.StatusTooManyRequests, "Too many attempts. Wait half a minute, then try again.")
		}
		r.Body = http.MaxBytesReader(c.Response(), r.Body, 4096)
		if err := r.ParseForm(); err != nil {
			return show(c, http.StatusBadRequest, "That could not be read. Try again.")
		}
		ok, err := s.passing(r.PostForm.Get("passphrase"))
		if err != nil {
			return err
		}
		if !ok {
			return show(c, http.StatusUnauthorized, "That is not the passphrase.")
		}
		c.SetCookie(&http.Cookie{Name: cookieName, Value: s.enter(), Path: "/", HttpOnly: true, SameSite: http.SameSiteStrictMode, MaxAge: int((30 * 24 * time.Hour).Seconds())})
		return c.Redirect(http.StatusSeeOther, "/")
	})
	e.POST("/signout", func(c *echo.Context) error {
		s.leave(c.Request())
		c.SetCookie(&http.Cookie{Name: cookieName, Path: "/", HttpOnly: true, SameSite: http.SameSiteStrictMode, MaxAge: -1})
		return c.Redirect(http.StatusSeeOther, "/signin")
	})
}

// ErrNoPassphrase is a bench that other machines would reach without one.
var ErrNoPassphrase = errors.New("other machines reach that address and the bench has no passphrase; set one with `hexachord passphrase`, or serve on 127.0.0.1")

// loopback reports whether only this machine reaches an address to listen on.
func loopback(addr string) bool {
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return false
	}
	ip := net.ParseIP(host)
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

// Addresses are the URLs a bench that listens on addr answers to.
func Addresses(addr string) []string {
	host, port, err := net.SplitHostPort(addr)
	if err != nil {
		return nil
	}
	at := func(host string) string {
		return (&url.URL{Scheme: "http", Host: net.JoinHostPort(host, port), Path: "/"}).String()
	}
	ip := net.ParseIP(host)
	if ip == nil || !ip.IsUnspecified() {
		return []string{at(host)}
	}
	out := []string{at("127.0.0.1")}
	addresses, err := net.InterfaceAddrs()
	if err != nil {
		return out
	}
	for _, a := range addresses {
		n, ok := a.(*net.IPNet)
		if ok && !n.IP.IsLoopback() && !n.IP.IsLinkLocalUnicast() && (n.IP.To4() != nil || ip.To4() == nil) {
			out = append(out, at(n.IP.String()))
		}
	}
	return out
}
