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

// EyeWishes are an athlete's, the newest first: events of all attempts, faults of what was sent to the own
// account.
func (s *Store) EyeWishes(ctx context.Context, team, athlete uuid.UUID) ([]EyeWish, error) {
	return rows[EyeWish](ctx, s.DB, `SELECT a.event, CASE WHEN a.state = 'sent' THEN COALESCE(w.value ->> 'fault', '') ELSE '' END AS fault FROM attempts a
		LEFT JOIN work_items w ON w.attempt_id = a.id AND w.kind = 'advice' AND w.key = 'main'
		WHERE a.team_id = $1 AND a.athlete_id = $2 ORDER BY (a.state = 'sent') DESC, a.done_on DESC, a.created_at DESC LIMIT 40`, team, athlete)
}

// EyeSharing is whether a coach has asked for what an athlete's eye is worth, and whether the athlete
// agrees.
type EyeSharing struct {
	Asked  bool `db:"asked" json:"asked" doc:"by the coach"`
	Agreed bool `db:"agreed" json:"agreed" doc:"by the athlete"`
}

// EyeSharingOf is an athlete's; neither while nobody has said anything.
func (s *Store) EyeSharingOf(ctx context.Context, team, athlete uuid.UUID) (EyeSharing, error) {
	return get[EyeSharing](ctx, s.DB, "athlete", `SELECT COALESCE(e.asked, false) AS asked, COALESCE(e.agreed, false) AS agreed FROM athletes a
		LEFT JOIN eye_sharing e ON e.team_id = a.team_id AND e.athlete_id = a.id WHERE a.team_id = $1 AND a.id = $2`, team, athlete)
}

// AskForEye keeps whether a coach asks.
func (s *Store) AskForEye(ctx context.Context, team, athlete uuid.UUID, asked bool) error {
	_, err := get[bool](ctx, s.DB, "athlete", `INSERT INTO eye_sharing (team_id, athlete_id, asked) SELECT team_id, id, $3 FROM athletes WHERE team_id = $1 AND id = $2
		ON CONFLICT (team_id, athlete_id) DO UPDATE SET asked = excluded.asked RETURNING asked`, team, athlete, asked)
	return err
}

// AgreeToEye keeps whether an athlete agrees.
func (s *Store) AgreeToEye(ctx context.Context, team, athlete uuid.UUID, agreed bool) error {
	_, err := get[bool](ctx, s.DB, "athlete", `INSERT INTO eye_sharing (team_id, athlete_id, agreed) SELECT team_id, id, $3 FROM athletes WHERE team_id = $1 AND id = $2
		ON CONFLICT (team_id, athlete_id) DO UPDATE SET agreed = excluded.agreed RETURNING agreed`, team, athlete, agreed)
	return err
}

// EyeAnswersOf are those of an athlete's account, oldest first; none without an account.
func (s *Store) EyeAnswersOf(ctx context.Context, team, athlete uuid.UUID) ([]EyeAnswer, error) {
	ids, err := rows[uuid.UUID](ctx, s.DB, `SELECT id FROM users WHERE team_id = $1 AND athlete_id = $2 LIMIT 1`, team, athlete)
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	return s.EyeAnswers(ctx, ids[0])
}
