// Package intake takes clips in: uploads, the import job, the clip sheet.
package intake

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"

	"neokinema/core/clock"
	"neokinema/internal/media"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Service is the intake.
type Service struct {
	store   *store.Store
	shelf   *Shelf
	jobs    *river.Client[*sql.Tx]
	uploads string
	work    string
	log     *slog.Logger
}

// New makes the intake with its folders under dir. Call Run to work on imports.
func New(s *store.Store, shelf *Shelf, dir string, log *slog.Logger) (*Service, error) {
	i := &Service{store: s, shelf: shelf, uploads: filepath.Join(dir, "uploads"), work: filepath.Join(dir, "work"), log: log}
	for _, d := range []string{i.uploads, i.work} {
		if err := os.MkdirAll(d, 0o755); err != nil {
			return nil, err
		}
	}
	workers := river.NewWorkers()
	river.AddWorker(workers, &importer{intake: i})
	var err error
	i.jobs, err = river.NewClient(riverdatabasesql.NewWithPgxListener(s.DB.DB, s.Pool), &river.Config{
		// ffmpeg uses all cores by itself; two imports keep both busy while one probes.
		Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 2}}, Workers: workers,
		FetchCooldown: 20 * time.Millisecond, FetchPollInterval: 500 * time.Millisecond,
		JobTimeout: time.Hour, MaxAttempts: 3, Logger: slog.New(slog.DiscardHandler),
	})
	return i, err
}

// Run works on imports until Stop. Jobs that a crash left behind go on.
func (s *Service) Run(ctx context.Context) error {
	if err := s.store.RescueJobs(ctx); err != nil {
		return err
	}
	return s.jobs.Start(ctx)
}

// Stop lets running imports go; they are taken up at the next start.
func (s *Service) Stop(ctx context.Context) error { return s.jobs.StopAndCancel(ctx) }

func (s *Service) enqueue(ctx context.Context, tx *sqlx.Tx, clip uuid.UUID) (int64, error) {
	r, err := s.jobs.InsertTx(ctx, tx.Tx, importArgs{Clip: clip}, nil)
	if err != nil {
		return 0, err
	}
	return r.Job.ID, nil
}

// Cancel stops the import of a clip.
func (s *Service) Cancel(ctx context.Context, team, id uuid.UUID) (store.Clip, error) {
	c, err := s.store.Clip(ctx, team, id)
	if err != nil || c.State != "waiting" && c.State != "importing" {
		return c, err
	}
	if _, err := s.jobs.JobCancel(ctx, c.JobID); err != nil && !errors.Is(err, river.ErrNotFound) {
		return c, store.Explain(err)
	}
	if err := s.store.SetClipState(ctx, id, "cancelled", "", c.JobID); err != nil {
		return c, err
	}
	return s.store.Clip(ctx, team, id)
}

