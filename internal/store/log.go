package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"
)

// LogRow is one attempt of an athlete's log.
type LogRow struct {
	Attempt
	Clips    int        `db:"clips" json:"clips"`
	Poster   *uuid.UUID `db:"poster" json:"poster,omitempty" required:"false"`
	Advice   []byte     `db:"advice" json:"-"`
	Followup []byte     `db:"followup" json:"-"`
	Outcome  string     `db:"outcome" json:"outcome,omitempty" required:"false" doc:"how the coach sees the cue before: taken, not_taken, overdone"`
	Worked   bool       `db:"worked" json:"worked" doc:"points, flags or answers were set"`
	Stamp    string     `db:"stamp" json:"-"`
	Kept     []byte     `db:"kept" json:"-"` // summary with the same stamp
}

// logRows are attempts with what was computed of them. Time stamps of frames, which are long, come
// with the state and the sum of the file.
const logRows = `
		WITH list AS (
			SELECT ` + attemptColumns + `,
				(SELECT count(*) FROM clips c WHERE c.attempt_id = attempts.id) AS clips,
				(SELECT c.id FROM clips c WHERE c.attempt_id = attempts.id AND c.width > 0 ORDER BY c.created_at LIMIT 1) AS poster,
				(SELECT w.value FROM work_items w WHERE w.attempt_id = attempts.id AND w.kind = 'advice' AND w.key = 'main') AS advice,
				(SELECT w.value FROM work_items w WHERE w.attempt_id = attempts.id AND w.kind = 'followup' AND w.key = 'main') AS followup,
				COALESCE((SELECT w.value #>> '{}' FROM work_items w WHERE w.attempt_id = attempts.id AND w.kind = 'outcome' AND w.key = 'main'), '') AS outcome,
				revision > 0 AS worked,
				md5($3 || attempts::text || ath::text || COALESCE((SELECT string_agg((c.id, c.name, c.state, c.problem, c.sha256, c.width, c.height, c.proxy_scale, c.capture_rate, c.rate_from, c.pictures, c.view, c.direction, c.taken_at, c.camera, c.contacts)::text, '' ORDER BY c.id) FROM clips c WHERE c.attempt_id = attempts.id), '')) AS stamp
			FROM attempts JOIN athletes ath ON ath.id = athlete_id
			WHERE attempts.team_id = $1 AND %s)
		SELECT list.*, sm.value AS kept FROM list LEFT JOIN summaries sm ON sm.attempt_id = list.id AND sm.stamp = list.stamp
		ORDER BY done_on, taken_at NULLS LAST, created_at, list.id`

// Log lists an athlete's attempts in the order in which they were done. Engine is
// part of the stamp of what is computed of them.
func (s *Store) Log(ctx context.Context, team, athlete uuid.UUID, engine string) ([]LogRow, error) {
	return rows[LogRow](ctx, s.DB, fmt.Sprintf(logRows, "athlete_id = $2"), team, athlete, engine)
}

// LogOf lists certain attempts in the same way.
func (s *Store) LogOf(ctx context.Context, team uuid.UUID, attempts []uuid.UUID, engine string) ([]LogRow, error) {
	return rows[LogRow](ctx, s.DB, fmt.Sprintf(logRows, "attempts.id = ANY($2)"), team, attempts, engine)
}

// LogSince lists a team's attempts since a day in the same way.
func (s *Store) LogSince(ctx context.Context, team uuid.UUID, day, engine string) ([]LogRow, error) {
	return rows[LogRow](ctx, s.DB, fmt.Sprintf(logRows, "done_on >= CAST($2 AS date)"), team, day, engine)
}

// KeepSummary keeps what was computed of an attempt.
func (s *Store) KeepSummary(ctx context.Context, attempt uuid.UUID, stamp string, value any) error {
	raw, err := json.Marshal(value)
	if err != nil {
		return err
	}
	_, err = s.DB.ExecContext(ctx, `INSERT INTO summaries (attempt_id, stamp, value) VALUES ($1, $2, CAST($3 AS jsonb))
		ON CONFLICT (attempt_id) DO UPDATE SET stamp = excluded.stamp, value = excluded.value`, attempt, stamp, string(raw))
	return Explain(err)
}

