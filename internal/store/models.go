package store

import (
	"context"
	"time"

	"github.com/google/uuid"

	"neokinema/internal/problem"
)

// ModelVersion is one version of a team's own technique model.
type ModelVersion struct {
	Event     string    `db:"event" json:"event"`
	N         int       `db:"n" json:"n"`
	Source    string    `db:"source" json:"-"`
	Reason    string    `db:"reason" json:"reason"`
	Shipped   int       `db:"shipped" json:"shipped" doc:"version of the shipped model when it was made"`
	By        string    `db:"by" json:"by" doc:"who made it; empty when that user is gone"`
	CreatedAt time.Time `db:"created_at" json:"created_at"`
}

const copyColumns = `event, n, source, reason, shipped, COALESCE((SELECT name FROM users WHERE users.id = user_id), '') AS by, created_at`

// ModelVersions lists a team's versions of all models, newest first.
func (s *Store) ModelVersions(ctx context.Context, team uuid.UUID) ([]ModelVersion, error) {
	return rows[ModelVersion](ctx, s.DB, `SELECT `+copyColumns+` FROM team_models WHERE team_id = $1 ORDER BY event, n DESC`, team)
}

// ModelVersion finds one version.
func (s *Store) ModelVersion(ctx context.Context, team uuid.UUID, event string, n int) (ModelVersion, error) {
	return get[ModelVersion](ctx, s.DB, "model", `SELECT `+copyColumns+` FROM team_models WHERE team_id = $1 AND event = $2 AND n = $3`, team, event, n)
}

// AddModelVersion stores the version after base, the newest that the coach has seen (0:
// none); when there is a newer one nothing is stored.
func (s *Store) AddModelVersion(ctx context.Context, team, user uuid.UUID, c ModelVersion, base int) (ModelVersion, error) {
	made, err := rows[ModelVersion](ctx, s.DB, `INSERT INTO team_models (team_id, event, n, source, reason, shipped, user_id)
		SELECT $1, $2, $7 + 1, $3, $4, $5, $6 WHERE (SELECT COALESCE(max(n), 0) FROM team_models WHERE team_id = $1 AND event = $2) = $7
		ON CONFLICT DO NOTHING RETURNING `+copyColumns, team, c.Event, c.Source, c.Reason, c.Shipped, user, base)
	if err != nil {
		return ModelVersion{}, err
	}
	if len(made) == 0 {
		return ModelVersion{}, problem.New(problem.NewerWork, "A colleague has changed this model meanwhile. Look at the newer version, then make your change on it.")
	}
	return made[0], nil
}

// JudgeBy sets the version of the model by which an attempt is judged.
func (s *Store) JudgeBy(ctx context.Context, team, attempt uuid.UUID, n int) (Attempt, error) {
	return get[Attempt](ctx, s.DB, "attempt", `UPDATE attempts SET model_n = $3 WHERE team_id = $1 AND id = $2 RETURNING `+attemptColumns, team, attempt, n)
}
