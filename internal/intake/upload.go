package intake

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"os"
	"path"
	"path/filepath"
	"strconv"
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

// guestKey carries the link and the athlete to which a guest's upload is bound.
type guestKey struct{}

type guestOf struct{ share, athlete uuid.UUID }

// WithGuest binds the uploads of a request to one link and its athlete's attempts: a
// guest who sends the next clip can reach nothing else.
func WithGuest(ctx context.Context, share, athlete uuid.UUID) context.Context {
	return context.WithValue(ctx, guestKey{}, guestOf{share, athlete})
}

// guest refuses an attempt that this request may not upload to: with fresh, one that
// somebody has worked on already.
func (s *Service) guest(ctx context.Context, team, attempt uuid.UUID, fresh bool) error {
	g, bound := ctx.Value(guestKey{}).(guestOf)
	if !bound {
		return nil
	}
	a, err := s.store.Attempt(ctx, team, attempt)
	if err == nil && (a.AthleteID != g.athlete || fresh && (a.State != "new" || a.Revision > 0)) {
		err = problem.Missing("attempt")
	}
	return err
}

// Uploads serves the tus protocol under base. Each request must carry
// [WithTeam]; another team's upload looks as if it were not there.
func (s *Service) Uploads(base string) (http.Handler, error) {
	composer := tus.NewStoreComposer()
	files := filestore.New(s.uploads)
	files.DirModePerm, files.FileModePerm = 0o700, 0o600
	files.UseIn(composer)
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
		id := path.Base(r.URL.Path)
		if id == "." || id == "/" {
			h.ServeHTTP(w, r)
			return
		}
		there, err := s.begun(r.Context(), id)
		switch {
		case err != nil:
			p := problem.From(err)
			http.Error(w, p.Says, p.GetStatus())
		case r.Method == http.MethodHead && there.clip:
			// The file may be on the shelf already: the browser missed the last answer.
			h := w.Header()
			h.Set("Tus-Resumable", "1.0.0")
			h.Set("Cache-Control", "no-store")
			h.Set("Upload-Offset", strconv.FormatInt(there.bytes, 10))
			h.Set("Upload-Length", strconv.FormatInt(there.bytes, 10))
			w.WriteHeader(http.StatusOK)
		case r.Method == http.MethodDelete:
			seen := &status{ResponseWriter: w}
			h.ServeHTTP(seen, r)
			if seen.code < 300 {
				if err := s.store.DropUpload(r.Context(), there.id); err != nil {
					s.log.Warn("a stopped upload is forgotten later", "upload", id, "error", err)
				}
			}
		default:
			h.ServeHTTP(w, r)
		}
	}), nil
}

// arrived is what is known of an upload.
type arrived struct {
	id    uuid.UUID
	clip  bool // there is a clip of it
	bytes int64
}

// begun finds an upload of the request's team. One whose file is complete gets its clip
// before anybody hears that all is there: a server may have died between the last byte
// and the clip.
func (s *Service) begun(ctx context.Context, id string) (out arrived, err error) {
	team, _ := ctx.Value(teamKey{}).(uuid.UUID)
	if out.id, err = uuid.Parse(id); err != nil {
		return out, problem.Missing("upload")
	}
	attempt, err := s.store.UploadFor(ctx, team, out.id)
	if err != nil {
		return out, err
	}
	find := func() error {
		c, err := s.store.Clip(ctx, team, out.id)
		if problem.Is(err, problem.NotFound) {
			return nil
		}
		out.clip, out.bytes = err == nil, c.Bytes
		return err
	}
	if err := find(); err != nil {
		return out, err
	}
	if err := s.guest(ctx, team, attempt, !out.clip); err != nil || out.clip {
		return out, err
	}
	if size, whole := s.complete(out.id); whole {
		if err := s.finish(ctx, out.id, size, true); err != nil {
			return out, err
		}
		return out, find()
	}
	return out, nil
}

// status remembers how a request was answered.
type status struct {
	http.ResponseWriter
	code int
}

// WriteHeader is called by the upload handler.
func (s *status) WriteHeader(code int) {
	s.code = code
	s.ResponseWriter.WriteHeader(code)
}

// Unwrap lets the upload handler reach what is below.
func (s *status) Unwrap() http.ResponseWriter { return s.ResponseWriter }

// complete tells whether all of an upload's bytes are on the disk.
func (s *Service) complete(id uuid.UUID) (size int64, whole bool) {
	raw, err := os.ReadFile(s.uploadPath(id) + ".info")
	if err != nil {
		return 0, false
	}
	var info tus.FileInfo
	if json.Unmarshal(raw, &info) != nil || info.SizeIsDeferred {
		return 0, false
	}
	st, err := os.Stat(s.uploadPath(id))
	return info.Size, err == nil && info.Size > 0 && st.Size() == info.Size
}

func (s *Service) finish(ctx context.Context, id uuid.UUID, size int64, sent bool) error {
	return s.store.AddClip(ctx, id, size, func(tx *sqlx.Tx) (int64, error) { return s.enqueue(ctx, tx, id, sent) })
}

