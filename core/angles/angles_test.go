package angles

import (
	"math"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"
)

func near(t *testing.T, what string, got, want, tolerance float64) {
	t.Helper()
	if !(math.Abs(got-want) <= tolerance) {
		t.Errorf("%s = %v, want %v", what, got, want)
	}
}

func TestAnglesOfKnownFigures(t *testing.T) {
	v := func(x, y float64) r2.Vec { return r2.Vec{X: x, Y: y} }
	near(t, "right angle", Included(v(100, 0), v(0, 0), v(0, 100)), 90, 1e-12)
	near(t, "straight limb", Included(v(-3, 0), v(0, 0), v(5, 0)), 180, 1e-12)
	near(t, "equilateral triangle", Included(v(1, 0), v(0, 0), v(0.5, math.Sqrt(3)/2)), 60, 1e-12)
	near(t, "signed, other way", SignedIncluded(v(0, 1), v(0, 0), v(1, 0)), -90, 1e-12)
	near(t, "3-4-5", Included(v(3, 0), v(0, 0), v(3, 4)), Deg(math.Atan2(4, 3)), 1e-12)
	near(t, "lean", SegmentToHorizontal(v(0, 0), v(1, 1)), 45, 1e-12)
	near(t, "upright", SegmentToHorizontal(v(2, 0), v(2, 9)), 90, 1e-12)
	near(t, "leaning back", SegmentToHorizontal(v(0, 0), v(-1, math.Sqrt(3))), 120, 1e-12)
	near(t, "from vertical", SegmentToVertical(v(0, 0), v(1, math.Sqrt(3))), 30, 1e-12)
	near(t, "turn up", Deviation(v(0, 0), v(1, 0), v(2, 1)), 45, 1e-12)
	near(t, "turn down", Deviation(v(0, 0), v(1, 0), v(2, -1)), -45, 1e-12)
	if got := Included(v(0, 0), v(0, 0), v(1, 1)); !math.IsNaN(got) {
		t.Errorf("an arm without length gave %v", got)
	}
}

func TestMirroredAthleteHasTheSameAngles(t *testing.T) {
	right, left := View{Direction: 1}, View{Direction: -1}
	foot, shoulder := r2.Vec{X: 400, Y: 600}, r2.Vec{X: 520, Y: 380}
	mirror := func(p r2.Vec) r2.Vec { return r2.Vec{X: 1280 - p.X, Y: p.Y} }
	a := SegmentToHorizontal(right.Forward(foot), right.Forward(shoulder))
	b := SegmentToHorizontal(left.Forward(mirror(foot)), left.Forward(mirror(shoulder)))
	near(t, "mirrored lean", b, a, 1e-12)
	if back := left.Picture(left.Forward(foot)); back != foot {
		t.Errorf("picture and back: %v", back)
	}
}

// TestJointDoubtOfTheHandbookCase: right angle, arms 100 px, sigma 2 px gives
// 2 sqrt(2/100^2 + 2/100^2) = 0.04 rad (closed form).
func TestJointDoubtOfTheHandbookCase(t *testing.T) {
	sd := IncludedSD(r2.Vec{X: 100}, r2.Vec{}, r2.Vec{Y: 100}, 2)
	near(t, "sd", sd, Deg(0.04), 1e-9)
	near(t, "sd in degrees", sd, 2.29, 0.005)
}

func BenchmarkJoint(b *testing.B) {
	p, v, q := r2.Vec{X: 100, Y: 3}, r2.Vec{X: 1, Y: 2}, r2.Vec{Y: 100}
	for b.Loop() {
		Included(p, v, q)
	}
}

// The slope of a line is the same whichever way it runs, and turns its sign when
// its ends are exchanged.
func TestSlope(t *testing.T) {
	for _, c := range []struct{ dx, dy, want float64 }{{10, 0, 0}, {10, 10, 45}, {-10, 10, 45}, {0, 5, 90}, {10, -10 * math.Sqrt(3), -60}, {-10 * math.Sqrt(3), -10, -30}} {
		a, b := r2.Vec{X: 3, Y: 4}, r2.Vec{X: 3 + c.dx, Y: 4 + c.dy}
		if got := Slope(a, b); math.Abs(got-c.want) > 1e-9 {
			t.Errorf("(%g, %g): %g, want %g", c.dx, c.dy, got, c.want)
		}
		if got := Slope(b, a); math.Abs(got+c.want) > 1e-9 {
			t.Errorf("(%g, %g) exchanged: %g", c.dx, c.dy, got)
		}
	}
}
