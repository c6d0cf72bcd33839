package api

import (
	"bytes"
	"fmt"
	"net/http"
	"sync"

	"github.com/google/uuid"
	"github.com/labstack/echo/v5"
)

// queues keeps the queues of teams as they were last answered. Everybody's page asks for
// the queue again and again, and mostly nothing has changed: the team's stamp tells.
type queues struct {
	mu   sync.Mutex
	kept map[queueOf]keptQueue
	size int
}

// queueOf is whose queue it is: it shows the own hand time too.
type queueOf struct{ team, user uuid.UUID }

type keptQueue struct {
	stamp int64
	body  []byte
}

// mostQueues bounds what is kept, bytes; beyond it all is forgotten and made anew.
const mostQueues = 64 << 20

func (q *queues) get(of queueOf, stamp int64) ([]byte, bool) {
	q.mu.Lock()
	defer q.mu.Unlock()
	k, ok := q.kept[of]
	return k.body, ok && k.stamp == stamp
}

func (q *queues) put(of queueOf, stamp int64, body []byte) {
	q.mu.Lock()
	defer q.mu.Unlock()
	if q.kept == nil || q.size > mostQueues {
		q.kept, q.size = map[queueOf]keptQueue{}, 0
	}
	q.size += len(body) - len(q.kept[of].body)
	q.kept[of] = keptQueue{stamp, body}
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
		h := c.Response().Header()
		tag := fmt.Sprintf(`"%d"`, stamp)
		if c.Request().Header.Get("If-None-Match") == tag {
			h.Set("ETag", tag)
			c.Response().WriteHeader(http.StatusNotModified)
			return nil
		}
		of := queueOf{u.TeamID, u.ID}
		if body, ok := s.queues.get(of, stamp); ok {
			h.Set("ETag", tag)
			return c.Blob(http.StatusOK, "application/json", body)
		}
		copied := &copying{ResponseWriter: c.Response()}
		c.SetResponse(echo.NewResponse(copied, s.Log))
		if err := next(c); err != nil || copied.status != http.StatusOK && copied.status != 0 {
			return err
		}
		s.queues.put(of, stamp, copied.body.Bytes())
		return nil
	}
}

// copying keeps what is answered.
type copying struct {
	http.ResponseWriter
	status int
	body   bytes.Buffer
}

// WriteHeader is called by the handler.
func (w *copying) WriteHeader(status int) {
	w.status = status
	w.ResponseWriter.WriteHeader(status)
}

func (w *copying) Write(p []byte) (int, error) {
	w.body.Write(p)
	return w.ResponseWriter.Write(p)
}

// Unwrap lets others reach what is below.
func (w *copying) Unwrap() http.ResponseWriter { return w.ResponseWriter }
