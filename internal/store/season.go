package store

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/core/season"
	"neokinema/internal/problem"
)

// Outline is a season as a coach has entered it.
type Outline season.Outline

// Value writes it as JSON.
func (o Outline) Value() (driver.Value, error) {
	raw, err := json.Marshal(season.Outline(o))
	return string(raw), err
}

// Scan reads it from JSON.
func (o *Outline) Scan(src any) error {
	var j jsonColumn[season.Outline]
	if err := j.Scan(src); err != nil {
		return err
	}
	if j.V != nil {
		*o = Outline(*j.V)
	}
	return nil
}

// Season is an athlete's, with the number of its last change.
type Season struct {
	AthleteID uuid.UUID `db:"athlete_id"`
	Revision  int64     `db:"id"`
	Outline   Outline   `db:"outline"`
	Before    int       `db:"before"` // changes that can be undone
}

// anybody holds where no athlete is named.
const anybody = `CAST($2 AS uuid) = CAST('00000000-0000-0000-0000-000000000000' AS uuid)`

// Seasons are the newest outlines of a team; of one athlete when that is named.
func (s *Store) Seasons(ctx context.Context, team, athlete uuid.UUID) ([]Season, error) {
	return rows[Season](ctx, s.DB, `SELECT DISTINCT ON (athlete_id) athlete_id, id, outline, count(*) OVER (PARTITION BY athlete_id) - 1 AS before
		FROM seasons WHERE team_id = $1 AND (`+anybody+` OR athlete_id = $2) ORDER BY athlete_id, id DESC`, team, athlete)
}

// keptOutlines are how many changes of a season can be undone.
const keptOutlines = 60

// errOlder is of a season that somebody else has changed meanwhile.
func errOlder() error {
	return problem.New(problem.NewerWork, "This season was changed in another window. It is shown as it is now; make your change again.")
}

// ofOne does something with an athlete's season while nobody else does.
func (s *Store) ofOne(ctx context.Context, team, athlete uuid.UUID, does func(q *sqlx.Tx) error) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := get[uuid.UUID](ctx, tx, "athlete", `SELECT id FROM athletes WHERE team_id = $1 AND id = $2 FOR UPDATE`, team, athlete); err != nil {
			return err
		}
		return does(tx)
	})
}

// SaveSeason keeps an outline that was made on a revision of the season; 0 where there was none.
func (s *Store) SaveSeason(ctx context.Context, team, athlete uuid.UUID, on int64, o season.Outline) error {
	return s.ofOne(ctx, team, athlete, func(q *sqlx.Tx) error {
		var now int64
		if err := q.GetContext(ctx, &now, `SELECT COALESCE(max(id), 0) FROM seasons WHERE team_id = $1 AND athlete_id = $2`, team, athlete); err != nil {
			return err
		}
		if now != on {
			return errOlder()
		}
		if _, err := q.ExecContext(ctx, `INSERT INTO seasons (team_id, athlete_id, outline) VALUES ($1, $2, CAST($3 AS jsonb))`, team, athlete, Outline(o)); err != nil {
			return err
		}
		_, err := q.ExecContext(ctx, `DELETE FROM seasons WHERE team_id = $1 AND athlete_id = $2 AND id NOT IN (SELECT id FROM seasons WHERE athlete_id = $2 ORDER BY id DESC LIMIT $3)`, team, athlete, keptOutlines)
		return err
	})
}

// UndoSeason takes the last change of a season back.
func (s *Store) UndoSeason(ctx context.Context, team, athlete uuid.UUID, on int64) error {
	return s.ofOne(ctx, team, athlete, func(q *sqlx.Tx) error {
		var ids []int64
		if err := q.SelectContext(ctx, &ids, `SELECT id FROM seasons WHERE team_id = $1 AND athlete_id = $2 ORDER BY id DESC LIMIT 2`, team, athlete); err != nil {
			return err
		}
		switch {
		case len(ids) == 0 || ids[0] != on:
			return errOlder()
		case len(ids) < 2:
			return problem.New(problem.Invalid, "There is nothing to undo: this is the season as it was begun.")
		}
		_, err := q.ExecContext(ctx, `DELETE FROM seasons WHERE team_id = $1 AND id = $2`, team, ids[0])
		return err
	})
}

