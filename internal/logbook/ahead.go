package logbook

import (
	"context"
	"sync"

	"github.com/google/uuid"

	"neokinema/internal/guard"
	"neokinema/internal/store"
)

// ahead are the attempts that are computed before anybody opens them, so that the queue says what
// was found in them.
type ahead struct {
	mu      sync.Mutex
	wanted  []wanted
	running chan struct{} // closed when the work ends; nil without any
	stopped bool
	broken  map[uuid.UUID]string // the state in which an attempt could not be computed
}

type wanted struct{ team, attempt uuid.UUID }

// Ahead computes attempts of a team beside everything else, one after the other; what is computed
// already, as it is now, is left alone. The queue hears of each as of any other change.
func (s *Service) Ahead(team uuid.UUID, attempts []uuid.UUID) {
	a := &s.ahead
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.stopped || len(attempts) == 0 {
		return
	}
	for _, id := range attempts {
		a.wanted = append(a.wanted, wanted{team, id})
	}
	if a.running != nil {
		return
	}
	over := make(chan struct{})
	a.running = over
	guard.Go(func() error {
		for {
			next, ok := a.next()
			if !ok {
				return nil
			}
			if err := s.computeAhead(context.Background(), next); err != nil {
				s.log.Error("an attempt could not be computed ahead", "attempt", next.attempt, "error", err)
			}
		}
	}, func(err error) {
		if err != nil {
			s.log.Error("attempts are not computed ahead", "error", err)
		}
		a.mu.Lock()
		defer a.mu.Unlock()
		if a.running == over {
			a.running = nil
		}
		close(over)
	})
}

// next takes an attempt off the list, each once however often it was asked for. Without another
// one the work is over.
func (a *ahead) next() (w wanted, ok bool) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.stopped || len(a.wanted) == 0 {
		a.running = nil
		return w, false
	}
	w = a.wanted[0]
	rest := a.wanted[:0]
	for _, other := range a.wanted {
		if other != w {
			rest = append(rest, other)
		}
	}
	a.wanted = rest
	return w, true
}

func (s *Service) computeAhead(ctx context.Context, w wanted) error {
	list, err := s.store.LogOf(ctx, w.team, []uuid.UUID{w.attempt}, s.engine())
	if err != nil {
		return err
	}
	for _, r := range list {
		if !r.Worked || len(r.Kept) > 0 || s.ahead.knownBroken(r) {
			continue
		}
		if err := guard.Do(func() error { _, err := s.compute(ctx, w.team, r); return err }); err != nil {
			s.ahead.breaks(r)
			return err
		}
	}
	return nil
}

// knownBroken tells whether it was tried before, as it is now.
func (a *ahead) knownBroken(r store.LogRow) bool {
	a.mu.Lock()
	defer a.mu.Unlock()
	return a.broken[r.ID] == r.Stamp
}

func (a *ahead) breaks(r store.LogRow) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.broken == nil || len(a.broken) > 1000 {
		a.broken = map[uuid.UUID]string{}
	}
	a.broken[r.ID] = r.Stamp
}

// Stop ends what is computed ahead and waits for the attempt in work.
func (s *Service) Stop() {
	s.ahead.mu.Lock()
	s.ahead.stopped = true
	running := s.ahead.running
	s.ahead.mu.Unlock()
	if running != nil {
		<-running
	}
}
