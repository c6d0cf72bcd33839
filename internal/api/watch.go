package api

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/labstack/echo/v5"

	"neokinema/core/kinematics"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/videoanalysis"
)

// Word is one line of a stream: how far a look through a clip is, what it found,
// or how it ended.
type Word struct {
	Done   int                         `json:"done,omitempty" required:"false" doc:"frames looked at"`
	Of     int                         `json:"of,omitempty" required:"false" doc:"frames to look at"`
	Found  *videoanalysis.TrackedPoint `json:"found,omitempty" required:"false"`
	End    bool                        `json:"end,omitempty" required:"false" doc:"the last line"`
	Lost   string                      `json:"lost,omitempty" required:"false" doc:"why the tracker stopped and asks"`
	Clip   *store.Clip                 `json:"clip,omitempty" required:"false" doc:"the clip with its camera"`
	Tracks kinematics.Points           `json:"tracks,omitempty" required:"false" doc:"changes of tracks, by landmark"`
	Error  *problem.Problem            `json:"error,omitempty" required:"false"`
}

// watching are the routes that look through a clip and tell about it on the way:
// one JSON object a line. A request that is broken off ends the look.
func (s *server) watching(g *echo.Group, api huma.API) {
	s.bytes(g, api, "POST", "/clips/{id}/camera", "lookAtCamera", "Look how the camera turned; an object a line", "application/x-ndjson", func(c *echo.Context) error {
		clip, err := s.clipOf(c)
		if err != nil {
			return err
		}
		return s.stream(c, func(say func(Word) error) error {
			now, err := s.Analysis.Camera(c.Request().Context(), who(c.Request().Context()).TeamID, clip.ID, func(done, of int) error { return say(Word{Done: done, Of: of}) })
			if err != nil {
				return err
			}
			return say(Word{End: true, Clip: &now})
		})
	})
	s.bytes(g, api, "POST", "/clips/{id}/refine", "refineDraft", "Take the trembling out of a draft; an object a line", "application/x-ndjson", func(c *echo.Context) error {
		clip, err := s.clipOf(c)
		if err != nil {
			return err
		}
		return s.stream(c, func(say func(Word) error) error {
			tracks, now, err := s.Analysis.Refine(c.Request().Context(), who(c.Request().Context()).TeamID, clip.ID, func(done, of int) error { return say(Word{Done: done, Of: of}) })
			if err != nil {
				return err
			}
			return say(Word{End: true, Tracks: tracks, Clip: &now})
		})
	})
	s.bytes(g, api, "POST", "/clips/{id}/follow", "followPoint", "Follow a point; an object a line", "application/x-ndjson", func(c *echo.Context) error {
		clip, err := s.clipOf(c)
		if err != nil {
			return err
		}
		var ask videoanalysis.FollowRequest
		if err := json.NewDecoder(http.MaxBytesReader(c.Response(), c.Request().Body, 4<<10)).Decode(&ask); err != nil {
			return problem.New(problem.Invalid, "What to follow cannot be read.")
		}
		return s.stream(c, func(say func(Word) error) error {
			lost, err := s.Analysis.Follow(c.Request().Context(), who(c.Request().Context()).TeamID, clip.ID, ask, func(f videoanalysis.TrackedPoint) error { return say(Word{Found: &f}) })
			if err != nil {
				return err
			}
			return say(Word{End: true, Lost: lost})
		})
	})
	s.bytes(g, api, "GET", "/clips/{id}/strip.jpg", "clipStrip", "Pictures of a run beside each other", "image/jpeg", func(c *echo.Context) error {
		clip, err := s.clipOf(c)
		if err != nil {
			return err
		}
		var moments []int
		for _, f := range strings.Split(c.QueryParam("frames"), ",") {
			if f == "" {
				continue
			}
			n, err := strconv.Atoi(f)
			if err != nil {
				return problem.New(problem.Invalid, "Frames are whole numbers with commas between.")
			}
			moments = append(moments, n)
		}
		strip, err := s.Analysis.Strip(c.Request().Context(), who(c.Request().Context()).TeamID, clip.ID, moments)
		if err != nil {
			return err
		}
		c.Response().Header().Set("X-Strip", fmt.Sprintf("%g %g %g", strip.X0, strip.Y0, strip.Scale))
		return c.Blob(http.StatusOK, "image/jpeg", strip.JPEG)
	})
}

// stream answers with lines. The first one waits for the first word, so that an
// error before it is an ordinary error. Work holds a core: who does not read what is said
// ends it.
func (s *server) stream(c *echo.Context, work func(say func(Word) error) error) error {
	out := json.NewEncoder(c.Response())
	control := http.NewResponseController(c.Response())
	begun := false
	say := func(l Word) error {
		if !begun {
			c.Response().Header().Set("Content-Type", "application/x-ndjson")
			c.Response().WriteHeader(http.StatusOK)
			begun = true
		}
		if err := control.SetWriteDeadline(time.Now().Add(s.BodyTime)); err != nil && !errors.Is(err, http.ErrNotSupported) {
			return err
		}
		if err := out.Encode(l); err != nil {
			return err
		}
		return control.Flush()
	}
	err := work(say)
	if err == nil || !begun {
		return err
	}
	if c.Request().Context().Err() != nil {
		return nil // nobody listens any more
	}
	return say(Word{End: true, Error: s.explain(c.Request().Context(), err)})
}
