// Package vec3 has vectors of three parts for the core: gonum's r3 would bring all
// of its linear algebra into the browser. A [Vec] converts to gonum's r3.Vec and
// back.
package vec3

import "math"

// Vec is a place or a direction.
type Vec struct{ X, Y, Z float64 }

// Add is p + q.
func Add(p, q Vec) Vec { return Vec{p.X + q.X, p.Y + q.Y, p.Z + q.Z} }

// Sub is p - q.
func Sub(p, q Vec) Vec { return Vec{p.X - q.X, p.Y - q.Y, p.Z - q.Z} }

// Scale is f p.
func Scale(f float64, p Vec) Vec { return Vec{f * p.X, f * p.Y, f * p.Z} }

// Dot is p · q.
func Dot(p, q Vec) float64 { return p.X*q.X + p.Y*q.Y + p.Z*q.Z }

// Cross is p × q.
func Cross(p, q Vec) Vec {
	return Vec{p.Y*q.Z - p.Z*q.Y, p.Z*q.X - p.X*q.Z, p.X*q.Y - p.Y*q.X}
}

// Norm2 is the square of a length, Norm the length.
func Norm2(p Vec) float64 { return Dot(p, p) }

// Norm is the length of a vector.
func Norm(p Vec) float64 { return math.Sqrt(Norm2(p)) }

// Unit is the direction of a vector; NaN for one without length.
func Unit(p Vec) Vec {
	if n := Norm(p); n > 0 {
		return Scale(1/n, p)
	}
	return Vec{math.NaN(), math.NaN(), math.NaN()}
}

// Turn turns p about an axis of length 1 by an angle, rad (Rodrigues's formula).
func Turn(p, axis Vec, angle float64) Vec {
	s, c := math.Sincos(angle)
	return Add(Scale(c, p), Add(Scale(s, Cross(axis, p)), Scale((1-c)*Dot(axis, p), axis)))
}
