// Package blocks answers what-if questions about the starting blocks.
package blocks

import (
	"fmt"
	"math"

	"neokinema/core/angles"
	"neokinema/core/uncertainty"
)

// Geometry is one leg in the set position, and the pedals, seen from the side,
// metres.
type Geometry struct {
	Thigh   float64 // hip to knee
	Shank   float64 // knee to ankle
	Ahead   float64 // hip ahead of ankle
	Above   float64 // hip above ankle
	Spacing float64 // front ankle ahead of rear ankle
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
	return angles.Deg(math.Acos((thigh*thigh + shank*shank - d2) / (2 * thigh * shank)))
}

// Shift is how far the pedal must move towards the line (metres, negative is
// away from it) for a wanted knee angle with the hip held. Of the two places
// that give the angle it takes the one on the side of the hip where the foot is
// now. It fails when the hip is too high or the leg too short for the angle.
func Shift(thigh, shank, ahead, above, wanted float64) (float64, error) {
	d2 := thigh*thigh + shank*shank - 2*thigh*shank*math.Cos(angles.Rad(wanted))
	x2 := d2 - above*above
	if x2 < 0 {
		lowest := Knee(thigh, shank, 0, above, 0)
		return 0, fmt.Errorf("the pedal alone cannot give %.0f°: with the hips held this high the knee closes to %.0f° at most", wanted, lowest)
	}
	return ahead - math.Copysign(math.Sqrt(x2), ahead), nil
}

// WhatIf is the answer for one pedal, with the doubt of what was measured.
type WhatIf struct {
	Thigh     uncertainty.Estimate  `json:"thigh" doc:"m"`
	Shank     uncertainty.Estimate  `json:"shank" doc:"m"`
	KneeNow   uncertainty.Estimate  `json:"knee_now" doc:"degrees"`
	KneeThen  *uncertainty.Estimate `json:"knee_then,omitempty" required:"false" doc:"degrees after the asked shift; absent when the leg cannot reach"`
	Change    *uncertainty.Estimate `json:"change,omitempty" required:"false" doc:"degrees, then minus now"`
	ShiftFor  *uncertainty.Estimate `json:"shift_for,omitempty" required:"false" doc:"m towards the line for the wanted angle; absent when it cannot be reached"`
	Cannot    string                `json:"cannot,omitempty" required:"false" doc:"why the wanted angle cannot be reached"`
	Spacing   uncertainty.Estimate  `json:"spacing" doc:"m between the ankles along the ground now"`
	SpacingAt uncertainty.Estimate  `json:"spacing_at" doc:"m after the asked shift"`
	UnderHip  uncertainty.Estimate  `json:"under_hip" doc:"hip ahead of the ankle after the asked shift, m"`
}

// Ask computes the consequences of moving a pedal by shift metres towards the
// line with the hip held, and the shift that a wanted knee angle needs. The
// geometry is given as a function of independent inputs x with standard
// deviations sd: all lengths come from the same points and the same scale, so
// their errors largely cancel in an angle and must not be added up as if they
// were independent.
func Ask(x, sd []float64, geometry func([]float64) Geometry, front bool, shift, wanted float64) WhatIf {
	carry := func(f func(Geometry) float64) uncertainty.Estimate {
		return uncertainty.Propagate(func(v []float64) float64 { return f(geometry(v)) }, x, sd)
	}
	knee := func(g Geometry, s float64) float64 { return Knee(g.Thigh, g.Shank, g.Ahead, g.Above, s) }
	sign := 1.0
	if !front {
		sign = -1
	}
	w := WhatIf{
		Thigh:     carry(func(g Geometry) float64 { return g.Thigh }),
		Shank:     carry(func(g Geometry) float64 { return g.Shank }),
		KneeNow:   carry(func(g Geometry) float64 { return knee(g, 0) }),
		Spacing:   carry(func(g Geometry) float64 { return g.Spacing }),
		SpacingAt: carry(func(g Geometry) float64 { return g.Spacing + sign*shift }),
		UnderHip:  carry(func(g Geometry) float64 { return g.Ahead - shift }),
	}
	if then := carry(func(g Geometry) float64 { return knee(g, shift) }); finite(then) {
		change := carry(func(g Geometry) float64 { return knee(g, shift) - knee(g, 0) })
		w.KneeThen, w.Change = &then, &change
	}
	g := geometry(x)
	if _, err := Shift(g.Thigh, g.Shank, g.Ahead, g.Above, wanted); err != nil {
		w.Cannot = err.Error()
		return w
	}
	need := carry(func(g Geometry) float64 {
		s, err := Shift(g.Thigh, g.Shank, g.Ahead, g.Above, wanted)
		if err != nil {
			return math.NaN()
		}
		return s
	})
	if finite(need) {
		w.ShiftFor = &need
	} else {
		w.Cannot = "the measured leg is too uncertain to tell whether the pedal can give this angle; place hip, knee and ankle again"
	}
	return w
}

func finite(v uncertainty.Estimate) bool {
	return !math.IsNaN(v.Value) && !math.IsInf(v.Value, 0) && !math.IsNaN(v.SD) && !math.IsInf(v.SD, 0)
}
