package store

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/core/performance"
	"neokinema/core/trackside"
	"neokinema/internal/problem"
)

// noteRow is a note of the track as it is stored.
type noteRow struct {
	ID      string          `db:"id"`
	Try     string          `db:"attempt_id"`
	Athlete string          `db:"athlete_id"`
	Phone   string          `db:"phone"`
	Event   string          `db:"event"`
	Day     string          `db:"day"`
	At      int64           `db:"at"`
	Field   trackside.Field `db:"field"`
	Value   string          `db:"value"`
	Before  string          `db:"before"`
}

const noteRowColumns = `id, attempt_id, athlete_id, phone, event, to_char(day, 'YYYY-MM-DD') AS day, at, field, value, before`

func notes(list []noteRow) []trackside.Note {
	out := make([]trackside.Note, len(list))
	for i, r := range list {
		out[i] = trackside.Note{ID: r.ID, Phone: r.Phone, Try: r.Try, Athlete: r.Athlete, Event: r.Event, Day: r.Day, At: r.At, Field: r.Field, Value: r.Value, Before: r.Before}
	}
	return out
}

// TrackNotes are those of a team's day.
func (s *Store) TrackNotes(ctx context.Context, team uuid.UUID, day string) ([]trackside.Note, error) {
	list, err := rows[noteRow](ctx, s.DB, `SELECT `+noteRowColumns+` FROM track_notes WHERE team_id = $1 AND day = CAST($2 AS date) ORDER BY at, id`, team, day)
	return notes(list), err
}

// Refusal is a note that does not join, and why; nothing else is touched by it.
type Refusal struct {
	Note trackside.Note `json:"note"`
	Why  string         `json:"why"`
}

// JoinedNotes tells what became of notes.
type JoinedNotes struct {
	Taken     []string             `json:"taken" doc:"ids of notes that the team has now"`
	Refused   []Refusal            `json:"refused"`
	Conflicts []trackside.Conflict `json:"conflicts" doc:"of the tries that the notes are about"`
}

// JoinNotes brings notes of a phone to those of the team, and the attempts in line with them.
func (s *Store) JoinNotes(ctx context.Context, team uuid.UUID, list []trackside.Note) (out JoinedNotes, err error) {
	out = JoinedNotes{Taken: []string{}, Refused: []Refusal{}, Conflicts: []trackside.Conflict{}}
	refuse := func(n trackside.Note, why string) { out.Refused = append(out.Refused, Refusal{n, why}) }
	tries := map[string][]trackside.Note{}
	var order []string
	for _, n := range list {
		if err := n.Check(); err != nil {
			refuse(n, err.Error())
			continue
		}
		if len(tries[n.Try]) == 0 {
			order = append(order, n.Try)
		}
		tries[n.Try] = append(tries[n.Try], n)
	}
	// In one order, so that two phones do not wait for each other.
	slices.Sort(order)
	for _, id := range order {
		var conflicts []trackside.Conflict
		err := s.InTx(ctx, func(tx *sqlx.Tx) (err error) {
			conflicts, err = joinTry(ctx, tx, team, tries[id])
			return err
		})
		var p *problem.Problem
		if errors.As(err, &p) && (p.Kind == problem.Invalid || p.Kind == problem.NotFound) {
			for _, n := range tries[id] {
				refuse(n, p.Says)
			}
			continue
		}
		if err != nil {
			return out, err
		}
		for _, n := range tries[id] {
			out.Taken = append(out.Taken, n.ID)
		}
		out.Conflicts = append(out.Conflicts, conflicts...)
	}
	return out, nil
}

