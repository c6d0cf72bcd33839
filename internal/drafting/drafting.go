// Package drafting drafts clips in the background, before the coach sits down: a queue of
// its own after the imports, one worker a core.
package drafting

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"log/slog"
	"runtime"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"

	"neokinema/core/pose"
	"neokinema/internal/guard"
	"neokinema/internal/inference"
	"neokinema/internal/intake"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/videoanalysis"
	"neokinema/internal/workspace"
)

// Service drafts clips.
type Service struct {
	store    *store.Store
	intake   *intake.Service
	bench    *workspace.Service
	analysis *videoanalysis.Service
	jobs     *river.Client[*sql.Tx]
	networks func() (*inference.Networks, error)
	away     string // why this server drafts nothing
	log      *slog.Logger
}

// queue keeps drafts apart from imports and films: nobody who waits for those waits for a
// draft.
const queue = "drafts"

const (
	// mostAttempts is how often a draft is begun: a server that dies with it counts.
	mostAttempts = 4
	// draftTime is what one draft may take.
	draftTime = 2 * time.Hour
	// importsFirst is how long a draft waits when imports are on.
	importsFirst = time.Second
)

// Options of New.
type Options struct {
	Server string // name of this program among those on the database
	// Networks opens the networks when the first draft needs them.
	Networks func() (*inference.Networks, error)
	// Away says why this server drafts nothing; empty when it does.
	Away string
	Log  *slog.Logger
}

// New makes the service. Call Run to work on drafts.
func New(s *store.Store, i *intake.Service, b *workspace.Service, v *videoanalysis.Service, o Options) (*Service, error) {
	d := &Service{store: s, intake: i, bench: b, analysis: v, networks: o.Networks, away: o.Away, log: o.Log}
	workers := river.NewWorkers()
	river.AddWorker(workers, &drafter{drafting: d})
	var err error
	d.jobs, err = river.NewClient(riverdatabasesql.NewWithPgxListener(s.DB.DB, s.Pool), &river.Config{
		ID:     o.Server + "-drafts",
		Queues: map[string]river.QueueConfig{queue: {MaxWorkers: runtime.NumCPU()}}, Workers: workers,
		FetchCooldown: 20 * time.Millisecond, FetchPollInterval: 500 * time.Millisecond,
		JobTimeout: draftTime, RescueStuckJobsAfter: 2 * draftTime, MaxAttempts: mostAttempts, Logger: slog.New(slog.DiscardHandler),
	})
	if err == nil && d.away == "" {
		i.After(d.afterImport)
	}
	return d, err
}

// Run works on drafts until Stop; a server that drafts nothing leaves them to others.
func (s *Service) Run(ctx context.Context) error {
	if s.away != "" {
		s.log.Warn("clips are not drafted by this server", "why", s.away)
		return nil
	}
	return s.jobs.Start(ctx)
}

// Stop lets running drafts go; they go on at the next start.
func (s *Service) Stop(ctx context.Context) error {
	if s.away != "" {
		return nil
	}
	return s.jobs.StopAndCancel(ctx)
}

type args struct {
	Clip uuid.UUID `json:"clip"`
}

func (args) Kind() string { return "draft_clip" }

// Request is what of a clip the server is to draft.
type Request struct {
	pose.Wish
	// Look only takes what is drafted and looks at the picture again, after the coach has
	// said something new about the clip.
	Look bool `json:"look,omitempty" required:"false" doc:"only look at the picture of what is drafted again"`
}

// State is how a clip's draft stands.
type State struct {
	store.Draft
	Result
	Away string `json:"away" doc:"why this server drafts nothing; empty when it does"`
}

// Result is what became of a draft.
type Result struct {
	Found   int   `json:"found" doc:"frames in which the athlete was found"`
	Nobody  []int `json:"nobody" doc:"frames in which nobody was found"`
	Other   []int `json:"other" doc:"frames in which somebody else was seen"`
	Swapped int   `json:"swapped" doc:"frames in which limbs changed sides"`
}

// mostDrafted is how many frames of a clip are drafted without being asked; of longer
// clips every second, third, ... and the paths close the gaps.
const mostDrafted = 1500

// everything is the wish for all of a clip.
func everything(c store.Clip) Request {
	return Request{Wish: pose.Wish{To: len(c.Stamps) - 1, Step: 1 + len(c.Stamps)/mostDrafted}}
}

func (s *Service) afterImport(ctx context.Context, tx *sqlx.Tx, c store.Clip) error {
	return s.ask(ctx, tx, c, everything(c))
}

