package api

import (
	"bytes"
	"context"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/labstack/echo/v5"

	"neokinema/internal/drills"
	"neokinema/internal/ghosts"
	"neokinema/internal/owndrills"
	"neokinema/internal/paper"
	"neokinema/internal/planning"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/simcam/moving"
)

func (s *server) drills(api huma.API) {
	register(s, api, "GET", "/drills", "drills", "The library of drills", func(context.Context, *empty) (*bodyOf[[]drills.Drill], error) {
		return answer(drills.Library())
	})
	register(s, api, "GET", "/drills/{drill}/figure", "drillFigure", "How a drill moves", func(_ context.Context, in *struct {
		Drill string `path:"drill" maxLength:"120"`
	}) (*bodyOf[moving.Drawn], error) {
		return answer(drills.Figure(in.Drill))
	})
}

// ownDrills are drills of a team's own. Athletes' accounts do not see them: they show others' clips.
func (s *server) ownDrills(g *echo.Group, api huma.API) {
	register(s, api, "GET", "/own-drills", "ownDrills", "Drills of the team's own, with stretches of its clips", func(ctx context.Context, _ *empty) (*bodyOf[[]owndrills.View], error) {
		return answer(s.OwnDrills.List(ctx, who(ctx).TeamID))
	})
	register(s, api, "POST", "/own-drills", "addOwnDrill", "Keep a drill of the team's own", func(ctx context.Context, in *bodyOf[store.NewOwnDrill]) (*bodyOf[owndrills.View], error) {
		return answer(s.OwnDrills.Add(ctx, who(ctx).TeamID, in.Body))
	})
	register(s, api, "PUT", "/own-drills/{id}", "changeOwnDrill", "Change a drill of the team's own", func(ctx context.Context, in *struct {
		ByID
		Body store.NewOwnDrill
	}) (*bodyOf[owndrills.View], error) {
		return answer(s.OwnDrills.Change(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "DELETE", "/own-drills/{id}", "deleteOwnDrill", "Delete a drill of the team's own; its clip stays", func(ctx context.Context, in *ByID) (*empty, error) {
		return nil, s.OwnDrills.Delete(ctx, who(ctx).TeamID, in.ID)
	})
	s.bytes(g, api, "GET", "/own-drills/{id}/card.pdf", "ownDrillCard", "A drill of the team's own on one page", "application/pdf", func(c *echo.Context) error {
		ctx := c.Request().Context()
		id, err := uuid.Parse(c.Param("id"))
		if err != nil {
			return problem.Missing("drill")
		}
		name, page, err := s.OwnDrills.Card(ctx, who(ctx).TeamID, id, paper.Named(c.QueryParam("paper")))
		if err != nil {
			return err
		}
		return pdf(c, name, page)
	})
}

func (s *server) ladders(api huma.API) {
	register(s, api, "GET", "/athletes/{id}/ladders", "ladders", "Ladders of technique of an athlete's events, with what the clips say of each rung", func(ctx context.Context, in *ByID) (*bodyOf[[]planning.Standing], error) {
		return answer(s.Planning.Ladders(ctx, who(ctx).TeamID, in.ID, look(ctx)))
	})
	register(s, api, "PUT", "/athletes/{id}/ladders", "climb", "Put an athlete on a rung of a ladder", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Ladder string `json:"ladder" maxLength:"40"`
			Rung   int    `json:"rung" minimum:"-1" doc:"from 0; -1 takes the ladder away"`
		}
	}) (*bodyOf[[]planning.Standing], error) {
		return answer(s.Planning.Climb(ctx, who(ctx).TeamID, in.ID, in.Body.Ladder, in.Body.Rung, look(ctx)))
	})
}

func (s *server) ghosts(api huma.API) {
	register(s, api, "GET", "/attempts/{id}/ghost", "ghost", "An athlete's own movement as it should be: a fault taken out, or made larger", func(ctx context.Context, in *struct {
		ByID
		Fault string  `query:"fault" maxLength:"40"`
		By    float64 `query:"by" minimum:"0" maximum:"3" doc:"how much of it is left: 0 none, 1 as it is, 2 twice as much"`
	}) (*bodyOf[ghosts.View], error) {
		return answer(s.Ghosts.Draw(ctx, who(ctx).TeamID, in.ID, in.Fault, in.By))
	})
}

// drillFiles are drills on paper.
func (s *server) drillFiles(g *echo.Group, api huma.API) {
	s.bytes(g, api, "GET", "/drills/{drill}/card.pdf", "drillCard", "A drill on one page", "application/pdf", func(c *echo.Context) error {
		d, err := drills.Find(c.Param("drill"))
		if err != nil {
			return err
		}
		var out bytes.Buffer
		if err := drills.WriteCard(&out, paper.Named(c.QueryParam("paper")), d); err != nil {
			return err
		}
		return pdf(c, d.Name, out.Bytes())
	})
}
