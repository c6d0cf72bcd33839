package api

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/labstack/echo/v5"

	"neokinema/core/workshop"
	"neokinema/core/workshop/calls"
	"neokinema/internal/fieldsheet"
	"neokinema/internal/form"
	"neokinema/internal/logbook"
	"neokinema/internal/paper"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// FieldSheet asks for a plan on paper or as a picture.
type FieldSheet struct {
	calls.AskCall
	Name  string `json:"name" maxLength:"200" doc:"whose it is, and when"`
	Paper string `json:"paper,omitempty" required:"false" enum:"A4,Letter,"`
}

func (s *server) workshop(api huma.API) {
	register(s, api, "GET", "/athletes/{id}/workshop", "workshop", "What the workshop knows of an athlete, and what was kept", func(ctx context.Context, in *struct {
		ByID
		Event   string    `query:"event" maxLength:"40"`
		Attempt uuid.UUID `query:"attempt"`
	}) (*bodyOf[logbook.Workshop], error) {
		return answer(s.Logbook.Workshop(ctx, who(ctx).TeamID, in.ID, in.Event, in.Attempt))
	})
	type kept struct {
		ByID
		Body store.NewCalculation
	}
	register(s, api, "POST", "/athletes/{id}/calculations", "keepCalculation", "Keep a calculation with an athlete", func(ctx context.Context, in *kept) (*bodyOf[store.Calculation], error) {
		if err := in.Body.Check(); err != nil {
			return nil, err
		}
		return answer(s.Store.AddCalculation(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "PUT", "/calculations/{id}", "changeCalculation", "Change a calculation that was kept", func(ctx context.Context, in *kept) (*bodyOf[store.Calculation], error) {
		if err := in.Body.Check(); err != nil {
			return nil, err
		}
		return answer(s.Store.ChangeCalculation(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "DELETE", "/calculations/{id}", "deleteCalculation", "Delete a calculation", func(ctx context.Context, in *ByID) (*empty, error) {
		return nil, s.Store.DeleteCalculation(ctx, who(ctx).TeamID, in.ID)
	})
}

// largestAsked is what a question with all its inputs may take, bytes.
const largestAsked = 64 << 10

// workshopFiles are plans as files.
func (s *server) workshopFiles(g *echo.Group, api huma.API) {
	file := func(mime string, write func(io.Writer, FieldSheet, fieldsheet.Sheet) error) echo.HandlerFunc {
		return func(c *echo.Context) error {
			var asked FieldSheet
			raw, err := io.ReadAll(http.MaxBytesReader(c.Response(), c.Request().Body, largestAsked))
			if err != nil {
				return problem.New(problem.TooLarge, "This plan has more than a plan has. Reload the page and try again.")
			}
			if err := json.Unmarshal(raw, &asked); err != nil {
				return problem.New(problem.Invalid, "The plan cannot be read. Reload the page and try again.")
			}
			if err := form.Check(asked); err != nil {
				return problem.New(problem.Invalid, "The plan cannot be drawn: %s.", err)
			}
			sh, err := sheetOf(asked)
			if err != nil {
				return err
			}
			var out bytes.Buffer
			if err := write(&out, asked, sh); err != nil {
				return err
			}
			return c.Blob(http.StatusOK, mime, out.Bytes())
		}
	}
	s.bytes(g, api, "POST", "/workshop/field.pdf", "fieldSheet", "A plan of the workshop on paper", "application/pdf", file("application/pdf", func(w io.Writer, asked FieldSheet, sh fieldsheet.Sheet) error {
		return fieldsheet.WritePDF(w, paper.Named(asked.Paper), sh)
	}))
	s.bytes(g, api, "POST", "/workshop/field.svg", "fieldPicture", "A plan of the workshop as a picture", "image/svg+xml", file("image/svg+xml", func(w io.Writer, _ FieldSheet, sh fieldsheet.Sheet) error {
		return fieldsheet.WriteSVG(w, sh)
	}))
}

// sheetOf answers a question for paper, with its inputs in words.
func sheetOf(asked FieldSheet) (fieldsheet.Sheet, error) {
	a, err := workshop.Ask(asked.Question, asked.Values, asked.Path)
	if err != nil {
		return fieldsheet.Sheet{}, problem.New(problem.Invalid, "%s Change the input, then draw it.", err.Error())
	}
	if a.Drawing == nil {
		return fieldsheet.Sheet{}, problem.New(problem.Invalid, "This question has no drawing.")
	}
	q, _ := workshop.Find(asked.Question)
	sh := fieldsheet.Sheet{Title: q.Name, Name: asked.Name, Answer: a}
	for _, in := range q.Inputs {
		v, ok := asked.Values[in.ID]
		switch {
		case !ok || in.List:
			continue
		case len(in.Options) > 0:
			for _, o := range in.Options {
				if o.Value == v.Value {
					sh.Inputs = append(sh.Inputs, strings.ToLower(in.Name)+" "+o.Name)
				}
			}
		default:
			sh.Inputs = append(sh.Inputs, strings.TrimSpace(fmt.Sprintf("%s %g %s", strings.ToLower(in.Name), v.Value, in.Unit)))
		}
	}
	return sh, nil
}
