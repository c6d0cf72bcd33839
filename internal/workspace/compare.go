package workspace

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"neokinema/core/compare"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

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
