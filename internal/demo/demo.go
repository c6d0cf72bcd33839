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
	"math/rand/v2"
	"os"
	"path/filepath"
	"time"

	"github.com/google/uuid"

	"neokinema/core/body"
	"neokinema/core/technique"
	"neokinema/core/track"
	"neokinema/internal/account"
	"neokinema/internal/bench"
	"neokinema/internal/intake"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/simcam"
)

// Email is the account that one click signs in to. Its password is only for the
// demo on loopback.
const (
	Email    = "coach@lindmoor.example"
	password = "evening-training"
)

// person is one athlete of the club with attempts in order of time.
type person struct {
	athlete  store.NewAthlete
	attempts []attempt
}

type attempt struct {
	daysAgo  int
	file     string
	session  string
	mark     string
	setting  string
	focus    string
	spec     simcam.Spec
	digitise bool
	accept   []string // findings to accept; the first one's cue is given
	state    string
}

// Clip settings as phones make them: slow motion stored at 30 with its rate
// noted, the same without a note, and plain 240.
func tagged(faults map[string]float64, kit int) simcam.Spec {
	return simcam.Spec{Faults: faults, Direction: 1, CaptureRate: 240, FileRate: 30, TagRate: true, Width: 1280, Height: 720, Kit: kit}
}

func people() []person {
	untold := tagged(map[string]float64{"front-knee": 104, "early-rise": 2.5}, 1)
	untold.TagRate = false
	left := tagged(map[string]float64{"head-up": 34}, 2)
	left.Direction, left.FileRate, left.TagRate = -1, 240, false
	return []person{
		{store.NewAthlete{Name: "Tavi Renholm", Born: 2004, Sex: body.Male, Height: 1.82, Mass: 76, FrontLeg: body.Left, ThrowingHand: body.Right, TakeoffLeg: body.Left},
			[]attempt{{daysAgo: 2, file: "renholm start 3.mp4", session: "Tuesday starts", mark: "10 m 1.92 s", setting: "practice", spec: tagged(nil, 0), digitise: true, state: "in_work"}}},
		{store.NewAthlete{Name: "Odalys Ferrin", Born: 2006, Sex: body.Female, Height: 1.71, Mass: 61, FrontLeg: body.Left, ThrowingHand: body.Right, TakeoffLeg: body.Left},
			[]attempt{
				{daysAgo: 16, file: "odalys blocks.mp4", session: "Starts with timing gate", mark: "10 m 2.11 s", setting: "practice", focus: "relaxed face, long pushes",
					spec: tagged(map[string]float64{"front-knee": 118, "early-rise": 11}, 1), digitise: true, accept: []string{"S2", "S7"}, state: "sent"},
				{daysAgo: 1, file: "odalys blocks again.mp4", session: "Starts with timing gate", mark: "10 m 2.05 s", setting: "practice", spec: untold, state: "new"},
			}},
		{store.NewAthlete{Name: "Jorik Sandvale", Born: 2008, Sex: body.Male, Height: 1.76, Mass: 66, FrontLeg: body.Right, ThrowingHand: body.Left, TakeoffLeg: body.Right},
			[]attempt{{daysAgo: 0, file: "IMG 0417 – Jorik.mp4", session: "Club evening", mark: "60 m 7.41 s", setting: "competition", spec: left, state: "new"}}},
	}
}

// Loader has what loading needs.
type Loader struct {
	Store   *store.Store
	Account *account.Service
	Intake  *intake.Service
	Bench   *bench.Service
	Clips   string // folder that keeps the drawn clips
	Log     *slog.Logger
}

// Load fills the database unless the club is there already.
func (l *Loader) Load(ctx context.Context) error {
	_, err := l.Store.UserByEmail(ctx, Email)
	if err == nil {
		return nil
	}
	var p *problem.Problem
	if !errors.As(err, &p) || p.Kind != problem.NotFound {
		return err
	}
	coach, err := l.Account.Begin(ctx, account.NewTeam{Team: "Lindmoor Athletics", Name: "Ilse Varga-Holt", Credentials: account.Credentials{Email: Email, Password: password}}, "demo")
	if err != nil {
		return err
	}
	for _, who := range people() {
		a, err := l.Store.AddAthlete(ctx, coach.TeamID, who.athlete)
		if err != nil {
			return err
		}
		for _, at := range who.attempts {
			if err := l.attempt(ctx, coach, a, at); err != nil {
				return fmt.Errorf("%s: %w", at.file, err)
			}
		}
	}
	return nil
}

