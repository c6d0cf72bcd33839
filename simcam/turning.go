package simcam

import (
	"math"

	"gonum.org/v1/gonum/spatial/r3"

	"neokinema/core/stabilize"
)

// Turning is how the camera of a clip turned, from its projection matrices, as
// the core would hold it; nil for one that stood still.
func Turning(t Truth) *stabilize.Rotations {
	axes := func(f Frame) (a [3]r3.Vec) {
		// Rows of K R: undo the focal length and the middle of the picture.
		p := f.Camera
		row := func(i int) r3.Vec { return r3.Vec{X: p[i][0], Y: p[i][1], Z: p[i][2]} }
		z := row(2)
		n := r3.Norm(z)
		w, h := float64(t.Spec.Width)/2, float64(t.Spec.Height)/2
		x := r3.Scale(1/(n*t.Focal), r3.Sub(row(0), r3.Scale(w, z)))
		y := r3.Scale(1/(n*t.Focal), r3.Sub(row(1), r3.Scale(h, z)))
		return [3]r3.Vec{x, y, r3.Scale(1/n, z)}
	}
	ref := len(t.Frames) / 2
	to := axes(t.Frames[ref])
	c := &stabilize.Rotations{Width: float64(t.Spec.Width), Height: float64(t.Spec.Height), Focal: t.Focal, Reference: ref, Turns: make([][3]float64, len(t.Frames))}
	moved := false
	for i, f := range t.Frames {
		from := axes(f)
		// R = to * from^T takes the frame's axes to those of the reference.
		var m [3][3]float64
		for r := range 3 {
			for k := range 3 {
				m[r][k] = r3.Dot(to[r], from[k])
			}
		}
		v := r3.Vec{X: m[2][1] - m[1][2], Y: m[0][2] - m[2][0], Z: m[1][0] - m[0][1]}
		s := r3.Norm(v) / 2
		if s > 1e-12 {
			v = r3.Scale(math.Atan2(s, (m[0][0]+m[1][1]+m[2][2]-1)/2)/(2*s), v)
		}
		c.Turns[i] = [3]float64{v.X, v.Y, v.Z}
		moved = moved || r3.Norm(v) > 1e-4
	}
	if !moved {
		return nil
	}
	return c
}
