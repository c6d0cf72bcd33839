package approach_test

import (
	"errors"
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/approach"
	"neokinema/core/body"
	"neokinema/core/camera"
	"neokinema/core/throw"
	"neokinema/core/vec3"
)

// above is a camera on a stand that looks down at the ground beside the run.
func above() *camera.Camera {
	c := &camera.Camera{At: vec3.Vec{X: 2, Y: 6, Z: 14}, Focal: 1500, Middle: r2.Vec{X: 640, Y: 360}}
	c.Ahead = vec3.Unit(vec3.Sub(vec3.Vec{X: -3, Y: 0.5, Z: -1}, c.At))
	c.Right = vec3.Unit(vec3.Cross(c.Ahead, vec3.Vec{Y: 1}))
	c.Down = vec3.Cross(c.Ahead, c.Right)
	return c
}

// onCircle are six feet of a run on a circle of 9 m at 7 m/s, left and right of the way, the last
// one a left foot at the origin that goes along.
func onCircle(c *camera.Camera, radius, speed, half, sigma float64, r *rand.Rand) (feet []approach.Foot, places []r2.Vec) {
	const step = 1.8
	for i := range 6 {
		back := step * float64(5-i)
		a := back / radius
		side, off := body.Left, half
		if i%2 == 0 {
			side, off = body.Right, -half
		}
		// The middle of the curve lies to the left.
		in := r2.Vec{X: -math.Sin(a), Y: -math.Cos(a)}
		in.X = -in.X
		p := r2.Add(r2.Vec{X: -radius * math.Sin(a), Y: -radius + radius*math.Cos(a)}, r2.Scale(off, in))
		q, _ := c.Picture(vec3.Vec{X: p.X, Y: body.SoleHeight, Z: p.Y})
		feet = append(feet, approach.Foot{Side: side, From: 40 * i, To: 40*i + 16, On: -back / speed, OnSD: 0.002, Toe: r2.Vec{X: q.X + sigma*r.NormFloat64(), Y: q.Y + sigma*r.NormFloat64()}, Sigma: math.Max(sigma, 0.1)})
		places = append(places, p)
	}
	return feet, places
}

// A point that runs 7.0 m/s on 9 m leans by 29.0 degrees: tan lean = v2 / (g r). A body leans
// less, since it runs inside of its feet and so more slowly on a smaller circle.
func TestLeanOfACurve(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	c := above()
	feet, _ := onCircle(c, 9, 7, 0.05, 0, r)
	for _, want := range []struct{ tall, lean float64 }{{1e-6, 29.0}, {1.8, 27.6}} {
		run, err := approach.New(c, feet, want.tall)
		if err != nil {
			t.Fatal(err)
		}
		v, err := run.Curve()
		if err != nil {
			t.Fatal(err)
		}
		if math.Abs(v.Radius.Value-9) > 0.1 || math.Abs(v.Speed.Value-7) > 0.05 || !v.Left || math.Abs(v.Heading.Value) > 1 {
			t.Errorf("radius %.2f, speed %.2f, left %v, heading %.1f", v.Radius.Value, v.Speed.Value, v.Left, v.Heading.Value)
		}
		if want.tall < 0.1 && math.Abs(v.Lean.Value-want.lean) > 0.4 {
			t.Errorf("a point leans %.1f degrees, not %.1f", v.Lean.Value, want.lean)
		}
		// Held against the balance itself: of the body's own circle and speed.
		h := 0.54 * want.tall
		own := 9 - h*math.Sin(v.Lean.Value*math.Pi/180)
		if balance := math.Atan(math.Pow(7.0/9*own, 2)/(body.Gravity*own)) * 180 / math.Pi; math.Abs(v.Lean.Value-balance) > 0.4 {
			t.Errorf("leans %.2f, and the balance asks for %.2f", v.Lean.Value, balance)
		}
	}
}

