// Package workspace is the coach's work on one attempt: points, flags, decisions,
// with every change saved as made and every change undoable.
package workspace

import (
	"context"
	"slices"
	"strconv"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"neokinema/core/audiosync"
	"neokinema/core/compare"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/report"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Service works on attempts.
type Service struct {
	store      *store.Store
	readings   memo[map[string]uncertainty.Estimate] // of attempts that are looked back at
	companions memo[map[string][]evaluate.Companion]
}

// New makes the service.
func New(s *store.Store) *Service { return &Service{store: s} }

// Workspace is everything that the Bench shows of one attempt.
type Workspace struct {
	Attempt store.Attempt `json:"attempt"`
	Athlete store.Athlete `json:"athlete"`
	Model   model.Model   `json:"model"`
	Clips   []store.Clip  `json:"clips"`
	Age     int           `json:"age" doc:"of the athlete in the year of the attempt"`
	Child   bool          `json:"child" doc:"so young that short words come first"`
	Work    Work          `json:"work"`
	Newer   *Newer        `json:"newer,omitempty" required:"false" doc:"a version of the model that came after the one by which this attempt is judged"`
	Refused []string      `json:"refused" doc:"faults that the coach refused on earlier attempts of this athlete at this event"`
	Spent   int           `json:"spent" doc:"hand time of who asks on this attempt so far, s"`
	// Sounds are kept of attempts with several clips.
	Sounds map[uuid.UUID]audiosync.Loudness `json:"-"`
	Before *PreviousAdvice                  `json:"before,omitempty" required:"false" doc:"the last cue this athlete got, with its target"`
	// Calculations are those of the workshop that stand on its feedback page.
	Calculations []store.Calculation `json:"-"`
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

// Open reads the sheet of an attempt.
func (s *Service) Open(ctx context.Context, team, id uuid.UUID) (Workspace, error) {
	sh, err := s.open(ctx, team, id)
	if err != nil {
		return sh, err
	}
	if sh.Newer, err = s.newer(ctx, team, sh.Attempt); err != nil {
		return sh, err
	}
	if sh.Calculations, err = s.store.OnPage(ctx, team, id); err != nil {
		return sh, err
	}
	if sh.Refused, err = s.store.RefusedBefore(ctx, team, sh.Attempt); err != nil {
		return sh, err
	}
	earlier, err := s.store.Earlier(ctx, team, sh.Attempt)
	if problem.Is(err, problem.NotFound) {
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
	if v, ok := s.readings.of(then, then.values)[advice.Target]; ok {
		sh.Before.Value = &v
	}
	return sh, nil
}

// values are what the report of the attempt could read.
func (sh Workspace) values() map[string]uncertainty.Estimate {
	out := map[string]uncertainty.Estimate{}
	for _, r := range sh.Report().Readings {
		if r.Value != nil {
			out[r.ID] = *r.Value
		}
	}
	return out
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
	if len(sh.Clips) > 1 {
		if sh.Sounds, err = store.Sounds(ctx, s.store.DB, team, id); err != nil {
			return sh, err
		}
	}
	sh.Work, err = s.work(ctx, s.store.DB, sh.Attempt, sh.Clips)
	return sh, err
}

// Model is the model by which an attempt is judged, with the bands that hold for its
// athlete then.
func (s *Service) Model(ctx context.Context, team uuid.UUID, a store.Attempt, who store.Athlete) (model.Model, error) {
	m, err := s.model(ctx, team, a)
	return m.For(model.Whom{Athlete: who.ID.String(), Age: year(a) - who.Born, Years: who.Years(a.Event, year(a))}).As(a.Variant), err
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

// Clip is one of the attempt's clips.
func (sh Workspace) Clip(id uuid.UUID) (store.Clip, bool) {
	i := slices.IndexFunc(sh.Clips, func(c store.Clip) bool { return c.ID == id })
	if i < 0 {
		return store.Clip{}, false
	}
	return sh.Clips[i], true
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
	turns := 0
	if n := sh.Attempt.Turns; n != nil {
		turns = *n
	}
	return evaluate.Input{Model: sh.Model.ID, Variant: sh.Attempt.Variant, Turns: turns, Athlete: who, Clip: c.Facts(), Flags: cw.Flags, Points: cw.Points, Answers: sh.Work.Answers, Scale: cw.Scale,
		Camera: c.Camera, Contacts: c.Contacts, Ground: cw.Ground, Implement: sh.Attempt.Implement, Mark: sh.Attempt.Mark, Extra: sh.Extra()}
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

// Joined is an attempt with all its clips that can be read, the main one first: what the core
// computes from for each, with what the others tell, and the report of the attempt.
type Joined struct {
	Clips  []store.Clip
	Inputs []evaluate.Input
	Report report.Report
}

// Joined evaluates the attempt.
func (sh Workspace) Joined() (out Joined) {
	if out.Clips, out.Inputs = sh.inputs(); len(out.Inputs) == 0 {
		out.Report = evaluate.Attempt(sh.Model, sh.Input(store.Clip{}))
		return out
	}
	out.Report = evaluate.Attempt(sh.Model, out.Inputs[0])
	return out
}

func (sh Workspace) inputs() ([]store.Clip, []evaluate.Input) {
	main, ok := sh.Main()
	if !ok {
		return nil, nil
	}
	clips := []store.Clip{main}
	for _, c := range sh.Clips {
		w := sh.Work.Clips[c.ID]
		if c.ID != main.ID && c.State == "ready" && len(w.Points)+len(w.Flags) > 0 {
			clips = append(clips, c)
		}
	}
	var ids []string
	var in []evaluate.Input
	for _, c := range clips {
		ids, in = append(ids, c.ID.String()), append(in, sh.Input(c))
	}
	sh.listen(clips, in)
	return clips, evaluate.Accompanied(sh.Model, ids, in)
}

// listen tells the clips how much later their sound stands in each other, where it fits.
func (sh Workspace) listen(clips []store.Clip, in []evaluate.Input) {
	onsets := make([][]float64, len(clips))
	for i, c := range clips {
		if c.CaptureRate > 0 && c.FileRate > 0 {
			onsets[i] = sh.Sounds[c.ID].Onsets(c.CaptureRate / c.FileRate)
		}
	}
	for i := range clips {
		for k := range i {
			lag, err := audiosync.Lag(onsets[i], onsets[k])
			if err != nil {
				continue
			}
			for _, way := range []struct {
				of, to int
				lag    float64
			}{{i, k, lag}, {k, i, -lag}} {
				if in[way.of].Heard == nil {
					in[way.of].Heard = map[string]float64{}
				}
				in[way.of].Heard[clips[way.to].ID.String()] = way.lag
			}
		}
	}
}

// Accompanied is the input of a clip with what the others tell.
func (sh Workspace) Accompanied(c store.Clip) evaluate.Input {
	clips, in := sh.inputs()
	if i := slices.IndexFunc(clips, func(k store.Clip) bool { return k.ID == c.ID }); i >= 0 {
		return in[i]
	}
	return sh.Input(c)
}

// Report evaluates the attempt: the main clip, joined with what the others tell.
func (sh Workspace) Report() report.Report { return sh.Joined().Report }

// Companions are what the clips of an attempt tell each other, by the clip that is told.
func (s *Service) Companions(ctx context.Context, team, id uuid.UUID) (map[string][]evaluate.Companion, error) {
	sh, err := s.open(ctx, team, id)
	if err != nil {
		return nil, err
	}
	return s.companions.of(sh, sh.Companions), nil
}

// Companions are what the other clips of the attempt tell each of its clips.
func (sh Workspace) Companions() map[string][]evaluate.Companion {
	out := map[string][]evaluate.Companion{}
	clips, in := sh.inputs()
	for i, c := range clips {
		out[c.ID.String()] = append([]evaluate.Companion{}, in[i].Companions...)
	}
	return out
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
