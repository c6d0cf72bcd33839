package intake

import (
	"context"
	"maps"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// unclaimed is how old media must be before its missing row makes it rubbish: an
// archive on its way in puts media first.
const unclaimed = 6 * time.Hour

// Swept is what a sweep removed.
type Swept struct {
	Media   int // things on the shelf without a row
	Uploads int // files of uploads without a row
	Clips   int // clips older than their team keeps them
}

// Sweep removes what nobody knows of any more, and clips that are older than their team
// keeps them.
func (s *Service) Sweep(ctx context.Context, now time.Time) (out Swept, err error) {
	if err := s.store.Tidy(ctx); err != nil {
		return out, err
	}
	aged, err := s.store.Aged(ctx)
	if err != nil {
		return out, err
	}
	for _, c := range aged {
		if _, err := s.deleted(ctx, c.TeamID, "old_clips", func() (store.Removed, error) { return s.store.DeleteClip(ctx, c.TeamID, c.ID) }); err != nil {
			return out, err
		}
		out.Clips++
	}
	old, err := s.shelf.ids(ctx, now.Add(-unclaimed))
	if err != nil {
		return out, err
	}
	unknown, err := s.store.Unknown(ctx, slices.Collect(maps.Keys(old)))
	if err != nil {
		return out, err
	}
	for _, id := range unknown {
		s.shelf.remove(ctx, id)
		out.Media++
	}
	list, err := os.ReadDir(s.uploads)
	if err != nil {
		return out, err
	}
	open, err := s.store.OpenUploads(ctx)
	if err != nil {
		return out, err
	}
	known := map[string]bool{}
	for _, u := range open {
		known[u.ID.String()] = true
	}
	for _, f := range list {
		name, _, _ := strings.Cut(f.Name(), ".")
		id, err := uuid.Parse(name)
		i, infoErr := f.Info()
		if err != nil || infoErr != nil || known[name] || i.ModTime().After(now.Add(-unclaimed)) {
			continue
		}
		// A clip whose import waits or failed still needs its upload.
		c, err := s.store.ClipForImport(ctx, id)
		if err != nil && !problem.Is(err, problem.NotFound) {
			return out, err
		}
		if err == nil && c.State != "ready" {
			continue
		}
		s.dropUpload(id)
		out.Uploads++
	}
	if out != (Swept{}) {
		s.log.Info("swept", "media", out.Media, "uploads", out.Uploads, "clips", out.Clips)
	}
	return out, nil
}
