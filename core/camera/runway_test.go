package camera_test

import (
	"errors"
	"math"
	"slices"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/camera"
	"neokinema/core/ground"
	"neokinema/simcam"
	"neokinema/simcam/points"
	"neokinema/simcam/study"
)

// runway is an attempt at a jump whose whole ground shows, from a camera that stands still.
func runway(t *testing.T, event string, above float64) (study.Attempt, ground.ControlPoints, [3]float64) {
	t.Helper()
	list, err := study.DrawOf(study.Build, 1, 0, event)
	if err != nil {
		t.Fatal(err)
	}
	a, err := list[0].From(func(c *simcam.Camera) { c.Above, c.Distance, c.Pan, c.Turned = above, 14, false, 0 })
	if err != nil {
		t.Fatal(err)
	}
	m, origin := points.Marks(a.Scene, 1, 7)
	if m == nil {
		t.Fatalf("the ground of %s does not show", event)
	}
	return a, *m, [3]float64{origin.X, origin.Y, origin.Z}
}

// standingToes are how far toes that stand are off their true places, m, along the run and over
// all.
func standingToes(t *testing.T, a study.Attempt, eye *camera.Camera, origin [3]float64) (along, all float64) {
	t.Helper()
	tr := a.Scene.Truth
	for f := 0; f < tr.Positions["to"]; f += 5 {
		for _, side := range tr.Frames[f].Contacts {
			toe := tr.Frames[f].Landmarks[side+"_toe"]
			p, ok := eye.OnLevel(r2.Vec{X: toe.Image[0], Y: toe.Image[1]}, toe.World[1])
			if !ok {
				t.Fatalf("a standing foot shows above the horizon at frame %d", f)
			}
			dx, dz := p.X-toe.World[0]+origin[0], p.Z-toe.World[2]+origin[2]
			along, all = math.Max(along, math.Abs(dx)), math.Max(all, math.Hypot(dx, dz))
		}
	}
	return along, all
}

// Board, box and bar give a camera that puts feet where they stand; the edges of a runway count
// though nobody knows where along them they were clicked.
func TestCameraFromARunway(t *testing.T) {
	for _, c := range []struct {
		event      string
		above      float64
		along, all float64
	}{{"high-jump", 3, 0.15, 0.3}, {"pole-vault", 2, 0.45, 0.6}, {"high-jump", 1.5, 0.3, 0.7}} {
		a, m, origin := runway(t, c.event, c.above)
		s := a.Spec
		eye, err := camera.EstimatePose(m, same, s.Width, s.Height, camera.Hints{})
		if err != nil {
			t.Fatalf("%s: %v", c.event, err)
		}
		if along, all := standingToes(t, a, eye, origin); along > c.along || all > c.all {
			t.Errorf("%s from %g m: feet off by %.2f m along, %.2f m in all", c.event, c.above, along, all)
		}
		if len(eye.Near) != 7 || !(eye.Doubt(func(k *camera.Camera) float64 { return k.Focal }) > 0) {
			t.Errorf("%s: %d cameras about it", c.event, len(eye.Near))
		}
		plane, err := eye.Plane()
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range m.Points {
			if q := plane.Picture(r2.Vec{X: p.Along, Y: p.Right}); !p.Loose() && p.Up == 0 && math.Hypot(q.X-p.X, q.Y-p.Y) > 12 {
				t.Errorf("%s: %s shows at %v, clicked at %.0f %.0f", c.event, p.Name, q, p.X, p.Y)
			}
		}
	}
}

// Two uprights and a bar whose height is known stand for four places on the ground.
func TestCameraFromUprightsAlone(t *testing.T) {
	a, m, _ := runway(t, "high-jump", 3)
	m.Points = slices.DeleteFunc(m.Points, func(p ground.ControlPoint) bool { return p.Right != 0 })
	s := a.Spec
	if _, err := camera.EstimatePose(m, same, s.Width, s.Height, camera.Hints{}); err != nil || len(m.Points) != 4 {
		t.Errorf("%d places: %v", len(m.Points), err)
	}
	m.Points = m.Points[:3]
	if _, err := camera.EstimatePose(m, same, s.Width, s.Height, camera.Hints{}); !errors.Is(err, ground.ErrFew) {
		t.Errorf("one end of the bar: %v", err)
	}
}

// Who passes over a board whose camera never turned tells its scale, and the camera is surer of it.
func TestScaleOfWhoPasses(t *testing.T) {
	a, m, _ := runway(t, "pole-vault", 2)
	s := a.Spec
	alone, err := camera.EstimatePose(m, same, s.Width, s.Height, camera.Hints{})
	if err != nil {
		t.Fatal(err)
	}
	scale := alone.Scale(alone.At) // behind the camera's own place there is none
	if !math.IsInf(scale, 0) {
		t.Errorf("a scale of %g at the lens", scale)
	}
	told, err := camera.EstimatePose(m, same, s.Width, s.Height, camera.Hints{Scale: a.Scene.Truth.Focal / 14, ScaleSD: 0.01})
	if err != nil || told.ScaleSD >= alone.ScaleSD {
		t.Errorf("scale within %.3f where it is told, %.3f where it is not: %v", told.ScaleSD, alone.ScaleSD, err)
	}
}
