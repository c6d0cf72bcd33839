package workspace

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"neokinema/core/evaluate"
	"neokinema/core/exchange"
	"neokinema/core/throw"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

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

// Space is what two clips of an attempt tell of places in the world, as C3D.
func (s *Service) Space(ctx context.Context, team, id uuid.UUID, listen Listen) ([]byte, error) {
	both, err := s.TwoViews(ctx, team, id, listen)
	if err != nil {
		return nil, err
	}
	p := both.Space
	raw, err := exchange.WriteC3D(exchange.SpaceOf(p.At, p.Frames, p.Rate, p.Feet, p.Flags))
	if err != nil {
		return nil, problem.New(problem.Invalid, "These clips cannot be written as C3D: %s.", err)
	}
	return raw, nil
}
