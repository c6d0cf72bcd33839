package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/labstack/echo/v5"

	"neokinema/internal/problem"
	"neokinema/internal/seeing"
	"neokinema/internal/store"
)

func (s *server) eyes(api huma.API) {
	register(s, api, "POST", "/eye/sets", "beginSet", "A set of exercises for the eye: what is due, then what is new; five of their own events for athletes", func(ctx context.Context, in *struct {
		Body seeing.Wish
	}) (*bodyOf[seeing.Set], error) {
		if u := who(ctx); u.AthleteID != nil {
			return answer(s.Seeing.Five(ctx, u))
		}
		return answer(s.Seeing.Begin(ctx, who(ctx), in.Body))
	})
	register(s, api, "POST", "/eye/answers", "answerExercise", "Answer an exercise, and see what is true", func(ctx context.Context, in *struct{ Body seeing.Answered }) (*bodyOf[seeing.Judgement], error) {
		return answer(s.Seeing.Answer(ctx, who(ctx), in.Body))
	})
	register(s, api, "GET", "/eye", "eye", "What the caller's eye is worth", func(ctx context.Context, _ *empty) (*bodyOf[seeing.Eye], error) {
		return answer(s.Seeing.Measure(ctx, who(ctx).ID))
	})
}

func (s *server) eyesShared(api huma.API) {
	register(s, api, "GET", "/athletes/{id}/eye", "athleteEye", "What an athlete's eye is worth, when both want it", func(ctx context.Context, in *ByID) (*bodyOf[seeing.Shared], error) {
		return answer(s.Seeing.Shared(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "PUT", "/athletes/{id}/eye", "askForEye", "Ask an athlete for it, or no longer", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			Asked bool `json:"asked"`
		}
	}) (*bodyOf[seeing.Shared], error) {
		return answer(s.Seeing.Ask(ctx, who(ctx).TeamID, in.ID, in.Body.Asked))
	})
	register(s, api, "GET", "/eye/sharing", "eyeSharing", "Whether the coach has asked an athlete, and the athlete agrees", func(ctx context.Context, _ *empty) (*bodyOf[store.EyeSharing], error) {
		u := who(ctx)
		if u.AthleteID == nil {
			return answer(store.EyeSharing{}, nil)
		}
		return answer(s.Store.EyeSharingOf(ctx, u.TeamID, *u.AthleteID))
	})
	register(s, api, "PUT", "/eye/sharing", "agreeToEye", "Agree as an athlete that the coach sees it, or no longer", func(ctx context.Context, in *struct {
		Body struct {
			Agreed bool `json:"agreed"`
		}
	}) (*empty, error) {
		u := who(ctx)
		if u.AthleteID == nil {
			return nil, problem.New(problem.Invalid, "Only an athlete's account can agree to this.")
		}
		return nil, s.Store.AgreeToEye(ctx, u.TeamID, *u.AthleteID, in.Body.Agreed)
	})
}

// eyeFiles are the pictures of exercises.
func (s *server) eyeFiles(g *echo.Group, api huma.API) {
	s.bytes(g, api, "GET", "/eye/clips/{clip}", "eyeClip", "The pictures of a clip beside and below each other", "image/jpeg", func(c *echo.Context) error {
		ctx := c.Request().Context()
		path, sheet, err := s.Seeing.Pictures(ctx, who(ctx), c.Param("clip"))
		if err != nil {
			return err
		}
		if sheet != nil {
			// What is marked in an own clip may change.
			c.Response().Header().Set("Cache-Control", "private, max-age=600")
			return c.Blob(http.StatusOK, "image/jpeg", sheet)
		}
		c.Response().Header().Set("Cache-Control", "private, max-age=604800")
		http.ServeFile(c.Response(), c.Request(), path)
		return nil
	})
}