// TeamRule is a rule of planning that is another in a team.
type TeamRule struct {
	Rule   string  `db:"rule"`
	Value  float64 `db:"value"`
	Reason string  `db:"reason"`
}

// TeamRules are a team's.
func (s *Store) TeamRules(ctx context.Context, team uuid.UUID) ([]season.Changed, error) {
	list, err := rows[TeamRule](ctx, s.DB, `SELECT rule, value, reason FROM season_rules WHERE team_id = $1 ORDER BY rule`, team)
	out := make([]season.Changed, len(list))
	for i, r := range list {
		out[i] = season.Changed{ID: r.Rule, Value: r.Value, Reason: r.Reason}
	}
	return out, err
}

// SetTeamRule makes a rule another; without a reason it is as it comes again.
func (s *Store) SetTeamRule(ctx context.Context, team uuid.UUID, c season.Changed) error {
	if c.Reason == "" {
		_, err := s.DB.ExecContext(ctx, `DELETE FROM season_rules WHERE team_id = $1 AND rule = $2`, team, c.ID)
		return Explain(err)
	}
	if _, err := season.With([]season.Changed{c}); err != nil {
		return problem.New(problem.Invalid, "%s.", err)
	}
	_, err := s.DB.ExecContext(ctx, `INSERT INTO season_rules (team_id, rule, value, reason) VALUES ($1, $2, $3, $4)
		ON CONFLICT (team_id, rule) DO UPDATE SET value = excluded.value, reason = excluded.reason`, team, c.ID, c.Value, c.Reason)
	return Explain(err)
}

// NewTraining is a session as it was: ten seconds to type.
type NewTraining struct {
	DoneOn     string      `db:"done_on" json:"done_on" format:"date"`
	Event      string      `db:"event" json:"event" maxLength:"40" doc:"empty for lifting and all else"`
	Kind       season.Kind `db:"kind" json:"kind" enum:"technique,full,lift,test,compete,other"`
	Tries      int         `db:"tries" json:"tries" minimum:"0" maximum:"1000" doc:"throws, take-offs, starts or runs"`
	Full       int         `db:"full_tries" json:"full" minimum:"0" maximum:"1000" doc:"of these with full effort"`
	Implements string      `db:"implements" json:"implements" maxLength:"120"`
	Effort     float64     `db:"effort" json:"effort" minimum:"0" maximum:"10" doc:"how hard it was, 0 to 10"`
	Minutes    int         `db:"minutes" json:"minutes" minimum:"0" maximum:"600"`
	Felt       string      `db:"felt" json:"felt" maxLength:"300" doc:"how it felt, in words"`
	AttemptID  *uuid.UUID  `db:"attempt_id" json:"attempt_id,omitempty" required:"false" doc:"attempt whose cue was worked on"`
}

// Check refuses what cannot have been.
func (t NewTraining) Check() error {
	if t.Full > t.Tries {
		return problem.New(problem.Invalid, "%d of %d tries cannot have been full ones.", t.Full, t.Tries)
	}
	if t.Minutes == 0 && t.Tries == 0 {
		return problem.New(problem.Invalid, "Say how long it was, or how many tries.")
	}
	return nil
}

// Training is one of the log.
type Training struct {
	ID        uuid.UUID `db:"id" json:"id"`
	AthleteID uuid.UUID `db:"athlete_id" json:"athlete_id"`
	NewTraining
}

// Done is it for the computation.
func (t Training) Done() (season.Done, error) {
	d, err := season.ParseDay(t.DoneOn)
	out := season.Done{Day: d, Event: t.Event, Kind: t.Kind, Tries: t.Tries, Full: t.Full, Effort: t.Effort, Minutes: t.Minutes}
	if t.AttemptID != nil {
		out.Change = t.AttemptID.String()
	}
	return out, err
}

const trainingColumns = `id, athlete_id, to_char(done_on, 'YYYY-MM-DD') AS done_on, event, kind, tries, full_tries, implements, effort, minutes, felt, attempt_id`

