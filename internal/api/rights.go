package api

import (
	"context"
	"strings"

	"neokinema/internal/problem"
	"neokinema/internal/store"

	"github.com/google/uuid"
	"github.com/labstack/echo/v5"
)

// right is what it takes to call a route.
type right int

// The rights, each with those below it. A guest has a link; the routes for guests look
// at it themselves.
const (
	public right = iota
	guest
	anyAccount
	assistant
	coach
	owner
)

// rights are the routes that need something else than what their method says: a coach
// may call them all, an assistant may read. What lets something out of the house, or
// cannot be taken back, is not an assistant's.
var rights = map[string]right{
	"GET /api/live":           public,
	"GET /api/ready":          public,
	"GET /api/health":         public,
	"GET /api/me":             public,
	"GET /api/letters":        public, // of the demo; elsewhere it refuses
	"POST /api/sign-in":       public,
	"POST /api/demo-sign-in":  public,
	"POST /api/teams":         public,
	"POST /api/teams/confirm": public,
	"POST /api/join":          public,
	"POST /api/join/look":     public,
	"POST /api/forgot":        public,
	"POST /api/reset":         public,

	"GET /api/shared/:key":                 guest,
	"GET /api/shared/:key/talk":            guest,
	"GET /api/shared/:key/frames/:n":       guest,
	"GET /api/shared/:key/clip.mp4":        guest,
	"GET /api/shared/:key/voices/:chapter": guest,
	"GET /api/shared/:key/season.ics":      guest,
	"PUT /api/shared/:key/answer":          guest,
	"POST /api/shared/:key/next":           guest,
	"* /api/shared/:key/uploads":           guest,
	"* /api/shared/:key/uploads/":          guest,
	"* /api/shared/:key/uploads/:id":       guest,

	"GET /api/mine":                   anyAccount,
	"GET /api/eye":                    anyAccount,
	"GET /api/eye/clips/:clip":        anyAccount,
	"GET /api/eye/sharing":            anyAccount,
	"PUT /api/eye/sharing":            anyAccount,
	"POST /api/eye/sets":              anyAccount,
	"GET /api/drills":                 anyAccount,
	"GET /api/drills/:drill/figure":   anyAccount,
	"GET /api/drills/:drill/card.pdf": anyAccount,
	"POST /api/eye/answers":           anyAccount,
	"POST /api/sign-out":              anyAccount,
	"POST /api/sign-out-elsewhere":    anyAccount,
	"GET /api/me/sessions":            anyAccount,
	"DELETE /api/me/sessions/:id":     anyAccount,
	"PUT /api/me/password":            anyAccount,
	"POST /api/me/delete":             anyAccount,

	// Looking and placing, with nothing that leaves the house.
	"PUT /api/me/directions":                    assistant,
	"POST /api/attempts":                        assistant,
	"POST /api/sample":                          assistant,
	"PUT /api/attempts/:id":                     assistant,
	"POST /api/attempts/:id/edits":              assistant,
	"POST /api/attempts/:id/undo":               assistant,
	"POST /api/attempts/:id/redo":               assistant,
	"PUT /api/attempts/:id/time":                assistant,
	"PUT /api/attempts/:id/outcome":             assistant,
	"PUT /api/phrases":                          assistant,
	"POST /api/models/check":                    assistant,
	"POST /api/folder":                          assistant,
	"POST /api/sessions":                        assistant,
	"PUT /api/athletes/:id/trainings/:training": assistant,
	"POST /api/track/notes":                     assistant,
	"DELETE /api/trainings/:id":                 assistant,
	"POST /api/workshop/field.pdf":              assistant,
	"POST /api/workshop/field.svg":              assistant,
	"POST /api/athletes/:id/notes":              assistant,
	"PUT /api/notes/:id":                        assistant,
	"PUT /api/clips/:id":                        assistant,
	"POST /api/clips/:id/cancel":                assistant,
	"POST /api/clips/:id/retry":                 assistant,
	"POST /api/clips/:id/camera":                assistant,
	"POST /api/clips/:id/refine":                assistant,
	"POST /api/clips/:id/follow":                assistant,
	"POST /api/clips/:id/draft":                 assistant,
	"DELETE /api/clips/:id/draft":               assistant,
	"* /api/uploads":                            assistant,
	"* /api/uploads/":                           assistant,
	"* /api/uploads/:id":                        assistant,
	"GET /api/attempts/:id/shares":              coach,
	"GET /api/team/export.zip":                  coach,
	"GET /api/marks.csv":                        coach,
	"GET /api/athletes/:id/marks.csv":           coach,
	"GET /api/attempts/:id/export.csv":          coach,
	"GET /api/clips/:id/keypoints.json":         coach,
	"GET /api/clips/:id/points.c3d":             coach,
	"GET /api/attempts/:id/space.c3d":           coach,
	"GET /api/attempts/:id/export.json":         coach,
	"GET /api/team/audit":                       coach,
	"GET /api/team/invitations":                 coach,
	"GET /api/deletions":                        coach,

	"POST /api/team/import":            owner,
	"POST /api/team/delete":            owner,
	"PUT /api/team/members/:id":        owner,
	"DELETE /api/team/members/:id":     owner,
	"POST /api/team/members/:id/reset": owner,
	"POST /api/team/invitations":       owner,
	"DELETE /api/team/invitations/:id": owner,
}

