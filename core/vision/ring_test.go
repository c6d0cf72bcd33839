package vision_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/spatial/r2"

	"neokinema/core/vision"
)

// drawnRing is a level ground with a white ring and, when wanted, dividing lines, as a camera
// 14 m away and 1.7 m high sees it, with noise.
func drawnRing(radius, turned float64, lines bool, noise float64, seed uint64) (g vision.Gray, project func(along, right float64) r2.Vec) {
	const w, h, focal = 640, 360, 1150.0
	const away, high = 14.0, 1.7
	pitch := math.Atan2(high, away) - 0.07
	ps, pc := math.Sincos(pitch)
	ts, tc := math.Sincos(turned)
	project = func(along, right float64) r2.Vec {
		z, x := along*tc-right*ts+away, along*ts+right*tc
		down := high
		return r2.Vec{X: w/2 + focal*x/(z*pc+down*ps), Y: h/2 + focal*(down*pc-z*ps)/(z*pc+down*ps)}
	}
	// What lies on the ground at a place of the picture: 1 on a line.
	white := func(u, v float64) float64 {
		if v*pc+ps <= 0 {
			return 0
		}
		z := high * (pc - v*ps) / (v*pc + ps)
		x := u * (z*pc + high*ps)
		along, right := (z-away)*tc+x*ts, x*tc-(z-away)*ts
		if d := math.Hypot(along, right); radius > 0 && d >= radius && d <= radius+0.06 {
			return 1
		}
		if d := math.Abs(right); lines && math.Abs(along) < 0.025 && d > radius && d < radius+0.75 {
			return 1
		}
		return 0
	}
	g = vision.Gray{W: w, H: h, Pix: make([]float32, w*h)}
	r := rand.New(rand.NewPCG(seed, 1))
	for i := range g.Pix {
		sum := 0.0
		for k := range 16 {
			u := (float64(i%w) - 0.375 + 0.25*float64(k%4) - w/2) / focal
			v := (float64(i/w) - 0.375 + 0.25*float64(k/4) - h/2) / focal
			sum += white(u, v) / 16
		}
		g.Pix[i] = float32(90 + 12*math.Sin(float64(i%w)/17) + 80*sum + noise*r.NormFloat64())
	}
	return g, project
}

// A ring is found to a pixel, also where the camera stands some way round it; and so are the
// diameters that the dividing lines show.
func TestARingIsFound(t *testing.T) {
	const radius = 1.0675
	for _, turned := range []float64{0, 0.12, -0.2, math.Pi / 2} {
		for _, lines := range []bool{true, false} {
			g, project := drawnRing(radius, turned, lines, 1.6, 3)
			middle := project(0, 0)
			guess := vision.RingGuess{About: r2.Add(middle, r2.Vec{X: 14, Y: -3}), A: 1.2 * 1150 * radius / 14}
			ring, ok := vision.FindRing(g, guess)
			if !ok {
				t.Errorf("turned by %.2f: no ring is found", turned)
				continue
			}
			for k := range 24 {
				s, c := math.Sincos(2 * math.Pi * float64(k) / 24)
				want, near := project(radius*c, radius*s), math.Inf(1)
				for a := range 720 {
					near = math.Min(near, r2.Norm(r2.Sub(ring.On(float64(a)*math.Pi/360), want)))
				}
				if near > 2 {
					t.Errorf("turned by %.2f: the rim is %.1f px off at %d", turned, near, k)
				}
			}
			if !lines {
				if len(ring.Lines) > 0 {
					t.Errorf("turned by %.2f: lines are seen where none are", turned)
				}
				continue
			}
			if len(ring.Lines) != 2 {
				t.Errorf("turned by %.2f: the dividing lines are not seen", turned)
				continue
			}
			one, other := ring.Diameters(radius / 14)
			for name, ends := range map[string][2][2]r2.Vec{"dividing": {one, {project(0, -radius), project(0, radius)}}, "throw": {other, {project(-radius, 0), project(radius, 0)}}} {
				got, want := ends[0], ends[1]
				if r2.Norm(r2.Sub(got[0], want[0])) > r2.Norm(r2.Sub(got[1], want[0])) {
					got[0], got[1] = got[1], got[0]
				}
				for i := range got {
					if d := r2.Norm(r2.Sub(got[i], want[i])); d > 3.5 {
						t.Errorf("turned by %.2f: an end of the %s diameter is %.1f px off", turned, name, d)
					}
				}
			}
		}
	}
}

// Nothing is found where there is no ring: on plain ground, and on one with straight lines.
func TestNoRingIsMadeUp(t *testing.T) {
	g, _ := drawnRing(0, 0, false, 3, 5)
	for y := 20; y < g.H; y += 26 {
		for x := range g.W {
			g.Pix[y*g.W+x] = 180
		}
	}
	if ring, ok := vision.FindRing(g, vision.RingGuess{About: r2.Vec{X: 240, Y: 160}, A: 50}); ok {
		t.Errorf("found %+v", ring)
	}
	if _, ok := vision.FindRing(g, vision.RingGuess{About: r2.Vec{X: 240, Y: 160}, A: math.NaN()}); ok {
		t.Error("a ring without a size is found")
	}
	if _, ok := vision.FindRing(g, vision.RingGuess{About: r2.Vec{X: 240, Y: 160}, A: math.Inf(1)}); ok {
		t.Error("a ring without an end is found")
	}
}
