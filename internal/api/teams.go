package api

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Invited is an invitation that was made: its secret is told once, for those who hand
// it over themselves.
type Invited struct {
	Secret string `json:"secret"`
	Sent   bool   `json:"sent" doc:"a letter was sent"`
}

// Invitee is what is seen of an invitation by whoever has its link.
type Invitee struct {
	Team    string     `json:"team"`
	Role    store.Role `json:"role" enum:"coach,assistant,athlete"`
	Athlete string     `json:"athlete"`
	Email   string     `json:"email"`
}

// teams registers what a team's people do with each other.
func (s *server) teams(api huma.API) {
	register(s, api, "GET", "/team/members", "members", "Accounts of the team", func(ctx context.Context, _ *empty) (*bodyOf[[]store.Member], error) {
		return answer(s.Store.Members(ctx, who(ctx).TeamID))
	})
	register(s, api, "PUT", "/team/members/{id}", "setRole", "Say what an account may do", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Role store.Role `json:"role" enum:"owner,coach,assistant"`
		}
	}) (*empty, error) {
		return nil, s.Store.SetRole(ctx, who(ctx).TeamID, in.ID, in.Body.Role)
	})
	register(s, api, "DELETE", "/team/members/{id}", "removeMember", "Remove an account from the team", func(ctx context.Context, in *ByID) (*empty, error) {
		return nil, s.Store.RemoveMember(ctx, who(ctx).TeamID, in.ID)
	})
	register(s, api, "POST", "/team/members/{id}/reset", "resetMember", "Make a link to a new password for an account, to be handed over", func(ctx context.Context, in *ByID) (*bodyOf[Secret], error) {
		list, err := s.Store.Members(ctx, who(ctx).TeamID)
		if err != nil {
			return nil, err
		}
		for _, m := range list {
			if m.ID == in.ID {
				secret, err := s.Account.ResetLink(ctx, m.ID)
				return answer(Secret{secret}, err)
			}
		}
		return nil, problem.Missing("account")
	})
	register(s, api, "GET", "/team/invitations", "invitations", "Invitations that are open", func(ctx context.Context, _ *empty) (*bodyOf[[]store.Invitation], error) {
		return answer(s.Store.Invitations(ctx, who(ctx).TeamID))
	})
	register(s, api, "POST", "/team/invitations", "inviteColleague", "Invite somebody to work in the team", func(ctx context.Context, in *struct {
		Body struct {
			Email string     `json:"email" format:"email" maxLength:"200"`
			Role  store.Role `json:"role" enum:"coach,assistant"`
		}
	}) (*bodyOf[Invited], error) {
		secret, sent, err := s.Account.Invite(ctx, who(ctx), in.Body.Email, in.Body.Role)
		noted(ctx).about = in.Body.Email
		return answer(Invited{secret, sent}, err)
	})
	register(s, api, "DELETE", "/team/invitations/{id}", "dropInvitation", "Take an invitation back", func(ctx context.Context, in *ByID) (*empty, error) {
		return nil, s.Store.DropInvitation(ctx, who(ctx).TeamID, in.ID)
	})
	register(s, api, "GET", "/team/room", "room", "What the team's clips take, and how long they stay", func(ctx context.Context, _ *empty) (*bodyOf[store.Room], error) {
		return answer(s.Store.Room(ctx, who(ctx).TeamID))
	})
	register(s, api, "GET", "/team/audit", "audit", "Who came in and what left the house, newest first", func(ctx context.Context, _ *empty) (*bodyOf[[]store.Event], error) {
		return answer(s.Store.Audited(ctx, who(ctx).TeamID))
	})
	register(s, api, "POST", "/team/delete", "deleteTeam", "Delete the team with everybody and everything, for good", func(ctx context.Context, in *struct {
		Body struct {
			Password string `json:"password" maxLength:"200"`
			Team     string `json:"team" maxLength:"120" doc:"its name, typed"`
		}
	}) (*bodyOf[store.Deletion], error) {
		u := who(ctx)
		if in.Body.Team != u.Team {
			return nil, problem.New(problem.Invalid, "Type the name of the team as it stands here: %s.", u.Team)
		}
		if err := s.Account.Prove(ctx, u, in.Body.Password); err != nil {
			return nil, err
		}
		d, err := s.Intake.DeleteTeam(ctx, u.TeamID)
		if err != nil {
			return nil, err
		}
		return answer(d, s.sessions.Destroy(ctx))
	})
	register(s, api, "GET", "/letters", "letters", "Letters of the demo, which has no mail server", func(ctx context.Context, _ *empty) (*bodyOf[[]store.Letter], error) {
		if s.DemoUser == "" {
			return nil, problem.New(problem.Refused, "This server has a mailbox of its own nowhere; letters go to the people.")
		}
		return answer(s.Store.Letters(ctx))
	})
}
