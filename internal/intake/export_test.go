package intake

import (
	"context"

	"neokinema/internal/store"
)

// NewDrawer makes what draws stills.
var NewDrawer = newDrawer

// Still draws a frame in its own size.
func (d *drawer) Still(ctx context.Context, path string, c store.Clip, frame int) ([]byte, error) {
	return d.still(ctx, path, c, frame, 0)
}

// Fill takes all the room there is until leave.
func (d *drawer) Fill(ctx context.Context) (leave func(), err error) {
	var all []func()
	for range cap(d.line.room) {
		l, err := d.line.enter(ctx)
		if err != nil {
			return nil, err
		}
		all = append(all, l)
	}
	return func() {
		for _, l := range all {
			l()
		}
	}, nil
}

// Waiting counts batches that are not over.
func (d *drawer) Waiting() int { return len(d.last) }
