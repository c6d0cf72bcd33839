// Package ghosts draws an attempt as it should be: the athlete's own movement with a fault taken out or made
// larger.
package ghosts

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"neokinema/internal/problem"
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

// Draw draws the main clip of an attempt with so much of a fault left.
func (s *Service) Draw(ctx context.Context, team, attempt uuid.UUID, fault string, by float64) (View, error) {
	sh, err := s.bench.Open(ctx, team, attempt)
	if err != nil {
		return View{}, err
	}
	all := sh.Joined()
	if len(all.Clips) == 0 || len(all.Inputs) == 0 {
		return View{}, problem.New(problem.Invalid, "There is no clip yet into which it could be drawn.")
	}
	in := all.Inputs[0]
	g, err := ghost.Of(sh.Model, in, all.Report, fault, by)
	if err != nil {
		text := err.Error()
		return View{}, problem.New(problem.Invalid, "It cannot be drawn: %s.", strings.TrimSuffix(text, "."))
	}
	return View{all.Clips[0].ID, in.Clip.Width, in.Clip.Height, g}, nil
}
