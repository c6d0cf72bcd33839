// Package demo fills a fresh database with an invented club whose clips come
// from the simulated athlete.
package demo

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"sync/atomic"
	"time"

	"github.com/google/uuid"
	"golang.org/x/sync/errgroup"

	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/ground"
	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/core/stabilize"
	"neokinema/core/track"
	"neokinema/core/workshop"
	"neokinema/internal/account"
	"neokinema/internal/intake"
	"neokinema/internal/logbook"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/videoanalysis"
	"neokinema/internal/workspace"
	"neokinema/models"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

// Email is the account that one click signs in to. Its password is only for the
// demo on loopback.
const (
	Email    = "coach@lindmoor.example"
	password = "evening-training"
)

// Loader has what loading needs.
type Loader struct {
	Store   *store.Store
	Account *account.Service
	Intake  *intake.Service
	Bench   *workspace.Service
	Watch   *videoanalysis.Service
	Logbook *logbook.Service
	Clips   string // folder that keeps the drawn clips
	Log     *slog.Logger

	coach store.User
	of    int
	done  atomic.Int64
}

// Load fills the database unless the club is there already.
func (l *Loader) Load(ctx context.Context) error {
	begun, err := l.Begin(ctx)
	if err != nil || !begun {
		return err
	}
	return l.Fill(ctx)
}

// Begin makes the club's account, so that somebody can sign in; false when it is there already.
func (l *Loader) Begin(ctx context.Context) (bool, error) {
	_, err := l.Store.UserByEmail(ctx, Email)
	if err == nil {
		return false, nil
	}
	var p *problem.Problem
	if !errors.As(err, &p) || p.Kind != problem.NotFound {
		return false, err
	}
	l.of = 0
	for _, who := range people() {
		l.of += len(who.attempts)
	}
	l.coach, err = l.Account.Create(ctx, account.NewTeam{Team: "Lindmoor Athletics", Name: "Ilse Varga-Holt", Credentials: account.Credentials{Email: Email, Password: password}})
	return err == nil, err
}

// Fill gives the club that has begun its athletes and their attempts, those first who have the
// newest: they stand on top of the queue.
func (l *Loader) Fill(ctx context.Context) error {
	newest := func(p person) int {
		return slices.MinFunc(p.attempts, func(a, b attempt) int { return a.daysAgo - b.daysAgo }).daysAgo
	}
	list := slices.SortedStableFunc(slices.Values(people()), func(a, b person) int { return newest(a) - newest(b) })
	if err := l.eyes(ctx); err != nil {
		return fmt.Errorf("the coach's eye: %w", err)
	}
	// A few athletes at a time: one clip's import does not fill every core.
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(runtime.NumCPU())
	for _, who := range list {
		g.Go(func() error { return l.fill(ctx, who) })
	}
	return g.Wait()
}

// Progress tells how many attempts of the club are there, of how many.
func (l *Loader) Progress() (done, of int) { return int(l.done.Load()), l.of }

func (l *Loader) fill(ctx context.Context, who person) error {
	more := logs[who.athlete.Name]
	if more.consent != "" {
		on := ago(90)
		who.athlete.ConsentBy, who.athlete.ConsentOn = more.consent, &on
	}
	a, err := l.Store.AddAthlete(ctx, l.coach.TeamID, who.athlete)
	if err != nil {
		return err
	}
	if err := l.log(ctx, l.coach, a, more); err != nil {
		return fmt.Errorf("%s: %w", a.Name, err)
	}
	for _, at := range who.attempts {
		if err := l.attempt(ctx, l.coach, a, at); err != nil {
			return fmt.Errorf("%s %s: %w", who.athlete.Name, at.event(), err)
		}
		l.Log.Info(fmt.Sprintf("%d of %d: %s, %s", l.done.Add(1), l.of, a.Name, at.event()))
	}
	if err := l.drill(ctx, a); err != nil {
		return fmt.Errorf("drills of %s: %w", a.Name, err)
	}
	for _, p := range more.plans {
		if err := l.plan(ctx, a, p); err != nil {
			return fmt.Errorf("%s: %w", a.Name, err)
		}
	}
	if err := l.season(ctx, a); err != nil {
		return fmt.Errorf("season of %s: %w", a.Name, err)
	}
	return nil
}

