package api

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"path"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/labstack/echo/v5"

	"neokinema/core/compare"
	"neokinema/internal/drafting"
	"neokinema/internal/feedback"
	"neokinema/internal/intake"
	"neokinema/internal/paper"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/videoanalysis"
	"neokinema/internal/workspace"
)

func (s *server) clips(api huma.API) {
	register(s, api, "GET", "/clips/{id}", "clip", "The sheet of one clip", func(ctx context.Context, in *ByID) (*bodyOf[store.Clip], error) {
		return answer(s.Store.Clip(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "PUT", "/clips/{id}", "answerClip", "What the coach says of a clip", func(ctx context.Context, in *struct {
		ByID
		Body intake.ClipAnswers
	}) (*bodyOf[store.Clip], error) {
		return answer(s.Intake.Answer(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "POST", "/clips/{id}/cancel", "cancelImport", "Stop the import of a clip", func(ctx context.Context, in *ByID) (*bodyOf[store.Clip], error) {
		return answer(s.Intake.Cancel(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "POST", "/clips/{id}/retry", "retryImport", "Import a clip anew", func(ctx context.Context, in *ByID) (*bodyOf[store.Clip], error) {
		return answer(s.Intake.Retry(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "GET", "/clips/{id}/circle", "findCircle", "The throwing circle that a clip shows, to be confirmed", func(ctx context.Context, in *ByID) (*bodyOf[videoanalysis.CircleSeen], error) {
		return answer(s.Analysis.Circle(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "GET", "/clips/{id}/draft", "draft", "How the draft of a clip stands", func(ctx context.Context, in *ByID) (*bodyOf[drafting.State], error) {
		return answer(s.Drafting.State(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "POST", "/clips/{id}/draft", "beginDraft", "Have the server draft a clip", func(ctx context.Context, in *struct {
		ByID
		Body drafting.Request
	}) (*bodyOf[drafting.State], error) {
		return answer(s.Drafting.Begin(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "DELETE", "/clips/{id}/draft", "cancelDraft", "Stop a draft; what is drafted stays", func(ctx context.Context, in *ByID) (*bodyOf[drafting.State], error) {
		return answer(s.Drafting.Cancel(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "POST", "/clips/{id}/against", "holdAgainst", "Hold points from elsewhere, COCO keypoints or C3D, against what was read from a clip; nothing is stored", func(ctx context.Context, in *struct {
		ByID
		First   int    `query:"first" minimum:"0" doc:"frame of the clip in which the file begins"`
		RawBody []byte `contentType:"application/octet-stream"`
	}) (*bodyOf[compare.Agreement], error) {
		out, err := s.Workspace.Against(ctx, who(ctx).TeamID, in.ID, in.RawBody, in.First)
		return answer(spoken(out, false, who(ctx).Directions), err)
	})
	register(s, api, "DELETE", "/clips/{id}", "deleteClip", "Delete a clip", func(ctx context.Context, in *ByID) (*bodyOf[store.Deletion], error) {
		return answer(s.Intake.Delete(ctx, who(ctx).TeamID, in.ID))
	})
}

// files are the routes that give bytes instead of JSON.
func (s *server) files(g *echo.Group, api huma.API) {
	stream := func(open func(context.Context, store.Clip) (io.ReadSeekCloser, error), mime string) echo.HandlerFunc {
		return func(c *echo.Context) error {
			clip, err := s.clipOf(c)
			if err != nil {
				return err
			}
			r, err := open(c.Request().Context(), clip)
			if err != nil {
				return err
			}
			defer r.Close()
			c.Response().Header().Set("Content-Type", mime)
			c.Response().Header().Set("Cache-Control", private)
			c.Response().Header().Set("ETag", etag(clip, "media"))
			http.ServeContent(c.Response(), c.Request(), "", time.Time{}, r)
			return nil
		}
	}
	s.bytes(g, api, "GET", "/clips/{id}/proxy.mp4", "clipVideo", "The working video of a clip, every frame on its own", "video/mp4", stream(s.Intake.Proxy, "video/mp4"))
	s.bytes(g, api, "GET", "/clips/{id}/poster.jpg", "clipPoster", "The first picture of a clip", "image/jpeg", stream(s.Intake.Poster, "image/jpeg"))
	s.bytes(g, api, "GET", "/clips/{id}/frames/{n}", "clipFrame", "One exact frame of a clip", "image/jpeg", func(c *echo.Context) error {
		clip, err := s.clipOf(c)
		if err != nil {
			return err
		}
		n, err := strconv.Atoi(c.Param("n"))
		width, widthErr := strconv.Atoi(c.QueryParamOr("width", "0"))
		if err != nil || widthErr != nil || width < 0 || width > 8192 {
			return problem.New(problem.Invalid, "A frame has a whole number, and its width is 0 to 8192.")
		}
		pic, err := s.Intake.Still(c.Request().Context(), clip, n, width)
		if err != nil {
			return err
		}
		return picture(c, etag(clip, c.Param("n"), c.QueryParam("width")), pic)
	})
	s.bytes(g, api, "GET", "/attempts/{id}/feedback.pdf", "feedbackPDF", "The feedback page on paper", "application/pdf", func(c *echo.Context) error {
		size := paper.Named(c.QueryParam("paper"))
		return s.export(c, "pdf", "application/pdf", func(ctx context.Context, w io.Writer, sh workspace.Workspace) error {
			return feedback.WritePDF(ctx, w, feedback.Build(sh), size, func(ctx context.Context, id uuid.UUID, frame int) ([]byte, error) {
				clip, _ := sh.Clip(id)
				return s.Intake.Still(ctx, clip, frame, 0)
			})
		})
	})
	s.bytes(g, api, "GET", "/models/{file}", "modelSource", "A technique model as YAML", "application/yaml", func(c *echo.Context) error {
		ctx := c.Request().Context()
		raw, err := s.Workspace.Source(ctx, who(ctx).TeamID, strings.TrimSuffix(c.Param("file"), ".yaml"))
		if err != nil {
			return err
		}
		return c.Blob(http.StatusOK, "application/yaml", raw)
	})
	points := func(mime, ending string, write func(context.Context, uuid.UUID, uuid.UUID) ([]byte, store.Clip, error)) echo.HandlerFunc {
		return func(c *echo.Context) error {
			id, err := uuid.Parse(c.Param("id"))
			if err != nil {
				return problem.Missing("clip")
			}
			ctx := c.Request().Context()
			raw, clip, err := write(ctx, who(ctx).TeamID, id)
			if err != nil {
				return err
			}
			c.Response().Header().Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(strings.TrimSuffix(clip.Name, path.Ext(clip.Name))+ending))
			return c.Blob(http.StatusOK, mime, raw)
		}
	}
	s.bytes(g, api, "GET", "/clips/{id}/keypoints.json", "clipKeypoints", "The points of a clip as COCO keypoints", "application/json", points("application/json", ".coco.json", s.Workspace.Keypoints))
	s.bytes(g, api, "GET", "/clips/{id}/points.c3d", "clipC3D", "The points of a clip as C3D, with contacts and positions as events", "application/octet-stream", points("application/octet-stream", ".c3d", s.Workspace.C3D))
	s.bytes(g, api, "GET", "/attempts/{id}/space.c3d", "spaceC3D", "Places in the world from two clips of an attempt, mm, as C3D, with contacts and positions as events", "application/octet-stream", func(c *echo.Context) error {
		id, err := uuid.Parse(c.Param("id"))
		if err != nil {
			return problem.Missing("attempt")
		}
		ctx := c.Request().Context()
		raw, err := s.Workspace.Space(ctx, who(ctx).TeamID, id, s.Analysis.Lag)
		if err != nil {
			return err
		}
		c.Response().Header().Set("Content-Disposition", "attachment; filename=space.c3d")
		return c.Blob(http.StatusOK, "application/octet-stream", raw)
	})
	s.bytes(g, api, "GET", "/clips/{id}/score.vtt", "phasesVTT", "Phases and contacts of a clip as subtitles", "text/vtt", func(c *echo.Context) error {
		clip, err := s.clipOf(c)
		if err != nil {
			return err
		}
		if len(clip.Stamps) == 0 {
			return problem.New(problem.NotFound, "This clip is not imported yet.")
		}
		sh, err := s.sheet(c.Request().Context(), clip.AttemptID)
		if err != nil {
			return err
		}
		var out bytes.Buffer
		if err := feedback.WriteVTT(&out, sh, clip); err != nil {
			return err
		}
		c.Response().Header().Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(strings.TrimSuffix(clip.Name, path.Ext(clip.Name))+".vtt"))
		return c.Blob(http.StatusOK, "text/vtt; charset=utf-8", out.Bytes())
	})
	s.bytes(g, api, "GET", "/attempts/{id}/export.csv", "exportCSV", "All readings of an attempt", "text/csv", func(c *echo.Context) error {
		return s.export(c, "csv", "text/csv; charset=utf-8", func(_ context.Context, w io.Writer, sh workspace.Workspace) error { return feedback.WriteCSV(w, sh) })
	})
	s.bytes(g, api, "GET", "/attempts/{id}/export.json", "exportJSON", "All of an attempt, with its tracks", "application/json", func(c *echo.Context) error {
		return s.export(c, "json", "application/json", func(_ context.Context, w io.Writer, sh workspace.Workspace) error { return feedback.WriteJSON(w, sh) })
	})
}

// etag names a file of a clip by what it is made from.
func etag(c store.Clip, more ...string) string {
	sum := sha256.Sum256([]byte(fmt.Sprint(c.ID, c.State, c.JobID, len(c.Stamps), more)))
	return `"` + hex.EncodeToString(sum[:12]) + `"`
}

// picture answers with a JPEG that the browser may keep and must ask about.
func picture(c *echo.Context, etag string, raw []byte) error {
	h := c.Response().Header()
	h.Set("Content-Type", "image/jpeg")
	h.Set("Cache-Control", private)
	h.Set("ETag", etag)
	http.ServeContent(c.Response(), c.Request(), "", time.Time{}, bytes.NewReader(raw))
	return nil
}

func (s *server) clipOf(c *echo.Context) (store.Clip, error) {
	id, err := uuid.Parse(c.Param("id"))
	if err != nil {
		return store.Clip{}, problem.Missing("clip")
	}
	return s.Store.Clip(c.Request().Context(), who(c.Request().Context()).TeamID, id)
}

// export makes a file of an attempt as a whole before the first byte leaves, so
// that a failure is an error and not half a file.
func (s *server) export(c *echo.Context, ending, mime string, write func(context.Context, io.Writer, workspace.Workspace) error) error {
	ctx := c.Request().Context()
	id, err := uuid.Parse(c.Param("id"))
	if err != nil {
		return problem.Missing("attempt")
	}
	sh, err := s.sheet(ctx, id)
	if err != nil {
		return err
	}
	var out bytes.Buffer
	if err := write(ctx, &out, sh); err != nil {
		return err
	}
	name := fmt.Sprintf("%s %s %s.%s", sh.Athlete.Name, sh.Model.Name, sh.Attempt.DoneOn, ending)
	c.Response().Header().Set("Content-Disposition", "attachment; filename*=UTF-8''"+url.PathEscape(name))
	return c.Blob(http.StatusOK, mime, out.Bytes())
}

func writeJSON(w io.Writer, v any) error { return json.NewEncoder(w).Encode(v) }
