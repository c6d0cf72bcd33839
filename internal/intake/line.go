package intake

import (
	"context"
	"sync/atomic"

	"neokinema/internal/problem"
)

// stillsWaiting is how many may wait for a picture; more would wait in vain.
const stillsWaiting = 120

// line lets so many work at once and so many more wait.
type line struct {
	room    chan struct{}
	waiting atomic.Int64
	most    int64
}

func newLine(atOnce, waiting int) *line {
	return &line{room: make(chan struct{}, atOnce), most: int64(atOnce + waiting)}
}

// enter waits for room; leave must be called when the work is done.
func (l *line) enter(ctx context.Context) (leave func(), err error) {
	if l.waiting.Add(1) > l.most {
		l.waiting.Add(-1)
		return nil, problem.New(problem.Unavailable, "The server is drawing many pictures just now. This one comes when you try again in a few seconds.")
	}
	select {
	case l.room <- struct{}{}:
		return func() { <-l.room; l.waiting.Add(-1) }, nil
	case <-ctx.Done():
		l.waiting.Add(-1)
		return nil, ctx.Err()
	}
}
