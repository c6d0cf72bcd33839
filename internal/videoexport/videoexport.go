// Package videoexport draws films in the background: a talk with its voice, or two attempts
// side by side, with lines and numbers drawn in.
package videoexport

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"io"
	"log/slog"
	"math"
	"os"
	"path/filepath"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"

	"neokinema/core/report"
	"neokinema/internal/feedback"
	"neokinema/internal/guard"
	"neokinema/internal/intake"
	"neokinema/internal/media"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/voiceover"
	"neokinema/internal/workspace"
)

// Service draws films.
type Service struct {
	store  *store.Store
	intake *intake.Service
	bench  *workspace.Service
	jobs   *river.Client[*sql.Tx]
	dir    string
	log    *slog.Logger
}

// queue keeps films apart from imports: a coach who waits for a clip does not wait for
// a film.
const queue = "films"

// mostAttempts is how often a film is begun: a server that dies with it counts.
const mostAttempts = 4

// filmTime is what drawing one film may take.
const filmTime = time.Hour

// New makes the service; server is this program's name among those on the database, dir
// a folder for files in between. Call Run to work on films.
func New(s *store.Store, i *intake.Service, b *workspace.Service, server, dir string, log *slog.Logger) (*Service, error) {
	f := &Service{store: s, intake: i, bench: b, dir: dir, log: log}
	workers := river.NewWorkers()
	river.AddWorker(workers, &drawer{film: f})
	var err error
	f.jobs, err = river.NewClient(riverdatabasesql.NewWithPgxListener(s.DB.DB, s.Pool), &river.Config{
		ID:     server + "-films",
		Queues: map[string]river.QueueConfig{queue: {MaxWorkers: 1}}, Workers: workers,
		FetchCooldown: 20 * time.Millisecond, FetchPollInterval: 500 * time.Millisecond,
		JobTimeout: filmTime, RescueStuckJobsAfter: 2 * filmTime, MaxAttempts: mostAttempts, Logger: slog.New(slog.DiscardHandler),
	})
	return f, err
}

// Run works on films until Stop.
func (s *Service) Run(ctx context.Context) error { return s.jobs.Start(ctx) }

// Stop lets a running film go; it is begun anew at the next start.
func (s *Service) Stop(ctx context.Context) error { return s.jobs.StopAndCancel(ctx) }

type args struct {
	Film uuid.UUID `json:"film"`
}

func (args) Kind() string { return "draw_film" }

// ExportRequest is what a film is to show.
type ExportRequest struct {
	Kind string `json:"kind" enum:"talk,beside"`
	// Of side by side.
	Other  uuid.UUID `json:"other,omitempty" required:"false" doc:"attempt beside this one"`
	ClipA  uuid.UUID `json:"clip_a,omitempty" required:"false"`
	ClipB  uuid.UUID `json:"clip_b,omitempty" required:"false"`
	At     string    `json:"at,omitempty" required:"false" maxLength:"40" doc:"key position at which both run in true time; phase by phase when absent"`
	Mirror bool      `json:"mirror,omitempty" required:"false" doc:"turn the second picture round"`
	Speed  float64   `json:"speed,omitempty" required:"false" minimum:"0" maximum:"1" doc:"share of true speed; a quarter when absent"`
}

// Draw asks for a film.
func (s *Service) Draw(ctx context.Context, team, attempt uuid.UUID, a ExportRequest) (store.Film, error) {
	switch a.Kind {
	case "talk":
		list, err := s.store.Chapters(ctx, team, attempt)
		if err != nil {
			return store.Film{}, err
		}
		if len(list) == 0 {
			return store.Film{}, problem.New(problem.Invalid, "Nothing is said to this attempt yet. Press Z on the Bench and talk.")
		}
	case "beside":
		if _, err := s.bench.Compare(ctx, team, workspace.CompareRequest{A: attempt, B: a.Other, ClipA: a.ClipA, ClipB: a.ClipB, At: a.At}); err != nil {
			return store.Film{}, err
		}
	default:
		return store.Film{}, problem.New(problem.Invalid, "A film is a talk or two attempts side by side.")
	}
	raw, err := json.Marshal(a)
	if err != nil {
		return store.Film{}, err
	}
	return s.store.AddFilm(ctx, team, attempt, a.Kind, raw, func(tx *sqlx.Tx, film uuid.UUID) (int64, error) {
		r, err := s.jobs.InsertTx(ctx, tx.Tx, args{film}, &river.InsertOpts{Queue: queue})
		if err != nil {
			return 0, err
		}
		return r.Job.ID, nil
	})
}