// Trainings lists those of a team since a day, oldest first; of one athlete when that is named.
func (s *Store) Trainings(ctx context.Context, team, athlete uuid.UUID, since string) ([]Training, error) {
	return rows[Training](ctx, s.DB, `SELECT `+trainingColumns+` FROM trainings WHERE team_id = $1 AND (`+anybody+` OR athlete_id = $2)
		AND done_on >= CAST($3 AS date) ORDER BY trainings.done_on, created_at, id`, team, athlete, since)
}

// PutTraining stores one under the id that it was given where it was typed.
func (s *Store) PutTraining(ctx context.Context, team, athlete, id uuid.UUID, t NewTraining) (Training, error) {
	if err := t.Check(); err != nil {
		return Training{}, err
	}
	return getNamed[Training](ctx, s.DB, "athlete", `INSERT INTO trainings (id, team_id, athlete_id, done_on, event, kind, tries, full_tries, implements, effort, minutes, felt, attempt_id)
		SELECT :id, :team, a.id, CAST(:done_on AS date), :event, :kind, :tries, :full_tries, :implements, :effort, :minutes, :felt, CAST(:attempt_id AS uuid)
		FROM athletes a WHERE a.team_id = :team AND a.id = :athlete AND `+ofAthlete+`
		ON CONFLICT (id) DO UPDATE SET done_on = excluded.done_on, event = excluded.event, kind = excluded.kind, tries = excluded.tries, full_tries = excluded.full_tries,
			implements = excluded.implements, effort = excluded.effort, minutes = excluded.minutes, felt = excluded.felt, attempt_id = excluded.attempt_id
		WHERE trainings.team_id = :team AND trainings.athlete_id = :athlete RETURNING `+trainingColumns, fields(t, map[string]any{"id": id, "team": team, "athlete": athlete}))
}

// DeleteTraining removes one.
func (s *Store) DeleteTraining(ctx context.Context, team, id uuid.UUID) error {
	_, err := get[uuid.UUID](ctx, s.DB, "session", `DELETE FROM trainings WHERE team_id = $1 AND id = $2 RETURNING id`, team, id)
	return err
}

// CueRow is a main cue that was given, with what it takes to know whether it is open.
type CueRow struct {
	AttemptID uuid.UUID `db:"id"`
	AthleteID uuid.UUID `db:"athlete_id"`
	Event     string    `db:"event"`
	DoneOn    string    `db:"done_on"`
	Advice    []byte    `db:"advice"`
	Followup  []byte    `db:"followup"`
	Since     int       `db:"since"`  // attempts at the event after it was given
	Looked    string    `db:"looked"` // how the coach saw it since, in order, with commas between
}

// Cues lists the main cues of a team, newest first; of one athlete when that is named.
func (s *Store) Cues(ctx context.Context, team, athlete uuid.UUID) ([]CueRow, error) {
	return rows[CueRow](ctx, s.DB, `SELECT a.id, a.athlete_id, a.event, to_char(a.done_on, 'YYYY-MM-DD') AS done_on, w.value AS advice,
			(SELECT f.value FROM work_items f WHERE f.attempt_id = a.id AND f.kind = 'followup' AND f.key = 'main') AS followup,
			(SELECT count(*) FROM attempts b WHERE b.athlete_id = a.athlete_id AND b.event = a.event AND (b.done_on, b.created_at) > (a.done_on, a.created_at)) AS since,
			COALESCE((SELECT string_agg(o.value #>> '{}', ',' ORDER BY b.done_on, b.created_at) FROM attempts b JOIN work_items o ON o.attempt_id = b.id AND o.kind = 'outcome' AND o.key = 'main'
				WHERE b.athlete_id = a.athlete_id AND b.event = a.event AND (b.done_on, b.created_at) > (a.done_on, a.created_at)), '') AS looked
		FROM attempts a JOIN work_items w ON w.attempt_id = a.id AND w.kind = 'advice' AND w.key = 'main'
		WHERE a.team_id = $1 AND (`+anybody+` OR a.athlete_id = $2) ORDER BY a.done_on DESC, a.created_at DESC`, team, athlete)
}

