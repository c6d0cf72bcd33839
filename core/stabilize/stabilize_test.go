package stabilize

import (
	"math"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"
	"gonum.org/v1/gonum/spatial/r3"
)

// The common frame against a camera built by hand: a world of far points seen
// through a matrix for each frame.
func TestCommonAgainstMatrices(t *testing.T) {
	c := &Rotations{Width: 1280, Height: 720, Focal: 1800, Turns: [][3]float64{{0, 0, 0}, {0.02, 0.3, -0.01}, {-0.05, -0.4, 0.03}}}
	for f, v := range c.Turns {
		// R takes the frame's axes to the reference's; a direction d of the
		// reference shows in the frame at R^T d.
		m := r3.NewRotation(math.Sqrt(v[0]*v[0]+v[1]*v[1]+v[2]*v[2]), r3.Vec{X: v[0], Y: v[1], Z: v[2]}).Mat()
		for _, d := range []r3.Vec{{X: 0.05, Y: 0.02, Z: 1}, {X: -0.1, Y: 0.1, Z: 1}, {X: 0.3, Y: -0.05, Z: 1}} {
			inFrame := m.MulVecTrans(d)
			p := r2.Vec{X: 640 + 1800*inFrame.X/inFrame.Z, Y: 360 + 1800*inFrame.Y/inFrame.Z}
			want := r2.Vec{X: 640 + 1800*d.X, Y: 360 + 1800*d.Y}
			if got := c.ToReference(f, p); r2.Norm(r2.Sub(got, want)) > 1e-6 {
				t.Errorf("frame %d: %v, want %v", f, got, want)
			}
			if back := c.ToImage(f, want); r2.Norm(r2.Sub(back, p)) > 1e-6 {
				t.Errorf("frame %d, back: %v, want %v", f, back, p)
			}
		}
	}
}

func TestStillAndUnusableCameras(t *testing.T) {
	var none *Rotations
	if !none.Still() || !none.Usable() || none.ToReference(3, r2.Vec{X: 1, Y: 2}) != (r2.Vec{X: 1, Y: 2}) {
		t.Error("no camera must leave points where they are")
	}
	c := &Rotations{Width: 100, Height: 100, Focal: 100, Problem: "cut"}
	if c.Usable() {
		t.Error("a camera with a problem is usable")
	}
	c = &Rotations{Width: 100, Height: 100, Focal: 100, Turns: [][3]float64{{0, 1.5, 0}}}
	if p := c.ToReference(0, r2.Vec{X: 50, Y: 50}); !math.IsNaN(p.X) {
		t.Errorf("86 degrees to the side shows at %v", p)
	}
	if p := c.ToReference(7, r2.Vec{X: 5, Y: 5}); p.X != 5 {
		t.Errorf("a frame that is not there: %v", p)
	}
}

// A tripod's tremble is no turning.
func TestTurned(t *testing.T) {
	var none *Rotations
	if none.Turned() != 0 || (&Rotations{}).Turned() != 0 {
		t.Error("a camera that nobody looked at has turned")
	}
	c := &Rotations{Turns: [][3]float64{{1e-4, 0, 0}, {0, 0.3, 0.4}, {0, -0.2, 0}}}
	if got := c.Turned(); math.Abs(got-0.5) > 1e-12 {
		t.Errorf("turned by %g", got)
	}
}
