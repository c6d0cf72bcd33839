package api

import (
	"bytes"
	"context"
	"net/http"
	"net/url"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/labstack/echo/v5"

	"neokinema/core/season"
	"neokinema/core/trackside"
	"neokinema/internal/paper"
	"neokinema/internal/planning"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// now is the day of the server.
func now() season.Day {
	d, _ := season.ParseDay(today()) // the format of both
	return d
}

// look is how the caller looks at plans.
func look(ctx context.Context) planning.Look {
	return planning.Look{Today: now(), Directions: who(ctx).Directions}
}

// dayOf reads a day of a request; today when it is empty.
func dayOf(text string) (season.Day, error) {
	if text == "" {
		return now(), nil
	}
	d, err := season.ParseDay(text)
	if err != nil {
		return 0, problem.New(problem.Invalid, "%q is no day such as 2027-05-08.", text)
	}
	return d, nil
}

func (s *server) season(api huma.API) {
	register(s, api, "GET", "/athletes/{id}/season", "season", "An athlete's season: what was entered, the plan that follows, and what was done", func(ctx context.Context, in *ByID) (*bodyOf[planning.View], error) {
		return answer(s.Planning.Open(ctx, who(ctx).TeamID, in.ID, look(ctx)))
	})
	register(s, api, "PUT", "/athletes/{id}/season", "saveSeason", "Change what was entered of a season", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Revision int64          `json:"revision" doc:"that was changed"`
			Outline  season.Outline `json:"outline"`
		}
	}) (*bodyOf[planning.View], error) {
		return answer(s.Planning.Save(ctx, who(ctx).TeamID, in.ID, in.Body.Revision, in.Body.Outline, look(ctx)))
	})
	register(s, api, "POST", "/athletes/{id}/season/undo", "undoSeason", "Take the last change of a season back", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Revision int64 `json:"revision"`
		}
	}) (*bodyOf[planning.View], error) {
		return answer(s.Planning.Undo(ctx, who(ctx).TeamID, in.ID, in.Body.Revision, look(ctx)))
	})
	register(s, api, "POST", "/athletes/{id}/calendar", "followCalendar", "Give a season an address that calendars follow; the one before is out of use", func(ctx context.Context, in *ByID) (*bodyOf[Secret], error) {
		key, err := s.Planning.Subscribe(ctx, who(ctx).TeamID, in.ID)
		return answer(Secret{key}, err)
	})
	register(s, api, "DELETE", "/athletes/{id}/calendar", "unfollowCalendar", "Take the address of a calendar back", func(ctx context.Context, in *ByID) (*empty, error) {
		return nil, s.Store.DropCalendar(ctx, who(ctx).TeamID, in.ID)
	})
	register(s, api, "PUT", "/season/rules/{id}", "setSeasonRule", "Make a rule of planning another for the whole team; without a reason it is as it comes again", func(ctx context.Context, in *struct {
		ID   string `path:"id" maxLength:"40"`
		Body struct {
			Value  float64 `json:"value"`
			Reason string  `json:"reason" maxLength:"300"`
		}
	}) (*empty, error) {
		return nil, s.Store.SetTeamRule(ctx, who(ctx).TeamID, season.Changed{ID: in.ID, Value: in.Body.Value, Reason: in.Body.Reason})
	})
	register(s, api, "GET", "/squad/week", "squadWeek", "A week of the whole team", func(ctx context.Context, in *struct {
		Day string `query:"day" maxLength:"10" doc:"any of the week; today when empty"`
	}) (*bodyOf[planning.Squad], error) {
		day, err := dayOf(in.Day)
		if err != nil {
			return nil, err
		}
		return answer(s.Planning.Squad(ctx, who(ctx).TeamID, day, look(ctx)))
	})
	register(s, api, "PUT", "/athletes/{id}/trainings/{training}", "putTraining", "Keep what was done, under an id that was made where it was typed", func(ctx context.Context, in *struct {
		ByID
		Training uuid.UUID `path:"training"`
		Body     store.NewTraining
	}) (*bodyOf[store.Training], error) {
		return answer(s.Store.PutTraining(ctx, who(ctx).TeamID, in.ID, in.Training, in.Body))
	})
	register(s, api, "DELETE", "/trainings/{id}", "deleteTraining", "Delete a session that was typed", func(ctx context.Context, in *ByID) (*empty, error) {
		return nil, s.Store.DeleteTraining(ctx, who(ctx).TeamID, in.ID)
	})
}

