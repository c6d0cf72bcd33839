// Package angles measures angles between points of one picture.
//
// Points are gonum r2.Vec. Functions that speak of "forward" and "up" expect
// points that went through [View.Forward]; the others do not mind the frame.
package angles

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"
)

// Deg turns radians into degrees.
func Deg(rad float64) float64 { return rad * 180 / math.Pi }

// Rad turns degrees into radians.
func Rad(deg float64) float64 { return deg * math.Pi / 180 }

// View says how a picture maps to the athlete's own directions.
type View struct {
	// Direction is +1 when the athlete runs to the right of the picture, -1
	// when to the left.
	Direction float64
}

// Forward turns a picture point (x right, y down) into (forward, up), pixels.
// Mirroring happens here and nowhere else.
func (v View) Forward(p r2.Vec) r2.Vec { return r2.Vec{X: v.Direction * p.X, Y: -p.Y} }

// Picture is the way back from (forward, up) to the picture.
func (v View) Picture(p r2.Vec) r2.Vec { return r2.Vec{X: v.Direction * p.X, Y: -p.Y} }

// SignedIncluded is the angle from ray v->a to ray v->b in degrees, (-180, 180].
// It does not fold at 180, so doubt near a straight limb stays linear.
func SignedIncluded(a, v, b r2.Vec) float64 {
	p, q := r2.Sub(a, v), r2.Sub(b, v)
	return Deg(math.Atan2(r2.Cross(p, q), r2.Dot(p, q)))
}

// Included is the inside angle at v between a and b in degrees, 0 to 180, straight
// is 180. It is NaN when an arm has no length.
func Included(a, v, b r2.Vec) float64 {
	if a == v || b == v {
		return math.NaN()
	}
	return math.Abs(SignedIncluded(a, v, b))
}

// IncludedSD is the standard deviation in degrees of the signed joint angle when
// each of the three points scatters by sigma (same unit as the points) in both
// coordinates:
//
//	var = sigma^2 (2/a^2 + 2/b^2 - 2 cos(theta)/(a b))   [rad^2]
//
// with a, b the arm lengths. First-order propagation of independent errors
// (the general law: JCGM 100:2008, 5.1.2). The inside angle folds at 180, so
// beyond about 170 degrees treat it as the doubt of [SignedIncluded].
func IncludedSD(a, v, b r2.Vec, sigma float64) float64 {
	la, lb := r2.Norm(r2.Sub(a, v)), r2.Norm(r2.Sub(b, v))
	theta := Rad(Included(a, v, b))
	return Deg(sigma * math.Sqrt(2/(la*la)+2/(lb*lb)-2*math.Cos(theta)/(la*lb)))
}

// SegmentToHorizontal is the angle of the line from a foot point up to a higher point against
// the ground, degrees: 90 is upright, less is leaning forward. Points in
// (forward, up).
func SegmentToHorizontal(from, to r2.Vec) float64 {
	d := r2.Sub(to, from)
	return Deg(math.Atan2(d.Y, d.X))
}

// SegmentToVertical is the angle of the line low->high against the vertical,
// degrees, positive when the high end is ahead of the low end. Points in
// (forward, up).
func SegmentToVertical(low, high r2.Vec) float64 {
	d := r2.Sub(high, low)
	return Deg(math.Atan2(d.X, d.Y))
}

// Deviation is the angle from line a->b to line b->c, degrees, (-180, 180], positive
// when c lies to the upper side for a line that points forward. Points in
// (forward, up).
func Deviation(a, b, c r2.Vec) float64 {
	p, q := r2.Sub(b, a), r2.Sub(c, b)
	return Deg(math.Atan2(r2.Cross(p, q), r2.Dot(p, q)))
}

// Slope is the line from a to b against the ground, degrees, whichever way it
// runs: + when b is higher, from -90 to 90.
func Slope(a, b r2.Vec) float64 {
	return math.Atan2(b.Y-a.Y, math.Abs(b.X-a.X)) * 180 / math.Pi
}
