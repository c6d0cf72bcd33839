package seeing

import (
	"context"

	"github.com/google/uuid"

	"neokinema/internal/store"
)

// Shared is what an athlete's eye is worth, where the coach has asked and the athlete has agreed.
type Shared struct {
	store.EyeSharing
	Eye *Eye `json:"eye,omitempty" required:"false" doc:"when both want it"`
}

// Shared reads it for the coach.
func (s *Service) Shared(ctx context.Context, team, athlete uuid.UUID) (Shared, error) {
	var out Shared
	var err error
	if out.EyeSharing, err = s.store.EyeSharingOf(ctx, team, athlete); err != nil || !out.Asked || !out.Agreed {
		return out, err
	}
	answers, err := s.store.EyeAnswersOf(ctx, team, athlete)
	if err != nil {
		return out, err
	}
	e, err := measure(answers, s.now())
	out.Eye = &e
	return out, err
}

// Ask keeps whether the coach wants to see it.
func (s *Service) Ask(ctx context.Context, team, athlete uuid.UUID, asked bool) (Shared, error) {
	if err := s.store.AskForEye(ctx, team, athlete, asked); err != nil {
		return Shared{}, err
	}
	return s.Shared(ctx, team, athlete)
}
