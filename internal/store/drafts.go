package store

import (
	"context"
	"encoding/json"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/internal/problem"
)

// Draft is a clip's draft by the server.
type Draft struct {
	ClipID   uuid.UUID       `db:"clip_id" json:"-"`
	TeamID   uuid.UUID       `db:"team_id" json:"-"`
	State    string          `db:"state" json:"state" enum:"none,waiting,drafting,done,failed,cancelled"`
	Progress float64         `db:"progress" json:"progress" doc:"0 to 1"`
	Says     string          `db:"says" json:"says" doc:"why it failed and what to do"`
	Wish     json.RawMessage `db:"wish" json:"-"`
	Result   json.RawMessage `db:"result" json:"-"`
	JobID    int64           `db:"job_id" json:"-"`
}

const draftColumns = `clip_id, team_id, state, progress, says, wish, result, job_id`

// Draft is the draft of a team's clip; its state is none when there was no wish for one.
func (s *Store) Draft(ctx context.Context, team, clip uuid.UUID) (Draft, error) {
	d, err := get[Draft](ctx, s.DB, "draft", `SELECT `+draftColumns+` FROM drafts WHERE team_id = $1 AND clip_id = $2`, team, clip)
	if problem.Is(err, problem.NotFound) {
		_, err = s.Clip(ctx, team, clip)
		return Draft{ClipID: clip, TeamID: team, State: "none"}, err
	}
	return d, err
}

// DraftToMake finds a draft for its job.
func (s *Store) DraftToMake(ctx context.Context, clip uuid.UUID) (Draft, error) {
	return get[Draft](ctx, s.DB, "draft", `SELECT `+draftColumns+` FROM drafts WHERE clip_id = $1`, clip)
}

// AddDraft notes the wish for a draft together with its job, in place of any before it.
func AddDraft(ctx context.Context, tx *sqlx.Tx, d Draft) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO drafts (clip_id, team_id, state, wish, job_id) SELECT id, team_id, 'waiting', CAST($2 AS jsonb), $3 FROM clips WHERE id = $1
		ON CONFLICT (clip_id) DO UPDATE SET state = 'waiting', progress = 0, says = '', result = '{}', wish = excluded.wish, job_id = excluded.job_id, changed_at = now()`, d.ClipID, string(d.Wish), d.JobID)
	return Explain(err)
}

// SetDraft stores how far a draft is, for the job that makes it: one that was cancelled or
// begun anew meanwhile stays as it is.
func (s *Store) SetDraft(ctx context.Context, d Draft) error {
	if len(d.Result) == 0 {
		d.Result = json.RawMessage(`{}`)
	}
	_, err := s.DB.ExecContext(ctx, `UPDATE drafts SET state = $3, progress = $4, says = $5, result = CAST($6 AS jsonb), changed_at = now() WHERE clip_id = $1 AND job_id = $2 AND state <> 'cancelled'`,
		d.ClipID, d.JobID, d.State, d.Progress, d.Says, string(d.Result))
	return Explain(err)
}

// CancelDraft stops a draft that waits or is being made; it tells its job.
func (s *Store) CancelDraft(ctx context.Context, team, clip uuid.UUID) (Draft, error) {
	if _, err := s.DB.ExecContext(ctx, `UPDATE drafts SET state = 'cancelled', changed_at = now() WHERE team_id = $1 AND clip_id = $2 AND state IN ('waiting', 'drafting')`, team, clip); err != nil {
		return Draft{}, Explain(err)
	}
	return s.Draft(ctx, team, clip)
}

// Importing tells whether any clip waits for its import or is in it.
func (s *Store) Importing(ctx context.Context) (bool, error) {
	return get[bool](ctx, s.DB, "clip", `SELECT EXISTS (SELECT 1 FROM clips WHERE state IN ('waiting', 'importing'))`)
}
