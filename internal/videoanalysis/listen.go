package videoanalysis

import (
	"context"
	"errors"

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
		leave, err := s.enter(ctx)
		if err != nil {
			return 0, err
		}
		loud, err := s.intake.Loudness(ctx, c)
		leave()
		if err != nil {
			return 0, err
		}
		heard[i] = loud.Onsets(c.CaptureRate / c.FileRate)
	}
	return audiosync.Lag(heard[0], heard[1])
}
