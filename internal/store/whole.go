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
	{"attempts", `SELECT to_jsonb(t) FROM attempts t WHERE team_id = $1 ORDER BY created_at, id`, "attempts"},
	// What was on its way is taken up as cancelled: its original may not be there yet.
	{"clips", `SELECT to_jsonb(t) || jsonb_build_object('job_id', 0, 'state', CASE WHEN state IN ('waiting', 'importing') THEN 'cancelled' ELSE state END)
		FROM clips t WHERE team_id = $1 ORDER BY created_at, id`, "clips"},
	{"notes", `SELECT to_jsonb(t) FROM notes t WHERE team_id = $1 ORDER BY created_at, id`, "notes"},
	{"decisions", `SELECT to_jsonb(t) FROM work_items t JOIN attempts a ON a.id = attempt_id WHERE a.team_id = $1 ORDER BY attempt_id, clip_id, kind, key`, "work_items"},
	{"chapters", `SELECT to_jsonb(t) FROM chapters t WHERE team_id = $1 ORDER BY attempt_id, place, id`, "chapters"},
	{"library", `SELECT to_jsonb(t) FROM library t WHERE team_id = $1 ORDER BY created_at, attempt_id`, "library"},
	{"models", `SELECT to_jsonb(t) || jsonb_build_object('user_id', NULL) FROM team_models t WHERE team_id = $1 ORDER BY event, n`, "team_models"},
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
			return many[json.RawMessage](ctx, s.DB, w.query, team)
		}
	}
	return nil, problem.Missing("table")
}

// Empty refuses a team that has something already.
func (s *Store) Empty(ctx context.Context, team uuid.UUID) error { return isEmpty(ctx, s.DB, team) }

func isEmpty(ctx context.Context, q sqlx.QueryerContext, team uuid.UUID) error {
	there, err := one[bool](ctx, q, "team", `SELECT EXISTS (SELECT 1 FROM athletes WHERE team_id = $1) OR EXISTS (SELECT 1 FROM team_models WHERE team_id = $1)`, team)
	if err == nil && there {
		err = problem.New(problem.Invalid, "This team has athletes or models already. An archive can be taken into an empty team only; begin a new one.")
	}
	return err
}

// Refill puts whole tables and tracks into a team that has nothing yet.
func (s *Store) Refill(ctx context.Context, team uuid.UUID, tables map[string]json.RawMessage, tracks map[uuid.UUID]map[string]*track.Track) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := one[uuid.UUID](ctx, tx, "team", `SELECT id FROM teams WHERE id = $1 FOR UPDATE`, team); err != nil {
			return err
		}
		if err := isEmpty(ctx, tx, team); err != nil {
			return err
		}
		for _, w := range wholes {
			if len(tables[w.name]) == 0 {
				continue
			}
			if _, err := tx.ExecContext(ctx, `INSERT INTO `+w.into+` SELECT * FROM jsonb_populate_recordset(NULL::`+w.into+`, CAST($1 AS jsonb))`, string(tables[w.name])); err != nil {
				var pg *pgconn.PgError
				if errors.As(err, &pg) && (strings.HasPrefix(pg.Code, "22") || strings.HasPrefix(pg.Code, "23")) {
					return problem.New(problem.Invalid, "The rows of %s.json do not fit together (%s). Nothing was taken in; export the team again.", w.name, pg.Message)
				}
				return err
			}
		}
		// Every row must be this team's, whatever the archive said.
		var strange bool
		if err := tx.GetContext(ctx, &strange, `SELECT EXISTS (SELECT 1 FROM work_items w JOIN attempts a ON a.id = w.attempt_id LEFT JOIN clips c ON c.id = w.clip_id
				WHERE a.team_id = $1 AND w.clip_id IS NOT NULL AND c.attempt_id IS DISTINCT FROM a.id)
			OR EXISTS (SELECT 1 FROM clips c JOIN attempts a ON a.id = c.attempt_id WHERE (c.team_id = $1) <> (a.team_id = $1))
			OR EXISTS (SELECT 1 FROM attempts a JOIN athletes p ON p.id = a.athlete_id WHERE (a.team_id = $1) <> (p.team_id = $1))
			OR EXISTS (SELECT 1 FROM notes n JOIN athletes p ON p.id = n.athlete_id WHERE (n.team_id = $1) <> (p.team_id = $1))
			OR EXISTS (SELECT 1 FROM library l JOIN attempts a ON a.id = l.attempt_id WHERE (l.team_id = $1) <> (a.team_id = $1))`, team); err != nil {
			return err
		}
		if strange {
			return problem.New(problem.Invalid, "The archive refers to something that is not in it. Nothing was taken in; export the team again.")
		}
		all := map[TrackID]*track.Track{}
		for clip, list := range tracks {
			for id, t := range list {
				all[TrackID{clip, id}] = t
			}
		}
		return SaveTracks(ctx, tx, all)
	})
}