// plan keeps a calculation with the numbers of the attempt of its day.
func (l *Loader) plan(ctx context.Context, a store.Athlete, p planned) error {
	if l.Logbook == nil {
		return nil
	}
	log, err := l.Logbook.Open(ctx, l.coach.TeamID, a.ID, ago(0))
	if err != nil {
		return err
	}
	q, ok := workshop.Find(p.question)
	if !ok {
		return fmt.Errorf("the workshop has no question %q", p.question)
	}
	for _, e := range log.Events {
		for _, at := range e.Attempts {
			if !q.Of(e.Event) || at.DoneOn != ago(p.daysAgo) {
				continue
			}
			known, err := l.Logbook.Workshop(ctx, l.coach.TeamID, a.ID, e.Event, at.ID)
			if err != nil {
				return err
			}
			values := known.Values(q)
			tried := maps.Clone(values)
			tried[p.input] = workshop.Value{Value: p.value, Half: 0}
			c := store.NewCalculation{AttemptID: &at.ID, Event: e.Event, Question: p.question, Name: p.name, Variants: store.Variants{{Name: "as it was", Values: values}, {Name: p.tried, Values: tried}}, Chosen: 1, OnPage: p.onPage, MadeOn: ago(p.daysAgo)}
			if err := c.Check(); err != nil {
				return err
			}
			_, err = l.Store.AddCalculation(ctx, l.coach.TeamID, a.ID, c)
			return err
		}
	}
	return fmt.Errorf("no attempt for %q", p.name)
}

func ago(days int) string { return time.Now().AddDate(0, 0, -days).Format(time.DateOnly) }

// log types in what the coach had typed in.
func (l *Loader) log(ctx context.Context, coach store.User, a store.Athlete, more logged) error {
	if l.Logbook == nil {
		return nil
	}
	for _, s := range more.sessions {
		in := logbook.SessionEntry{AthleteID: a.ID, Event: s.event, DoneOn: ago(s.daysAgo), Session: s.session, Place: "Lindmoor track", Implement: s.implement, Setting: s.setting, Condition: "fresh"}
		for _, line := range s.lines {
			in.Lines = append(in.Lines, logbook.Typed{Text: line})
		}
		if _, err := l.Logbook.Enter(ctx, coach.TeamID, in); err != nil {
			return err
		}
	}
	for _, n := range more.notes {
		note := store.NewNote{Kind: n.kind, NotedOn: ago(n.daysAgo), Says: n.says}
		if n.over {
			over := ago(n.daysAgo - 10)
			note.OverOn = &over
		}
		if _, err := l.Store.AddNote(ctx, coach.TeamID, a.ID, note); err != nil {
			return err
		}
	}
	return nil
}

func (l *Loader) attempt(ctx context.Context, coach store.User, a store.Athlete, at attempt) error {
	m, err := models.Load(at.event())
	if err != nil {
		return err
	}
	school := ""
	if slices.ContainsFunc(m.Variants, func(v model.Variant) bool { return v.ID == at.spec.Variant }) {
		school = at.spec.Variant
	}
	row, err := l.Store.AddAttempt(ctx, coach.TeamID, store.NewAttempt{
		AthleteID: a.ID, Event: at.event(), Variant: school, DoneOn: ago(at.daysAgo), Session: at.session,
		Place: "Lindmoor track", Mark: at.mark, Implement: at.implement, Condition: "fresh", Setting: at.setting, CoachFocus: at.focus,
	})
	if err != nil {
		return err
	}
	for i, shot := range at.clips {
		spec := shot.specFor(a.NewAthlete, at)
		file, err := l.shipped(shot.file)
		if err != nil {
			return err
		}
		clip, err := l.Intake.Take(ctx, coach.TeamID, row.ID, shot.file, file)
		if err != nil {
			return err
		}
		if clip, err = l.await(ctx, coach.TeamID, clip.ID); err != nil {
			return err
		}
		if view := spec.View(); view != clip.View && !shot.unanswered {
			// What a coach would have answered on the clip's sheet.
			if _, err := l.Intake.Answer(ctx, coach.TeamID, clip.ID, intake.ClipAnswers{CaptureRate: clip.CaptureRate, View: view}); err != nil {
				return err
			}
		}
		if at.worked {
			scene, err := simcam.New(spec)
			if err != nil {
				return err
			}
			if err := l.workOut(ctx, coach, row.ID, clip.ID, scene.Truth); err != nil {
				return err
			}
		}
		if at.depth {
			scene, err := simcam.New(spec)
			if err != nil {
				return err
			}
			if err := l.deepen(ctx, coach, row.ID, clip.ID, scene.Truth); err != nil {
				return err
			}
		}
		if at.digitise && i == 0 {
			scene, err := simcam.New(spec)
			if err != nil {
				return err
			}
			if err := l.digitise(ctx, coach, row.ID, clip.ID, scene.Truth); err != nil {
				return err
			}
		}
	}
	if err := l.advise(ctx, coach, row.ID, at); err != nil {
		return err
	}
	if at.drafted {
		clips, err := l.Store.Clips(ctx, coach.TeamID, row.ID)
		if err != nil {
			return err
		}
		scene, err := simcam.New(at.clips[0].specFor(a.NewAthlete, at))
		if err != nil {
			return err
		}
		if err := l.draft(ctx, coach, row.ID, clips[0].ID, scene.Truth); err != nil {
			return err
		}
	}
	_, err = l.Store.SetState(ctx, coach.TeamID, row.ID, at.state)
	return err
}