// uploadsLast is how long an upload may stand still before it is given up.
const uploadsLast = 48 * time.Hour

// Reconcile makes clips of uploads that came in whole while no clip could be made of
// them, gives up those that have stood still for days, and removes what is on the shelf
// already. It tells how many clips it made.
func (s *Service) Reconcile(ctx context.Context) (made int, err error) {
	list, err := s.store.OpenUploads(ctx)
	if err != nil {
		return 0, err
	}
	for _, u := range list {
		if size, whole := s.complete(u.ID); whole {
			if err := s.finish(ctx, u.ID, size, true); err != nil {
				return made, err
			}
			made++
			s.log.Info("an upload that had come in whole has its clip now", "clip", u.ID)
			continue
		}
		last := u.CreatedAt // and when its last byte came
		if st, err := os.Stat(s.uploadPath(u.ID)); err == nil {
			last = st.ModTime()
		}
		if time.Since(last) > uploadsLast {
			s.dropUpload(u.ID)
			if err := s.store.DropUpload(ctx, u.ID); err != nil {
				return made, err
			}
		}
	}
	shelved, err := s.store.ShelvedUploads(ctx)
	for _, id := range shelved {
		s.dropUpload(id)
		err = errors.Join(err, s.store.DropUpload(ctx, id))
	}
	return made, err
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
	if err := s.guest(hook.Context, team, attempt, true); err != nil {
		return fail(err)
	}
	if hook.Upload.Size == 0 {
		return fail(problem.New(problem.Invalid, "This file is empty. Copy it from the phone again."))
	}
	if free, known := s.free(s.uploads); known {
		promised, err := s.promised(hook.Context)
		if err != nil {
			return fail(err)
		}
		if free < 3*hook.Upload.Size+promised+spareRoom {
			return fail(problem.New(problem.NoRoom, "The server has no room for this file. Free some space, then drop it again."))
		}
	}
	u := store.Upload{ID: uuid.New(), TeamID: team, AttemptID: attempt, Name: cleanName(hook.Upload.MetaData["filename"]), Bytes: hook.Upload.Size}
	if g, bound := hook.Context.Value(guestKey{}).(guestOf); bound && g.share != uuid.Nil {
		u.ShareID = &g.share
	}
	if err := s.store.AddUpload(hook.Context, u); err != nil {
		return fail(err)
	}
	return tus.HTTPResponse{}, tus.FileInfoChanges{ID: u.ID.String()}, nil
}

// free is what the disk of a folder has left, bytes.
func free(folder string) (bytes int64, known bool) {
	var disk syscall.Statfs_t
	if err := syscall.Statfs(folder, &disk); err != nil {
		return 0, false
	}
	return int64(disk.Bavail) * disk.Bsize, true
}

// promised is what uploads that are begun will still bring, bytes.
func (s *Service) promised(ctx context.Context) (sum int64, err error) {
	list, err := s.store.OpenUploads(ctx)
	for _, u := range list {
		sum += u.Bytes
		if st, err := os.Stat(s.uploadPath(u.ID)); err == nil {
			sum -= st.Size()
		}
	}
	return sum, err
}

// Room refuses what would leave too little of the disk.
func (s *Service) Room(bytes int64) error {
	if free, known := s.free(s.uploads); known && free < bytes+spareRoom {
		return problem.New(problem.NoRoom, "The server has no room for this. Free some space, then try again.")
	}
	return nil
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
	if err := s.finish(hook.Context, id, hook.Upload.Size, true); err != nil {
		return tus.HTTPResponse{}, tusProblem(err)
	}
	return tus.HTTPResponse{}, nil
}

// Take adds a local file to an attempt; the demo and the command line use it. It is not drafted.
// The file is copied.
func (s *Service) Take(ctx context.Context, team, attempt uuid.UUID, name, file string) (store.Clip, error) {
	return s.take(ctx, team, attempt, name, file, false)
}

// Receive is [Service.Take] for a file that is drafted as one that was uploaded.
func (s *Service) Receive(ctx context.Context, team, attempt uuid.UUID, name, file string) (store.Clip, error) {
	return s.take(ctx, team, attempt, name, file, true)
}

func (s *Service) take(ctx context.Context, team, attempt uuid.UUID, name, file string, sent bool) (store.Clip, error) {
	raw, err := os.ReadFile(file)
	if err != nil {
		return store.Clip{}, err
	}
	u := store.Upload{ID: uuid.New(), TeamID: team, AttemptID: attempt, Name: cleanName(name), Bytes: int64(len(raw))}
	if err := s.store.AddUpload(ctx, u); err != nil {
		return store.Clip{}, err
	}
	if err := os.WriteFile(s.uploadPath(u.ID), raw, 0o600); err != nil {
		return store.Clip{}, err
	}
	if err := s.finish(ctx, u.ID, u.Bytes, sent); err != nil {
		return store.Clip{}, err
	}
	return s.store.Clip(ctx, team, u.ID)
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
