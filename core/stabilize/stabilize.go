// Package stabilize holds how a camera turned during a clip and brings every point
// into one still frame of reference.
//
// A phone that follows an athlete turns about itself. What it sees then moves by
// a homography K R K^-1 that is the same for near and far things, so the
// background tells it for the athlete too (Hartley and Zisserman, Multiple View
// Geometry, section 8.4). The common frame is the picture of one frame of the
// clip, prolonged to all sides: lengths along a path parallel to that picture
// keep one scale.
package stabilize

import (
	"errors"
	"fmt"
	"math"

	"gonum.org/v1/gonum/num/quat"
	"gonum.org/v1/gonum/spatial/r2"
)

// Rotations is the turning of a camera, frame by frame.
type Rotations struct {
	Width     float64      `json:"width" doc:"px of the upright picture"`
	Height    float64      `json:"height"`
	Focal     float64      `json:"focal" doc:"focal length, px"`
	Reference int          `json:"reference" doc:"frame whose picture is the common frame"`
	Turns     [][3]float64 `json:"turns" doc:"rotation vector from the frame's to the reference frame's axes, rad (x right, y down, z ahead); empty for a camera that stands still"`
	Residual  float64      `json:"residual" doc:"root mean square distance of background points from where the model puts them, px"`
	Problem   string       `json:"problem" doc:"why there is no common frame; empty when there is one"`
	Notes     []string     `json:"notes" doc:"what else was seen: frozen frames"`
}

// Check refuses a camera that cannot have been seen in a clip of so many frames.
func (c *Rotations) Check(frames int) error {
	good := func(v float64) bool { return !math.IsNaN(v) && math.Abs(v) < 1e7 }
	if !good(c.Width) || !good(c.Height) || !good(c.Focal) || !good(c.Residual) || c.Reference < 0 || c.Reference >= max(1, frames) {
		return errors.New("a camera with sizes that cannot be")
	}
	if n := len(c.Turns); n != 0 && n != frames {
		return fmt.Errorf("a camera that turned in %d of %d frames", n, frames)
	}
	for _, t := range c.Turns {
		if !good(t[0]) || !good(t[1]) || !good(t[2]) {
			return errors.New("a camera that turned by no number")
		}
	}
	if len(c.Notes) > 100 {
		return errors.New("a camera with more notes than anybody reads")
	}
	return nil
}

// Still tells whether frame coordinates are common already.
func (c *Rotations) Still() bool { return c == nil || len(c.Turns) == 0 }

// Turned is how far the camera turned at most from where it was in the reference
// frame, rad. A focal length was felt only by one that turned by some degrees.
func (c *Rotations) Turned() float64 {
	var most float64
	if c != nil {
		for _, v := range c.Turns {
			most = math.Max(most, math.Sqrt(v[0]*v[0]+v[1]*v[1]+v[2]*v[2]))
		}
	}
	return most
}

// Usable tells whether paths may be read from this clip.
func (c *Rotations) Usable() bool { return c == nil || c.Problem == "" }

func (c *Rotations) rotation(frame int) quat.Number { return Rotation(c.Turns[frame]) }

// Direction is a direction in a camera's axes: x right, y down, z ahead. gonum's r3
// would bring all of its linear algebra into the browser.
type Direction struct{ X, Y, Z float64 }

// Rotation makes the rotation of a rotation vector.
func Rotation(v [3]float64) quat.Number {
	angle := math.Sqrt(v[0]*v[0] + v[1]*v[1] + v[2]*v[2])
	if angle < 1e-15 {
		return quat.Number{Real: 1}
	}
	s, c := math.Sincos(angle / 2)
	return quat.Number{Real: c, Imag: s * v[0] / angle, Jmag: s * v[1] / angle, Kmag: s * v[2] / angle}
}

// Rotate turns a direction.
func Rotate(q quat.Number, d Direction) Direction {
	p := quat.Mul(quat.Mul(q, quat.Number{Imag: d.X, Jmag: d.Y, Kmag: d.Z}), quat.Conj(q))
	return Direction{p.Imag, p.Jmag, p.Kmag}
}

// Ray is the direction of a pixel, z = 1.
func (c *Rotations) Ray(p r2.Vec) Direction {
	return Direction{(p.X - c.Width/2) / c.Focal, (p.Y - c.Height/2) / c.Focal, 1}
}

// Pixel is where a direction shows; NaN for what lies beside or behind.
func (c *Rotations) Pixel(d Direction) r2.Vec {
	if d.Z < 0.2*math.Sqrt(d.X*d.X+d.Y*d.Y+d.Z*d.Z) { // beyond 78 degrees the plane blows up
		return r2.Vec{X: math.NaN(), Y: math.NaN()}
	}
	return r2.Vec{X: c.Width/2 + c.Focal*d.X/d.Z, Y: c.Height/2 + c.Focal*d.Y/d.Z}
}

// ToReference brings a pixel of a frame into the common frame.
func (c *Rotations) ToReference(frame int, p r2.Vec) r2.Vec {
	if c.Still() || frame < 0 || frame >= len(c.Turns) {
		return p
	}
	return c.Pixel(Rotate(c.rotation(frame), c.Ray(p)))
}

// ToImage brings a place of the common frame into the picture of a frame.
func (c *Rotations) ToImage(frame int, q r2.Vec) r2.Vec {
	if c.Still() || frame < 0 || frame >= len(c.Turns) {
		return q
	}
	return c.Pixel(Rotate(quat.Conj(c.rotation(frame)), c.Ray(q)))
}

// Span is the part of the common frame that the clip shows: the smallest
// rectangle around the pictures of all frames, px.
func (c *Rotations) Span() (lo, hi r2.Vec) {
	lo, hi = r2.Vec{}, r2.Vec{X: c.Width, Y: c.Height}
	for f := range c.Turns {
		for _, p := range []r2.Vec{{}, {X: c.Width}, {Y: c.Height}, {X: c.Width, Y: c.Height}} {
			if q := c.ToReference(f, p); !math.IsNaN(q.X) {
				lo = r2.Vec{X: math.Min(lo.X, q.X), Y: math.Min(lo.Y, q.Y)}
				hi = r2.Vec{X: math.Max(hi.X, q.X), Y: math.Max(hi.Y, q.Y)}
			}
		}
	}
	return lo, hi
}
