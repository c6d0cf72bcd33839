package store

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"errors"
	"slices"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"

	"neokinema/core/azimuth"
	"neokinema/core/body"
	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/internal/problem"
)

// Role is what an account may do in its team.
type Role string

// The roles, from most to least. An assistant looks and places points but shares
// nothing and deletes nothing; an athlete sees what was sent.
const (
	Owner     Role = "owner"
	Coach     Role = "coach"
	Assistant Role = "assistant"
	AthleteOf Role = "athlete"
)

// User is somebody with an account.
type User struct {
	ID       uuid.UUID `db:"id" json:"id"`
	TeamID   uuid.UUID `db:"team_id" json:"team_id"`
	Team     string    `db:"team" json:"team"`
	Email    string    `db:"email" json:"email"`
	Name     string    `db:"name" json:"name"`
	Password string    `db:"password_hash" json:"-"`
	Role     Role      `db:"role" json:"role" enum:"owner,coach,assistant,athlete"`
	// AthleteID is set for an athlete's own account, which sees what was sent to it.
	AthleteID *uuid.UUID `db:"athlete_id" json:"athlete_id,omitempty" required:"false"`
	// Directions seen from above, in the user's own language.
	Directions azimuth.Language `db:"directions" json:"directions" enum:"degrees,clock-back,clock-throw"`
}

const userColumns = `SELECT u.id, u.team_id, t.name AS team, u.email, u.name, u.password_hash, u.role, u.directions, u.athlete_id FROM users u JOIN teams t ON t.id = u.team_id `

// UserByEmail finds an account, whatever its team.
func (s *Store) UserByEmail(ctx context.Context, email string) (User, error) {
	return get[User](ctx, s.DB, "account", userColumns+`WHERE lower(u.email) = lower($1)`, email)
}

// UserByID finds an account.
func (s *Store) UserByID(ctx context.Context, id uuid.UUID) (User, error) {
	return get[User](ctx, s.DB, "account", userColumns+`WHERE u.id = $1`, id)
}

// AddTeam makes a team with its first account.
func (s *Store) AddTeam(ctx context.Context, team, name, email, hash string) (User, error) {
	var id uuid.UUID
	err := s.InTx(ctx, func(tx *sqlx.Tx) error {
		var teamID uuid.UUID
		if err := tx.GetContext(ctx, &teamID, `INSERT INTO teams (name) VALUES ($1) RETURNING id`, team); err != nil {
			return err
		}
		err := tx.GetContext(ctx, &id, `INSERT INTO users (team_id, name, email, password_hash, role) VALUES ($1, $2, $3, $4, 'owner') RETURNING id`, teamID, name, email, hash)
		return taken(err)
	})
	if err != nil {
		return User{}, err
	}
	return s.UserByID(ctx, id)
}

// ErrTaken is the problem of an e-mail that has an account already.
var ErrTaken = problem.New(problem.Invalid, "This e-mail cannot be used for a new account. If it is yours, sign in, or ask for a new password.")

// taken tells an e-mail that has an account already.
func taken(err error) error {
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.ConstraintName == "users_email" {
		return ErrTaken
	}
	return err
}

// NewAthlete is what a coach enters about a person.
type NewAthlete struct {
	Name         string    `db:"name" json:"name" minLength:"1" maxLength:"120"`
	Born         int       `db:"born" json:"born" minimum:"1900" maximum:"2100" doc:"year of birth"`
	Sex          body.Sex  `db:"sex" json:"sex" enum:"female,male" doc:"for body proportions only"`
	Height       float64   `db:"height" json:"height" minimum:"0.8" maximum:"2.5" doc:"standing height, m"`
	Mass         float64   `db:"mass" json:"mass" minimum:"15" maximum:"250" doc:"kg"`
	FrontLeg     body.Side `db:"front_leg" json:"front_leg" enum:"left,right" doc:"leg in the front block"`
	ThrowingHand body.Side `db:"throwing_hand" json:"throwing_hand" enum:"left,right"`
	TakeoffLeg   body.Side `db:"takeoff_leg" json:"takeoff_leg" enum:"left,right"`
	Begun        Begun     `db:"begun" json:"begun,omitempty" required:"false" doc:"year in which each event was begun, by event"`
	Aim          string    `db:"aim" json:"aim,omitempty" required:"false" maxLength:"300" doc:"what the season is for"`
	ConsentBy    string    `db:"consent_by" json:"consent_by,omitempty" required:"false" maxLength:"200" doc:"guardian who allowed that clips of this minor are shared"`
	ConsentOn    *string   `db:"consent_on" json:"consent_on,omitempty" required:"false" format:"date"`
}

