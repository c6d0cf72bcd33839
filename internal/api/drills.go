package api

import (
	"bytes"
	"context"

	"github.com/danielgtaylor/huma/v2"
	"github.com/labstack/echo/v5"

	"neokinema/internal/drills"
	"neokinema/internal/paper"
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
