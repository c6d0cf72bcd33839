package api

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"neokinema/core/azimuth"
	"neokinema/internal/account"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Me tells who is signed in and what this server offers.
type Me struct {
	User    *store.User `json:"user,omitempty" required:"false"`
	Demo    bool        `json:"demo" doc:"one click signs in"`
	SignUp  string      `json:"sign_up" enum:"open,invitation,closed" doc:"who may begin a team"`
	Letters bool        `json:"letters" doc:"this server sends letters"`
	Sent    bool        `json:"sent" doc:"nobody is signed in yet: a letter with a link was sent"`
	Filling *Filling    `json:"filling,omitempty" required:"false" doc:"while the demo's club is being filled"`
}

// Filling tells how many attempts are there, of how many.
type Filling struct {
	Done int `json:"done"`
	Of   int `json:"of"`
}

func (s *server) me(u *store.User) Me {
	m := Me{User: u, Demo: s.DemoUser != "", SignUp: string(s.Account.SignUp), Letters: s.Account.Mail != nil}
	if s.Filling != nil {
		if done, of := s.Filling(); done < of {
			m.Filling = &Filling{done, of}
		}
	}
	return m
}

type empty struct{}

type bodyOf[T any] struct{ Body T }

// ByID names one thing in a path.
type ByID struct {
	ID uuid.UUID `path:"id"`
}

func answer[T any](v T, err error) (*bodyOf[T], error) { return &bodyOf[T]{v}, err }