// Athlete is a person whose attempts are looked at.
type Athlete struct {
	ID uuid.UUID `db:"id" json:"id"`
	NewAthlete
}

// Minor tells whether somebody may be under age on a day: only the year of birth is
// known, so the whole year in which one comes of age counts.
func (a NewAthlete) Minor(year int) bool { return sport.Minor(a.Born, year) }

// Begun are years in which somebody began events.
type Begun map[string]int

// Value writes them as JSON.
func (b Begun) Value() (driver.Value, error) {
	if b == nil {
		return "{}", nil
	}
	raw, err := json.Marshal(map[string]int(b))
	return string(raw), err
}

// Scan reads them from JSON.
func (b *Begun) Scan(src any) error {
	var j jsonColumn[map[string]int]
	if err := j.Scan(src); err != nil {
		return err
	}
	*b = nil
	if j.V != nil && len(*j.V) > 0 {
		*b = *j.V
	}
	return nil
}

// Check refuses years that nobody means.
func (b Begun) Check(born int) error {
	for event, year := range b {
		if !slices.Contains(sport.IDs(), event) {
			return problem.New(problem.Invalid, "There is no event “%s”.", event)
		}
		if year < born || year > born+100 {
			return problem.New(problem.Invalid, "%s cannot have been begun in %d by somebody born in %d.", sport.Of(event).Name, year, born)
		}
	}
	return nil
}

// Years is for how many years somebody has done an event in a year; [model.Unknown] where nobody
// has said.
func (a NewAthlete) Years(event string, year int) int {
	if begun, ok := a.Begun[event]; ok && begun <= year {
		return year - begun
	}
	return model.Unknown
}

// Body is what the computation needs.
func (a NewAthlete) Body() body.Person {
	return body.Person{Sex: a.Sex, Height: a.Height, Mass: a.Mass, FrontLeg: a.FrontLeg, ThrowingHand: a.ThrowingHand, TakeoffLeg: a.TakeoffLeg}
}

const athleteColumns = `id, name, born, sex, height, mass, front_leg, throwing_hand, takeoff_leg, begun, aim, consent_by, to_char(consent_on, 'YYYY-MM-DD') AS consent_on`

// Athletes lists a team's athletes by name.
func (s *Store) Athletes(ctx context.Context, team uuid.UUID) ([]Athlete, error) {
	return rows[Athlete](ctx, s.DB, `SELECT `+athleteColumns+` FROM athletes WHERE team_id = $1 ORDER BY name`, team)
}

// Athlete finds one athlete of a team.
func (s *Store) Athlete(ctx context.Context, team, id uuid.UUID) (Athlete, error) {
	return get[Athlete](ctx, s.DB, "athlete", `SELECT `+athleteColumns+` FROM athletes WHERE team_id = $1 AND id = $2`, team, id)
}

// AddAthlete stores a new athlete.
func (s *Store) AddAthlete(ctx context.Context, team uuid.UUID, a NewAthlete) (Athlete, error) {
	if err := a.Begun.Check(a.Born); err != nil {
		return Athlete{}, err
	}
	return getNamed[Athlete](ctx, s.DB, "athlete", `INSERT INTO athletes (team_id, name, born, sex, height, mass, front_leg, throwing_hand, takeoff_leg, begun, aim, consent_by, consent_on)
		VALUES (:team, :name, :born, :sex, :height, :mass, :front_leg, :throwing_hand, :takeoff_leg, CAST(:begun AS jsonb), :aim, :consent_by, CAST(:consent_on AS date)) RETURNING `+athleteColumns,
		fields(a, map[string]any{"team": team}))
}

// ChangeAthlete replaces what is known of an athlete.
func (s *Store) ChangeAthlete(ctx context.Context, team, id uuid.UUID, a NewAthlete) (Athlete, error) {
	if err := a.Begun.Check(a.Born); err != nil {
		return Athlete{}, err
	}
	return getNamed[Athlete](ctx, s.DB, "athlete", `UPDATE athletes SET name = :name, born = :born, sex = :sex, height = :height, mass = :mass, front_leg = :front_leg,
		throwing_hand = :throwing_hand, takeoff_leg = :takeoff_leg, begun = CAST(:begun AS jsonb), aim = :aim, consent_by = :consent_by, consent_on = CAST(:consent_on AS date) WHERE team_id = :team AND id = :id RETURNING `+athleteColumns,
		fields(a, map[string]any{"team": team, "id": id}))
}

// SetDirections keeps how a user names directions seen from above.
func (s *Store) SetDirections(ctx context.Context, user uuid.UUID, l azimuth.Language) error {
	_, err := s.DB.ExecContext(ctx, `UPDATE users SET directions = $2 WHERE id = $1`, user, l)
	return Explain(err)
}
