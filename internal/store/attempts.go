package store

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/core/followup"
	"neokinema/core/model"
	"neokinema/internal/problem"
)

// NewAttempt is what a coach enters about an attempt.
type NewAttempt struct {
	AthleteID  uuid.UUID  `db:"athlete_id" json:"athlete_id"`
	Event      string     `db:"event" json:"event" doc:"technique model"`
	Variant    string     `db:"variant" json:"variant,omitempty" required:"false" maxLength:"40" doc:"style or school of the model; its first when empty"`
	DoneOn     string     `db:"done_on" json:"done_on" format:"date"`
	Session    string     `db:"session" json:"session" maxLength:"200"`
	Place      string     `db:"place" json:"place" maxLength:"200"`
	Mark       string     `db:"mark" json:"mark" maxLength:"40" doc:"mark or time as the coach writes it"`
	Implement  string     `db:"implement" json:"implement" maxLength:"120"`
	Condition  string     `db:"condition" json:"condition" enum:"fresh,tired"`
	Setting    string     `db:"setting" json:"setting" enum:"practice,competition"`
	CoachFocus string     `db:"coach_focus" json:"coach_focus" maxLength:"2000" doc:"what the athlete's own coach works on"`
	InjuryNote string     `db:"injury_note" json:"injury_note" maxLength:"2000"`
	Wind       *float64   `db:"wind" json:"wind,omitempty" required:"false" minimum:"-15" maximum:"15" doc:"m/s, with the athlete positive"`
	Foul       string     `db:"foul" json:"foul,omitempty" required:"false" maxLength:"200" doc:"why the attempt does not count; empty when it does"`
	Note       string     `db:"note" json:"note,omitempty" required:"false" maxLength:"2000"`
	Turns      *int       `db:"turns" json:"turns,omitempty" required:"false" minimum:"0" maximum:"6" doc:"turns of hammer or weight"`
	RunUp      *int       `db:"run_up" json:"run_up,omitempty" required:"false" minimum:"0" maximum:"40" doc:"steps of the run-up"`
	Goal       string     `db:"goal" json:"goal,omitempty" required:"false" maxLength:"40" doc:"mark that was aimed at"`
	TakenAt    *time.Time `db:"taken_at" json:"taken_at,omitempty" required:"false" doc:"when it was done; clips are matched by it"`
	Felt       *int       `db:"felt" json:"felt,omitempty" required:"false" minimum:"1" maximum:"5" doc:"how it felt, 5 is best"`
	Kept       string     `db:"kept" json:"kept,omitempty" required:"false" enum:"kept,lost," doc:"what was worked on, as it was seen at the track"`
	Words      string     `db:"words" json:"words,omitempty" required:"false" maxLength:"300" doc:"wording of the cue that was said before it"`
	Indoor     bool       `db:"indoor" json:"indoor,omitempty" required:"false"`
}

// Attempt is one try of an athlete, with its clips kept beside it.
type Attempt struct {
	ID        uuid.UUID `db:"id" json:"id"`
	State     string    `db:"state" json:"state" enum:"logged,new,in_work,ready,sent" doc:"logged: typed in, without a clip"`
	Revision  int       `db:"revision" json:"revision"`
	CreatedAt time.Time `db:"created_at" json:"created_at"`
	ModelN    int       `db:"model_n" json:"model_n" doc:"version of the team's model by which it is judged; 0 is the shipped one"`
	NewAttempt
}

const attemptColumns = `attempts.id, state, revision, attempts.created_at, model_n, athlete_id, event, variant, to_char(done_on, 'YYYY-MM-DD') AS done_on, session, place, mark,
	implement, condition, setting, coach_focus, injury_note, wind, foul, note, turns, run_up, goal, taken_at, felt, kept, words, indoor`

// Attempt finds one attempt of a team.
func (s *Store) Attempt(ctx context.Context, team, id uuid.UUID) (Attempt, error) {
	return get[Attempt](ctx, s.DB, "attempt", `SELECT `+attemptColumns+` FROM attempts WHERE team_id = $1 AND id = $2`, team, id)
}