func (s *Service) ask(ctx context.Context, tx *sqlx.Tx, c store.Clip, r Request) error {
	raw, err := json.Marshal(r)
	if err != nil {
		return err
	}
	job, err := s.jobs.InsertTx(ctx, tx.Tx, args{c.ID}, &river.InsertOpts{Queue: queue})
	if err != nil {
		return err
	}
	return store.AddDraft(ctx, tx, store.Draft{ClipID: c.ID, Wish: raw, JobID: job.Job.ID})
}

// Begin asks for a draft; one that is being made already is left to go on.
func (s *Service) Begin(ctx context.Context, team, id uuid.UUID, r Request) (State, error) {
	c, err := s.store.Clip(ctx, team, id)
	if err != nil {
		return State{}, err
	}
	if s.away != "" {
		return State{}, problem.New(problem.Invalid, "This server cannot draft (%s). Draft in the browser instead.", s.away)
	}
	if n := len(c.Stamps); c.State != "ready" || r.From < 0 || r.To < r.From || r.To >= n || r.Step < 1 {
		return State{}, problem.New(problem.Invalid, "Frames %d to %d, every %d, cannot be drafted: this clip has %d frames.", r.From, r.To, r.Step, n)
	}
	now, err := s.State(ctx, team, id)
	if err != nil || now.Draft.State == "waiting" || now.Draft.State == "drafting" {
		return now, err
	}
	if err := s.store.InTx(ctx, func(tx *sqlx.Tx) error { return s.ask(ctx, tx, c, r) }); err != nil {
		return State{}, err
	}
	return s.State(ctx, team, id)
}

// State tells how the draft of a clip stands.
func (s *Service) State(ctx context.Context, team, id uuid.UUID) (State, error) {
	d, err := s.store.Draft(ctx, team, id)
	return s.state(d), err
}

func (s *Service) state(d store.Draft) State {
	out := State{Draft: d, Away: s.away, Result: Result{Nobody: []int{}, Other: []int{}}}
	if len(d.Result) > 0 {
		_ = json.Unmarshal(d.Result, &out.Result) // of our own making; else it is empty
	}
	return out
}

// Cancel stops a draft; what is drafted stays.
func (s *Service) Cancel(ctx context.Context, team, id uuid.UUID) (State, error) {
	d, err := s.store.CancelDraft(ctx, team, id)
	if err != nil || d.State != "cancelled" {
		return s.state(d), err
	}
	if _, err := s.jobs.JobCancel(ctx, d.JobID); err != nil && !errors.Is(err, river.ErrNotFound) {
		return s.state(d), store.Explain(err)
	}
	return s.state(d), nil
}

// drafter is the worker.
type drafter struct {
	river.WorkerDefaults[args]
	drafting *Service
}

// Work is called by the queue.
func (w *drafter) Work(ctx context.Context, job *river.Job[args]) error {
	s := w.drafting
	d, err := s.store.DraftToMake(ctx, job.Args.Clip)
	var p *problem.Problem
	if problem.Is(err, problem.NotFound) || err == nil && (d.State != "waiting" && d.State != "drafting" || d.JobID != job.ID) {
		return nil // deleted, cancelled or begun anew while it waited
	} else if err != nil {
		return err
	}
	if busy, err := s.store.Importing(ctx); err != nil || busy {
		return errors.Join(err, river.JobSnooze(importsFirst))
	}
	start := time.Now()
	err = guard.Do(func() error { return s.draft(ctx, &d) })
	switch {
	case err == nil:
		s.log.Info("clip drafted", "clip", d.ClipID, "took", time.Since(start))
		return nil
	case errors.Is(context.Cause(ctx), river.ErrJobCancelledRemotely):
		return river.JobCancel(err)
	case ctx.Err() != nil && !errors.Is(ctx.Err(), context.DeadlineExceeded):
		return err // the server stops; the job is taken up again
	}
	var missing *problem.Problem
	if _, gone := s.store.DraftToMake(context.WithoutCancel(ctx), d.ClipID); errors.As(gone, &missing) && missing.Kind == problem.NotFound {
		return nil // deleted meanwhile
	}
	if errors.As(err, &p) && p.Kind == problem.Unavailable && ctx.Err() == nil {
		return river.JobSnooze(5 * time.Second) // the database was away
	}
	s.log.Warn("a draft failed", "clip", d.ClipID, "error", err)
	d.State, d.Says = "failed", "This clip could not be drafted by the server. Draft it in the browser, or place points by hand."
	if ctx.Err() != nil {
		d.Says = "This clip takes longer than two hours to draft. Draft the part that matters, or every second frame."
	} else if errors.As(err, &p) {
		d.Says = p.Says
	} else if len(job.Errors) == 0 {
		return err // once more
	}
	if err := s.store.SetDraft(context.WithoutCancel(ctx), d); err != nil {
		return err
	}
	return river.JobCancel(err)
}
