package api

import (
	"context"
	"net/http"
	"path"
	"strconv"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/labstack/echo/v5"

	"neokinema/internal/account"
	"neokinema/internal/intake"
	"neokinema/internal/problem"
	"neokinema/internal/share"
	"neokinema/internal/store"
)

// guests is where those without a coach's account come in: every path below it
// carries a link's secret, or the id of an attempt sent to an athlete's account.
const guests = "/api/shared/"

// ByKey names one sending.
type ByKey struct {
	Key string `path:"key" maxLength:"100"`
}

// Secret is told once.
type Secret struct {
	Secret string `json:"secret"`
}

func (s *server) shares(api huma.API) {
	register(s, api, "POST", "/attempts/{id}/shares", "share", "Make a link to the feedback page that ends by itself", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Days int `json:"days"`
		}
	}) (*bodyOf[share.Link], error) {
		return answer(s.Share.Send(ctx, who(ctx).TeamID, in.ID, in.Body.Days))
	})
	register(s, api, "GET", "/attempts/{id}/shares", "sharesOf", "Who was sent this attempt, whether it was seen, and the answers", func(ctx context.Context, in *ByID) (*bodyOf[[]store.Share], error) {
		return answer(s.Store.Shares(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "DELETE", "/shares/{id}", "withdraw", "Take a link back", func(ctx context.Context, in *ByID) (*bodyOf[store.Share], error) {
		return answer(s.Store.Withdraw(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "POST", "/athletes/{id}/invitations", "invite", "Invite an athlete to make an account", func(ctx context.Context, in *ByID) (*bodyOf[Secret], error) {
		key, err := s.Share.Invite(ctx, who(ctx).TeamID, in.ID)
		return answer(Secret{key}, err)
	})
	register(s, api, "POST", "/join/look", "lookAtInvitation", "What an invitation is to", func(ctx context.Context, in *struct {
		Body struct {
			Invitation string `json:"invitation" minLength:"10" maxLength:"100"`
		}
	}) (*bodyOf[Invitee], error) {
		i, err := s.Store.InvitationByHash(ctx, account.HashOf(in.Body.Invitation))
		return answer(Invitee{i.Team, i.Role, i.Athlete, i.Email}, err)
	})
	register(s, api, "POST", "/join", "join", "Make an account from an invitation", func(ctx context.Context, in *struct {
		Address
		Body struct {
			Invitation string `json:"invitation" minLength:"10" maxLength:"100"`
			Name       string `json:"name,omitempty" required:"false" maxLength:"120" doc:"of a coach or assistant; an athlete has one already"`
			account.Credentials
		}
	}) (*session, error) {
		u, err := s.Account.Join(ctx, in.Body.Invitation, in.Body.Name, in.Body.Credentials, in.Caller.Address)
		return s.welcome(ctx, in.Address, u, err)
	})
	register(s, api, "GET", "/mine", "mine", "What was sent to the athlete whose account this is", func(ctx context.Context, _ *empty) (*bodyOf[[]store.Attempt], error) {
		u := who(ctx)
		if u.AthleteID == nil {
			return answer([]store.Attempt{}, nil)
		}
		return answer(s.Store.SentTo(ctx, u.TeamID, *u.AthleteID))
	})
	register(s, api, "GET", "/shared/{key}", "shared", "The feedback page behind a link", func(ctx context.Context, in *ByKey) (*bodyOf[share.SharedPage], error) {
		v, err := s.Share.Look(ctx, in.Key, who(ctx))
		if err != nil {
			return nil, err
		}
		u := who(ctx)
		noted(ctx).about = v.Share.AttemptID.String()
		noted(ctx).team = &v.Share.TeamID
		return answer(s.Share.Open(ctx, v, u.AthleteID == nil && u.TeamID == v.Share.TeamID))
	})
	register(s, api, "PUT", "/shared/{key}/answer", "answerShared", "Write back to the coach", func(ctx context.Context, in *struct {
		ByKey
		Body struct {
			Text string `json:"text" maxLength:"2000"`
		}
	}) (*empty, error) {
		v, err := s.Share.Look(ctx, in.Key, who(ctx))
		if err != nil {
			return nil, err
		}
		return nil, s.Share.Answer(ctx, v, in.Body.Text)
	})
	register(s, api, "POST", "/shared/{key}/next", "nextShared", "Make room for the athlete's next clip", func(ctx context.Context, in *ByKey) (*bodyOf[store.Attempt], error) {
		v, err := s.Share.Look(ctx, in.Key, who(ctx))
		if err != nil {
			return nil, err
		}
		return answer(s.Share.Next(ctx, v))
	})
}

// sharedFiles are the pictures of a shared page.
func (s *server) sharedFiles(g *echo.Group, api huma.API) {
	look := func(c *echo.Context) (share.Viewer, store.Clip, error) {
		ctx := c.Request().Context()
		v, err := s.Share.Look(ctx, c.Param("key"), who(ctx))
		if err != nil {
			return v, store.Clip{}, err
		}
		clip, ok := v.Sheet.Main()
		// A talk and some stills are of another clip of the attempt.
		if id, wrong := uuid.Parse(c.QueryParam("clip")); wrong == nil {
			if k, there := v.Sheet.Clip(id); there && k.State == "ready" {
				clip, ok = k, true
			}
		}
		if !ok {
			return v, clip, problem.Missing("clip")
		}
		return v, clip, nil
	}
	s.bytes(g, api, "GET", "/shared/{key}/frames/{n}", "sharedFrame", "One frame of a shared page", "image/jpeg", func(c *echo.Context) error {
		_, clip, err := look(c)
		if err != nil {
			return err
		}
		n, err := strconv.Atoi(c.Param("n"))
		if err != nil {
			return problem.New(problem.Invalid, "A frame has a whole number.")
		}
		pic, err := s.Intake.Still(c.Request().Context(), clip, n, 0)
		if err != nil {
			return err
		}
		return c.Blob(http.StatusOK, "image/jpeg", pic)
	})
	s.bytes(g, api, "GET", "/shared/{key}/clip.mp4", "sharedVideo", "The clip of a shared page", "video/mp4", func(c *echo.Context) error {
		_, clip, err := look(c)
		if err != nil {
			return err
		}
		r, err := s.Intake.Proxy(c.Request().Context(), clip)
		if err != nil {
			return err
		}
		defer r.Close()
		c.Response().Header().Set("Content-Type", "video/mp4")
		http.ServeContent(c.Response(), c.Request(), "", time.Time{}, r)
		return nil
	})
}

// sharedUploads is the way back for a clip.
func (s *server) sharedUploads(g *echo.Group, uploads http.Handler) {
	forward := func(c *echo.Context) error {
		ctx := c.Request().Context()
		v, err := s.Share.Look(ctx, c.Param("key"), who(ctx))
		if err != nil {
			return err
		}
		ctx = intake.WithGuest(intake.WithTeam(ctx, v.Share.TeamID), v.Share.ID, v.Athlete.ID)
		base := guests + c.Param("key") + "/uploads"
		http.StripPrefix(base, uploads).ServeHTTP(&moved{c.Response(), base}, c.Request().WithContext(ctx))
		return nil
	}
	g.Any("/shared/:key/uploads", forward)
	g.Any("/shared/:key/uploads/", forward)
	g.Any("/shared/:key/uploads/:id", forward)
}

// moved sends a guest's upload on under the link that it began under.
type moved struct {
	http.ResponseWriter
	base string
}

// WriteHeader puts the address of an upload right.
func (m *moved) WriteHeader(status int) {
	if at := m.Header().Get("Location"); at != "" {
		m.Header().Set("Location", m.base+"/"+path.Base(at))
	}
	m.ResponseWriter.WriteHeader(status)
}

// Unwrap lets the upload handler reach what is below.
func (m *moved) Unwrap() http.ResponseWriter { return m.ResponseWriter }
