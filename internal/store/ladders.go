package store

import (
	"context"

	"github.com/google/uuid"
)

// LadderPlace is the rung of a ladder on which a coach sees an athlete.
type LadderPlace struct {
	Ladder string `db:"ladder" json:"ladder"`
	Rung   int    `db:"rung" json:"rung" doc:"from 0"`
	Since  string `db:"since" json:"since" format:"date"`
}

// LadderPlaces are an athlete's.
func (s *Store) LadderPlaces(ctx context.Context, team, athlete uuid.UUID) ([]LadderPlace, error) {
	return rows[LadderPlace](ctx, s.DB, `SELECT ladder, rung, to_char(since, 'YYYY-MM-DD') AS since FROM ladder_places WHERE team_id = $1 AND athlete_id = $2 ORDER BY ladder`, team, athlete)
}

// SetLadderPlace puts an athlete on a rung; below the first takes the ladder away.
func (s *Store) SetLadderPlace(ctx context.Context, team, athlete uuid.UUID, ladder string, rung int) error {
	if rung < 0 {
		_, err := s.DB.ExecContext(ctx, `DELETE FROM ladder_places WHERE team_id = $1 AND athlete_id = $2 AND ladder = $3`, team, athlete, ladder)
		return Explain(err)
	}
	_, err := get[string](ctx, s.DB, "athlete", `INSERT INTO ladder_places (team_id, athlete_id, ladder, rung) SELECT team_id, id, $3, $4 FROM athletes WHERE team_id = $1 AND id = $2
		ON CONFLICT (team_id, athlete_id, ladder) DO UPDATE SET rung = excluded.rung, since = CASE WHEN ladder_places.rung = excluded.rung THEN ladder_places.since ELSE CURRENT_DATE END RETURNING ladder`, team, athlete, ladder, rung)
	return err
}
