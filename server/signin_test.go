package server

import (
	"context"
	"errors"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"hexachord/service"
)

const rightWords = "quay lantern rope"

// openWide is a bench that other machines reach, as a visitor who has not signed in sees it.
func openWide(t *testing.T) (*httptest.Server, *http.Client) {
	t.Helper()
	dir := t.TempDir()
	b, err := service.Open(dir, service.Config{})
	if err != nil {
		t.Fatal(err)
	}
	if err := service.SetPassphrase(dir, rightWords); err != nil {
		t.Fatal(err)
	}
	_, h, err := New(b, Config{Addr: "0.0.0.0:0", UploadLimit: 1 << 20, UI: fstest.MapFS{"index.html": {Data: []byte("the bench")}},
		Passing: func(p string) (bool, error) { return service.IsPassphrase(dir, p) }})
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewServer(h)
	t.Cleanup(func() {
		s.Close()
		if err := b.Close(); err != nil {
			t.Error(err)
		}
	})
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	return s, &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
}

func sign(t *testing.T, s *httptest.Server, c *http.Client, words string) *http.Response {
	t.Helper()
	res, err := c.PostForm(s.URL+"/signin", url.Values{"passphrase": {words}})
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	return res
}

func status(t *testing.T, c *http.Client, url string) (int, string) {
	t.Helper()
	res, err := c.Get(url)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	if err != nil {
		t.Fatal(err)
	}
	return res.StatusCode, string(body)
}

// Who has not signed in gets nothing of the bench but the page that asks; the passphrase lets in, by a cookie that no script reads and no
// other site sends; signing out ends it.
func TestSigningIn(t *testing.T) {
	s, c := openWide(t)
	for _, path := range []string{"/api/v1/projects", "/api/v1/openapi.json", "/api/v1/events", "/api/v1/nothing"} {
		if code, _ := status(t, c, s.URL+path); code != http.StatusUnauthorized {
			t.Errorf("%s unsigned: %d", path, code)
		}
	}
	if code, body := status(t, c, s.URL+"/"); code != http.StatusSeeOther || strings.Contains(body, "the bench") {
		t.Errorf("the bench unsigned: %d %s", code, body)
	}
	if code, body := status(t, c, s.URL+"/signin"); code != http.StatusOK || !strings.Contains(body, "passphrase") || strings.Contains(body, "<script") {
		t.Errorf("the page that asks: %d %s", code, body)
	}
	if res := sign(t, s, c, "quay lantern"); res.StatusCode != http.StatusUnauthorized || len(res.Cookies()) > 0 {
		t.Errorf("other words: %d", res.StatusCode)
	}
	res := sign(t, s, c, rightWords)
	if res.StatusCode != http.StatusSeeOther || len(res.Cookies()) != 1 {
		t.Fatalf("the right words: %d", res.StatusCode)
	}
	if k := res.Cookies()[0]; !k.HttpOnly || k.SameSite != http.SameSiteStrictMode || len(k.Value) < 40 {
		t.Errorf("the cookie: %+v", k)
	}
	if code, body := status(t, c, s.URL+"/"); code != http.StatusOK || body != "the bench" {
		t.Errorf("signed in: %d %s", code, body)
	}
	stolen := &http.Client{}
	req, _ := http.NewRequest(http.MethodGet, s.URL+"/api/v1/projects", nil)
	req.AddCookie(&http.Cookie{Name: cookieName, Value: "AAAA"})
	if res, err := stolen.Do(req); err != nil || res.StatusCode != http.StatusUnauthorized {
		t.Errorf("a made-up cookie: %v %v", res, err)
	}
	kept := res.Cookies()[0]
	if res, err := c.Post(s.URL+"/signout", "", nil); err != nil || res.StatusCode != http.StatusSeeOther {
		t.Errorf("signing out: %v %v", res, err)
	}
	req, _ = http.NewRequest(http.MethodGet, s.URL+"/api/v1/projects", nil)
	req.AddCookie(kept)
	if res, err := stolen.Do(req); err != nil || res.StatusCode != http.StatusUnauthorized {
		t.Errorf("a cookie that was signed out: %v %v", res, err)
	}
}

