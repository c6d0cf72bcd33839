package simcam

import (
	"gonum.org/v1/gonum/spatial/r2"
	"gonum.org/v1/gonum/spatial/r3"
)

// Camera is an upright pinhole camera that looks along -z.
type Camera struct {
	At            r3.Vec  `json:"at" doc:"centre of projection, m"`
	Focal         float64 `json:"focal" doc:"px"`
	Width, Height int
}

// Matrix is the 3x4 projection: (u w, v w, w) = P (x, y, z, 1), u right, v down.
func (c Camera) Matrix() [3][4]float64 {
	cx, cy, f := float64(c.Width)/2, float64(c.Height)/2, c.Focal
	return [3][4]float64{
		{f, 0, -cx, -f*c.At.X + cx*c.At.Z},
		{0, -f, -cy, f*c.At.Y + cy*c.At.Z},
		{0, 0, -1, c.At.Z},
	}
}

// Project gives the pixel of a world point and the pixels per metre there.
func (c Camera) Project(p r3.Vec) (r2.Vec, float64) {
	m := c.Matrix()
	var h [3]float64
	for i := range h {
		h[i] = m[i][0]*p.X + m[i][1]*p.Y + m[i][2]*p.Z + m[i][3]
	}
	return r2.Vec{X: h[0] / h[2], Y: h[1] / h[2]}, c.Focal / h[2]
}

// ground is where the ray of a pixel meets y = 0; ok is false above the horizon.
func (c Camera) ground(u, v float64) (x, z float64, ok bool) {
	dy := -(v - float64(c.Height)/2) / c.Focal
	if dy >= -1e-6 {
		return 0, 0, false
	}
	t := c.At.Y / -dy
	return c.At.X + t*(u-float64(c.Width)/2)/c.Focal, c.At.Z - t, true
}
