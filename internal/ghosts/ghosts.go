// Package ghosts draws an attempt as it should be: the athlete's own movement with a fault taken out or made
// larger.
package ghosts

import (
	"context"
	"slices"
	"strings"

	"github.com/google/uuid"

	"neokinema/core/evaluate"
	"neokinema/internal/problem"
	"neokinema/internal/store"
	"neokinema/internal/workspace"
	"neokinema/simcam/ghost"
)

// View is a ghost with the clip that it is drawn into.
type View struct {
	Clip   uuid.UUID `json:"clip"`
	Width  int       `json:"width"`
	Height int       `json:"height"`
	ghost.Ghost
}

// Service draws ghosts.
type Service struct{ bench *workspace.Service }

// New makes the service.
func New(b *workspace.Service) *Service { return &Service{b} }

// Draw draws an attempt with so much of a fault left, in the clip that shows it.
func (s *Service) Draw(ctx context.Context, team, attempt uuid.UUID, fault string, by float64) (View, error) {
	sh, err := s.bench.Open(ctx, team, attempt)
	if err != nil {
		return View{}, err
	}
	all := sh.Joined()
	if len(all.Clips) == 0 || len(all.Inputs) == 0 {
		return View{}, problem.New(problem.Invalid, "There is no clip yet into which it could be drawn.")
	}
	k, rep := 0, all.Report
	if f, ok := sh.Model.Fault(fault); ok {
		// Into the clip from which it was read, by what that clip says itself.
		for _, r := range rep.Readings {
			other := slices.IndexFunc(all.Clips, func(c store.Clip) bool { return c.ID.String() == r.Clip })
			if r.ID == f.Target && other > 0 {
				k, rep = other, evaluate.Attempt(sh.Model, all.Inputs[other])
				break
			}
		}
	}
	in := all.Inputs[k]
	g, err := ghost.Of(sh.Model, in, rep, fault, by)
	if err != nil {
		text := err.Error()
		return View{}, problem.New(problem.Invalid, "It cannot be drawn: %s.", strings.TrimSuffix(text, "."))
	}
	return View{all.Clips[k].ID, in.Clip.Width, in.Clip.Height, g}, nil
}