func (s *server) squad(api huma.API) {
	register(s, api, "GET", "/squad/board", "squadBoard", "A squad at a glance: who wants a look, what most have in common, what can be held against each other", func(ctx context.Context, _ *empty) (*bodyOf[planning.Board], error) {
		return answer(s.Planning.Board(ctx, who(ctx).TeamID, look(ctx)))
	})
	register(s, api, "GET", "/squad/measure", "squadMeasure", "One measure of everybody, each against the band of the own level and age", func(ctx context.Context, in *struct {
		Event      string `query:"event" maxLength:"40"`
		Checkpoint string `query:"checkpoint" maxLength:"60"`
	}) (*bodyOf[planning.SquadMeasure], error) {
		return answer(s.Planning.Measure(ctx, who(ctx).TeamID, in.Event, in.Checkpoint, look(ctx)))
	})
	register(s, api, "GET", "/athletes/{id}/series", "series", "What an athlete's marks say, conditions apart, and the chance of one", func(ctx context.Context, in *struct {
		ByID
		Event    string `query:"event" maxLength:"40"`
		Day      string `query:"day" maxLength:"10" doc:"of one day alone; of the last year when empty"`
		Wanted   string `query:"wanted" maxLength:"40" doc:"mark whose chance is asked for"`
		Attempts int    `query:"attempts" minimum:"0" maximum:"20" doc:"6 when 0"`
	}) (*bodyOf[[]planning.SeriesView], error) {
		if in.Attempts == 0 {
			in.Attempts = 6
		}
		return answer(s.Planning.Series(ctx, who(ctx).TeamID, in.ID, in.Event, in.Day, in.Wanted, in.Attempts, look(ctx)))
	})
}

func (s *server) track(api huma.API) {
	register(s, api, "GET", "/track", "track", "What a phone takes to the track: people, today's sessions, cues with the ways to say them, notes of the day", func(ctx context.Context, _ *empty) (*bodyOf[planning.Track], error) {
		return answer(s.Planning.Track(ctx, who(ctx).TeamID, look(ctx)))
	})
	register(s, api, "POST", "/track/notes", "joinNotes", "Bring what a phone wrote down to the team; sent twice it is taken once", func(ctx context.Context, in *struct {
		Body struct {
			Notes []trackside.Note `json:"notes" minItems:"1" maxItems:"2000"`
		}
	}) (*bodyOf[store.JoinedNotes], error) {
		return answer(s.Store.JoinNotes(ctx, who(ctx).TeamID, in.Body.Notes))
	})
}

// seasonFiles are sheets and calendars.
func (s *server) seasonFiles(g *echo.Group, api huma.API) {
	s.bytes(g, api, "GET", "/athletes/{id}/season.ics", "seasonCalendar", "A season as a calendar; taken in again it moves what has moved", "text/calendar", func(c *echo.Context) error {
		id, err := uuid.Parse(c.Param("id"))
		if err != nil {
			return problem.Missing("athlete")
		}
		ctx := c.Request().Context()
		text, err := s.Planning.Calendar(ctx, who(ctx).TeamID, id, look(ctx), time.Now())
		if err != nil {
			return err
		}
		c.Response().Header().Set("Content-Disposition", `attachment; filename="season.ics"`)
		return c.Blob(http.StatusOK, "text/calendar; charset=utf-8", []byte(text))
	})
	s.bytes(g, api, "GET", "/shared/{key}/season.ics", "followedCalendar", "A season as a calendar, by its address", "text/calendar", func(c *echo.Context) error {
		text, err := s.Planning.Fetch(c.Request().Context(), c.Param("key"), now(), time.Now())
		if err != nil {
			return err
		}
		return c.Blob(http.StatusOK, "text/calendar; charset=utf-8", []byte(text))
	})
	s.bytes(g, api, "GET", "/athletes/{id}/card.pdf", "sessionCard", "An athlete's sessions of a day on one page", "application/pdf", func(c *echo.Context) error {
		id, err := uuid.Parse(c.Param("id"))
		if err != nil {
			return problem.Missing("athlete")
		}
		day, err := dayOf(c.QueryParam("day"))
		if err != nil {
			return err
		}
		ctx := c.Request().Context()
		v, err := s.Planning.Open(ctx, who(ctx).TeamID, id, look(ctx))
		if err != nil {
			return err
		}
		var out bytes.Buffer
		if err := planning.WriteCard(&out, paper.Named(c.QueryParam("paper")), v, day); err != nil {
			return err
		}
		return pdf(c, v.Athlete.Name+" "+day.String(), out.Bytes())
	})
	s.bytes(g, api, "GET", "/squad/week.pdf", "weekSheet", "A week of the whole team on paper", "application/pdf", func(c *echo.Context) error {
		day, err := dayOf(c.QueryParam("day"))
		if err != nil {
			return err
		}
		ctx := c.Request().Context()
		u := who(ctx)
		sq, err := s.Planning.Squad(ctx, u.TeamID, day, look(ctx))
		if err != nil {
			return err
		}
		var out bytes.Buffer
		if err := planning.WriteWeek(&out, paper.Named(c.QueryParam("paper")), u.Team, sq); err != nil {
			return err
		}
		return pdf(c, "Week "+sq.Monday.String(), out.Bytes())
	})
}

// pdf shows a document in the browser, under a name for who keeps it.
func pdf(c *echo.Context, name string, raw []byte) error {
	c.Response().Header().Set("Content-Disposition", "inline; filename*=UTF-8''"+url.PathEscape(name+".pdf"))
	return c.Blob(http.StatusOK, "application/pdf", raw)
}