// LastClips are the days of the newest attempts with a clip, by athlete.
func (s *Store) LastClips(ctx context.Context, team uuid.UUID) (map[uuid.UUID]string, error) {
	type row struct {
		AthleteID uuid.UUID `db:"athlete_id"`
		Day       string    `db:"day"`
	}
	list, err := rows[row](ctx, s.DB, `SELECT athlete_id, to_char(max(done_on), 'YYYY-MM-DD') AS day FROM attempts a WHERE team_id = $1 AND EXISTS (SELECT 1 FROM clips c WHERE c.attempt_id = a.id) GROUP BY athlete_id`, team)
	out := map[uuid.UUID]string{}
	for _, r := range list {
		out[r.AthleteID] = r.Day
	}
	return out, err
}

// Answered is an attempt on whose page its athlete wrote back.
type Answered struct {
	AttemptID uuid.UUID `db:"attempt_id"`
	AthleteID uuid.UUID `db:"athlete_id"`
}

// AnswersSince are those of a team since a day on attempts that nobody has worked on after the answer.
func (s *Store) AnswersSince(ctx context.Context, team uuid.UUID, day string) ([]Answered, error) {
	return rows[Answered](ctx, s.DB, `SELECT DISTINCT sh.attempt_id, a.athlete_id FROM shares sh JOIN attempts a ON a.id = sh.attempt_id
		WHERE sh.team_id = $1 AND sh.answer <> '' AND sh.answered_at >= CAST($2 AS date)
		AND NOT EXISTS (SELECT 1 FROM attempts n WHERE n.athlete_id = a.athlete_id AND n.created_at > sh.answered_at) ORDER BY sh.attempt_id`, team, day)
}

// Pains are those of a team that are not over, by athlete.
func (s *Store) Pains(ctx context.Context, team uuid.UUID) (map[uuid.UUID]string, error) {
	type row struct {
		AthleteID uuid.UUID `db:"athlete_id"`
		Says      string    `db:"says"`
	}
	list, err := rows[row](ctx, s.DB, `SELECT athlete_id, says FROM notes WHERE team_id = $1 AND kind = 'pain' AND over_on IS NULL ORDER BY noted_on, created_at`, team)
	out := map[uuid.UUID]string{}
	for _, r := range list {
		out[r.AthleteID] = r.Says
	}
	return out, err
}

// Calendar is the address under which an athlete's season is fetched by a calendar.
type Calendar struct {
	AthleteID uuid.UUID  `db:"athlete_id" json:"-"`
	TeamID    uuid.UUID  `db:"team_id" json:"-"`
	CreatedAt time.Time  `db:"created_at" json:"created_at"`
	SeenAt    *time.Time `db:"seen_at" json:"seen_at,omitempty" required:"false" doc:"last time that it was fetched"`
}

const calendarColumns = `athlete_id, team_id, created_at, seen_at`

// SetCalendar gives an athlete's calendar an address, kept by the hash of its secret; the one before is
// out of use.
func (s *Store) SetCalendar(ctx context.Context, team, athlete uuid.UUID, hash []byte) error {
	_, err := get[uuid.UUID](ctx, s.DB, "athlete", `INSERT INTO calendars (athlete_id, team_id, secret_hash) SELECT id, team_id, $3 FROM athletes WHERE team_id = $1 AND id = $2
		ON CONFLICT (athlete_id) DO UPDATE SET secret_hash = excluded.secret_hash, created_at = now(), seen_at = NULL RETURNING athlete_id`, team, athlete, hash)
	return err
}

// DropCalendar takes the address back.
func (s *Store) DropCalendar(ctx context.Context, team, athlete uuid.UUID) error {
	_, err := get[uuid.UUID](ctx, s.DB, "address", `DELETE FROM calendars WHERE team_id = $1 AND athlete_id = $2 RETURNING athlete_id`, team, athlete)
	return err
}

// CalendarOf finds the address of an athlete's calendar.
func (s *Store) CalendarOf(ctx context.Context, team, athlete uuid.UUID) (Calendar, error) {
	return get[Calendar](ctx, s.DB, "address", `SELECT `+calendarColumns+` FROM calendars WHERE team_id = $1 AND athlete_id = $2`, team, athlete)
}

// FetchCalendar finds whose calendar is fetched, and notes that it was.
func (s *Store) FetchCalendar(ctx context.Context, hash []byte) (Calendar, error) {
	return get[Calendar](ctx, s.DB, "calendar", `UPDATE calendars SET seen_at = now() WHERE secret_hash = $1 RETURNING `+calendarColumns, hash)
}