// Remove stops a film that is being drawn and removes one that is there.
func (s *Service) Remove(ctx context.Context, team, id uuid.UUID) (store.Film, error) {
	f, err := s.store.CancelFilm(ctx, team, id)
	if err != nil {
		return f, err
	}
	if _, err := s.jobs.JobCancel(ctx, f.JobID); err != nil && !errors.Is(err, river.ErrNotFound) {
		return f, store.Explain(err)
	}
	if f, err = s.store.DeleteFilm(ctx, team, id); err == nil {
		s.intake.DropFilm(ctx, id)
	}
	return f, err
}

// Open gives a film that is ready.
func (s *Service) Open(ctx context.Context, team, id uuid.UUID) (io.ReadSeekCloser, error) {
	f, err := s.store.Film(ctx, team, id)
	if err != nil {
		return nil, err
	}
	if f.State != "ready" {
		return nil, problem.New(problem.NotFound, "This film is not ready yet.")
	}
	return s.intake.Film(ctx, id)
}

// drawer is the worker.
type drawer struct {
	river.WorkerDefaults[args]
	film *Service
}

// Work is called by the queue.
func (w *drawer) Work(ctx context.Context, job *river.Job[args]) error {
	s := w.film
	f, err := s.store.FilmToDraw(ctx, job.Args.Film)
	var p *problem.Problem
	if problem.Is(err, problem.NotFound) || err == nil && f.State == "cancelled" {
		return nil // removed while it waited
	} else if err != nil {
		return err
	}
	start := time.Now()
	var size int64
	err = guard.Do(func() (err error) {
		size, err = s.draw(ctx, f)
		return err
	})
	switch {
	case err == nil:
		s.log.Info("film drawn", "film", f.ID, "kind", f.Kind, "took", time.Since(start))
		return s.store.SetFilm(ctx, f.ID, "ready", 1, "", size)
	case errors.Is(context.Cause(ctx), river.ErrJobCancelledRemotely):
		return river.JobCancel(err)
	case ctx.Err() != nil && !errors.Is(ctx.Err(), context.DeadlineExceeded):
		return err // the server stops; the job is taken up again
	}
	var missing *problem.Problem
	if _, gone := s.store.FilmToDraw(context.WithoutCancel(ctx), f.ID); errors.As(gone, &missing) && missing.Kind == problem.NotFound {
		return nil // removed meanwhile
	}
	if errors.As(err, &p) && p.Kind == problem.Unavailable && ctx.Err() == nil {
		return river.JobSnooze(5 * time.Second) // the database was away
	}
	s.log.Warn("a film failed", "film", f.ID, "error", err)
	says := "This film could not be drawn. Try again."
	if ctx.Err() != nil {
		says = "This film takes longer than an hour to draw. Make the talk shorter, or a film of fewer chapters."
	} else if errors.As(err, &p) {
		says = p.Says
	} else if len(job.Errors) == 0 {
		return err // once more
	}
	if err := s.store.SetFilm(context.WithoutCancel(ctx), f.ID, "failed", 0, says, 0); err != nil {
		return err
	}
	return river.JobCancel(err)
}

// shot is one picture of a film: what to take of which clips, and how to draw it.
type shot struct {
	want []frameRef
	draw func(c canvas, pics []media.Picture) // nil: the picture before once more
}

// frameRef is a frame of a clip.
type frameRef struct {
	clip  int // in the film's list
	frame int
}

// timeline is a film before it is drawn.
type timeline struct {
	width, height int
	rate          float64
	clips         []store.Clip
	shots         []shot
	sound         string
}

