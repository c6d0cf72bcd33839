// Package guard starts work so that a mistake in it ends that work, and not the
// process with everybody else's.
package guard

import (
	"fmt"
	"log/slog"
	"runtime/debug"
	"time"
)

// Broken is the error of work that ran into a mistake of ours.
type Broken struct {
	What  any    // what it panicked with
	Stack string // where
}

func (b *Broken) Error() string { return fmt.Sprintf("panic: %v\n%s", b.What, b.Stack) }

// Do runs f and gives a panic as an error of type [*Broken].
func Do(f func() error) (err error) {
	defer func() {
		if r := recover(); r != nil {
			err = &Broken{r, string(debug.Stack())}
		}
	}()
	return f()
}

// Go runs f beside the caller; done gets its error, a panic too.
func Go(f func() error, done func(error)) {
	go func() { done(Do(f)) }()
}

// Every runs f at once and then after each interval, until stop is called; stop waits
// for a run that goes on. An error is logged and the next run comes all the same.
func Every(interval time.Duration, log *slog.Logger, what string, f func() error) (stop func()) {
	end, over := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(over)
		tick := time.NewTicker(interval)
		defer tick.Stop()
		for {
			if err := Do(f); err != nil {
				log.Error(what, "error", err)
			}
			select {
			case <-end:
				return
			case <-tick.C:
			}
		}
	}()
	return func() { close(end); <-over }
}