func (l *Loader) attempt(ctx context.Context, coach store.User, a store.Athlete, at attempt) error {
	at.spec.Athlete = a.Body()
	scene, file, err := l.Clip(ctx, at.spec)
	if err != nil {
		return err
	}
	row, err := l.Store.AddAttempt(ctx, coach.TeamID, store.NewAttempt{
		AthleteID: a.ID, Event: scene.Truth.Event, DoneOn: time.Now().AddDate(0, 0, -at.daysAgo).Format("2006-01-02"), Session: at.session,
		Place: "Lindmoor track", Mark: at.mark, Condition: "fresh", Setting: at.setting, CoachFocus: at.focus,
	})
	if err != nil {
		return err
	}
	clip, err := l.Intake.Take(ctx, coach.TeamID, row.ID, at.file, file)
	if err != nil {
		return err
	}
	if clip, err = l.await(ctx, coach.TeamID, clip.ID); err != nil {
		return err
	}
	if at.digitise {
		if err := l.digitise(ctx, coach, row.ID, clip.ID, scene.Truth, at.accept); err != nil {
			return err
		}
	}
	_, err = l.Store.SetState(ctx, coach.TeamID, row.ID, at.state)
	return err
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
	// The motion is part of the name, so that a better figure is drawn anew.
	wish, err := json.Marshal(scene.Truth)
	if err != nil {
		return nil, "", err
	}
	file := filepath.Join(l.Clips, fmt.Sprintf("start-%x.mp4", sha256.Sum256(wish))[:22]+".mp4")
	if _, err := os.Stat(file); err == nil {
		return scene, file, nil
	}
	l.Log.Info("drawing a clip of the simulated athlete", "frames", len(scene.Truth.Frames))
	part := file + ".part.mp4"
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

// digitise does what a coach would have done: flags, points with the scatter of
// a hand, marks, findings and a cue.
func (l *Loader) digitise(ctx context.Context, coach store.User, attempt, clip uuid.UUID, truth simcam.Truth, accept []string) error {
	edits := ByHand(truth, clip, 0.8)
	work, err := l.Bench.Save(ctx, coach.TeamID, coach.ID, attempt, bench.Edits{Base: 0, Edits: edits})
	if err != nil || len(accept) == 0 {
		return err
	}
	sh, err := l.Bench.Open(ctx, coach.TeamID, attempt)
	if err != nil {
		return err
	}
	edits = nil
	for i, id := range accept {
		f, ok := sh.Model.Fault(id)
		if !ok {
			return fmt.Errorf("no fault %s", id)
		}
		edits = append(edits, bench.Edit{Kind: "finding", Key: id, Value: "accepted"})
		if i < 2 {
			cue := f.Cues[0]
			edits = append(edits, bench.Edit{Kind: "advice", Key: []string{"main", "second"}[i], Value: store.Advice{
				Fault: id, Focus: cue.Focus, Words: cue.Words, Backfire: cue.Backfire, Drill: f.Drills[0], Target: f.Target}})
		}
	}
	edits = append(edits, bench.Edit{Kind: "note", Key: "athlete", Value: "Good evening's work, Odalys. Send me the next one from the same place beside lane 3."})
	_, err = l.Bench.Save(ctx, coach.TeamID, coach.ID, attempt, bench.Edits{Base: work.Revision, Edits: edits})
	return err
}

// ByHand makes the flags and points that a careful coach would set, from the
// truth, scattered by sigma px.
func ByHand(truth simcam.Truth, clip uuid.UUID, sigma float64) []bench.Edit {
	m, err := technique.Load(truth.Event)
	if err != nil {
		return nil
	}
	near := body.NearSide(truth.Spec.Direction)
	roles := body.Roles{FrontLeg: truth.Spec.Athlete.FrontLeg, Near: near}
	r := rand.New(rand.NewPCG(8470, uint64(len(truth.Frames))))
	var edits []bench.Edit
	put := func(id string, frame int) {
		at := truth.Frames[frame].Landmarks[id].Image
		edits = append(edits, bench.Edit{Kind: "point", Clip: &clip, Key: id, Frame: frame, Value: track.Point{
			X: at[0] + sigma*r.NormFloat64(), Y: at[1] + sigma*r.NormFloat64(), Source: "hand", Confidence: 1}})
	}
	for _, p := range m.Positions {
		frame, ok := truth.Positions[p.ID]
		if !ok || p.ID == "gun" {
			continue
		}
		edits = append(edits, bench.Edit{Kind: "flag", Clip: &clip, Key: p.ID, Value: frame})
		placed := map[string]bool{}
		for _, cp := range m.Checkpoints {
			if cp.Position != p.ID {
				continue
			}
			for _, role := range cp.Measure.Points {
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
