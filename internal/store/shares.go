package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/internal/problem"
)

// Share is one sending of a feedback page.
type Share struct {
	ID          uuid.UUID  `db:"id" json:"id"`
	TeamID      uuid.UUID  `db:"team_id" json:"-"`
	AttemptID   uuid.UUID  `db:"attempt_id" json:"attempt_id"`
	CreatedAt   time.Time  `db:"created_at" json:"created_at"`
	ExpiresAt   time.Time  `db:"expires_at" json:"expires_at"`
	WithdrawnAt *time.Time `db:"withdrawn_at" json:"withdrawn_at,omitempty" required:"false"`
	SeenAt      *time.Time `db:"seen_at" json:"seen_at,omitempty" required:"false" doc:"first time"`
	SeenTimes   int        `db:"seen_times" json:"seen_times"`
	Answer      string     `db:"answer" json:"answer"`
	AnsweredAt  *time.Time `db:"answered_at" json:"answered_at,omitempty" required:"false"`
}

const shareColumns = `id, team_id, attempt_id, created_at, expires_at, withdrawn_at, seen_at, seen_times, answer, answered_at`

// AddShare stores a sending under the hash of its secret; one under the same hash is
// given anew.
func (s *Store) AddShare(ctx context.Context, team, attempt uuid.UUID, hash []byte, until time.Time) (Share, error) {
	return get[Share](ctx, s.DB, "attempt", `INSERT INTO shares (team_id, attempt_id, secret_hash, expires_at) SELECT team_id, id, $3, $4 FROM attempts WHERE team_id = $1 AND id = $2
		ON CONFLICT (secret_hash) DO UPDATE SET expires_at = excluded.expires_at RETURNING `+shareColumns, team, attempt, hash, until)
}

// ShareByHash finds a sending, whatever became of it.
func (s *Store) ShareByHash(ctx context.Context, hash []byte) (Share, error) {
	return get[Share](ctx, s.DB, "link", `SELECT `+shareColumns+` FROM shares WHERE secret_hash = $1`, hash)
}

// Shares lists the sendings of an attempt.
func (s *Store) Shares(ctx context.Context, team, attempt uuid.UUID) ([]Share, error) {
	if _, err := s.Attempt(ctx, team, attempt); err != nil {
		return nil, err
	}
	return rows[Share](ctx, s.DB, `SELECT `+shareColumns+` FROM shares WHERE team_id = $1 AND attempt_id = $2 ORDER BY created_at DESC`, team, attempt)
}

// Withdraw ends a sending.
func (s *Store) Withdraw(ctx context.Context, team, id uuid.UUID) (Share, error) {
	return get[Share](ctx, s.DB, "link", `UPDATE shares SET withdrawn_at = COALESCE(withdrawn_at, now()) WHERE team_id = $1 AND id = $2 RETURNING `+shareColumns, team, id)
}

// Seen notes that the athlete looked.
func (s *Store) Seen(ctx context.Context, id uuid.UUID) error {
	_, err := s.DB.ExecContext(ctx, `UPDATE shares SET seen_at = COALESCE(seen_at, now()), seen_times = seen_times + 1 WHERE id = $1`, id)
	return Explain(err)
}

// Answered keeps what the athlete wrote back.
func (s *Store) Answered(ctx context.Context, id uuid.UUID, text string) error {
	_, err := s.DB.ExecContext(ctx, `UPDATE shares SET answer = $2, answered_at = now() WHERE id = $1`, id, text)
	return Explain(err)
}

// SentTo lists the attempts that were sent to an athlete, newest first.
func (s *Store) SentTo(ctx context.Context, team, athlete uuid.UUID) ([]Attempt, error) {
	return rows[Attempt](ctx, s.DB, `SELECT `+attemptColumns+` FROM attempts WHERE team_id = $1 AND athlete_id = $2 AND state = 'sent'
		ORDER BY attempts.done_on DESC, attempts.created_at DESC LIMIT 200`, team, athlete)
}

// Limits of what comes in through one link.
const (
	mostByLink     = 30 // attempts a day
	mostByLinkOpen = 5  // attempts that wait for their clip
)

// NextOf gives the attempt into which a guest's next clip goes: one that he made room
// for before and never used, or a new one.
func (s *Store) NextOf(ctx context.Context, share Share, a NewAttempt) (out Attempt, err error) {
	err = s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := get[uuid.UUID](ctx, tx, "link", `SELECT id FROM shares WHERE id = $1 FOR UPDATE`, share.ID); err != nil {
			return err
		}
		const unused = `NOT EXISTS (SELECT 1 FROM clips c WHERE c.attempt_id = attempts.id) AND NOT EXISTS (SELECT 1 FROM uploads u WHERE u.attempt_id = attempts.id)`
		list, err := rows[Attempt](ctx, tx, `SELECT `+attemptColumns+` FROM attempts WHERE team_id = $1 AND share_id = $2 AND state = 'new' AND revision = 0 AND athlete_id = $3 AND `+unused+`
			ORDER BY created_at LIMIT 1`, share.TeamID, share.ID, a.AthleteID)
		if err != nil {
			return err
		}
		if len(list) > 0 {
			out = list[0]
			return nil
		}
		n, err := get[struct {
			Day  int `db:"day"`
			Open int `db:"open"`
		}](ctx, tx, "link", `SELECT count(*) FILTER (WHERE created_at > now() - interval '1 day') AS day,
			count(*) FILTER (WHERE NOT EXISTS (SELECT 1 FROM clips c WHERE c.attempt_id = attempts.id)) AS open FROM attempts WHERE share_id = $1`, share.ID)
		if err != nil {
			return err
		}
		if n.Day >= mostByLink || n.Open >= mostByLinkOpen {
			return problem.New(problem.TooMany, "That is a lot of clips at once. Let those that are on their way arrive, or send more tomorrow.")
		}
		if out, err = addAttempt(ctx, tx, share.TeamID, a, "new"); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE attempts SET share_id = $2 WHERE id = $1`, out.ID, share.ID)
		return err
	})
	return out, err
}
