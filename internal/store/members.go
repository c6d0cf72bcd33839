package store

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/internal/problem"
)

// Member is an account as its team sees it.
type Member struct {
	ID        uuid.UUID  `db:"id" json:"id"`
	Name      string     `db:"name" json:"name"`
	Email     string     `db:"email" json:"email"`
	Role      Role       `db:"role" json:"role" enum:"owner,coach,assistant,athlete"`
	CreatedAt time.Time  `db:"created_at" json:"created_at"`
	SeenAt    *time.Time `db:"seen_at" json:"seen_at,omitempty" required:"false" doc:"last seen on any device"`
}

// Members lists a team's accounts, those who may do most first.
func (s *Store) Members(ctx context.Context, team uuid.UUID) ([]Member, error) {
	return rows[Member](ctx, s.DB, `SELECT u.id, u.name, u.email, u.role, u.created_at, (SELECT max(seen_at) FROM signins g WHERE g.user_id = u.id) AS seen_at
		FROM users u WHERE u.team_id = $1 ORDER BY array_position(ARRAY['owner', 'coach', 'assistant', 'athlete'], u.role), lower(u.name), u.id`, team)
}

// withOwner changes accounts of a team and refuses what would leave it without an owner.
func (s *Store) withOwner(ctx context.Context, team uuid.UUID, f func(tx *sqlx.Tx) error) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := get[uuid.UUID](ctx, tx, "team", `SELECT id FROM teams WHERE id = $1 FOR UPDATE`, team); err != nil {
			return err
		}
		if err := f(tx); err != nil {
			return err
		}
		owned, err := get[bool](ctx, tx, "team", `SELECT EXISTS (SELECT 1 FROM users WHERE team_id = $1 AND role = 'owner')`, team)
		if err == nil && !owned {
			err = problem.New(problem.Refused, "A team needs an owner. Make somebody else the owner first, or delete the team.")
		}
		return err
	})
}

// SetRole changes what a coach or assistant may do; an athlete's account stays one.
func (s *Store) SetRole(ctx context.Context, team, user uuid.UUID, role Role) error {
	return s.withOwner(ctx, team, func(tx *sqlx.Tx) error {
		_, err := get[uuid.UUID](ctx, tx, "account", `UPDATE users SET role = $3 WHERE team_id = $1 AND id = $2 AND role <> 'athlete' RETURNING id`, team, user, role)
		return err
	})
}

// RemoveMember deletes an account of a team. What it did on attempts stays.
func (s *Store) RemoveMember(ctx context.Context, team, user uuid.UUID) error {
	return s.withOwner(ctx, team, func(tx *sqlx.Tx) error {
		_, err := get[uuid.UUID](ctx, tx, "account", `DELETE FROM users WHERE team_id = $1 AND id = $2 RETURNING id`, team, user)
		return err
	})
}

// SetPassword replaces what is kept of an account's password and ends its sessions but
// the one that is kept.
func (s *Store) SetPassword(ctx context.Context, user uuid.UUID, hash string, keep uuid.UUID) error {
	return s.InTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := get[uuid.UUID](ctx, tx, "account", `UPDATE users SET password_hash = $2 WHERE id = $1 RETURNING id`, user, hash); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM resets WHERE user_id = $1`, user); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM signins WHERE user_id = $1 AND id <> $2`, user, keep)
		return err
	})
}

// Rehash replaces what is kept of a password that stays the same.
func (s *Store) Rehash(ctx context.Context, user uuid.UUID, hash string) error {
	_, err := s.DB.ExecContext(ctx, `UPDATE users SET password_hash = $2 WHERE id = $1`, user, hash)
	return Explain(err)
}

// Signin is a device on which somebody is signed in.
type Signin struct {
	ID        uuid.UUID `db:"id" json:"id"`
	CreatedAt time.Time `db:"created_at" json:"created_at"`
	SeenAt    time.Time `db:"seen_at" json:"seen_at"`
	Address   string    `db:"address" json:"address"`
	Agent     string    `db:"agent" json:"agent" doc:"what the browser says of itself"`
	Here      bool      `db:"-" json:"here" doc:"this session"`
}

// idleDays is after how many days without a visit a session is over.
const idleDays = 14

// AddSignin notes a new session.
func (s *Store) AddSignin(ctx context.Context, user uuid.UUID, address, agent string) (uuid.UUID, error) {
	return get[uuid.UUID](ctx, s.DB, "account", `INSERT INTO signins (user_id, address, agent) VALUES ($1, $2, $3) RETURNING id`, user, address, agent)
}

