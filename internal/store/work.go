package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"maps"
	"slices"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/core/track"
	"neokinema/internal/problem"
)

// Item is one decision of the coach, other than a point.
type Item struct {
	Clip  *uuid.UUID      `db:"clip_id"`
	Kind  string          `db:"kind"`
	Key   string          `db:"key"`
	Value json.RawMessage `db:"value"`
}

// Items lists the decisions on an attempt.
func Items(ctx context.Context, q sqlx.QueryerContext, attempt uuid.UUID) ([]Item, error) {
	return rows[Item](ctx, q, `SELECT clip_id, kind, key, value FROM work_items WHERE attempt_id = $1 ORDER BY kind, key`, attempt)
}

// SwapItem puts a decision (nil takes it away) and gives the one before.
func SwapItem(ctx context.Context, tx *sqlx.Tx, team, attempt uuid.UUID, i Item) (before json.RawMessage, err error) {
	err = tx.GetContext(ctx, &before, `DELETE FROM work_items WHERE team_id = $1 AND attempt_id = $2 AND clip_id IS NOT DISTINCT FROM $3 AND kind = $4 AND key = $5 RETURNING value`,
		team, attempt, i.Clip, i.Kind, i.Key)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return nil, err
	}
	if len(i.Value) == 0 || string(i.Value) == "null" {
		return before, nil
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO work_items (team_id, attempt_id, clip_id, kind, key, value) VALUES ($1, $2, $3, $4, $5, CAST($6 AS jsonb))`,
		team, attempt, i.Clip, i.Kind, i.Key, string(i.Value))
	return before, err
}

// CountItems counts the decisions on an attempt.
func CountItems(ctx context.Context, q sqlx.QueryerContext, attempt uuid.UUID) (int, error) {
	return get[int](ctx, q, "attempt", `SELECT count(*) FROM work_items WHERE attempt_id = $1`, attempt)
}

type trackRow struct {
	Clip     uuid.UUID `db:"clip_id"`
	Landmark string    `db:"landmark"`
	Points   []byte    `db:"points"`
}

// Tracks reads all points of a clip, by landmark.
func Tracks(ctx context.Context, q sqlx.QueryerContext, clip uuid.UUID) (map[string]*track.Track, error) {
	rows, err := rows[trackRow](ctx, q, `SELECT clip_id, landmark, points FROM tracks WHERE clip_id = $1`, clip)
	if err != nil {
		return nil, err
	}
	out := map[string]*track.Track{}
	for _, r := range rows {
		t := &track.Track{}
		if err := t.UnmarshalBinary(r.Points); err != nil {
			return nil, err
		}
		out[r.Landmark] = t
	}
	return out, nil
}

// TrackID names one landmark of a clip.
type TrackID struct {
	Clip     uuid.UUID
	Landmark string
}

func columns(ids []TrackID) (clips, landmarks []string) {
	for _, id := range ids {
		clips, landmarks = append(clips, id.Clip.String()), append(landmarks, id.Landmark)
	}
	return clips, landmarks
}

// LockTracks reads landmarks for changing them; new ones are empty.
func LockTracks(ctx context.Context, tx *sqlx.Tx, ids []TrackID) (map[TrackID]*track.Track, error) {
	out := map[TrackID]*track.Track{}
	if len(ids) == 0 {
		return out, nil
	}
	clips, landmarks := columns(ids)
	rows, err := rows[trackRow](ctx, tx, `SELECT clip_id, landmark, points FROM tracks
		WHERE (clip_id, landmark) IN (SELECT * FROM unnest($1::uuid[], $2::text[])) FOR UPDATE`, clips, landmarks)
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		t := &track.Track{}
		if err := t.UnmarshalBinary(r.Points); err != nil {
			return nil, err
		}
		out[TrackID{r.Clip, r.Landmark}] = t
	}
	for _, id := range ids {
		if out[id] == nil {
			out[id] = &track.Track{}
		}
	}
	return out, nil
}

// SaveTracks stores landmarks of a team's clips in one statement.
func SaveTracks(ctx context.Context, tx *sqlx.Tx, team uuid.UUID, tracks map[TrackID]*track.Track) error {
	if len(tracks) == 0 {
		return nil
	}
	clips, landmarks := columns(slices.Collect(maps.Keys(tracks)))
	points := make([][]byte, len(clips))
	for i := range clips {
		var err error
		if points[i], err = tracks[TrackID{uuid.MustParse(clips[i]), landmarks[i]}].MarshalBinary(); err != nil {
			return err
		}
	}
	_, err := tx.ExecContext(ctx, `INSERT INTO tracks (team_id, clip_id, landmark, points) SELECT $4, * FROM unnest($1::uuid[], $2::text[], $3::bytea[])
		ON CONFLICT (clip_id, landmark) DO UPDATE SET points = excluded.points`, clips, landmarks, points, team)
	return err
}

// Revision is one saved change.
type Revision struct {
	N      int             `db:"n"`
	Edits  json.RawMessage `db:"edits"`
	Joined bool            `db:"joined"`
}

// LockAttempt holds an attempt for one change and gives its revision.
func LockAttempt(ctx context.Context, tx *sqlx.Tx, team, attempt uuid.UUID) (Attempt, error) {
	return get[Attempt](ctx, tx, "attempt", `SELECT `+attemptColumns+` FROM attempts WHERE team_id = $1 AND id = $2 FOR UPDATE`, team, attempt)
}

// AddRevision notes a change and drops what had been undone before it. A joined
// one goes with the change before it.
func AddRevision(ctx context.Context, tx *sqlx.Tx, attempt, user uuid.UUID, n int, edits json.RawMessage, joined bool) error {
	if _, err := tx.ExecContext(ctx, `UPDATE revisions SET state = 'dropped' WHERE attempt_id = $1 AND state = 'undone'`, attempt); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `INSERT INTO revisions (attempt_id, n, user_id, edits, joined) VALUES ($1, $2, $3, CAST($4 AS json), $5)`, attempt, n, user, string(edits), joined)
	return err
}

// Bump raises the revision of an attempt and takes a new one into work.
func Bump(ctx context.Context, tx *sqlx.Tx, attempt uuid.UUID) (int, error) {
	return get[int](ctx, tx, "attempt", `UPDATE attempts SET revision = revision + 1, state = CASE state WHEN 'new' THEN 'in_work' ELSE state END WHERE id = $1 RETURNING revision`, attempt)
}

// Moved raises the revision of an attempt whose tracks the server has changed, so that
// whoever works on it fetches them. A new one stays new.
func (s *Store) Moved(ctx context.Context, attempt uuid.UUID) error {
	_, err := s.DB.ExecContext(ctx, `UPDATE attempts SET revision = revision + 1 WHERE id = $1`, attempt)
	return Explain(err)
}

// Undoable tells whether there is a change that undo takes back, and one that redo
// brings again.
func Undoable(ctx context.Context, q sqlx.QueryerContext, attempt uuid.UUID) (undo, redo bool, err error) {
	v, err := get[struct {
		Undo bool `db:"undo"`
		Redo bool `db:"redo"`
	}](ctx, q, "change", `SELECT EXISTS (SELECT 1 FROM revisions WHERE attempt_id = $1 AND state = 'done') AS undo, EXISTS (SELECT 1 FROM revisions WHERE attempt_id = $1 AND state = 'undone') AS redo`, attempt)
	return v.Undo, v.Redo, err
}

// LastDone is the change that undo takes back, FirstUndone the one that redo
// brings again.
func LastDone(ctx context.Context, q sqlx.QueryerContext, attempt uuid.UUID) (Revision, bool, error) {
	return revision(ctx, q, `SELECT n, edits, joined FROM revisions WHERE attempt_id = $1 AND state = 'done' ORDER BY n DESC LIMIT 1`, attempt)
}

// FirstUndone: see LastDone.
func FirstUndone(ctx context.Context, q sqlx.QueryerContext, attempt uuid.UUID) (Revision, bool, error) {
	return revision(ctx, q, `SELECT n, edits, joined FROM revisions WHERE attempt_id = $1 AND state = 'undone' ORDER BY n LIMIT 1`, attempt)
}

func revision(ctx context.Context, q sqlx.QueryerContext, query string, attempt uuid.UUID) (Revision, bool, error) {
	r, err := get[Revision](ctx, q, "change", query, attempt)
	if problem.Is(err, problem.NotFound) {
		return Revision{}, false, nil
	}
	return r, err == nil, err
}

// MarkRevision sets a change done or undone.
func MarkRevision(ctx context.Context, tx *sqlx.Tx, attempt uuid.UUID, n int, state string) error {
	_, err := tx.ExecContext(ctx, `UPDATE revisions SET state = $3 WHERE attempt_id = $1 AND n = $2`, attempt, n, state)
	return err
}
