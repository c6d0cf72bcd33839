package store

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"

	"neokinema/core/track"
	"neokinema/internal/problem"
)

// Whole tables of a team, in the order in which they can be put back. Sessions,
// accounts, links, undo history and what can be computed again do not belong to it.
var wholes = []struct{ name, query, into string }{
	{"athletes", `SELECT to_jsonb(t) FROM athletes t WHERE team_id = $1 ORDER BY created_at, id`, "athletes"},
	{"attempts", `SELECT to_jsonb(t) - 'share_id' FROM attempts t WHERE team_id = $1 ORDER BY created_at, id`, "attempts"},
	// What was on its way is taken up as cancelled: its original may not be there yet.
	{"clips", `SELECT to_jsonb(t) || jsonb_build_object('job_id', 0, 'state', CASE WHEN state IN ('waiting', 'importing') THEN 'cancelled' ELSE state END)
		FROM clips t WHERE team_id = $1 ORDER BY created_at, id`, "clips"},
	{"models", `SELECT to_jsonb(t) || jsonb_build_object('user_id', NULL) FROM team_models t WHERE team_id = $1 ORDER BY event, n`, "team_models"},
	{"notes", `SELECT to_jsonb(t) FROM notes t WHERE team_id = $1 ORDER BY created_at, id`, "notes"},
	{"decisions", `SELECT to_jsonb(t) FROM work_items t WHERE team_id = $1 ORDER BY attempt_id, clip_id, kind, key`, "work_items"},
	{"chapters", `SELECT to_jsonb(t) FROM chapters t WHERE team_id = $1 ORDER BY attempt_id, place, id`, "chapters"},
	{"library", `SELECT to_jsonb(t) FROM library t WHERE team_id = $1 ORDER BY created_at, attempt_id`, "library"},
	{"calculations", `SELECT to_jsonb(t) FROM calculations t WHERE team_id = $1 ORDER BY created_at, id`, "calculations"},
	// Of a season the newest outline; what could be undone stays behind.
	{"seasons", `SELECT to_jsonb(t) - 'id' FROM (SELECT DISTINCT ON (athlete_id) * FROM seasons WHERE team_id = $1 ORDER BY athlete_id, id DESC) t ORDER BY created_at, athlete_id`, "seasons"},
	{"season_rules", `SELECT to_jsonb(t) FROM season_rules t WHERE team_id = $1 ORDER BY rule`, "season_rules"},
	{"trainings", `SELECT to_jsonb(t) FROM trainings t WHERE team_id = $1 ORDER BY created_at, id`, "trainings"},
	{"own_drills", `SELECT to_jsonb(t) FROM own_drills t WHERE team_id = $1 ORDER BY created_at, id`, "own_drills"},
	{"ladder_places", `SELECT to_jsonb(t) FROM ladder_places t WHERE team_id = $1 ORDER BY athlete_id, ladder`, "ladder_places"},
}

// WholeNames are the tables of a team by the names that they have in an archive.
func WholeNames() (out []string) {
	for _, w := range wholes {
		out = append(out, w.name)
	}
	return out
}

// Whole reads a table of a team as JSON rows.
func (s *Store) Whole(ctx context.Context, team uuid.UUID, name string) ([]json.RawMessage, error) {
	for _, w := range wholes {
		if w.name == name {
			return rows[json.RawMessage](ctx, s.DB, w.query, team)
		}
	}
	return nil, problem.Missing("table")
}

// Empty refuses a team that has something already.
func (s *Store) Empty(ctx context.Context, team uuid.UUID) error { return isEmpty(ctx, s.DB, team) }

func isEmpty(ctx context.Context, q sqlx.QueryerContext, team uuid.UUID) error {
	there, err := get[bool](ctx, q, "team", `SELECT EXISTS (SELECT 1 FROM athletes WHERE team_id = $1) OR EXISTS (SELECT 1 FROM team_models WHERE team_id = $1)`, team)
	if err == nil && there {
		err = problem.New(problem.Invalid, "This team has athletes or models already. An archive can be taken into an empty team only; begin a new one.")
	}
	return err
}

// Refilling is a transaction in which a team is filled.
type Refilling struct {
	tx      *sqlx.Tx
	team    uuid.UUID
	columns map[string][]string // of a table, as rows of an archive may name them
}

// Refill fills a team that has nothing yet: all that f puts, or nothing.
func (s *Store) Refill(ctx context.Context, team uuid.UUID, f func(*Refilling) error) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := get[uuid.UUID](ctx, tx, "team", `SELECT id FROM teams WHERE id = $1 FOR UPDATE`, team); err != nil {
			return err
		}
		if err := isEmpty(ctx, tx, team); err != nil {
			return err
		}
		return f(&Refilling{tx: tx, team: team, columns: map[string][]string{}})
	})
}

// ours are columns that the server alone fills.
var ours = map[string]bool{"team_id": true, "user_id": true, "share_id": true, "job_id": true}

// Put adds rows of a table by the name that it has in an archive. Whose they are is not
// the rows' to say, and the keys between the tables hold them to the one team.
func (r *Refilling) Put(ctx context.Context, name string, list []map[string]json.RawMessage) error {
	if len(list) == 0 {
		return nil
	}
	into := ""
	for _, w := range wholes {
		if w.name == name {
			into = w.into
		}
	}
	columns, ok := r.columns[name]
	if !ok {
		all, err := rows[string](ctx, r.tx, `SELECT column_name FROM information_schema.columns WHERE table_schema = current_schema() AND table_name = $1 ORDER BY ordinal_position`, into)
		if err != nil {
			return err
		}
		for _, c := range all {
			// A column that came after the archive was made keeps its usual value.
			if _, named := list[0][c]; named && !ours[c] {
				columns = append(columns, c)
			}
		}
		r.columns[name] = columns
	}
	if len(columns) == 0 {
		return unfit(name, "rows without a known column")
	}
	raw, err := json.Marshal(list)
	if err != nil {
		return err
	}
	names := strings.Join(columns, ", ")
	done, err := r.tx.ExecContext(ctx, `INSERT INTO `+into+` (team_id, `+names+`) SELECT $1, `+names+` FROM jsonb_populate_recordset(NULL::`+into+`, CAST($2 AS jsonb))`, r.team, string(raw))
	var pg *pgconn.PgError
	if errors.As(err, &pg) && (strings.HasPrefix(pg.Code, "22") || strings.HasPrefix(pg.Code, "23")) {
		return unfit(name, pg.Message)
	}
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n != int64(len(list)) {
		return errors.Join(err, unfit(name, "not every row came in"))
	}
	return nil
}

func unfit(name, why string) error {
	return problem.New(problem.Invalid, "The rows of %s.json do not fit together (%s). Nothing was taken in; export the team again.", name, why)
}

// Tracks adds the points of a clip.
func (r *Refilling) Tracks(ctx context.Context, clip uuid.UUID, list map[string]*track.Track) error {
	all := map[TrackID]*track.Track{}
	for id, t := range list {
		all[TrackID{clip, id}] = t
	}
	err := SaveTracks(ctx, r.tx, r.team, all)
	var pg *pgconn.PgError
	if errors.As(err, &pg) && strings.HasPrefix(pg.Code, "23") {
		return problem.New(problem.Invalid, "The archive has points of a clip that is not in it. Nothing was taken in; export the team again.")
	}
	return err
}
