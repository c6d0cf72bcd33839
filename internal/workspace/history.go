package workspace

import (
	"context"
	"encoding/json"
	"slices"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Replayed is what an undo or redo did: the edits to make, in order.
type Replayed struct {
	Saved
	Edits []Edit `json:"edits"`
}

// Undo takes the last change back, whoever's session it was made in, with all
// that it was joined to.
func (s *Service) Undo(ctx context.Context, team, id uuid.UUID, base int) (Replayed, error) {
	var done []Edit
	saved, err := s.change(ctx, team, id, base, func(tx *sqlx.Tx, a store.Attempt, check checker) error {
		for more := true; more; {
			r, ok, err := store.LastDone(ctx, tx, a.ID)
			if err != nil {
				return err
			}
			if !ok && done == nil {
				return problem.New(problem.Invalid, "There is nothing to undo.")
			} else if !ok {
				return nil
			}
			edits, err := replay(ctx, tx, team, a.ID, check, r, true)
			if err != nil {
				return err
			}
			done = append(done, edits...)
			if err := store.MarkRevision(ctx, tx, a.ID, r.N, "undone"); err != nil {
				return err
			}
			more = r.Joined
		}
		return nil
	})
	return Replayed{saved, done}, err
}

// Redo brings the last undone change again, with all that is joined to it.
func (s *Service) Redo(ctx context.Context, team, id uuid.UUID, base int) (Replayed, error) {
	var done []Edit
	saved, err := s.change(ctx, team, id, base, func(tx *sqlx.Tx, a store.Attempt, check checker) error {
		for first := true; ; first = false {
			r, ok, err := store.FirstUndone(ctx, tx, a.ID)
			if err != nil {
				return err
			}
			if !ok && first {
				return problem.New(problem.Invalid, "There is nothing to redo.")
			}
			if !ok || !first && !r.Joined {
				return nil
			}
			edits, err := replay(ctx, tx, team, a.ID, check, r, false)
			if err != nil {
				return err
			}
			done = append(done, edits...)
			if err := store.MarkRevision(ctx, tx, a.ID, r.N, "done"); err != nil {
				return err
			}
		}
	})
	return Replayed{saved, done}, err
}

// replay makes the edits of a revision again, or takes them back, and gives them
// as they were made now.
func replay(ctx context.Context, tx *sqlx.Tx, team, attempt uuid.UUID, check checker, r store.Revision, back bool) ([]Edit, error) {
	var edits, done []Edit
	if err := json.Unmarshal(r.Edits, &edits); err != nil {
		return nil, err
	}
	if back {
		slices.Reverse(edits)
	}
	for _, e := range edits {
		if back {
			e.Value, e.Override = e.Before, true
		}
		if e.Before = nil; e.Clip == nil || check.clips[*e.Clip].ID != uuid.Nil { // else the clip was deleted since
			done = append(done, e)
		}
	}
	made := slices.Clone(done) // what was there before does not go back to the browser
	if err := apply(ctx, tx, team, attempt, made); err != nil {
		return nil, err
	}
	return done, nil
}
