// Package workspace is the coach's work on one attempt: points, flags, decisions,
// with every change saved as made and every change undoable.
package workspace

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strconv"
	"strings"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/core/compare"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/core/throw"
	"neokinema/core/track"
	"neokinema/core/uncertainty"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Service works on attempts.
type Service struct{ store *store.Store }

// New makes the service.
func New(s *store.Store) *Service { return &Service{store: s} }

// Workspace is everything that the Bench shows of one attempt.
type Workspace struct {
	Attempt store.Attempt   `json:"attempt"`
	Athlete store.Athlete   `json:"athlete"`
	Model   model.Model     `json:"model"`
	Clips   []store.Clip    `json:"clips"`
	Age     int             `json:"age" doc:"of the athlete in the year of the attempt"`
	Child   bool            `json:"child" doc:"so young that short words come first"`
	Work    Work            `json:"work"`
	Newer   *Newer          `json:"newer,omitempty" required:"false" doc:"a version of the model that came after the one by which this attempt is judged"`
	Refused []string        `json:"refused" doc:"faults that the coach refused on earlier attempts of this athlete at this event"`
	Before  *PreviousAdvice `json:"before,omitempty" required:"false" doc:"the last cue this athlete got, with its target"`
}

// Box is the part of a frame in which the athlete is.
type Box struct {
	Frame  int     `json:"frame"`
	X      float64 `json:"x" doc:"px of the upright picture, upper left corner"`
	Y      float64 `json:"y"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
}

// PreviousAdvice is the advice of the athlete's attempt before this one.
type PreviousAdvice struct {
	AttemptID uuid.UUID             `json:"attempt_id"`
	DoneOn    string                `json:"done_on"`
	Advice    store.Advice          `json:"advice"`
	Value     *uncertainty.Estimate `json:"value,omitempty" required:"false" doc:"reading of the target then"`
}

// Edit is one small change; the table of kinds in kinds.go says what its key and value
// mean.
type Edit struct {
	Kind     string          `json:"kind"`
	Clip     *uuid.UUID      `json:"clip,omitempty" required:"false"`
	Key      string          `json:"key" maxLength:"60"`
	Frame    int             `json:"frame,omitempty" required:"false"`
	Value    json.RawMessage `json:"value,omitempty" required:"false"`
	Override bool            `json:"override,omitempty" required:"false" doc:"track: the hand swaps or deletes a stretch, also what it set itself"`
	Before   json.RawMessage `json:"before,omitempty" required:"false" doc:"filled by the server"`

	change *track.Track // of a checked edit of the kind track
}

// Value is what an [Edit] puts, as JSON; things that cannot be written are null.
func Value(v any) json.RawMessage {
	raw, err := json.Marshal(v)
	if err != nil {
		return json.RawMessage("null")
	}
	return raw
}

// Edits is one change as the coach made it.
type Edits struct {
	Base              int    `json:"base" doc:"revision that the change was made on"`
	Edits             []Edit `json:"edits" minItems:"1" maxItems:"5000"`
	MergeWithPrevious bool   `json:"merge_with_previous,omitempty" required:"false" doc:"this belongs to the change before it and is undone with it: the next batch of a draft"`
}

// Saved is where the attempt stands after a change.
type Saved struct {
	Revision int  `json:"revision"`
	CanUndo  bool `json:"can_undo"`
	CanRedo  bool `json:"can_redo"`
}

// Replayed is what an undo or redo did: the edits to make, in order.
type Replayed struct {
	Saved
	Edits []Edit `json:"edits"`
}

// Open reads the sheet of an attempt.
func (s *Service) Open(ctx context.Context, team, id uuid.UUID) (Workspace, error) {
	sh, err := s.open(ctx, team, id)
	if err != nil {
		return sh, err
	}
	if sh.Newer, err = s.newer(ctx, team, sh.Attempt); err != nil {
		return sh, err
	}
	if sh.Refused, err = s.store.RefusedBefore(ctx, team, sh.Attempt); err != nil {
		return sh, err
	}
	earlier, err := s.store.Earlier(ctx, team, sh.Attempt)
	var p *problem.Problem
	if errors.As(err, &p) && p.Kind == problem.NotFound {
		return sh, nil
	} else if err != nil {
		return sh, err
	}
	then, err := s.open(ctx, team, earlier.ID)
	if err != nil {
		return sh, err
	}
	advice, ok := then.Work.Advice["main"]
	if !ok {
		return sh, nil
	}
	sh.Before = &PreviousAdvice{AttemptID: earlier.ID, DoneOn: earlier.DoneOn, Advice: advice}
	if r, ok := then.Report().Reading(advice.Target); ok {
		sh.Before.Value = r.Value
	}
	return sh, nil
}

func (s *Service) open(ctx context.Context, team, id uuid.UUID) (sh Workspace, err error) {
	if sh.Attempt, err = s.store.Attempt(ctx, team, id); err != nil {
		return sh, err
	}
	if sh.Athlete, err = s.store.Athlete(ctx, team, sh.Attempt.AthleteID); err != nil {
		return sh, err
	}
	if sh.Model, err = s.Model(ctx, team, sh.Attempt, sh.Athlete); err != nil {
		return sh, err
	}
	sh.Age = year(sh.Attempt) - sh.Athlete.Born
	sh.Child = sh.Age < sport.Child
	if sh.Clips, err = s.store.Clips(ctx, team, id); err != nil {
		return sh, err
	}
	sh.Work, err = s.work(ctx, s.store.DB, sh.Attempt, sh.Clips)
	return sh, err
}

// Model is the model by which an attempt is judged, with the bands that hold for its
// athlete then.
func (s *Service) Model(ctx context.Context, team uuid.UUID, a store.Attempt, who store.Athlete) (model.Model, error) {
	m, err := s.model(ctx, team, a)
	return m.For(who.ID.String(), year(a)-who.Born).As(a.Variant), err
}

// year is that in which an attempt was made.
func year(a store.Attempt) int {
	y, _ := strconv.Atoi(a.DoneOn[:min(4, len(a.DoneOn))]) // the database keeps dates
	return y
}

func (s *Service) work(ctx context.Context, q sqlx.QueryerContext, a store.Attempt, clips []store.Clip) (Work, error) {
	w := newWork(a.Revision)
	for _, c := range clips {
		cw := newClipWork()
		tracks, err := store.Tracks(ctx, q, c.ID)
		if err != nil {
			return w, err
		}
		for id, t := range tracks {
			if t.Count() > 0 {
				cw.Points[id] = t
			}
		}
		w.Clips[c.ID] = cw
	}
	items, err := store.Items(ctx, q, a.ID)
	if err != nil {
		return w, err
	}
	for _, i := range items {
		if w.put(i) != nil {
			w.Unreadable = append(w.Unreadable, i.Kind+" "+i.Key)
		}
	}
	w.CanUndo, w.CanRedo, err = store.Undoable(ctx, q, a.ID)
	return w, err
}

// Main is the clip that numbers and findings are read from: the first ready one
// in the model's view, else the first ready one.
func (sh Workspace) Main() (store.Clip, bool) {
	ready := func(c store.Clip) bool { return c.State == "ready" }
	if i := slices.IndexFunc(sh.Clips, func(c store.Clip) bool { return ready(c) && c.View == sh.Model.View }); i >= 0 {
		return sh.Clips[i], true
	}
	if i := slices.IndexFunc(sh.Clips, ready); i >= 0 {
		return sh.Clips[i], true
	}
	return store.Clip{}, false
}

// Input is what the core computes from for one clip.
func (sh Workspace) Input(c store.Clip) evaluate.Input {
	cw := sh.Work.Clips[c.ID]
	who := sh.Athlete.Body()
	who.Age = sh.Age
	return evaluate.Input{Model: sh.Model.ID, Variant: sh.Attempt.Variant, Athlete: who, Clip: c.Facts(), Flags: cw.Flags, Points: cw.Points, Answers: sh.Work.Answers, Scale: cw.Scale,
		Camera: c.Camera, Contacts: c.Contacts, Ground: cw.Ground, Implement: sh.Attempt.Implement, Mark: sh.Attempt.Mark, Extra: sh.Extra()}
}

// Listen tells how much later the same sound stands in the second clip than in the
// first, s of true time.
type Listen func(ctx context.Context, a, b store.Clip) (float64, error)

// TwoViews reads the throw of an attempt from the two clips that see its circle; they are
// listened to when no position is flagged in both or what is flagged does not fit.
func (s *Service) TwoViews(ctx context.Context, team, id uuid.UUID, listen Listen) (evaluate.Stereo, error) {
	sh, err := s.Open(ctx, team, id)
	if err != nil {
		return evaluate.Stereo{}, err
	}
	var seen []evaluate.Input
	var clips []store.Clip
	main, _ := sh.Main()
	for _, c := range append([]store.Clip{main}, sh.Clips...) {
		w := sh.Work.Clips[c.ID]
		if c.State == "ready" && w.Ground != nil && w.Points["ball"] != nil && (len(seen) == 0 || c.ID != main.ID) {
			seen, clips = append(seen, sh.Input(c)), append(clips, c)
		}
	}
	if len(seen) < 2 {
		return evaluate.Stereo{}, problem.New(problem.Invalid, "Two clips of this attempt are needed in which the circle is marked and the ball is tracked; here is %d.", len(seen))
	}
	out, err := evaluate.TwoViews(sh.Model, seen[0], seen[1], nil)
	if errors.Is(err, evaluate.ErrMoment) || errors.Is(err, throw.ErrOther) {
		if heard, deaf := listen(ctx, clips[0], clips[1]); deaf == nil {
			out, err = evaluate.TwoViews(sh.Model, seen[0], seen[1], &heard)
		} else if ctx.Err() != nil {
			return out, ctx.Err()
		}
	}
	if err != nil {
		return out, problem.New(problem.Invalid, "The two clips cannot be read together: %s.", err)
	}
	return out, nil
}

// Comparison holds an attempt's clip against one of another attempt at the same event.
type Comparison struct {
	A     Workspace `json:"a"`
	B     Workspace `json:"b"`
	ClipA uuid.UUID `json:"clip_a"`
	ClipB uuid.UUID `json:"clip_b"`
	compare.Comparison
	Curve     *compare.NormalizedCurve `json:"curve,omitempty" required:"false" doc:"the curve that was asked for, phase by phase"`
	Reference bool                     `json:"reference" doc:"the second is the model's simulated reference: it has no pictures"`
}

// CompareRequest asks for what to hold an attempt's clip against.
type CompareRequest struct {
	A         uuid.UUID // attempt
	B         uuid.UUID // attempt at the same event
	Reference bool      // instead of B the model's simulated reference
	ClipA     uuid.UUID // the first's main clip when nil
	ClipB     uuid.UUID // one in the same view when nil
	At        string    // key position at which both run in true time; empty for phase by phase
	Curve     string    // a curve to be held against each other too
}

// Comparison holds two attempts, or two clips of one, or an attempt and the simulated
// reference of its model against each other.
func (s *Service) Compare(ctx context.Context, team uuid.UUID, w CompareRequest) (Comparison, error) {
	var out Comparison
	var err error
	if out.A, err = s.Open(ctx, team, w.A); err != nil {
		return out, err
	}
	ca, okA := out.A.clip(w.ClipA, "")
	if !okA {
		return out, problem.New(problem.Invalid, "Both attempts need a clip that is ready.")
	}
	var cb store.Clip
	if out.Reference = w.Reference; w.Reference {
		if out.B, cb, err = reference(out.A, ca); err != nil {
			return out, err
		}
	} else {
		if w.B == uuid.Nil {
			return out, problem.New(problem.Invalid, "Say which attempt is to stand beside this one, or ask for the model's reference.")
		}
		if out.B, err = s.Open(ctx, team, w.B); err != nil {
			return out, err
		}
		if out.A.Model.ID != out.B.Model.ID {
			return out, problem.New(problem.Invalid, "These are attempts at different events, %s and %s; only the same event can be held side by side.", strings.ToLower(out.A.Model.Name), strings.ToLower(out.B.Model.Name))
		}
		var okB bool
		cb, okB = out.B.clip(w.ClipB, ca.View)
		if w.A == w.B && w.ClipB == uuid.Nil {
			// Two views of one attempt: the other one.
			for _, c := range out.B.Clips {
				if c.State == "ready" && c.ID != ca.ID {
					cb = c
				}
			}
		}
		if !okB {
			return out, problem.New(problem.Invalid, "Both attempts need a clip that is ready.")
		}
	}
	out.ClipA, out.ClipB = ca.ID, cb.ID
	ia, ib := out.A.Input(ca), out.B.Input(cb)
	out.Comparison = compare.Attempts(out.A.Model, ia, ib, w.At)
	if w.Curve != "" {
		c := compare.Curves(out.A.Model, ia, ib, w.Curve)
		out.Curve = &c
	}
	return out, nil
}

// clip is one of a sheet's clips: the one asked for, or a ready one in a view, or the
// main one.
func (sh Workspace) clip(id uuid.UUID, view string) (store.Clip, bool) {
	for _, c := range sh.Clips {
		if c.ID == id && c.State == "ready" {
			return c, true
		}
	}
	for _, c := range sh.Clips {
		if id == uuid.Nil && c.State == "ready" && c.View == view {
			return c, true
		}
	}
	return sh.Main()
}

// Extra are the checkpoints of this attempt alone: should-bes that became the
// target of this advice or of the one before.
func (sh Workspace) Extra() []model.Checkpoint {
	if sh.Before != nil && sh.Before.Advice.Checkpoint != nil {
		return []model.Checkpoint{*sh.Before.Advice.Checkpoint}
	}
	for _, key := range []string{"main", "second"} {
		if a := sh.Work.Advice[key]; a.Checkpoint != nil {
			return []model.Checkpoint{*a.Checkpoint}
		}
	}
	return nil
}

// Report evaluates the main clip.
func (sh Workspace) Report() report.Report {
	c, _ := sh.Main()
	return evaluate.Attempt(sh.Model, sh.Input(c))
}

// Effect compares the target of the last cue with this attempt; nil when one
// of the two was not measured.
func (sh Workspace) Effect(r report.Report) *compare.Effect {
	if sh.Before == nil || sh.Before.Value == nil {
		return nil
	}
	cp, ok := sh.Model.Checkpoint(sh.Before.Advice.Target)
	if own := sh.Before.Advice.Checkpoint; own != nil {
		cp, ok = *own, true
	}
	now, found := r.Reading(cp.ID)
	if !ok || !found || now.Value == nil {
		return nil
	}
	e := compare.EffectOf(cp, *sh.Before.Value, *now.Value)
	return &e
}

// Save applies a change made on the base revision. When the attempt has moved
// on meanwhile nothing is changed.
func (s *Service) Save(ctx context.Context, team, user, id uuid.UUID, e Edits) (Saved, error) {
	e.Base = max(0, e.Base)
	return s.save(ctx, team, user, id, e)
}

func (s *Service) save(ctx context.Context, team, user, id uuid.UUID, e Edits) (Saved, error) {
	return s.change(ctx, team, id, e.Base, func(tx *sqlx.Tx, a store.Attempt, check checker) error {
		done := slices.Clone(e.Edits)
		for i := range done {
			if err := check.edit(&done[i]); err != nil {
				return err
			}
		}
		if err := apply(ctx, tx, team, a.ID, done); err != nil {
			return err
		}
		if err := bounded(ctx, tx, a.ID, done); err != nil {
			return err
		}
		raw, err := json.Marshal(done)
		if err != nil {
			return err
		}
		return store.AddRevision(ctx, tx, a.ID, user, a.Revision+1, raw, e.MergeWithPrevious)
	})
}

// bounded refuses more decisions on one attempt than anybody makes.
func bounded(ctx context.Context, tx *sqlx.Tx, attempt uuid.UUID, edits []Edit) error {
	if !slices.ContainsFunc(edits, func(e Edit) bool { return !kinds[e.Kind].tracks() }) {
		return nil
	}
	n, err := store.CountItems(ctx, tx, attempt)
	if err == nil && n > mostDecisions {
		err = problem.New(problem.Invalid, "An attempt keeps at most %d decisions and marks on the picture. Take some away first.", mostDecisions)
	}
	return err
}

// mostDecisions bounds what is kept of one attempt beside its points.
const mostDecisions = 2000

// whatever revision an attempt is at: for decisions that do not depend on its work.
const whatever = -1

// Decide stores one decision made beside the Bench, such as the course of a cue.
func (s *Service) Decide(ctx context.Context, team, user, id uuid.UUID, e Edit) (Saved, error) {
	return s.save(ctx, team, user, id, Edits{Base: whatever, Edits: []Edit{e}})
}

// Undo takes the last change back, whoever's session it was made in, with all
// that it was joined to.
func (s *Service) Undo(ctx context.Context, team, id uuid.UUID, base int) (Replayed, error) {
	var done []Edit
	saved, err := s.change(ctx, team, id, base, func(tx *sqlx.Tx, a store.Attempt, check checker) error {
		for more := true; more; {
			r, ok, err := store.LastDone(ctx, tx, a.ID)
			if err != nil {
				return err
			}
			if !ok && done == nil {
				return problem.New(problem.Invalid, "There is nothing to undo.")
			} else if !ok {
				return nil
			}
			edits, err := replay(ctx, tx, team, a.ID, check, r, true)
			if err != nil {
				return err
			}
			done = append(done, edits...)
			if err := store.MarkRevision(ctx, tx, a.ID, r.N, "undone"); err != nil {
				return err
			}
			more = r.Joined
		}
		return nil
	})
	return Replayed{saved, done}, err
}

// Redo brings the last undone change again, with all that is joined to it.
func (s *Service) Redo(ctx context.Context, team, id uuid.UUID, base int) (Replayed, error) {
	var done []Edit
	saved, err := s.change(ctx, team, id, base, func(tx *sqlx.Tx, a store.Attempt, check checker) error {
		for first := true; ; first = false {
			r, ok, err := store.FirstUndone(ctx, tx, a.ID)
			if err != nil {
				return err
			}
			if !ok && first {
				return problem.New(problem.Invalid, "There is nothing to redo.")
			}
			if !ok || !first && !r.Joined {
				return nil
			}
			edits, err := replay(ctx, tx, team, a.ID, check, r, false)
			if err != nil {
				return err
			}
			done = append(done, edits...)
			if err := store.MarkRevision(ctx, tx, a.ID, r.N, "done"); err != nil {
				return err
			}
		}
	})
	return Replayed{saved, done}, err
}

// replay makes the edits of a revision again, or takes them back, and gives them
// as they were made now.
func replay(ctx context.Context, tx *sqlx.Tx, team, attempt uuid.UUID, check checker, r store.Revision, back bool) ([]Edit, error) {
	var edits, done []Edit
	if err := json.Unmarshal(r.Edits, &edits); err != nil {
		return nil, err
	}
	if back {
		slices.Reverse(edits)
	}
	for _, e := range edits {
		if back {
			e.Value, e.Override = e.Before, true
		}
		if e.Before = nil; e.Clip == nil || check.clips[*e.Clip].ID != uuid.Nil { // else the clip was deleted since
			done = append(done, e)
		}
	}
	made := slices.Clone(done) // what was there before does not go back to the browser
	if err := apply(ctx, tx, team, attempt, made); err != nil {
		return nil, err
	}
	return done, nil
}

func (s *Service) change(ctx context.Context, team, id uuid.UUID, base int, f func(*sqlx.Tx, store.Attempt, checker) error) (Saved, error) {
	clips, err := s.store.Clips(ctx, team, id)
	if err != nil {
		return Saved{}, err
	}
	var w Saved
	err = s.store.InTx(ctx, func(tx *sqlx.Tx) error {
		a, err := store.LockAttempt(ctx, tx, team, id)
		if err != nil {
			return err
		}
		if base != whatever && a.Revision != base {
			return problem.New(problem.NewerWork, "This attempt was changed in another tab or by a colleague. The newer work is shown; your last change was put on top of it where it does not disagree.")
		}
		m, err := s.model(ctx, team, a)
		if err != nil {
			return err
		}
		check := checker{model: m, clips: map[uuid.UUID]store.Clip{}}
		for _, c := range clips {
			check.clips[c.ID] = c
		}
		if err := f(tx, a, check); err != nil {
			return err
		}
		if w.Revision, err = store.Bump(ctx, tx, a.ID); err != nil {
			return err
		}
		w.CanUndo, w.CanRedo, err = store.Undoable(ctx, tx, a.ID)
		return err
	})
	return w, err
}

// apply makes checked edits and notes in each what was there before. Tracks are
// read and stored together: a draft touches all of a clip at once.
func apply(ctx context.Context, tx *sqlx.Tx, team, attempt uuid.UUID, edits []Edit) error {
	var ids []store.TrackID
	for _, e := range edits {
		if id := (store.TrackID{Landmark: e.Key}); kinds[e.Kind].tracks() {
			id.Clip = *e.Clip
			if !slices.Contains(ids, id) {
				ids = append(ids, id)
			}
		}
	}
	tracks, err := store.LockTracks(ctx, tx, ids)
	if err != nil {
		return err
	}
	for i := range edits {
		e := &edits[i]
		if k := kinds[e.Kind]; k.tracks() {
			e.Before, err = k.change(tracks[store.TrackID{Clip: *e.Clip, Landmark: e.Key}], e)
		} else {
			e.Before, err = store.SwapItem(ctx, tx, team, attempt, store.Item{Clip: e.Clip, Kind: e.Kind, Key: e.Key, Value: e.Value})
		}
		if err != nil {
			return err
		}
	}
	return store.SaveTracks(ctx, tx, team, tracks)
}

// empty is an edit's value that takes away.
func empty(raw json.RawMessage) bool { return len(raw) == 0 || string(raw) == "null" }
