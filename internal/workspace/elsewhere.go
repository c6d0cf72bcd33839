package workspace

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"neokinema/core/compare"
	"neokinema/core/evaluate"
	"neokinema/core/exchange"
	"neokinema/core/timebase"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Against holds a file of points from elsewhere against what was read from a clip: COCO
// keypoints or C3D, which begin in the clip's frame first. Nothing of it is stored.
func (s *Service) Against(ctx context.Context, team, clip uuid.UUID, raw []byte, first int) (compare.Agreement, error) {
	sh, c, err := s.ofClip(ctx, team, clip)
	if err != nil {
		return compare.Agreement{}, err
	}
	if first < 0 || first >= len(c.Stamps) {
		return compare.Agreement{}, problem.New(problem.Invalid, "Frame %d is not in this clip: it has frames 0 to %d.", first, len(c.Stamps)-1)
	}
	take, of, err := exchange.Read(raw)
	if err != nil {
		return compare.Agreement{}, problem.New(problem.Invalid, "%s", sentence(err))
	}
	out, err := compare.Elsewhere(sh.Model, sh.Input(c), take, of, first)
	if err != nil {
		return out, problem.New(problem.Invalid, "%s", sentence(err))
	}
	return out, nil
}

// Keypoints are a clip's points as COCO keypoints.
func (s *Service) Keypoints(ctx context.Context, team, clip uuid.UUID) ([]byte, store.Clip, error) {
	sh, c, err := s.ofClip(ctx, team, clip)
	if err != nil {
		return nil, c, err
	}
	in := sh.Input(c)
	raw, err := exchange.WriteCOCO(in.Points, exchange.Picture{Width: in.Clip.Width, Height: in.Clip.Height, Frames: len(c.Stamps)})
	return raw, c, err
}

// C3D are a clip's points, and its contacts and positions as events.
func (s *Service) C3D(ctx context.Context, team, clip uuid.UUID) ([]byte, store.Clip, error) {
	sh, c, err := s.ofClip(ctx, team, clip)
	if err != nil {
		return nil, c, err
	}
	in := sh.Input(c)
	clock, err := timebase.New(c.Stamps, c.FileRate, c.CaptureRate)
	if err != nil || !clock.Known() {
		return nil, c, problem.New(problem.Invalid, "A C3D file tells its frames a second, and nobody has said at which rate this clip was taken. Answer that in the clip's card first.")
	}
	r := evaluate.Attempt(sh.Model, in)
	flags := map[string]int{}
	for _, p := range r.Positions {
		if p.Frame != nil {
			flags[p.ID] = *p.Frame
		}
	}
	raw, err := exchange.WriteC3D(exchange.TakeOf(in.Points, len(c.Stamps), c.CaptureRate, r.Contacts, flags))
	if err != nil {
		return nil, c, problem.New(problem.Invalid, "This clip cannot be written as C3D: %s.", err)
	}
	return raw, c, nil
}

// ofClip opens the attempt of a clip that is ready.
func (s *Service) ofClip(ctx context.Context, team, id uuid.UUID) (Workspace, store.Clip, error) {
	c, err := s.store.Clip(ctx, team, id)
	if err != nil {
		return Workspace{}, c, err
	}
	if len(c.Stamps) == 0 {
		return Workspace{}, c, problem.New(problem.NotFound, "This clip is not imported yet.")
	}
	sh, err := s.Open(ctx, team, c.AttemptID)
	return sh, c, err
}

// sentence is an error of the core with a capital and a full stop.
func sentence(err error) string {
	text := err.Error()
	return strings.ToUpper(text[:1]) + text[1:] + "."
}
