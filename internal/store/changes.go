package store

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"github.com/google/uuid"
)

// Changes tells who listens that something in a team's queue is another than before.
type Changes struct {
	store *Store
	log   *slog.Logger

	mu        sync.Mutex
	listeners map[uuid.UUID]map[chan struct{}]bool
}

// NewChanges hears nothing until it runs.
func NewChanges(s *Store, log *slog.Logger) *Changes {
	return &Changes{store: s, log: log, listeners: map[uuid.UUID]map[chan struct{}]bool{}}
}

// Listen gives a channel that holds one word after every change of a team's queue, or several;
// leave ends it.
func (c *Changes) Listen(team uuid.UUID) (changed <-chan struct{}, leave func()) {
	ch := make(chan struct{}, 1)
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.listeners[team] == nil {
		c.listeners[team] = map[chan struct{}]bool{}
	}
	c.listeners[team][ch] = true
	return ch, func() {
		c.mu.Lock()
		defer c.mu.Unlock()
		delete(c.listeners[team], ch)
		if len(c.listeners[team]) == 0 {
			delete(c.listeners, team)
		}
	}
}

// tell wakes the listeners of a team.
func (c *Changes) tell(team uuid.UUID) {
	for ch := range c.listeners[team] {
		select {
		case ch <- struct{}{}:
		default: // it has not heard of the last one yet
		}
	}
}

// again is how long a lost connection to the database is let alone.
const again = 2 * time.Second

// Run listens to the database until the context ends. After a lost connection everybody is told:
// what changed meanwhile is not known.
func (c *Changes) Run(ctx context.Context) {
	for ctx.Err() == nil {
		err := c.listen(ctx)
		if ctx.Err() != nil {
			return
		}
		c.log.Warn("the connection that tells of changes was lost", "error", err)
		c.mu.Lock()
		for team := range c.listeners {
			c.tell(team)
		}
		c.mu.Unlock()
		select {
		case <-ctx.Done():
		case <-time.After(again):
		}
	}
}

func (c *Changes) listen(ctx context.Context) error {
	pooled, err := c.store.Pool.Acquire(ctx)
	if err != nil {
		return err
	}
	conn := pooled.Hijack() // it listens as long as it lives, and goes back to nobody
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }()
	if _, err := conn.Exec(ctx, `LISTEN neokinema_teams`); err != nil {
		return err
	}
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		if team, err := uuid.Parse(n.Payload); err == nil {
			c.mu.Lock()
			c.tell(team)
			c.mu.Unlock()
		}
	}
}