// UserBySignin finds the account of a session that is not over, and notes that it was
// seen, to the minute.
func (s *Store) UserBySignin(ctx context.Context, id uuid.UUID) (User, error) {
	type seen struct {
		User
		SeenAt time.Time `db:"seen_at"`
	}
	u, err := get[seen](ctx, s.DB, "session", `SELECT u.id, u.team_id, t.name AS team, u.email, u.name, u.password_hash, u.role, u.directions, u.athlete_id, g.seen_at
		FROM signins g JOIN users u ON u.id = g.user_id JOIN teams t ON t.id = u.team_id WHERE g.id = $1 AND g.seen_at > now() - $2 * interval '1 day'`, id, idleDays)
	if err == nil && time.Since(u.SeenAt) > time.Minute {
		_, err = s.DB.ExecContext(ctx, `UPDATE signins SET seen_at = now() WHERE id = $1`, id)
	}
	return u.User, Explain(err)
}

// Signins lists an account's sessions, last seen first.
func (s *Store) Signins(ctx context.Context, user uuid.UUID) ([]Signin, error) {
	return rows[Signin](ctx, s.DB, `SELECT id, created_at, seen_at, address, agent FROM signins WHERE user_id = $1 AND seen_at > now() - $2 * interval '1 day' ORDER BY seen_at DESC`, user, idleDays)
}

// DropSignin ends one session of an account.
func (s *Store) DropSignin(ctx context.Context, user, id uuid.UUID) error {
	_, err := get[uuid.UUID](ctx, s.DB, "session", `DELETE FROM signins WHERE user_id = $1 AND id = $2 RETURNING id`, user, id)
	return err
}

// DropSignins ends all sessions of an account but one.
func (s *Store) DropSignins(ctx context.Context, user, keep uuid.UUID) error {
	_, err := s.DB.ExecContext(ctx, `DELETE FROM signins WHERE user_id = $1 AND id <> $2`, user, keep)
	return Explain(err)
}

// Invitation is a way to an account of one's own in a team.
type Invitation struct {
	ID        uuid.UUID  `db:"id" json:"id"`
	TeamID    uuid.UUID  `db:"team_id" json:"-"`
	Team      string     `db:"team" json:"team"`
	AthleteID *uuid.UUID `db:"athlete_id" json:"athlete_id,omitempty" required:"false"`
	Athlete   string     `db:"athlete" json:"athlete" doc:"name of the athlete whose account it will be; empty for coaches"`
	Role      Role       `db:"role" json:"role" enum:"coach,assistant,athlete"`
	Email     string     `db:"email" json:"email" doc:"to whom it was sent; empty when it was handed over as a link"`
	CreatedAt time.Time  `db:"created_at" json:"created_at"`
	ExpiresAt time.Time  `db:"expires_at" json:"expires_at"`
}

const invitationColumns = `i.id, i.team_id, t.name AS team, i.athlete_id, COALESCE(a.name, '') AS athlete, i.role, i.email, i.created_at, i.expires_at
	FROM invitations i JOIN teams t ON t.id = i.team_id LEFT JOIN athletes a ON a.id = i.athlete_id`

// mostInvitations is how many may be open in a team at once.
const mostInvitations = 300

// Invite keeps an invitation under the hash of its secret.
func (s *Store) Invite(ctx context.Context, i Invitation, hash []byte) error {
	n, err := get[int](ctx, s.DB, "team", `SELECT count(*) FROM invitations WHERE team_id = $1 AND expires_at > now()`, i.TeamID)
	if err != nil {
		return err
	}
	if n >= mostInvitations {
		return problem.New(problem.TooMany, "Too many invitations are open. Take some back, or wait until they are used.")
	}
	if i.AthleteID != nil {
		_, err = get[uuid.UUID](ctx, s.DB, "athlete", `INSERT INTO invitations (secret_hash, team_id, athlete_id, role, email, expires_at) SELECT $3, team_id, id, 'athlete', $4, $5 FROM athletes
			WHERE team_id = $1 AND id = $2 RETURNING id`, i.TeamID, *i.AthleteID, hash, i.Email, i.ExpiresAt)
		return err
	}
	_, err = s.DB.ExecContext(ctx, `INSERT INTO invitations (secret_hash, team_id, role, email, expires_at) VALUES ($1, $2, $3, $4, $5)`, hash, i.TeamID, i.Role, i.Email, i.ExpiresAt)
	return Explain(err)
}

// Invitations lists those of a team that are open.
func (s *Store) Invitations(ctx context.Context, team uuid.UUID) ([]Invitation, error) {
	return rows[Invitation](ctx, s.DB, `SELECT `+invitationColumns+` WHERE i.team_id = $1 AND i.expires_at > now() ORDER BY i.created_at DESC`, team)
}

