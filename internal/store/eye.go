package store

import (
	"context"
	"time"

	"github.com/google/uuid"

	"neokinema/core/eye"
)

// EyeAnswer is what somebody answered to an exercise for the eye.
type EyeAnswer struct {
	ID       uuid.UUID `db:"id" json:"id"`
	Exercise string    `db:"exercise" json:"exercise"`
	Kind     eye.Kind  `db:"kind" json:"kind" enum:"there,moment,angle,larger,cause,decidable"`
	Event    string    `db:"event" json:"event"`
	Fault    string    `db:"fault" json:"fault"`
	View     string    `db:"view" json:"view"`
	Size     float64   `db:"size" json:"size" doc:"of what was to be seen"`
	There    bool      `db:"there" json:"there" doc:"the truth of a yes or no"`
	Yes      bool      `db:"yes" json:"yes" doc:"what was said"`
	Off      float64   `db:"off" json:"off" doc:"said minus true: degrees, frames"`
	Correct  bool      `db:"correct" json:"correct"`
	Took     int       `db:"took_ms" json:"took_ms"`
	At       time.Time `db:"at" json:"at"`
}

// mostEye is how many of somebody's newest answers count.
const mostEye = 5000

// AddEyeAnswer keeps an answer; one that was sent before stays as it was.
func (s *Store) AddEyeAnswer(ctx context.Context, team, user uuid.UUID, a EyeAnswer) error {
	_, err := s.DB.NamedExecContext(ctx, `INSERT INTO eye_answers (id, team_id, user_id, exercise, kind, event, fault, view, size, there, yes, off, correct, took_ms, at)
		VALUES (:id, :team, :user, :exercise, :kind, :event, :fault, :view, :size, :there, :yes, :off, :correct, :took_ms, :at) ON CONFLICT (id) DO NOTHING`,
		fields(a, map[string]any{"team": team, "user": user}))
	return Explain(err)
}

// EyeAnswers are somebody's, oldest first.
func (s *Store) EyeAnswers(ctx context.Context, user uuid.UUID) ([]EyeAnswer, error) {
	return rows[EyeAnswer](ctx, s.DB, `SELECT id, exercise, kind, event, fault, view, size, there, yes, off, correct, took_ms, at FROM (
		SELECT * FROM eye_answers WHERE user_id = $1 ORDER BY at DESC LIMIT $2) newest ORDER BY at, id`, user, mostEye)
}

// EyeWish is what an athlete has reason to learn to see: an event, and the fault that the cue is about.
type EyeWish struct {
	Event string `db:"event"`
	Fault string `db:"fault"`
}

// EyeWishes are an athlete's, of what was sent to the own account, the newest first.
func (s *Store) EyeWishes(ctx context.Context, team, athlete uuid.UUID) ([]EyeWish, error) {
	return rows[EyeWish](ctx, s.DB, `SELECT a.event, COALESCE(w.value ->> 'fault', '') AS fault FROM attempts a
		LEFT JOIN work_items w ON w.attempt_id = a.id AND w.kind = 'advice' AND w.key = 'main'
		WHERE a.team_id = $1 AND a.athlete_id = $2 AND a.state = 'sent' ORDER BY a.done_on DESC, a.created_at DESC LIMIT 20`, team, athlete)
}
