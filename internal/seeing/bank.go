// Package seeing trains the eye: a bank of drawn clips, sets of exercises, what answers are worth and
// what comes next.
package seeing

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"regexp"
	"sync"
	"time"

	"neokinema/internal/guard"
	"neokinema/internal/problem"
	"neokinema/simcam/lesson"
)

// edition changes when clips are drawn differently: those of another one are drawn anew.
const edition = "7"

// Bank is the clips that were drawn so far.
type Bank struct {
	dir  string
	log  *slog.Logger
	busy func(context.Context) bool

	filling sync.Mutex // one draws at a time

	mu    sync.RWMutex
	clips map[string]lesson.Clip
	order []string
	drawn int // scenes
	stop  func()
}

// OpenBank takes up what a folder has; busy tells when drawing has to wait.
func OpenBank(dir string, busy func(context.Context) bool, log *slog.Logger) (*Bank, error) {
	b := &Bank{dir: filepath.Join(dir, edition), log: log, busy: busy, clips: map[string]lesson.Clip{}}
	if err := os.MkdirAll(b.dir, 0o755); err != nil {
		return nil, err
	}
	for n := range lesson.Scenes() {
		raw, err := os.ReadFile(b.scene(n))
		if err != nil {
			continue // not drawn yet
		}
		var list []lesson.Clip
		if err := json.Unmarshal(raw, &list); err != nil {
			log.Warn("a scene for the eye cannot be read and is drawn anew", "scene", n, "error", err)
			_ = os.Remove(b.scene(n))
			continue
		}
		b.add(list)
	}
	return b, nil
}

func (b *Bank) scene(n int) string { return filepath.Join(b.dir, fmt.Sprintf("scene-%03d.json", n)) }

func (b *Bank) add(list []lesson.Clip) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.drawn++
	for _, c := range list {
		if _, there := b.clips[c.ID]; !there {
			b.order = append(b.order, c.ID)
		}
		b.clips[c.ID] = c
	}
}

// Fill draws what is missing, scene after scene, until ctx ends or so many clips are there; 0 is all.
func (b *Bank) Fill(ctx context.Context, most int) error {
	b.filling.Lock()
	defer b.filling.Unlock()
	for n := range lesson.Scenes() {
		if err := ctx.Err(); err != nil {
			return err
		}
		if most > 0 && b.Size() >= most {
			return nil
		}
		if _, err := os.Stat(b.scene(n)); err == nil {
			continue
		}
		if err := b.wait(ctx); err != nil {
			return err
		}
		clips, err := lesson.Scene(n)
		if err != nil {
			// Nobody shows it as it should be: the bank does without.
			b.log.Debug("a scene for the eye is left out", "error", err)
			clips = nil
		}
		for _, c := range clips {
			sheet, err := c.Draw(func() error { return b.wait(ctx) })
			if err != nil {
				return err
			}
			if err := write(b.path(c.ID), sheet); err != nil {
				return err
			}
		}
		raw, err := json.Marshal(clips)
		if err != nil {
			return err
		}
		if err := write(b.scene(n), raw); err != nil {
			return err
		}
		b.add(clips)
	}
	return nil
}

// pause is how long drawing waits before it asks again.
const pause = 2 * time.Second

// wait waits while there is something more important.
func (b *Bank) wait(ctx context.Context) error {
	for b.busy != nil && b.busy(ctx) {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(pause):
		}
	}
	return ctx.Err()
}

// write puts a file there whole or not at all.
func write(path string, raw []byte) error {
	if err := os.WriteFile(path+".part", raw, 0o644); err != nil {
		return err
	}
	return os.Rename(path+".part", path)
}

// Start draws in the background until [Bank.Stop].
func (b *Bank) Start() {
	ctx, cancel := context.WithCancel(context.Background())
	over := make(chan struct{})
	b.stop = func() { cancel(); <-over }
	guard.Go(func() error { return b.Fill(ctx, 0) }, func(err error) {
		defer close(over)
		if err != nil && ctx.Err() == nil {
			b.log.Error("clips for the eye could not be drawn", "error", err)
		}
	})
}

// Stop ends drawing, and waits for it.
func (b *Bank) Stop() {
	if b.stop != nil {
		b.stop()
	}
}

// Size is how many clips there are.
func (b *Bank) Size() int {
	b.mu.RLock()
	defer b.mu.RUnlock()
	return len(b.order)
}

// Clips are those that there are, in the order in which they came.
func (b *Bank) Clips() []lesson.Clip {
	b.mu.RLock()
	defer b.mu.RUnlock()
	out := make([]lesson.Clip, 0, len(b.order))
	for _, id := range b.order {
		out = append(out, b.clips[id])
	}
	return out
}

// Clip is one of them.
func (b *Bank) Clip(id string) (lesson.Clip, error) {
	b.mu.RLock()
	defer b.mu.RUnlock()
	c, ok := b.clips[id]
	if !ok {
		return c, problem.New(problem.NotFound, "This exercise is not there (any more). Begin a new set.")
	}
	return c, nil
}

func (b *Bank) path(id string) string { return filepath.Join(b.dir, id+".jpg") }

var named = regexp.MustCompile(`^[a-z0-9-]{1,80}$`)

// Sheet is the file of a clip's pictures.
func (b *Bank) Sheet(id string) (string, error) {
	if !named.MatchString(id) {
		return "", problem.Missing("clip")
	}
	if _, err := b.Clip(id); err != nil {
		return "", err
	}
	return b.path(id), nil
}