// NewNote is what a coach writes down about an athlete.
type NewNote struct {
	Kind    string  `db:"kind" json:"kind" enum:"note,pain"`
	NotedOn string  `db:"noted_on" json:"noted_on" format:"date"`
	Says    string  `db:"says" json:"says" minLength:"1" maxLength:"2000"`
	OverOn  *string `db:"over_on" json:"over_on,omitempty" required:"false" format:"date" doc:"when a pain was gone"`
}

// Note is a note of the log; a pain that is not over pauses every change.
type Note struct {
	ID uuid.UUID `db:"id" json:"id"`
	NewNote
}

const noteColumns = `id, kind, to_char(noted_on, 'YYYY-MM-DD') AS noted_on, says, to_char(over_on, 'YYYY-MM-DD') AS over_on`

// Notes lists an athlete's notes, newest first.
func (s *Store) Notes(ctx context.Context, team, athlete uuid.UUID) ([]Note, error) {
	return rows[Note](ctx, s.DB, `SELECT `+noteColumns+` FROM notes WHERE team_id = $1 AND athlete_id = $2 ORDER BY notes.noted_on DESC, created_at DESC`, team, athlete)
}

// AddNote stores a note.
func (s *Store) AddNote(ctx context.Context, team, athlete uuid.UUID, n NewNote) (Note, error) {
	return get[Note](ctx, s.DB, "athlete", `INSERT INTO notes (team_id, athlete_id, kind, noted_on, says, over_on)
		SELECT $1, id, $3, CAST($4 AS date), $5, CAST($6 AS date) FROM athletes WHERE team_id = $1 AND id = $2 RETURNING `+noteColumns,
		team, athlete, n.Kind, n.NotedOn, n.Says, n.OverOn)
}

// ChangeNote replaces a note.
func (s *Store) ChangeNote(ctx context.Context, team, id uuid.UUID, n NewNote) (Note, error) {
	return get[Note](ctx, s.DB, "note", `UPDATE notes SET kind = $3, noted_on = CAST($4 AS date), says = $5, over_on = CAST($6 AS date)
		WHERE team_id = $1 AND id = $2 RETURNING `+noteColumns, team, id, n.Kind, n.NotedOn, n.Says, n.OverOn)
}

// DeleteNote removes a note.
func (s *Store) DeleteNote(ctx context.Context, team, id uuid.UUID) error {
	_, err := get[uuid.UUID](ctx, s.DB, "note", `DELETE FROM notes WHERE team_id = $1 AND id = $2 RETURNING id`, team, id)
	return err
}

// Reference is an attempt that the team holds others against.
type Reference struct {
	AttemptID uuid.UUID `db:"attempt_id" json:"attempt_id"`
	Name      string    `db:"name" json:"name"`
	Event     string    `db:"event" json:"event"`
	Athlete   string    `db:"athlete" json:"athlete"`
	Mark      string    `db:"mark" json:"mark"`
	DoneOn    string    `db:"done_on" json:"done_on"`
}

// Library lists the team's references by event and name.
func (s *Store) Library(ctx context.Context, team uuid.UUID) ([]Reference, error) {
	return rows[Reference](ctx, s.DB, `SELECT l.attempt_id, l.name, a.event, p.name AS athlete, a.mark, to_char(a.done_on, 'YYYY-MM-DD') AS done_on
		FROM library l JOIN attempts a ON a.id = l.attempt_id JOIN athletes p ON p.id = a.athlete_id WHERE l.team_id = $1 ORDER BY a.event, l.name`, team)
}

