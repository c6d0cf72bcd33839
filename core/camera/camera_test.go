package camera_test

import (
	"errors"
	"math"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/body"
	"neokinema/core/camera"
	"neokinema/core/ground"
	"neokinema/core/vec3"
	"neokinema/simcam"
	"neokinema/simcam/points"
)

func same(_ int, p r2.Vec) r2.Vec { return p }

func scene(t *testing.T, place string) simcam.Truth {
	t.Helper()
	sc, err := simcam.New(simcam.Spec{Event: "hammer", Camera: simcam.Camera{Place: place}, Direction: 1, CaptureRate: 120, FileRate: 30, Width: 1280, Height: 720, Athlete: body.Person{Sex: body.Male, Height: 1.84}})
	if err != nil {
		t.Fatal(err)
	}
	return sc.Truth
}

// A circle clicked without error, and how far the camera stood, give the camera back:
// places on the ground and above it show where they are seen.
func TestCameraFromACircle(t *testing.T) {
	for _, place := range []string{"back", "side", "oblique", "front"} {
		truth := scene(t, place)
		for _, c := range []struct{ sigma, focal, ground, high float64 }{{0, 0.03, 0.02, 6}, {2, 0.12, 0.25, 25}} {
			m := *points.Circle(truth, c.sigma, 4)
			eye, err := camera.EstimatePose(m, same, 1280, 720, camera.Hints{})
			if err != nil {
				t.Fatal(place, err)
			}
			if off := math.Abs(eye.Focal/truth.Focal - 1); off > c.focal {
				t.Errorf("%s, clicks off by %g px: focal length %.0f, truth %.0f", place, c.sigma, eye.Focal, truth.Focal)
			}
			if eye.ErrorPx > 1.5*c.sigma+0.3 {
				t.Errorf("%s: marks off by %.1f px", place, eye.ErrorPx)
			}
			for f := 0; f < truth.Positions["release"]; f += 40 {
				fr := truth.Frames[f]
				if toe := fr.Landmarks["left_toe"]; len(fr.Contacts) > 0 && toe.World[1] < 0.05 {
					p, ok := eye.OnLevel(r2.Vec{X: toe.Image[0], Y: toe.Image[1]}, toe.World[1])
					if d := math.Hypot(p.X-toe.World[0], p.Z-toe.World[2]); !ok || d > c.ground {
						t.Errorf("%s, clicks off by %g px: a toe is %.2f m off", place, c.sigma, d)
					}
				}
				ball := fr.Implement["centre"]
				q, ok := eye.Picture(vec3.Vec{X: ball.World[0], Y: ball.World[1], Z: ball.World[2]})
				if d := math.Hypot(q.X-ball.Image[0], q.Y-ball.Image[1]); !ok || d > c.high {
					t.Errorf("%s, clicks off by %g px: the ball shows %.0f px off", place, c.sigma, d)
				}
			}
		}
	}
}

// A pixel's line of sight comes back to the pixel.
func TestRayAndPicture(t *testing.T) {
	eye, err := camera.EstimatePose(*points.Circle(scene(t, "oblique"), 0, 1), same, 1280, 720, camera.Hints{})
	if err != nil {
		t.Fatal(err)
	}
	flat := camera.Orthographic(0.004, -1, r2.Vec{X: 600, Y: 650})
	for _, c := range []*camera.Camera{eye, flat} {
		for _, q := range []r2.Vec{{X: 10, Y: 700}, {X: 640, Y: 360}, {X: 1200, Y: 500}} {
			p := vec3.Add(c.At, vec3.Scale(7, c.Ray(q)))
			if back, ok := c.Picture(p); !ok || r2.Norm(r2.Sub(back, q)) > 1e-6 {
				t.Errorf("%v comes back as %v", q, back)
			}
			if p, ok := c.OnLevel(q, 0.1); ok && c == eye {
				if back, _ := c.Picture(p); r2.Norm(r2.Sub(back, q)) > 1e-6 || math.Abs(p.Y-0.1) > 1e-9 {
					t.Errorf("%v on the level is %v, seen at %v", q, p, back)
				}
			}
			at := vec3.Vec{X: 1, Y: 1, Z: 0.5}
			b := c.Beside(q, at)
			if back, _ := c.Picture(b); r2.Norm(r2.Sub(back, q)) > 1e-6 || math.Abs(vec3.Dot(vec3.Sub(b, at), c.Ahead)) > 1e-6 {
				t.Errorf("beside %v lies %v", at, b)
			}
		}
		if _, ok := c.Picture(vec3.Sub(c.At, c.Ahead)); ok {
			t.Error("what lies behind the camera has a pixel")
		}
	}
	if p := flat.Beside(r2.Vec{X: 500, Y: 550}, vec3.Vec{}); math.Abs(p.X-0.4) > 1e-9 || math.Abs(p.Y-0.4) > 1e-9 {
		t.Errorf("100 px at 4 mm a pixel, to the left and up: %v", p)
	}
}

