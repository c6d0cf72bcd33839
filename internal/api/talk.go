package api

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/labstack/echo/v5"

	"neokinema/internal/feedback"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/videoexport"
	"neokinema/internal/voiceover"
)

// SharedTalk is what is said to a shared attempt, with the clips that it shows.
type SharedTalk struct {
	Chapters []voiceover.Chapter `json:"chapters"`
	Clips    []store.Clip        `json:"clips"`
}

func (s *server) talks(api huma.API) {
	register(s, api, "GET", "/attempts/{id}/chapters", "chapters", "What the coach said to an attempt", func(ctx context.Context, in *ByID) (*bodyOf[[]voiceover.Chapter], error) {
		return answer(s.Voiceover.Chapters(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "POST", "/attempts/{id}/chapters", "addChapter", "Keep a recorded chapter: the voice and what happened on the stage", func(ctx context.Context, in *struct {
		ByID
		Body voiceover.Recording
	}) (*bodyOf[voiceover.Chapter], error) {
		return answer(s.Voiceover.Add(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "PUT", "/chapters/{id}/recording", "recordAgain", "Record a chapter anew", func(ctx context.Context, in *struct {
		ByID
		Body voiceover.Recording
	}) (*bodyOf[voiceover.Chapter], error) {
		return answer(s.Voiceover.Again(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "PUT", "/chapters/{id}", "trimChapter", "Name a chapter and cut its ends off", func(ctx context.Context, in *struct {
		ByID
		Body voiceover.Cut
	}) (*bodyOf[voiceover.Chapter], error) {
		return answer(s.Voiceover.Trim(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "DELETE", "/chapters/{id}", "deleteChapter", "Remove a chapter", func(ctx context.Context, in *ByID) (*empty, error) {
		_, err := s.Store.DeleteChapter(ctx, who(ctx).TeamID, in.ID)
		return nil, err
	})
	register(s, api, "GET", "/attempts/{id}/films", "films", "Films of an attempt and how far they are", func(ctx context.Context, in *ByID) (*bodyOf[[]store.Film], error) {
		return answer(s.Store.Films(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "POST", "/attempts/{id}/films", "drawFilm", "Draw a film in the background: a talk, or two attempts side by side", func(ctx context.Context, in *struct {
		ByID
		Body videoexport.ExportRequest
	}) (*bodyOf[store.Film], error) {
		return answer(s.Export.Draw(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "DELETE", "/films/{id}", "deleteFilm", "Stop or remove a film", func(ctx context.Context, in *ByID) (*empty, error) {
		_, err := s.Export.Remove(ctx, who(ctx).TeamID, in.ID)
		return nil, err
	})
	register(s, api, "GET", "/shared/{key}/talk", "sharedTalk", "What the coach said, behind a link", func(ctx context.Context, in *ByKey) (*bodyOf[SharedTalk], error) {
		v, err := s.Share.Look(ctx, in.Key, who(ctx))
		if err != nil {
			return nil, err
		}
		out := SharedTalk{Clips: []store.Clip{}}
		for _, c := range v.Sheet.Clips {
			if c.State == "ready" {
				out.Clips = append(out.Clips, c)
			}
		}
		out.Chapters, err = s.Voiceover.Chapters(ctx, v.Share.TeamID, v.Share.AttemptID)
		return answer(out, err)
	})
}

// talkFiles are voices, films and the chapters as subtitles.
func (s *server) talkFiles(g *echo.Group, api huma.API) {
	serve := func(c *echo.Context, mime string, r io.ReadSeeker) error {
		c.Response().Header().Set("Content-Type", mime)
		c.Response().Header().Set("Cache-Control", "private, no-cache")
		http.ServeContent(c.Response(), c.Request(), "", time.Time{}, r)
		return nil
	}
	id := func(c *echo.Context, name string) (uuid.UUID, error) {
		v, err := uuid.Parse(c.Param(name))
		if err != nil {
			return v, problem.Missing("recording")
		}
		return v, nil
	}
	s.bytes(g, api, "GET", "/chapters/{id}/voice.webm", "chapterVoice", "The voice of a chapter", "audio/webm", func(c *echo.Context) error {
		n, err := id(c, "id")
		if err != nil {
			return err
		}
		voice, err := s.Store.Voice(c.Request().Context(), who(c.Request().Context()).TeamID, n)
		if err != nil {
			return err
		}
		return serve(c, "audio/webm", bytes.NewReader(voice))
	})
	s.bytes(g, api, "GET", "/shared/{key}/voices/{chapter}", "sharedVoice", "The voice of a chapter on a shared page", "audio/webm", func(c *echo.Context) error {
		ctx := c.Request().Context()
		v, err := s.Share.Look(ctx, c.Param("key"), who(ctx))
		if err != nil {
			return err
		}
		n, err := id(c, "chapter")
		if err != nil {
			return err
		}
		// Only of the attempt that was shared.
		if row, err := s.Store.Chapter(ctx, v.Share.TeamID, n); err != nil || row.AttemptID != v.Share.AttemptID {
			return problem.Missing("chapter")
		}
		voice, err := s.Store.Voice(ctx, v.Share.TeamID, n)
		if err != nil {
			return err
		}
		return serve(c, "audio/webm", bytes.NewReader(voice))
	})
	s.bytes(g, api, "GET", "/attempts/{id}/talk.vtt", "talkVTT", "The chapters of a talk as subtitles", "text/vtt", func(c *echo.Context) error {
		ctx := c.Request().Context()
		n, err := id(c, "id")
		if err != nil {
			return err
		}
		sh, err := s.Workspace.Open(ctx, who(ctx).TeamID, n)
		if err != nil {
			return err
		}
		list, err := s.Voiceover.Chapters(ctx, who(ctx).TeamID, n)
		if err != nil {
			return err
		}
		var b bytes.Buffer
		if err := feedback.WriteCues(&b, sh.Athlete.Name+", "+sh.Model.Name+", "+sh.Attempt.DoneOn, voiceover.Cues(list)); err != nil {
			return err
		}
		return c.Blob(http.StatusOK, "text/vtt; charset=utf-8", b.Bytes())
	})
	s.bytes(g, api, "GET", "/films/{id}/film.mp4", "filmVideo", "A film that was drawn", "video/mp4", func(c *echo.Context) error {
		n, err := id(c, "id")
		if err != nil {
			return err
		}
		r, err := s.Export.Open(c.Request().Context(), who(c.Request().Context()).TeamID, n)
		if err != nil {
			return err
		}
		defer r.Close()
		return serve(c, "video/mp4", r)
	})
}
