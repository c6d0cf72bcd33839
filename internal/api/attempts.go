package api

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"neokinema/core/azimuth"
	"neokinema/core/body"
	"neokinema/core/evaluate"
	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/internal/feedback"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
	"neokinema/models"
)

// sheet opens an attempt with the directions of its model named as the user names
// them, for the athlete's hand.
func (s *server) sheet(ctx context.Context, id uuid.UUID) (workspace.Workspace, error) {
	u := who(ctx)
	sh, err := s.Workspace.Open(ctx, u.TeamID, id)
	if err == nil {
		sh.Spent, err = s.Store.HandTime(ctx, u.ID, id)
	}
	sh.Model = spoken(sh.Model, sh.Athlete.ThrowingHand == body.Left, u.Directions)
	return sh, err
}

// spoken names the directions in all texts of a model, or of what is told of one.
func spoken[T any](v T, left bool, l azimuth.Language) T {
	raw, err := json.Marshal(v)
	if err != nil {
		return v
	}
	var out T
	if json.Unmarshal(azimuth.Fill(raw, left, l), &out) != nil {
		return v
	}
	return out
}

// CheckedModel is a model that was read from a file, or what is wrong in it.
type CheckedModel struct {
	Model    *model.Model    `json:"model,omitempty" required:"false"`
	Mistakes models.Mistakes `json:"mistakes" doc:"by line; empty when the model is sound"`
}

// Next is an attempt that comes next, if there is one.
type Next struct {
	ID *uuid.UUID `json:"id,omitempty" required:"false"`
}

// eventNames are the events by which the queue is searched and put in order.
var eventNames = func() (out []store.EventName) {
	for _, e := range sport.Events() {
		out = append(out, store.EventName{ID: string(e.ID), Name: e.Name})
	}
	return out
}()

