package workspace

import (
	"context"
	"encoding/json"
	"errors"
	"slices"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/core/track"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Edit is one small change; the table of kinds in kinds.go says what its key and value
// mean.
type Edit struct {
	Kind     string          `json:"kind"`
	Clip     *uuid.UUID      `json:"clip,omitempty" required:"false"`
	Key      string          `json:"key" maxLength:"60"`
	Frame    int             `json:"frame,omitempty" required:"false"`
	Value    json.RawMessage `json:"value,omitempty" required:"false"`
	Override bool            `json:"override,omitempty" required:"false" doc:"track: the hand swaps or deletes a stretch, also what it set itself"`
	Before   json.RawMessage `json:"before,omitempty" required:"false" doc:"filled by the server"`

	change *track.Track // of a checked edit of the kind track
}

// Value is what an [Edit] puts, as JSON; things that cannot be written are null.
func Value(v any) json.RawMessage {
	raw, err := json.Marshal(v)
	if err != nil {
		return json.RawMessage("null")
	}
	return raw
}

// Edits is one change as the coach made it.
type Edits struct {
	Base              int    `json:"base" doc:"revision that the change was made on"`
	Edits             []Edit `json:"edits" minItems:"1" maxItems:"5000"`
	MergeWithPrevious bool   `json:"merge_with_previous,omitempty" required:"false" doc:"this belongs to the change before it and is undone with it: the next batch of a draft"`
}

// Saved is where the attempt stands after a change.
type Saved struct {
	Revision int  `json:"revision"`
	CanUndo  bool `json:"can_undo"`
	CanRedo  bool `json:"can_redo"`
}

// mostDecisions bounds what is kept of one attempt beside its points.
const mostDecisions = 2000

// anyRevision stands for the revision that an attempt is at: for decisions that do not depend on its work.
const anyRevision = -1

// Save applies a change made on the base revision. When the attempt has moved
// on meanwhile nothing is changed.
func (s *Service) Save(ctx context.Context, team, user, id uuid.UUID, e Edits) (Saved, error) {
	e.Base = max(0, e.Base)
	return s.save(ctx, team, user, id, e)
}

func (s *Service) save(ctx context.Context, team, user, id uuid.UUID, e Edits) (Saved, error) {
	return s.change(ctx, team, id, e.Base, func(tx *sqlx.Tx, a store.Attempt, check checker) error {
		done := slices.Clone(e.Edits)
		for i := range done {
			if err := check.edit(&done[i]); err != nil {
				return err
			}
		}
		if err := apply(ctx, tx, team, a.ID, done); err != nil {
			return err
		}
		if err := bounded(ctx, tx, a.ID, done); err != nil {
			return err
		}
		raw, err := json.Marshal(done)
		if err != nil {
			return err
		}
		return store.AddRevision(ctx, tx, a.ID, user, a.Revision+1, raw, e.MergeWithPrevious)
	})
}

// Computed puts what the server has computed into the tracks of a clip: changes by
// landmark, which leave alone what a hand has set. It is no change of the coach's: it
// makes no revision, and undo does not take it back.
func (s *Service) Computed(ctx context.Context, c store.Clip, changes map[string]*track.Track) error {
	var ids []store.TrackID
	for landmark, t := range changes {
		if err := errors.Join(t.Check(), t.Inside(len(c.Stamps), c.Width, c.Height)); err != nil {
			return err
		}
		ids = append(ids, store.TrackID{Clip: c.ID, Landmark: landmark})
	}
	if len(ids) == 0 {
		return nil
	}
	return s.store.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := store.LockAttempt(ctx, tx, c.TeamID, c.AttemptID); err != nil {
			return err
		}
		tracks, err := store.LockTracks(ctx, tx, ids)
		if err != nil {
			return err
		}
		for id, t := range tracks {
			t.Apply(changes[id.Landmark], false)
		}
		return store.SaveTracks(ctx, tx, c.TeamID, tracks)
	})
}

// bounded refuses more decisions on one attempt than anybody makes.
func bounded(ctx context.Context, tx *sqlx.Tx, attempt uuid.UUID, edits []Edit) error {
	if !slices.ContainsFunc(edits, func(e Edit) bool { return !kinds[e.Kind].tracks() }) {
		return nil
	}
	n, err := store.CountItems(ctx, tx, attempt)
	if err == nil && n > mostDecisions {
		err = problem.New(problem.Invalid, "An attempt keeps at most %d decisions and marks on the picture. Take some away first.", mostDecisions)
	}
	return err
}

// Decide stores one decision made beside the Bench, such as the course of a cue.
func (s *Service) Decide(ctx context.Context, team, user, id uuid.UUID, e Edit) (Saved, error) {
	return s.save(ctx, team, user, id, Edits{Base: anyRevision, Edits: []Edit{e}})
}

func (s *Service) change(ctx context.Context, team, id uuid.UUID, base int, f func(*sqlx.Tx, store.Attempt, checker) error) (Saved, error) {
	clips, err := s.store.Clips(ctx, team, id)
	if err != nil {
		return Saved{}, err
	}
	var w Saved
	err = s.store.InTx(ctx, func(tx *sqlx.Tx) error {
		a, err := store.LockAttempt(ctx, tx, team, id)
		if err != nil {
			return err
		}
		if base != anyRevision && a.Revision != base {
			return problem.New(problem.NewerWork, "This attempt was changed in another tab or by a colleague. The newer work is shown; your last change was put on top of it where it does not disagree.")
		}
		m, err := s.model(ctx, team, a)
		if err != nil {
			return err
		}
		check := checker{model: m, clips: map[uuid.UUID]store.Clip{}}
		for _, c := range clips {
			check.clips[c.ID] = c
		}
		if err := f(tx, a, check); err != nil {
			return err
		}
		if w.Revision, err = store.Bump(ctx, tx, a.ID); err != nil {
			return err
		}
		w.CanUndo, w.CanRedo, err = store.Undoable(ctx, tx, a.ID)
		return err
	})
	return w, err
}

// apply makes checked edits and notes in each what was there before. Tracks are
// read and stored together: a draft touches all of a clip at once.
func apply(ctx context.Context, tx *sqlx.Tx, team, attempt uuid.UUID, edits []Edit) error {
	var ids []store.TrackID
	for _, e := range edits {
		if id := (store.TrackID{Landmark: e.Key}); kinds[e.Kind].tracks() {
			id.Clip = *e.Clip
			if !slices.Contains(ids, id) {
				ids = append(ids, id)
			}
		}
	}
	tracks, err := store.LockTracks(ctx, tx, ids)
	if err != nil {
		return err
	}
	for i := range edits {
		e := &edits[i]
		if k := kinds[e.Kind]; k.tracks() {
			e.Before, err = k.change(tracks[store.TrackID{Clip: *e.Clip, Landmark: e.Key}], e)
		} else {
			e.Before, err = store.SwapItem(ctx, tx, team, attempt, store.Item{Clip: e.Clip, Kind: e.Kind, Key: e.Key, Value: e.Value})
		}
		if err != nil {
			return err
		}
	}
	return store.SaveTracks(ctx, tx, team, tracks)
}

// empty is an edit's value that takes away.
func empty(raw json.RawMessage) bool { return len(raw) == 0 || string(raw) == "null" }
