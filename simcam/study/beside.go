package study

import (
	"fmt"
	"math"
	"math/rand/v2"

	"neokinema/simcam"
)

// Beside is the same movement as a second camera saw it, from another place and with its own
// rate and noise.
func (a Attempt) Beside(place string) (Attempt, error) {
	r := rand.New(rand.NewPCG(a.seed, 5))
	b := a
	b.Name, b.seed = a.Name+"-"+place, r.Uint64()
	s := a.Spec
	s.Camera.Place, s.Camera.Turned = place, math.Round(16*r.Float64()-8)
	s.Camera.Pan = false
	s.CaptureRate = []float64{60, 120, 240}[r.IntN(3)]
	s.FileRate = s.CaptureRate
	if s.Camera.Distance > 0 {
		s.Camera.Distance *= 0.8 + 0.5*r.Float64()
	}
	b.Spec = s
	var err error
	if b.Scene, err = simcam.New(s); err != nil {
		return b, fmt.Errorf("%s: %w", b.Name, err)
	}
	return b, nil
}

// Other is the view from which a second camera helps the first.
func (a Attempt) Other() string {
	if a.Spec.Camera.Place == "back" {
		return "side"
	}
	return "back"
}

// From is the same movement from a camera that is set up anew.
func (a Attempt) From(set func(*simcam.Camera)) (Attempt, error) {
	set(&a.Spec.Camera)
	var err error
	a.Scene, err = simcam.New(a.Spec)
	return a, err
}