// needed is the right that a route asks for; path has names for its parameters.
func needed(method, path string) right {
	if r, ok := rights["* "+path]; ok {
		return r
	}
	if method == "HEAD" {
		method = "GET"
	}
	if r, ok := rights[method+" "+path]; ok {
		return r
	}
	if method == "GET" {
		return assistant
	}
	return coach
}

// Needs tells what it takes to call a route of the contract or of files, whose path has
// {names}: public, guest, anybody, assistant, coach or owner.
func Needs(method, path string) string {
	path = strings.NewReplacer("{", ":", "}", "").Replace(path)
	return [...]string{"public", "guest", "anybody", "assistant", "coach", "owner"}[needed(method, path)]
}

// held is the right that an account has.
func held(role store.Role) right {
	switch role {
	case store.Owner:
		return owner
	case store.Coach:
		return coach
	case store.Assistant:
		return assistant
	}
	return anyAccount
}

// audited are the routes that leave a line in the audit when they succeed.
var audited = map[string]string{
	"POST /api/sign-in":                  "signed in",
	"POST /api/demo-sign-in":             "signed in to the demo",
	"POST /api/sign-out":                 "signed out",
	"POST /api/sign-out-elsewhere":       "signed out elsewhere",
	"DELETE /api/me/sessions/:id":        "ended a session",
	"PUT /api/me/password":               "changed the password",
	"POST /api/reset":                    "set a new password by a link",
	"POST /api/teams":                    "began a team",
	"POST /api/teams/confirm":            "began a team",
	"POST /api/join":                     "joined by an invitation",
	"PUT /api/team/members/:id":          "changed a role",
	"DELETE /api/team/members/:id":       "removed an account",
	"POST /api/team/members/:id/reset":   "made a link to a new password",
	"POST /api/team/invitations":         "invited to the team",
	"DELETE /api/team/invitations/:id":   "took an invitation back",
	"POST /api/athletes/:id/invitations": "invited an athlete",
	"POST /api/attempts/:id/shares":      "shared an attempt",
	"DELETE /api/shares/:id":             "took a link back",
	"POST /api/athletes/:id/calendar":    "gave a calendar an address",
	"DELETE /api/athletes/:id/calendar":  "took a calendar back",
	"GET /api/shared/:key":               "opened a link",
	"GET /api/attempts/:id/feedback.pdf": "exported a page",
	"GET /api/attempts/:id/export.csv":   "exported numbers",
	"GET /api/attempts/:id/export.json":  "exported numbers",
	"GET /api/clips/:id/keypoints.json":  "exported points",
	"GET /api/clips/:id/points.c3d":      "exported points",
	"GET /api/attempts/:id/space.c3d":    "exported points",
	"GET /api/team/export.zip":           "exported the team",
	"GET /api/marks.csv":                 "exported marks",
	"GET /api/athletes/:id/marks.csv":    "exported marks",
	"POST /api/team/import":              "took an archive in",
	"DELETE /api/athletes/:id":           "deleted an athlete",
	"DELETE /api/attempts/:id":           "deleted an attempt",
	"DELETE /api/clips/:id":              "deleted a clip",
	"POST /api/team/delete":              "deleted the team",
	"POST /api/me/delete":                "deleted the own account",
}

func (s *server) signedIn(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		ctx := c.Request().Context()
		need := needed(c.Request().Method, c.Path())
		if id, err := uuid.Parse(s.sessions.GetString(ctx, sessionKey)); err == nil {
			u, err := s.Store.UserBySignin(ctx, id)
			switch {
			case err == nil && held(u.Role) < need:
				return problem.New(problem.Refused, "%s", forbidden(u.Role, need))
			case err == nil:
				ctx = context.WithValue(context.WithValue(ctx, userKey{}, u), signinKey{}, id)
				c.SetRequest(c.Request().WithContext(ctx))
				return next(c)
			case !problem.Is(err, problem.NotFound):
				return err
			}
		}
		if need <= guest {
			return next(c)
		}
		return problem.New(problem.SignedOut, "You are signed out. Sign in again; what you entered in this page is kept.")
	}
}

func forbidden(role store.Role, need right) string {
	switch {
	case role == store.AthleteOf:
		return "This account is an athlete's: it shows what the coach has sent, and nothing else."
	case need == owner:
		return "Only an owner of the team may do this. Ask one."
	}
	return "An assistant looks and places points, and shares, exports and deletes nothing. Ask a coach of the team."
}