// Retry imports a failed or cancelled clip anew from its original.
func (s *Service) Retry(ctx context.Context, team, id uuid.UUID) (store.Clip, error) {
	c, err := s.store.Clip(ctx, team, id)
	if err != nil || c.State != "failed" && c.State != "cancelled" {
		return c, err
	}
	err = s.store.InTx(ctx, func(tx *sqlx.Tx) error {
		job, err := s.enqueue(ctx, tx, id)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE clips SET state = 'waiting', problem = '', progress = 0, job_id = $2 WHERE id = $1`, id, job)
		return err
	})
	if err != nil {
		return c, err
	}
	return s.store.Clip(ctx, team, id)
}

// Delete removes a clip and its media, for good.
func (s *Service) Delete(ctx context.Context, team, id uuid.UUID) (store.Deletion, error) {
	c, err := s.Cancel(ctx, team, id)
	if err != nil {
		return store.Deletion{}, err
	}
	if err := s.store.DeleteClip(ctx, team, id); err != nil {
		return store.Deletion{}, err
	}
	return s.wipe(ctx, team, store.Deletion{What: "clip"}, []uuid.UUID{c.ID})
}

// DeleteAttempt removes an attempt and the media of its clips, for good.
func (s *Service) DeleteAttempt(ctx context.Context, team, id uuid.UUID) (store.Deletion, error) {
	clips, films, err := s.store.DeleteAttempt(ctx, team, id)
	if err != nil {
		return store.Deletion{}, err
	}
	return s.wipe(ctx, team, store.Deletion{What: "attempt", Attempts: 1}, clips, films...)
}

// DeleteAthlete removes an athlete with all attempts and media, for good.
func (s *Service) DeleteAthlete(ctx context.Context, team, id uuid.UUID) (store.Deletion, error) {
	attempts, clips, films, err := s.store.DeleteAthlete(ctx, team, id)
	if err != nil {
		return store.Deletion{}, err
	}
	return s.wipe(ctx, team, store.Deletion{What: "athlete", Attempts: attempts}, clips, films...)
}

// wipe removes the media of clips and films, looks whether anything is left, and keeps
// a record of it.
func (s *Service) wipe(ctx context.Context, team uuid.UUID, d store.Deletion, clips []uuid.UUID, films ...uuid.UUID) (store.Deletion, error) {
	d.Clips = len(clips)
	for _, c := range slices.Concat(clips, films) {
		files, bytes := s.shelf.held(ctx, c)
		s.shelf.remove(ctx, c)
		s.dropUpload(c)
		left, _ := s.shelf.held(ctx, c)
		d.Files, d.Bytes, d.LeftOver = d.Files+files, d.Bytes+bytes, d.LeftOver+left
	}
	return s.store.NoteDeletion(ctx, team, d)
}

// ClipAnswers is what the coach says about a clip.
type ClipAnswers struct {
	CaptureRate float64 `json:"capture_rate" doc:"frames per second of the camera, 0 when not known"`
	View        string  `json:"view" enum:"side,back,front,oblique,above"`
	Direction   float64 `json:"direction" enum:"-1,0,1"`
}

// Answer stores the coach's answers.
func (s *Service) Answer(ctx context.Context, team, id uuid.UUID, a ClipAnswers) (store.Clip, error) {
	c, err := s.store.Clip(ctx, team, id)
	if err != nil {
		return c, err
	}
	from := c.RateFrom
	if a.CaptureRate != c.CaptureRate {
		from = "coach"
		if a.CaptureRate == 0 {
			from = "unknown"
		} else if err := clock.CheckCaptureRate(a.CaptureRate); err != nil {
			return c, problem.New(problem.Invalid, "%s", sentence(err))
		}
	}
	return s.store.SetClipFacts(ctx, team, id, a.CaptureRate, from, a.View, a.Direction)
}

// Proxy opens the proxy of a clip for streaming.
func (s *Service) Proxy(ctx context.Context, c store.Clip) (io.ReadSeekCloser, error) {
	return s.shelf.open(ctx, key(c.ID, proxy))
}

// Poster opens the small first picture of a clip.
func (s *Service) Poster(ctx context.Context, c store.Clip) (io.ReadSeekCloser, error) {
	return s.shelf.open(ctx, key(c.ID, poster))
}

// Still is frame n of a clip as JPEG: the same picture that the stage shows.
func (s *Service) Still(ctx context.Context, c store.Clip, frame, width int) ([]byte, error) {
	path, err := s.readable(ctx, c)
	if err != nil {
		return nil, err
	}
	if frame < 0 || frame >= len(c.Stamps) {
		return nil, problem.New(problem.Invalid, "Frame %d lies outside this clip of %d frames.", frame, len(c.Stamps))
	}
	return media.Still(ctx, path, c.Stamps, frame, width)
}

// Grays decodes frames of a clip as grey pictures, share times as large as the
// proxy, and hands them over in order; to may lie before from.
func (s *Service) Grays(ctx context.Context, c store.Clip, from, to int, share float64, each func(media.Picture) error) error {
	path, err := s.readable(ctx, c)
	if err != nil {
		return err
	}
	w, h := sized(c, share)
	return media.Grays(ctx, path, c.Stamps, from, to, w, h, each)
}

// Colour decodes one frame of a clip in colour, share times as large as the
// proxy.
func (s *Service) Colour(ctx context.Context, c store.Clip, frame int, share float64) (media.Picture, error) {
	path, err := s.readable(ctx, c)
	if err != nil {
		return media.Picture{}, err
	}
	w, h := sized(c, share)
	return media.Colour(ctx, path, c.Stamps, frame, w, h)
}

// Sound is the sound of a clip as it was sent, on the clock of its file.
func (s *Service) Sound(ctx context.Context, c store.Clip, rate int) (media.Sound, error) {
	path, err := s.shelf.local(ctx, key(c.ID, original))
	if err != nil {
		return media.Sound{}, err
	}
	return media.Listen(ctx, path, rate)
}

// Colours decodes frames of a clip in colour, share times as large as the proxy, and
// hands them over in order.
func (s *Service) Colours(ctx context.Context, c store.Clip, from, to int, share float64, each func(media.Picture) error) error {
	path, err := s.readable(ctx, c)
	if err != nil {
		return err
	}
	w, h := sized(c, share)
	return media.Colours(ctx, path, c.Stamps, from, to, w, h, each)
}

// KeepFilm puts a drawn film with the media.
func (s *Service) KeepFilm(ctx context.Context, id uuid.UUID, path string) error {
	return s.shelf.put(ctx, key(id, film), path)
}

// Film opens a drawn film.
func (s *Service) Film(ctx context.Context, id uuid.UUID) (io.ReadSeekCloser, error) {
	return s.shelf.open(ctx, key(id, film))
}

// DropFilm removes a drawn film.
func (s *Service) DropFilm(ctx context.Context, id uuid.UUID) { s.shelf.remove(ctx, id) }

// readable is a clip's proxy as a file, once it is imported.
func (s *Service) readable(ctx context.Context, c store.Clip) (string, error) {
	if c.State != "ready" {
		return "", problem.New(problem.NotFound, "This clip is not imported yet.")
	}
	return s.shelf.local(ctx, key(c.ID, proxy))
}

func sized(c store.Clip, share float64) (w, h int) {
	k := c.ProxyScale * share
	return max(2, int(math.Round(float64(c.Width)*k))), max(2, int(math.Round(float64(c.Height)*k)))
}

func sentence(err error) string {
	m := err.Error()
	return fmt.Sprintf("%c%s.", m[0]-'a'+'A', m[1:])
}