// Places, steps, radius and lean hold what is true within their doubt.
func TestDoubtOfARunUp(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 1))
	c := above()
	inside, all := 0, 0
	hold := func(v, half, truth float64) {
		all++
		if math.Abs(v-truth) <= half {
			inside++
		}
	}
	for range 60 {
		feet, places := onCircle(c, 9, 7, 0.06, 1.5, r)
		run, err := approach.New(c, feet, 1.8)
		if err != nil {
			t.Fatal(err)
		}
		for i, p := range places {
			x, z := run.Place(i)
			hold(x.Value, x.Half95, p.X)
			hold(z.Value, z.Half95, p.Y)
			if i > 0 {
				long, _ := run.Step(i - 1)
				hold(long.Value, long.Half95, r2.Norm(r2.Sub(p, places[i-1])))
			}
		}
		if v, err := run.Curve(); err == nil {
			hold(v.Radius.Value, v.Radius.Half95, 9)
			hold(v.Speed.Value, v.Speed.Half95, 7)
		}
	}
	if share := float64(inside) / float64(all); share < 0.93 {
		t.Errorf("%d of %d hold the truth", inside, all)
	}
}

// The lean that is seen from the end of the run is that of the body.
func TestLeanSeen(t *testing.T) {
	c := above()
	c.At = vec3.Vec{X: 10, Y: 1.6, Z: -2}
	c.Ahead = vec3.Unit(vec3.Sub(vec3.Vec{X: -3, Y: 0.8, Z: -1}, c.At))
	c.Right = vec3.Unit(vec3.Cross(c.Ahead, vec3.Vec{Y: 1}))
	c.Down = vec3.Cross(c.Ahead, c.Right)
	r := rand.New(rand.NewPCG(3, 1))
	feet, places := onCircle(c, 9, 7, 0.05, 0, r)
	run, err := approach.New(c, feet, 1.8)
	if err != nil {
		t.Fatal(err)
	}
	const lean = 24.0
	sin, cos := math.Sincos(lean * math.Pi / 180)
	for i := 2; i < 5; i++ {
		a := 1.8 * float64(5-i) / 9
		in := r2.Vec{X: math.Sin(a), Y: -math.Cos(a)}
		centre := vec3.Vec{X: places[i].X + sin*in.X, Y: cos, Z: places[i].Y + sin*in.Y}
		q, _ := c.Picture(centre)
		v, err := run.Lean(i, q, 1)
		if err != nil || math.Abs(v.Value-lean) > 1 || v.SD > 4.5 {
			t.Errorf("foot %d: %.1f with %.1f, not %.1f: %v", i, v.Value, v.SD, lean, err)
		}
	}
	// From beside it does not show.
	c = above()
	c.At = vec3.Vec{X: 0, Y: 1.6, Z: 14}
	c.Ahead = vec3.Vec{Z: -1}
	c.Right, c.Down = vec3.Vec{X: 1}, vec3.Vec{Y: -1}
	feet, _ = onCircle(c, 9, 7, 0.05, 0, r)
	if run, err = approach.New(c, feet, 1.8); err != nil {
		t.Fatal(err)
	}
	if _, err := run.Lean(4, r2.Vec{X: 600, Y: 300}, 1); !errors.Is(err, approach.ErrAlong) {
		t.Errorf("seen from beside: %v", err)
	}
}

func TestWhatMakesNoCurve(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 1))
	c := above()
	feet, _ := onCircle(c, 5000, 7, 0.05, 1, r)
	run, err := approach.New(c, feet, 1.8)
	if err != nil {
		t.Fatal(err)
	}
	if v, err := run.Curve(); !errors.Is(err, approach.ErrStraight) {
		t.Errorf("a straight run bends with %.0f m: %v", v.Radius.Value, err)
	}
	if run, err = approach.New(c, feet[:3], 1.8); err != nil {
		t.Fatal(err)
	}
	if _, err := run.Curve(); !errors.Is(err, approach.ErrShort) {
		t.Errorf("three feet: %v", err)
	}
	if _, err := approach.New(c, feet[:1], 1.8); !errors.Is(err, approach.ErrFew) {
		t.Errorf("one foot: %v", err)
	}
	feet[2].Toe.Y = -4000
	if _, err := approach.New(c, feet, 1.8); !errors.Is(err, approach.ErrHorizon) {
		t.Errorf("a foot in the sky: %v", err)
	}
}