// AddAttempt stores a new attempt; the athlete must be of the team.
func (s *Store) AddAttempt(ctx context.Context, team uuid.UUID, a NewAttempt) (Attempt, error) {
	return addAttempt(ctx, s.DB, team, a, "new")
}

func addAttempt(ctx context.Context, q sqlx.QueryerContext, team uuid.UUID, a NewAttempt, state string) (Attempt, error) {
	return getNamed[Attempt](ctx, q, "athlete", `INSERT INTO attempts (team_id, athlete_id, event, variant, done_on, session, place, mark, implement, condition, setting, coach_focus, injury_note, wind, foul, note, turns, run_up, goal, taken_at, felt, kept, words, indoor, state, created_at, model_n)
		SELECT :team, id, :event, :variant, CAST(:done_on AS date), :session, :place, :mark, :implement, :condition, :setting, :coach_focus, :injury_note, :wind, :foul, :note, :turns, :run_up, :goal, :taken_at, :felt, :kept, :words, :indoor, :state, clock_timestamp(), (SELECT COALESCE(max(n), 0) FROM team_models WHERE team_id = :team AND event = :event)
		FROM athletes WHERE team_id = :team AND id = :athlete_id RETURNING `+attemptColumns,
		fields(a, map[string]any{"team": team, "state": state}))
}

// AddMarks stores attempts that are only in the log, all or none.
func (s *Store) AddMarks(ctx context.Context, team uuid.UUID, list []NewAttempt) (out []Attempt, err error) {
	err = s.InTx(ctx, func(tx *sqlx.Tx) error {
		for _, a := range list {
			made, err := addAttempt(ctx, tx, team, a, "logged")
			if err != nil {
				return err
			}
			out = append(out, made)
		}
		return nil
	})
	return out, err
}

// ChangeAttempt replaces what was entered about an attempt.
func (s *Store) ChangeAttempt(ctx context.Context, team, id uuid.UUID, a NewAttempt) (Attempt, error) {
	return getNamed[Attempt](ctx, s.DB, "attempt", `UPDATE attempts SET athlete_id = ath.id, event = :event, done_on = CAST(:done_on AS date), session = :session, place = :place, mark = :mark,
		implement = :implement, condition = :condition, setting = :setting, coach_focus = :coach_focus, injury_note = :injury_note, variant = :variant, wind = :wind, foul = :foul, note = :note, turns = :turns, run_up = :run_up, goal = :goal, taken_at = :taken_at, felt = :felt, kept = :kept, words = :words, indoor = :indoor,
		model_n = CASE WHEN event = :event THEN model_n ELSE (SELECT COALESCE(max(n), 0) FROM team_models WHERE team_id = :team AND event = :event) END
		FROM athletes ath WHERE attempts.team_id = :team AND attempts.id = :id AND ath.id = :athlete_id AND ath.team_id = :team
		RETURNING `+attemptColumns, fields(a, map[string]any{"team": team, "id": id}))
}

// SetState moves an attempt through the queue.
func (s *Store) SetState(ctx context.Context, team, id uuid.UUID, state string) (Attempt, error) {
	return get[Attempt](ctx, s.DB, "attempt", `UPDATE attempts SET state = $3 WHERE team_id = $1 AND id = $2 RETURNING `+attemptColumns, team, id, state)
}

