package api

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"net/http"
	"sync"
	"time"

	"github.com/google/uuid"
	"github.com/labstack/echo/v5"

	"neokinema/core/azimuth"
)

// queues keeps the queues of teams as they were last answered. Everybody's page asks for
// the queue again and again, and mostly nothing has changed: the team's stamp tells.
type queues struct {
	mu   sync.Mutex
	kept map[queueOf]keptQueue
	size int
}

// queueOf is whose queue it is: it shows the own hand time too.
type queueOf struct {
	team, user uuid.UUID
	speaks     azimuth.Language
	view       string // as it was asked for
}

type keptQueue struct {
	stamp int64
	tag   string // another when the body is
	body  []byte
}

// mostQueues bounds what is kept, bytes; beyond it all is forgotten and made anew.
const mostQueues = 64 << 20

func (q *queues) get(of queueOf, stamp int64) (keptQueue, bool) {
	q.mu.Lock()
	defer q.mu.Unlock()
	k, ok := q.kept[of]
	return k, ok && k.stamp == stamp
}

func (q *queues) put(of queueOf, stamp int64, body []byte) keptQueue {
	q.mu.Lock()
	defer q.mu.Unlock()
	if q.kept == nil || q.size > mostQueues {
		q.kept, q.size = map[queueOf]keptQueue{}, 0
	}
	q.size += len(body) - len(q.kept[of].body)
	q.kept[of] = keptQueue{stamp, fmt.Sprintf(`"%x"`, sha256.Sum256(body)), body}
	return q.kept[of]
}

// unchanged answers for the queue while nothing in it has changed.
func (s *server) unchanged(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if c.Request().Method != http.MethodGet || c.Path() != "/api/queue" {
			return next(c)
		}
		u := who(c.Request().Context())
		// Read before the queue is: a change in between only makes it anew once more.
		stamp, err := s.Store.Stamp(c.Request().Context(), u.TeamID)
		if err != nil {
			return err
		}
		of := queueOf{u.TeamID, u.ID, u.Directions, c.Request().URL.RawQuery}
		k, ok := s.queues.get(of, stamp)
		if !ok {
			out := c.Response()
			copied := &copying{ResponseWriter: out}
			c.SetResponse(echo.NewResponse(copied, s.Log))
			err := next(c)
			c.SetResponse(out)
			if err != nil {
				return err
			}
			if copied.status != http.StatusOK && copied.status != 0 {
				out.WriteHeader(copied.status)
				_, err := out.Write(copied.body.Bytes())
				return err
			}
			k = s.queues.put(of, stamp, copied.body.Bytes())
		}
		// A page that is the same although something else changed is not sent again.
		h := c.Response().Header()
		h.Set("Cache-Control", private)
		h.Set("ETag", k.tag)
		if c.Request().Header.Get("If-None-Match") == k.tag {
			c.Response().WriteHeader(http.StatusNotModified)
			return nil
		}
		return c.Blob(http.StatusOK, "application/json", k.body)
	}
}

// changes tells a page that its queue is another than before: an event with the team's stamp for
// each change, or several, as long as the page is open. It says where it stands at once.
func (s *server) changes(c *echo.Context) error {
	ctx := c.Request().Context()
	team := who(ctx).TeamID
	changed, leave := s.Changes.Listen(team)
	defer leave()
	h := c.Response().Header()
	h.Set("Content-Type", "text/event-stream")
	control := http.NewResponseController(c.Response())
	quiet := time.NewTicker(keepAlive)
	defer quiet.Stop()
	for told, due := int64(0), true; ; {
		stamp, err := s.Store.Stamp(ctx, team)
		if err != nil {
			return err
		}
		if due || stamp != told {
			if err := control.SetWriteDeadline(time.Now().Add(s.BodyTime)); err != nil && !errors.Is(err, http.ErrNotSupported) {
				return err
			}
			if _, err := fmt.Fprintf(c.Response(), "data: %d\n\n", stamp); err != nil {
				return nil // nobody listens any more
			}
			if err := control.Flush(); err != nil {
				return nil // likewise
			}
			told, due = stamp, false
		}
		select {
		case <-ctx.Done():
			return nil
		case <-Ending(ctx):
			return nil
		case <-changed:
		case <-quiet.C:
			due = true // proxies end what says nothing
		}
	}
}

// keepAlive is how long nothing is said.
const keepAlive = 25 * time.Second

type endingKey struct{}

// UntilEnd is a context of requests that knows when the server begins to stop: what would go on
// for ever ends then.
func UntilEnd(ctx context.Context, stops <-chan struct{}) context.Context {
	return context.WithValue(ctx, endingKey{}, stops)
}

// Ending is closed when the server of a request begins to stop; nil when nobody said so.
func Ending(ctx context.Context) <-chan struct{} {
	stops, _ := ctx.Value(endingKey{}).(<-chan struct{})
	return stops
}

// copying keeps what is answered instead of sending it.
type copying struct {
	http.ResponseWriter
	status int
	body   bytes.Buffer
}

// WriteHeader is called by the handler.
func (w *copying) WriteHeader(status int) { w.status = status }

func (w *copying) Write(p []byte) (int, error) { return w.body.Write(p) }

// Unwrap lets others reach what is below.
func (w *copying) Unwrap() http.ResponseWriter { return w.ResponseWriter }
