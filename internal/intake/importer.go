package intake

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"
	"github.com/riverqueue/river"

	"neokinema/core/timebase"
	"neokinema/internal/guard"
	"neokinema/internal/media"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// How often an import is begun: a server that dies with it counts, so that a file which
// ends servers does not do so for ever; and how often it may fail by itself.
const (
	mostAttempts = 8
	mostFailures = 3
)

// awayTime is how long an import waits when the database was away.
const awayTime = 5 * time.Second

type importArgs struct {
	Clip uuid.UUID `json:"clip"`
	Sent bool      `json:"sent"`
}

func (importArgs) Kind() string { return "import_clip" }

// importer turns an uploaded file into a clip that can be stepped. Every step
// can be repeated, so a crash at any point only costs time.
type importer struct {
	river.WorkerDefaults[importArgs]
	intake *Service
}

// Work is called by the queue.
func (w *importer) Work(ctx context.Context, job *river.Job[importArgs]) error {
	s := w.intake
	c, err := s.store.ClipForImport(ctx, job.Args.Clip)
	var p *problem.Problem
	if problem.Is(err, problem.NotFound) || err == nil && (c.State == "cancelled" || c.State == "ready") {
		return nil // deleted or cancelled while it waited
	} else if err != nil {
		return err
	}
	start := time.Now()
	err = guard.Do(func() error { return s.importClip(ctx, &c, job.Args.Sent) })
	switch {
	case err == nil:
		s.log.Info("clip imported", "clip", c.ID, "frames", len(c.Stamps), "took", time.Since(start))
		return nil
	case errors.Is(context.Cause(ctx), river.ErrJobCancelledRemotely):
		return river.JobCancel(err)
	case ctx.Err() != nil && !errors.Is(ctx.Err(), context.DeadlineExceeded):
		return err // the server stops; the job is taken up again
	case s.gone(ctx, c.ID):
		return nil // deleted meanwhile
	case ctx.Err() != nil:
		err = media.ErrTooLong
	}
	refused := errors.As(err, &p) || refusal(err)
	if refused && p != nil && p.Kind == problem.Unavailable {
		return river.JobSnooze(awayTime) // that is not the file's fault
	}
	s.log.Warn("import failed", "clip", c.ID, "error", err, "refused", refused)
	if !refused && len(job.Errors)+1 < mostFailures {
		return err // perhaps something was away for a moment: try again
	}
	c.State, c.Problem = "failed", words(err)
	if err := s.store.SaveImport(context.WithoutCancel(ctx), c); err != nil {
		return err
	}
	return river.JobCancel(err)
}

// gone tells whether a clip has been deleted.
func (s *Service) gone(ctx context.Context, id uuid.UUID) bool {
	_, err := s.store.ClipForImport(context.WithoutCancel(ctx), id)
	return problem.Is(err, problem.NotFound)
}

// refusal tells whether trying again would be of no use.
func refusal(err error) bool {
	for _, e := range []error{media.ErrNotVideo, media.ErrAudioOnly, media.ErrCut, media.ErrNoFrames, media.ErrClock, media.ErrTooLong, media.ErrTooMuch, syscall.ENOSPC} {
		if errors.Is(err, e) {
			return true
		}
	}
	return strings.Contains(err.Error(), "is too large")
}

func words(err error) string {
	var p *problem.Problem
	switch {
	case errors.As(err, &p):
		return p.Says
	case errors.Is(err, syscall.ENOSPC):
		return "The disk of the server was full during the import. The upload is kept: free some space and press “try again”."
	case refusal(err):
		return sentence(err)
	}
	return "This video could not be decoded. Send it as the phone saved it, or convert it to MP4 (H.264) first."
}