// Guessing is slowed down: after a few attempts even the right words have to wait.
func TestGuessingIsSlow(t *testing.T) {
	s, c := openWide(t)
	for range triesAtOnce {
		sign(t, s, c, "guess guess guess")
	}
	if res := sign(t, s, c, rightWords); res.StatusCode != http.StatusTooManyRequests {
		t.Errorf("the sixth attempt: %d", res.StatusCode)
	}
	in := newSignIns(nil)
	now := time.Unix(1, 0)
	in.now = func() time.Time { return now }
	let := func(address string) (n int) {
		for in.may(address) {
			n++
		}
		return n
	}
	if n := let("a"); n != triesAtOnce {
		t.Errorf("%d attempts at once", n)
	}
	now = now.Add(tryAgain)
	if n := let("a"); n != 1 {
		t.Errorf("%d attempts after a pause", n)
	}
	all := 0
	for i := range 20 {
		all += let(string(rune('b' + i)))
	}
	if all > allTriesAtOnce {
		t.Errorf("%d attempts at once from many addresses", all)
	}
}

// A sign-in ends by itself, twelve hours after it was last used.
func TestASignInEnds(t *testing.T) {
	in := newSignIns(nil)
	now := time.Unix(1, 0)
	in.now = func() time.Time { return now }
	r := httptest.NewRequest(http.MethodGet, "/", nil)
	r.AddCookie(&http.Cookie{Name: cookieName, Value: in.enter()})
	for _, step := range []struct {
		after time.Duration
		in    bool
	}{{11 * time.Hour, true}, {11 * time.Hour, true}, {signedInFor + time.Second, false}} {
		now = now.Add(step.after)
		if got := in.isIn(r); got != step.in {
			t.Errorf("%s later signed in: %v", step.after, got)
		}
	}
}

// A bench that other machines would reach does not start without a passphrase; one for this machine alone does.
func TestNoPassphraseNoDoor(t *testing.T) {
	b, err := service.Open(t.TempDir(), service.Config{})
	if err != nil {
		t.Fatal(err)
	}
	defer b.Close()
	for _, addr := range []string{"0.0.0.0:0", "", ":0", "[::]:0", "192.0.2.1:0"} {
		if err := Run(context.Background(), b, Config{Addr: addr, UI: fstest.MapFS{}}); !errors.Is(err, ErrNoPassphrase) {
			t.Errorf("%s: %v", addr, err)
		}
	}
	for _, addr := range []string{"127.0.0.1:0", "localhost:0", "[::1]:0"} {
		if _, _, err := New(b, Config{Addr: addr, UI: fstest.MapFS{}}); err != nil {
			t.Errorf("%s: %v", addr, err)
		}
	}
	if got := Addresses("127.0.0.1:8460"); len(got) != 1 || got[0] != "http://127.0.0.1:8460/" {
		t.Errorf("%v", got)
	}
	if got := Addresses("0.0.0.0:8460"); len(got) < 1 || got[0] != "http://127.0.0.1:8460/" {
		t.Errorf("%v", got)
	}
}

// Every reply says what pages may do with it.
func TestEveryReplyIsFenced(t *testing.T) {
	d := open(t)
	for _, path := range []string{"/", "/assets/a.js", "/api/v1/projects", "/api/v1/nothing"} {
		res, err := http.Get(d.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		h := res.Header
		csp := h.Get("Content-Security-Policy")
		for _, want := range []string{"default-src 'self'", "object-src 'none'", "base-uri 'none'", "frame-ancestors 'none'", "form-action 'self'"} {
			if !strings.Contains(csp, want) {
				t.Errorf("%s: the policy %q lacks %q", path, csp, want)
			}
		}
		if strings.Contains(csp, "script-src") || h.Get("Cross-Origin-Opener-Policy") != "same-origin" || h.Get("Cross-Origin-Resource-Policy") != "same-origin" || h.Get("X-Content-Type-Options") != "nosniff" {
			t.Errorf("%s: %v", path, h)
		}
	}
}
