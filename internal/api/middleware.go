package api

import (
	"context"
	"errors"
	"io"
	"net/http"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/labstack/echo/v5"

	"neokinema/internal/store"
)

// What every request goes through on its way in.

// numbered gives every request a number of ours: what a caller calls it is not taken
// over into logs.
func numbered(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		id := uuid.NewString()
		c.SetRequest(c.Request().WithContext(context.WithValue(c.Request().Context(), requestKey{}, id)))
		c.Response().Header().Set(echo.HeaderXRequestID, id)
		return next(c)
	}
}

// A body may take this long, and longer the more it has: slowest is what a poor
// connection carries, bytes a second.
const (
	bodyTime = 30 * time.Second
	slowest  = 20_000
)

// patient ends requests whose body drips in. Uploads look after themselves: a pause of
// half a minute ends a piece, and the next goes on from there.
func patient(least time.Duration) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			r := c.Request()
			if r.Body == nil || r.Body == http.NoBody || strings.Contains(r.URL.Path, "/uploads") {
				return next(c)
			}
			control := http.NewResponseController(c.Response())
			if control.SetReadDeadline(time.Now().Add(least+time.Duration(max(0, r.ContentLength)/slowest)*time.Second)) == nil {
				r.Body = &timed{r.Body, control}
			}
			return next(c)
		}
	}
}

// timed lets go of the deadline once a body is read: it would end the request's work.
type timed struct {
	io.ReadCloser
	control *http.ResponseController
}

func (t *timed) Read(p []byte) (int, error) {
	n, err := t.ReadCloser.Read(p)
	if errors.Is(err, io.EOF) {
		_ = t.control.SetReadDeadline(time.Time{}) // it could be set, so it can be cleared
	}
	return n, err
}

func headers(secure bool) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			h := c.Response().Header()
			h.Set("Content-Security-Policy", "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; media-src 'self' blob:; worker-src 'self' blob:; object-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'")
			h.Set("X-Content-Type-Options", "nosniff")
			h.Set("Referrer-Policy", "same-origin")
			h.Set("Permissions-Policy", "microphone=(self), camera=(), geolocation=(), payment=(), usb=(), display-capture=()")
			h.Set("Cross-Origin-Opener-Policy", "same-origin")
			h.Set("Cross-Origin-Resource-Policy", "same-origin")
			if secure {
				h.Set("Strict-Transport-Security", "max-age=31536000")
			}
			if strings.HasPrefix(c.Request().URL.Path, "/api/") {
				h.Set("Cache-Control", "no-store")
			}
			return next(c)
		}
	}
}

// note is what a handler tells the audit beside what the route says.
type note struct {
	about      string
	team, user *uuid.UUID
}

type noteKey struct{}

// noted is the note of a request.
func noted(ctx context.Context) *note {
	if n, ok := ctx.Value(noteKey{}).(*note); ok {
		return n
	}
	return &note{}
}

// audit notes what lets something in or out.
func (s *server) audit(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		what, ok := audited[c.Request().Method+" "+c.Path()]
		if !ok {
			return next(c)
		}
		n := &note{about: c.Param("id")}
		ctx := context.WithValue(c.Request().Context(), noteKey{}, n)
		if u := who(ctx); u.ID != uuid.Nil {
			n.team, n.user = &u.TeamID, &u.ID
		}
		c.SetRequest(c.Request().WithContext(ctx))
		if err := next(c); err != nil {
			return err
		}
		if r, err := echo.UnwrapResponse(c.Response()); err == nil && r.Status >= 400 {
			return nil
		}
		s.write(ctx, what, n, c.RealIP())
		return nil
	}
}

// write writes a line of the audit. What was done is done: a line that cannot be written
// is told to the operator.
func (s *server) write(ctx context.Context, what string, n *note, address string) {
	e := store.Event{What: what, About: n.about, TeamID: n.team, UserID: n.user, Address: address}
	e.Request, _ = ctx.Value(requestKey{}).(string)
	if err := s.Store.Audit(context.WithoutCancel(ctx), e); err != nil {
		s.Log.Error("the audit could not be written", "what", what, "error", err)
	}
}

// withoutSecret keeps the secrets of links out of the log.
func withoutSecret(path string) string {
	key, found := strings.CutPrefix(path, guests)
	if !found {
		return path
	}
	_, rest, _ := strings.Cut(key, "/")
	return guests + "…/" + rest
}
