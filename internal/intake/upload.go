package intake

import (
	"context"
	"errors"
	"io"
	"net/http"
	"os"
	"path"
	"path/filepath"
	"strings"
	"syscall"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"
	"github.com/tus/tusd/v2/pkg/filelocker"
	"github.com/tus/tusd/v2/pkg/filestore"
	tus "github.com/tus/tusd/v2/pkg/handler"
	"golang.org/x/exp/slog"

	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// LargestUpload is 2 GB, the longest clips that phones make of an attempt.
const LargestUpload = 2 << 30

// spareRoom is what must stay free on the disk beside an upload and its proxy.
const spareRoom = 512 << 20

// teamKey carries the signed-in team to the upload hooks.
type teamKey struct{}

// WithTeam notes the team of a request.
func WithTeam(ctx context.Context, team uuid.UUID) context.Context {
	return context.WithValue(ctx, teamKey{}, team)
}

// athleteKey carries the athlete to whose attempts a guest's upload is bound.
type athleteKey struct{}

// WithAthlete binds the uploads of a request to one athlete's attempts: a guest who
// sends the next clip can reach nothing else.
func WithAthlete(ctx context.Context, athlete uuid.UUID) context.Context {
	return context.WithValue(ctx, athleteKey{}, athlete)
}

// guest tells whether an attempt may not be uploaded to by this request.
func (s *Service) guest(ctx context.Context, team, attempt uuid.UUID) error {
	athlete, bound := ctx.Value(athleteKey{}).(uuid.UUID)
	if !bound {
		return nil
	}
	a, err := s.store.Attempt(ctx, team, attempt)
	if err == nil && (a.AthleteID != athlete || a.State != "new" || a.Revision > 0) {
		err = problem.Missing("attempt")
	}
	return err
}

// Uploads serves the tus protocol under base. Each request must carry
// [WithTeam]; another team's upload looks as if it were not there.
func (s *Service) Uploads(base string) (http.Handler, error) {
	composer := tus.NewStoreComposer()
	filestore.New(s.uploads).UseIn(composer)
	filelocker.New(s.uploads).UseIn(composer)
	h, err := tus.NewHandler(tus.Config{
		StoreComposer: composer, BasePath: base, MaxSize: LargestUpload,
		DisableDownload: true, DisableConcatenation: true,
		Logger:                    slog.New(slog.NewTextHandler(io.Discard, nil)),
		NetworkTimeout:            30 * time.Second,
		PreUploadCreateCallback:   s.uploadBegins,
		PreFinishResponseCallback: s.uploadDone,
	})
	if err != nil {
		return nil, err
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if id := path.Base(r.URL.Path); id != "." && id != "/" {
			team, _ := r.Context().Value(teamKey{}).(uuid.UUID)
			upload, err := uuid.Parse(id)
			if err == nil {
				var attempt uuid.UUID
				if attempt, err = s.store.UploadFor(r.Context(), team, upload); err == nil {
					err = s.guest(r.Context(), team, attempt)
				}
			} else {
				err = problem.Missing("upload")
			}
			if err != nil {
				p := problem.From(err)
				http.Error(w, p.Says, p.GetStatus())
				return
			}
		}
		h.ServeHTTP(w, r)
	}), nil
}

func tusProblem(err error) error {
	p := problem.From(err)
	return tus.NewError(string(p.Kind), p.Says, p.GetStatus())
}

func (s *Service) uploadBegins(hook tus.HookEvent) (tus.HTTPResponse, tus.FileInfoChanges, error) {
	fail := func(err error) (tus.HTTPResponse, tus.FileInfoChanges, error) {
		return tus.HTTPResponse{}, tus.FileInfoChanges{}, tusProblem(err)
	}
	team, _ := hook.Context.Value(teamKey{}).(uuid.UUID)
	attempt, err := uuid.Parse(hook.Upload.MetaData["attempt"])
	if err != nil {
		return fail(problem.New(problem.Invalid, "An upload must name the attempt that it belongs to."))
	}
	if err := s.guest(hook.Context, team, attempt); err != nil {
		return fail(err)
	}
	if hook.Upload.Size == 0 {
		return fail(problem.New(problem.Invalid, "This file is empty. Copy it from the phone again."))
	}
	var disk syscall.Statfs_t
	if err := syscall.Statfs(s.uploads, &disk); err == nil {
		if free := int64(disk.Bavail) * disk.Bsize; free < 3*hook.Upload.Size+spareRoom {
			return fail(problem.New(problem.NoRoom, "The server has no room for this file. Free some space, then drop it again."))
		}
	}
	id := uuid.New()
	if err := s.store.AddUpload(hook.Context, team, attempt, id, cleanName(hook.Upload.MetaData["filename"])); err != nil {
		return fail(err)
	}
	return tus.HTTPResponse{}, tus.FileInfoChanges{ID: id.String()}, nil
}

// cleanName keeps a file's name showable, whatever characters it has.
func cleanName(name string) string {
	name = strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || r == utf8.RuneError {
			return -1
		}
		return r
	}, filepath.Base(strings.ReplaceAll(name, `\`, "/")))
	if len([]rune(name)) > 200 {
		name = string([]rune(name)[:200])
	}
	if name == "" || name == "." || name == "/" {
		return "clip"
	}
	return name
}

func (s *Service) uploadDone(hook tus.HookEvent) (tus.HTTPResponse, error) {
	id, err := uuid.Parse(hook.Upload.ID)
	if err != nil {
		return tus.HTTPResponse{}, tusProblem(err)
	}
	err = s.store.AddClip(hook.Context, id, hook.Upload.Size, func(tx *sqlx.Tx) (int64, error) { return s.enqueue(hook.Context, tx, id) })
	if err != nil {
		return tus.HTTPResponse{}, tusProblem(err)
	}
	return tus.HTTPResponse{}, nil
}

// Take adds a local file to an attempt as if it had been uploaded; the demo and
// the command line use it. The file is copied.
func (s *Service) Take(ctx context.Context, team, attempt uuid.UUID, name, file string) (store.Clip, error) {
	id := uuid.New()
	if err := s.store.AddUpload(ctx, team, attempt, id, cleanName(name)); err != nil {
		return store.Clip{}, err
	}
	raw, err := os.ReadFile(file)
	if err != nil {
		return store.Clip{}, err
	}
	if err := os.WriteFile(s.uploadPath(id), raw, 0o644); err != nil {
		return store.Clip{}, err
	}
	if err := s.store.AddClip(ctx, id, int64(len(raw)), func(tx *sqlx.Tx) (int64, error) { return s.enqueue(ctx, tx, id) }); err != nil {
		return store.Clip{}, err
	}
	return s.store.Clip(ctx, team, id)
}

func (s *Service) uploadPath(id uuid.UUID) string { return filepath.Join(s.uploads, id.String()) }

// dropUpload removes what the upload left once the original is on the shelf.
func (s *Service) dropUpload(id uuid.UUID) {
	for _, suffix := range []string{"", ".info", ".lock"} {
		if err := os.Remove(s.uploadPath(id) + suffix); err != nil && !errors.Is(err, os.ErrNotExist) {
			s.log.Warn("upload not removed", "upload", id, "error", err)
		}
	}
}
