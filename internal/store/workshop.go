package store

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"slices"

	"github.com/google/uuid"

	"neokinema/core/sport"
	"neokinema/core/workshop"
	"neokinema/internal/problem"
)

// CalculationVariant is one set of inputs of a question.
type CalculationVariant struct {
	Name   string           `json:"name" maxLength:"60"`
	Values workshop.Values  `json:"values"`
	Path   []workshop.Place `json:"path,omitempty" required:"false" maxItems:"60" doc:"where feet stood in the clip that it was taken from"`
}

// Variants are those of a calculation, up to four beside each other.
type Variants []CalculationVariant

// Value writes them as JSON.
func (v Variants) Value() (driver.Value, error) {
	raw, err := json.Marshal([]CalculationVariant(v))
	return string(raw), err
}

// Scan reads them from JSON.
func (v *Variants) Scan(src any) error {
	var j jsonColumn[[]CalculationVariant]
	if err := j.Scan(src); err != nil {
		return err
	}
	*v = nil
	if j.V != nil {
		*v = *j.V
	}
	return nil
}

// NewCalculation is what a coach keeps of the workshop.
type NewCalculation struct {
	AttemptID *uuid.UUID `db:"attempt_id" json:"attempt_id,omitempty" required:"false" doc:"whose numbers it was fed from, and on whose page it is shown"`
	Event     string     `db:"event" json:"event"`
	Question  string     `db:"question" json:"question" maxLength:"40"`
	Name      string     `db:"name" json:"name" minLength:"1" maxLength:"120"`
	Variants  Variants   `db:"variants" json:"variants" minItems:"1" maxItems:"4"`
	Chosen    int        `db:"chosen" json:"chosen" minimum:"0" maximum:"3" doc:"the variant that is tried"`
	OnPage    bool       `db:"on_page" json:"on_page" doc:"shown on the feedback page of the attempt"`
	MadeOn    string     `db:"made_on" json:"made_on" format:"date"`
}

// Check refuses what cannot be answered.
func (c NewCalculation) Check() error {
	q, ok := workshop.Find(c.Question)
	if !ok || !q.Of(c.Event) || !slices.Contains(sport.IDs(), c.Event) {
		return problem.New(problem.Invalid, "The workshop has no such question at this event. Reload the page.")
	}
	if len(c.Variants) == 0 || len(c.Variants) > 4 || c.Chosen < 0 || c.Chosen >= len(c.Variants) {
		return problem.New(problem.Invalid, "A calculation has one to four variants, one of them chosen.")
	}
	if c.OnPage && c.AttemptID == nil {
		return problem.New(problem.Invalid, "Choose the attempt on whose page it shall stand.")
	}
	for _, v := range c.Variants {
		if _, err := workshop.Ask(c.Question, v.Values, v.Path); err != nil {
			return problem.New(problem.Invalid, "%s Change the input, then keep it.", err.Error())
		}
	}
	return nil
}

// Answer is what the chosen variant comes to.
func (c NewCalculation) Answer() (workshop.Answer, error) {
	v := c.Variants[min(c.Chosen, len(c.Variants)-1)]
	return workshop.Ask(c.Question, v.Values, v.Path)
}

// Calculation is what was kept.
type Calculation struct {
	ID        uuid.UUID `db:"id" json:"id"`
	AthleteID uuid.UUID `db:"athlete_id" json:"athlete_id"`
	NewCalculation
}

const calculationColumns = `id, athlete_id, attempt_id, event, question, name, variants, chosen, on_page, to_char(made_on, 'YYYY-MM-DD') AS made_on`

// Calculations lists those of an athlete, newest first.
func (s *Store) Calculations(ctx context.Context, team, athlete uuid.UUID) ([]Calculation, error) {
	return rows[Calculation](ctx, s.DB, `SELECT `+calculationColumns+` FROM calculations WHERE team_id = $1 AND athlete_id = $2 ORDER BY created_at DESC`, team, athlete)
}

// OnPage lists those that stand on an attempt's feedback page, in the order in which they were kept.
func (s *Store) OnPage(ctx context.Context, team, attempt uuid.UUID) ([]Calculation, error) {
	return rows[Calculation](ctx, s.DB, `SELECT `+calculationColumns+` FROM calculations WHERE team_id = $1 AND attempt_id = $2 AND on_page ORDER BY created_at`, team, attempt)
}

// ofAthlete refuses an attempt of somebody else.
const ofAthlete = `(CAST(:attempt_id AS uuid) IS NULL OR EXISTS (SELECT 1 FROM attempts t WHERE t.team_id = :team AND t.id = CAST(:attempt_id AS uuid) AND t.athlete_id = a.id))`

// AddCalculation keeps one.
func (s *Store) AddCalculation(ctx context.Context, team, athlete uuid.UUID, c NewCalculation) (Calculation, error) {
	return getNamed[Calculation](ctx, s.DB, "athlete", `INSERT INTO calculations (team_id, athlete_id, attempt_id, event, question, name, variants, chosen, on_page, made_on)
		SELECT :team, a.id, CAST(:attempt_id AS uuid), :event, :question, :name, CAST(:variants AS jsonb), :chosen, :on_page, CAST(:made_on AS date)
		FROM athletes a WHERE a.team_id = :team AND a.id = :athlete AND `+ofAthlete+` RETURNING `+calculationColumns,
		fields(c, map[string]any{"team": team, "athlete": athlete}))
}

// ChangeCalculation replaces one.
func (s *Store) ChangeCalculation(ctx context.Context, team, id uuid.UUID, c NewCalculation) (Calculation, error) {
	return getNamed[Calculation](ctx, s.DB, "calculation", `UPDATE calculations SET attempt_id = CAST(:attempt_id AS uuid), event = :event, question = :question, name = :name,
		variants = CAST(:variants AS jsonb), chosen = :chosen, on_page = :on_page, made_on = CAST(:made_on AS date)
		FROM athletes a WHERE calculations.team_id = :team AND calculations.id = :id AND a.team_id = :team AND a.id = calculations.athlete_id AND `+ofAthlete+` RETURNING `+
		`calculations.id, athlete_id, attempt_id, event, question, calculations.name, variants, chosen, on_page, to_char(made_on, 'YYYY-MM-DD') AS made_on`,
		fields(c, map[string]any{"team": team, "id": id}))
}

// DeleteCalculation removes one.
func (s *Store) DeleteCalculation(ctx context.Context, team, id uuid.UUID) error {
	_, err := get[uuid.UUID](ctx, s.DB, "calculation", `DELETE FROM calculations WHERE team_id = $1 AND id = $2 RETURNING id`, team, id)
	return err
}