func (s *Service) draw(ctx context.Context, f store.Film) (size int64, err error) {
	var a ExportRequest
	if err := json.Unmarshal(f.Ask, &a); err != nil {
		return 0, err
	}
	dir, err := os.MkdirTemp(s.dir, "film-")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	var r timeline
	if f.Kind == "talk" {
		r, err = s.talk(ctx, f, dir)
	} else {
		r, err = s.beside(ctx, f, a)
	}
	if err != nil {
		return 0, err
	}
	path := filepath.Join(dir, "film.mp4")
	if err := s.encode(ctx, f.ID, r, path); err != nil {
		return 0, err
	}
	info, err := os.Stat(path)
	if err != nil {
		return 0, err
	}
	return info.Size(), s.intake.KeepFilm(ctx, f.ID, path)
}

// encode takes the frames out of the clips and draws picture after picture.
func (s *Service) encode(ctx context.Context, id uuid.UUID, r timeline, path string) error {
	feeds := make([]*feed, len(r.clips))
	for i, c := range r.clips {
		feeds[i] = newFeed(ctx, s.intake, c)
		defer feeds[i].close()
	}
	// Each clip's feed knows what is wanted next, so that it can decode ahead.
	for _, sh := range r.shots {
		for _, w := range sh.want {
			feeds[w.clip].wanted = append(feeds[w.clip].wanted, w.frame)
		}
	}
	c := newCanvas(r.width, r.height)
	var pix []byte
	last := time.Now()
	return media.Encode(ctx, media.RawVideo{Width: r.width, Height: r.height, Rate: r.rate, CRF: 23, Sound: r.sound, Tags: map[string]string{}}, path, func(write func([]byte) error) error {
		for i, sh := range r.shots {
			pics := make([]media.Picture, len(sh.want))
			for k, w := range sh.want {
				p, err := feeds[w.clip].next()
				if err != nil {
					return err
				}
				pics[k] = p
			}
			if sh.draw != nil {
				sh.draw(c, pics)
				pix = c.raw(pix)
			}
			if err := write(pix); err != nil {
				return err
			}
			if time.Since(last) > 300*time.Millisecond {
				last = time.Now()
				if err := s.store.SetFilm(ctx, id, "drawing", 0.99*float64(i+1)/float64(len(r.shots)), "", 0); err != nil {
					return err
				}
			}
		}
		return nil
	})
}

// feed hands out frames of a clip in the order in which they are wanted, decoding runs
// that go on at once.
type feed struct {
	ctx    context.Context
	intake *intake.Service
	clip   store.Clip
	wanted []int
	at     int
	now    media.Picture
	have   bool
	ahead  chan media.Picture
	stop   context.CancelFunc
	failed chan error
}

// skip is how many frames may be decoded for nothing within a run.
const skip = 6

func newFeed(ctx context.Context, i *intake.Service, c store.Clip) *feed {
	return &feed{ctx: ctx, intake: i, clip: c}
}

func (f *feed) close() {
	if f.stop != nil {
		f.stop()
		for range f.ahead { // until the decoder has let go
		}
		f.stop = nil
	}
}

// next is the next wanted frame.
func (f *feed) next() (media.Picture, error) {
	n := f.wanted[f.at]
	f.at++
	if f.have && f.now.Frame == n {
		return f.now, nil
	}
	if f.stop == nil || f.have && (n < f.now.Frame || n > f.now.Frame+skip) {
		f.close()
		f.run(n)
	}
	for p := range f.ahead {
		if p.Frame == n {
			f.now, f.have = p, true
			return p, nil
		}
	}
	err := <-f.failed
	f.stop = nil
	if err == nil {
		err = fmt.Errorf("frame %d of clip %s did not come", n, f.clip.ID)
	}
	return media.Picture{}, err
}

// run decodes from a frame on as far as what is wanted goes on without a jump.
func (f *feed) run(from int) {
	to := from
	for _, w := range f.wanted[f.at:] {
		if w < to || w > to+skip {
			break
		}
		to = w
	}
	ctx, stop := context.WithCancel(f.ctx)
	f.stop, f.ahead, f.failed, f.have = stop, make(chan media.Picture, 4), make(chan error, 1), false
	ahead, failed := f.ahead, f.failed
	guard.Go(func() error {
		return f.intake.Colours(ctx, f.clip, from, to, 1, func(p media.Picture) error {
			p.Pix = append([]byte(nil), p.Pix...)
			select {
			case ahead <- p:
				return nil
			case <-ctx.Done():
				return ctx.Err()
			}
		})
	}, func(err error) {
		failed <- err
		close(ahead)
	})
}