// A body that flies free tells where it is and how fast, since gravity is known: H2 = vz2 / 2g.
func TestFlight(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 1))
	c := above()
	feet, places := onCircle(c, 9, 7, 0.05, 1, r)
	run, err := approach.New(c, feet, 1.8)
	if err != nil {
		t.Fatal(err)
	}
	at, v := vec3.Vec{X: places[5].X, Y: 1.15, Z: places[5].Y}, vec3.Vec{X: 3.4, Y: 4.1, Z: 1}
	free := throw.FreeFlight{Rate: 120, Frames: 400, Pixel: func(f int) (r2.Vec, float64, bool) {
		s := float64(f-300) / 120
		q, _ := c.Picture(vec3.Vec{X: at.X + s*v.X, Y: at.Y + s*v.Y - body.Gravity*s*s/2, Z: at.Z + s*v.Z})
		return r2.Vec{X: q.X + r.NormFloat64(), Y: q.Y + r.NormFloat64()}, 1, f >= 300
	}}
	f, err := run.Flight(free, 300, 380)
	if err != nil {
		t.Fatal(err)
	}
	level := math.Hypot(v.X, v.Z)
	for _, x := range []struct {
		what             string
		v, half95, truth float64
	}{
		{"speed", f.Speed.Value, f.Speed.Half95, level}, {"upward", f.Upward.Value, f.Upward.Half95, 4.1}, {"height", f.Height.Value, f.Height.Half95, 1.15},
		{"angle", f.Angle.Value, f.Angle.Half95, math.Atan2(4.1, level) * 180 / math.Pi}, {"top", f.Top.Value, f.Top.Half95, 1.15 + 4.1*4.1/(2*body.Gravity)},
	} {
		if math.Abs(x.v-x.truth) > x.half95 || x.half95 > 0.1*math.Abs(x.truth)+0.25 {
			t.Errorf("%s %.3f with %.3f, not %.3f", x.what, x.v, x.half95, x.truth)
		}
	}
	if _, err := run.Flight(free, 100, 180); !errors.Is(err, approach.ErrNoFlight) {
		t.Errorf("nobody is seen: %v", err)
	}
	stands := free
	stands.Pixel = func(f int) (r2.Vec, float64, bool) {
		q, _ := c.Picture(vec3.Vec{X: float64(f-300) / 20, Y: 1})
		return q, 1, true
	}
	if _, err := run.Flight(stands, 300, 380); !errors.Is(err, approach.ErrFall) {
		t.Errorf("somebody who runs on flies: %v", err)
	}
}

// The way that is drawn goes by the feet.
func TestWayOfACurve(t *testing.T) {
	c := above()
	feet, places := onCircle(c, 9, 7, 0.05, 0, rand.New(rand.NewPCG(6, 1)))
	run, err := approach.New(c, feet, 1.8)
	if err != nil {
		t.Fatal(err)
	}
	v, err := run.Curve()
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range places[1:] {
		near := math.Inf(1)
		for _, q := range v.Way {
			near = math.Min(near, math.Hypot(q[0]-p.X, q[1]-p.Y))
		}
		if near > 0.25 {
			t.Errorf("a foot at %.2f, %.2f lies %.2f m off the way %v", p.X, p.Y, near, v.Way)
		}
	}
}

// A shoe in the picture lies where the ground is seen there, as surely as its pixel is; one in the
// sky nowhere.
func TestAlong(t *testing.T) {
	c := above()
	feet, places := onCircle(c, 9, 7, 0.05, 0, rand.New(rand.NewPCG(7, 1)))
	run, err := approach.New(c, feet, 1.8)
	if err != nil {
		t.Fatal(err)
	}
	for i, p := range places {
		v, ok := run.Along(feet[i].Toe, 2)
		if !ok || math.Abs(v.Value-p.X) > 1e-6 || v.SD < 0.01 || v.SD > 0.2 {
			t.Errorf("%.3f with %.3f, not %.3f: %v", v.Value, v.SD, p.X, ok)
		}
		if half, _ := run.Along(feet[i].Toe, 1); math.Abs(half.SD-v.SD/2) > 0.1*v.SD {
			t.Errorf("half of the scatter leaves %.3f of %.3f", half.SD, v.SD)
		}
	}
	if v, ok := run.Along(r2.Vec{X: 600, Y: -4000}, 2); ok {
		t.Errorf("a shoe in the sky lies at %.1f", v.Value)
	}
	if h := run.Heading(0, 5); math.Abs(h.Value) > 60 || h.SD <= 0 {
		t.Errorf("heading %.1f with %.2f", h.Value, h.SD)
	}
}
