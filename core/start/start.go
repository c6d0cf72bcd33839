// Package start answers what-if questions about the starting blocks.
package start

import (
	"fmt"
	"math"

	"neokinema/core/doubt"
	"neokinema/core/plane"
)

// Leg is one leg in the set position, metres, seen from the side.
type Leg struct {
	Thigh doubt.Value `json:"thigh" doc:"hip to knee, m"`
	Shank doubt.Value `json:"shank" doc:"knee to ankle, m"`
	Ahead doubt.Value `json:"ahead" doc:"hip ahead of ankle, m"`
	Above doubt.Value `json:"above" doc:"hip above ankle, m"`
}

// Knee is the knee angle in degrees after the pedal has moved s metres towards
// the line with the hip held, by the law of cosines:
//
//	D = hypot(ahead - s, above)
//	cos(knee) = (thigh^2 + shank^2 - D^2) / (2 thigh shank)
//
// NaN when the leg cannot span that distance.
func Knee(thigh, shank, ahead, above, s float64) float64 {
	d2 := (ahead-s)*(ahead-s) + above*above
	return plane.Deg(math.Acos((thigh*thigh + shank*shank - d2) / (2 * thigh * shank)))
}

// Shift is how far the pedal must move towards the line (metres, negative is
// away from it) for a wanted knee angle with the hip held. Of the two places
// that give the angle it takes the one on the side of the hip where the foot is
// now. It fails when the hip is too high or the leg too short for the angle.
func Shift(thigh, shank, ahead, above, wanted float64) (float64, error) {
	d2 := thigh*thigh + shank*shank - 2*thigh*shank*math.Cos(plane.Rad(wanted))
	x2 := d2 - above*above
	if x2 < 0 {
		lowest := Knee(thigh, shank, 0, above, 0)
		return 0, fmt.Errorf("the pedal alone cannot give %.0f°: with the hips held this high the knee closes to %.0f° at most", wanted, lowest)
	}
	return ahead - math.Copysign(math.Sqrt(x2), ahead), nil
}

// WhatIf is the answer for one pedal. Values with doubt carry that of the
// measured leg.
type WhatIf struct {
	Leg       Leg          `json:"leg"`
	KneeNow   doubt.Value  `json:"knee_now" doc:"degrees"`
	KneeThen  *doubt.Value `json:"knee_then,omitempty" required:"false" doc:"degrees after the asked shift; absent when the leg cannot reach"`
	Change    *doubt.Value `json:"change,omitempty" required:"false" doc:"degrees, then minus now"`
	ShiftFor  *doubt.Value `json:"shift_for,omitempty" required:"false" doc:"m towards the line for the wanted angle; absent when it cannot be reached"`
	Cannot    string       `json:"cannot,omitempty" required:"false" doc:"why the wanted angle cannot be reached"`
	Spacing   doubt.Value  `json:"spacing" doc:"m between the ankles along the ground now"`
	SpacingAt doubt.Value  `json:"spacing_at" doc:"m after the asked shift"`
	UnderHip  doubt.Value  `json:"under_hip" doc:"hip ahead of the ankle after the asked shift, m"`
}

// Ask computes the consequences of moving a pedal by shift metres towards the
// line and the shift that the wanted knee angle needs. spacing is the distance
// of the front ankle ahead of the rear one; front tells which pedal moves.
func Ask(leg Leg, spacing doubt.Value, front bool, shift, wanted float64) WhatIf {
	x := []float64{leg.Thigh.X, leg.Shank.X, leg.Ahead.X, leg.Above.X}
	sd := []float64{leg.Thigh.SD, leg.Shank.SD, leg.Ahead.SD, leg.Above.SD}
	knee := func(s float64) doubt.Value {
		return doubt.Propagate(func(v []float64) float64 { return Knee(v[0], v[1], v[2], v[3], s) }, x, sd)
	}
	sign := 1.0
	if !front {
		sign = -1
	}
	w := WhatIf{Leg: leg, KneeNow: knee(0), Spacing: spacing, SpacingAt: spacing, UnderHip: leg.Ahead}
	w.SpacingAt.X += sign * shift
	w.UnderHip.X -= shift
	if then := knee(shift); finite(then) {
		change := doubt.Propagate(func(v []float64) float64 {
			return Knee(v[0], v[1], v[2], v[3], shift) - Knee(v[0], v[1], v[2], v[3], 0)
		}, x, sd)
		w.KneeThen, w.Change = &then, &change
	}
	if _, err := Shift(x[0], x[1], x[2], x[3], wanted); err != nil {
		w.Cannot = err.Error()
		return w
	}
	need := doubt.Propagate(func(v []float64) float64 {
		s, err := Shift(v[0], v[1], v[2], v[3], wanted)
		if err != nil {
			return math.NaN()
		}
		return s
	}, x, sd)
	if finite(need) {
		w.ShiftFor = &need
	} else {
		w.Cannot = "the measured leg is too uncertain to tell whether the pedal can give this angle; lay a scale and place hip, knee and ankle again"
	}
	return w
}

func finite(v doubt.Value) bool {
	return !math.IsNaN(v.X) && !math.IsInf(v.X, 0) && !math.IsNaN(v.SD) && !math.IsInf(v.SD, 0)
}