// shipped puts a clip of the club where the import can take it.
func (l *Loader) shipped(name string) (string, error) {
	raw, err := files.ReadFile("clips/" + slug(name))
	if err != nil {
		return "", fmt.Errorf("the demo's clip %q is missing; neokinema clips draws it: %w", name, err)
	}
	if err := os.MkdirAll(l.Clips, 0o755); err != nil {
		return "", err
	}
	file := filepath.Join(l.Clips, slug(name))
	return file, os.WriteFile(file, raw, 0o644)
}

// Clip draws a clip once; the same wish finds it again.
func (l *Loader) Clip(ctx context.Context, spec simcam.Spec) (*simcam.Scene, string, error) {
	scene, err := simcam.New(spec)
	if err != nil {
		return nil, "", err
	}
	if err := os.MkdirAll(l.Clips, 0o755); err != nil {
		return nil, "", err
	}
	// The motion and what draws it are part of the name, so that a better figure is drawn
	// anew.
	wish, err := json.Marshal(scene.Truth)
	if err != nil {
		return nil, "", err
	}
	file := filepath.Join(l.Clips, fmt.Sprintf("%s-%x", spec.Event, sha256.Sum256(append(wish, simcam.Code()...)))[:26]+".mp4")
	if _, err := os.Stat(file); err == nil {
		return scene, file, nil
	}
	l.Log.Info("drawing a clip of the simulated athlete", "frames", len(scene.Truth.Frames))
	// Several programs may draw the same at once; the last one is as good as the first.
	own, err := os.MkdirTemp(l.Clips, "part-")
	if err != nil {
		return nil, "", err
	}
	defer os.RemoveAll(own)
	part := filepath.Join(own, "clip.mp4")
	if err := scene.WriteClip(ctx, part); err != nil {
		return nil, "", err
	}
	return scene, file, errors.Join(os.Rename(part+".truth.json", file+".truth.json"), os.Rename(part, file))
}