func (s *server) people(api huma.API) {
	register(s, api, "GET", "/me", "me", "Who is signed in", func(ctx context.Context, _ *empty) (*bodyOf[Me], error) {
		if u := who(ctx); u.ID != uuid.Nil {
			return answer(s.me(&u), nil)
		}
		return answer(s.me(nil), nil)
	})
	register(s, api, "PUT", "/me/directions", "setDirections", "Choose how directions seen from above are named", func(ctx context.Context, in *struct {
		Body struct {
			Directions azimuth.Language `json:"directions" enum:"degrees,clock-back,clock-throw"`
		}
	}) (*empty, error) {
		return nil, s.Store.SetDirections(ctx, who(ctx).ID, in.Body.Directions)
	})
	register(s, api, "POST", "/sign-in", "signIn", "Sign in", func(ctx context.Context, in *struct {
		Address
		Body account.Credentials
	}) (*session, error) {
		u, err := s.Account.SignIn(ctx, in.Body, in.Caller)
		var p *problem.Problem
		if errors.As(err, &p) && p.Kind != problem.Unavailable {
			s.write(ctx, "sign-in refused", s.attempted(ctx, in.Body.Email), in.Caller.Address)
		}
		return s.welcome(ctx, in.Address, u, err)
	})
	register(s, api, "POST", "/demo-sign-in", "demoSignIn", "Sign in to the demo", func(ctx context.Context, in *struct{ Address }) (*session, error) {
		if s.DemoUser == "" {
			return nil, problem.New(problem.Refused, "This server has no demo. Sign in with your account.")
		}
		u, err := s.Store.UserByEmail(ctx, s.DemoUser)
		return s.welcome(ctx, in.Address, u, err)
	})
	register(s, api, "POST", "/teams", "beginTeam", "Begin a team with its first coach", func(ctx context.Context, in *struct {
		Address
		Body account.NewTeam
	}) (*session, error) {
		u, sent, err := s.Account.Begin(ctx, in.Body, in.Caller.Address)
		if err == nil && sent {
			m := s.me(nil)
			m.Sent = true
			return &session{Body: m}, nil
		}
		return s.welcome(ctx, in.Address, u, err)
	})
	register(s, api, "POST", "/teams/confirm", "confirmTeam", "Begin the team that a letter's link stands for", func(ctx context.Context, in *struct {
		Address
		Body struct {
			Token string `json:"token" maxLength:"4000"`
		}
	}) (*session, error) {
		u, err := s.Account.Confirm(ctx, in.Body.Token)
		return s.welcome(ctx, in.Address, u, err)
	})
	register(s, api, "POST", "/sign-out", "signOut", "Sign out", func(ctx context.Context, _ *empty) (*empty, error) {
		if err := s.Store.DropSignin(ctx, who(ctx).ID, here(ctx)); err != nil {
			return nil, err
		}
		return nil, s.sessions.Destroy(ctx)
	})
	register(s, api, "POST", "/forgot", "forgot", "Send a way to a new password", func(ctx context.Context, in *struct {
		Address
		Body struct {
			Email string `json:"email" format:"email" maxLength:"200"`
		}
	}) (*empty, error) {
		return nil, s.Account.Forgot(ctx, in.Body.Email, in.Caller.Address)
	})
	register(s, api, "POST", "/reset", "reset", "Choose a new password by a link, and sign in", func(ctx context.Context, in *struct {
		Address
		Body struct {
			Secret   string `json:"secret" maxLength:"100"`
			Password string `json:"password" minLength:"10" maxLength:"200"`
		}
	}) (*session, error) {
		u, err := s.Account.Reset(ctx, in.Body.Secret, in.Body.Password, in.Caller.Address)
		return s.welcome(ctx, in.Address, u, err)
	})
	register(s, api, "PUT", "/me/password", "changePassword", "Change the own password; other sessions end", func(ctx context.Context, in *struct {
		Body struct {
			Old string `json:"old" maxLength:"200"`
			New string `json:"new" minLength:"10" maxLength:"200"`
		}
	}) (*empty, error) {
		return nil, s.Account.ChangePassword(ctx, who(ctx), in.Body.Old, in.Body.New, here(ctx))
	})
	register(s, api, "GET", "/me/sessions", "sessions", "Where this account is signed in", func(ctx context.Context, _ *empty) (*bodyOf[[]store.Signin], error) {
		list, err := s.Store.Signins(ctx, who(ctx).ID)
		for i := range list {
			list[i].Here = list[i].ID == here(ctx)
		}
		return answer(list, err)
	})
	register(s, api, "DELETE", "/me/sessions/{id}", "endSession", "Sign out on one device", func(ctx context.Context, in *ByID) (*empty, error) {
		return nil, s.Store.DropSignin(ctx, who(ctx).ID, in.ID)
	})
	register(s, api, "POST", "/sign-out-elsewhere", "signOutElsewhere", "Sign out everywhere but here", func(ctx context.Context, _ *empty) (*empty, error) {
		return nil, s.Store.DropSignins(ctx, who(ctx).ID, here(ctx))
	})
	register(s, api, "POST", "/me/delete", "deleteMe", "Leave the team and delete the own account", func(ctx context.Context, in *struct {
		Body struct {
			Password string `json:"password" maxLength:"200"`
		}
	}) (*empty, error) {
		u := who(ctx)
		if err := s.Account.Prove(ctx, u, in.Body.Password); err != nil {
			return nil, err
		}
		if err := s.Store.RemoveMember(ctx, u.TeamID, u.ID); err != nil {
			return nil, err
		}
		return nil, s.sessions.Destroy(ctx)
	})
	register(s, api, "GET", "/athletes", "athletes", "All athletes of the team", func(ctx context.Context, _ *empty) (*bodyOf[[]store.Athlete], error) {
		return answer(s.Store.Athletes(ctx, who(ctx).TeamID))
	})
	register(s, api, "POST", "/athletes", "addAthlete", "Add an athlete", func(ctx context.Context, in *bodyOf[store.NewAthlete]) (*bodyOf[store.Athlete], error) {
		if err := plausible(in.Body); err != nil {
			return nil, err
		}
		return answer(s.Store.AddAthlete(ctx, who(ctx).TeamID, in.Body))
	})
	register(s, api, "PUT", "/athletes/{id}", "changeAthlete", "Change an athlete", func(ctx context.Context, in *struct {
		ByID
		Body store.NewAthlete
	}) (*bodyOf[store.Athlete], error) {
		if err := plausible(in.Body); err != nil {
			return nil, err
		}
		return answer(s.Store.ChangeAthlete(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
}

func plausible(a store.NewAthlete) error {
	if a.Born > time.Now().Year() {
		return problem.New(problem.Invalid, "The year of birth lies in the future. Check it.")
	}
	return nil
}

// Address is where a caller comes from: the network address of the connection (a trusted
// proxy may tell another), and what the browser has kept from an earlier visit.
type Address struct{ account.Caller }

// Resolve is called by huma.
func (a *Address) Resolve(ctx huma.Context) []error {
	a.Caller = account.Caller{Address: ctx.RemoteAddr(), Agent: cut(ctx.Header("User-Agent"), 200)}
	if c, err := huma.ReadCookie(ctx, deviceCookie); err == nil {
		a.Device = c.Value
	}
	return nil
}

var _ huma.Resolver = (*Address)(nil)

func cut(s string, most int) string {
	if r := []rune(strings.ToValidUTF8(s, "")); len(r) > most {
		return string(r[:most])
	}
	return strings.ToValidUTF8(s, "")
}

// deviceCookie tells that somebody was signed in on this browser; it lets nobody in.
const deviceCookie = "neokinema-device"

// session is the answer to somebody who comes in.
type session struct {
	Device *http.Cookie `header:"Set-Cookie"`
	Body   Me
}

// here is the session of a request.
func here(ctx context.Context) uuid.UUID {
	id, _ := ctx.Value(signinKey{}).(uuid.UUID)
	return id
}

// attempted is the note of a try to sign in: to the team whose account was meant, so
// that its owner sees it.
func (s *server) attempted(ctx context.Context, email string) *note {
	n := &note{about: cut(email, 200)}
	if u, err := s.Store.UserByEmail(ctx, email); err == nil {
		n.team, n.user = &u.TeamID, &u.ID
	}
	return n
}

// welcome begins a session. A fresh token keeps a planted one from being used.
func (s *server) welcome(ctx context.Context, from Address, u store.User, err error) (*session, error) {
	if err != nil {
		return nil, err
	}
	id, err := s.Store.AddSignin(ctx, u.ID, from.Caller.Address, from.Agent)
	if err != nil {
		return nil, err
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, err
	}
	s.sessions.Put(ctx, sessionKey, id.String())
	n := noted(ctx)
	n.team, n.user = &u.TeamID, &u.ID
	return &session{Body: s.me(&u), Device: &http.Cookie{Name: deviceCookie, Value: s.Account.Device(u.ID), Path: "/api/sign-in", MaxAge: 400 * 24 * 3600, HttpOnly: true, Secure: s.SecureCookies, SameSite: http.SameSiteLaxMode}}, nil
}
