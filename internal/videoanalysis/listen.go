package videoanalysis

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"neokinema/core/audiosync"
	"neokinema/internal/store"
)

// errNoClock tells that a clip's sound has no true time.
var errNoClock = errors.New("the capture rate of both clips must be known")

// Lag is how much later the same sound stands in b than in a, s of true time. Sound is
// taken to be as slow as the pictures.
func (s *Service) Lag(ctx context.Context, a, b store.Clip) (float64, error) {
	var heard [2][]float64
	for i, c := range []store.Clip{a, b} {
		if c.CaptureRate <= 0 || c.FileRate <= 0 {
			return 0, errNoClock
		}
		loud, err := s.loudness(ctx, c)
		if err != nil {
			return 0, err
		}
		heard[i] = loud.Onsets(c.CaptureRate / c.FileRate)
	}
	return audiosync.Lag(heard[0], heard[1])
}

// loudness is how loud a clip is, when there is room to listen to it.
func (s *Service) loudness(ctx context.Context, c store.Clip) (audiosync.Loudness, error) {
	leave, err := s.enter(ctx)
	if err != nil {
		return nil, err
	}
	defer leave()
	return s.intake.Loudness(ctx, c)
}

// Hear listens to the clips of an attempt that has several, where that was not done at their
// import: before there was sound, or on another server. A clip whose sound cannot be read
// does without.
func (s *Service) Hear(ctx context.Context, team, attempt uuid.UUID) error {
	clips, err := s.store.Clips(ctx, team, attempt)
	if err != nil || len(clips) < 2 {
		return err
	}
	for _, c := range clips {
		if c.State == "ready" {
			_, _ = s.loudness(ctx, c)
		}
	}
	return ctx.Err()
}
