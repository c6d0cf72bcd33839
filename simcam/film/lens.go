// Package film is the simulated camera and the renderer: pinhole lenses with a
// little distortion, round bodies lit by sun and sky, motion blur from true
// positions within the exposure. No GPU.
package film

import (
	"math"

	"gonum.org/v1/gonum/spatial/r2"
	"gonum.org/v1/gonum/spatial/r3"
)

// Lens is a camera at one instant: where it stands, what it looks at and how it
// is held. Pixels: u right, v down, from the upper left corner.
type Lens struct {
	At, Target    r3.Vec
	Roll          float64 // radians, clockwise seen by the camera
	Focal         float64 // px
	K1            float64 // radial distortion: r (1 + K1 r2), r in focal lengths
	Width, Height int
}

// axes are the picture's right and down and the line of sight, in the world.
func (l Lens) axes() (u, v, w r3.Vec) {
	w = r3.Unit(r3.Sub(l.Target, l.At))
	u = r3.Unit(r3.Cross(w, r3.Vec{Y: 1}))
	v = r3.Cross(w, u)
	s, c := math.Sincos(l.Roll)
	return r3.Sub(r3.Scale(c, u), r3.Scale(s, v)), r3.Add(r3.Scale(s, u), r3.Scale(c, v)), w
}

// Matrix is the 3x4 projection without distortion: (u w, v w, w) = P (x, y, z, 1).
func (l Lens) Matrix() [3][4]float64 {
	u, v, w := l.axes()
	cx, cy := float64(l.Width)/2, float64(l.Height)/2
	row := func(a r3.Vec, f, c float64) [4]float64 {
		m := r3.Add(r3.Scale(f, a), r3.Scale(c, w))
		return [4]float64{m.X, m.Y, m.Z, -r3.Dot(m, l.At)}
	}
	return [3][4]float64{row(u, l.Focal, cx), row(v, l.Focal, cy), row(w, 0, 1)}
}

// Project gives the pixel of a world point and its depth along the line of
// sight, m. Points behind the camera have a depth of 0 or less and no pixel.
func (l Lens) Project(p r3.Vec) (r2.Vec, float64) {
	return l.project(p, newView(l))
}

func (l Lens) project(p r3.Vec, e view) (r2.Vec, float64) {
	x, y, z := e.local(p)
	if z <= 0 {
		return r2.Vec{X: math.NaN(), Y: math.NaN()}, z
	}
	x, y = x/z, y/z
	d := 1 + l.K1*(x*x+y*y)
	return r2.Vec{X: float64(l.Width)/2 + l.Focal*x*d, Y: float64(l.Height)/2 + l.Focal*y*d}, z
}

// ray is the direction of a pixel in camera axes, third part 1.
func (l Lens) ray(px, py float64) (x, y float64) {
	xd, yd := (px-float64(l.Width)/2)/l.Focal, (py-float64(l.Height)/2)/l.Focal
	x, y = xd, yd
	if l.K1 != 0 {
		for range 4 {
			d := 1 + l.K1*(x*x+y*y)
			x, y = xd/d, yd/d
		}
	}
	return x, y
}

// view is a lens with its axes worked out.
type view struct {
	Lens
	u, v, w r3.Vec
	sun     r3.Vec // where the light comes from
}

func newView(l Lens) view {
	e := view{Lens: l}
	e.u, e.v, e.w = l.axes()
	return e
}

func (e *view) local(p r3.Vec) (x, y, z float64) {
	d := r3.Sub(p, e.At)
	return r3.Dot(d, e.u), r3.Dot(d, e.v), r3.Dot(d, e.w)
}

func (e *view) world(x, y float64) r3.Vec {
	return r3.Vec{X: e.u.X*x + e.v.X*y + e.w.X, Y: e.u.Y*x + e.v.Y*y + e.w.Y, Z: e.u.Z*x + e.v.Z*y + e.w.Z}
}