// joinTry joins the notes of one try.
func joinTry(ctx context.Context, tx *sqlx.Tx, team uuid.UUID, fresh []trackside.Note) ([]trackside.Conflict, error) {
	id, err1 := uuid.Parse(fresh[0].Try)
	who, err2 := uuid.Parse(fresh[0].Athlete)
	if err1 != nil || err2 != nil {
		return nil, problem.New(problem.Invalid, "A try and an athlete have ids of 36 letters.")
	}
	if _, err := get[uuid.UUID](ctx, tx, "athlete", `SELECT id FROM athletes WHERE team_id = $1 AND id = $2 FOR UPDATE`, team, who); err != nil {
		return nil, err
	}
	had, err := rows[noteRow](ctx, tx, `SELECT `+noteRowColumns+` FROM track_notes WHERE team_id = $1 AND attempt_id = $2`, team, id)
	if err != nil {
		return nil, err
	}
	before := notes(had)
	all := trackside.Join(append(slices.Clone(before), fresh...))
	if len(all.Tries) != 1 || all.Tries[0].Athlete != who.String() {
		return nil, problem.New(problem.Invalid, "A try is one athlete’s.")
	}
	now := all.Tries[0]
	row := NewAttempt{AthleteID: who, Event: now.Event, DoneOn: now.Day, Session: "At the track", Condition: "fresh", Setting: "practice"}
	taken := time.UnixMilli(now.At)
	row.TakenAt = &taken
	if len(before) == 0 {
		// The first that is heard of it: it must have been made.
		if !slices.ContainsFunc(fresh, func(n trackside.Note) bool { return n.Field == trackside.Made }) {
			return nil, problem.New(problem.Invalid, "This try was deleted meanwhile.")
		}
		if err := putSaid(&row, now); err != nil {
			return nil, err
		}
		done, err := tx.NamedExecContext(ctx, `INSERT INTO attempts (id, team_id, athlete_id, event, variant, done_on, session, place, mark, implement, condition, setting, coach_focus, injury_note, wind, foul, note, goal, taken_at, felt, kept, words, indoor, state, created_at, model_n)
			VALUES (:id, :team, :athlete_id, :event, '', CAST(:done_on AS date), :session, '', :mark, '', :condition, :setting, '', '', :wind, :foul, '', '', :taken_at, :felt, :kept, :words, :indoor, 'logged', clock_timestamp(), (SELECT COALESCE(max(n), 0) FROM team_models WHERE team_id = :team AND event = :event))
			ON CONFLICT (id) DO NOTHING`, fields(row, map[string]any{"team": team, "id": id}))
		if err != nil {
			return nil, err
		}
		if n, err := done.RowsAffected(); err != nil || n != 1 {
			return nil, errors.Join(err, problem.New(problem.Invalid, "Another attempt has this id. Note the try anew."))
		}
	} else {
		there, err := get[Attempt](ctx, tx, "attempt", `SELECT `+attemptColumns+` FROM attempts WHERE team_id = $1 AND id = $2 FOR UPDATE`, team, id)
		if err != nil {
			return nil, err
		}
		row = there.NewAttempt
		was := trackside.Join(before).Tries[0]
		// What somebody changed at the desk stands; another word of the track is told.
		for _, f := range trackside.Fields[1:] {
			desk := said(row, f)
			if desk == was.Says[f] || now.Says[f] == desk {
				continue
			}
			at := slices.IndexFunc(all.Conflicts, func(c trackside.Conflict) bool { return c.Field == f })
			switch {
			case at >= 0:
				all.Conflicts[at].Stands = desk
			case now.Says[f] != was.Says[f]:
				all.Conflicts = append(all.Conflicts, trackside.Conflict{Try: now.ID, Athlete: now.Athlete, Field: f, Stands: desk, Other: now.Says[f]})
			}
			now.Says[f] = desk
		}
		if err := putSaid(&row, now); err != nil {
			return nil, err
		}
		if _, err := tx.NamedExecContext(ctx, `UPDATE attempts SET mark = :mark, foul = :foul, wind = :wind, felt = :felt, kept = :kept, words = :words, indoor = :indoor WHERE team_id = :team AND id = :id`, fields(row, map[string]any{"team": team, "id": id})); err != nil {
			return nil, err
		}
	}
	for _, n := range fresh {
		if _, err := tx.ExecContext(ctx, `INSERT INTO track_notes (id, team_id, attempt_id, athlete_id, phone, event, day, at, field, value, before)
			VALUES ($1, $2, $3, $4, $5, $6, CAST($7 AS date), $8, $9, $10, $11) ON CONFLICT (team_id, id) DO NOTHING`, n.ID, team, id, who, n.Phone, n.Event, n.Day, n.At, n.Field, n.Value, n.Before); err != nil {
			return nil, err
		}
	}
	// Taken out by the only phone that had it, with nothing else to it: it goes.
	if one := !slices.ContainsFunc(append(before, fresh...), func(n trackside.Note) bool { return n.Phone != now.Phone }); now.Gone() && one {
		_, err := tx.ExecContext(ctx, `DELETE FROM attempts a WHERE team_id = $1 AND id = $2 AND state = 'logged' AND revision = 0 AND NOT EXISTS (SELECT 1 FROM clips c WHERE c.attempt_id = a.id) AND NOT EXISTS (SELECT 1 FROM uploads u WHERE u.attempt_id = a.id)`, team, id)
		return all.Conflicts, err
	}
	return all.Conflicts, nil
}