func (l *Loader) await(ctx context.Context, team, id uuid.UUID) (store.Clip, error) {
	for {
		c, err := l.Store.Clip(ctx, team, id)
		if err != nil || c.State == "ready" {
			return c, err
		}
		if c.State == "failed" || c.State == "cancelled" {
			return c, fmt.Errorf("import %s: %s", c.State, c.Problem)
		}
		select {
		case <-ctx.Done():
			return c, ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
	}
}

// digitise does what a coach would have done: flags, and points with the scatter of a hand.
func (l *Loader) digitise(ctx context.Context, coach store.User, attempt, clip uuid.UUID, truth simcam.Truth) error {
	_, err := l.Bench.Save(ctx, coach.TeamID, coach.ID, attempt, workspace.Edits{Base: 0, Edits: ByHand(truth, clip, 0.8)})
	return err
}

// workOut lays on a clip from a tripod all that a coach has once it is worked out: flags, every
// joint followed, the implement and the circle where there are any, and what was to be answered.
func (l *Loader) workOut(ctx context.Context, coach store.User, attempt, clip uuid.UUID, truth simcam.Truth) error {
	sh, err := l.Bench.Open(ctx, coach.TeamID, attempt)
	if err != nil {
		return err
	}
	if _, err := l.Store.SetClipCamera(ctx, coach.TeamID, clip, &stabilize.Rotations{}); err != nil {
		return err
	}
	_, err = l.Bench.Save(ctx, coach.TeamID, coach.ID, attempt, workspace.Edits{Base: sh.Work.Revision, Edits: workedOut(sh.Model, truth, clip)})
	return err
}

// workedOut are the edits of such a clip.
func workedOut(m model.Model, truth simcam.Truth, clip uuid.UUID) []workspace.Edit {
	tracks, circle := thrown(truth, 0.8)
	var edits []workspace.Edit
	if circle != nil {
		edits = append(edits, workspace.Edit{Kind: "ground", Clip: &clip, Key: "points", Value: workspace.Value(circle)})
	}
	for id, t := range tracks {
		edits = append(edits, workspace.Edit{Kind: "track", Clip: &clip, Key: id, Value: workspace.Value(t)})
	}
	edits = append(edits, ByHand(truth, clip, 0.8)...)
	for id, a := range answers(m, truth) {
		edits = append(edits, workspace.Edit{Kind: "answer", Key: id, Value: workspace.Value(a)})
	}
	return edits
}

// answers are what a coach would say who has seen the whole movement: its signs are told at the
// rate at which they are defined.
func answers(m model.Model, truth simcam.Truth) map[string]evaluate.Judgement {
	s := truth.Spec
	s.CaptureRate, s.FileRate, s.Camera = 240, 240, simcam.Camera{}
	seen := evaluate.Input{Answers: map[string]evaluate.Judgement{}}
	if scene, err := simcam.New(s); err == nil {
		points.Answer(m, scene.Truth, &seen)
	}
	return seen.Answers
}

// thrown are the tracks of a clip, scattered by sigma px, with those of an implement and the
// marks of the circle where the event has them.
func thrown(truth simcam.Truth, sigma float64) (map[string]*track.Track, *ground.ControlPoints) {
	all := points.All(truth, sigma, 8470)
	defer func() {
		// Nobody places what lies outside the picture.
		for _, t := range all {
			for f := t.From; f < t.End(); f++ {
				if p, ok := t.At(f); ok && (p.X < 0 || p.Y < 0 || p.X >= float64(truth.Spec.Width) || p.Y >= float64(truth.Spec.Height)) {
					_ = t.Set(f, nil) // a frame that it has
				}
			}
		}
	}()
	if sport.Of(truth.Event).Implement == nil {
		maps.Copy(all, points.Pole(truth, 1, 8470))
		scene, err := simcam.New(truth.Spec)
		if err != nil {
			return all, nil
		}
		marks, _ := points.Marks(scene, 1.5, 8470)
		for _, id := range []string{"left_toe", "right_toe"} {
			followed(all[id])
		}
		return all, marks
	}
	all["ball"] = points.Ball(truth, 1, 8470)
	if a, b := points.Rims(truth, 1, 8470); a != nil {
		all["rim_a"], all["rim_b"] = a, b
	}
	if sport.Of(truth.Event).Circle == 0 {
		return all, nil
	}
	return all, points.Circle(truth, 1.5, 8470)
}

// followed marks points as those of a tracker: a coach who wants the run-up has the shoes followed.
func followed(t *track.Track) {
	for f := t.From; f < t.End(); f++ {
		if p, ok := t.At(f); ok {
			p.Source = track.Tracked.String()
			_ = t.Set(f, &p) // a frame that it has
		}
	}
}

// advise accepts findings, gives the cue of the first and writes to the athlete.
func (l *Loader) advise(ctx context.Context, coach store.User, attempt uuid.UUID, at attempt) error {
	if len(at.accept) == 0 {
		return nil
	}
	sh, err := l.Bench.Open(ctx, coach.TeamID, attempt)
	if err != nil {
		return err
	}
	var edits []workspace.Edit
	for i, id := range at.accept {
		f, ok := sh.Model.Fault(id)
		if !ok {
			return fmt.Errorf("no fault %s", id)
		}
		edits = append(edits, workspace.Edit{Kind: "finding", Key: id, Value: workspace.Value("accepted")})
		if i < 2 {
			cue := f.Cues[0]
			edits = append(edits, workspace.Edit{Kind: "advice", Key: []string{"main", "second"}[i], Value: workspace.Value(store.Advice{
				Fault: id, Focus: cue.Focus, Words: cue.Words, Backfire: cue.Backfire, Drill: f.Drills[0], Target: f.Target})})
		}
	}
	word := at.word
	if word == "" {
		word = "Good evening's work. Send me the next one from the same place beside lane 3."
	}
	edits = append(edits, workspace.Edit{Kind: "note", Key: "athlete", Value: workspace.Value(word)})
	_, err = l.Bench.Save(ctx, coach.TeamID, coach.ID, attempt, workspace.Edits{Base: sh.Work.Revision, Edits: edits})
	return err
}

// draft lays a draft on an attempt as the pose model would, from the truth with
// more scatter than a hand's, and has the picture make it better, as the Bench
// does after a draft.
func (l *Loader) draft(ctx context.Context, coach store.User, attempt, clip uuid.UUID, truth simcam.Truth) error {
	var edits []workspace.Edit
	for id, t := range points.All(truth, 2, 8470) {
		edits = append(edits, workspace.Edit{Kind: "track", Clip: &clip, Key: id, Value: workspace.Value(t)})
	}
	saved, err := l.Bench.Save(ctx, coach.TeamID, coach.ID, attempt, workspace.Edits{Edits: edits})
	if err != nil || l.Watch == nil {
		return err
	}
	better, _, err := l.Watch.Refine(ctx, coach.TeamID, clip, func(int, int) error { return ctx.Err() })
	if err != nil {
		return err
	}
	edits = nil
	for id, t := range better {
		edits = append(edits, workspace.Edit{Kind: "track", Clip: &clip, Key: id, Value: workspace.Value(t)})
	}
	_, err = l.Bench.Save(ctx, coach.TeamID, coach.ID, attempt, workspace.Edits{Base: saved.Revision, Edits: edits, MergeWithPrevious: true})
	return err
}

// deepen lays on an attempt what a coach has after a draft from a tripod, a tracked
// ball and some clicks on the circle.
func (l *Loader) deepen(ctx context.Context, coach store.User, attempt, clip uuid.UUID, truth simcam.Truth) error {
	sh, err := l.Bench.Open(ctx, coach.TeamID, attempt)
	if err != nil {
		return err
	}
	if _, err := l.Store.SetClipCamera(ctx, coach.TeamID, clip, &stabilize.Rotations{}); err != nil {
		return err
	}
	all, circle := thrown(truth, 2)
	edits := []workspace.Edit{{Kind: "ground", Clip: &clip, Key: "points", Value: workspace.Value(circle)}}
	for id, t := range all {
		edits = append(edits, workspace.Edit{Kind: "track", Clip: &clip, Key: id, Value: workspace.Value(t)})
	}
	if f, ok := truth.Positions["release"]; ok {
		edits = append(edits, workspace.Edit{Kind: "flag", Clip: &clip, Key: "release", Value: workspace.Value(f)})
	}
	_, err = l.Bench.Save(ctx, coach.TeamID, coach.ID, attempt, workspace.Edits{Base: sh.Work.Revision, Edits: edits})
	return err
}

// ByHand makes the flags and points that a careful coach would set, from the
// truth, scattered by sigma px.
func ByHand(truth simcam.Truth, clip uuid.UUID, sigma float64) []workspace.Edit {
	m, err := models.Load(truth.Event)
	if err != nil {
		return nil
	}
	near := body.NearSide(truth.Spec.Direction)
	roles := body.Roles{FrontLeg: truth.Spec.Athlete.FrontLeg, Near: near}
	r := rand.New(rand.NewPCG(8470, uint64(len(truth.Frames))))
	var edits []workspace.Edit
	put := func(id string, frame int) {
		l, joint := truth.Frames[frame].Landmarks[id]
		at := l.Image
		if !joint || at[0] < 2 || at[1] < 2 || at[0] > float64(truth.Spec.Width)-2 || at[1] > float64(truth.Spec.Height)-2 {
			return // an implement is followed, not placed; and nobody places what is not in the picture
		}
		edits = append(edits, workspace.Edit{Kind: "point", Clip: &clip, Key: id, Frame: frame, Value: workspace.Value(track.Point{
			X: at[0] + sigma*r.NormFloat64(), Y: at[1] + sigma*r.NormFloat64(), Source: "hand", Confidence: 1})})
	}
	for _, p := range m.Positions {
		frame, ok := truth.Positions[p.ID]
		if !ok || p.ID == "gun" {
			continue
		}
		edits = append(edits, workspace.Edit{Kind: "flag", Clip: &clip, Key: p.ID, Value: workspace.Value(frame)})
		placed := map[string]bool{}
		for _, cp := range m.Checkpoints {
			if cp.Position != p.ID {
				continue
			}
			for _, role := range cp.Measure.Points {
				if !body.KnownRole(role) {
					continue // a direction, not a landmark
				}
				for _, id := range roles.Resolve(role) {
					if !placed[id] {
						placed[id] = true
						put(id, frame)
					}
				}
			}
		}
	}
	return edits
}
