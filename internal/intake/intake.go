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
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"

	"neokinema/core/audiosync"
	"neokinema/core/timebase"
	"neokinema/internal/guard"
	"neokinema/internal/media"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Service is the intake.
type Service struct {
	store   *store.Store
	shelf   *MediaStore
	jobs    *river.Client[*sql.Tx]
	uploads string
	work    string
	log     *slog.Logger
	stills  *drawer
	free    func(folder string) (bytes int64, known bool)
	after   func(ctx context.Context, tx *sqlx.Tx, clip store.Clip) error
	stop    []func()
}

// Options of New.
type Options struct {
	Server  string // name of this program among those on the database
	Uploads string // folder of uploads in progress; shared by all programs on the database
	Work    string // folder for files in between, of this program alone
	Log     *slog.Logger
	// ImportTime is what one import may take; 25 minutes when zero. ffmpeg has limits of
	// its own below it.
	ImportTime time.Duration
	// Free is what the disk of a folder has left; asked of the system when nil.
	Free func(folder string) (bytes int64, known bool)
}

// New makes the intake. Call Run to work on imports.
func New(s *store.Store, shelf *MediaStore, o Options) (*Service, error) {
	i := &Service{store: s, shelf: shelf, uploads: o.Uploads, work: o.Work, log: o.Log, stills: newDrawer(o.Work), free: o.Free}
	if i.free == nil {
		i.free = free
	}
	if err := os.MkdirAll(i.uploads, 0o700); err != nil {
		return nil, err
	}
	if o.ImportTime == 0 {
		o.ImportTime = 25 * time.Minute
	}
	workers := river.NewWorkers()
	river.AddWorker(workers, &importer{intake: i})
	var err error
	i.jobs, err = river.NewClient(riverdatabasesql.NewWithPgxListener(s.DB.DB, s.Pool), &river.Config{
		ID: o.Server + "-imports",
		// ffmpeg uses all cores by itself; two imports keep both busy while one probes.
		Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 2}}, Workers: workers,
		FetchCooldown: 20 * time.Millisecond, FetchPollInterval: 500 * time.Millisecond,
		JobTimeout: o.ImportTime, RescueStuckJobsAfter: 2 * o.ImportTime, MaxAttempts: mostAttempts, Logger: slog.New(slog.DiscardHandler),
	})
	return i, err
}

// Run works on imports until Stop, and puts right what others left: jobs of programs
// that died, finished uploads without a clip, media without a row.
func (s *Service) Run(ctx context.Context) error {
	if err := s.Rescue(ctx); err != nil {
		return err
	}
	if err := s.jobs.Start(ctx); err != nil {
		return err
	}
	s.stop = append(s.stop,
		guard.Every(store.Silence, s.log, "jobs could not be taken over", func() error { return s.Rescue(ctx) }),
		guard.Every(time.Minute, s.log, "uploads could not be put right", func() error { _, err := s.Reconcile(ctx); return err }),
		guard.Every(time.Hour, s.log, "the sweep did not come through", func() error { _, err := s.Sweep(ctx, time.Now()); return err }))
	return nil
}

// Stop lets running imports go; they are taken up at the next start.
func (s *Service) Stop(ctx context.Context) error {
	for _, stop := range s.stop {
		stop()
	}
	s.stop = nil
	return s.jobs.StopAndCancel(ctx)
}

// Rescue takes over the jobs of programs that died, and gives up what has been begun as
// often as it may be.
func (s *Service) Rescue(ctx context.Context) error {
	given, err := s.store.RescueJobs(ctx)
	if given > 0 {
		s.log.Error("jobs were broken off too often and are given up", "jobs", given)
	}
	return err
}

// After says what is to happen with a clip that somebody has sent, in the transaction
// that makes it ready. It must be called before Run.
func (s *Service) After(f func(ctx context.Context, tx *sqlx.Tx, clip store.Clip) error) { s.after = f }

// enqueue asks for an import; sent tells that somebody has sent the clip, and not that
// the demo brought it.
func (s *Service) enqueue(ctx context.Context, tx *sqlx.Tx, clip uuid.UUID, sent bool) (int64, error) {
	r, err := s.jobs.InsertTx(ctx, tx.Tx, importArgs{Clip: clip, Sent: sent}, nil)
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
		job, err := s.enqueue(ctx, tx, id, true)
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
	return s.deleted(ctx, team, "clip", func() (store.Removed, error) { return s.store.DeleteClip(ctx, team, id) })
}

// DeleteAttempt removes an attempt and the media of its clips, for good.
func (s *Service) DeleteAttempt(ctx context.Context, team, id uuid.UUID) (store.Deletion, error) {
	return s.deleted(ctx, team, "attempt", func() (store.Removed, error) { return s.store.DeleteAttempt(ctx, team, id) })
}

// DeleteAthlete removes an athlete with all attempts and media, for good.
func (s *Service) DeleteAthlete(ctx context.Context, team, id uuid.UUID) (store.Deletion, error) {
	return s.deleted(ctx, team, "athlete", func() (store.Removed, error) { return s.store.DeleteAthlete(ctx, team, id) })
}

