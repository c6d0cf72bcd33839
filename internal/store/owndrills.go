package store

import (
	"context"
	"encoding/json"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/core/model"
	"neokinema/internal/problem"
)

// DrillTold is what a team says of a drill of its own.
type DrillTold struct {
	Name    string     `json:"name" minLength:"1" maxLength:"120"`
	Event   string     `json:"event" minLength:"1" maxLength:"40"`
	Faults  []string   `json:"faults" maxItems:"6" doc:"of the event's model, that it is for"`
	Needs   []string   `json:"needs" maxItems:"8"`
	Level   string     `json:"level" enum:"new,learning,trained"`
	Dose    model.Dose `json:"dose"`
	Ladder  []string   `json:"ladder" maxItems:"8" doc:"from the easiest rung to the hardest"`
	Feel    string     `json:"feel" maxLength:"300"`
	Mistake string     `json:"mistake" maxLength:"300"`
	GoOn    string     `json:"go_on" maxLength:"300"`
	Stop    string     `json:"stop" maxLength:"300"`
}

// NewOwnDrill is a drill of a team's own, with the stretch of a clip that shows it.
type NewOwnDrill struct {
	DrillTold
	ClipID *uuid.UUID `json:"clip_id,omitempty" required:"false" doc:"a clip of the team"`
	First  int        `json:"first" minimum:"0" maximum:"1048576" doc:"frame"`
	Last   int        `json:"last" minimum:"0" maximum:"1048576" doc:"frame"`
}

// OwnDrill is one that is kept, with what its clip says of itself.
type OwnDrill struct {
	ID      uuid.UUID       `db:"id"`
	Told    json.RawMessage `db:"told"`
	ClipID  *uuid.UUID      `db:"clip_id"`
	First   int             `db:"first"`
	Last    int             `db:"last"`
	From    int64           `db:"from_tick"` // 1/90000 s
	To      int64           `db:"to_tick"`
	Width   int             `db:"width"`
	Height  int             `db:"height"`
	Athlete string          `db:"athlete"`
	DoneOn  string          `db:"done_on"`
}

const ownDrillQuery = `SELECT d.id, d.told, d.clip_id, d.first, d.last, COALESCE(c.stamps[d.first + 1], 0) AS from_tick, COALESCE(c.stamps[d.last + 1], 0) AS to_tick,
	COALESCE(c.width, 0) AS width, COALESCE(c.height, 0) AS height, COALESCE(w.name, '') AS athlete, COALESCE(to_char(a.done_on, 'YYYY-MM-DD'), '') AS done_on
	FROM own_drills d LEFT JOIN clips c ON c.id = d.clip_id LEFT JOIN attempts a ON a.id = c.attempt_id LEFT JOIN athletes w ON w.id = a.athlete_id WHERE d.team_id = $1`

// mostOwnDrills is how many a team keeps.
const mostOwnDrills = 500

// OwnDrills are a team's, the newest first.
func (s *Store) OwnDrills(ctx context.Context, team uuid.UUID) ([]OwnDrill, error) {
	return rows[OwnDrill](ctx, s.DB, ownDrillQuery+` ORDER BY d.created_at DESC, d.id`, team)
}

// OwnDrill is one of them.
func (s *Store) OwnDrill(ctx context.Context, team, id uuid.UUID) (OwnDrill, error) {
	return get[OwnDrill](ctx, s.DB, "drill", ownDrillQuery+` AND d.id = $2`, team, id)
}

// AddOwnDrill keeps one.
func (s *Store) AddOwnDrill(ctx context.Context, team uuid.UUID, d NewOwnDrill) (OwnDrill, error) {
	told, err := json.Marshal(d.DrillTold)
	if err != nil {
		return OwnDrill{}, err
	}
	var id uuid.UUID
	err = s.InTx(ctx, func(tx *sqlx.Tx) error {
		n, err := get[int](ctx, tx, "team", `SELECT count(*) FROM own_drills WHERE team_id = $1`, team)
		if err != nil {
			return err
		}
		if n >= mostOwnDrills {
			return problem.New(problem.Invalid, "A team keeps at most %d drills of its own. Delete one first.", mostOwnDrills)
		}
		id, err = get[uuid.UUID](ctx, tx, "drill", `INSERT INTO own_drills (team_id, told, clip_id, first, last) VALUES ($1, $2, $3, $4, $5) RETURNING id`, team, string(told), d.ClipID, d.First, d.Last)
		return err
	})
	if err != nil {
		return OwnDrill{}, err
	}
	return s.OwnDrill(ctx, team, id)
}

// ChangeOwnDrill keeps another version of one.
func (s *Store) ChangeOwnDrill(ctx context.Context, team, id uuid.UUID, d NewOwnDrill) (OwnDrill, error) {
	told, err := json.Marshal(d.DrillTold)
	if err != nil {
		return OwnDrill{}, err
	}
	if _, err := get[uuid.UUID](ctx, s.DB, "drill", `UPDATE own_drills SET told = $3, clip_id = $4, first = $5, last = $6 WHERE team_id = $1 AND id = $2 RETURNING id`, team, id, string(told), d.ClipID, d.First, d.Last); err != nil {
		return OwnDrill{}, err
	}
	return s.OwnDrill(ctx, team, id)
}

// DeleteOwnDrill removes one; its clip stays.
func (s *Store) DeleteOwnDrill(ctx context.Context, team, id uuid.UUID) error {
	_, err := get[uuid.UUID](ctx, s.DB, "drill", `DELETE FROM own_drills WHERE team_id = $1 AND id = $2 RETURNING id`, team, id)
	return err
}
