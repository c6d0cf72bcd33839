package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/internal/problem"
)

// Chapter is a part of what a coach says to an attempt.
type Chapter struct {
	ID        uuid.UUID       `db:"id" json:"id"`
	TeamID    uuid.UUID       `db:"team_id" json:"-"`
	AttemptID uuid.UUID       `db:"attempt_id" json:"attempt_id"`
	Place     int             `db:"place" json:"place" doc:"in order"`
	Name      string          `db:"name" json:"name"`
	Finding   string          `db:"finding" json:"finding" doc:"fault that is spoken of, or empty"`
	Seconds   float64         `db:"seconds" json:"seconds" doc:"of the voice"`
	Starts    float64         `db:"starts" json:"starts" doc:"s; what comes before is cut off"`
	Ends      float64         `db:"ends" json:"ends" doc:"s; what comes after is cut off"`
	Stage     json.RawMessage `db:"stage" json:"-"`
	CreatedAt time.Time       `db:"created_at" json:"created_at"`
}

const chapterColumns = `id, team_id, attempt_id, place, name, finding, seconds, starts, ends, stage, created_at`

// Chapters lists the chapters of an attempt in order.
func (s *Store) Chapters(ctx context.Context, team, attempt uuid.UUID) ([]Chapter, error) {
	if _, err := s.Attempt(ctx, team, attempt); err != nil {
		return nil, err
	}
	return rows[Chapter](ctx, s.DB, `SELECT `+chapterColumns+` FROM chapters WHERE team_id = $1 AND attempt_id = $2 ORDER BY place, created_at`, team, attempt)
}

// Chapter finds one.
func (s *Store) Chapter(ctx context.Context, team, id uuid.UUID) (Chapter, error) {
	return get[Chapter](ctx, s.DB, "chapter", `SELECT `+chapterColumns+` FROM chapters WHERE team_id = $1 AND id = $2`, team, id)
}

// Voice is what is said in a chapter.
func (s *Store) Voice(ctx context.Context, team, id uuid.UUID) ([]byte, error) {
	return get[[]byte](ctx, s.DB, "chapter", `SELECT voice FROM chapters WHERE team_id = $1 AND id = $2`, team, id)
}

// AddChapter puts a chapter behind the others of its attempt.
func (s *Store) AddChapter(ctx context.Context, c Chapter, voice []byte, most int) (out Chapter, err error) {
	err = s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := get[uuid.UUID](ctx, tx, "attempt", `SELECT id FROM attempts WHERE team_id = $1 AND id = $2 FOR UPDATE`, c.TeamID, c.AttemptID); err != nil {
			return err
		}
		n, err := get[int](ctx, tx, "chapters", `SELECT count(*) FROM chapters WHERE attempt_id = $1`, c.AttemptID)
		if err != nil {
			return err
		}
		if n >= most {
			return problem.New(problem.Invalid, "A talk has at most %d chapters. Remove one first.", most)
		}
		out, err = get[Chapter](ctx, tx, "chapter", `INSERT INTO chapters (team_id, attempt_id, place, name, finding, seconds, starts, ends, stage, voice)
			VALUES ($1, $2, (SELECT COALESCE(max(place), 0) + 1 FROM chapters WHERE attempt_id = $2), $3, $4, $5, 0, $5, $6, $7) RETURNING `+chapterColumns,
			c.TeamID, c.AttemptID, c.Name, c.Finding, c.Seconds, string(c.Stage), voice)
		return err
	})
	return out, err
}

// RecordAgain puts another voice and stage into a chapter.
func (s *Store) RecordAgain(ctx context.Context, team, id uuid.UUID, seconds float64, stage json.RawMessage, voice []byte) (Chapter, error) {
	return get[Chapter](ctx, s.DB, "chapter", `UPDATE chapters SET seconds = $3, starts = 0, ends = $3, stage = $4, voice = $5 WHERE team_id = $1 AND id = $2 RETURNING `+chapterColumns, team, id, seconds, string(stage), voice)
}

// Trim changes a chapter's name and what is cut off of it.
func (s *Store) Trim(ctx context.Context, team, id uuid.UUID, name string, starts, ends float64) (Chapter, error) {
	return get[Chapter](ctx, s.DB, "chapter", `UPDATE chapters SET name = $3, starts = $4, ends = $5 WHERE team_id = $1 AND id = $2 RETURNING `+chapterColumns, team, id, name, starts, ends)
}