// Size and rate of films.
const (
	wide     = 1280
	high     = 720
	filmRate = 30.0
)

// talk is the reel of a talk: what the stage showed, while the voice speaks.
func (s *Service) talk(ctx context.Context, f store.Film, dir string) (timeline, error) {
	r := timeline{width: wide, height: high, rate: filmRate}
	rows, err := s.store.Chapters(ctx, f.TeamID, f.AttemptID)
	if err != nil {
		return r, err
	}
	if len(rows) == 0 {
		return r, problem.New(problem.Invalid, "Nothing is said to this attempt any more.")
	}
	sh, err := s.bench.Open(ctx, f.TeamID, f.AttemptID)
	if err != nil {
		return r, err
	}
	index := map[uuid.UUID]int{}
	var pieces []media.Piece
	for i, row := range rows {
		var scenes []voiceover.Scene
		if err := json.Unmarshal(row.Stage, &scenes); err != nil {
			return r, err
		}
		voice, err := s.store.Voice(ctx, f.TeamID, row.ID)
		if err != nil {
			return r, err
		}
		file := filepath.Join(dir, fmt.Sprintf("%d.webm", i))
		if err := os.WriteFile(file, voice, 0o600); err != nil {
			return r, err
		}
		shots := int(math.Ceil((row.Ends - row.Starts) * filmRate))
		pieces = append(pieces, media.Piece{File: file, Starts: row.Starts, Ends: row.Starts + float64(shots)/filmRate})
		play := voiceover.NewPlay(scenes)
		var before voiceover.State
		for n := range shots {
			st := play.At(row.Starts + float64(n)/filmRate)
			k, ok := index[st.Clip]
			if !ok {
				k = len(r.clips)
				for _, c := range sh.Clips {
					if c.ID == st.Clip && c.State == "ready" {
						r.clips, ok = append(r.clips, c), true
					}
				}
				if !ok {
					return r, problem.New(problem.Invalid, "A clip that is spoken of is not there any more. Record “%s” again.", row.Name)
				}
				index[st.Clip] = k
			}
			if n > 0 && still(st, before) {
				r.shots = append(r.shots, shot{})
				continue
			}
			before = st
			share, name := r.clips[k].ProxyScale, row.Name
			r.shots = append(r.shots, shot{[]frameRef{{k, st.Frame}}, func(c canvas, pics []media.Picture) {
				c.fill(c.Bounds(), pit)
				p := show(c.Bounds(), st.View, share, 0)
				c.picture(p, pics[0])
				c.over(p, st.Over)
				c.label(c.Bounds(), 14, high-12, name, nil)
			}})
		}
	}
	r.sound = filepath.Join(dir, "voice.wav")
	return r, media.Join(ctx, pieces, r.sound)
}

// still tells whether nothing changed on the stage; what is drawn over it is given anew
// when it changes.
func still(a, b voiceover.State) bool {
	return a.Clip == b.Clip && a.Frame == b.Frame && a.View == b.View && len(a.Over) == len(b.Over) && (len(a.Over) == 0 || &a.Over[0] == &b.Over[0])
}

// Of side by side: how long it stands at a shared key position, and how much it shows
// before the first and after the last of them, s.
const (
	standing = 1.2
	around   = 0.25
)

