package evaluate

import (
	"math"

	"neokinema/core/kinematics"
	"neokinema/core/model"
)

// Curves draws curves over an attempt, from the movement of its last evaluation.
func Curves(m model.Model, in Input, old *Cache, ids []string) []kinematics.Curve {
	e := Begin(m, in, old)
	mpp := 0.0
	if e.Scale != nil {
		mpp = e.Scale.MetresPerPixel.Value
	}
	sigma := func(id string, f int) float64 {
		if s, ok := e.pixel(id, f); ok {
			return s.Sigma
		}
		return e.Sigma * math.Sqrt2
	}
	out := []kinematics.Curve{}
	for _, id := range ids {
		out = append(out, e.Movement.Curve(id, e.Clock.Len(), mpp, e.Input.Athlete.Sex, sigma))
	}
	return out
}