// Bad marks are refused with what to do.
func TestBadMarks(t *testing.T) {
	m := *points.Circle(scene(t, "back"), 0, 1)
	m.Points = m.Points[:3]
	if _, err := camera.EstimatePose(m, same, 1280, 720, camera.Hints{}); !errors.Is(err, ground.ErrFew) {
		t.Errorf("three places: %v", err)
	}
	m = *points.Circle(scene(t, "back"), 0, 1)
	for i := range m.Points {
		m.Points[i].Right = -m.Points[i].Right // left and right taken for each other
	}
	if eye, err := camera.EstimatePose(m, same, 1280, 720, camera.Hints{}); err == nil && eye.ErrorPx < 20 {
		t.Errorf("a mirrored circle was fitted to %.1f px", eye.ErrorPx)
	}
}

// From far away a circle is seen so flat that an upside-down camera, or one below the
// ground, would see nearly the same: the upright one is found all the same.
func TestFarCameraStaysUpright(t *testing.T) {
	for _, place := range []string{"back", "side", "front", "oblique"} {
		sc, err := simcam.New(simcam.Spec{Event: "discus", Camera: simcam.Camera{Place: place, Distance: 24}, Direction: 1, CaptureRate: 60, FileRate: 30, Width: 1280, Height: 720, Athlete: body.Person{Sex: body.Male, Height: 1.84}})
		if err != nil {
			t.Fatal(err)
		}
		for seed := uint64(1); seed < 9; seed++ {
			near, err := camera.EstimatePose(*points.Circle(scene(t, place), 0, 1), same, 1280, 720, camera.Hints{})
			if err != nil {
				t.Fatal(err)
			}
			eye, err := camera.EstimatePose(*points.Circle(sc.Truth, 2, seed), same, 1280, 720, camera.Hints{})
			if err != nil || eye.Down.Y > -0.9 || vec3.Dot(eye.Ahead, near.Ahead) < 0.95 {
				t.Errorf("%s, clicks of seed %d: %v, %+v", place, seed, err, eye)
			}
		}
	}
}

// A place in the middle of the sector turns azimuth 0: by as much as it lies beside
// the line that the circle's own marks give.
func TestAimByHand(t *testing.T) {
	m := *points.Circle(scene(t, "oblique"), 0, 1)
	plain, err := camera.EstimatePose(m, same, 1280, 720, camera.Hints{})
	if err != nil {
		t.Fatal(err)
	}
	for _, degrees := range []float64{-20, 0, 35} {
		s, c := math.Sincos(degrees * math.Pi / 180)
		far := vec3.Vec{X: 3 * c, Z: 3 * s}
		q, ok := plain.Picture(far)
		if !ok {
			t.Fatal("the place is behind the camera")
		}
		m.Aim = &ground.Aim{X: q.X, Y: q.Y}
		eye, err := camera.EstimatePose(m, same, 1280, 720, camera.Hints{})
		if err != nil {
			t.Fatal(err)
		}
		p, _ := eye.OnLevel(q, 0)
		if math.Abs(p.X-3) > 1e-6 || math.Abs(p.Z) > 1e-6 {
			t.Errorf("%g degrees: what lies in the middle of the sector is at %v", degrees, p)
		}
		back, _ := eye.Picture(vec3.Vec{X: 3})
		if r2.Norm(r2.Sub(back, q)) > 1e-6 || math.Abs(eye.At.Y-plain.At.Y) > 1e-9 {
			t.Errorf("%g degrees: the camera moved otherwise", degrees)
		}
	}
	q, _ := plain.Picture(vec3.Vec{X: 0.3})
	m.Aim = &ground.Aim{X: q.X, Y: q.Y}
	if _, err := camera.EstimatePose(m, same, 1280, 720, camera.Hints{}); !errors.Is(err, camera.ErrAim) {
		t.Errorf("a place in the circle: %v", err)
	}
	m.Aim = &ground.Aim{X: 600, Y: -4000}
	if _, err := camera.EstimatePose(m, same, 1280, 720, camera.Hints{}); !errors.Is(err, camera.ErrAim) {
		t.Errorf("a place in the sky: %v", err)
	}
}