// beside is the reel of two attempts side by side, with a halt at each key position
// that both show, where its numbers stand.
func (s *Service) beside(ctx context.Context, f store.Film, a ExportRequest) (timeline, error) {
	r := timeline{width: wide, height: 440, rate: filmRate}
	b, err := s.bench.Compare(ctx, f.TeamID, workspace.CompareRequest{A: f.AttemptID, B: a.Other, ClipA: a.ClipA, ClipB: a.ClipB, At: a.At})
	if err != nil {
		return r, err
	}
	ca, cb := clipOf(b.A, b.ClipA), clipOf(b.B, b.ClipB)
	r.clips = []store.Clip{ca, cb}
	if len(b.Moments) == 0 {
		return r, problem.New(problem.Invalid, "The two share no key position. Flag one in both, then a film can be made.")
	}
	speed := a.Speed
	if speed <= 0 {
		speed = 0.25
	}
	rate := ca.CaptureRate
	if rate == 0 {
		rate = ca.FileRate
	}
	first, last := b.Moments[0].A, b.Moments[len(b.Moments)-1].A
	from, to := max(0, first-int(around*rate)), min(len(ca.Stamps)-1, last+int(around*rate))
	at := func(frame int) int {
		if g := b.Match[frame]; g >= 0 {
			return g
		}
		if frame < first {
			return 0
		}
		return len(cb.Stamps) - 1
	}
	half := image.Rect(0, 40, wide/2-2, 400)
	other := image.Rect(wide/2+2, 40, wide, 400)
	flip := 0.0
	if a.Mirror {
		flip = float64(cb.Width)
	}
	pa := show(half, [4]float64{0, 0, float64(ca.Width), float64(ca.Height)}, ca.ProxyScale, 0)
	pb := show(other, [4]float64{0, 0, float64(cb.Width), float64(cb.Height)}, cb.ProxyScale, flip)
	title := func(sh workspace.Workspace) string {
		out := sh.Athlete.Name
		for _, more := range []string{sh.Attempt.Session, sh.Attempt.Mark} {
			if more != "" {
				out += " · " + more
			}
		}
		return out
	}
	add := func(frame int, says string, overA, overB []voiceover.Drawing) {
		r.shots = append(r.shots, shot{[]frameRef{{0, frame}, {1, at(frame)}}, func(c canvas, pics []media.Picture) {
			c.fill(c.Bounds(), pit)
			c.picture(pa, pics[0])
			c.picture(pb, pics[1])
			c.over(pa, overA)
			c.over(pb, overB)
			c.text(14, 27, title(b.A), chalk, bold)
			c.text(wide/2+14, 27, title(b.B), chalk, bold)
			c.text(14, 426, says, quiet, regular)
		}})
	}
	halts := map[int]int{}
	for i, m := range b.Moments {
		if _, taken := halts[m.A]; !taken {
			halts[m.A] = i
		}
	}
	running := fmt.Sprintf("%g × true speed", speed)
	if a.At == "" {
		running += ", the second stretched phase by phase"
	}
	shown := from - 1
	for n := 0; ; n++ {
		frame := from + int(float64(n)/filmRate*speed*rate)
		for k := shown + 1; k <= min(frame, to); k++ {
			if i, ok := halts[k]; ok {
				m := b.Moments[i]
				overA, overB := measured(b.A, b.ReportA, m.A), measured(b.B, b.ReportB, m.B)
				add(k, m.Name, overA, overB)
				r.shots = append(r.shots, make([]shot, int(standing*filmRate)-1)...)
			}
		}
		if frame > to {
			return r, nil
		}
		shown = max(shown, frame)
		add(frame, running, nil, nil)
	}
}

func clipOf(sh workspace.Workspace, id uuid.UUID) (out store.Clip) {
	for _, c := range sh.Clips {
		if c.ID == id {
			out = c
		}
	}
	return out
}

// measured is what a report measures in a frame, with its numbers.
func measured(sh workspace.Workspace, r report.Report, frame int) []voiceover.Drawing {
	out := []voiceover.Drawing{}
	for _, cp := range sh.Model.Checkpoints {
		x, ok := r.Reading(cp.ID)
		if !ok || x.Value == nil || x.Evidence == nil || x.Evidence.Frame != frame || x.Clip != "" {
			continue
		}
		for _, chain := range x.Evidence.Lines {
			if len(chain.Points) < 2 {
				continue
			}
			style := x.Side
			if style == "" {
				style = "plain"
			}
			out = append(out, voiceover.Drawing{Lines: [][][2]float64{chain.Points}, Style: style, Label: feedback.Number(*x.Value, cp.Unit), At: &chain.Points[len(chain.Points)/2]})
		}
	}
	return out
}
