package account

import (
	"context"
	"sync"
	"time"

	"golang.org/x/time/rate"

	"neokinema/internal/problem"
)

// Tries at once; then one more every 10 seconds. A whole club may come from one
// address, so that limit is wide. What others try for an e-mail does not count for the
// address from which its owner comes, nor for a browser that was signed in before.
const (
	triesByMail    = 8   // of one e-mail from one address, or on one known device
	triesForMail   = 60  // of one e-mail from all addresses, on devices that are not known
	triesByAddress = 100 // from one address
	triesToBegin   = 8   // new teams and accounts from one address
)

type limiter struct {
	mu   sync.Mutex
	seen map[string]*entry
}

type entry struct {
	limit *rate.Limiter
	last  time.Time
}

func (l *limiter) allow(key string, atOnce int) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	now := time.Now()
	if len(l.seen) > 10_000 {
		for k, e := range l.seen {
			if now.Sub(e.last) > 10*time.Minute {
				delete(l.seen, k)
			}
		}
	}
	e := l.seen[key]
	if e == nil {
		e = &entry{limit: rate.NewLimiter(rate.Every(10*time.Second), atOnce)}
		l.seen[key] = e
	}
	e.last = now
	return e.limit.Allow()
}

func (l *limiter) forget(key string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	delete(l.seen, key)
}

// hashes lets only few passwords be hashed at once: each takes much memory, which is
// the point of it.
type hashes chan struct{}

const (
	hashesAtOnce = 2
	hashWait     = 10 * time.Second
)

func (h hashes) enter(ctx context.Context) (leave func(), err error) {
	ctx, cancel := context.WithTimeout(ctx, hashWait)
	defer cancel()
	select {
	case h <- struct{}{}:
		return func() { <-h }, nil
	case <-ctx.Done():
		return nil, problem.New(problem.Unavailable, "Many people sign in just now. Try again in a few seconds.")
	}
}
