package api

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/labstack/echo/v5"

	"neokinema/internal/logbook"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
)

func today() string { return time.Now().Format(time.DateOnly) }

// Text is a few words.
type Text struct {
	Text string `json:"text" maxLength:"4000000"`
}

func (s *server) log(api huma.API) {
	register(s, api, "GET", "/athletes/{id}/log", "log", "An athlete's log", func(ctx context.Context, in *ByID) (*bodyOf[logbook.Log], error) {
		l, err := s.Logbook.Open(ctx, who(ctx).TeamID, in.ID, today())
		return answer(spoken(l, l.Athlete.ThrowingHand == "left", who(ctx).Directions), err)
	})
	register(s, api, "DELETE", "/athletes/{id}", "deleteAthlete", "Delete an athlete with all attempts and media, for good", func(ctx context.Context, in *ByID) (*bodyOf[store.Deletion], error) {
		return answer(s.Intake.DeleteAthlete(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "GET", "/deletions", "deletions", "What was deleted for good", func(ctx context.Context, _ *empty) (*bodyOf[[]store.Deletion], error) {
		return answer(s.Store.Deletions(ctx, who(ctx).TeamID))
	})
	register(s, api, "POST", "/sessions", "enterSession", "Enter a whole session, a line for each attempt", func(ctx context.Context, in *bodyOf[logbook.SessionEntry]) (*bodyOf[[]store.Attempt], error) {
		return answer(s.Logbook.Enter(ctx, who(ctx).TeamID, in.Body))
	})
	register(s, api, "POST", "/marks", "importMarks", "Take a table of marks (CSV) in", func(ctx context.Context, in *bodyOf[Text]) (*bodyOf[logbook.Imported], error) {
		return answer(s.Logbook.ReadMarks(ctx, who(ctx).TeamID, strings.NewReader(in.Body.Text)))
	})
	register(s, api, "POST", "/folder", "planFolder", "Whose clips these are, from when, and which attempts they show", func(ctx context.Context, in *struct {
		Body struct {
			Files []logbook.NewFile `json:"files" minItems:"1" maxItems:"500"`
		}
	}) (*bodyOf[[]logbook.Planned], error) {
		return answer(s.Logbook.Plan(ctx, who(ctx).TeamID, in.Body.Files, today()))
	})
	register(s, api, "GET", "/attempts/{id}/glance", "glance", "A quick look: key positions and findings", func(ctx context.Context, in *ByID) (*bodyOf[logbook.Summary], error) {
		return answer(s.Logbook.Glance(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "PUT", "/attempts/{id}/followup", "setFollowup", "What becomes of the cue given on an attempt", func(ctx context.Context, in *struct {
		ByID
		Body store.Followup
	}) (*bodyOf[workspace.Saved], error) {
		u := who(ctx)
		return answer(s.Workspace.Decide(ctx, u.TeamID, u.ID, in.ID, workspace.Edit{Kind: "followup", Key: "main", Value: workspace.Value(in.Body)}))
	})
	register(s, api, "PUT", "/attempts/{id}/outcome", "setOutcome", "How the coach sees the cue before on an attempt", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Outcome string `json:"outcome" enum:"taken,not_taken,overdone,"`
		}
	}) (*bodyOf[workspace.Saved], error) {
		u := who(ctx)
		e := workspace.Edit{Kind: "outcome", Key: "main"}
		if in.Body.Outcome != "" {
			e.Value = workspace.Value(in.Body.Outcome)
		}
		return answer(s.Workspace.Decide(ctx, u.TeamID, u.ID, in.ID, e))
	})
	register(s, api, "PUT", "/attempts/{id}/reference", "setReference", "Keep an attempt in the team's library under a name; an empty one takes it out", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Name string `json:"name" maxLength:"120"`
		}
	}) (*empty, error) {
		return nil, s.Store.SetReference(ctx, who(ctx).TeamID, in.ID, strings.TrimSpace(in.Body.Name))
	})
	register(s, api, "GET", "/library", "library", "The team's references", func(ctx context.Context, _ *empty) (*bodyOf[[]store.Reference], error) {
		return answer(s.Store.Library(ctx, who(ctx).TeamID))
	})
	register(s, api, "PUT", "/attempts/{id}/time", "spendTime", "Add hand time that the coach spent; only the coach sees it", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Seconds int `json:"seconds" minimum:"1" maximum:"3600"`
		}
	}) (*empty, error) {
		u := who(ctx)
		return nil, s.Store.SpendTime(ctx, u.TeamID, u.ID, in.ID, in.Body.Seconds)
	})
	register(s, api, "GET", "/phrases", "phrases", "The coach's own turns of phrase", func(ctx context.Context, _ *empty) (*bodyOf[[]string], error) {
		return answer(s.Store.Phrases(ctx, who(ctx).ID))
	})
	register(s, api, "PUT", "/phrases", "keepPhrase", "Keep a phrase, or drop it", func(ctx context.Context, in *struct {
		Body struct {
			Says string `json:"says" minLength:"1" maxLength:"500"`
			Keep bool   `json:"keep"`
		}
	}) (*empty, error) {
		return nil, s.Store.KeepPhrase(ctx, who(ctx).ID, strings.TrimSpace(in.Body.Says), in.Body.Keep)
	})
	type note struct {
		ByID
		Body store.NewNote
	}
	register(s, api, "POST", "/athletes/{id}/notes", "addNote", "Write a note about an athlete", func(ctx context.Context, in *note) (*bodyOf[store.Note], error) {
		return answer(s.Store.AddNote(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "PUT", "/notes/{id}", "changeNote", "Change a note", func(ctx context.Context, in *note) (*bodyOf[store.Note], error) {
		return answer(s.Store.ChangeNote(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "DELETE", "/notes/{id}", "deleteNote", "Delete a note", func(ctx context.Context, in *ByID) (*empty, error) {
		return nil, s.Store.DeleteNote(ctx, who(ctx).TeamID, in.ID)
	})
}

// logFiles are the log's routes that give bytes.
func (s *server) logFiles(g *echo.Group, api huma.API) {
	s.bytes(g, api, "GET", "/marks.csv", "teamMarks", "Marks of the whole team as a table", "text/csv", func(c *echo.Context) error { return s.marks(c, uuid.Nil) })
	s.bytes(g, api, "GET", "/athletes/{id}/marks.csv", "athleteMarks", "Marks of one athlete as a table", "text/csv", func(c *echo.Context) error {
		id, err := uuid.Parse(c.Param("id"))
		if err != nil {
			return problem.Missing("athlete")
		}
		return s.marks(c, id)
	})
	s.bytes(g, api, "GET", "/attempts/{id}/plan.ics", "planCalendar", "The plan of a drill as a calendar", "text/calendar", func(c *echo.Context) error {
		id, err := uuid.Parse(c.Param("id"))
		if err != nil {
			return problem.Missing("attempt")
		}
		ctx := c.Request().Context()
		text, err := s.Logbook.Calendar(ctx, who(ctx).TeamID, id, today(), time.Now())
		if err != nil {
			return err
		}
		c.Response().Header().Set("Content-Disposition", `attachment; filename="plan.ics"`)
		return c.Blob(http.StatusOK, "text/calendar; charset=utf-8", []byte(text))
	})
}

// largestArchive is what a whole team may bring.
const largestArchive = 64 << 30

// teamFiles are the archive of a whole team, out and in.
func (s *server) teamFiles(g *echo.Group, api huma.API) {
	s.bytes(g, api, "GET", "/team/export.zip", "exportTeam", "A whole team as an archive", "application/zip", func(c *echo.Context) error {
		u := who(c.Request().Context())
		h := c.Response().Header()
		h.Set("Content-Type", "application/zip")
		h.Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(fmt.Sprintf("%s %s.zip", u.Team, today())))
		// An error after the first byte ends the file early: no reader takes half an
		// archive, since the list of its files comes last.
		return s.Archive.Write(c.Request().Context(), c.Response(), u, time.Now())
	})
	s.bytes(g, api, "POST", "/team/import", "importTeam", "Take an archive into an empty team", "application/json", func(c *echo.Context) error {
		ctx := c.Request().Context()
		// What would be refused in the end is refused before it is sent.
		if err := s.Store.Empty(ctx, who(ctx).TeamID); err != nil {
			return err
		}
		if err := s.Intake.Room(max(0, c.Request().ContentLength)); err != nil {
			return err
		}
		f, err := os.CreateTemp(s.Scratch, "archive-*.zip")
		if err != nil {
			return err
		}
		defer os.Remove(f.Name())
		defer f.Close()
		n, err := s.receive(f, http.MaxBytesReader(c.Response(), c.Request().Body, largestArchive))
		var large *http.MaxBytesError
		if errors.As(err, &large) {
			return problem.New(problem.TooLarge, "This archive is larger than 64 GB.")
		}
		if err != nil {
			return err
		}
		got, err := s.Archive.Read(ctx, who(ctx), f, n)
		if err != nil {
			return err
		}
		return c.JSON(http.StatusOK, got)
	})
}

// receive writes what comes to a file while the disk has room.
func (s *server) receive(to io.Writer, from io.Reader) (n int64, err error) {
	const piece = 256 << 20
	for {
		got, err := io.CopyN(to, from, piece)
		if n += got; errors.Is(err, io.EOF) {
			return n, nil
		}
		if err != nil {
			return n, err
		}
		if err := s.Intake.Room(piece); err != nil {
			return n, err
		}
	}
}

func (s *server) marks(c *echo.Context, athlete uuid.UUID) error {
	var out bytes.Buffer
	ctx := c.Request().Context()
	if err := s.Logbook.WriteMarks(ctx, &out, who(ctx).TeamID, athlete); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(fmt.Sprintf("marks %s.csv", today())))
	return c.Blob(http.StatusOK, "text/csv; charset=utf-8", out.Bytes())
}