// InvitationByHash finds an open invitation.
func (s *Store) InvitationByHash(ctx context.Context, hash []byte) (Invitation, error) {
	return get[Invitation](ctx, s.DB, "invitation", `SELECT `+invitationColumns+` WHERE i.secret_hash = $1 AND i.expires_at > now()`, hash)
}

// DropInvitation takes an invitation back.
func (s *Store) DropInvitation(ctx context.Context, team, id uuid.UUID) error {
	_, err := get[uuid.UUID](ctx, s.DB, "invitation", `DELETE FROM invitations WHERE team_id = $1 AND id = $2 RETURNING id`, team, id)
	return err
}

// Join makes an account from an invitation, which is used up by it.
func (s *Store) Join(ctx context.Context, hash []byte, name, email, password string) (User, error) {
	var id uuid.UUID
	err := s.InTx(ctx, func(tx *sqlx.Tx) error {
		i, err := get[Invitation](ctx, tx, "invitation", `SELECT `+invitationColumns+` WHERE i.secret_hash = $1 AND i.expires_at > now() FOR UPDATE OF i`, hash)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM invitations WHERE secret_hash = $1`, hash); err != nil {
			return err
		}
		if i.Athlete != "" {
			name = i.Athlete
		}
		err = tx.GetContext(ctx, &id, `INSERT INTO users (team_id, name, email, password_hash, role, athlete_id) VALUES ($1, $2, $3, $4, $5, $6) RETURNING id`, i.TeamID, name, email, password, i.Role, i.AthleteID)
		return taken(err)
	})
	if err != nil {
		return User{}, err
	}
	return s.UserByID(ctx, id)
}

// AddReset keeps a way to a new password under the hash of its secret.
func (s *Store) AddReset(ctx context.Context, user uuid.UUID, hash []byte, until time.Time) error {
	_, err := s.DB.ExecContext(ctx, `INSERT INTO resets (secret_hash, user_id, expires_at) VALUES ($1, $2, $3)`, hash, user, until)
	return Explain(err)
}

// ResetOf tells whose a way to a new password is; [Store.SetPassword] uses it up.
func (s *Store) ResetOf(ctx context.Context, hash []byte) (uuid.UUID, error) {
	return get[uuid.UUID](ctx, s.DB, "link", `SELECT user_id FROM resets WHERE secret_hash = $1 AND expires_at > now()`, hash)
}

// Letter is a letter of a server without a mail server.
type Letter struct {
	ID        uuid.UUID `db:"id" json:"id"`
	CreatedAt time.Time `db:"created_at" json:"created_at"`
	To        string    `db:"addressee" json:"to"`
	Subject   string    `db:"subject" json:"subject"`
	Body      string    `db:"body" json:"body"`
}

// mostLetters is how many are kept.
const mostLetters = 200

// AddLetter keeps a letter, and the newest of the others.
func (s *Store) AddLetter(ctx context.Context, to, subject, body string) error {
	_, err := s.DB.ExecContext(ctx, `WITH made AS (INSERT INTO letters (addressee, subject, body) VALUES ($1, $2, $3) RETURNING id)
		DELETE FROM letters WHERE id NOT IN (SELECT id FROM letters ORDER BY created_at DESC LIMIT $4)`, to, subject, body, mostLetters)
	return Explain(err)
}

// Letters lists them, newest first.
func (s *Store) Letters(ctx context.Context) ([]Letter, error) {
	return rows[Letter](ctx, s.DB, `SELECT id, created_at, addressee, subject, body FROM letters ORDER BY created_at DESC`)
}

// Event is one line of the audit: who did what that lets something in or out.
type Event struct {
	At      time.Time  `db:"at" json:"at"`
	TeamID  *uuid.UUID `db:"team_id" json:"-"`
	UserID  *uuid.UUID `db:"user_id" json:"-"`
	Who     string     `db:"who" json:"who" doc:"name of the account; empty when it is gone or there was none"`
	What    string     `db:"what" json:"what"`
	About   string     `db:"about" json:"about" doc:"id or e-mail of what it was about"`
	Address string     `db:"address" json:"address"`
	Request string     `db:"request" json:"request"`
}

// Audit writes a line.
func (s *Store) Audit(ctx context.Context, e Event) error {
	_, err := s.DB.ExecContext(ctx, `INSERT INTO audit (team_id, user_id, what, about, address, request) VALUES ($1, $2, $3, $4, $5, $6)`, e.TeamID, e.UserID, e.What, e.About, e.Address, e.Request)
	return Explain(err)
}

// Audited lists a team's lines, newest first.
func (s *Store) Audited(ctx context.Context, team uuid.UUID) ([]Event, error) {
	return rows[Event](ctx, s.DB, `SELECT e.at, e.team_id, e.user_id, COALESCE(u.name, '') AS who, e.what, e.about, e.address, e.request
		FROM audit e LEFT JOIN users u ON u.id = e.user_id WHERE e.team_id = $1 ORDER BY e.at DESC, e.id DESC LIMIT 500`, team)
}

// auditDays is how long the audit is kept.
const auditDays = 400

// Tidy forgets what is over: old lines of the audit, links and sessions.
func (s *Store) Tidy(ctx context.Context) error {
	for _, q := range []string{
		fmt.Sprintf(`DELETE FROM audit WHERE at < now() - interval '%d days'`, auditDays),
		`DELETE FROM resets WHERE expires_at < now()`,
		`DELETE FROM invitations WHERE expires_at < now()`,
		`DELETE FROM team_stamps WHERE NOT EXISTS (SELECT 1 FROM teams WHERE id = team_id)`,
		fmt.Sprintf(`DELETE FROM signins WHERE seen_at < now() - interval '%d days'`, idleDays),
	} {
		if _, err := s.DB.ExecContext(ctx, q); err != nil {
			return Explain(err)
		}
	}
	return nil
}

// TeamRow is a team as the operator sees it.
type TeamRow struct {
	ID        uuid.UUID `db:"id"`
	Name      string    `db:"name"`
	CreatedAt time.Time `db:"created_at"`
	Accounts  int       `db:"accounts"`
	Athletes  int       `db:"athletes"`
	Clips     int       `db:"clips"`
	Bytes     int64     `db:"bytes"`
	Quota     int64     `db:"quota_bytes"`
	KeepDays  int       `db:"keep_days"`
}

// Teams lists all teams.
func (s *Store) Teams(ctx context.Context) ([]TeamRow, error) {
	return rows[TeamRow](ctx, s.DB, `SELECT t.id, t.name, t.created_at, t.quota_bytes, t.keep_days, (SELECT count(*) FROM users WHERE team_id = t.id) AS accounts,
		(SELECT count(*) FROM athletes WHERE team_id = t.id) AS athletes, (SELECT count(*) FROM clips WHERE team_id = t.id) AS clips,
		(SELECT COALESCE(sum(media_bytes), 0) FROM clips WHERE team_id = t.id) AS bytes FROM teams t ORDER BY lower(t.name), t.created_at`)
}

// Room is what a team's clips take and how long they stay; the operator sets the bounds.
type Room struct {
	Used     int64 `db:"used" json:"used" doc:"bytes"`
	Quota    int64 `db:"quota_bytes" json:"quota" doc:"bytes; 0: no limit"`
	KeepDays int   `db:"keep_days" json:"keep_days" doc:"days after which a clip goes by itself; 0: never"`
}

// Room tells a team its room.
func (s *Store) Room(ctx context.Context, team uuid.UUID) (Room, error) {
	return get[Room](ctx, s.DB, "team", `SELECT (SELECT COALESCE(sum(GREATEST(media_bytes, bytes)), 0) FROM clips WHERE team_id = teams.id) AS used, quota_bytes, keep_days FROM teams WHERE id = $1`, team)
}

// SetLimits sets a team's room for media (bytes, 0: no limit) and the days after which
// its clips go by themselves (0: never).
func (s *Store) SetLimits(ctx context.Context, team uuid.UUID, quota int64, keepDays int) error {
	_, err := get[uuid.UUID](ctx, s.DB, "team", `UPDATE teams SET quota_bytes = $2, keep_days = $3 WHERE id = $1 RETURNING id`, team, quota, keepDays)
	return err
}

// Accounts lists all accounts of all teams.
func (s *Store) Accounts(ctx context.Context) ([]User, error) {
	return rows[User](ctx, s.DB, userColumns+`ORDER BY lower(t.name), lower(u.email)`)
}

// AddUser makes an account in a team without an invitation; for the operator.
func (s *Store) AddUser(ctx context.Context, team uuid.UUID, name, email, hash string, role Role) (User, error) {
	id, err := get[uuid.UUID](ctx, s.DB, "team", `INSERT INTO users (team_id, name, email, password_hash, role) SELECT id, $2, $3, $4, $5 FROM teams WHERE id = $1 RETURNING id`, team, name, email, hash, role)
	if err != nil {
		return User{}, taken(err)
	}
	return s.UserByID(ctx, id)
}