func (s *Service) importClip(ctx context.Context, c *store.Clip, sent bool) error {
	path := s.uploadPath(c.ID)
	if _, err := os.Stat(path); err != nil {
		// A second import works from the shelf.
		if path, err = s.shelf.local(ctx, key(c.ID, original)); err != nil {
			return err
		}
	}
	c.State, c.Warnings = "importing", nil
	info, err := media.Probe(ctx, path)
	if err != nil {
		return err
	}
	still, err := media.FirstStill(ctx, path, 640)
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case errors.Is(err, media.ErrTooLong), errors.Is(err, media.ErrTooMuch), errors.Is(err, syscall.ENOSPC):
		return err
	case err != nil:
		return media.ErrNoFrames
	}
	hold := func(put func() error) error { return s.store.Hold(ctx, "clips", c.ID, put) }
	if err := hold(func() error { return s.shelf.putBytes(ctx, key(c.ID, poster), still) }); err != nil {
		return err
	}
	c.Width, c.Height, c.Codec = info.Width, info.Height, info.Codec
	c.FileRate, c.Progress = info.FileRate, 0.02
	if !info.Taken.IsZero() {
		c.TakenAt = &info.Taken
	}
	if err := s.store.SaveImport(ctx, *c); err != nil {
		return err
	}
	if err := s.refuseSame(ctx, c, path); err != nil {
		return err
	}

	dir, err := os.MkdirTemp(s.work, "import-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	out := filepath.Join(dir, proxy)
	expected := max(info.Frames, int(info.Duration*info.FileRate), 1)
	last := time.Now()
	p, err := media.MakeProxy(ctx, path, out, info, func(frames int) {
		if time.Since(last) > 250*time.Millisecond {
			last = time.Now()
			c.Progress = min(0.95, float64(frames)/float64(expected))
			_, _ = s.store.DB.ExecContext(ctx, `UPDATE clips SET progress = $2 WHERE id = $1`, c.ID, c.Progress) // only a picture of progress
		}
	})
	if err != nil {
		return err
	}
	c.Stamps, c.ProxyScale = p.Stamps, p.Scale
	if rate := timebase.FileRate(p.Stamps); rate > 0 {
		c.FileRate = rate
	}
	if _, err := s.listen(ctx, *c, path); err != nil {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		s.log.Warn("a clip could not be listened to", "clip", c.ID, "err", err) // its pictures do without
	}
	m := p.Motion
	c.Direction, c.Pictures = m.Direction, m.Pictures
	c.CaptureRate, c.RateFrom = captureRate(info, c.FileRate, m.Pictures)
	if o, ok := m.Pictures.Offered(c.FileRate); ok {
		c.OfferColumn.V = &o
	}
	c.Warnings = append(c.Warnings, warnings(info, *c, m)...)
	if err := hold(func() error { return s.shelf.put(ctx, key(c.ID, proxy), out) }); err != nil {
		return err
	}
	if strings.HasPrefix(path, s.uploads) {
		if err := hold(func() error { return s.shelf.put(ctx, key(c.ID, original), path) }); err != nil {
			return err
		}
	}
	_, c.MediaBytes = s.shelf.held(ctx, c.ID)
	c.State, c.Progress, c.Problem = "ready", 1, ""
	err = s.store.FinishImport(ctx, *c, func(tx *sqlx.Tx) error {
		if !sent || s.after == nil {
			return nil
		}
		return s.after(ctx, tx, *c)
	})
	if err != nil {
		return err
	}
	s.dropUpload(c.ID)
	return s.store.DropUpload(ctx, c.ID)
}

// refuseSame refuses a file that this attempt already has and warns of one that
// another attempt has.
func (s *Service) refuseSame(ctx context.Context, c *store.Clip, path string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return err
	}
	c.SHA256 = hex.EncodeToString(h.Sum(nil))
	other, found, err := s.store.SameClip(ctx, *c)
	if err != nil || !found {
		return err
	}
	if other.AttemptID == c.AttemptID {
		return problem.New(problem.Invalid, "This attempt has the same file already (%s). Nothing was added; remove this line.", other.Name)
	}
	c.Warnings = append(c.Warnings, "The same file is also on another attempt. Check that this is not one attempt taken for two.")
	return nil
}

// captureRate says how fast the camera was. Files that play at 100 a second or
// more are not slowed down again by any phone; but programs make them by copying pictures.
func captureRate(info media.Info, fileRate float64, shows timebase.Pictures) (rate float64, from string) {
	switch {
	case shows.Stills(): // nobody is asked for what nothing is read by
		return fileRate, "file"
	case timebase.CheckCaptureRate(info.CaptureRate) == nil:
		return info.CaptureRate, "file"
	case fileRate >= 100 && shows == "" && timebase.CheckCaptureRate(fileRate) == nil:
		return fileRate, "file"
	}
	return 0, "unknown"
}

// warnings are plain words on what the material cannot carry.
func warnings(info media.Info, c store.Clip, m media.Motion) []string {
	var w []string
	add := func(format string, args ...any) { w = append(w, fmt.Sprintf(format, args...)) }
	if len(c.Stamps) == 1 {
		add("Only one frame: angles can be read, times cannot.")
	} else if n := c.Pictures.Count(timebase.Own); c.Pictures.Stills() {
		add("%d stills, each held for a while: positions and angles can be read, times and ways between them cannot.", n)
	} else if info.Frames > 0 && len(c.Stamps) < info.Frames*9/10 {
		add("The file is damaged: %d of %d frames could be read. Copy it from the phone again if the part you need is missing.", len(c.Stamps), info.Frames)
	}
	if c.Height > c.Width {
		add("Held upright: much of the picture is not the athlete. Turn the phone next time.")
	}
	if m.Share > 0 && m.Share*float64(c.Height) < 200 {
		add("The athlete is small in the picture (about %.0f px tall). Go closer or zoom: small joints mean large doubt.", m.Share*float64(c.Height))
	}
	if timebase.Variable(c.Stamps) {
		add("The frame rate varies inside the file. Times follow the time stamps, so this does no harm.")
	}
	if perPixel := info.BitRate / (float64(info.Width*info.Height) * max(info.FileRate, 1)); info.BitRate > 0 && perPixel < 0.008 {
		add("Heavily compressed, perhaps by a messenger. Ask for the original file.")
	}
	if info.Bits > 8 {
		add("Filmed with %d bits of colour; shown with 8.", info.Bits)
	}
	return w
}
