package intake

import (
	"context"
	"os"
	"runtime"
	"slices"
	"sync"

	"neokinema/internal/media"
	"neokinema/internal/store"
)

// stillsTogether is how many pictures of one clip one run of the tool draws: starting it
// takes several times as long as a picture, and each clip that is opened takes memory.
const stillsTogether = 8

// drawer draws stills. A page asks for all its stills at once: while one run of the tool
// works on a clip, further pictures of that clip gather for the next.
type drawer struct {
	line *line
	work string
	mu   sync.Mutex
	last map[batchOf]*batch // the newest batch of each kind that is not over
}

// batchOf is what pictures of one run have in common.
type batchOf struct {
	path  string
	width int
}

type batch struct {
	before *batch // it runs after this one
	frames []int
	begun  bool // no more frames are taken
	over   chan struct{}
	drawn  map[int]drawnStill
}

type drawnStill struct {
	raw []byte
	err error
}

func newDrawer(work string) *drawer {
	return &drawer{line: newLine(runtime.NumCPU(), stillsWaiting), work: work, last: map[batchOf]*batch{}}
}

// still draws one frame of the working video at path.
func (d *drawer) still(ctx context.Context, path string, c store.Clip, frame, width int) ([]byte, error) {
	of := batchOf{path, width}
	d.mu.Lock()
	b := d.last[of]
	leads := b == nil || b.begun || len(b.frames) == stillsTogether
	if leads {
		b = &batch{before: b, over: make(chan struct{}), drawn: map[int]drawnStill{}}
		d.last[of] = b
	}
	if !slices.Contains(b.frames, frame) {
		b.frames = append(b.frames, frame)
	}
	d.mu.Unlock()
	if leads {
		d.run(ctx, of, b, c)
	}
	select {
	case <-b.over:
		return b.drawn[frame].raw, b.drawn[frame].err
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// run draws a batch when the one before is over and there is room. Whatever happens,
// those who wait are answered.
func (d *drawer) run(ctx context.Context, of batchOf, b *batch, c store.Clip) {
	var frames []int
	begin := func() {
		d.mu.Lock()
		defer d.mu.Unlock()
		b.begun, frames = true, slices.Clone(b.frames)
	}
	failed := os.ErrClosed // unless it goes on to the end
	defer func() {
		if !b.begun {
			begin()
		}
		d.mu.Lock()
		defer d.mu.Unlock()
		for _, f := range frames {
			if _, ok := b.drawn[f]; !ok {
				b.drawn[f] = drawnStill{err: failed}
			}
		}
		if d.last[of] == b {
			delete(d.last, of)
		}
		b.before = nil
		close(b.over)
	}()
	if b.before != nil {
		<-b.before.over
	}
	leave, err := d.line.enter(ctx)
	if err != nil {
		failed = err
		return
	}
	defer leave()
	begin()
	draw := func(some []int) error {
		all, err := media.Stills(ctx, of.path, c.Stamps, some, of.width, d.work)
		if err != nil {
			return err
		}
		for k, f := range some {
			if all[k] == nil {
				b.drawn[f] = drawnStill{err: media.ErrNoFrames}
				continue
			}
			b.drawn[f] = drawnStill{raw: all[k]}
		}
		return nil
	}
	if draw(frames) == nil {
		return
	}
	// One that cannot be drawn does not cost the others.
	for _, f := range frames {
		if err := draw([]int{f}); err != nil {
			b.drawn[f] = drawnStill{err: err}
		}
	}
}