func (s *server) attempts(api huma.API) {
	register(s, api, "GET", "/queue", "queue", "A page of the queue", func(ctx context.Context, in *struct{ store.QueueView }) (*bodyOf[store.QueuePage], error) {
		u := who(ctx)
		page, err := s.Store.Queue(ctx, u.TeamID, u.ID, in.QueueView, eventNames)
		var settled []uuid.UUID
		for i, l := range page.Lines {
			left := l.Hand == string(body.Left)
			page.Lines[i].Cue = string(azimuth.Fill([]byte(l.Cue), left, u.Directions))
			page.Lines[i].LastCue = string(azimuth.Fill([]byte(l.LastCue), left, u.Directions))
			if l.Clips > 0 && l.Busy == 0 && l.Drafting == 1 {
				settled = append(settled, l.ID)
			}
		}
		s.Logbook.Ahead(u.TeamID, settled)
		return answer(page, err)
	})
	register(s, api, "GET", "/queue/after/{id}", "nextInQueue", "The attempt behind one in a view of the queue, of those not sent yet", func(ctx context.Context, in *struct {
		ByID
		store.QueueView
	}) (*bodyOf[Next], error) {
		id, err := s.Store.NextInQueue(ctx, who(ctx).TeamID, in.ID, in.QueueView, eventNames)
		if id == uuid.Nil {
			return answer(Next{}, err)
		}
		return answer(Next{&id}, err)
	})
	register(s, api, "GET", "/news", "news", "What came in for the team since a moment", func(ctx context.Context, in *struct {
		Since time.Time `query:"since" doc:"none: only tells since when to ask"`
	}) (*bodyOf[store.News], error) {
		return answer(s.Store.News(ctx, who(ctx).TeamID, in.Since))
	})
	register(s, api, "GET", "/models", "models", "The technique models as the team holds them", func(ctx context.Context, _ *empty) (*bodyOf[[]workspace.EventModel], error) {
		all, err := s.Workspace.Models(ctx, who(ctx).TeamID)
		for i := range all {
			all[i].Model = spoken(all[i].Model, false, who(ctx).Directions)
		}
		return answer(all, err)
	})
	register(s, api, "POST", "/models/{id}/versions", "changeModel", "Store the next version of the team's model", func(ctx context.Context, in *struct {
		ID   string `path:"id" maxLength:"40"`
		Body workspace.ModelChange
	}) (*bodyOf[store.ModelVersion], error) {
		u := who(ctx)
		return answer(s.Workspace.ChangeModel(ctx, u.TeamID, u.ID, in.ID, in.Body))
	})
	register(s, api, "POST", "/attempts/{id}/rejudge", "rejudge", "Judge an attempt by the newest version of its model", func(ctx context.Context, in *ByID) (*bodyOf[workspace.Rejudged], error) {
		out, err := s.Workspace.Rejudge(ctx, who(ctx).TeamID, in.ID)
		return answer(spoken(out, false, who(ctx).Directions), err)
	})
	register(s, api, "GET", "/compare", "compare", "Hold two attempts, or two clips of one, against each other", func(ctx context.Context, in *struct {
		A     uuid.UUID `query:"a" required:"true" doc:"attempt"`
		B     uuid.UUID `query:"b" doc:"attempt at the same event"`
		ClipA uuid.UUID `query:"clip_a" doc:"its main clip when absent"`
		ClipB uuid.UUID `query:"clip_b" doc:"one in the same view when absent"`
		At    string    `query:"at" maxLength:"40" doc:"key position at which both run in true time; phase by phase when absent"`
		Curve string    `query:"curve" maxLength:"60" doc:"a curve to hold against each other, phase by phase"`
		Model bool      `query:"reference" doc:"instead of b: the model's simulated reference with the athlete's body"`
	}) (*bodyOf[workspace.Comparison], error) {
		out, err := s.Workspace.Compare(ctx, who(ctx).TeamID, workspace.CompareRequest{A: in.A, B: in.B, Reference: in.Model, ClipA: in.ClipA, ClipB: in.ClipB, At: in.At, Curve: in.Curve})
		return answer(spoken(out, false, who(ctx).Directions), err)
	})
	register(s, api, "GET", "/attempts/{id}/companions", "companions", "What the clips of an attempt tell each other, by the clip that is told", func(ctx context.Context, in *ByID) (*bodyOf[map[string][]evaluate.Companion], error) {
		if err := s.Analysis.Hear(ctx, who(ctx).TeamID, in.ID); err != nil {
			return nil, err
		}
		return answer(s.Workspace.Companions(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "GET", "/attempts/{id}/two-views", "twoViews", "Read a throw from two clips of an attempt at once", func(ctx context.Context, in *ByID) (*bodyOf[evaluate.Stereo], error) {
		out, err := s.Workspace.TwoViews(ctx, who(ctx).TeamID, in.ID, s.Analysis.Lag)
		return answer(spoken(out, out.TopView.Left, who(ctx).Directions), err)
	})
	register(s, api, "POST", "/models/check", "checkModel", "Read a model file and tell everything that is wrong in it", func(ctx context.Context, in *struct {
		Body struct {
			Text string `json:"text" maxLength:"400000" doc:"YAML"`
		}
	}) (*bodyOf[CheckedModel], error) {
		m, err := models.Parse([]byte(in.Body.Text))
		var wrong models.Mistakes
		if errors.As(err, &wrong) {
			return answer(CheckedModel{Mistakes: wrong}, nil)
		}
		m = spoken(m, false, who(ctx).Directions)
		return answer(CheckedModel{Model: &m, Mistakes: models.Mistakes{}}, err)
	})
	register(s, api, "POST", "/sample", "addSample", "Add an attempt with a clip to try", func(ctx context.Context, _ *empty) (*bodyOf[store.Attempt], error) {
		return answer(s.Sample(ctx, who(ctx).TeamID))
	})
	register(s, api, "POST", "/attempts", "addAttempt", "Add an attempt", func(ctx context.Context, in *bodyOf[store.NewAttempt]) (*bodyOf[store.Attempt], error) {
		return answer(s.Store.AddAttempt(ctx, who(ctx).TeamID, in.Body))
	})
	register(s, api, "PUT", "/attempts/{id}", "changeAttempt", "Change what is known of an attempt", func(ctx context.Context, in *struct {
		ByID
		Body store.NewAttempt
	}) (*bodyOf[store.Attempt], error) {
		return answer(s.Store.ChangeAttempt(ctx, who(ctx).TeamID, in.ID, in.Body))
	})
	register(s, api, "PUT", "/attempts/{id}/state", "setState", "Move an attempt through the queue", func(ctx context.Context, in *struct {
		ByID
		Body struct {
			State string `json:"state" enum:"new,in_work,ready,sent"`
		}
	}) (*bodyOf[store.Attempt], error) {
		return answer(s.Store.SetState(ctx, who(ctx).TeamID, in.ID, in.Body.State))
	})
	register(s, api, "DELETE", "/attempts/{id}", "deleteAttempt", "Delete an attempt with its clips", func(ctx context.Context, in *ByID) (*bodyOf[store.Deletion], error) {
		return answer(s.Intake.DeleteAttempt(ctx, who(ctx).TeamID, in.ID))
	})
	register(s, api, "GET", "/attempts/{id}/workspace", "workspace", "Everything that the workspace shows", func(ctx context.Context, in *ByID) (*bodyOf[workspace.Workspace], error) {
		return answer(s.sheet(ctx, in.ID))
	})
	register(s, api, "POST", "/attempts/{id}/edits", "saveEdits", "Save a change made on a revision", func(ctx context.Context, in *struct {
		ByID
		Body workspace.Edits
	}) (*bodyOf[workspace.Saved], error) {
		u := who(ctx)
		return answer(s.Workspace.Save(ctx, u.TeamID, u.ID, in.ID, in.Body))
	})
	type base struct {
		ByID
		Body struct {
			Base int `json:"base"`
		}
	}
	register(s, api, "POST", "/attempts/{id}/undo", "undo", "Take the last change back", func(ctx context.Context, in *base) (*bodyOf[workspace.Replayed], error) {
		return answer(s.Workspace.Undo(ctx, who(ctx).TeamID, in.ID, in.Body.Base))
	})
	register(s, api, "POST", "/attempts/{id}/redo", "redo", "Bring the last undone change again", func(ctx context.Context, in *base) (*bodyOf[workspace.Replayed], error) {
		return answer(s.Workspace.Redo(ctx, who(ctx).TeamID, in.ID, in.Body.Base))
	})
	register(s, api, "GET", "/attempts/{id}/feedback", "feedback", "The feedback page", func(ctx context.Context, in *ByID) (*bodyOf[feedback.Page], error) {
		sh, err := s.sheet(ctx, in.ID)
		if err != nil {
			return nil, err
		}
		return answer(feedback.Build(sh), nil)
	})
}
