// Package api is the HTTP face: thin handlers over the use cases, one error
// shape, one contract from which the TypeScript types are generated.
package api

import (
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"regexp"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"neokinema/internal/account"
	"neokinema/internal/archive"
	"neokinema/internal/drafting"
	"neokinema/internal/ghosts"
	"neokinema/internal/intake"
	"neokinema/internal/logbook"
	"neokinema/internal/owndrills"
	"neokinema/internal/planning"
	"neokinema/internal/problem"
	"neokinema/internal/seeing"
	"neokinema/internal/share"
	"neokinema/internal/store"
	"neokinema/internal/videoanalysis"
	"neokinema/internal/videoexport"
	"neokinema/internal/voiceover"
	"neokinema/internal/workspace"
)

// Parts are what the API speaks for.
type Parts struct {
	Store     *store.Store
	Account   *account.Service
	Intake    *intake.Service
	Workspace *workspace.Service
	Analysis  *videoanalysis.Service
	Logbook   *logbook.Service
	Planning  *planning.Service
	Seeing    *seeing.Service
	Ghosts    *ghosts.Service
	OwnDrills *owndrills.Service
	Share     *share.Service
	Archive   *archive.Service
	Voiceover *voiceover.Service
	Export    *videoexport.Service
	Drafting  *drafting.Service
	Changes   *store.Changes
	Scratch   string // folder for archives on their way in
	Web       fs.FS
	Log       *slog.Logger
	// DemoUser may sign in with one click; empty outside the demo.
	DemoUser string
	// Filling tells how many attempts of the demo's club are there, of how many; nil is none.
	Filling func() (done, of int)
	// Sample gives a team a clip to try, with an attempt and an athlete of its own.
	Sample func(ctx context.Context, team uuid.UUID) (store.Attempt, error)
	// SecureCookies is off only for plain HTTP on loopback.
	SecureCookies bool
	// Public is the address that people see, with its scheme; empty when it is not known.
	Public string
	// Proxies may say for whom they ask.
	Proxies []*net.IPNet
	// Metrics counts requests; nil does not.
	Metrics Metrics
	// BodyTime is what a small body may take, and a line of a stream to be read; half a
	// minute when zero.
	BodyTime time.Duration
}

// Metrics takes note of requests.
type Metrics interface {
	Request(method, route string, status int, took time.Duration)
}

type server struct {
	Parts
	sessions *scs.SessionManager
	queues   queues
	pages    sync.Map // of *page, by name
}

// New builds the handler of the whole application.
func New(p Parts) (http.Handler, error) {
	s := &server{Parts: p}
	s.sessions = scs.New()
	s.sessions.Store = postgresstore.NewWithCleanupInterval(p.Store.DB.DB, time.Hour)
	s.sessions.Lifetime = 30 * 24 * time.Hour
	s.sessions.HashTokenInStore = true
	s.sessions.Cookie.Name = "neokinema"
	s.sessions.Cookie.HttpOnly = true
	s.sessions.Cookie.SameSite = http.SameSiteLaxMode
	s.sessions.Cookie.Secure = p.SecureCookies
	s.sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) { s.fail(w, r, store.Explain(err)) }

	e := echo.NewWithConfig(echo.Config{Logger: p.Log, HTTPErrorHandler: func(c *echo.Context, err error) {
		// What has begun to be answered, or was answered with this error, stays.
		if r, unwrapErr := echo.UnwrapResponse(c.Response()); unwrapErr == nil && r.Committed {
			return
		}
		s.fail(c.Response(), c.Request(), routing(err))
	}})
	// Addresses come from the connection; a header counts only when a trusted proxy
	// says it.
	e.IPExtractor = echo.ExtractIPDirect()
	if len(p.Proxies) > 0 {
		options := []echo.TrustOption{echo.TrustLoopback(false), echo.TrustLinkLocal(false), echo.TrustPrivateNet(false)}
		for _, n := range p.Proxies {
			options = append(options, echo.TrustIPRange(n))
		}
		e.IPExtractor = echo.ExtractIPFromXFFHeader(options...)
	}
	e.Use(numbered)
	e.Use(middleware.RequestLoggerWithConfig(middleware.RequestLoggerConfig{
		LogStatus: true, LogMethod: true, LogURIPath: true, LogLatency: true,
		HandleError: true, // or what is refused would be counted as broken
		Skipper:     func(c *echo.Context) bool { return !strings.HasPrefix(c.Request().URL.Path, "/api/") },
		LogValuesFunc: func(c *echo.Context, v middleware.RequestLoggerValues) error {
			id, _ := c.Request().Context().Value(requestKey{}).(string)
			p.Log.Info("request", "method", v.Method, "path", withoutSecret(v.URIPath), "status", v.Status, "took", v.Latency, "request", id)
			if p.Metrics != nil {
				p.Metrics.Request(v.Method, c.Path(), v.Status, v.Latency)
			}
			return nil
		},
	}))
	e.Use(middleware.Recover())
	e.Use(headers(strings.HasPrefix(p.Public, "https:")))
	if p.BodyTime == 0 {
		p.BodyTime = bodyTime
	}
	s.BodyTime = p.BodyTime
	e.Use(patient(p.BodyTime))
	e.Use(middleware.GzipWithConfig(middleware.GzipConfig{MinLength: 1024, Skipper: func(c *echo.Context) bool { return !packs(c.Request()) }}))

	root := e.Group("/api")
	root.GET("/live", func(c *echo.Context) error { return c.JSON(http.StatusOK, map[string]string{"status": "ok"}) })
	root.GET("/ready", s.ready)
	root.GET("/health", s.ready)
	// State-changing requests of other sites are refused by origin; with
	// SameSite cookies this is the whole defence against forged requests.
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		s.fail(w, r, problem.New(problem.Refused, "This request came from another site and was refused. Open Neokinema itself and try again."))
	}))
	root.Use(echo.WrapMiddleware(guard.Handler), echo.WrapMiddleware(s.sessions.LoadAndSave), s.signedIn, s.audit, s.unchanged)

	uploads, err := p.Intake.Uploads("/api/uploads/")
	if err != nil {
		return nil, err
	}
	forward := func(c *echo.Context) error {
		http.StripPrefix("/api/uploads", uploads).ServeHTTP(c.Response(), c.Request().WithContext(intake.WithTeam(c.Request().Context(), who(c.Request().Context()).TeamID)))
		return nil
	}
	root.Any("/uploads", forward)
	root.Any("/uploads/", forward)
	root.Any("/uploads/:id", forward)

	s.describe(root)
	s.sharedUploads(root, uploads)
	e.GET("/*", s.frontEnd)
	e.HEAD("/*", s.frontEnd)
	return e, nil
}

