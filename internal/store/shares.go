package store

import (
	"context"
	"errors"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgconn"
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
	return one[Share](ctx, s.DB, "attempt", `INSERT INTO shares (team_id, attempt_id, secret_hash, expires_at) SELECT team_id, id, $3, $4 FROM attempts WHERE team_id = $1 AND id = $2
		ON CONFLICT (secret_hash) DO UPDATE SET expires_at = excluded.expires_at RETURNING `+shareColumns, team, attempt, hash, until)
}

// ShareByHash finds a sending, whatever became of it.
func (s *Store) ShareByHash(ctx context.Context, hash []byte) (Share, error) {
	return one[Share](ctx, s.DB, "link", `SELECT `+shareColumns+` FROM shares WHERE secret_hash = $1`, hash)
}

// Shares lists the sendings of an attempt.
func (s *Store) Shares(ctx context.Context, team, attempt uuid.UUID) ([]Share, error) {
	if _, err := s.Attempt(ctx, team, attempt); err != nil {
		return nil, err
	}
	return many[Share](ctx, s.DB, `SELECT `+shareColumns+` FROM shares WHERE team_id = $1 AND attempt_id = $2 ORDER BY created_at DESC`, team, attempt)
}

// Withdraw ends a sending.
func (s *Store) Withdraw(ctx context.Context, team, id uuid.UUID) (Share, error) {
	return one[Share](ctx, s.DB, "link", `UPDATE shares SET withdrawn_at = COALESCE(withdrawn_at, now()) WHERE team_id = $1 AND id = $2 RETURNING `+shareColumns, team, id)
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
	return many[Attempt](ctx, s.DB, `SELECT `+attemptColumns+` FROM attempts WHERE team_id = $1 AND athlete_id = $2 AND state = 'sent'
		ORDER BY attempts.done_on DESC, attempts.created_at DESC LIMIT 200`, team, athlete)
}

// Invite keeps an invitation under the hash of its secret.
func (s *Store) Invite(ctx context.Context, team, athlete uuid.UUID, hash []byte, until time.Time) error {
	_, err := one[uuid.UUID](ctx, s.DB, "athlete", `INSERT INTO invitations (secret_hash, team_id, athlete_id, expires_at) SELECT $3, team_id, id, $4 FROM athletes
		WHERE team_id = $1 AND id = $2 RETURNING athlete_id`, team, athlete, hash, until)
	return err
}

// Join makes an athlete's account from an invitation, which is used up by it.
func (s *Store) Join(ctx context.Context, hash []byte, email, password string) (User, error) {
	var id uuid.UUID
	err := s.InTx(ctx, func(tx *sqlx.Tx) error {
		type invited struct {
			Team    uuid.UUID `db:"team_id"`
			Athlete uuid.UUID `db:"athlete_id"`
			Name    string    `db:"name"`
		}
		in, err := one[invited](ctx, tx, "invitation", `DELETE FROM invitations i USING athletes a WHERE i.secret_hash = $1 AND i.expires_at > now() AND a.id = i.athlete_id
			RETURNING i.team_id, i.athlete_id, a.name`, hash)
		if err != nil {
			return err
		}
		err = tx.GetContext(ctx, &id, `INSERT INTO users (team_id, name, email, password_hash, athlete_id) VALUES ($1, $2, $3, $4, $5) RETURNING id`, in.Team, in.Name, email, password, in.Athlete)
		var pg *pgconn.PgError
		if errors.As(err, &pg) && pg.ConstraintName == "users_email" {
			return problem.New(problem.Invalid, "There is an account with this e-mail already. Take another address.")
		}
		return err
	})
	if err != nil {
		return User{}, err
	}
	return s.UserByID(ctx, id)
}
