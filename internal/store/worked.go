package store

import (
	"context"

	"github.com/google/uuid"

	"neokinema/core/sport"
)

// Worked is an attempt that somebody has worked out.
type Worked struct {
	ID      uuid.UUID `db:"id"`
	Event   string    `db:"event"`
	Athlete string    `db:"athlete"`
	DoneOn  string    `db:"done_on"`
}

// mostWorked is how many attempts are looked through.
const mostWorked = 60

const workedQuery = `SELECT a.id, a.event, w.name AS athlete, to_char(a.done_on, 'YYYY-MM-DD') AS done_on FROM attempts a JOIN athletes w ON w.id = a.athlete_id
	WHERE a.team_id = $1 AND (a.state = 'sent' OR a.state = 'ready' AND CAST($2 AS uuid) IS NULL) AND (CAST($2 AS uuid) IS NULL OR a.athlete_id = $2)
	AND (w.born + $3 < date_part('year', now()) OR w.consent_on IS NOT NULL AND w.consent_by <> '' OR a.athlete_id = $2)`

// WorkedOut are the newest attempts of a team that were worked out and may be shown in it: ready or sent,
// nobody's who is a minor and has no consent. For an athlete, the own ones that were sent.
func (s *Store) WorkedOut(ctx context.Context, team uuid.UUID, athlete *uuid.UUID, events []string) ([]Worked, error) {
	return rows[Worked](ctx, s.DB, workedQuery+` AND (cardinality($4::text[]) = 0 OR a.event = ANY($4)) ORDER BY a.done_on DESC, a.created_at DESC LIMIT $5`, team, athlete, sport.Adult, append([]string{}, events...), mostWorked)
}

// WorkedOne is one of them.
func (s *Store) WorkedOne(ctx context.Context, team uuid.UUID, athlete *uuid.UUID, id uuid.UUID) (Worked, error) {
	return get[Worked](ctx, s.DB, "exercise", workedQuery+` AND a.id = $4`, team, athlete, sport.Adult, id)
}
