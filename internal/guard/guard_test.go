package guard

import (
	"errors"
	"log/slog"
	"strings"
	"testing"
	"time"
)

func TestDo(t *testing.T) {
	plain := errors.New("plain")
	if err := Do(func() error { return plain }); err != plain {
		t.Error(err)
	}
	var none []int
	var broken *Broken
	err := Do(func() error { _ = none[len(none)]; return nil })
	if !errors.As(err, &broken) || !strings.Contains(broken.Error(), "index out of range") || !strings.Contains(broken.Stack, "guard_test.go") {
		t.Errorf("%v", err)
	}
	done := make(chan error)
	Go(func() error { panic("x") }, func(err error) { done <- err })
	if err := <-done; !errors.As(err, &broken) || broken.What != "x" {
		t.Error(err)
	}
}

func TestEveryGoesOnAfterAMistake(t *testing.T) {
	runs := make(chan int, 100)
	n := 0
	stop := Every(time.Millisecond, slog.New(slog.DiscardHandler), "x", func() error {
		n++
		runs <- n
		if n == 1 {
			panic("the first")
		}
		return errors.New("the others")
	})
	for want := 1; want <= 3; want++ {
		if got := <-runs; got != want {
			t.Fatalf("run %d instead of %d", got, want)
		}
	}
	stop()
	for len(runs) > 0 {
		<-runs
	}
	if len(runs) != 0 {
		t.Error("it runs on")
	}
}