// QueueItem is one line of the queue.
type QueueItem struct {
	ID         uuid.UUID  `db:"id" json:"id"`
	State      string     `db:"state" json:"state" enum:"new,in_work,ready,sent"`
	AthleteID  uuid.UUID  `db:"athlete_id" json:"athlete_id"`
	Athlete    string     `db:"athlete" json:"athlete"`
	Event      string     `db:"event" json:"event"`
	DoneOn     string     `db:"done_on" json:"done_on"`
	Session    string     `db:"session" json:"session"`
	Mark       string     `db:"mark" json:"mark"`
	Clips      int        `db:"clips" json:"clips"`
	Busy       int        `db:"busy" json:"busy" doc:"clips still being imported"`
	Drafting   float64    `db:"drafting" json:"drafting" doc:"how far the drafts of its clips are, 0 to 1; 1 when none is being made"`
	Troubled   int        `db:"troubled" json:"troubled" doc:"clips that failed or need an answer"`
	Poster     *uuid.UUID `db:"poster" json:"poster,omitempty" required:"false" doc:"clip whose poster stands for the attempt"`
	Cue        string     `db:"cue" json:"cue" doc:"the cue given on this attempt"`
	LastCue    string     `db:"last_cue" json:"last_cue" doc:"the cue given on the attempt before"`
	PosterSeed string     `db:"poster_seed" json:"poster_seed" doc:"changes when the poster does"`
	Born       int        `db:"born" json:"born" doc:"the athlete's year of birth"`
	Hand       string     `db:"throwing_hand" json:"-"`
	Foul       string     `db:"foul" json:"foul"`
	Found      *int       `db:"found" json:"found,omitempty" required:"false" doc:"sure findings, where the tool has looked"`
	FirstCause string     `db:"first_cause" json:"first_cause" doc:"name of the first of them"`
	Questions  int        `db:"questions" json:"questions" doc:"that the tool still has"`
	Carries    string     `db:"carries" json:"carries" doc:"what the clip does not tell, in a few words"`
	Seconds    int        `db:"seconds" json:"seconds" doc:"hand time that this coach has spent"`
	Seen       bool       `db:"seen" json:"seen" doc:"the athlete has looked at what was sent"`
	Answer     string     `db:"answer" json:"answer" doc:"what the athlete wrote back"`
}

// Stamp is another after every change of what [Store.Queue] shows a team.
func (s *Store) Stamp(ctx context.Context, team uuid.UUID) (int64, error) {
	return get[int64](ctx, s.DB, "team", `SELECT COALESCE((SELECT n FROM team_stamps WHERE team_id = $1), 0)`, team)
}

// QueueView is which lines of the queue are asked for, and in which order.
type QueueView struct {
	State  string `query:"state" enum:"new,in_work,ready,sent," doc:"one state alone; all when empty"`
	Event  string `query:"event" maxLength:"40" doc:"one event alone"`
	Find   string `query:"find" maxLength:"100" doc:"words that athlete, event, session, mark or cue hold"`
	By     string `query:"by" enum:"next,newest,age,athlete,event,findings," doc:"order; what is next when empty"`
	Offset int    `query:"offset" minimum:"0" maximum:"1000000"`
	Limit  int    `query:"limit" minimum:"0" maximum:"200" doc:"lines; 60 when 0"`
	Today  string `query:"today" maxLength:"10" doc:"the day whose hand time is added up"`
}

// EventName is an event as it is called, in the order in which events are listed.
type EventName struct{ ID, Name string }

// QueuePage is a part of the queue.
type QueuePage struct {
	Lines  []QueueItem    `json:"lines"`
	Total  int            `json:"total" doc:"lines that fit"`
	States map[string]int `json:"states" doc:"lines that fit but for their state, by state"`
	Spent  int            `json:"spent" doc:"hand time of this coach on attempts of the day, s"`
}

// usualPage is how many lines are given when nobody says.
const usualPage = 60

// queueOrders are what lines are put in order by; the newest first where that leaves it open.
var queueOrders = map[string]string{
	"":         "CASE a.state WHEN 'new' THEN 0 WHEN 'in_work' THEN 1 WHEN 'ready' THEN 2 ELSE 3 END",
	"newest":   "true",
	"age":      "p.born DESC, p.name",
	"athlete":  "p.name",
	"event":    "array_position(CAST(:events AS text[]), a.event), p.name",
	"findings": "COALESCE(CASE WHEN jsonb_typeof(sm.value->'findings') = 'array' THEN jsonb_array_length(sm.value->'findings') END, -1) DESC",
}

