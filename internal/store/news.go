package store

import (
	"context"
	"time"

	"github.com/google/uuid"
)

// News is what came in for a team since a moment, for a coach who looks elsewhere meanwhile.
type News struct {
	At       time.Time `db:"at" json:"at" doc:"since when to ask the next time"`
	Drafted  int       `db:"drafted" json:"drafted" doc:"clips whose draft ended"`
	Drafting int       `db:"drafting" json:"drafting" doc:"clips that still wait for theirs"`
	Answers  []Reply   `db:"-" json:"answers" doc:"the oldest first, the last 20"`
}

// Reply is what an athlete wrote back.
type Reply struct {
	AttemptID uuid.UUID `db:"attempt_id" json:"attempt_id"`
	Athlete   string    `db:"athlete" json:"athlete"`
	Says      string    `db:"says" json:"says"`
}

// News tells what came in since; without a moment nothing, but from when on to ask.
func (s *Store) News(ctx context.Context, team uuid.UUID, since time.Time) (News, error) {
	out, err := get[News](ctx, s.DB, "moment", `SELECT now() AS at, count(*) FILTER (WHERE state = 'done' AND changed_at > $2 AND $3) AS drafted,
		count(*) FILTER (WHERE state IN ('waiting', 'drafting')) AS drafting FROM drafts WHERE team_id = $1`, team, since, !since.IsZero())
	out.Answers = []Reply{}
	if err != nil || since.IsZero() {
		return out, err
	}
	out.Answers, err = rows[Reply](ctx, s.DB, `SELECT attempt_id, athlete, says FROM (
			SELECT sh.attempt_id, p.name AS athlete, sh.answer AS says, sh.answered_at
			FROM shares sh JOIN attempts a ON a.id = sh.attempt_id JOIN athletes p ON p.id = a.athlete_id
			WHERE sh.team_id = $1 AND sh.answered_at > $2 ORDER BY sh.answered_at DESC LIMIT 20) late
		ORDER BY answered_at`, team, since)
	return out, err
}