// DeleteChapter removes a chapter.
func (s *Store) DeleteChapter(ctx context.Context, team, id uuid.UUID) (Chapter, error) {
	return get[Chapter](ctx, s.DB, "chapter", `DELETE FROM chapters WHERE team_id = $1 AND id = $2 RETURNING `+chapterColumns, team, id)
}

// Film is a film that is drawn in the background.
type Film struct {
	ID        uuid.UUID       `db:"id" json:"id"`
	TeamID    uuid.UUID       `db:"team_id" json:"-"`
	AttemptID uuid.UUID       `db:"attempt_id" json:"attempt_id"`
	Kind      string          `db:"kind" json:"kind" enum:"talk,beside"`
	Ask       json.RawMessage `db:"ask" json:"-"`
	State     string          `db:"state" json:"state" enum:"waiting,drawing,ready,failed,cancelled"`
	Progress  float64         `db:"progress" json:"progress" doc:"0 to 1"`
	Problem   string          `db:"problem" json:"problem"`
	JobID     int64           `db:"job_id" json:"-"`
	Bytes     int64           `db:"bytes" json:"bytes"`
	CreatedAt time.Time       `db:"created_at" json:"created_at"`
}

const filmColumns = `id, team_id, attempt_id, kind, ask, state, progress, problem, job_id, bytes, created_at`

// AddFilm makes a film that is to be drawn, with the job that does it.
func (s *Store) AddFilm(ctx context.Context, team, attempt uuid.UUID, kind string, ask json.RawMessage, enqueue func(tx *sqlx.Tx, film uuid.UUID) (int64, error)) (out Film, err error) {
	err = s.InTx(ctx, func(tx *sqlx.Tx) error {
		f, err := get[Film](ctx, tx, "attempt", `INSERT INTO films (team_id, attempt_id, kind, ask) SELECT team_id, id, $3, $4 FROM attempts WHERE team_id = $1 AND id = $2 RETURNING `+filmColumns, team, attempt, kind, string(ask))
		if err != nil {
			return err
		}
		job, err := enqueue(tx, f.ID)
		if err != nil {
			return err
		}
		out, err = get[Film](ctx, tx, "film", `UPDATE films SET job_id = $2 WHERE id = $1 RETURNING `+filmColumns, f.ID, job)
		return err
	})
	return out, err
}

// Films lists the films of an attempt, newest first.
func (s *Store) Films(ctx context.Context, team, attempt uuid.UUID) ([]Film, error) {
	if _, err := s.Attempt(ctx, team, attempt); err != nil {
		return nil, err
	}
	return rows[Film](ctx, s.DB, `SELECT `+filmColumns+` FROM films WHERE team_id = $1 AND attempt_id = $2 ORDER BY created_at DESC`, team, attempt)
}

// Film finds one.
func (s *Store) Film(ctx context.Context, team, id uuid.UUID) (Film, error) {
	return get[Film](ctx, s.DB, "film", `SELECT `+filmColumns+` FROM films WHERE team_id = $1 AND id = $2`, team, id)
}

// FilmToDraw finds a film for the one who draws it.
func (s *Store) FilmToDraw(ctx context.Context, id uuid.UUID) (Film, error) {
	return get[Film](ctx, s.DB, "film", `SELECT `+filmColumns+` FROM films WHERE id = $1`, id)
}

// SetFilm notes how far a film is.
func (s *Store) SetFilm(ctx context.Context, id uuid.UUID, state string, progress float64, says string, bytes int64) error {
	_, err := s.DB.ExecContext(ctx, `UPDATE films SET state = $2, progress = $3, problem = $4, bytes = $5 WHERE id = $1 AND state <> 'cancelled'`, id, state, progress, says, bytes)
	return Explain(err)
}

// CancelFilm stops a film that is not drawn yet.
func (s *Store) CancelFilm(ctx context.Context, team, id uuid.UUID) (Film, error) {
	return get[Film](ctx, s.DB, "film", `UPDATE films SET state = CASE WHEN state IN ('waiting', 'drawing') THEN 'cancelled' ELSE state END WHERE team_id = $1 AND id = $2 RETURNING `+filmColumns, team, id)
}

// DeleteFilm removes a film's row; its file goes with [intake.Service].
func (s *Store) DeleteFilm(ctx context.Context, team, id uuid.UUID) (Film, error) {
	return get[Film](ctx, s.DB, "film", `DELETE FROM films WHERE team_id = $1 AND id = $2 RETURNING `+filmColumns, team, id)
}
