package api

import (
	"context"
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
	User *store.User `json:"user,omitempty" required:"false"`
	Demo bool        `json:"demo" doc:"one click signs in"`
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
		m := Me{Demo: s.DemoUser != ""}
		if u := who(ctx); u.ID != uuid.Nil {
			m.User = &u
		}
		return answer(m, nil)
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
	}) (*bodyOf[Me], error) {
		u, err := s.Account.SignIn(ctx, in.Body, in.from)
		return s.welcome(ctx, u, err)
	})
	register(s, api, "POST", "/demo-sign-in", "demoSignIn", "Sign in to the demo", func(ctx context.Context, _ *empty) (*bodyOf[Me], error) {
		if s.DemoUser == "" {
			return nil, problem.New(problem.Refused, "This server has no demo. Sign in with your account.")
		}
		u, err := s.Store.UserByEmail(ctx, s.DemoUser)
		return s.welcome(ctx, u, err)
	})
	register(s, api, "POST", "/teams", "beginTeam", "Begin a team with its first coach", func(ctx context.Context, in *struct {
		Address
		Body account.NewTeam
	}) (*bodyOf[Me], error) {
		u, err := s.Account.Begin(ctx, in.Body, in.from)
		return s.welcome(ctx, u, err)
	})
	register(s, api, "POST", "/sign-out", "signOut", "Sign out", func(ctx context.Context, _ *empty) (*empty, error) {
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

// Address is the network address of a caller, taken from the connection: a
// header could be forged.
type Address struct{ from string }

// Resolve is called by huma.
func (a *Address) Resolve(ctx huma.Context) []error {
	a.from = hostOf(ctx.RemoteAddr())
	return nil
}

var _ huma.Resolver = (*Address)(nil)

// welcome begins a session. A fresh token keeps a planted one from being used.
func (s *server) welcome(ctx context.Context, u store.User, err error) (*bodyOf[Me], error) {
	if err != nil {
		return nil, err
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, err
	}
	s.sessions.Put(ctx, "user", u.ID.String())
	return answer(Me{User: &u, Demo: s.DemoUser != ""}, nil)
}