// DeleteTeam removes a team with everybody and everything, for good. No record of it
// can be kept with the team; what was removed is answered.
func (s *Service) DeleteTeam(ctx context.Context, team uuid.UUID) (store.Deletion, error) {
	gone, err := s.store.DeleteTeam(ctx, team)
	if err != nil {
		return store.Deletion{}, err
	}
	d := s.wipe(ctx, "team", gone)
	d.CreatedAt = time.Now()
	return d, nil
}

func (s *Service) deleted(ctx context.Context, team uuid.UUID, what string, remove func() (store.Removed, error)) (store.Deletion, error) {
	gone, err := remove()
	if err != nil {
		return store.Deletion{}, err
	}
	return s.store.NoteDeletion(ctx, team, s.wipe(ctx, what, gone))
}

// wipe stops what still works on things that were removed, removes their media, and
// looks whether anything is left. Whoever puts media of a clip or film on the shelf
// holds its row meanwhile (see [store.Store.Hold]), so nothing comes after this.
func (s *Service) wipe(ctx context.Context, what string, gone store.Removed) store.Deletion {
	ctx = context.WithoutCancel(ctx) // what was begun must be done: the rows are gone
	for _, job := range gone.Jobs {
		if _, err := s.jobs.JobCancel(ctx, job); err != nil && !errors.Is(err, river.ErrNotFound) {
			s.log.Warn("a job could not be cancelled", "job", job, "error", err)
		}
	}
	d := store.Deletion{What: what, Attempts: gone.Attempts, Clips: len(gone.Clips)}
	for _, id := range slices.Concat(gone.Clips, gone.Films) {
		files, bytes := s.shelf.held(ctx, id)
		s.shelf.remove(ctx, id)
		left, _ := s.shelf.held(ctx, id)
		d.Files, d.Bytes, d.LeftOver = d.Files+files, d.Bytes+bytes, d.LeftOver+left
	}
	for _, id := range slices.Concat(gone.Clips, gone.Uploads) {
		if i, err := os.Stat(s.uploadPath(id)); err == nil {
			d.Files, d.Bytes = d.Files+1, d.Bytes+i.Size()
		}
		s.dropUpload(id)
		if _, err := os.Stat(s.uploadPath(id)); err == nil {
			d.LeftOver++
		}
	}
	return d
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
		} else if err := timebase.CheckCaptureRate(a.CaptureRate); err != nil {
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
	file, err := s.shelf.stills.File(ctx, fmt.Sprintf("%s/%d-%d.jpg", c.ID, frame, width), func(ctx context.Context, to string) error {
		raw, err := s.stills.still(ctx, path, c, frame, width)
		if err != nil {
			return err
		}
		return os.WriteFile(to, raw, 0o600)
	})
	if err != nil {
		return nil, err
	}
	return os.ReadFile(file)
}

// Grays decodes frames of a clip as grey pictures, share times as large as the
// proxy, and hands them over in order; to may lie before from.
func (s *Service) Grays(ctx context.Context, c store.Clip, from, to int, share float64, each func(media.Picture) error) error {
	path, err := s.readable(ctx, c)
	if err != nil {
		return err
	}
	w, h := sized(c, share)
	scaling := media.Shrink
	if share > 1 {
		scaling = media.Enlarge
	}
	return media.Grays(ctx, path, c.Stamps, from, to, w, h, scaling, each)
}

// Frames decodes frames of a clip, from the first to the last of a rising list, as the
// codec has them, and hands over those of the list.
func (s *Service) Frames(ctx context.Context, c store.Clip, list []int, each func(media.Picture) error) error {
	if len(list) == 0 {
		return nil
	}
	path, err := s.readable(ctx, c)
	if err != nil {
		return err
	}
	w, h := sized(c, 1)
	w, h = w+w%2, h+h%2 // the proxy is even
	first, last := list[0], list[len(list)-1]
	return media.Frames(ctx, path, c.Stamps, first, last, w, h, func(p media.Picture) error {
		if _, wanted := slices.BinarySearch(list, p.Frame); !wanted {
			return nil
		}
		return each(p)
	})
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

// soundRate is at how many samples a second clips are listened to: steps and shouts
// are plain below 4 kHz.
const soundRate = 8000

// Loudness is how loud a clip is over its file, empty for one without sound. What was not
// listened to at its import is listened to now.
func (s *Service) Loudness(ctx context.Context, c store.Clip) (audiosync.Loudness, error) {
	if l, kept, err := s.store.Sound(ctx, c.TeamID, c.ID); err != nil || kept {
		return l, err
	}
	path, err := s.shelf.local(ctx, key(c.ID, original))
	if err != nil {
		return nil, err
	}
	return s.listen(ctx, c, path)
}

// listen keeps how loud a clip's file is.
func (s *Service) listen(ctx context.Context, c store.Clip, path string) (audiosync.Loudness, error) {
	sound, err := media.Listen(ctx, path, soundRate)
	if err != nil && !errors.Is(err, media.ErrNoSound) {
		return nil, err
	}
	l := audiosync.Listen(sound.Samples, sound.Rate, sound.First)
	return l, s.store.KeepSound(ctx, c.TeamID, c.ID, l)
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
	return s.store.Hold(ctx, "films", id, func() error { return s.shelf.put(ctx, key(id, film), path) })
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
