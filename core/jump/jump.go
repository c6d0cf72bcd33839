// Package jump splits jumps into the parts that coaches reckon with: heights and distances of
// the centre of mass, the lean of a curve, the bound that a run sets to a vault. Lengths in m,
// speeds in m/s, angles in rad.
package jump

import (
	"errors"
	"math"

	"neokinema/core/flight"
	"neokinema/core/uncertainty"
)

// High is a high jump in parts: the bar's height is H1 + H2 - H3.
type High struct {
	TakeOff   uncertainty.Estimate // H1: centre of mass at toe-off
	Rise      uncertainty.Estimate // H2: how much higher it flies
	Clearance uncertainty.Estimate // H3: how far its highest place is over the bar; negative under it
}

// HighParts splits a jump over a bar, from the height of the centre of mass at toe-off and its
// speed upward: H2 = vz2 / 2g (Hay 1985, The Biomechanics of Sports Techniques).
func HighParts(takeOff, upward uncertainty.Estimate, bar float64) High {
	rise := uncertainty.Propagate(func(x []float64) float64 { return x[0] * x[0] / (2 * flight.Gravity) }, []float64{upward.Value}, []float64{upward.SD})
	over := uncertainty.Propagate(func(x []float64) float64 { return x[0] + x[1]*x[1]/(2*flight.Gravity) - bar }, []float64{takeOff.Value, upward.Value}, []float64{takeOff.SD, upward.SD})
	return High{takeOff, rise, over}
}

// Long is a long jump in parts.
type Long struct {
	Ahead   uncertainty.Estimate // L1: centre of mass ahead of the edge of the board at toe-off
	Flown   uncertainty.Estimate // L2: its flight
	Landing uncertainty.Estimate // L3: the heels ahead of it in the sand
	Total   uncertainty.Estimate
	Air     uncertainty.Estimate // s in the air
}

// TakeOff is how a long jumper leaves the board, and how he lands.
type TakeOff struct {
	Toe     uncertainty.Estimate // behind the edge
	Ahead   uncertainty.Estimate // centre of mass ahead of the toe
	Speed   uncertainty.Estimate
	Angle   uncertainty.Estimate // up from level
	Height  uncertainty.Estimate // of the centre of mass
	Landing uncertainty.Estimate // its height when the heels reach the sand
	Heels   uncertainty.Estimate // ahead of it then, less what is lost by falling back
}

// ErrNoFlight is of a take-off that does not come down to its landing.
var ErrNoFlight = errors.New("nobody flies like that: check speed, angle and the two heights")

// Parts are L1 + L2 + L3 (Hay 1985); the flight without air, whose drag takes a few cm.
func (t TakeOff) Parts() (Long, error) {
	x := []float64{t.Toe.Value, t.Ahead.Value, t.Speed.Value, t.Angle.Value, t.Height.Value, t.Landing.Value, t.Heels.Value}
	sd := []float64{t.Toe.SD, t.Ahead.SD, t.Speed.SD, t.Angle.SD, t.Height.SD, t.Landing.SD, t.Heels.SD}
	flown := func(x []float64) float64 { return flight.Range(x[2], x[3], x[4]-x[5]) }
	if v := flown(x); math.IsNaN(v) || v < 0 {
		return Long{}, ErrNoFlight
	}
	of := func(f func([]float64) float64) uncertainty.Estimate { return uncertainty.Propagate(f, x, sd) }
	return Long{
		Ahead:   of(func(x []float64) float64 { return x[1] - x[0] }),
		Flown:   of(flown),
		Landing: t.Heels,
		Total:   of(func(x []float64) float64 { return x[1] - x[0] + flown(x) + x[6] }),
		Air:     of(func(x []float64) float64 { return flown(x) / (x[2] * math.Cos(x[3])) }),
	}, nil
}

// Worth is what a change of a take-off is worth, m.
func (t TakeOff) Worth(change func(*TakeOff)) (float64, error) {
	was, err := t.Parts()
	if err != nil {
		return 0, err
	}
	change(&t)
	is, err := t.Parts()
	return is.Total.Value - was.Total.Value, err
}

// Lean is how far a runner leans into a curve of a radius: tan lean = v2 / (g r).
func Lean(speed, radius uncertainty.Estimate) uncertainty.Estimate {
	return uncertainty.Propagate(func(x []float64) float64 { return math.Atan2(x[0]*x[0], flight.Gravity*x[1]) }, []float64{speed.Value, radius.Value}, []float64{speed.SD, radius.SD})
}

// Radius is that of the curve in which a lean holds a speed.
func Radius(speed, lean uncertainty.Estimate) uncertainty.Estimate {
	return uncertainty.Propagate(func(x []float64) float64 { return x[0] * x[0] / (flight.Gravity * math.Tan(x[1])) }, []float64{speed.Value, lean.Value}, []float64{speed.SD, lean.SD})
}

// VaultBound is the height to which the energy of a run lifts the centre of mass of a vaulter
// who adds nothing and loses nothing: h = h0 + v2 / 2g. Orientation, never a promise: a vaulter
// works on the pole, and loses in the plant.
func VaultBound(centre, speed uncertainty.Estimate) uncertainty.Estimate {
	return uncertainty.Propagate(func(x []float64) float64 { return x[0] + x[1]*x[1]/(2*flight.Gravity) }, []float64{centre.Value, speed.Value}, []float64{centre.SD, speed.SD})
}
