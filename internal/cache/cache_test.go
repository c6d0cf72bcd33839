package cache

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"testing"
)

func filled(n int) func(context.Context, string) error {
	return func(_ context.Context, path string) error {
		return os.WriteFile(path, bytes.Repeat([]byte("x"), n), 0o600)
	}
}

func TestWhatWasUsedLongestAgoGoesFirst(t *testing.T) {
	dir, ctx := t.TempDir(), context.Background()
	c, err := Open(dir, 1000)
	if err != nil {
		t.Fatal(err)
	}
	file := func(key string, n int) {
		t.Helper()
		if _, err := c.File(ctx, key, filled(n)); err != nil {
			t.Fatal(err)
		}
	}
	there := func(key string) bool { _, err := os.Stat(filepath.Join(dir, key)); return err == nil }
	file("a/1", 400)
	file("a/2", 400)
	file("a/1", 400) // used again
	file("b/3", 400)
	if !there("a/1") || there("a/2") || !there("b/3") || c.Size() != 800 {
		t.Errorf("%v %v %v, %d bytes", there("a/1"), there("a/2"), there("b/3"), c.Size())
	}
	// A program that starts takes over what is there, within its bound.
	if err := os.WriteFile(filepath.Join(dir, "a", partly+"x"), []byte("x"), 0o600); err != nil {
		t.Fatal(err)
	}
	again, err := Open(dir, 500)
	if err != nil || again.Size() != 400 || there("a/"+partly+"x") {
		t.Errorf("%d bytes %v", again.Size(), err)
	}
	// Larger than the bound, it is kept for the one who waits.
	if path, err := again.File(ctx, "big", filled(2000)); err != nil || !there("big") || path != filepath.Join(dir, "big") {
		t.Errorf("%s %v", path, err)
	}
	c.Drop("a")
	if n, _ := c.Held("a"); n != 0 || there("a/1") {
		t.Errorf("%d files are left", n)
	}
}

func TestAFileIsMadeOnce(t *testing.T) {
	c, err := Open(t.TempDir(), 1000)
	if err != nil {
		t.Fatal(err)
	}
	var made atomic.Int64
	begin := make(chan struct{})
	var wait sync.WaitGroup
	for range 20 {
		wait.Add(1)
		go func() {
			defer wait.Done()
			_, err := c.File(context.Background(), "k", func(_ context.Context, path string) error {
				<-begin
				made.Add(1)
				return os.WriteFile(path, []byte("x"), 0o600)
			})
			if err != nil {
				t.Error(err)
			}
		}()
	}
	close(begin)
	wait.Wait()
	if made.Load() != 1 {
		t.Errorf("made %d times", made.Load())
	}
	failed := errors.New("no")
	if _, err := c.File(context.Background(), "bad", func(context.Context, string) error { return failed }); !errors.Is(err, failed) {
		t.Error(err)
	}
	if _, err := c.File(context.Background(), "bad", filled(1)); err != nil {
		t.Errorf("after a failure: %v", err)
	}
	if _, err := c.File(context.Background(), "panics", func(context.Context, string) error { panic("x") }); err == nil {
		t.Error("a panic is no error")
	}
	gone, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := c.File(gone, "late", func(ctx context.Context, path string) error { return fmt.Errorf("%w", ctx.Err()) }); err == nil {
		t.Error("nobody waits, and it is there")
	}
}