// said is what an attempt says of a field of the track.
func said(a NewAttempt, f trackside.Field) string {
	switch f {
	case trackside.Mark:
		return a.Mark
	case trackside.Foul:
		return a.Foul
	case trackside.Kept:
		return a.Kept
	case trackside.Words:
		return a.Words
	case trackside.Roof:
		if a.Indoor {
			return "yes"
		}
	case trackside.Felt:
		if a.Felt != nil {
			return strconv.Itoa(*a.Felt)
		}
	case trackside.Wind:
		if a.Wind != nil {
			return strconv.FormatFloat(*a.Wind, 'f', -1, 64)
		}
	}
	return ""
}

// putSaid writes what a try says into an attempt.
func putSaid(a *NewAttempt, t trackside.Try) error {
	a.Mark, a.Foul, a.Kept, a.Words = t.Says[trackside.Mark], t.Says[trackside.Foul], t.Says[trackside.Kept], t.Says[trackside.Words]
	a.Felt, a.Wind, a.Indoor = nil, nil, t.Says[trackside.Roof] != ""
	if v := t.Says[trackside.Felt]; v != "" {
		n, err := strconv.Atoi(v)
		if err != nil {
			return problem.New(problem.Invalid, "Felt is 1 to 5.")
		}
		a.Felt = &n
	}
	if v := t.Says[trackside.Wind]; v != "" {
		w, err := strconv.ParseFloat(v, 64)
		if err != nil {
			return problem.New(problem.Invalid, "%q is no wind in m/s.", v)
		}
		a.Wind = &w
	}
	return nil
}

// FoulReasons are why attempts of a team's athletes did not count, the most frequent first, at most six.
func (s *Store) FoulReasons(ctx context.Context, team uuid.UUID) (map[uuid.UUID][]string, error) {
	type row struct {
		AthleteID uuid.UUID `db:"athlete_id"`
		Foul      string    `db:"foul"`
	}
	const most = 6
	list, err := rows[row](ctx, s.DB, `SELECT athlete_id, foul FROM attempts WHERE team_id = $1 AND foul NOT IN ('', 'foul', 'passed') GROUP BY athlete_id, foul ORDER BY athlete_id, count(*) DESC, foul`, team)
	out := map[uuid.UUID][]string{}
	for _, r := range list {
		if len(out[r.AthleteID]) < most {
			out[r.AthleteID] = append(out[r.AthleteID], r.Foul)
		}
	}
	return out, err
}

// RecordRow is how an athlete's attempts at an event ended.
type RecordRow struct {
	AthleteID uuid.UUID `db:"athlete_id"`
	Event     string    `db:"event"`
	Valid     int       `db:"valid"`
	Fouls     int       `db:"fouls"`
}

// Records count what became of a team's attempts in the year before a day.
func (s *Store) Records(ctx context.Context, team uuid.UUID, day string) ([]RecordRow, error) {
	return rows[RecordRow](ctx, s.DB, `SELECT athlete_id, event, count(*) FILTER (WHERE foul = '' AND mark <> '') AS valid, count(*) FILTER (WHERE foul NOT IN ('', $3)) AS fouls
		FROM attempts WHERE team_id = $1 AND done_on < $2::date AND done_on >= $2::date - 365 GROUP BY athlete_id, event`, team, day, performance.Passed)
}

// SaidRow is a wording that was said before a try.
type SaidRow struct {
	AthleteID uuid.UUID `db:"athlete_id"`
	Event     string    `db:"event"`
	Words     string    `db:"words"`
	Kept      bool      `db:"kept"`
}

// WordsSaid are the wordings that a team's tries were made under and of which somebody has said
// whether they were kept.
func (s *Store) WordsSaid(ctx context.Context, team uuid.UUID) ([]SaidRow, error) {
	return rows[SaidRow](ctx, s.DB, `SELECT athlete_id, event, words, kept = 'kept' AS kept FROM attempts WHERE team_id = $1 AND words <> '' AND kept <> '' ORDER BY done_on, created_at`, team)
}