// SetReference names an attempt as a reference; an empty name takes it out.
func (s *Store) SetReference(ctx context.Context, team, attempt uuid.UUID, name string) error {
	if name == "" {
		_, err := get[uuid.UUID](ctx, s.DB, "reference", `DELETE FROM library WHERE team_id = $1 AND attempt_id = $2 RETURNING attempt_id`, team, attempt)
		return err
	}
	_, err := get[uuid.UUID](ctx, s.DB, "attempt", `INSERT INTO library (attempt_id, team_id, name) SELECT id, team_id, $3 FROM attempts WHERE team_id = $1 AND id = $2
		ON CONFLICT (attempt_id) DO UPDATE SET name = excluded.name RETURNING attempt_id`, team, attempt, name)
	return err
}

// Phrases are a coach's own turns of phrase.
func (s *Store) Phrases(ctx context.Context, user uuid.UUID) ([]string, error) {
	return rows[string](ctx, s.DB, `SELECT says FROM phrases WHERE user_id = $1 ORDER BY lower(says)`, user)
}

// KeepPhrase adds a phrase, or takes it away.
func (s *Store) KeepPhrase(ctx context.Context, user uuid.UUID, says string, keep bool) error {
	q := `INSERT INTO phrases (user_id, says) VALUES ($1, $2) ON CONFLICT DO NOTHING`
	if !keep {
		q = `DELETE FROM phrases WHERE user_id = $1 AND says = $2`
	}
	_, err := s.DB.ExecContext(ctx, q, user, says)
	return Explain(err)
}

// HandTime is how long a coach's hand was on an attempt, s.
func (s *Store) HandTime(ctx context.Context, user, attempt uuid.UUID) (int, error) {
	return get[int](ctx, s.DB, "attempt", `SELECT COALESCE((SELECT seconds FROM hand_time WHERE user_id = $1 AND attempt_id = $2), 0)`, user, attempt)
}

// SpendTime adds seconds of hand time that a coach spent on an attempt.
func (s *Store) SpendTime(ctx context.Context, team, user, attempt uuid.UUID, seconds int) error {
	_, err := get[uuid.UUID](ctx, s.DB, "attempt", `INSERT INTO hand_time (user_id, attempt_id, seconds) SELECT $2, id, $4 FROM attempts WHERE team_id = $1 AND id = $3
		ON CONFLICT (user_id, attempt_id) DO UPDATE SET seconds = hand_time.seconds + excluded.seconds RETURNING attempt_id`, team, user, attempt, seconds)
	return err
}

// Waiting is an attempt without a clip that has a time, for matching.
type Waiting struct {
	ID        uuid.UUID `db:"id"`
	AthleteID uuid.UUID `db:"athlete_id"`
	TakenAt   time.Time `db:"taken_at"`
	Of        string    `db:"of"`
}

// WaitingForClips lists attempts with a time and no clip, by time.
func (s *Store) WaitingForClips(ctx context.Context, team uuid.UUID, from, to time.Time) ([]Waiting, error) {
	return rows[Waiting](ctx, s.DB, `SELECT id, athlete_id, taken_at, COALESCE(NULLIF(mark, ''), foul) AS of FROM attempts a WHERE team_id = $1 AND taken_at BETWEEN $2 AND $3
		AND NOT EXISTS (SELECT 1 FROM clips c WHERE c.attempt_id = a.id) ORDER BY taken_at`, team, from, to)
}

// LastEvents tells at which event each athlete was last seen.
func (s *Store) LastEvents(ctx context.Context, team uuid.UUID) (map[uuid.UUID]string, error) {
	type row struct {
		ID    uuid.UUID `db:"athlete_id"`
		Event string    `db:"event"`
	}
	rows, err := rows[row](ctx, s.DB, `SELECT DISTINCT ON (athlete_id) athlete_id, event FROM attempts WHERE team_id = $1 ORDER BY athlete_id, done_on DESC, created_at DESC`, team)
	out := map[uuid.UUID]string{}
	for _, r := range rows {
		out[r.ID] = r.Event
	}
	return out, err
}