func init() {
	huma.DefaultArrayNullable = false // lists are empty, never null
	// One error shape: what huma finds wrong with a request becomes a problem too.
	huma.NewError = func(status int, msg string, errs ...error) huma.StatusError {
		p := problem.New(problem.Invalid, "%s", "Something in this form is not right.")
		switch {
		case status == http.StatusRequestEntityTooLarge:
			p = problem.New(problem.TooLarge, "This is too much at once. Save in smaller steps.")
		case status >= 500:
			p = problem.From(errors.New(msg))
		}
		for _, err := range errs {
			p.Fields = append(p.Fields, wrong(err))
		}
		if len(p.Fields) > 0 && p.Kind == problem.Invalid {
			p.Says = strings.Join(p.Fields, ". ") + "."
		}
		return p.Told("")
	}
}

type requestKey struct{}
type userKey struct{}
type signinKey struct{}

// sessionKey is what a session's cookie stands for: the id of a sign-in.
const sessionKey = "signin"

// who is the signed-in coach of a request.
func who(ctx context.Context) store.User {
	u, _ := ctx.Value(userKey{}).(store.User)
	return u
}

// register adds an operation whose errors become problems.
func register[I, O any](s *server, api huma.API, method, path, id, says string, f func(context.Context, *I) (*O, error)) {
	huma.Register(api, huma.Operation{OperationID: id, Method: method, Path: path, Summary: says, MaxBodyBytes: 8 << 20, BodyReadTimeout: -1, Errors: []int{}},
		func(ctx context.Context, in *I) (*O, error) {
			out, err := f(ctx, in)
			if err != nil {
				return nil, s.explain(ctx, err)
			}
			return out, nil
		})
}

// bytes adds a route that gives bytes or a stream instead of one JSON, to the router and to
// the contract.
func (s *server) bytes(g *echo.Group, api huma.API, method, route, id, says, gives string, h echo.HandlerFunc) {
	op := &huma.Operation{OperationID: id, Method: method, Path: route, Summary: says,
		Responses: map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{gives: {}}}}}
	for _, name := range inPath.FindAllStringSubmatch(route, -1) {
		op.Parameters = append(op.Parameters, &huma.Param{Name: name[1], In: "path", Required: true, Schema: &huma.Schema{Type: huma.TypeString}})
	}
	api.OpenAPI().AddOperation(op)
	g.Add(method, inPath.ReplaceAllString(route, ":$1"), h)
}

var inPath = regexp.MustCompile(`\{(\w+)\}`)

// explain logs what is not the user's doing and adds the request id.
func (s *server) explain(ctx context.Context, err error) *problem.Problem {
	request, _ := ctx.Value(requestKey{}).(string)
	p := problem.From(store.Explain(err)).Told(request)
	if (p.Kind == problem.Internal || p.Unwrap() != nil && p.Kind == problem.Unavailable && !errors.Is(err, context.Canceled)) && s.Log != nil {
		s.Log.Error("internal error", "error", err, "request", p.Request)
	}
	return p
}

func (s *server) fail(w http.ResponseWriter, r *http.Request, err error) {
	p := s.explain(r.Context(), err)
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(p.GetStatus())
	if r.Method != http.MethodHead {
		_ = writeJSON(w, p)
	}
}

// routing turns Echo's own errors into problems.
func routing(err error) error {
	var coded interface{ StatusCode() int }
	if errors.As(err, &coded) {
		switch code := coded.StatusCode(); {
		case code == http.StatusNotFound || code == http.StatusMethodNotAllowed:
			return problem.New(problem.NotFound, "There is nothing at this address. Go back to the queue.")
		case code < 500:
			return problem.New(problem.Invalid, "This request cannot be read.")
		}
	}
	return err
}

// private lets a browser keep media, but ask before each use whether they are still to
// be seen: after signing out, or once they are deleted, they are not.
const private = "private, no-cache"

// ready tells whether requests can be answered: the database must be there.
func (s *server) ready(c *echo.Context) error {
	ctx, cancel := context.WithTimeout(c.Request().Context(), 2*time.Second)
	defer cancel()
	if err := s.Store.DB.PingContext(ctx); err != nil {
		return problem.New(problem.Unavailable, "The database does not answer.")
	}
	return c.JSON(http.StatusOK, map[string]string{"status": "ok"})
}
