package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"
)

// Removed is what went with something that was deleted: its media must go too, and its
// jobs must stop.
type Removed struct {
	Attempts              int
	Clips, Films, Uploads []uuid.UUID
	Jobs                  []int64
}

// remove notes what belongs to the attempts (a) that a condition names, then deletes.
func (s *Store) remove(ctx context.Context, what string, find, where, delete string, args ...any) (out Removed, err error) {
	err = s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := get[uuid.UUID](ctx, tx, what, find+` FOR UPDATE`, args...); err != nil {
			return err
		}
		// Held, so that no clip comes to one of them meanwhile.
		var attempts []uuid.UUID
		if err := tx.SelectContext(ctx, &attempts, `SELECT a.id FROM attempts a WHERE `+where+` FOR UPDATE`, args...); err != nil {
			return err
		}
		out.Attempts = len(attempts)
		for query, to := range map[string]any{
			`SELECT c.id FROM clips c JOIN attempts a ON a.id = c.attempt_id WHERE ` + where:   &out.Clips,
			`SELECT f.id FROM films f JOIN attempts a ON a.id = f.attempt_id WHERE ` + where:   &out.Films,
			`SELECT u.id FROM uploads u JOIN attempts a ON a.id = u.attempt_id WHERE ` + where: &out.Uploads,
			`SELECT c.job_id FROM clips c JOIN attempts a ON a.id = c.attempt_id WHERE c.job_id <> 0 AND c.state IN ('waiting', 'importing') AND ` + where +
				` UNION ALL SELECT f.job_id FROM films f JOIN attempts a ON a.id = f.attempt_id WHERE f.job_id <> 0 AND f.state IN ('waiting', 'drawing') AND ` + where +
				` UNION ALL SELECT d.job_id FROM drafts d JOIN clips c ON c.id = d.clip_id JOIN attempts a ON a.id = c.attempt_id WHERE d.state IN ('waiting', 'drafting') AND ` + where: &out.Jobs,
		} {
			if err := tx.SelectContext(ctx, to, query, args...); err != nil {
				return err
			}
		}
		_, err := tx.ExecContext(ctx, delete, args...)
		return err
	})
	return out, err
}

// DeleteAttempt removes an attempt with all that belongs to it.
func (s *Store) DeleteAttempt(ctx context.Context, team, id uuid.UUID) (Removed, error) {
	return s.remove(ctx, "attempt", `SELECT id FROM attempts WHERE team_id = $1 AND id = $2`, `a.team_id = $1 AND a.id = $2`, `DELETE FROM attempts WHERE team_id = $1 AND id = $2`, team, id)
}

// DeleteAthlete removes an athlete with everything.
func (s *Store) DeleteAthlete(ctx context.Context, team, id uuid.UUID) (Removed, error) {
	return s.remove(ctx, "athlete", `SELECT id FROM athletes WHERE team_id = $1 AND id = $2`, `a.team_id = $1 AND a.athlete_id = $2`, `DELETE FROM athletes WHERE team_id = $1 AND id = $2`, team, id)
}

// DeleteTeam removes a team with all accounts and everything.
func (s *Store) DeleteTeam(ctx context.Context, team uuid.UUID) (Removed, error) {
	return s.remove(ctx, "team", `SELECT id FROM teams WHERE id = $1`, `a.team_id = $1`, `DELETE FROM teams WHERE id = $1`, team)
}

// DeleteClip removes a clip and what belongs to it.
func (s *Store) DeleteClip(ctx context.Context, team, id uuid.UUID) (out Removed, err error) {
	err = s.InTx(ctx, func(tx *sqlx.Tx) error {
		type row struct {
			ID    uuid.UUID `db:"id"`
			Job   int64     `db:"job_id"`
			State string    `db:"state"`
		}
		if err := tx.SelectContext(ctx, &out.Jobs, `SELECT job_id FROM drafts WHERE team_id = $1 AND clip_id = $2 AND state IN ('waiting', 'drafting')`, team, id); err != nil {
			return err
		}
		c, err := get[row](ctx, tx, "clip", `DELETE FROM clips WHERE team_id = $1 AND id = $2 RETURNING id, job_id, state`, team, id)
		if err != nil {
			return err
		}
		out.Clips = []uuid.UUID{c.ID}
		if c.Job != 0 && (c.State == "waiting" || c.State == "importing") {
			out.Jobs = append(out.Jobs, c.Job)
		}
		_, err = tx.ExecContext(ctx, `DELETE FROM uploads WHERE team_id = $1 AND id = $2`, team, id)
		return err
	})
	return out, err
}

// Deletion is what was deleted for good, without saying whose it was.
type Deletion struct {
	What      string    `db:"what" json:"what" enum:"attempt,athlete,clip,old_clips,team"`
	Attempts  int       `db:"attempts" json:"attempts"`
	Clips     int       `db:"clips" json:"clips"`
	Files     int       `db:"files" json:"files" doc:"media files removed"`
	Bytes     int64     `db:"bytes" json:"bytes"`
	LeftOver  int       `db:"left_over" json:"left_over" doc:"files that could still be found afterwards"`
	CreatedAt time.Time `db:"created_at" json:"at"`
}

// NoteDeletion keeps a record of what was deleted.
func (s *Store) NoteDeletion(ctx context.Context, team uuid.UUID, d Deletion) (Deletion, error) {
	return get[Deletion](ctx, s.DB, "deletion", `INSERT INTO deletions (team_id, what, attempts, clips, files, bytes, left_over) VALUES ($1, $2, $3, $4, $5, $6, $7)
		RETURNING what, attempts, clips, files, bytes, left_over, created_at`, team, d.What, d.Attempts, d.Clips, d.Files, d.Bytes, d.LeftOver)
}

// Deletions lists what was deleted, newest first.
func (s *Store) Deletions(ctx context.Context, team uuid.UUID) ([]Deletion, error) {
	return rows[Deletion](ctx, s.DB, `SELECT what, attempts, clips, files, bytes, left_over, created_at FROM deletions WHERE team_id = $1 ORDER BY created_at DESC LIMIT 200`, team)
}

// Unknown gives those ids of media that no clip or film has.
func (s *Store) Unknown(ctx context.Context, ids []uuid.UUID) ([]uuid.UUID, error) {
	text := make([]string, len(ids))
	for i, id := range ids {
		text[i] = id.String()
	}
	return rows[uuid.UUID](ctx, s.DB, `SELECT id FROM unnest($1::uuid[]) AS id WHERE NOT EXISTS (SELECT 1 FROM clips c WHERE c.id = id.id) AND NOT EXISTS (SELECT 1 FROM films f WHERE f.id = id.id)`, text)
}

// Aged is a clip that is older than its team keeps clips.
type Aged struct {
	TeamID uuid.UUID `db:"team_id"`
	ID     uuid.UUID `db:"id"`
}

// Aged lists clips that are older than their teams keep them.
func (s *Store) Aged(ctx context.Context) ([]Aged, error) {
	return rows[Aged](ctx, s.DB, `SELECT c.team_id, c.id FROM clips c JOIN teams t ON t.id = c.team_id WHERE t.keep_days > 0 AND c.created_at < now() - t.keep_days * interval '1 day' ORDER BY c.team_id`)
}