// fitting is the SQL of a team's attempts that a view shows; what stands in it by name goes
// into args.
func (v QueueView) fitting(names []EventName, args map[string]any) (where string) {
	where = "a.team_id = :team AND a.state <> 'logged'"
	if v.Event != "" {
		where += " AND a.event = :event"
		args["event"] = v.Event
	}
	for i, word := range strings.Fields(strings.ToLower(v.Find)) {
		name := fmt.Sprintf("word%d", i)
		args[name] = "%" + likely.Replace(word) + "%"
		var called []string
		for _, e := range names {
			if strings.Contains(strings.ToLower(e.Name), word) {
				called = append(called, e.ID)
			}
		}
		args[name+"events"] = called
		where += fmt.Sprintf(` AND (lower(p.name || ' ' || a.session || ' ' || a.mark) LIKE :%[1]s OR a.event = ANY(CAST(:%[1]sevents AS text[]))
			OR EXISTS (SELECT 1 FROM work_items w WHERE w.attempt_id = a.id AND w.kind = 'advice' AND w.key = 'main' AND lower(w.value->>'words') LIKE :%[1]s))`, name)
	}
	return where
}

// likely takes what is special in a pattern for what it is.
var likely = strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`)

// Queue is a page of a team's attempts with what the coach needs to pick the next one.
func (s *Store) Queue(ctx context.Context, team, user uuid.UUID, v QueueView, names []EventName) (QueuePage, error) {
	out := QueuePage{States: map[string]int{}}
	order, ok := queueOrders[strings.TrimPrefix(v.By, "next")]
	if !ok {
		return out, problem.New(problem.Invalid, "There is no order %q.", v.By)
	}
	if v.Limit == 0 {
		v.Limit = usualPage
	}
	args := map[string]any{"team": team, "user": user, "limit": v.Limit, "offset": v.Offset, "today": v.Today, "events": []string{}}
	for _, e := range names {
		args["events"] = append(args["events"].([]string), e.ID)
	}
	where := v.fitting(names, args)
	counts, err := named[struct {
		State string `db:"state"`
		N     int    `db:"n"`
	}](ctx, s.DB, `SELECT a.state, count(*) AS n FROM attempts a JOIN athletes p ON p.id = a.athlete_id WHERE `+where+` GROUP BY a.state`, args)
	if err != nil {
		return out, err
	}
	for _, c := range counts {
		out.States[c.State] = c.N
		if v.State == "" || v.State == c.State {
			out.Total += c.N
		}
	}
	spent, err := named[int](ctx, s.DB, `SELECT COALESCE(sum(ht.seconds), 0) FROM hand_time ht JOIN attempts a ON a.id = ht.attempt_id
		WHERE a.team_id = :team AND ht.user_id = :user AND to_char(a.done_on, 'YYYY-MM-DD') = :today`, args)
	if err != nil {
		return out, err
	}
	out.Spent = spent[0]
	if v.State != "" {
		where += " AND a.state = :state"
		args["state"] = v.State
	}
	// First which lines, then what each of these few says.
	out.Lines, err = named[QueueItem](ctx, s.DB, `
		WITH page AS (
			SELECT a.*, row_number() OVER (ORDER BY `+order+`, a.done_on DESC, a.created_at DESC) AS nth
			FROM attempts a JOIN athletes p ON p.id = a.athlete_id LEFT JOIN summaries sm ON sm.attempt_id = a.id
			WHERE `+where+` ORDER BY nth LIMIT :limit OFFSET :offset)
		SELECT a.id, a.state, a.athlete_id, p.name AS athlete, a.event, to_char(a.done_on, 'YYYY-MM-DD') AS done_on, a.session, a.mark,
			COALESCE(c.clips, 0) AS clips, COALESCE(c.busy, 0) AS busy, COALESCE(c.troubled, 0) AS troubled, COALESCE(dr.progress, 1) AS drafting, c.poster, COALESCE(c.seed, '') AS poster_seed,
			COALESCE((SELECT w.value->>'words' FROM work_items w WHERE w.attempt_id = a.id AND w.kind = 'advice' AND w.key = 'main'), '') AS cue,
			COALESCE((SELECT w.value->>'words' FROM attempts o JOIN work_items w ON w.attempt_id = o.id AND w.kind = 'advice' AND w.key = 'main'
				WHERE o.athlete_id = a.athlete_id AND o.event = a.event AND (o.done_on, o.created_at) < (a.done_on, a.created_at)
				ORDER BY o.done_on DESC, o.created_at DESC LIMIT 1), '') AS last_cue,
			p.born, p.throwing_hand, a.foul, CASE WHEN jsonb_typeof(sm.value->'findings') = 'array' THEN jsonb_array_length(sm.value->'findings') END AS found,
			COALESCE(CASE WHEN jsonb_typeof(sm.value->'findings') = 'array' THEN sm.value->'findings'->0->>'name' END, '') AS first_cause,
			COALESCE(CAST(sm.value->>'questions' AS int), 0) AS questions, COALESCE(sm.value->>'carries', '') AS carries,
			COALESCE(ht.seconds, 0) AS seconds, COALESCE(sh.seen, false) AS seen, COALESCE(sh.answer, '') AS answer
		FROM page a JOIN athletes p ON p.id = a.athlete_id
		LEFT JOIN LATERAL (
			SELECT count(*) AS clips, count(*) FILTER (WHERE state IN ('waiting', 'importing')) AS busy,
				count(*) FILTER (WHERE state = 'failed' OR state = 'ready' AND capture_rate = 0) AS troubled,
				(array_agg(id ORDER BY created_at) FILTER (WHERE width > 0))[1] AS poster,
				min(state) AS seed
			FROM clips WHERE attempt_id = a.id) c ON true
		LEFT JOIN LATERAL (
			SELECT avg(d.progress) AS progress FROM drafts d JOIN clips k ON k.id = d.clip_id WHERE k.attempt_id = a.id AND d.state IN ('waiting', 'drafting')) dr ON true
		LEFT JOIN summaries sm ON sm.attempt_id = a.id
		LEFT JOIN hand_time ht ON ht.attempt_id = a.id AND ht.user_id = :user
		LEFT JOIN LATERAL (
			SELECT bool_or(seen_at IS NOT NULL) AS seen, (array_agg(answer ORDER BY answered_at DESC NULLS LAST))[1] AS answer
			FROM shares WHERE attempt_id = a.id) sh ON true
		ORDER BY a.nth`, args)
	return out, err
}

// NextInQueue is the attempt behind one in a view of the queue, among those that were not sent
// yet, or the first of them; none when there is no other.
func (s *Store) NextInQueue(ctx context.Context, team, id uuid.UUID, v QueueView, names []EventName) (uuid.UUID, error) {
	if _, err := s.Attempt(ctx, team, id); err != nil {
		return uuid.Nil, err
	}
	order, ok := queueOrders[strings.TrimPrefix(v.By, "next")]
	if !ok {
		return uuid.Nil, problem.New(problem.Invalid, "There is no order %q.", v.By)
	}
	args := map[string]any{"team": team, "id": id, "events": []string{}}
	for _, e := range names {
		args["events"] = append(args["events"].([]string), e.ID)
	}
	where := v.fitting(names, args)
	if v.State != "" {
		where += " AND (a.state = :state OR a.id = :id)"
		args["state"] = v.State
	}
	list, err := named[uuid.UUID](ctx, s.DB, `
		WITH list AS (
			SELECT a.id, row_number() OVER (ORDER BY `+order+`, a.done_on DESC, a.created_at DESC) AS nth
			FROM attempts a JOIN athletes p ON p.id = a.athlete_id LEFT JOIN summaries sm ON sm.attempt_id = a.id
			WHERE `+where+` AND (a.state <> 'sent' OR a.id = :id))
		SELECT id FROM list WHERE id <> :id ORDER BY nth < COALESCE((SELECT nth FROM list WHERE id = :id), 0), nth LIMIT 1`, args)
	if err != nil || len(list) == 0 {
		return uuid.Nil, err
	}
	return list[0], nil
}

// Advice is what the athlete is told: one cue with its fault, drill and target.
type Advice struct {
	Fault    string      `json:"fault"`
	Focus    string      `json:"focus" enum:"outward,inward"`
	Words    string      `json:"words" minLength:"1" maxLength:"300"`
	Backfire string      `json:"backfire"`
	Drill    model.Drill `json:"drill"`
	Target   string      `json:"target" doc:"checkpoint whose reading shows whether it worked"`
	// Checkpoint is the target itself when it is of this attempt alone: a
	// should-be that the coach drew.
	Checkpoint *model.Checkpoint `json:"checkpoint,omitempty" required:"false"`
}

// Earlier finds the athlete's last attempt before this one that got a main cue.
func (s *Store) Earlier(ctx context.Context, team uuid.UUID, a Attempt) (Attempt, error) {
	return get[Attempt](ctx, s.DB, "attempt", `SELECT `+attemptColumns+` FROM attempts WHERE team_id = $1 AND athlete_id = $2 AND event = $3
		AND (done_on, created_at) < (CAST($4 AS date), $5) AND EXISTS (SELECT 1 FROM work_items w WHERE w.attempt_id = attempts.id AND w.kind = 'advice' AND w.key = 'main')
		ORDER BY attempts.done_on DESC, created_at DESC LIMIT 1`, team, a.AthleteID, a.Event, a.DoneOn, a.CreatedAt)
}

// RefusedBefore lists the faults that were refused on other attempts of the same
// athlete at the same event, and accepted on none since.
func (s *Store) RefusedBefore(ctx context.Context, team uuid.UUID, a Attempt) ([]string, error) {
	return rows[string](ctx, s.DB, `SELECT key FROM (
			SELECT DISTINCT ON (w.key) w.key, w.value FROM work_items w JOIN attempts o ON o.id = w.attempt_id
			WHERE w.team_id = $1 AND o.team_id = $1 AND o.athlete_id = $2 AND o.event = $3 AND o.id <> $4 AND w.kind = 'finding'
			ORDER BY w.key, o.done_on DESC, o.created_at DESC) last
		WHERE value = '"refused"'::jsonb ORDER BY key`, team, a.AthleteID, a.Event, a.ID)
}

// Followup is what becomes of a cue after it was given.
type Followup struct {
	State    string `json:"state" enum:"training,done,replaced,paused"`
	Recheck  string `json:"recheck" format:"date" doc:"from when on it can be seen whether it worked"`
	Starts   string `json:"starts" format:"date" doc:"first day of the plan"`
	Weeks    int    `json:"weeks"`
	Sessions int    `json:"sessions" doc:"a week"`
}

// Check tells what cannot be.
func (c *Followup) Check() error {
	first, err1 := time.Parse(time.DateOnly, c.Starts)
	check, err2 := time.Parse(time.DateOnly, c.Recheck)
	switch {
	case c.State != "training" && c.State != "done" && c.State != "replaced" && c.State != "paused":
		return problem.New(problem.Invalid, "A cue is in training, done, replaced or paused.")
	case err1 != nil || err2 != nil || check.Before(first):
		return problem.New(problem.Invalid, "A plan begins on a day and is looked at again on the same or a later one.")
	case c.Weeks < 1 || c.Weeks > followup.MostWeeks || c.Sessions < 1 || c.Sessions > followup.MostSessions:
		return problem.New(problem.Invalid, "A plan has 1 to %d weeks with 1 to %d sessions.", followup.MostWeeks, followup.MostSessions)
	}
	return nil
}
